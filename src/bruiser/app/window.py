"""The main window: the rail, the eight stations, and what passes between them."""

from __future__ import annotations

import sys
from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QTimer
from PyQt6.QtGui import QCloseEvent, QKeySequence, QShortcut
from PyQt6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QMainWindow,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)
from typing_extensions import override

from bruiser.app.keeping import (
    let_go_of_the_bench,
    may_leave_the_file,
    may_leave_the_pull,
    save_campaign,
)
from bruiser.app.stations import BY_KEY, STATIONS, BenchFor, Means, StationDesk
from bruiser.core.errors import BruiserError, Gone
from bruiser.core.words import count
from bruiser.ui.kit.keys_dialog import KeysDialog
from bruiser.ui.kit.notice_bar import NoticeBar
from bruiser.ui.kit.parts import StationPage
from bruiser.ui.kit.rail import Rail, RailStop
from bruiser.ui.runtime.tasks import TaskRunner
from bruiser.ui.theme.theme import theme
from bruiser.workshop.bench.pull_end import close_interrupted_pulls
from bruiser.workshop.bench.simulation import bench_with
from bruiser.workshop.guide.revisions import newest_revision
from bruiser.workshop.logbook.commands import Changes
from bruiser.workshop.logbook.entries import Logbook, Stage, read_logbook
from bruiser.workshop.logbook.workshop import Workshop

if TYPE_CHECKING:
    from bruiser.ui.stations.brief.presenter import BriefPresenter
    from bruiser.ui.stations.cordage.presenter import CordagePresenter
    from bruiser.ui.stations.findings.presenter import FindingsPresenter
    from bruiser.ui.stations.guide.presenter import GuidePresenter
    from bruiser.ui.stations.knots.presenter import KnotsPresenter
    from bruiser.ui.stations.plan.presenter import PlanPresenter
    from bruiser.ui.stations.pull.presenter import PullPresenter
    from bruiser.ui.stations.results.presenter import ResultsPresenter

FILE_LOOK_MS = 1000

ASKS = {
    "pull_recorded": "_on_pull_recorded",
    "accepted": "_on_accepted",
    "trace_wanted": "look_into",
    "pull_wanted": "_show_pull",
    "findings_wanted": "_show_findings",
}
"""Signals by which a presenter or a view asks something of the window, and what answers."""

KEYS = (
    ("F1 to F8", "go to a station"),
    ("Space, held", "pull while the bench is armed"),
    ("Esc", "STOP, from anywhere while armed"),
    ("Ctrl+Enter", "accept findings"),
    ("digits, S H W T C F N", "in Findings: the place that gave, and what untying took"),
    ("M, U, Alt+T", "no mark moved; the untying clock; the tying clock"),
    ("Ctrl+Z, Ctrl+Shift+Z", "undo, redo"),
    ("Ctrl+T", "light or dark"),
    ("arrow keys, Enter", "walk and tap a strip or a chart"),
    ("?", "this list"),
)


class _Pages(dict[str, StationPage]):
    """The views by station, each made when it is first looked up."""

    def __init__(self, make: Callable[[str], StationPage]) -> None:
        super().__init__()
        self._make = make

    def __missing__(self, key: str) -> StationPage:
        self[key] = self._make(key)
        return self[key]


class MainWindow(QMainWindow):
    """One open campaign; its stations are made when they are first shown."""

    brief: BriefPresenter
    cordage: CordagePresenter
    knots: KnotsPresenter
    plan: PlanPresenter
    pull: PullPresenter
    findings: FindingsPresenter
    results: ResultsPresenter
    guide: GuidePresenter

    def __init__(self, workshop: Workshop, bench_for: BenchFor = bench_with) -> None:
        super().__init__()
        self.workshop = workshop
        self.tasks = TaskRunner()
        self.logbook: Logbook | None = None
        self.setWindowTitle(f"{workshop.campaign.title} – Bruiser")
        self.setMinimumSize(1000, 660)
        self.resize(1280, 800)
        self._means = Means(workshop, self.tasks, bench_for)
        self._desks: dict[str, StationDesk] = {}
        self.pages = _Pages(self._make_page)
        self._stale: set[str] = set()
        self.rail = Rail(tuple(RailStop(s.key, s.name, f"F{n}") for n, s in enumerate(STATIONS, 1)))
        self.rail.caption(workshop.campaign.title)
        self.stack = QStackedWidget()
        self._bar = NoticeBar()
        self.notice = self._bar.notice
        self._build()
        self._connect()
        workshop.listen(self._on_changes)
        workshop.on_not_shown = self._on_not_shown
        unfinished = self._close_interrupted_pulls()
        self.refresh()
        self.go_to("pull" if self.logbook and self.logbook.next_to_pull() else "results")
        said = list(workshop.file.notes)
        if workshop.read_only:
            said.append(f"Read-only: nothing can be stored here. {workshop.file.why_read_only}")
        if said or unfinished:
            self.say(" ".join([*said, *unfinished]))
        self._file_watch = QTimer(self)
        self._file_watch.setInterval(FILE_LOOK_MS)
        self._file_watch.timeout.connect(self._look_at_file)
        self._file_watch.start()

    def _close_interrupted_pulls(self) -> list[str]:
        """End pulls that were cut off; what could not be ended, in words."""
        try:
            close_interrupted_pulls(self.workshop)
        except BruiserError as error:
            return [f"A pull that was cut off could not be ended: {error}"]
        return []

    def _look_at_file(self) -> None:
        """Notice a file that was moved, deleted or replaced, before something is written."""
        try:
            self.workshop.file.look()
        except BruiserError as error:
            self._file_watch.stop()
            self.show_error(error)

    def _build(self) -> None:
        middle = QWidget()
        middle.setObjectName("window")
        column = QVBoxLayout()
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self._bar)
        column.addWidget(self.stack, 1)
        row = QHBoxLayout(middle)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.rail)
        row.addLayout(column, 1)
        self.setCentralWidget(middle)

    def _connect(self) -> None:
        self.rail.station_wanted.connect(self.go_to)
        self._bar.undo.clicked.connect(self.undo)
        self._bar.rescue.clicked.connect(self._save_under_new_name)
        for number, station in enumerate(STATIONS, start=1):
            self._shortcut(f"F{number}", partial(self.go_to, station.key))
        self._shortcut("Ctrl+Z", self.undo)
        self._shortcut("Ctrl+Shift+Z", self.redo)
        self._shortcut("Ctrl+T", self._turn_theme)
        self._shortcut("?", self._show_keys)

    def desk(self, key: str) -> StationDesk:
        """The presenter of a station, made when it is first asked for."""
        if key not in self._desks:
            made = self._desks[key] = BY_KEY[key].presenter(self._means)
            made.failed.connect(self.show_error)
            self._wire(made)
        return self._desks[key]

    def _make_page(self, key: str) -> StationPage:
        page = BY_KEY[key].view(self.desk(key))
        self._wire(page)
        self.stack.addWidget(page)
        return page

    def _wire(self, who: object) -> None:
        """Connect what a presenter or a view asks of the window."""
        for signal, answer in ASKS.items():
            if hasattr(who, signal):
                getattr(who, signal).connect(getattr(self, answer))

    def __getattr__(self, name: str) -> Any:
        if name not in BY_KEY:
            raise AttributeError(name)
        return self.desk(name)

    def _shortcut(self, keys: str, act: Callable[[], None]) -> None:
        QShortcut(QKeySequence(keys), self).activated.connect(act)

    def go_to(self, key: str) -> None:
        """Show a station."""
        page = self.pages[key]
        self._freshen(key)
        self.rail.select(key)
        self.stack.setCurrentWidget(page)
        page.first.setFocus()

    @property
    def station(self) -> str:
        """The station shown."""
        page = self.stack.currentWidget()
        return "" if page is None else page.objectName()

    def say(self, text: str, *, undo: bool = False, rescue: bool = False) -> None:
        """Say something in the line above the station."""
        self._bar.say(text, undo=undo, rescue=rescue)

    def show_error(self, error: BruiserError) -> None:
        """The one place where errors are shown: what happened, what was kept, what to do."""
        self.say(str(error), rescue=isinstance(error, Gone))

    def _save_under_new_name(self) -> None:
        try:
            target = save_campaign(self, self.workshop)
        except BruiserError as error:
            self.show_error(error)
            return
        if target is not None:
            self.say(f"Saved as {target.name}; you go on there.")
            self._file_watch.start()

    def _on_not_shown(self, error: Exception) -> None:
        """Something was stored and could not be shown."""
        if not isinstance(error, BruiserError):
            sys.excepthook(type(error), error, error.__traceback__)
        self.say(f"It is stored, but the screen could not follow: {error}", undo=True)

    def refresh(self) -> None:
        """Read the logbook again and hand it to the stations; those not seen get it when shown."""
        self.logbook = read_logbook(self.workshop)
        self.rail.caption(self.workshop.campaign.title)
        self._stale = set(BY_KEY)
        for station in STATIONS:
            if station.at_once and station.key in self._desks:
                self._freshen(station.key)
        self._freshen(self.station)
        self._update_rail(self.logbook)

    def _freshen(self, key: str) -> None:
        """Hand the logbook to a desk station that is about to be seen; the others wait."""
        if key in self._stale and self.logbook is not None:
            self._stale.discard(key)
            self.desk(key).take_up(self.logbook)

    def _update_rail(self, logbook: Logbook) -> None:
        planned = len(logbook.at(Stage.PLANNED))
        pulled = len(logbook.at(Stage.PULLED))
        inspected = len(logbook.at(Stage.INSPECTED))
        done = len(logbook.entries) - planned
        claims = len(logbook.brief.claims_in_force)
        lots, knots = len(logbook.lots_in_use), len(logbook.knots_in_play)
        words = {
            "brief": (count(claims, "claim") + " to test" if claims else "what we ask", True),
            "cordage": (count(lots, "lot"), lots > 0),
            "knots": (f"{knots} in play", knots > 0),
            "plan": (f"{planned} of {len(logbook.entries)} left", bool(logbook.entries)),
            "pull": (f"{planned} to pull" if planned else "queue empty", done > 0 or planned > 0),
            "findings": (f"{pulled} to inspect" if pulled else "none waiting", done > 0),
            "results": (count(inspected, "pull") + " in", inspected > 0),
            "guide": self._guide_words(),
        }
        for key, (text, reached) in words.items():
            self.rail.wait_for(key, text, reached)

    def _guide_words(self) -> tuple[str, bool]:
        """What waits in the guide: the newest revision and how far it has got."""
        newest = newest_revision(self.workshop)
        if newest is None:
            return "no revision yet", False
        return f"no. {newest.row.revision}, {newest.state}", True

    def undo(self) -> None:
        """Take back the last stored step."""
        title = self.workshop.undo_title
        try:
            if self.workshop.undo() is not None:
                self.say(f"Undone: {title}. Ctrl+Shift+Z does it again.")
        except BruiserError as error:
            self.show_error(error)

    def redo(self) -> None:
        """Do the last undone step again."""
        title = self.workshop.redo_title
        try:
            if self.workshop.redo() is not None:
                self.say(f"Done again: {title}.", undo=True)
        except BruiserError as error:
            self.show_error(error)

    def _on_changes(self, changes: Changes) -> None:
        """Read the logbook again; what a running pull stores waits for its end.

        A look at all takes long enough for a bench to miss its keep-alive.
        """
        pulling = "pull" in self._desks and self.pull.session is not None
        if not (pulling and changes.tables <= {"pull", "reading"}):
            self.refresh()

    def _on_pull_recorded(self, pull_id: str) -> None:
        del pull_id
        self.refresh()
        self.say("")
        self.go_to("findings")

    def look_into(self, pull_id: str) -> None:
        """Open the trace bench on a pull."""
        if self.logbook is None or pull_id not in self.logbook.by_pull:
            return
        from bruiser.ui.kit.trace_bench import TraceBench
        from bruiser.ui.kit.trace_desk import TraceDesk

        desk = TraceDesk(self.workshop, self.logbook, pull_id)
        desk.failed.connect(self.show_error)
        TraceBench(desk, self).open()

    def _show_findings(self) -> None:
        self.go_to("findings")

    def _show_pull(self, pull_id: str) -> None:
        self._freshen("results")
        self.results.point_out(pull_id)
        self.go_to("results")

    def _on_accepted(self, pull_id: str) -> None:
        logbook = self.logbook
        code = logbook.by_pull[pull_id].specimen.code if logbook is not None else ""
        self._freshen("results")
        self.results.point_out(pull_id)
        self.say(f"Findings of {code} stored. Its result is in Results (F7).", undo=True)
        if self.findings.entry is None:
            self.go_to("pull")

    def _turn_theme(self) -> None:
        app = QApplication.instance()
        if isinstance(app, QApplication):
            theme().apply(app, "pitch" if theme().name == "chalk" else "chalk")

    def _show_keys(self) -> None:
        KeysDialog(KEYS, self).open()

    @override
    def closeEvent(self, a0: QCloseEvent | None) -> None:
        if a0 is not None and not self._may_go():
            a0.ignore()
            return
        self._file_watch.stop()
        self.tasks.close()
        self.workshop.close()
        super().closeEvent(a0)

    def _may_go(self) -> bool:
        """Whether all is stored, or what is not was saved elsewhere."""
        try:
            if "pull" in self._desks and not (
                may_leave_the_pull(self, self.pull)
                and let_go_of_the_bench(self, self.pull, self.workshop)
            ):
                return False
            return may_leave_the_file(self, self.workshop)
        except BruiserError as error:
            self.show_error(error)
            return False
