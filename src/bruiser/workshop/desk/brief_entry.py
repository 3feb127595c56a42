"""From what was typed in the brief to criteria, claims, settings and the design factor."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from bruiser.core.choice.brief import (
    Claim,
    ClaimNames,
    Criterion,
    DesignFactorEntry,
    pattern_of,
    say_claim,
    say_criterion,
)
from bruiser.core.choice.criteria import FROM_PULL, Measure, PassCriterion
from bruiser.core.performance.claims import ClaimKind
from bruiser.core.units import UnitChoice
from bruiser.workshop.desk.brief_commands import (
    ChooseUses,
    EditCampaign,
    EnterClaim,
    SetFactor,
    WriteCriterion,
)
from bruiser.workshop.desk.form_texts import Typed
from bruiser.workshop.desk.lot_entry import Checked
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop

MEASURE_WORDS: dict[Measure, tuple[str, str]] = {
    Measure.BREAKS_AT_KNOT: ("breaks at the test knot at … or more", "Share of baseline, %"),
    Measure.HOLDS_SHARE: ("holds … or more", "Share of baseline, %"),
    Measure.DRAW_D: ("tails draw … or less", "Draw, in diameters"),
    Measure.OPENS: ("opens without a tool", ""),
    Measure.CYCLES: ("survives … cycles", "Cycles"),
    Measure.INTERVAL: ("whole interval above …", "Share of baseline, %"),
}
_SHARES = (Measure.BREAKS_AT_KNOT, Measure.HOLDS_SHARE, Measure.INTERVAL)


def store_criterion(
    workshop: Workshop,
    texts: Mapping[str, str],
    lot_ids: Sequence[str],
    knot_ids: Sequence[str],
    earlier: Criterion | None = None,
) -> Checked:
    """Write a criterion: fields ``measure``, ``threshold``, ``need``, ``of``, ``comment``.

    A change keeps the old wording on record and asks why.
    """
    typed = Typed(texts)
    measure = Measure(texts["measure"])
    threshold: float | None = 1.0
    if measure in _SHARES:
        threshold = typed.share("threshold", missing="Type the share, as 60 %.")
    elif measure is Measure.DRAW_D:
        threshold = typed.number("threshold", missing="Type the draw in diameters.")
    elif measure is Measure.CYCLES:
        threshold = typed.whole("threshold", most=10**6, missing="Type how many cycles.")
    of = typed.whole("of", missing="Of how many pulls?")
    if measure is Measure.INTERVAL:
        need = of  # It is looked at as a whole, and at the end at this number of pulls.
        if of is not None and of < FROM_PULL:
            typed.errors["of"] = f"{FROM_PULL} pulls or more carry an interval."
    else:
        need = typed.whole("need", missing="How many must pass?")
    if need is not None and of is not None and need > of:
        typed.errors["need"] = f"No more than {of} can pass."
    why = "Say why it changes; the old wording stays on record." if earlier is not None else ""
    comment = typed.text("comment", why)
    if typed.errors or threshold is None or need is None or of is None:
        return Checked(typed.errors)
    rule = PassCriterion(
        measure=measure,
        threshold=threshold,
        need=need,
        of=of,
        at_least=measure is not Measure.DRAW_D,
    )
    criterion = Criterion(
        id=workshop.new_id(),
        made_at=workshop.now(),
        rule=rule,
        lot_ids=tuple(lot_ids),
        knot_ids=tuple(knot_ids),
        comment=comment,
        supersedes=None if earlier is None else earlier.id,
    )
    title = "write the pass criterion" if earlier is None else "change the pass criterion"
    workshop.do(WriteCriterion(criterion, title))
    return Checked(stored=criterion.id)


def withdraw_criterion(workshop: Workshop, criterion: Criterion) -> None:
    """Withdraw a criterion; it stays on record."""
    gone = replace(
        criterion,
        id=workshop.new_id(),
        made_at=workshop.now(),
        supersedes=criterion.id,
        withdrawn=True,
    )
    title = "withdraw the pass criterion"
    workshop.do(WriteCriterion(gone, title))


def criterion_texts(criterion: Criterion) -> dict[str, str]:
    """A criterion as its form shows it."""
    rule = criterion.rule
    share = rule.measure in _SHARES
    shown = f"{100 * rule.threshold:g} %" if share else f"{rule.threshold:g}"
    return {
        "measure": rule.measure.value,
        "threshold": shown,
        "need": str(rule.need),
        "of": str(rule.of),
        "comment": "",
    }


def scope_words(logbook: Logbook, criterion: Criterion) -> str:
    """For which groups a criterion is."""
    names = logbook.names
    lots = [lot.name for lot in logbook.lots if lot.id in criterion.lot_ids]
    knots = [names[k] for k in criterion.knot_ids if k in names]
    what = "; ".join(knots) if knots else "every knot"
    return f"{what} · in {', '.join(lots) if lots else 'every lot'}"


def criterion_words(criterion: Criterion) -> str:
    """A criterion in words, beginning like a sentence."""
    text = say_criterion(criterion.rule)
    return text[0].upper() + text[1:]


def claim_words(logbook: Logbook, claim: Claim, units: UnitChoice) -> str:
    """A claim in words, with the names the campaign uses."""
    names = logbook.names
    lots = {lot.id: lot.name for lot in logbook.lots}
    load = "" if claim.load_n is None else units.force_text(claim.load_n)
    return say_claim(
        claim,
        ClaimNames(
            knot=names.get(claim.knot_id or "", "?"),
            other=names.get(claim.other_knot_id or "", "?"),
            lot=lots.get(claim.lot_id or "", ""),
            load=load,
        ),
    )


def store_claim(workshop: Workshop, texts: Mapping[str, str]) -> Checked:
    """Enter a claim: ``kind``, ``knot``, ``other``, ``lot`` as ids, ``share``, ``wraps``, ``load``.

    Only the gaps of its pattern are read.
    """
    typed = Typed(texts)
    kind = ClaimKind(texts["kind"])
    gaps = pattern_of(kind).gaps
    knot = typed.text("knot", "Choose the knot; bring it into play in Knots first.")
    other = typed.text("other", "Choose the other knot.") if "other" in gaps else ""
    if other and other == knot:
        typed.errors["other"] = "Choose another knot than the first."
    share = typed.share("share", missing="Type it in percent.") if "share" in gaps else None
    wraps = typed.whole("wraps", most=99, missing="How many wraps?") if "wraps" in gaps else None
    load = None
    if "load" in gaps:
        load = typed.quantity("load", "force", workshop.units.force, missing="Which load?")
    lot = typed.text("lot")
    if kind is ClaimKind.NEVER_COMES_OUT and not lot:
        typed.errors["lot"] = "Choose the cordage; in another one it may come out."
    if typed.errors:
        return Checked(typed.errors)
    claim = Claim(
        id=workshop.new_id(),
        made_at=workshop.now(),
        kind=kind,
        knot_id=knot,
        other_knot_id=other or None,
        lot_id=lot or None,
        share=share,
        wraps=wraps,
        load_n=load,
    )
    workshop.do(EnterClaim(claim))
    return Checked(stored=claim.id)


def withdraw_claim(workshop: Workshop, claim: Claim) -> None:
    """Withdraw a claim; it stays on record."""
    gone = replace(
        claim, id=workshop.new_id(), made_at=workshop.now(), supersedes=claim.id, withdrawn=True
    )
    workshop.do(EnterClaim(gone, "withdraw the claim"))


def store_factor(workshop: Workshop, texts: Mapping[str, str]) -> Checked:
    """Enter the design factor: ``factor`` and ``source``; there is no default."""
    typed = Typed(texts)
    value = typed.number("factor", least=1.0, missing="Type your design factor; there is none.")
    source = typed.text("source", "Say where it comes from: the local code, or the maker.")
    if typed.errors or value is None:
        return Checked(typed.errors)
    entry = DesignFactorEntry(
        id=workshop.new_id(), made_at=workshop.now(), value=value, source=source
    )
    workshop.do(SetFactor(entry))
    return Checked(stored=entry.id)


def change_campaign(workshop: Workshop, **changes: object) -> None:
    """Change the question, the units, or the trade; nothing happens where nothing differs."""
    after = replace(workshop.campaign, **changes)  # type: ignore[arg-type]
    if after != workshop.campaign:
        workshop.do(EditCampaign(after))


def store_offcut_minimum(workshop: Workshop, texts: Mapping[str, str]) -> Checked:
    """Set the shortest offcut that is kept: field ``offcut``."""
    typed = Typed(texts)
    unit = "ft" if workshop.units.length == "in" else "m"
    least = typed.quantity("offcut", "length", unit, missing="Type a length.", above_zero=False)
    if least is None:
        return Checked(typed.errors)
    change_campaign(workshop, offcut_minimum_m=least)
    return Checked(stored=workshop.campaign.id)


def choose_use(workshop: Workshop, logbook: Logbook, use: str, chosen: bool) -> None:
    """Add a use to those the campaign serves, or take it away."""
    before = logbook.brief.uses
    after = tuple(u for u in before if u != use) + ((use,) if chosen else ())
    if after != before:
        workshop.do(ChooseUses(after))
