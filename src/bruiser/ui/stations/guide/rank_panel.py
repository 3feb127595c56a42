"""How sure the order is, and what other weights would do."""

from __future__ import annotations

from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QSlider, QVBoxLayout, QWidget

from bruiser.core.choice.ranking import shares_of
from bruiser.core.choice.rating import SCALES, Rating
from bruiser.figures.display import Figure
from bruiser.figures.rank_charts import (
    PartsRow,
    WeightLine,
    parts_figure,
    rank_figure,
    weight_figure,
)
from bruiser.formats.guide_figures import rank_rows
from bruiser.ui.kit.chart_frame import ChartFrame
from bruiser.ui.kit.fields import ChoiceField
from bruiser.ui.kit.parts import Card, Words, button
from bruiser.ui.kit.steady import SteadySlider
from bruiser.ui.stations.guide.presenter import GuidePresenter
from bruiser.ui.theme.tokens import SPACE
from bruiser.workshop.guide.content import say_leaders

MOST = 10


def _headed(heading: str, chart: ChartFrame) -> QHBoxLayout:
    """A heading with the tools of its chart at the right."""
    row = QHBoxLayout()
    row.addWidget(Words(heading, "label", "muted", elide=True), 1)
    row.addWidget(chart.tools)
    return row


class RankPanel(QWidget):
    """Chances of every place at the left; weights and what they would change at the right."""

    def __init__(self, presenter: GuidePresenter) -> None:
        super().__init__()
        self._presenter = presenter
        self.chances = ChartFrame("guide.chances")
        self.parts = ChartFrame("guide.parts")
        self.lines = ChartFrame("guide.lines")
        names = {r.value: SCALES[r].name for r in Rating}
        self.pick = ChoiceField("The weight that moves", "guide.weight.of", names)
        self.sliders: dict[Rating, QSlider] = {}
        self._shares: dict[Rating, Words] = {}
        self.said = Words("", "small")
        self.said.setObjectName("guide.leaders")
        self.keep = button("Keep these weights", "guide.weights.keep", "chip")
        self.back = button("Back to the use's own", "guide.weights.back", "chip")
        self._lay_out()
        self.pick.chosen.connect(lambda _: self._show_lines())
        self.chances.tapped.connect(presenter.tap)
        self.keep.clicked.connect(presenter.keep_profile)
        self.back.clicked.connect(presenter.put_back)

    def _lay_out(self) -> None:
        left = Card()
        for heading, chart, share in (
            ("CHANCE OF EACH PLACE, FROM 10,000 DRAWS", self.chances, 6),
            ("PARTS OF EACH SCORE (WEIGHT × POINTS)", self.parts, 5),
        ):
            left.column.addLayout(_headed(heading, chart))
            left.column.addWidget(chart, share)
        left.column.addWidget(self.said)
        weights = Card("WEIGHTS")
        grid = QGridLayout()
        grid.setHorizontalSpacing(SPACE["s"])
        grid.setVerticalSpacing(0)
        for n, rating in enumerate(Rating):
            slider = SteadySlider()
            slider.setObjectName(f"guide.weight.{rating}")
            slider.setAccessibleName(f"Weight of {SCALES[rating].name.lower()}")
            slider.setRange(0, MOST)
            slider.valueChanged.connect(lambda _: self._on_weights())
            self.sliders[rating] = slider
            self._shares[rating] = Words("", "small", "muted")
            grid.addWidget(Words(SCALES[rating].name, "small"), n, 0)
            grid.addWidget(slider, n, 1)
            grid.addWidget(self._shares[rating], n, 2)
        grid.setColumnStretch(0, 4)
        grid.setColumnStretch(1, 7)
        grid.setColumnStretch(2, 3)
        weights.column.addLayout(grid)
        row = QHBoxLayout()
        row.addWidget(self.keep)
        row.addWidget(self.back)
        row.addStretch(1)
        weights.column.addLayout(row)
        moving = Card()
        moving.column.addLayout(_headed("IF ONE WEIGHT MOVES", self.lines))
        moving.column.addWidget(self.pick)
        moving.column.addWidget(self.lines, 1)
        right = QWidget()
        column = QVBoxLayout(right)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(SPACE["s"])
        column.addWidget(weights)
        column.addWidget(moving, 1)
        across = QHBoxLayout(self)
        across.setContentsMargins(0, 0, 0, 0)
        across.setSpacing(SPACE["s"])
        across.addWidget(left, 1)
        across.addWidget(right, 1)

    def show_ranking(self) -> None:
        """Show the ranking as it stands."""
        p = self._presenter
        profile, choice, facts = p.profile, p.choice, p.facts()
        for part in (self.keep, self.back):
            part.setEnabled(p.reweighed)
        if profile is None:
            return
        shares = shares_of(profile.weights)
        for rating, slider in self.sliders.items():
            slider.blockSignals(True)
            slider.setValue(round(profile.weights.get(rating, 0.0)))
            slider.blockSignals(False)
            share = shares.get(rating, 0.0)
            self._shares[rating].say(f"{100 * share:.0f} %" if share else "does not count")
        if facts is None or choice is None or not facts.rows:
            self.chances.show_chart(None)
            self.parts.show_chart(None)
            self.lines.show_chart(None)
            self.said.say("No knot can be ranked here; Choose says why.")
            return
        rows = rank_rows(facts)

        def draw(width: float, height: float) -> Figure:
            del height
            return rank_figure(rows, width)

        made_of = [
            PartsRow(
                key=r.result,
                name=r.name,
                score=r.score,
                parts=tuple((SCALES[k].name, shares[k], points) for k, points in r.parts.items()),
            )
            for r in facts.rows
        ]
        self.chances.show_chart(draw)
        self.parts.show_chart(lambda width, _: parts_figure(made_of, width))
        names = {one.rated.key: one.rated.name for one in choice.listed}
        self.said.say("\n".join(say_leaders(choice, names)))
        self._show_lines()

    def _show_lines(self) -> None:
        p = self._presenter
        choice = p.choice
        rating = Rating(self.pick.text)
        path = None if choice is None else (choice.paths or {}).get(rating)
        if choice is None or path is None:
            self.lines.show_chart(None)
            return
        names = {one.rated.key: one.rated.name for one in choice.listed}
        lines = [WeightLine(names[key], *ends) for key, ends in path.ends.items()]
        turns = [at for at, _ in path.leaders[1:]]
        label = SCALES[rating].name.lower()

        def draw(width: float, height: float) -> Figure:
            return weight_figure(lines, path.now, turns, label, width, height)

        self.lines.show_chart(draw)

    def _on_weights(self) -> None:
        weights = {r: float(s.value()) for r, s in self.sliders.items()}
        if sum(weights.values()) <= 0:
            self.show_ranking()
            return
        self._presenter.weigh(weights)
