"""What is said of knots across cordages: refusals and what would lift them, warnings, the check."""

from __future__ import annotations

from bruiser.core.beyond.across import Across, CellKind, Check, Doubt, Note
from bruiser.core.beyond.paired import PairedConditions
from bruiser.core.statistics.strength import Interval
from bruiser.core.words import count
from bruiser.workshop.results.across_sets import AcrossSet, Alike

NEW_CORDAGE = "a cordage nobody pulled"
PREDICTED = "predicted"


def range_ends(share: Interval) -> tuple[str, str]:
    """The ends of a predicted range in per cent; none keeps more than the rope has."""
    return f"{100 * min(share.low, 1.0):.0f}", f"{100 * min(share.high, 1.0):.0f}"


def predicted_words(share: Interval) -> str:
    """A predicted range, which is never without its mark."""
    low, high = range_ends(share)
    return f"{PREDICTED} {low}–{high} %"


def alike_words(alike: Alike) -> str:
    """What is alike in a set."""
    parts = (alike.condition, alike.method, alike.direction, alike.dressing)
    return ", ".join(part for part in parts if part)


def spread_words(across: Across) -> str:
    """How far cordages lie apart; empty with one."""
    t = across.spread
    if t is None:
        return ""
    return (
        f"From cordage to cordage the same knot's share differs by about {100 * t.value:.0f} % of "
        f"itself (standard deviation; {100 * t.low:.0f} to {100 * t.high:.0f})."
    )


def check_words(check: Check) -> str:
    """What came of predicting every measured cell from the others."""
    if not check.cells:
        return (
            "No cell could be predicted from the others: none has its knot and cordage elsewhere."
        )
    return (
        f"Each of {count(check.cells, 'measured cell')} predicted from the others: {check.inside} "
        f"lay inside their 95 %{_outside_words(check)}."
    )


def _outside_words(check: Check) -> str:
    if not check.outside:
        return ""
    return f"; outside: {_list(tuple(f'{knot} in {cordage}' for knot, cordage in check.outside))}"


def rests_words(one: AcrossSet) -> str:
    """What the predictions rest on."""
    across = one.across
    measured = sum(1 for c in across.cells if c.kind is CellKind.MEASURED)
    return (
        f"Rests on {count(measured, 'measured cell')} of {count(len(across.knots), 'knot')} in "
        f"{count(len(across.cordages), 'cordage')}; {across.prior.words()}.{_left_out(one)}"
    )


def _left_out(one: AcrossSet) -> str:
    names = ", ".join(one.left_out.values())
    said = f" Left out by decision: {names}." if names else ""
    if one.beside:
        said += f" Laid beside: {'; '.join(one.beside)}."
    if one.missing:
        said += f" Laid beside, but not to be read: {', '.join(one.missing)}."
    return said


def condition_words(found: PairedConditions) -> str:
    """What a condition does to the share kept, cordage by cordage."""
    what = f"{found.second} beside {found.first}"
    what = what[0].upper() + what[1:]
    r = found.ratio
    if r is None:
        return (
            f"{what}: both pulled in {found.cordages[0]} only; the same knots in both conditions "
            "of a second cordage would say whether it holds of others."
        )
    return (
        f"{what}: knots keep {r.value:.2f} of the share ({r.low:.2f} to {r.high:.2f}), paired over "
        f"{count(len(found.cordages), 'cordage')}."
    )


def note_words(note: Note) -> str:
    """A refusal with what would lift it, or a warning."""
    return _SAID[note.doubt](note)


def _one_cordage(note: Note) -> str:
    return (
        f"Only {note.about[0]} was measured: no other cordage can be predicted, and what is said "
        "of a cordage nobody pulled is mostly prior. Pull two of these knots in a second cordage."
    )


def _few(note: Note) -> str:
    return f"The spread between cordages rests on {note.number:.0f} of them; four or more tell it."


def _once(note: Note) -> str:
    return (
        f"Pulled in one cordage only: {_list(note.about)}. How it takes to another was not seen; "
        "one more cordage would show it."
    )


def _prior(note: Note) -> str:
    wider = "" if note.number is None else f" (up to {note.number:.1f} times as wide)"
    return f"Intervals rest on the prior: with a spread twice as large they grow{wider}."


def _floors(note: Note) -> str:
    return f"Nothing gave, so there is only a floor and it does not enter: {_list(note.about)}."


def _no_rope(note: Note) -> str:
    return f"Without plain rope there is no share: {_list(note.about)}. Pull three straight pieces."


def _too_few(note: Note) -> str:
    return (
        "Predictions are withdrawn: too few of the measured cells lie inside what the others say "
        f"({note.number:.0f}). Look for a mistyped figure, or a cordage of another kind."
    )


def _outside(note: Note) -> str:
    return (
        f"Predictions are withdrawn: {_list(note.about)} lies outside 99 % of what the other "
        "cordages say. Leave it out on the sheet Across cordages, or pull more of its kind."
    )


def _spared(_: Note) -> str:
    return (
        "No check sees whether weak knots were pulled less often; where they were, predictions run "
        "high."
    )


def _list(about: tuple[str, ...], most: int = 3) -> str:
    more = f" and {len(about) - most} more" if len(about) > most else ""
    return ", ".join(about[:most]) + more


_SAID = {
    Doubt.ONE_CORDAGE: _one_cordage,
    Doubt.FEW_CORDAGES: _few,
    Doubt.KNOT_IN_ONE: _once,
    Doubt.RESTS_ON_PRIOR: _prior,
    Doubt.FLOORS_ONLY: _floors,
    Doubt.NO_PLAIN_ROPE: _no_rope,
    Doubt.TOO_FEW_INSIDE: _too_few,
    Doubt.CORDAGE_OUTSIDE: _outside,
    Doubt.WEAK_SPARED: _spared,
}
