"""The forms of the brief: a pass criterion, and a claim by its pattern."""

from __future__ import annotations

from bruiser.core.choice.brief import PATTERNS, Claim, Criterion, pattern_of, say_deciders
from bruiser.core.choice.criteria import Measure
from bruiser.core.errors import InputError
from bruiser.core.performance.claims import ClaimKind
from bruiser.core.units import parse_share
from bruiser.ui.kit.fields import ChoiceField, Field, Form, Labelled, Ticks
from bruiser.ui.kit.inline_form import InlineForm, side_by_side
from bruiser.ui.kit.parts import Words
from bruiser.ui.stations.brief.presenter import BriefPresenter
from bruiser.workshop.desk.brief_entry import MEASURE_WORDS, criterion_texts


class CriterionForm(InlineForm):
    """Measure, threshold, k of n, and for which groups."""

    def __init__(self, presenter: BriefPresenter) -> None:
        super().__init__("brief.criterion", "Write it down", self._on_store)
        self._presenter = presenter
        self._earlier: Criterion | None = None
        self.measure = ChoiceField(
            "What it must do",
            "brief.criterion.measure",
            {m: w for m, (w, _) in MEASURE_WORDS.items()},
        )
        self.threshold = Field("Share of baseline, %", "brief.criterion.threshold", hint="60 %")
        self.need = Field("In how many", "brief.criterion.need", hint="5")
        self.of = Field("of how many pulls", "brief.criterion.of", hint="5")
        self.comment = Field("Why it changes, or a note", "brief.criterion.comment")
        self.lots = Ticks("In these lots (none ticked: every lot)", "brief.criterion.lots")
        self.knots = Ticks("For these knots (none ticked: every knot)", "brief.criterion.knots")
        self.form = Form(
            {
                "measure": self.measure,
                "threshold": self.threshold,
                "need": self.need,
                "of": self.of,
                "comment": self.comment,
            }
        )
        self.column.addLayout(side_by_side((self.measure, 5), (self.threshold, 3)))
        self.column.addLayout(side_by_side((self.need, 2), (self.of, 2), (self.comment, 5)))
        self.column.addLayout(side_by_side((self.knots, 3), (self.lots, 2)), 1)
        self.finish()
        self.measure.chosen.connect(lambda _: self._on_measure())

    def open(self, earlier: Criterion | None = None) -> None:
        """Begin a new one, or a new wording of an earlier one."""
        self._earlier = earlier
        if earlier is None:
            self.form.fill({"measure": Measure.HOLDS_SHARE})
        else:
            self.form.fill(criterion_texts(earlier))
        lots, knots = ((), ()) if earlier is None else (earlier.lot_ids, earlier.knot_ids)
        self.lots.offer(self._presenter.lots(), lots)
        self.knots.offer(self._presenter.knots(), knots)
        self._on_measure()
        self.measure.focus()

    def _on_measure(self) -> None:
        words = MEASURE_WORDS[Measure(self.measure.text)][1]
        self.threshold.setVisible(bool(words))
        self.need.setVisible(Measure(self.measure.text) is not Measure.INTERVAL)
        self.threshold.label.say(words)
        self.threshold.entry.setAccessibleName(words)

    def _on_store(self) -> None:
        checked = self._presenter.store_criterion(
            self.form.texts(), self.lots.keys, self.knots.keys, self._earlier
        )
        self.form.complain(checked.errors)
        if checked.stored:
            self.left.emit()


class ClaimForm(InlineForm):
    """A pattern with its gaps; what would decide it is said while it is filled."""

    def __init__(self, presenter: BriefPresenter) -> None:
        super().__init__("brief.claim", "Enter the claim", self._on_store)
        self._presenter = presenter
        self.kind = ChoiceField(
            "The claim", "brief.claim.kind", {p.kind: p.words for p in PATTERNS}
        )
        self.knot = ChoiceField("X", "brief.claim.knot")
        self.other = ChoiceField("Y", "brief.claim.other")
        self.lot = ChoiceField("Cordage", "brief.claim.lot")
        self.share = Field("P, in percent or points", "brief.claim.share", hint="60 %")
        self.wraps = Field("W, wraps", "brief.claim.wraps", hint="3")
        self.load = Field("Load", "brief.claim.load", hint="2 kN")
        self.deciders = Words("", "small", "muted")
        self.deciders.setObjectName("brief.claim.deciders")
        self.gaps: dict[str, Labelled] = {
            "knot": self.knot,
            "other": self.other,
            "share": self.share,
            "wraps": self.wraps,
            "load": self.load,
            "lot": self.lot,
        }
        self.form = Form({"kind": self.kind, **self.gaps})
        self.column.addWidget(self.kind)
        self.column.addLayout(side_by_side((self.knot, 1), (self.other, 1)))
        self.column.addLayout(
            side_by_side((self.share, 1), (self.wraps, 1), (self.load, 1), (self.lot, 1))
        )
        self.column.addWidget(self.deciders)
        self.column.addStretch(1)
        self.finish()
        self.kind.chosen.connect(lambda _: self._on_changed())
        self.share.entry.textChanged.connect(lambda _: self._on_changed())

    def open(self) -> None:
        """Begin a new claim."""
        self.knot.offer(self._presenter.knots())
        self.other.offer(self._presenter.knots())
        self.lot.offer([("", "every lot"), *self._presenter.lots()])
        self.form.fill({})
        self._on_changed()
        self.kind.focus()

    def _on_changed(self) -> None:
        kind = ClaimKind(self.kind.text)
        gaps = pattern_of(kind).gaps
        for name, field in self.gaps.items():
            field.setVisible(name in gaps)
        try:
            share = parse_share(self.share.text) if "share" in gaps else None
        except InputError:
            share = None
        if "share" in gaps and share is None:
            self.deciders.say("Type P to see what would support the claim, and what contradict it.")
            return
        supports, contradicts = say_deciders(
            Claim(id="", made_at="", kind=kind, knot_id=None, share=share)
        )
        self.deciders.say(f"Supported by: {supports}.\nContradicted by: {contradicts}.")

    def _on_store(self) -> None:
        checked = self._presenter.store_claim(self.form.texts())
        self.form.complain(checked.errors)
        if checked.stored:
            self.left.emit()
