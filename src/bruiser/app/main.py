"""Starts the window: ``bruiser FILE``, ``bruiser --demo``."""

from __future__ import annotations

import argparse
import logging
import os
import sys
import tempfile
from contextlib import suppress
from pathlib import Path
from typing import TYPE_CHECKING

from bruiser.app.paths import fetch_demo, log_path
from bruiser.core.errors import BruiserError

if TYPE_CHECKING:
    from PyQt6.QtWidgets import QApplication


def parse(arguments: list[str] | None = None) -> argparse.Namespace:
    """Read the command line."""
    parser = argparse.ArgumentParser(prog="bruiser", description="Pull-test knots, honestly rated.")
    parser.add_argument("file", nargs="?", type=Path, help="a campaign (.bruiser)")
    parser.add_argument("--demo", action="store_true", help="open the demo campaign")
    parser.add_argument("--fresh", action="store_true", help="start the demo over")
    parser.add_argument("--dark", action="store_true", help="start in the dark theme")
    parser.add_argument(
        "--exit-when-shown", action="store_true", help="open, paint the window once, and end"
    )
    parser.add_argument("--pictures", type=Path, help="without a display: where pictures go")
    return parser.parse_args(arguments)


def has_display() -> bool:
    """Whether there is a screen to show a window on."""
    return bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))


def main(arguments: list[str] | None = None) -> int:
    """Open the window; without a display run one pull off-screen and write pictures."""
    options = parse(arguments)
    keep_log()
    if options.file is None and not options.demo:
        print("Name a campaign file, or use --demo.", file=sys.stderr)
        return 2
    if not has_display() and not options.exit_when_shown:
        return _without_display(options)
    return _with_window(options)


def _file(options: argparse.Namespace) -> Path:
    if options.demo:
        return fetch_demo(fresh=options.fresh)
    return Path(options.file)


def _without_display(options: argparse.Namespace) -> int:
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from PyQt6.QtWidgets import QApplication

    from bruiser.app.offscreen import run_offscreen
    from bruiser.ui.theme.theme import dress

    folder = options.pictures or Path(tempfile.mkdtemp(prefix="bruiser-pictures-"))
    print(f"No display found: pulling one specimen off-screen, pictures go to {folder}")
    app = QApplication(sys.argv[:1])
    dress(app, "pitch" if options.dark else "chalk")
    try:
        for path in run_offscreen(app, _file(options), folder):
            print(path)
    except BruiserError as error:
        print(error, file=sys.stderr)
        return 1
    return 0


def _with_window(options: argparse.Namespace) -> int:
    from PyQt6.QtWidgets import QApplication

    return show_window(QApplication(sys.argv[:1]), options)


def keep_log() -> None:
    """Write a log, where one can be written; a disk that fills up later is no reason to stop."""
    logging.raiseExceptions = False
    try:
        handler: logging.Handler = logging.FileHandler(log_path(), encoding="utf-8")
    except OSError:
        handler = logging.NullHandler()
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
    root = logging.getLogger()
    root.setLevel(logging.INFO)
    root.addHandler(handler)


def show_window(app: QApplication, options: argparse.Namespace) -> int:
    """Open the campaign in a window and stay until it is closed; 1 if it cannot be opened."""
    from PyQt6.QtCore import QTimer
    from PyQt6.QtWidgets import QMessageBox

    from bruiser.app.crash import install_crash_hook
    from bruiser.app.window import MainWindow
    from bruiser.ui.theme.theme import dress
    from bruiser.workshop.logbook.workshop import open_workshop

    app.setApplicationName("Bruiser")
    dress(app, "pitch" if options.dark else "chalk")
    windows: list[MainWindow] = []

    def tell(report: Path | None) -> None:
        where = "No report could be written." if report is None else f"Report: {report}"
        said = f"Something unexpected happened. What was stored is safe. {where}"
        for window in windows:
            window.say(said)
        if not windows:
            with suppress(OSError):
                print(said, file=sys.stderr)

    def say(error: BruiserError) -> None:
        for window in windows:
            window.show_error(error)

    install_crash_hook(tell, say)
    try:
        workshop = open_workshop(_file(options))
    except BruiserError as error:
        QMessageBox.warning(None, "Bruiser", f"{error.headline}\n{error.remedy}")
        with suppress(OSError):
            print(error, file=sys.stderr)
        return 1
    windows.append(MainWindow(workshop))
    windows[0].show()
    if options.exit_when_shown:
        windows[0].repaint()
        QTimer.singleShot(0, windows[0].close)
    return app.exec()


if __name__ == "__main__":
    sys.exit(main())
