"""What happens to a bug: a report is saved, the data stays safe, the person is told once."""

from __future__ import annotations

import logging
import sys
import traceback
from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from types import TracebackType

from bruiser import __version__
from bruiser.app.paths import report_path

log = logging.getLogger(__name__)


def write_report(
    kind: type[BaseException], error: BaseException, trace: TracebackType | None
) -> Path:
    """Save a report of an unexpected error and return its path."""
    stamp = datetime.now().strftime("%Y%m%d-%H%M%S-%f")
    path = report_path() / f"report-{stamp}.txt"
    text = "".join(traceback.format_exception(kind, error, trace))
    path.write_text(f"Bruiser {__version__}\n\n{text}", encoding="utf-8")
    return path


def install_crash_hook(tell: Callable[[Path], None]) -> None:
    """Send unexpected errors to a report and to `tell`."""

    def hook(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        if issubclass(kind, KeyboardInterrupt):
            sys.__excepthook__(kind, error, trace)
            return
        log.critical("unexpected error", exc_info=(kind, error, trace))
        tell(write_report(kind, error, trace))

    sys.excepthook = hook
