"""Starts the window: ``bruiser FILE``, ``bruiser --demo``."""

from __future__ import annotations

import argparse
import logging
import os
import sys
import tempfile
from contextlib import suppress
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from bruiser.app.paths import fetch_demo, log_path
from bruiser.core.errors import BruiserError
from bruiser.store.server.address import is_address

if TYPE_CHECKING:
    from PyQt6.QtWidgets import QApplication

    from bruiser.app.opener import Opener


def parse(arguments: list[str] | None = None) -> argparse.Namespace:
    """Read the command line."""
    parser = argparse.ArgumentParser(prog="bruiser", description="Pull-test knots, honestly rated.")
    parser.add_argument(
        "file", nargs="?", help="a campaign (.bruiser), or its address (postgresql://…)"
    )
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

    if options.file is None and not options.demo:
        print("No display found. Name a campaign file, or use --demo.", file=sys.stderr)
        return 2
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
    """Show the start page or a campaign, and stay until it is closed; 1 if it cannot be opened.

    A window that is there already is handed the file, and comes to the front.
    """
    from PyQt6.QtCore import QTimer
    from PyQt6.QtWidgets import QMessageBox

    from bruiser.app.crash import crash_words, install_crash_hook
    from bruiser.app.look import dress_as
    from bruiser.app.one_instance import Meeting, hand_over
    from bruiser.app.opener import Opener
    from bruiser.ui.runtime.preferences import read_preferences
    from bruiser.ui.theme.theme import dress

    app.setApplicationName("Bruiser")
    if not options.exit_when_shown and hand_over(_wanted(options)):
        return 0
    preferences = read_preferences()
    dress(app)
    dress_as(replace(preferences, theme="pitch") if options.dark else preferences)
    opener = Opener(preferences, remembers=not options.exit_when_shown)

    def tell(report: Path | None) -> None:
        if opener.shown is not None:
            opener.tell_of_crash(report)
        else:
            with suppress(OSError):
                print(crash_words(report), file=sys.stderr)

    install_crash_hook(tell, lambda error: opener.say(str(error)))
    if options.file is None and not options.demo:
        opener.show_start()
    elif not _open(opener, options):
        if options.exit_when_shown:
            return 1
        words = opener.refused
        QMessageBox.warning(None, "Bruiser", words)
        with suppress(OSError):
            print(words, file=sys.stderr)
        return 1
    if options.exit_when_shown and opener.shown is not None:
        opener.shown.repaint()
        QTimer.singleShot(0, opener.quit)
        return app.exec()
    meeting = Meeting(lambda path: opener.come_for(path))
    code = app.exec()
    meeting.close()
    return code


def _wanted(options: argparse.Namespace) -> str:
    """What a start asks of the window that is there."""
    if options.demo:
        return "--demo"
    if options.file is None:
        return ""
    return options.file if is_address(options.file) else str(Path(options.file).absolute())


def _open(opener: Opener, options: argparse.Namespace) -> bool:
    if options.demo:
        return opener.open_demo(fresh=options.fresh, tour=not options.exit_when_shown)
    return opener.open_named(options.file)


if __name__ == "__main__":
    sys.exit(main())
