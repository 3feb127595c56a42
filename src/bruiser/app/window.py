"""The main window: the rail, the eight stations, and what passes between them."""

from __future__ import annotations

import sys
from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QCloseEvent
from PyQt6.QtWidgets import QApplication
from typing_extensions import override

from bruiser.app.campaign_acts import OWN_ACTS, CampaignActs
from bruiser.app.file_watch import FileWatch
from bruiser.app.frame import CampaignFrame
from bruiser.app.keeping import (
    end_interrupted_pulls,
    let_go_of_the_bench,
    look_through_pages,
    may_leave_the_file,
    may_leave_the_pull,
    save_campaign,
    set_aside_words,
)
from bruiser.app.layout import WindowLayout
from bruiser.app.menu import STORING_ACTS, CampaignMenu
from bruiser.app.rail_words import rail_words
from bruiser.app.stations import BY_KEY, STATIONS, BenchFor, Means, StationDesk
from bruiser.app.way_on import WayOn
from bruiser.catalogue.drawings import offer_own
from bruiser.core.errors import BruiserError, InputError
from bruiser.core.memory import Memory
from bruiser.core.records.records import PullEnd, Specimen
from bruiser.rig.instrument import Instrument
from bruiser.ui.kit.parts import StationPage
from bruiser.ui.kit.storing import lock_storing
from bruiser.ui.opening.logbook_page import LogbookDesk, LogbookPage
from bruiser.ui.runtime.input_gate import input_gate
from bruiser.ui.runtime.preferences import Preferences
from bruiser.ui.runtime.tasks import TaskRunner
from bruiser.workshop.bench.simulation import bench_with
from bruiser.workshop.findings.history import history_rows
from bruiser.workshop.logbook.commands import Changes
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop

if TYPE_CHECKING:
    from bruiser.ui.opening.bring_desk import BringDesk
    from bruiser.ui.stations.brief.presenter import BriefPresenter
    from bruiser.ui.stations.cordage.presenter import CordagePresenter
    from bruiser.ui.stations.findings.presenter import FindingsPresenter
    from bruiser.ui.stations.guide.presenter import GuidePresenter
    from bruiser.ui.stations.knots.presenter import KnotsPresenter
    from bruiser.ui.stations.plan.presenter import PlanPresenter
    from bruiser.ui.stations.pull.presenter import PullPresenter
    from bruiser.ui.stations.results.presenter import ResultsPresenter

ASKS = {
    "pull_recorded": "_on_pull_recorded",
    "accepted": "_on_accepted",
    "trace_wanted": "look_into",
    "pull_wanted": "_show_pull",
    "findings_wanted": "_show_findings",
    "logbook_wanted": "_show_logbook",
    "instrument_chosen": "_on_instrument",
    "lot_changed": "_on_another_lot",
}
"""Signals by which a presenter or a view asks something of the window, and what answers."""


class _Pages(dict[str, StationPage]):
    """The views by station, each made when it is first looked up."""

    def __init__(self, make: Callable[[str], StationPage]) -> None:
        super().__init__()
        self._make = make

    def __missing__(self, key: str) -> StationPage:
        self[key] = self._make(key)
        return self[key]


class MainWindow(CampaignFrame):
    """One open campaign; its stations are made when they are first shown."""

    brief: BriefPresenter
    cordage: CordagePresenter
    knots: KnotsPresenter
    plan: PlanPresenter
    pull: PullPresenter
    findings: FindingsPresenter
    results: ResultsPresenter
    guide: GuidePresenter

    wanted = pyqtSignal(str)
    leaving = pyqtSignal()
    closed = pyqtSignal()

    def __init__(
        self,
        workshop: Workshop,
        bench_for: BenchFor = bench_with,
        preferences: Preferences | None = None,
        memory: Memory | None = None,
    ) -> None:
        super().__init__(workshop, preferences or Preferences())
        lock_storing(workshop.file.why_read_only, workshop.file.why_no_release)
        self.tasks = TaskRunner()
        self._bench_for = bench_for
        self._memory = Memory() if memory is None else memory
        self._means = Means(workshop, self.tasks, self._bench, self._memory)
        self._logbook_desk = LogbookDesk(workshop, self.tasks)
        self._logbook_desk.failed.connect(self.show_error)
        self._desks: dict[str, StationDesk] = {"logbook": self._logbook_desk}
        self.pages = _Pages(self._make_page)
        self._stale: set[str] = set()
        self.acts = CampaignActs(self)
        self.menu = CampaignMenu(self, self.act)
        self.way_on = WayOn(self, self.acts)
        self.bring_desk: BringDesk | None = None
        self._connect()
        self.take_preferences(self.preferences)
        if workshop.read_only:
            self.menu.leave_out(STORING_ACTS)
        workshop.listen(self._on_changes)
        workshop.on_not_shown = self._on_not_shown
        self._cut_off, unfinished = end_interrupted_pulls(workshop)
        self.refresh()
        if self._cut_off:
            # A load that may still be on comes before everything else.
            self._open_finding(self._cut_off[-1])
        else:
            self.go_to("pull" if self.logbook and self.logbook.next_to_pull() else "results")
        said = [*workshop.file.notes, *set_aside_words(workshop)]
        if workshop.read_only:
            said.append(f"Read-only: nothing can be stored here. {workshop.file.why_read_only}")
        if said or unfinished:
            self.say(" ".join([*said, *unfinished]))
        look_through_pages(self.tasks, workshop, self.say)
        self._file_watch = FileWatch(self)

    def _connect(self) -> None:
        # What is held down belongs to the page it was pressed on.
        self.stack.currentChanged.connect(input_gate().close_to_held)
        self.rail.station_wanted.connect(self.go_to)
        self.bar.undo.clicked.connect(self.undo)
        self.bar.rescue.clicked.connect(self._save_under_new_name)
        for number, station in enumerate(STATIONS, start=1):
            self.shortcut(f"F{number}", partial(self.go_to, station.key))
        self.rail.menu_wanted.connect(self.open_menu)

    def desk(self, key: str) -> StationDesk:
        """The presenter of a station, made when it is first asked for."""
        if key not in self._desks:
            made = self._desks[key] = BY_KEY[key].presenter(self._means)
            made.failed.connect(self.show_error)
            self._wire(made)
        return self._desks[key]

    def _make_page(self, key: str) -> StationPage:
        if key == "logbook":
            self.logbook_page = LogbookPage(self._logbook_desk)
            self.logbook_page.finding_wanted.connect(self._open_finding)
            self.logbook_page.history_wanted.connect(self._show_history)
            page: StationPage = self.logbook_page
        elif key == "bring":
            page = self.acts.bring_page()
        else:
            page = BY_KEY[key].view(self.desk(key))
            self.way_on.connect(key, page)
        self._wire(page)
        self.stack.addWidget(page)
        # Its desk may have been handed the logbook before there was a page to show it.
        self._stale |= {key} & self._desks.keys()
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

    def go_to(self, key: str) -> None:
        """Show a station."""
        with self.workshop.file.in_one_state():
            page = self.pages[key]
            self._freshen(key)
            self.rail.select(key)
            self.stack.setCurrentWidget(page)
            page.first.setFocus()
            self.way_on.show(key)

    @property
    def pull_under_way(self) -> bool:
        """Whether the bench is held."""
        return "pull" in self._desks and self.pull.session is not None

    @property
    def has_bench(self) -> bool:
        """Whether anything is chosen that a pull can be recorded with."""
        return self.preferences.simulated or (
            "pull" in self._desks and not self.pull.instrument.choice.is_simulated
        )

    def _on_instrument(self) -> None:
        self.way_on.refresh()

    def _on_another_lot(self) -> None:
        if self.station == "cordage":
            self.way_on.show("cordage")

    def take_preferences(self, preferences: Preferences) -> None:
        """Give the actions their keys, and look whether there is a bench."""
        self.preferences = preferences
        self.menu.take_keys(preferences.keys)
        self.way_on.refresh()

    def layout_now(self) -> WindowLayout:
        """How the window is left."""
        sheet = self.results.asked.sheet if "results" in self._desks else ""
        return WindowLayout(geometry=self.saveGeometry(), station=self.station, sheet=sheet)

    def take_layout(self, layout: WindowLayout) -> None:
        """Show the campaign as it was left."""
        if not layout.geometry.isEmpty():
            self.restoreGeometry(layout.geometry)
        if layout.station == "results" and layout.sheet:
            from bruiser.ui.stations.results.sheets import SHEETS

            if layout.sheet in SHEETS:
                self.results.show_sheet(layout.sheet)
        if layout.station and not self._cut_off:
            self.go_to(layout.station)

    def _bench(self, specimen: Specimen) -> Instrument:
        if not self.preferences.simulated:
            raise InputError(
                "The simulated bench is switched off in the preferences.",
                "Choose another under Instrument, or switch it on (Ctrl+,).",
            )
        return self._bench_for(specimen)

    def open_menu(self) -> None:
        """Open the menu of the campaign under its name."""
        undo, redo = self.workshop.undo_title, self.workshop.redo_title
        self.menu.name("undo", f"Undo: {undo}" if undo else "Undo", enabled=undo is not None)
        self.menu.name("redo", f"Do again: {redo}" if redo else "Redo", enabled=redo is not None)
        self.menu.open_at(self.below_its_name)

    def act(self, key: str) -> None:
        """Do what the menu says; what is not about this campaign is asked of whoever opened it."""
        if key in ("undo", "redo"):
            getattr(self, key)()
        elif key == "step":
            self.way_on.take_step()
        elif key in OWN_ACTS:
            getattr(self.acts, key)()
        else:
            self.wanted.emit(key)

    def _show_history(self, pull_id: str) -> None:
        """All that happened to a specimen, over the logbook."""
        from bruiser.ui.stations.findings.history_view import HistoryDialog

        if self.logbook is not None and pull_id in self.logbook.by_pull:
            entry = self.logbook.by_pull[pull_id]
            HistoryDialog(entry.specimen.code, history_rows(self.workshop, entry), self).open()

    def _open_finding(self, pull_id: str) -> None:
        self._freshen("findings")
        self.findings.open_earlier(pull_id)
        self.go_to("findings")

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
        with self.workshop.file.in_one_state():
            self._refresh()

    def _refresh(self) -> None:
        self.logbook = read_logbook(self.workshop)
        offer_own({k: s.drawing for k, s in self.logbook.catalogue.items() if s.drawing})
        self.rail.caption(self.workshop.campaign.title)
        self._stale = {*BY_KEY, "logbook"}
        for station in STATIONS:
            if station.at_once and station.key in self._desks:
                self._freshen(station.key)
        self._freshen(self.station)
        if self.bring_desk is not None:
            self.bring_desk.take_up(self.logbook)
        self._update_rail(self.logbook)
        self.way_on.refresh()

    def _freshen(self, key: str) -> None:
        """Hand the logbook to a desk station that is about to be seen; the others wait."""
        if key in self._stale and self.logbook is not None:
            self._stale.discard(key)
            self.desk(key).take_up(self.logbook)

    def _update_rail(self, logbook: Logbook) -> None:
        for key, (text, reached) in rail_words(logbook).items():
            self.rail.wait_for(key, text, reached)

    def _on_changes(self, changes: Changes) -> None:
        """Read the logbook again; what a running pull stores waits for its end.

        A look at all takes long enough for a bench to miss its keep-alive.
        """
        if not (self.pull_under_way and changes.tables <= {"pull", "reading"}):
            self.refresh()

    def _on_pull_recorded(self, pull_id: str) -> None:
        self.refresh()
        pulled = None if self.logbook is None else self.logbook.by_pull.get(pull_id)
        gave = pulled is not None and pulled.pull is not None and pulled.pull.end is PullEnd.GAVE
        if self.preferences.beep and gave:
            QApplication.beep()
        self.say("")
        self.findings.open_earlier(pull_id)
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

    def _show_logbook(self) -> None:
        self.go_to("logbook")

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

    @override
    def closeEvent(self, a0: QCloseEvent | None) -> None:
        if a0 is not None and not self._may_go():
            a0.ignore()
            return
        self.leaving.emit()
        self._file_watch.stop()
        self.tasks.close()
        self._memory.flush()
        self.workshop.close()
        super().closeEvent(a0)
        self.closed.emit()

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
