"""The brief: the question, what it serves, pass criteria, claims to test, units and names."""

from __future__ import annotations

from PyQt6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)
from typing_extensions import override

from bruiser.core.choice.use_profile import PROFILES
from bruiser.core.records.families import TRADES
from bruiser.ui.kit.fields import ChoiceField, Field, TextBox
from bruiser.ui.kit.inline_form import InlineForm, side_by_side
from bruiser.ui.kit.parts import Card, StationPage, Words, button
from bruiser.ui.kit.scrolled import Scrolled
from bruiser.ui.kit.shown_stack import ShownStack
from bruiser.ui.stations.brief.forms import ClaimForm, CriterionForm
from bruiser.ui.stations.brief.presenter import AskedClaim, BriefPresenter, CriterionRow
from bruiser.ui.theme.tokens import SPACE

FORCES = ("kN", "N", "daN", "kgf", "lbf")
LENGTHS = {"mm": "mm, m", "in": "in, ft"}


class Rows(Card):
    """A card with a list that gives way to a form."""

    def __init__(self, name: str, heading: str, add_words: str, form: InlineForm) -> None:
        super().__init__()
        top = QHBoxLayout()
        top.addWidget(Words(heading, "label", "muted", elide=True), 1)
        self.add = button(add_words, f"{name}.add", "chip")
        top.addWidget(self.add)
        self.column.addLayout(top)
        self.list = Scrolled(f"{name}.list", spacing="m")
        self.form = form
        self.stack = ShownStack()
        self.stack.addWidget(self.list)
        self.stack.addWidget(form)
        self.column.addWidget(self.stack, 1)
        form.left.connect(self.close_form)

    def open_form(self) -> None:
        """Show the form."""
        self.stack.setCurrentWidget(self.form)
        self.add.hide()

    def close_form(self) -> None:
        """Show the list."""
        self.stack.setCurrentWidget(self.list)
        self.add.show()
        self.add.setFocus()


class BriefView(StationPage):
    """Builds the brief and connects it to its presenter."""

    def __init__(self, presenter: BriefPresenter) -> None:
        super().__init__("brief")
        self._presenter = presenter
        self.question = TextBox()
        self.question.setObjectName("brief.question")
        self.question.setAccessibleName("The question")
        self.question.setFixedHeight(round(self.question.fontMetrics().lineSpacing() * 2 + 28))
        self.uses: dict[str, QPushButton] = {}
        self.criterion_form = CriterionForm(presenter)
        self.claim_form = ClaimForm(presenter)
        self.criteria = Rows(
            "brief.criteria",
            "PASS CRITERIA, WRITTEN BEFORE THE PULLS",
            "Write a criterion",
            self.criterion_form,
        )
        self.claims = Rows("brief.claims", "CLAIMS TO TEST", "Enter a claim", self.claim_form)
        self.force = ChoiceField("Loads in", "brief.force", {u: u for u in FORCES})
        self.length = ChoiceField("Lengths in", "brief.length", LENGTHS)
        self.trade = ChoiceField("Knot names as in", "brief.trade", {t: t for t in TRADES})
        self.offcut = Field("Offcuts kept from", "brief.offcut", hint="0.5 m")
        self.first = self.criteria.add
        self._build()
        self._connect()

    def _build(self) -> None:
        asked = Card("THE QUESTION")
        asked.column.addWidget(self.question)
        asked.column.addWidget(Words("What the answer serves", "small", "muted"))
        grid = QGridLayout()
        grid.setSpacing(SPACE["xs"])
        for number, use in enumerate(PROFILES):
            words = use.name[:1].lower() + use.name[1:]
            chip = button(words, f"brief.use.{use.key}", "chip")
            chip.setCheckable(True)
            chip.clicked.connect(lambda on, k=use.key: self._presenter.choose_use(k, on))
            self.uses[use.key] = chip
            grid.addWidget(chip, number // 2, number % 2)
        asked.column.addLayout(grid)
        settings = Card("UNITS AND NAMES")
        settings.column.addLayout(
            side_by_side((self.force, 3), (self.length, 4), (self.trade, 5), (self.offcut, 4))
        )
        left, right = QWidget(), QWidget()
        for side, parts in ((left, (asked, self.criteria)), (right, (self.claims, settings))):
            column = QVBoxLayout(side)
            column.setContentsMargins(0, 0, 0, 0)
            column.setSpacing(SPACE["s"])
            for part in parts:
                column.addWidget(part, int(isinstance(part, Rows)))
        across = QHBoxLayout()
        across.setSpacing(SPACE["m"])
        across.addWidget(left, 1)
        across.addWidget(right, 1)
        self.body.addLayout(across, 1)

    def _connect(self) -> None:
        p = self._presenter
        p.changed.connect(self._on_changed)
        self.question.left.connect(self._on_question_left)
        self.criteria.add.clicked.connect(lambda: self._open_criterion(None))
        self.claims.add.clicked.connect(self._open_claim)
        self.force.chosen.connect(lambda unit: p.change(force_unit=unit))
        self.length.chosen.connect(lambda unit: p.change(length_unit=unit))
        self.trade.chosen.connect(lambda trade: p.change(trade=trade))
        self.offcut.entry.editingFinished.connect(self._on_offcut)
        for part in (self.question, self.force, self.length, self.trade, self.offcut):
            part.setEnabled(not p.workshop.read_only)

    def _open_criterion(self, row: CriterionRow | None) -> None:
        self.criterion_form.open(None if row is None else row.criterion)
        self.criteria.open_form()

    def _open_claim(self) -> None:
        self.claim_form.open()
        self.claims.open_form()

    @override
    def begin(self) -> None:
        """Begin with the question."""
        self.question.setFocus()

    def _on_question_left(self) -> None:
        text = self.question.toPlainText().strip()
        if text:
            self._presenter.change(question=text)

    def _on_offcut(self) -> None:
        if self._shown_offcut() != self.offcut.text.strip():
            self.offcut.complain(
                self._presenter.store_offcut(self.offcut.text).errors.get("offcut", "")
            )

    def _shown_offcut(self) -> str:
        p = self._presenter
        return p.units.cord_text(p.workshop.campaign.offcut_minimum_m)

    def _on_changed(self) -> None:
        p = self._presenter
        row = p.workshop.campaign
        self.title.say(p.title()[0])
        self.subtitle.say(p.title()[1])
        if not self.question.hasFocus():
            self.question.setPlainText(row.question)
        chosen = p.logbook.brief.uses if p.logbook is not None else ()
        for key, chip in self.uses.items():
            chip.setChecked(key in chosen)
        self.force.fill(row.force_unit)
        self.length.fill(row.length_unit)
        self.trade.fill(row.trade)
        if not self.offcut.entry.hasFocus():
            self.offcut.fill(self._shown_offcut())
        criteria = [self._criterion(r) for r in p.criteria()]
        self.criteria.list.replace(
            criteria or [_nothing("No pass criterion yet. Write it before the first pull.")]
        )
        claims = [self._claim(r) for r in p.claims()]
        self.claims.list.replace(
            claims or [_nothing("No claims yet. Enter what people say of these knots.")]
        )

    def _criterion(self, row: CriterionRow) -> QWidget:
        made = _Row(
            row.words,
            [(row.scope, "ink"), (row.when, "ochre" if row.late else "moss"), (row.was, "ochre")],
        )
        made.act("Change", f"brief.criterion.change.{row.criterion.id}", row.words).clicked.connect(
            lambda: self._open_criterion(row)
        )
        made.act(
            "Withdraw", f"brief.criterion.withdraw.{row.criterion.id}", row.words
        ).clicked.connect(lambda: self._presenter.withdraw_criterion(row.criterion))
        return made

    def _claim(self, row: AskedClaim) -> QWidget:
        made = _Row(
            row.words,
            [
                (f"Supported by: {row.supports}.", "muted"),
                (f"Contradicted by: {row.contradicts}.", "muted"),
                (row.state[0].upper() + row.state[1:], "storm"),
            ],
        )
        made.act("Withdraw", f"brief.claim.withdraw.{row.claim.id}", row.words).clicked.connect(
            lambda: self._presenter.withdraw_claim(row.claim)
        )
        return made


class _Row(QWidget):
    """One thing asked: what it says, lines about it, and what can be done with it."""

    def __init__(self, words: str, lines: list[tuple[str, str]]) -> None:
        super().__init__()
        across = QHBoxLayout(self)
        across.setContentsMargins(0, 0, 0, 0)
        column = QVBoxLayout()
        column.setSpacing(1)
        column.addWidget(Words(words, "strong"))
        for text, tone in lines:
            if text:
                column.addWidget(Words(text, "small", tone))
        across.addLayout(column, 1)
        self._acts = QVBoxLayout()
        self._acts.setSpacing(SPACE["xs"])
        self._acts.addStretch(1)
        across.addLayout(self._acts)

    def act(self, words: str, name: str, about: str) -> QPushButton:
        """Add a small button."""
        made = button(words, name, "chip")
        made.setAccessibleName(f"{words}: {about}")
        self._acts.insertWidget(self._acts.count() - 1, made)
        return made


def _nothing(text: str) -> QWidget:
    return Words(text, "body", "muted")
