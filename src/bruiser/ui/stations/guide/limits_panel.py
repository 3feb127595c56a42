"""The limits of the bands and of staying tied: named, shown, changed as a new version."""

from __future__ import annotations

from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QWidget

from bruiser.core.behaviour.security import CRITERIA
from bruiser.core.choice.rating import SCALES, Rating
from bruiser.ui.kit.fields import Field, Form, Labelled
from bruiser.ui.kit.parts import Card, Words, button
from bruiser.ui.kit.scrolled import Scrolled
from bruiser.ui.stations.guide.presenter import GuidePresenter
from bruiser.ui.theme.tokens import SPACE
from bruiser.workshop.guide.book import set_limits
from bruiser.workshop.guide.entry import limits_texts, read_limits

BANDS = 4
ACROSS = {"rows": "knots, prior", "spread": "cordages, prior"}


class LimitsPanel(QWidget):
    """Every band with its name and where it begins; what is good and poor of staying tied."""

    def __init__(self, presenter: GuidePresenter) -> None:
        super().__init__()
        self._presenter = presenter
        fields: dict[str, Labelled] = {}
        bands = Card("BANDS, WORST AT THE LEFT: NAME, AND WHERE IT BEGINS")
        grid = QGridLayout()
        grid.setHorizontalSpacing(SPACE["s"])
        grid.setVerticalSpacing(SPACE["xs"])
        for row, rating in enumerate(Rating):
            scale = SCALES[rating]
            how = "lower end of the interval" if scale.by_low else "value"
            what = Words(f"{scale.name}\n{scale.measures}, by the {how}", "small")
            grid.addWidget(what, row, 0)
            for n in range(BANDS):
                label = "worst" if n == 0 else f"band {n + 1}"
                name = Field(label, f"guide.limits.name.{rating}.{n}")
                fields[f"name.{rating}.{n}"] = name
                grid.addWidget(name, row, 1 + 2 * n)
                if n:
                    limit = Field("begins at", f"guide.limits.limit.{rating}.{n}")
                    fields[f"limit.{rating}.{n}"] = limit
                    grid.addWidget(limit, row, 2 + 2 * n)
        grid.setColumnStretch(0, 4)
        for n in range(BANDS):
            grid.setColumnStretch(1 + 2 * n, 4)
            grid.setColumnStretch(2 + 2 * n, 3 if n else 0)
        scroll = Scrolled("guide.limits.bands")
        scroll.column.addLayout(grid)
        scroll.column.addStretch(1)
        bands.column.addWidget(scroll, 1)
        ties = Card("STAYING TIED: WHAT IS GOOD AND WHAT IS POOR; THE WEAKEST DECIDES")
        row_of = QGridLayout()
        row_of.setHorizontalSpacing(SPACE["s"])
        for n, (key, words) in enumerate(CRITERIA.items()):
            for k, end in enumerate(("good", "poor")):
                field = Field(f"{words}, {end}", f"guide.limits.{key}.{end}")
                fields[f"{key}.{end}"] = field
                row_of.addWidget(field, k, n)
        reference = Field("draw read at", "guide.limits.reference")
        fields["reference"] = reference
        row_of.addWidget(reference, 0, len(CRITERIA))
        for k, (end, words) in enumerate(ACROSS.items()):
            field = Field(words, f"guide.limits.across.{end}")
            fields[f"across.{end}"] = field
            row_of.addWidget(field, k, len(CRITERIA) + 1)
        ties.column.addLayout(row_of)
        self.form = Form(fields)
        self.comment = Field("Why they change", "guide.limits.comment")
        self.store = button("Set these limits", "guide.limits.store", "primary")
        self.said = Words("", "small", "muted")
        self.said.setObjectName("guide.limits.said")
        self.store.clicked.connect(self._on_store)
        acts = QHBoxLayout()
        acts.setSpacing(SPACE["s"])
        acts.addWidget(self.comment, 3)
        acts.addWidget(self.said, 3)
        acts.addWidget(self.store)
        ties.column.addLayout(acts)
        whole = QGridLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(SPACE["s"])
        whole.addWidget(bands, 0, 0)
        whole.addWidget(ties, 1, 0)
        whole.setRowStretch(0, 1)

    def show_limits(self) -> None:
        """Fill the form with the limits in force."""
        book = self._presenter.book
        self.form.fill(limits_texts(book.limits))
        history = book.limits_history
        if not history:
            self.said.say("As shipped, version 0. The guide says which version it used.")
            return
        last = history[-1]
        why = f": {last.comment}" if last.comment else ""
        self.said.say(f"Version {book.limits.version}, set {last.made_at[:10]}{why}")

    def _on_store(self) -> None:
        p = self._presenter
        made, errors = read_limits(self.form.texts(), p.book.limits)
        self.form.complain(errors)
        if made is None:
            return
        comment = self.comment.text.strip()
        if p.attempt(lambda: set_limits(p.workshop, made, comment)):
            self.comment.fill("")
