"""Decides what the brief shows, and stores what is asked."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from bruiser.core.choice.brief import Claim, Criterion, say_deciders
from bruiser.ui.runtime.desk import Desk
from bruiser.workshop.desk import brief_entry as entry
from bruiser.workshop.desk.lot_entry import Checked
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop


@dataclass(frozen=True, kw_only=True)
class CriterionRow:
    """A criterion in force in words; `late` when it was written after pulls of its groups."""

    criterion: Criterion
    words: str
    scope: str
    when: str
    late: bool
    was: str


@dataclass(frozen=True, kw_only=True)
class AskedClaim:
    """A claim in force in words, with what would decide it."""

    claim: Claim
    words: str
    supports: str
    contradicts: str
    state: str


class BriefPresenter(Desk):
    """What the campaign asks."""

    def __init__(self, workshop: Workshop) -> None:
        super().__init__(workshop)

    def take_up(self, logbook: Logbook) -> None:
        """Show the brief as it stands."""
        self.logbook = logbook
        self.changed.emit()

    def title(self) -> tuple[str, str]:
        """Heading and how far the campaign has got."""
        row = self.workshop.campaign
        about = [row.station] if row.station.strip() else []
        if self.logbook is not None:
            done = self.logbook.tally.count(Stage.INSPECTED)
            knots = len(self.logbook.knots_in_play)
            about += [f"{knots} knots compared in {len(self.logbook.lots_in_use)} lots"]
            about += [f"{done} pulls in"]
        if row.synthetic or (self.logbook is not None and self.logbook.simulated):
            about += ["synthetic data from the simulated bench"]
        return row.title, "  ·  ".join(about)

    def criteria(self) -> list[CriterionRow]:
        """The criteria in force."""
        logbook = self.logbook
        if logbook is None:
            return []
        return [self._criterion_row(logbook, c) for c in logbook.brief.criteria_in_force]

    def _criterion_row(self, logbook: Logbook, criterion: Criterion) -> CriterionRow:
        lots, knots = criterion.lot_ids, criterion.knot_ids
        before = logbook.pulls_of(lots, knots, before=criterion.made_at)
        day = criterion.made_at[:10]
        if not before:
            when = f"Written {day}, before the first pull of its groups."
        else:
            when = f"Written {day}, after {before} of the {logbook.pulls_of(lots, knots)} pulls "
            when += "of its groups."
        earlier = [e for e in logbook.brief.earlier(criterion) if not e.withdrawn]
        was = ""
        if earlier:
            why = f" Changed because: {criterion.comment}." if criterion.comment else ""
            was = f"It was: {entry.criterion_words(earlier[0]).lower()}.{why}"
        return CriterionRow(
            criterion=criterion,
            words=entry.criterion_words(criterion),
            scope=entry.scope_words(logbook, criterion),
            when=when,
            late=before > 0,
            was=was,
        )

    def claims(self) -> list[AskedClaim]:
        """The claims in force."""
        logbook = self.logbook
        if logbook is None:
            return []
        return [self._claim_row(logbook, c) for c in logbook.brief.claims_in_force]

    def _claim_row(self, logbook: Logbook, claim: Claim) -> AskedClaim:
        supports, contradicts = say_deciders(claim)
        words = entry.claim_words(logbook, claim, self.units)
        lots = () if claim.lot_id is None else (claim.lot_id,)
        pulled = claim.knot_id is not None and logbook.pulls_of(
            lots, (claim.knot_id,), stage=Stage.INSPECTED
        )
        state = "judged in Results" if pulled else "not tested yet"
        return AskedClaim(
            claim=claim, words=words, supports=supports, contradicts=contradicts, state=state
        )

    def lots(self) -> list[tuple[str, str]]:
        """Lots to choose from: id and name."""
        return [(x.id, x.name) for x in self.logbook.lots_in_use] if self.logbook else []

    def knots(self) -> list[tuple[str, str]]:
        """Knots in play to choose from: id and name."""
        return [(x.id, x.title) for x in self.logbook.knots_in_play] if self.logbook else []

    def store_criterion(
        self,
        texts: Mapping[str, str],
        lot_ids: Sequence[str],
        knot_ids: Sequence[str],
        earlier: Criterion | None,
    ) -> Checked:
        """Write a criterion or change one."""
        return self.store_form(
            lambda: entry.store_criterion(self.workshop, texts, lot_ids, knot_ids, earlier)
        )

    def withdraw_criterion(self, criterion: Criterion) -> None:
        """Withdraw a criterion."""
        self.attempt(lambda: entry.withdraw_criterion(self.workshop, criterion))

    def store_claim(self, texts: Mapping[str, str]) -> Checked:
        """Enter a claim."""
        return self.store_form(lambda: entry.store_claim(self.workshop, texts))

    def withdraw_claim(self, claim: Claim) -> None:
        """Withdraw a claim."""
        self.attempt(lambda: entry.withdraw_claim(self.workshop, claim))

    def change(self, **changes: object) -> None:
        """Change the question, the units or the trade."""
        self.attempt(lambda: entry.change_campaign(self.workshop, **changes))

    def store_offcut(self, text: str) -> Checked:
        """Set the shortest offcut kept."""
        return self.store_form(lambda: entry.store_offcut_minimum(self.workshop, {"offcut": text}))

    def choose_use(self, use: str, chosen: bool) -> None:
        """Add a use, or take it away."""
        logbook = self.logbook
        if logbook is not None:
            self.attempt(lambda: entry.choose_use(self.workshop, logbook, use, chosen))
