"""How far a command is, told on stderr and only to somebody who looks."""

from __future__ import annotations

import sys
import time

from bruiser.core.progress import Progress, no_progress

_EVERY_S = 0.2


def terminal_progress(what: str) -> Progress:
    """A progress that writes one line over and over; none where stderr is no terminal."""
    if not sys.stderr.isatty():
        return no_progress
    last = 0.0

    def tell(done: int, whole: int) -> None:
        nonlocal last
        now = time.monotonic()
        if now - last >= _EVERY_S:
            last = now
            sys.stderr.write(f"\r{what}: {done} of {whole} ")
            sys.stderr.flush()

    return tell
