"""What is chosen above a sheet: the lot, and what only some sheets need."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QMenu, QVBoxLayout, QWidget

from bruiser.core.performance.efficiency import Against
from bruiser.ui.kit.fields import Chips, ChoiceField, Field
from bruiser.ui.kit.parts import button
from bruiser.ui.stations.results.compare import WAYS
from bruiser.ui.stations.results.drift import BY
from bruiser.ui.stations.results.presenter import ResultsPresenter
from bruiser.ui.stations.results.sheets import SHEETS
from bruiser.ui.stations.results.strength import SORTS
from bruiser.ui.theme.tokens import SPACE

FLOORS = {"0.9": "90 in 100 hold", "0.95": "95 in 100 hold", "0.99": "99 in 100 hold"}
SURE = {"0.9": "said 90 % sure", "0.95": "said 95 % sure", "0.99": "said 99 % sure"}
SHARE_OF = {
    Against.TYPICAL.value: "typical plain rope",
    Against.LOWEST.value: "lowest plain-rope pull",
    Against.RATING.value: "maker's rating",
}
LOT_PX = 300
FILTERS = ("variant", "host", "dressing", "technician")


class SheetControls(QWidget):
    """Lot and choices in a row, and the filters in a second one that opens on demand."""

    def __init__(self, presenter: ResultsPresenter) -> None:
        super().__init__()
        self._presenter = p = presenter
        self.lot = ChoiceField("Lot", "results.lot")
        self.sort = ChoiceField("Order", "results.sort", SORTS)
        self.against = ChoiceField("Share of", "results.against", SHARE_OF)
        self.floor = ChoiceField("Floor", "results.floor", FLOORS)
        self.sure = ChoiceField("Confidence", "results.sure", SURE)
        self.target = Field("Load the wraps must hold", "results.target", hint="from the brief")
        self.way = Chips("results.way", WAYS)
        self.by = Chips("results.by", BY)
        self.compared = button("", "results.compared", "chip")
        self.compared.setAccessibleName("Which are compared")
        self._menu = QMenu(self.compared)
        self.compared.setMenu(self._menu)
        self._menu.aboutToShow.connect(self._offer_compared)
        self.alike = ChoiceField("Which compare", "results.alike")
        self.without = button("", "results.without", "chip")
        self.without.setAccessibleName("Which cordages enter")
        self._lots_menu = QMenu(self.without)
        self.without.setMenu(self._lots_menu)
        self._lots_menu.aboutToShow.connect(self._offer_lots)
        self.filter = button("Filter …", "results.filter", "chip")
        self.filter.setCheckable(True)
        self.filters = {
            key: ChoiceField(key.capitalize(), f"results.filter.{key}") for key in FILTERS
        }
        self._parts: dict[str, QWidget] = {
            "sort": self.sort,
            "against": self.against,
            "floor": self.floor,
            "sure": self.sure,
            "filter": self.filter,
            "target": self.target,
            "way": self.way,
            "compared": self.compared,
            "alike": self.alike,
            "without": self.without,
            "by": self.by,
        }
        self._lay_out()
        self.floor.fill("0.95")
        self.sure.fill("0.95")
        self.lot.chosen.connect(p.show_lot)
        self.sort.chosen.connect(lambda key: p.show(sort=key))
        self.against.chosen.connect(p.measure_against)
        for choice in (self.floor, self.sure):
            choice.chosen.connect(self._on_floor)
        self.target.entry.editingFinished.connect(self._on_target)
        self.way.chosen.connect(lambda key: p.show(way=key))
        self.by.chosen.connect(lambda key: p.show(by=key))
        self.alike.chosen.connect(lambda key: p.show(alike=key))
        self.filter.toggled.connect(self._second.setVisible)
        for key, choice in self.filters.items():
            choice.chosen.connect(self._on_filter(key))

    def _lay_out(self) -> None:
        first = QHBoxLayout()
        first.setSpacing(SPACE["s"])
        self.lot.setMaximumWidth(LOT_PX)
        self.target.setMaximumWidth(LOT_PX)
        first.addWidget(self.lot, 5)
        shares = {"alike": 5, "sort": 4, "against": 5, "floor": 4, "sure": 4, "target": 4}
        for key, part in self._parts.items():
            down = Qt.AlignmentFlag.AlignBottom if key not in shares else Qt.AlignmentFlag(0)
            first.addWidget(part, shares.get(key, 0), down)
        first.addStretch(2)
        self._second = QWidget()
        second = QHBoxLayout(self._second)
        second.setContentsMargins(0, 0, 0, 0)
        second.setSpacing(SPACE["s"])
        for choice in self.filters.values():
            second.addWidget(choice, 1)
        self._second.hide()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(SPACE["xs"])
        column.addLayout(first)
        column.addWidget(self._second)

    def _on_filter(self, key: str) -> Callable[[str], None]:
        return lambda text: self._presenter.filter(**{key: text})

    def _on_floor(self, _: str) -> None:
        self._presenter.ask_floor(float(self.floor.text), float(self.sure.text))

    def _on_target(self) -> None:
        self.target.complain(self._presenter.hold(self.target.text))

    def take_up(self) -> None:
        """Offer what there is now, and show what this sheet needs."""
        p = self._presenter
        self.lot.offer(p.lots())
        self.lot.fill(p.lot_id)
        kind = SHEETS[p.asked.sheet]
        self.lot.setVisible(kind.by_lot)
        for key, part in self._parts.items():
            part.setVisible(key in kind.controls)
        for chips, key in ((self.way, p.shown.way), (self.by, p.shown.by)):
            if chips.key != key:
                chips.blockSignals(True)
                chips.pick(key)
                chips.blockSignals(False)
        self.compared.setVisible("compared" in kind.controls and p.shown.way == "pairs")
        self._second.setVisible("filter" in kind.controls and self.filter.isChecked())
        for key, options in p.filter_options().items():
            self.filters[key].offer(options)
            self.filters[key].fill(getattr(p.asked.filters, key))
        asked = p.asked
        self.sort.fill(p.shown.sort)
        self.against.fill(asked.against.value)
        self.floor.fill(f"{asked.floor_share:g}")
        self.sure.fill(f"{asked.confidence:g}")
        self.alike.offer(p.alike_sets())
        self.alike.fill(p.alike_key())
        lots, out = p.lots_across(), set(asked.across.left_out)
        self.without.setText(f"{sum(k not in out for k, _ in lots)} of {len(lots)} cordages enter ")
        self.compared.setText(f"{len(p.compared())} of {len(p.comparable())} compared ")

    def _offer_compared(self) -> None:
        p = self._presenter
        rows, chosen = p.comparable(), p.compared()
        self._menu.clear()
        for key, name in rows:
            action = self._menu.addAction(name)
            if action is None:
                continue
            action.setCheckable(True)
            action.setChecked(key in chosen)
            action.setData(key)
            action.triggered.connect(lambda _=False, k=key: self._on_compared(k))

    def _on_compared(self, key: str) -> None:
        chosen = [k for k in self._presenter.compared() if k != key]
        if len(chosen) == len(self._presenter.compared()):
            chosen.append(key)
        if len(chosen) >= 2:
            self._presenter.compare(tuple(chosen))
        else:
            self.take_up()

    def _offer_lots(self) -> None:
        p = self._presenter
        self._lots_menu.clear()
        for key, name in p.lots_across():
            action = self._lots_menu.addAction(name)
            if action is not None:
                action.setCheckable(True)
                action.setChecked(key not in p.asked.across.left_out)
                action.triggered.connect(lambda _=False, k=key: p.leave_out_lot(k))
        self._lots_menu.addSeparator()
        for text in p.asked.across.beside:
            gone = self._lots_menu.addAction(f"Take {Path(text).name} away")
            if gone is not None:
                gone.triggered.connect(lambda _=False, t=text: p.lay_beside(Path(t)))
        more = self._lots_menu.addAction("Lay another campaign beside …")
        if more is not None:
            more.triggered.connect(self._on_beside)

    def _on_beside(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self, "Lay a campaign beside, read-only", "", "Campaigns (*.bruiser)"
        )
        if name:
            self._presenter.lay_beside(Path(name))
