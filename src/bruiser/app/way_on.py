"""The way on in the window: what every station offers, and what the whole campaign waits for."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QObject, QTimer
from PyQt6.QtWidgets import QAbstractButton
from typing_extensions import override

from bruiser.app.campaign_acts import CampaignActs
from bruiser.app.frame import CampaignFrame
from bruiser.app.stations import BY_KEY
from bruiser.ui.kit.offer_panel import OfferPanel
from bruiser.ui.kit.parts import StationPage
from bruiser.workshop.course.next_step import Deed, NextStep, next_step, offer

_TELLING = (
    QEvent.Type.EnabledChange,
    QEvent.Type.ShowToParent,
    QEvent.Type.HideToParent,
    QEvent.Type.Show,
    QEvent.Type.Hide,
    QEvent.Type.DynamicPropertyChange,
)


class WayOn(QObject):
    """Shows the step that comes next on the rail, and in every station that needs one.

    A station that has a button of its own to press, shows none of these.
    """

    def __init__(self, window: CampaignFrame, acts: CampaignActs) -> None:
        super().__init__(window)
        self._window, self._acts = window, acts
        self._panels: dict[str, OfferPanel] = {}
        self._steps: dict[str, NextStep] = {}
        self._begun: set[str] = set()
        self._looking = False
        self.step: NextStep | None = None
        window.rail.step_wanted.connect(self.take_step)

    def refresh(self) -> None:
        """The campaign changed: work out its step anew, and what the station shown offers."""
        logbook = self._window.logbook
        if logbook is None:
            return
        question = self._window.workshop.campaign.question
        bench = self._window.has_bench
        self.step = next_step(logbook, question, self._revision, bench=bench)
        self._window.rail.next_step(self.step.words, self.step.does, self.step.short)
        if self._window.station:
            self.show(self._window.station)

    @property
    def _revision(self) -> bool:
        logbook = self._window.logbook
        return logbook is not None and logbook.guide is not None

    def show(self, key: str) -> None:
        """Put what a station offers in its place, or beside its heading."""
        logbook, page = self._window.logbook, self._window.pages.get(key)
        if logbook is None or page is None or key not in BY_KEY:
            return
        question = self._window.workshop.campaign.question
        bench = self._window.has_bench
        looked_at = (self._window.cordage.lot_id or "") if key == "cordage" else ""
        found = offer(key, logbook, question, self._revision, bench=bench, lot_id=looked_at)
        self._steps[key] = found.step
        if not found.bare:
            self._begun.discard(key)
        bare = found.bare and not (
            self._window.pull_under_way or key in self._begun or self._looks_again(key)
        )
        if bare:
            panel = self._panel(key, page)
            panel.offer(found.what, found.step.does)
            page.sides.setCurrentWidget(panel)
        else:
            page.sides.setCurrentIndex(0)
        page.corner_box.setVisible(not bare)
        page.way_on.setText(found.step.does)
        page.way_on.setAccessibleName(found.step.does)
        page.way_on.setToolTip(found.step.words)
        self._show_beside(key, page)

    def _looks_again(self, key: str) -> bool:
        """Whether an earlier finding is open although nothing waits."""
        return key == "findings" and self._window.findings.entry is not None

    def _show_beside(self, key: str, page: StationPage) -> None:
        """Let the button beside the heading lead on where no button of the page's own does."""
        taken = page.sides.currentIndex() or own_primaries(page) or self._window.pull_under_way
        page.way_on.setVisible(key in self._steps and not taken)

    def begin(self, key: str) -> None:
        """Give a station's own work its place, and begin it."""
        self._begun.add(key)
        self._window.go_to(key)
        self._window.pages[key].begin()

    def _panel(self, key: str, page: StationPage) -> OfferPanel:
        if key not in self._panels:
            panel = self._panels[key] = OfferPanel(key)
            panel.taken.connect(lambda: self.take(key))
            page.sides.addWidget(panel)
        return self._panels[key]

    def connect(self, key: str, page: StationPage) -> None:
        """A page was made: its button beside the heading leads on while no other does."""
        page.way_on.clicked.connect(lambda: self.take(key))
        for made in page.sides.findChildren(QAbstractButton):
            if made.property("role") is not None:
                made.installEventFilter(self)

    @override
    def eventFilter(self, a0: QObject | None, a1: QEvent | None) -> bool:
        """A button of the page shown came, went, or may be pressed, or not any more."""
        if a1 is not None and a1.type() in _TELLING and not self._looking:
            self._looking = True
            QTimer.singleShot(0, self._look_again)
        return super().eventFilter(a0, a1)

    def _look_again(self) -> None:
        self._looking = False
        page = self._window.pages.get(self._window.station)
        if page is not None and self._window.station in BY_KEY:
            self._show_beside(self._window.station, page)

    def take_step(self) -> None:
        """Do, or lead to, what the whole campaign waits for; what is being typed is taken first."""
        typed_in = self._window.focusWidget()
        if typed_in is not None:
            typed_in.clearFocus()
        if self.step is not None:
            self.do(self.step)

    def take(self, key: str) -> None:
        """Do, or lead to, what a station offers."""
        if key in self._steps:
            self.do(self._steps[key])

    def do(self, step: NextStep) -> None:
        """Do a step that needs no more than a press, or go where it is done."""
        window = self._window
        does: dict[Deed, Callable[[], object]] = {
            Deed.PLAN_STRAIGHT: lambda: self._acts.plan_straight(step.lot_id),
            Deed.ENTER_LOT: lambda: self.begin("cordage"),
            Deed.ASK: lambda: self.begin("brief"),
            Deed.CHOOSE_KNOTS: lambda: self.begin("knots"),
            Deed.PLAN: lambda: self.begin("plan"),
            Deed.CHOOSE_BENCH: self._acts.choose_instrument,
            Deed.PUBLISH: lambda: self.begin("guide"),
        }
        if step.deed is Deed.PLAN_STRAIGHT and window.workshop.read_only:
            window.go_to(step.station)
        elif step.deed in does:
            does[step.deed]()
        else:
            window.go_to(step.station)


def own_primaries(page: StationPage) -> list[QAbstractButton]:
    """The buttons of a page's own that lead on: seen, enabled, and marked as the first."""
    return [
        b
        for b in page.sides.findChildren(QAbstractButton)
        if b.property("role") == "primary" and b.isVisibleTo(page) and b.isEnabled()
    ]
