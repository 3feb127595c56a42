"""What happens to a bug: a report is saved, the data stays safe, the person is told once."""

from __future__ import annotations

import logging
import sys
import threading
import traceback
from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from types import TracebackType

from PyQt6.QtCore import QObject, pyqtSignal

from bruiser import __version__
from bruiser.app.paths import report_path
from bruiser.core.errors import BruiserError

log = logging.getLogger(__name__)


def write_report(
    kind: type[BaseException], error: BaseException, trace: TracebackType | None
) -> Path | None:
    """Save a report of an unexpected error and return its path; None where nothing can be saved."""
    stamp = datetime.now().strftime("%Y%m%d-%H%M%S-%f")
    text = "".join(traceback.format_exception(kind, error, trace))
    try:
        path = report_path() / f"report-{stamp}.txt"
        path.write_text(f"Bruiser {__version__}\n\n{text}", encoding="utf-8")
    except OSError:
        log.warning("no report could be written")
        return None
    return path


class _Teller(QObject):
    """Brings what happened on any thread to the one that may show it."""

    told = pyqtSignal(object)
    meant = pyqtSignal(object)


def install_crash_hook(
    tell: Callable[[Path | None], None], say: Callable[[BruiserError], None] | None = None
) -> None:
    """Send unexpected errors, of every thread, to a report and to `tell` on this thread.

    An error that a person can act on is no bug, wherever it comes from: `say` shows it.
    """
    teller = _Teller()
    teller.told.connect(tell)
    if say is not None:
        teller.meant.connect(say)

    def hook(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        if issubclass(kind, KeyboardInterrupt):
            sys.__excepthook__(kind, error, trace)
            return
        if isinstance(error, BruiserError) and say is not None:
            log.error("not handled where it arose", exc_info=(kind, error, trace))
            teller.meant.emit(error)
            return
        log.critical("unexpected error", exc_info=(kind, error, trace))
        teller.told.emit(write_report(kind, error, trace))

    def thread_hook(ended: threading.ExceptHookArgs) -> None:
        if ended.exc_value is not None:
            hook(ended.exc_type, ended.exc_value, ended.exc_traceback)

    sys.excepthook = hook
    threading.excepthook = thread_hook


def crash_words(report: Path | None) -> str:
    """What is said of an unexpected error."""
    where = "No report could be written." if report is None else f"Report: {report}"
    return f"Something unexpected happened. What was stored is safe. {where}"
