"""The cordage station: the shelf of lots, and one lot's facts, stock, baseline and loads."""

from __future__ import annotations

from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout
from typing_extensions import override

from bruiser.figures.shelf import lots_figure
from bruiser.ui.canvas.figure_view import FigureView
from bruiser.ui.kit.fields import Chips
from bruiser.ui.kit.parts import Card, StationPage, Words, button
from bruiser.ui.kit.scrolled import Scrolled
from bruiser.ui.kit.shown_stack import ShownStack
from bruiser.ui.stations.cordage.facts import FactsPanel
from bruiser.ui.stations.cordage.loads import BaselinePanel, HostPanel, LoadsPanel
from bruiser.ui.stations.cordage.presenter import CordagePresenter
from bruiser.ui.stations.cordage.stock import StockPanel
from bruiser.ui.theme.tokens import SHELF_WIDTH, SPACE

PANELS = {
    "facts": "Lot and baseline",
    "stock": "On the shelf",
    "loads": "Working load",
    "host": "As cord on a host",
}


class CordageView(StationPage):
    """Builds the cordage station and connects it to its presenter."""

    pull_wanted = pyqtSignal(str)

    def __init__(self, presenter: CordagePresenter) -> None:
        super().__init__("cordage")
        self._presenter = presenter
        self.shelf = FigureView("cordage.shelf", tappable=True)
        self.first = self.shelf
        self.new = button("New lot", "cordage.new")
        self.corner.addWidget(self.new)
        self.panels = Chips("cordage.panel", PANELS)
        self.facts = FactsPanel(presenter)
        self.stock = StockPanel(presenter)
        self.baseline = BaselinePanel(presenter)
        self.loads = LoadsPanel(presenter)
        self.host = HostPanel(presenter)
        self.stack = ShownStack()
        both = Scrolled("cordage.lot")
        both.column.setContentsMargins(0, 0, 0, 0)
        both.column.addWidget(self.facts)
        both.column.addWidget(self.baseline, 1)
        for panel in (both, self.stock, self.loads, self.host):
            self.stack.addWidget(panel)
        self._build()
        presenter.changed.connect(self._on_changed)
        presenter.lot_changed.connect(self._on_lot_changed)
        self.shelf.spot_tapped.connect(presenter.show_lot)
        self.shelf.resized.connect(self._draw)
        self.new.clicked.connect(self.begin)
        self.panels.chosen.connect(self._on_panel)
        self.baseline.pull_wanted.connect(self.pull_wanted)
        self.facts.stored.connect(self._on_stored)

    def _build(self) -> None:
        shelf = Card("THE LOTS")
        shelf.setFixedWidth(SHELF_WIDTH)
        shelf.column.addWidget(self.shelf, 1)
        self.empty = Words("No cordage yet. Enter the first lot.", "body", "muted")
        shelf.column.addWidget(self.empty)
        right = QVBoxLayout()
        right.setSpacing(SPACE["s"])
        right.addWidget(self.panels)
        right.addWidget(self.stack, 1)
        across = QHBoxLayout()
        across.setSpacing(SPACE["m"])
        across.addWidget(shelf)
        across.addLayout(right, 1)
        self.body.addLayout(across, 1)

    def _on_stored(self) -> None:
        """Give the keyboard to the button that leads on, once it is there."""
        QTimer.singleShot(0, self.way_on.setFocus)

    def _on_panel(self, key: str) -> None:
        self.stack.setCurrentIndex(list(PANELS).index(key))

    @override
    def begin(self) -> None:
        """Begin a lot."""
        self.panels.pick("facts")
        self._presenter.begin_lot()
        self.facts.form.fields["name"].focus()

    def _on_lot_changed(self) -> None:
        some = self._presenter.lot is not None
        self.baseline.setVisible(some)
        for key in list(PANELS)[1:]:
            self.panels.chip(key).setEnabled(some)
        if not some:
            self.panels.pick("facts")

    def _on_changed(self) -> None:
        p = self._presenter
        lot = p.lot
        if lot is None:
            self.title.say("A new lot" if p.lot_id == "" else "Cordage")
            self.subtitle.say("What it is, how much of it, and in what condition it is pulled.")
        else:
            self.title.say(lot.name)
            size = p.units.section_text(lot.diameter_m, lot.thickness_m)
            about = [f"{size} {lot.material} {lot.construction}"]
            about += [lot.condition] + ([lot.designation] if lot.designation else [])
            self.subtitle.say("  ·  ".join(about))
        self._draw()

    def _draw(self) -> None:
        p = self._presenter
        lots = p.shelf()
        self.empty.setVisible(not lots)
        self.shelf.setVisible(bool(lots))
        if lots:
            figure = lots_figure(lots, *self.shelf.page_mm(), p.lot_id or "")
            self.shelf.show_figure(figure)
            if p.lot_id:
                self.shelf.point_at(p.lot_id)
