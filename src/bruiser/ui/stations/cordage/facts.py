"""What is known of a lot, as a form that stores on request and asks where a value is odd."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout

from bruiser.core.planning.plausibility import known_materials
from bruiser.ui.kit.fields import ChoiceField, Field, Form, Labelled
from bruiser.ui.kit.parts import Card, Words, button
from bruiser.ui.stations.cordage.presenter import CordagePresenter
from bruiser.ui.theme.tokens import SPACE
from bruiser.workshop.desk.lot_entry import DIAMETER_MEANS, RATING_MEANS

FIELDS: tuple[tuple[str, str, str, int, int, int], ...] = (
    # name, label, hint, row, column, columns it spans (of 12)
    ("name", "Name on the label", "P8-B", 0, 0, 3),
    ("designation", "Maker's designation", "", 0, 3, 5),
    ("material", "Material", ", ".join(known_materials()[:3]), 0, 8, 4),
    ("construction", "Construction", "double braid", 1, 0, 3),
    ("diameter", "Diameter, or w x t", "8 mm or 25 x 2 mm", 1, 3, 2),
    ("diameter_means", "The diameter is", "", 1, 5, 4),
    ("reference_tension", "at a tension of", "640 N", 1, 9, 3),
    ("rating", "Rated strength", "13 kN", 2, 0, 3),
    ("rating_means", "The rating is a", "", 2, 3, 3),
    ("mass", "Mass per length", "49.6 g/m", 2, 6, 3),
    ("stretch", "Static elongation", "3.1 %", 2, 9, 3),
    ("condition", "Condition", "new, dry", 3, 0, 3),
    ("conditioning", "Conditioning", "in fresh water, 15 °C", 3, 3, 4),
    ("soak", "Takes", "2 h", 3, 7, 2),
    ("keep", "then pulled within", "20 min", 3, 9, 3),
    ("age", "Age", "bought spring 2026", 4, 0, 3),
    ("history", "History", "never loaded", 4, 3, 6),
    ("stock", "Cut from", "", 4, 9, 3),
)
_CHOICES = {"diameter_means": DIAMETER_MEANS, "rating_means": RATING_MEANS, "stock": {}}


class FactsPanel(Card):
    """The facts of one lot; nothing typed is stored before it is asked to."""

    stored = pyqtSignal()

    def __init__(self, presenter: CordagePresenter) -> None:
        super().__init__()
        self._presenter = presenter
        fields: dict[str, Labelled] = {}
        grid = QGridLayout()
        grid.setHorizontalSpacing(SPACE["s"])
        grid.setVerticalSpacing(SPACE["xs"])
        for column in range(12):
            grid.setColumnStretch(column, 1)
        for name, label, hint, row, column, span in FIELDS:
            key = f"cordage.{name}"
            options = _CHOICES.get(name)
            made = (
                Field(label, key, hint=hint)
                if options is None
                else ChoiceField(label, key, options)
            )
            fields[name] = made
            grid.addWidget(made, row, column, 1, span, Qt.AlignmentFlag.AlignTop)
        self.form = Form(fields)
        self._shown: dict[str, str] = {}
        self.store = button("Store", "cordage.store", "primary")
        self.anyway = button("It is right, store it", "cordage.store_anyway")
        self.archive = button("Archive", "cordage.archive")
        self.delete = button("Delete", "cordage.delete")
        self.said = Words("", "small", "muted", elide=True)
        self.said.setObjectName("cordage.said")
        self.column.addLayout(grid)
        self.column.addStretch(1)
        row_ = QHBoxLayout()
        row_.addWidget(self.archive)
        row_.addWidget(self.delete)
        row_.addWidget(self.said, 1)
        row_.addWidget(self.anyway)
        row_.addWidget(self.store)
        self.column.addLayout(row_)
        self.store.clicked.connect(lambda: self._on_store(anyway=False))
        self.anyway.clicked.connect(lambda: self._on_store(anyway=True))
        self.archive.clicked.connect(presenter.archive)
        self.delete.clicked.connect(presenter.delete)
        presenter.lot_changed.connect(self.show_lot)
        for field in fields.values():
            if isinstance(field, Field):
                field.entry.textChanged.connect(self._look)
                field.entry.returnPressed.connect(self._on_return)
            elif isinstance(field, ChoiceField):
                field.box.currentIndexChanged.connect(self._look)

    def _look(self) -> None:
        """Changes can be stored once there are some."""
        p = self._presenter
        self.store.setEnabled(p.lot is None or self.form.texts() != self._shown)

    def show_lot(self) -> None:
        """Fill the form with the lot, or empty it for a new one."""
        p = self._presenter
        stock = self.form.fields["stock"]
        if isinstance(stock, ChoiceField):
            stock.offer(p.stock_choices())
        self.form.fill(p.texts())
        self._shown = self.form.texts()
        self._look()
        self.anyway.hide()
        lot = p.lot
        for old in (self.archive, self.delete):
            old.setVisible(lot is not None)
        if lot is None:
            self.store.setText("Enter the lot")
            self.said.say("A rating is no baseline: pull it straight before any knot counts.")
            return
        self.store.setText("Store changes")
        self.archive.setText("Bring back" if lot.archived else "Archive")
        self.said.say("Numbers may be typed in any unit: 5/16 in, 2900 lbf, 0.033 lb/ft.")

    def _on_return(self) -> None:
        if self.store.isEnabled():
            self._on_store(anyway=False)

    def _on_store(self, *, anyway: bool) -> None:
        checked = self._presenter.store_lot(self.form.texts(), anyway=anyway)
        if checked.stored:
            self.stored.emit()
            return
        self.form.complain(checked.errors, checked.asks)
        self.anyway.setVisible(bool(checked.asks) and not checked.errors)
