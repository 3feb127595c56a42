"""Trying settings on a live line: the raw lines, beside what each setting makes of them."""

from __future__ import annotations

import re
import time
from collections.abc import Sequence
from dataclasses import dataclass

from bruiser.rig.protocol import BadLine, SampleLine, parse_line
from bruiser.rig.serial.line import SerialLine
from bruiser.rig.serial.passive import PassiveSettings, Understood, understand


@dataclass(frozen=True, kw_only=True)
class ProbedPort:
    """What a line gave at a baud rate."""

    baud: int
    raw: tuple[str, ...]
    understood: tuple[Understood, ...]
    protocol_lines: int

    @property
    def share(self) -> float:
        """Share of the lines that were understood, by either reading."""
        if not self.raw:
            return 0.0
        read = sum(u.load_n is not None for u in self.understood)
        return max(read, self.protocol_lines) / len(self.raw)


def listen(path: str, baud: int, settings: PassiveSettings, seconds: float = 0.5) -> ProbedPort:
    """Listen to a line and read it both ways; the first, cut line is left out."""
    line = SerialLine(path, baud)
    data = b""
    until = time.monotonic() + seconds
    try:
        while time.monotonic() < until:
            data += line.read(0.02)
    finally:
        line.close()
    raw = [x for x in re.split(rb"[\r\n]+", data) if x][1:]
    texts = tuple(x.decode("ascii", "backslashreplace") for x in raw)
    pattern = settings.compiled()
    lines = [parse_line(x) for x in raw]
    ours = sum(not isinstance(x, BadLine) for x in lines)
    if ours > len(raw) / 2:
        loads = (x.load_n if isinstance(x, SampleLine) else None for x in lines)
        read = tuple(Understood(t, n) for t, n in zip(texts, loads, strict=True))
        return ProbedPort(baud=baud, raw=texts, understood=read, protocol_lines=ours)
    return ProbedPort(
        baud=baud,
        raw=texts,
        understood=tuple(understand(t, settings, pattern) for t in texts),
        protocol_lines=ours,
    )


def best(tried: Sequence[ProbedPort]) -> ProbedPort | None:
    """The setting that understood most, if it understood half of what came."""
    found = max(tried, key=lambda t: (t.share, len(t.raw)), default=None)
    return found if found is not None and found.share > 0.5 else None
