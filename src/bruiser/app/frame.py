"""The frame of the window: rail, notice line and pages, and what its parts may rely on."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPoint
from PyQt6.QtGui import QKeySequence, QShortcut
from PyQt6.QtWidgets import QHBoxLayout, QStackedWidget, QVBoxLayout, QWidget

from bruiser.app.stations import STATIONS
from bruiser.core.errors import BruiserError, Gone
from bruiser.ui.kit.notice_bar import NoticeBar
from bruiser.ui.kit.parts import StationPage
from bruiser.ui.kit.rail import Rail, RailStop
from bruiser.ui.opening.drop_window import DropWindow
from bruiser.ui.runtime.preferences import Preferences
from bruiser.ui.runtime.tasks import TaskRunner
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop

if TYPE_CHECKING:
    from bruiser.ui.opening.bring_desk import BringDesk
    from bruiser.ui.opening.logbook_page import LogbookPage
    from bruiser.ui.stations.cordage.presenter import CordagePresenter
    from bruiser.ui.stations.findings.presenter import FindingsPresenter
    from bruiser.ui.stations.knots.presenter import KnotsPresenter
    from bruiser.ui.stations.results.presenter import ResultsPresenter


class CampaignFrame(DropWindow):
    """A window on one campaign, without its pages."""

    cordage: CordagePresenter
    knots: KnotsPresenter
    findings: FindingsPresenter
    results: ResultsPresenter
    logbook_page: LogbookPage
    pages: dict[str, StationPage]
    tasks: TaskRunner
    bring_desk: BringDesk | None

    def __init__(self, workshop: Workshop, preferences: Preferences) -> None:
        super().__init__()
        self.workshop, self.preferences = workshop, preferences
        self.logbook: Logbook | None = None
        self.setWindowTitle(f"{workshop.campaign.title} – Bruiser")
        self.setMinimumSize(1000, 660)
        self.resize(1280, 800)
        self.rail = Rail(tuple(RailStop(s.key, s.name, f"F{n}") for n, s in enumerate(STATIONS, 1)))
        self.rail.caption(workshop.campaign.title)
        self.stack = QStackedWidget()
        self.bar = NoticeBar()
        self.notice = self.bar.notice
        middle = QWidget()
        middle.setObjectName("window")
        column = QVBoxLayout()
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.bar)
        column.addWidget(self.stack, 1)
        row = QHBoxLayout(middle)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.rail)
        row.addLayout(column, 1)
        self.setCentralWidget(middle)

    if TYPE_CHECKING:
        # What the window itself can do, and its parts ask of it.
        def go_to(self, key: str) -> None:
            """Show a station, or the logbook."""

        def act(self, key: str) -> None:
            """Do what the menu says."""

        def refresh(self) -> None:
            """Read the logbook again and hand it to the stations."""

        @property
        def has_bench(self) -> bool:
            """Whether anything is chosen that a pull can be recorded with."""

        @property
        def pull_under_way(self) -> bool:
            """Whether the bench is held."""

    @property
    def station(self) -> str:
        """The station shown."""
        page = self.stack.currentWidget()
        return "" if page is None else page.objectName()

    @property
    def below_its_name(self) -> QPoint:
        """Where the menu of the campaign opens, on the screen."""
        return self.rail.head.mapToGlobal(QPoint(8, self.rail.head.height() - 8))

    def shortcut(self, keys: str, act: Callable[[], None]) -> None:
        """Let keys do something wherever one is."""
        QShortcut(QKeySequence(keys), self).activated.connect(act)

    def say(self, text: str, *, undo: bool = False, rescue: bool = False) -> None:
        """Say something in the line above the station."""
        self.bar.say(text, undo=undo, rescue=rescue)

    def show_error(self, error: BruiserError) -> None:
        """The one place where errors are shown: what happened, what was kept, what to do."""
        self.say(str(error), rescue=isinstance(error, Gone))

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
