"""What a guide answers: for every use and cordage the first knot, or those that are tied."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from enum import StrEnum

from bruiser.core.choice.guide import Guide, ListFacts, RankedFacts


class AnswerKind(StrEnum):
    """What there is to say of a use in a cordage."""

    FIRST = "first"
    TIED = "tied"
    NONE = "none"
    NOT_PULLED = "not pulled"


@dataclass(frozen=True, kw_only=True)
class GuideAnswer:
    """The answer for one use in one cordage.

    Parameters
    ----------
    knots : tuple of str
        The first knot's key, or those of the tied ones, best first.
    names : tuple of str
        Their names.
    chance : float or None
        Chance that the first one is the best of those pulled.
    load_text : str
        Working load by the guide's school; of tied knots the lowest. Empty where there is none.
    confirmed : bool
        Whether fresh pulls confirmed the first one.
    """

    kind: AnswerKind
    lot: str
    knots: tuple[str, ...] = ()
    names: tuple[str, ...] = ()
    chance: float | None = None
    load_text: str = ""
    confirmed: bool = True


def answer_school(guide: Guide) -> str:
    """The school whose working loads are given: the one chosen most often; empty for none."""
    said = [
        row.load_school
        for use in guide.uses
        for found in use.lists
        for row in found.rows
        if row.load_text
    ]
    return Counter(said).most_common(1)[0][0] if said else ""


def answers_of(guide: Guide) -> tuple[tuple[GuideAnswer, ...], ...]:
    """By use, for every cordage of the guide in its order."""
    school = answer_school(guide)
    return tuple(
        tuple(
            _answer(guide, next((f for f in use.lists if f.lot == lot.key), None), lot.key, school)
            for lot in guide.lots
        )
        for use in guide.uses
    )


def _answer(guide: Guide, found: ListFacts | None, lot: str, school: str) -> GuideAnswer:
    if found is None or not found.rows:
        pulled = found is not None and (
            any(t.pulled for t in found.not_ranked) or any(t.by_pulls for t in found.excluded)
        )
        return GuideAnswer(kind=AnswerKind.NONE if pulled else AnswerKind.NOT_PULLED, lot=lot)
    first = found.rows[0]
    tied = [r for r in found.rows[1:] if r.name in first.tied_with]
    rows = [first, *tied]
    return GuideAnswer(
        kind=AnswerKind.TIED if tied else AnswerKind.FIRST,
        lot=lot,
        knots=tuple(r.knot for r in rows),
        names=tuple(r.name for r in rows),
        chance=first.chances[0] if first.chances else None,
        load_text=_lowest(guide, rows, school),
        confirmed=first.confirmed,
    )


def _lowest(guide: Guide, rows: list[RankedFacts], school: str) -> str:
    """The lowest working load of some knots by a school; empty where one of them has none."""
    results = {r.key: r for r in guide.results}
    loads = []
    for row in rows:
        result = results.get(row.result)
        own = [] if result is None else [s for s in result.loads if s.school == school]
        if not own or own[0].load_n is None:
            return ""
        loads.append((own[0].load_n, own[0].text))
    return min(loads)[1]
