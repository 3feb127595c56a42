"""The results station: the ladder, what it says in words, and the pull behind a mark."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QVBoxLayout, QWidget

from bruiser.figures.ladder import ladder_figure
from bruiser.figures.strip import StripState
from bruiser.ui.canvas.figure_view import FigureView
from bruiser.ui.kit.parts import Card, StationPage, Words, button
from bruiser.ui.kit.strip_view import StripView
from bruiser.ui.kit.trace_view import TraceView
from bruiser.ui.stations.results.presenter import ResultsPresenter
from bruiser.ui.theme.tokens import SPACE

CAUTION = (
    "Comparisons from small samples on one bench. No approval for lifting, rescue, fall "
    "protection or climbing: that follows the local code, the maker and a licensed person."
)


class ResultsView(StationPage):
    """Builds the results station and connects it to its presenter."""

    trace_wanted = pyqtSignal(str)

    def __init__(self, presenter: ResultsPresenter) -> None:
        super().__init__("results")
        self._presenter = presenter
        self.lots = QButtonGroup(self)
        self._lot_ids: tuple[str, ...] = ()
        self.ladder = FigureView("results.ladder", tappable=True)
        self.first = self.ladder
        self.sentence = Words("", "body")
        self.sentence.setObjectName("results.sentence")
        self.caveats = Words("", "small", "ochre", elide=True)
        self.caveats.setObjectName("results.caveats")
        self.trace = TraceView("results.trace")
        self.strip = StripView("results.strip")
        self.strip.setFixedHeight(46)
        self.behind = Words("Tap a mark to open the pull behind it.", "small", "muted")
        self.behind.setObjectName("results.behind")
        self.behind.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.look = button("Look into the trace", "results.trace.open", "chip")
        self.asked = QWidget()
        self.asked.setObjectName("results.asked")
        QVBoxLayout(self.asked).setContentsMargins(0, 0, 0, 0)
        chart = Card()
        chart.column.addWidget(self.ladder, 1)
        chart.column.addWidget(self.sentence)
        chart.column.addWidget(self.caveats)
        chart.column.addWidget(self.asked)
        below = Card("THE PULL BEHIND THE MARK")
        across = QHBoxLayout()
        across.setSpacing(SPACE["l"])
        words = QWidget()
        column = QVBoxLayout(words)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.strip)
        column.addWidget(self.behind, 1)
        column.addWidget(self.look, 0, Qt.AlignmentFlag.AlignLeft)
        across.addWidget(words, 2)
        across.addWidget(self.trace, 3)
        below.column.addLayout(across)
        below.setFixedHeight(196)
        self.body.addWidget(chart, 1)
        self.body.addWidget(below)
        self.body.addWidget(Words(CAUTION, "small", "muted", elide=True))
        presenter.results_ready.connect(self._on_results_ready)
        self.look.clicked.connect(self._on_look)
        presenter.selection_changed.connect(self._on_selection_changed)
        self.ladder.spot_tapped.connect(presenter.select)
        self.ladder.resized.connect(self._draw)

    def _on_results_ready(self) -> None:
        p = self._presenter
        title, about = p.title()
        self.title.say(title)
        self.subtitle.say(about)
        self._offer_lots()
        self._show_asked()
        self._on_selection_changed()

    def _show_asked(self) -> None:
        """The pass criteria of this lot, judged; the pulls behind each in its tooltip."""
        column = self.asked.layout()
        asked = self._presenter.asked()
        self.asked.setVisible(bool(asked))
        if column is None:
            return
        while column.count():
            item = column.takeAt(0)
            gone = None if item is None else item.widget()
            if gone is not None:
                gone.setParent(None)
                gone.deleteLater()
        for number, line in enumerate(asked):
            words = Words(f"Asked: {line.text}", "small", line.tone)
            words.setObjectName(f"results.asked.{number}")
            words.setToolTip(line.pulls)
            words.setAccessibleDescription(line.pulls)
            column.addWidget(words)

    def _offer_lots(self) -> None:
        p = self._presenter
        entries = p.journal.entries if p.journal is not None else ()
        pulled = {e.specimen.lot.id for e in entries}
        lots = [x for x in p.journal.lots if x.id in pulled] if p.journal is not None else []
        ids = tuple(lot.id for lot in lots)
        if ids != self._lot_ids:
            self._lot_ids = ids
            for old in self.lots.buttons():
                self.lots.removeButton(old)
                self.corner.removeWidget(old)
                old.deleteLater()
            for lot in lots:
                chip = button(lot.name, f"results.lot.{lot.name}")
                chip.setAccessibleName(f"Lot {lot.name}")
                chip.setCheckable(True)
                chip.clicked.connect(lambda _=False, key=lot.id: p.show_lot(key))
                self.lots.addButton(chip)
                self.corner.addWidget(chip)
        for made, key in zip(self.lots.buttons(), ids, strict=True):
            made.setChecked(key == p.lot_id)

    def _on_selection_changed(self) -> None:
        p = self._presenter
        self.sentence.say(p.sentence())
        self.caveats.say(p.caveats())
        self.caveats.setVisible(bool(p.caveats()))
        entry = p.selected_entry()
        self.strip.setVisible(entry is not None)
        self.trace.setVisible(entry is not None)
        self.look.setVisible(entry is not None)
        if entry is None:
            self.behind.say("Tap a mark to open the pull behind it.")
        else:
            finding = entry.finding
            state = StripState(
                place=None if finding is None else finding.place,
                gave=None if finding is None else finding.gave,
                compact=True,
            )
            self.strip.show_strip(entry.specimen.layout, state)
            self.behind.say(p.entry_words())
            self.trace.show_trace(p.trace(), entry.analysis, p.units)
        self._draw()

    def _on_look(self) -> None:
        entry = self._presenter.selected_entry()
        if entry is not None and entry.pull is not None:
            self.trace_wanted.emit(entry.pull.id)

    def _draw(self) -> None:
        ladder = self._presenter.ladder()
        if ladder is not None:
            self.ladder.show_figure(ladder_figure(ladder, *self.ladder.page_mm()))
