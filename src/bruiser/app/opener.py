"""Opens, makes and closes campaigns: one window at a time, or the start page."""

from __future__ import annotations

import sys
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from socket import gethostname

from PyQt6.QtCore import QObject, Qt
from PyQt6.QtWidgets import QApplication, QFileDialog, QMainWindow, QMessageBox

from bruiser import __version__
from bruiser.app.actions import ACTIONS, clash
from bruiser.app.beginning import BeginActs
from bruiser.app.crash import crash_words
from bruiser.app.exchange_acts import ExchangeActs
from bruiser.app.layout import read_layout
from bruiser.app.leaving import Leaving
from bruiser.app.look import dress_as, fill_screen, turn_theme
from bruiser.app.paths import fetch_demo, results_path
from bruiser.app.recent import forget, listed, read_recent
from bruiser.app.servers import ServerActs
from bruiser.app.start_window import StartWindow
from bruiser.app.stations import BenchFor
from bruiser.app.window import MainWindow
from bruiser.core.errors import AlteredSchema, BruiserError, NoCampaign, PasswordWanted
from bruiser.core.memory import Memory
from bruiser.store.open_campaign import OpenCampaign, Worker
from bruiser.store.places import Place, read_place
from bruiser.store.results_cache import ResultsCache
from bruiser.store.server.address import ServerAddress, is_address, read_address
from bruiser.ui.opening.about import ABOUT
from bruiser.ui.opening.crash_dialog import CrashDialog
from bruiser.ui.opening.help_dialog import HelpDialog
from bruiser.ui.opening.preferences_dialog import KeyLine, PreferencesDialog
from bruiser.ui.runtime.desk import said_of
from bruiser.ui.runtime.preferences import Preferences, keep_preferences
from bruiser.workshop.bench.simulation import bench_with
from bruiser.workshop.logbook.workshop import open_workshop

TABLES = (".csv", ".tsv", ".txt", ".xlsx", ".xlsm", ".xls", ".ods")


class Opener(QObject):
    """Holds the one window there is.

    Parameters
    ----------
    preferences : Preferences
        As they were kept.
    bench_for : callable
        Makes the bench of a specimen.
    remembers : bool
        Whether what was opened is listed on the start page.
    """

    def __init__(
        self,
        preferences: Preferences | None = None,
        bench_for: BenchFor = bench_with,
        *,
        remembers: bool = True,
    ) -> None:
        super().__init__()
        self.remembers = remembers
        self.preferences = preferences or Preferences()
        self._bench_for = bench_for
        self.window: MainWindow | None = None
        self.start: StartWindow | None = None
        self.refused = ""
        self.leaving = Leaving(self._list_recent)
        self.exchange = ExchangeActs(self, self.leaving.tasks, self)
        self.begin = BeginActs(self, self)
        self.servers = ServerActs(self, self.leaving.tasks, self)

    @property
    def shown(self) -> QMainWindow | None:
        """The window that is there."""
        return self.window or self.start

    def show_start(self, words: str = "") -> None:
        """Show the start page."""
        if self.start is None:
            self.start = StartWindow(self.act)
            self.start.closed.connect(self.leaving.finish)
            page = self.start.page
            page.new_wanted.connect(self.begin.ask)
            page.open_wanted.connect(self.ask_open)
            page.demo_wanted.connect(self.open_demo)
            page.server_wanted.connect(self.servers.ask)
            page.path_wanted.connect(self._open_listed)
            self.start.path_dropped.connect(lambda path: self.open(Path(path)))
            page.forget_wanted.connect(self._forget)
        self.start.menu.take_keys(self.preferences.keys)
        self._list_recent()
        self.start.say(words)
        self.start.show()
        self.start.page.new.setFocus(Qt.FocusReason.OtherFocusReason)

    def _list_recent(self) -> None:
        if self.start is not None:
            self.start.page.list(tuple(listed(row) for row in read_recent()))

    def _forget(self, path: str) -> None:
        forget(path)
        self.show_start()

    def say(self, text: str) -> None:
        """Say something in the window that is there."""
        if isinstance(self.shown, (MainWindow, StartWindow)):
            self.shown.say(text)

    def come_to_the_front(self) -> None:
        """Show the window that is there above others."""
        shown = self.shown
        if shown is not None:
            shown.setWindowState(shown.windowState() & ~Qt.WindowState.WindowMinimized)
            shown.raise_()
            shown.activateWindow()

    def _open_listed(self, words: str) -> None:
        """Open what stands on the start page; a server is asked first, off the interface thread."""
        if is_address(words):
            self.servers.open_listed(read_address(words))
        else:
            self.open_named(words)

    def open_named(self, words: str) -> bool:
        """Open a campaign by its path or its address; a password that is wanted is asked for."""
        place: Place | None = None
        try:
            place = read_place(words)
            return self.open(place)
        except BruiserError as error:
            self.refuse(place, error)
        return False

    def refuse(self, place: Place | None, error: Exception) -> None:
        """Say why nothing was opened; a password that is wanted is asked for."""
        self.refused = str(said_of(error))
        if isinstance(error, PasswordWanted) and isinstance(place, ServerAddress):
            self.say("")
            self.servers.ask_password(place, error)
        else:
            self.say(self.refused)

    def open(self, path: Place, *, lead: str = "") -> bool:
        """Open a campaign in place of what is open; what cannot be opened leaves that as it is.

        Raised are a password that is wanted and a server without a campaign: whoever asked acts.

        Parameters
        ----------
        lead : str
            The station to begin with; empty for the usual one.
        """
        window, self.refused = self.window, ""
        if window is not None and _same(window.workshop.file, path):
            self.come_to_the_front()
            window.say(f"{path.name} is open here already.")
            return True
        try:
            workshop = open_workshop(path, worker=self._worker(path))
        except (PasswordWanted, NoCampaign):
            raise
        except BruiserError as error:
            self.refused = f"{path.name} was not opened. {error}"
            self.say(self.refused)
            if isinstance(error, AlteredSchema) and isinstance(path, Path):
                self.exchange.offer_rescue(path)
            return False
        if window is not None and not self._leave(window):
            workshop.close()
            return False
        try:
            kept = Memory(behind=ResultsCache(results_path())) if self.remembers else None
            made = MainWindow(workshop, self._bench_for, self.preferences, kept)
        except Exception as error:  # noqa: BLE001  (whatever it is, the start page is shown)
            workshop.close()
            if not isinstance(error, BruiserError):
                sys.excepthook(type(error), error, error.__traceback__)
            self.refused = f"{path.name} could not be shown. {said_of(error)}"
            self.show_start(self.refused)
            return False
        made.wanted.connect(self.act)
        made.path_dropped.connect(lambda dropped: self._dropped(Path(dropped)))
        if self.remembers:
            made.leaving.connect(lambda: self.leaving.note(made))
        made.closed.connect(lambda: self._on_closed(made))
        geometry = self.shown.geometry() if self.shown is not None else None
        self.window = made
        if geometry is not None:
            made.setGeometry(geometry)
        if self.remembers:
            made.take_layout(read_layout(workshop.campaign.id))
        made.show()
        workshop.file.listen()
        if self.start is not None:
            self.start.hide()
        if made.logbook is not None and self.remembers:
            self.leaving.opened(workshop, made.logbook)
            self.exchange.copy_if_due()
        if lead:
            made.go_to(lead)
            made.pages[lead].begin()
        return True

    def _worker(self, place: Place) -> Worker:
        """Who works here as far as this machine knows; initials are typed at the bench."""
        who = place.user if isinstance(place, ServerAddress) else ""
        return Worker(who=who, bench=self.preferences.bench or gethostname())

    def leave(self) -> bool:
        """Close the campaign that is open, to change its file; False where it has to stay."""
        return self.window is None or self._leave(self.window)

    def reopen(self, place: str) -> None:
        """Open anew what is open, after it was changed as a whole."""
        if self.leave() and not self.open_named(place):
            self.show_start(self.refused)

    def _dropped(self, path: Path) -> None:
        """A file was dropped on a campaign: a table comes in, a campaign is opened."""
        if self.window is not None and path.suffix.lower() in TABLES:
            self.window.acts.bring_file(path)
        else:
            self.open(path)

    def _leave(self, window: MainWindow) -> bool:
        """Close a window that makes place for another; False where it has to stay."""
        window.closed.disconnect()
        if window.close():
            self.window = None
            self.leaving.draw()
            return True
        window.closed.connect(lambda: self._on_closed(window))
        return False

    def _on_closed(self, window: MainWindow) -> None:
        if self.window is window:
            self.window = None
        self.leaving.finish()

    def act(self, key: str) -> None:
        """Do what the menu says and no campaign does by itself; a preference follows a hash."""
        if key.startswith("preferences#"):
            self.ask_preferences(key.partition("#")[2])
            return
        acts: dict[str, Callable[[], object]] = {
            "new": self.begin.ask,
            "open": self.ask_open,
            "server": self.servers.ask,
            "put": self.servers.put,
            "next": self.begin.ask_next,
            "close": self.close_campaign,
            "preferences": lambda: self.ask_preferences(),
            "about": self._about,
            "quit": self.quit,
            "help": lambda: HelpDialog("start", self.shown).open(),
            "theme": turn_theme,
            "fullscreen": lambda: fill_screen(self.shown),
            "merge": self.exchange.merge,
            "export": self.exchange.export,
            "copies": self.exchange.copies,
            "check": self.exchange.check,
        }
        if key in acts:
            acts[key]()

    def ask_open(self) -> None:
        """Ask which campaign to open."""
        name, _ = QFileDialog.getOpenFileName(
            self.shown, "Open a campaign", str(self.preferences.campaigns), "Campaign (*.bruiser)"
        )
        if name:
            self.open(Path(name))

    def open_demo(self, *, fresh: bool = False, tour: bool = True) -> bool:
        """Open the demo; the first time its tour begins."""
        try:
            path = fetch_demo(fresh=fresh)
        except BruiserError as error:
            self.refused = str(error)
            self.say(self.refused)
            return False
        first = tour and not self.preferences.toured
        opened = self.open(path)
        if opened and first and self.window is not None:
            self.take(replace(self.preferences, toured=True))
            self.window.acts.tour()
        return opened

    def come_for(self, wanted: str) -> None:
        """A later start came: show what is there, and what it asked for."""
        if wanted == "--demo":
            self.open_demo()
        elif wanted:
            self.open_named(wanted)
        self.come_to_the_front()

    def close_campaign(self) -> None:
        """Close what is open, and show the start page."""
        if self.window is not None and self._leave(self.window):
            self.show_start()

    def ask_preferences(self, at: str = "") -> None:
        """Show the preferences, with one of them in hand."""
        lines = tuple(KeyLine(a.key, a.words.rstrip(" …"), a.keys) for a in ACTIONS)
        dialog = PreferencesDialog(self.preferences, lines, clash, self.shown)
        dialog.kept.connect(self.take)
        dialog.open()
        dialog.stand_at(at)

    def take(self, preferences: Preferences) -> None:
        """Keep preferences, and go by them."""
        self.preferences = preferences
        if not keep_preferences(preferences):
            self.say("The preferences hold for now, but could not be kept.")
        dress_as(preferences)
        if self.window is not None:
            self.window.take_preferences(preferences)
        if self.start is not None:
            self.start.menu.take_keys(preferences.keys)

    def tell_of_crash(self, report: Path | None) -> None:
        """Show the report of an unexpected error; readings go beside it only where ticked."""
        window = self.window
        text = "" if report is None else report.read_text(encoding="utf-8", errors="replace")

        def add() -> Path | None:
            if window is None or report is None:
                return None
            target = report.with_suffix(".bruiser")
            try:
                window.workshop.file.copy_to(target)
            except BruiserError:
                return None
            return target

        CrashDialog(text, report, add if window is not None else None, self.shown).open()
        self.say(crash_words(report))

    def _about(self) -> None:
        QMessageBox.about(self.shown, "About Bruiser", ABOUT.format(version=__version__))

    def quit(self) -> None:
        """Close everything, unless something has to stay."""
        if self.window is not None and not self._leave(self.window):
            return
        if self.start is not None:
            self.start.close()
        self.leaving.finish()
        app = QApplication.instance()
        if app is not None:
            app.quit()


def _same(file: OpenCampaign, place: Place) -> bool:
    if isinstance(place, ServerAddress) or file.shared:
        return file.place == str(place)
    try:
        return file.path.samefile(place)
    except OSError:
        return False
