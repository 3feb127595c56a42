"""Stock of a lot: its hanks to scale, what comes in, what is cut, what goes back, the ledger."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout

from bruiser.core.records.stock import HankKind
from bruiser.figures.shelf import hanks_figure
from bruiser.ui.canvas.figure_view import FigureView
from bruiser.ui.kit.fields import ChoiceField, Field, Form
from bruiser.ui.kit.inline_form import side_by_side
from bruiser.ui.kit.parts import Card, Words, button
from bruiser.ui.kit.plain_table import PlainTable
from bruiser.ui.stations.cordage.presenter import CordagePresenter
from bruiser.ui.theme.theme import theme
from bruiser.ui.theme.tokens import SPACE

_COLUMNS = ("Day", "Hank", "What", "Length", "For")


class StockPanel(Card):
    """The shelf and the ledger of one lot."""

    def __init__(self, presenter: CordagePresenter) -> None:
        super().__init__()
        self._presenter = presenter
        self.hanks = FigureView("cordage.hanks")
        self.empty = Words("", "body", "muted")
        self.label = Field("Label on it", "cordage.hank.label", hint="P8-B/4")
        self.kind = ChoiceField("Kind", "cordage.hank.kind", {k: k.value for k in HankKind})
        self.length = Field("Measured length", "cordage.hank.length", hint="60.2 m")
        self.hank_form = Form({"label": self.label, "kind": self.kind, "length": self.length})
        self.take_in = button("Take in", "cordage.hank.store")
        self.anyway = button("It is right, take it in", "cordage.hank.anyway")
        self.piece = ChoiceField("Planned, not cut", "cordage.cut.specimen")
        self.source = ChoiceField("From", "cordage.cut.hank")
        self.cut = button("Cut", "cordage.cut.store")
        self.cut_piece = ChoiceField("Cut, never loaded", "cordage.back.specimen")
        self.rest = Field("Length left of it", "cordage.back.rest", hint="0.8 m")
        self.back_form = Form({"specimen": self.cut_piece, "rest": self.rest})
        self.back = button("Put back", "cordage.back.store")
        self.ledger = PlainTable("cordage.ledger", "Ledger", _COLUMNS)
        self._build()
        self._connect()

    def _build(self) -> None:
        column = self.column
        column.setSpacing(SPACE["s"])
        column.addWidget(self.hanks)
        column.addWidget(self.empty)
        top = Qt.AlignmentFlag.AlignBottom
        coming = side_by_side((self.label, 3), (self.kind, 2), (self.length, 3))
        coming.addWidget(self.take_in, 0, top)
        coming.addWidget(self.anyway, 0, top)
        cutting, going_back = QHBoxLayout(), QHBoxLayout()
        for row in (cutting, going_back):
            row.setSpacing(SPACE["s"])
        for part, share in ((self.piece, 3), (self.source, 3), (self.cut, 0)):
            cutting.addWidget(part, share, top)
        for other, share in ((self.cut_piece, 3), (self.rest, 3), (self.back, 0)):
            going_back.addWidget(other, share, top)
        column.addLayout(coming)
        column.addLayout(cutting)
        column.addLayout(going_back)
        column.addWidget(
            Words(
                "What was loaded never comes back to the shelf; offcuts shorter than the campaign "
                "keeps are written off as waste.",
                "small",
                "muted",
            )
        )
        column.addWidget(self.ledger, 1)

    def _connect(self) -> None:
        p = self._presenter
        p.changed.connect(self._on_changed)
        p.lot_changed.connect(self._on_lot)
        self.hanks.resized.connect(self._draw)
        self.take_in.clicked.connect(lambda: self._on_take_in(anyway=False))
        self.anyway.clicked.connect(lambda: self._on_take_in(anyway=True))
        self.cut.clicked.connect(lambda: p.cut(self.piece.text, self.source.text))
        self.back.clicked.connect(self._on_back)

    def _on_lot(self) -> None:
        self.hank_form.fill({"kind": HankKind.HANK})
        self.back_form.fill({})
        self.anyway.hide()

    def _on_changed(self) -> None:
        p = self._presenter
        hanks = p.hanks()
        self.hanks.setVisible(bool(hanks))
        self.empty.setVisible(not hanks)
        self.empty.say("Nothing on the shelf yet. Measure a hank and take it in.")
        self.piece.offer(p.to_cut())
        self.source.offer([(h.key, f"{h.label}, {h.left_words}") for h in hanks if h.left_m > 0])
        self.cut.setEnabled(bool(self.piece.text and self.source.text))
        self.cut_piece.offer(p.cut_unloaded())
        self.back.setEnabled(bool(self.cut_piece.text))
        self.hanks.setFixedHeight(round(theme().px(13.0) * min(max(len(hanks), 1), 5)))
        self.ledger.show_rows(p.ledger())
        self._draw()

    def _draw(self) -> None:
        hanks = self._presenter.hanks()
        if hanks:
            self.hanks.show_figure(hanks_figure(hanks, *self.hanks.page_mm()))

    def _on_take_in(self, *, anyway: bool) -> None:
        checked = self._presenter.store_hank(self.hank_form.texts(), anyway=anyway)
        if checked.stored:
            self._on_lot()
            return
        self.hank_form.complain(checked.errors, checked.asks)
        self.anyway.setVisible(bool(checked.asks))

    def _on_back(self) -> None:
        checked = self._presenter.put_back(self.back_form.texts())
        if checked.stored:
            self.back_form.fill({})
        else:
            self.back_form.complain(checked.errors)
