"""Hard requirements of a use: which knots it excludes, and why."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from bruiser.catalogue.structure import Answer, Structure
from bruiser.core.choice.rating import Rating
from bruiser.core.choice.use_profile import OPENS_MORE_OFTEN, UseProfile
from bruiser.core.records.legs import legs_of
from bruiser.core.records.records import Outcome
from bruiser.workshop.guide.rating_knots import RatedKnot, came_out_of
from bruiser.workshop.results.result_words import percent


@dataclass(frozen=True, kw_only=True)
class Refusal:
    """One reason why a knot is not on the short list.

    Parameters
    ----------
    excluded : bool
        Whether it fails a requirement; else something it needs was not measured.
    pull_ids : tuple of str
        The pulls that say so.
    lacks : Rating or None
        The rating whose measurement is missing, where that is the reason.
    """

    words: str
    excluded: bool = True
    pull_ids: tuple[str, ...] = ()
    lacks: Rating | None = None


def say_needs(profile: UseProfile) -> tuple[str, ...]:
    """The hard requirements of a use in words."""
    said = []
    if profile.families:
        said.append(" or ".join(profile.families))
    if profile.no_end:
        said.append("tied without an end")
    if profile.closed_ring:
        said.append("tied round a closed ring")
    said += [f"holds {direction}" for direction in profile.directions]
    if profile.host:
        said.append(f"pulled on a {profile.host}")
    if profile.must_open:
        said.append(f"opens without a tool after {percent(profile.load)} % of the rope")
    if profile.stays:
        said.append("no pull came out")
    if set(profile.families) & {"friction hitch", "adjustable loop", "stopper"}:
        said.append(f"holds {percent(profile.holds)} % of the rope")
    if profile.slippery:
        said.append("holds in slippery cord")
    return tuple(said)


def by_structure(structure: Structure | None, profile: UseProfile) -> list[Refusal]:
    """What the catalogue says against a knot for a use."""
    if structure is None:
        return [Refusal(words="not in the catalogue")]
    found = []
    if profile.families and not set(profile.families) & set(structure.families):
        found.append(Refusal(words=f"is a {structure.family}"))
    if profile.no_end and structure.in_the_bight is not Answer.YES:
        found.append(
            Refusal(words=_said(structure.in_the_bight, "needs an end", "tying without an end"))
        )
    if profile.closed_ring and structure.closed_ring is not Answer.YES:
        no = "cannot be tied round a closed ring"
        found.append(
            Refusal(words=_said(structure.closed_ring, no, "tying it round a closed ring"))
        )
    meant = {way.legs for way in structure.loadings}
    missing = [d for d in profile.directions if legs_of(d) not in meant]
    if missing:
        found.append(Refusal(words=f"is not meant to be loaded {' or '.join(missing)}"))
    if profile.host and structure.host is None:
        found.append(Refusal(words="is not tied round a host"))
    return found


def _said(answer: Answer, no: str, what: str) -> str:
    if answer is Answer.NOT_ESTABLISHED:
        return f"{what} is not established"
    return f"{no} (varies)" if answer is Answer.VARIES else no


def by_pulls(
    rated: RatedKnot,
    structure: Structure,
    profile: UseProfile,
    conditions: Iterable[RatedKnot],
) -> list[Refusal]:
    """What the pulls say against a knot for a use.

    Parameters
    ----------
    conditions : iterable of RatedKnot
        The same knot in this lot and in other conditions of the same cordage.
    """
    found = [r for direction in profile.directions for r in _direction(rated, direction)]
    gave_at_all = 0
    for one in conditions:
        out, gave, pulls = came_out_of(one.case, profile.directions)
        gave_at_all += gave
        if out and (profile.stays or profile.slippery):
            where = "" if one.lot.id == rated.lot.id else f" {one.lot.condition}"
            found.append(
                Refusal(words=f"came out {out} of {gave}{where}", excluded=True, pull_ids=pulls)
            )
    if profile.slippery and not gave_at_all and structure.slippery is Answer.NO:
        found.append(Refusal(words="is said not to hold in slippery cord"))
    if profile.must_open:
        found += _opens(rated, profile)
    return found


def _direction(rated: RatedKnot, direction: str) -> list[Refusal]:
    """What was pulled in a direction that is needed."""
    mine = [
        t
        for g in rated.case.groups
        if g.key is not None
        for t in g.tried
        if g.key.direction and legs_of(g.key.direction) == legs_of(direction)
    ]
    if not mine:
        words = f"holding {direction} not measured: pull it “cross and reverse” that way"
        return [Refusal(words=words, excluded=False)]
    gone = [t for t in mine if t.kind is Outcome.CAME_OUT]
    if not gone:
        return []
    pulls = tuple(t.finding.pull_id for t in mine)
    return [
        Refusal(
            words=f"let go {direction}: {len(gone)} of {len(mine)}", excluded=True, pull_ids=pulls
        )
    ]


def _opens(rated: RatedKnot, profile: UseProfile) -> list[Refusal]:
    gauge = rated.gauges[Rating.OPENING]
    measured = gauge.measured
    at = percent(profile.load)
    if measured is None:
        words = f"opening after {at} % not measured: {gauge.why}"
        return [
            Refusal(
                words=words, excluded=False, pull_ids=gauge.found.pull_ids, lacks=Rating.OPENING
            )
        ]
    if measured.interval.value >= OPENS_MORE_OFTEN:
        return []
    chance = percent(measured.interval.value)
    return [
        Refusal(
            words=f"opens without a tool after {at} % with a chance of only {chance} %",
            excluded=True,
            pull_ids=measured.pull_ids,
        )
    ]
