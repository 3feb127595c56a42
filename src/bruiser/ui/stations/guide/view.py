"""The guide station: choose, set side by side, rank, edit uses and limits, publish."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import (
    QBoxLayout,
    QHBoxLayout,
    QVBoxLayout,
    QWidget,
)
from typing_extensions import override

from bruiser.core.choice.working_load import School
from bruiser.core.records.preparation import Hands
from bruiser.ui.kit.fields import Chips, ChoiceField, Field
from bruiser.ui.kit.parts import StationPage, button
from bruiser.ui.kit.shown_stack import ShownStack
from bruiser.ui.kit.working_line import WorkingLine
from bruiser.ui.stations.guide.beside_panel import BesidePanel
from bruiser.ui.stations.guide.choose_panel import ChoosePanel
from bruiser.ui.stations.guide.limits_panel import LimitsPanel
from bruiser.ui.stations.guide.presenter import BY_RULE, OTHER, GuidePresenter
from bruiser.ui.stations.guide.publish_panel import PublishPanel
from bruiser.ui.stations.guide.publish_presenter import PublishPresenter
from bruiser.ui.stations.guide.rank_panel import RankPanel
from bruiser.ui.stations.guide.use_panel import UsePanel
from bruiser.ui.theme.tokens import SPACE
from bruiser.workshop.guide.requirements import say_needs

PARTS = {
    "choose": "Choose",
    "beside": "Side by side",
    "rank": "Rank",
    "use": "Use",
    "limits": "Limits",
    "publish": "Publish",
}
QUESTIONS = {
    "choose": "Which knot for it",
    "beside": "Side by side",
    "rank": "How sure is the order",
    "use": "What the use asks, and how it weighs",
    "limits": "What counts as good",
    "publish": "The printed guide",
}
ASKS_FOR_NOW = {
    "must_open": "must open",
    "no_end": "no end",
    "closed_ring": "closed ring",
    "slippery": "slippery",
}
WITH_LIST = ("choose", "beside", "rank")
NARROW_PX = 960


class GuideView(StationPage):
    """Builds the guide station and connects it to its presenters."""

    trace_wanted = pyqtSignal(str)

    def __init__(self, presenter: GuidePresenter) -> None:
        super().__init__("guide")
        self._presenter = presenter
        self.publishing = PublishPresenter(presenter)
        self.parts = Chips("guide.part", PARTS)
        self.use = ChoiceField("What is it for", "guide.for")
        self.lot = ChoiceField("In which cordage", "guide.in")
        schools = {BY_RULE: "by the rule", **{s.value: s.value for s in School}}
        self.school = ChoiceField("Working load", "guide.school", schools)
        self.load = Field("After load", "guide.load", hint="60 %")
        self.asks = {
            k: button(words, f"guide.ask.{k}", "chip") for k, words in ASKS_FOR_NOW.items()
        }
        self.gloves = button("gloves", "guide.ask.gloves", "chip")
        self.material = Field("Material", "guide.other.material", hint="polyester")
        self.construction = Field("Construction", "guide.other.construction", hint="kernmantle")
        self.diameter = Field("Diameter", "guide.other.diameter", hint="9 mm")
        self.point = button("Nearest tested", "guide.other.find", "chip")
        self.choosing = ChoosePanel(presenter)
        self.side = BesidePanel(presenter)
        self.ranking = RankPanel(presenter)
        self.using = UsePanel(presenter)
        self.limiting = LimitsPanel(presenter)
        self.printing = PublishPanel(self.publishing)
        self.stack = ShownStack()
        self.line = WorkingLine("guide")
        self.first = self.use.box
        self._lay_out()
        self._connect()

    @override
    def begin(self) -> None:
        """Show what freezes a guide."""
        self.parts.pick("publish")

    def _lay_out(self) -> None:
        heads = QHBoxLayout()
        heads.addWidget(self.parts, 1)
        heads.addWidget(self.choosing.chart.tools)
        asked = QHBoxLayout()
        asked.setSpacing(SPACE["s"])
        asked.addWidget(self.use, 7)
        asked.addWidget(self.lot, 5)
        asked.addWidget(self.load, 2)
        asked.addWidget(self.school, 4)
        chips = QHBoxLayout()
        chips.setSpacing(SPACE["s"])
        for ask in (*self.asks.values(), self.gloves):
            ask.setCheckable(True)
            chips.addWidget(ask, 0, Qt.AlignmentFlag.AlignBottom)
        self._chips_end = QWidget()
        chips.addWidget(self._chips_end, 1)
        self._asked = QWidget()
        self._rows = QBoxLayout(QBoxLayout.Direction.LeftToRight, self._asked)
        self._rows.setContentsMargins(0, 0, 0, 0)
        self._rows.setSpacing(SPACE["s"])
        self._rows.addLayout(asked, 1)
        self._rows.addLayout(chips)
        described = QHBoxLayout()
        described.setContentsMargins(0, 0, 0, 0)
        described.setSpacing(SPACE["s"])
        for field in (self.material, self.construction, self.diameter):
            described.addWidget(field, 2)
        described.addWidget(self.point, 0, Qt.AlignmentFlag.AlignBottom)
        described.addStretch(3)
        self._described = QWidget()
        self._described.setLayout(described)
        for part in (
            self.choosing,
            self.side,
            self.ranking,
            self.using,
            self.limiting,
            self.printing,
        ):
            self.stack.addWidget(part)
        column = QVBoxLayout()
        column.setSpacing(SPACE["s"])
        column.addLayout(heads)
        column.addWidget(self._asked)
        column.addWidget(self._described)
        column.addWidget(self.stack, 1)
        column.addWidget(self.line)
        self.body.addLayout(column, 1)

    def _connect(self) -> None:
        p, q = self._presenter, self.publishing
        self.parts.chosen.connect(self.show_part)
        self.use.chosen.connect(p.pick_use)
        self.lot.chosen.connect(p.pick_lot)
        self.school.chosen.connect(p.pick_school)
        self.load.entry.editingFinished.connect(
            lambda: self.load.complain(p.change_load(self.load.text))
        )
        for key, ask in self.asks.items():
            ask.clicked.connect(lambda on, k=key: p.change(**{k: on}))
        self.gloves.clicked.connect(p.use_gloves)
        self.point.clicked.connect(self._on_describe)
        p.changed.connect(self._on_changed)
        p.working.connect(self.line.work)
        q.working.connect(self.line.work)
        q.told.connect(self.line.tell)
        q.failed.connect(p.failed)
        self.line.stopped.connect(self._on_cancel)
        self.choosing.trace_wanted.connect(self.trace_wanted)
        self.choosing.chart.told.connect(self.line.tell)
        self.side.knot_wanted.connect(self._on_knot_wanted)

    @override
    def resizeEvent(self, a0: QResizeEvent | None) -> None:
        super().resizeEvent(a0)
        narrow = self.width() < NARROW_PX
        way = QBoxLayout.Direction.TopToBottom if narrow else QBoxLayout.Direction.LeftToRight
        self._rows.setDirection(way)
        self._chips_end.setVisible(narrow)

    def show_part(self, part: str) -> None:
        """Show a part of the station."""
        if self.parts.key != part:
            self.parts.blockSignals(True)
            self.parts.pick(part)
            self.parts.blockSignals(False)
        self.stack.setCurrentIndex(list(PARTS).index(part))
        self._on_changed()

    def _on_changed(self) -> None:
        p = self._presenter
        part, profile = self.parts.key, p.profile
        self.use.offer(p.uses())
        self.use.fill(p.wish.use)
        self.lot.offer(p.lots())
        self.lot.fill(p.wish.lot_id)
        self._asked.setVisible(part in (*WITH_LIST, "use"))
        for only_list in (self.lot, self.load, self.school, *self.asks.values(), self.gloves):
            only_list.setVisible(part in WITH_LIST)
        self._described.setVisible(part == "choose" and p.wish.lot_id == OTHER)
        self.title.say(QUESTIONS[part])
        self.subtitle.say(self._about())
        if profile is not None:
            if not self.load.entry.hasFocus():
                self.load.fill(f"{100 * profile.load:g} %")
            for key, ask in self.asks.items():
                ask.setChecked(bool(getattr(profile, key)))
            self.gloves.setChecked(profile.hands is Hands.GLOVES)
        self._show_part(part)
        drawn = self.choosing.chart.figure is not None and self.choosing.chart.isVisibleTo(self)
        self.choosing.chart.tools.setVisible(part == "choose" and drawn)

    def _show_part(self, part: str) -> None:
        match part:
            case "choose":
                self.choosing.show_list()
            case "beside":
                self.side.show_knots()
            case "rank":
                self.ranking.show_ranking()
            case "use":
                self.using.show_use()
            case "limits":
                self.limiting.show_limits()
            case _:
                self.printing.show_state()

    def _about(self) -> str:
        p = self._presenter
        part, profile = self.parts.key, p.profile
        if part == "publish":
            return "Frozen when a revision is made; later pulls do not change it."
        if part == "limits":
            return "Bands and limits of this campaign; every guide says which version it used."
        if profile is None:
            return ""
        asks = f"Asks: {'; '.join(say_needs(profile)) or 'nothing that excludes'}."
        return f"{asks} Changed for now." if p.wish.changes else asks

    def _on_describe(self) -> None:
        wrong = self._presenter.describe(
            self.material.text, self.construction.text, self.diameter.text
        )
        self.diameter.complain(wrong)

    def _on_knot_wanted(self, key: str) -> None:
        self.show_part("choose")
        self._presenter.open_row(key)

    def _on_cancel(self) -> None:
        if self.publishing.busy:
            self.publishing.cancel()
        else:
            self._presenter.cancel()
