"""Choosing a knot for a use in a cordage: the short list, and why the others are not on it."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field

from bruiser.core.choice.nearest import Cordage, Near, nearest
from bruiser.core.choice.ranking import Contender, Ranked, Ranking, WeightPath, rank, weight_path
from bruiser.core.choice.rating import SCALES, Rating, RatingLimits, not_measured
from bruiser.core.choice.use_profile import UseProfile
from bruiser.core.memory import Memory
from bruiser.core.progress import Progress, no_progress
from bruiser.core.records.records import Knot, Lot, Role
from bruiser.workshop.groups.gathering import Gathered, gather
from bruiser.workshop.guide.rating_knots import Conditions, RatedKnot, rate_lot
from bruiser.workshop.guide.requirements import Refusal, by_pulls, by_structure
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.results.lot_results import LotResults, all_results

_LOTS_KEPT = 48
"""Ratings of so many lots are kept: their draws take half a megabyte a knot."""


@dataclass(frozen=True, kw_only=True)
class Shelf:
    """All that choosing rests on: the pulls, sorted and rated, by whatever method.

    `results` has the lots that were looked at, and `rated` keeps the ratings of a lot by what they
    depend on, `across` what was predicted across lots.
    """

    logbook: Logbook
    gathered: Gathered
    results: Mapping[str, LotResults]
    rated: Memory = field(default_factory=lambda: Memory(_LOTS_KEPT), compare=False, repr=False)
    across: Memory = field(default_factory=Memory, compare=False, repr=False)


def fill_shelf(
    logbook: Logbook,
    lot_ids: Collection[str] = (),
    memory: Memory | None = None,
    progress: Progress = no_progress,
) -> Shelf:
    """Sort and rate the pulls of some lots; `memory` keeps what did not change.

    Parameters
    ----------
    lot_ids : collection of str
        The lots to choose in; those of the same stock, and those their lines are tied to, are
        looked at as well. Empty for every lot, which reads every pull.
    """
    lots = _looked_at(logbook, lot_ids) if lot_ids else None
    gathered = gather(logbook, lot_ids=lots)
    results = all_results(gathered, lots=lots or (), memory=memory, progress=progress)
    return Shelf(logbook=logbook, gathered=gathered, results=results)


def _looked_at(logbook: Logbook, lot_ids: Collection[str]) -> tuple[str, ...]:
    stocks = {logbook.lot(lot_id).stock_id for lot_id in lot_ids}
    same = [lot.id for lot in logbook.lots if lot.stock_id in stocks]
    beside = [e.specimen.lot_b.id for e in logbook.of_lots(same) if e.specimen.lot_b is not None]
    return tuple(dict.fromkeys((*same, *beside)))


@dataclass(frozen=True)
class Listed:
    """A knot on the short list."""

    rated: RatedKnot
    ranked: Ranked
    why: str


@dataclass(frozen=True)
class Turned:
    """A knot that is not on it, with the reasons; `rated` None where it was never pulled here."""

    name: str
    reasons: tuple[Refusal, ...]
    rated: RatedKnot | None = None

    @property
    def words(self) -> str:
        """The reasons in words."""
        return "; ".join(r.words for r in self.reasons)


@dataclass(frozen=True, kw_only=True)
class Choice:
    """What can be chosen for a use in one lot.

    Parameters
    ----------
    listed : tuple of Listed
        The short list, best first.
    not_ranked, excluded : tuple of Turned
        What lacks a measurement, and what fails a requirement.
    other_kinds : tuple of str
        Knots of families that do not serve the use.
    paths : dict
        What other weights would do, by rating.
    near : tuple of Near
        Where nothing was pulled in the lot: the nearest tested cordages.
    """

    profile: UseProfile
    lot: Lot
    ranking: Ranking
    listed: tuple[Listed, ...] = ()
    not_ranked: tuple[Turned, ...] = ()
    excluded: tuple[Turned, ...] = ()
    other_kinds: tuple[str, ...] = ()
    paths: Mapping[Rating, WeightPath] | None = None
    near: tuple[Near, ...] = ()

    @property
    def tested(self) -> bool:
        """Whether anything was pulled in this lot."""
        return not self.near


def cordage_of(lot: Lot) -> Cordage:
    """A lot as a cordage to be compared."""
    return Cordage(
        key=lot.id,
        name=lot.name,
        material=lot.material,
        construction=lot.construction,
        diameter_m=lot.diameter_m,
        condition=lot.condition,
    )


def was_tested(shelf: Shelf, lot_id: str) -> bool:
    """Whether a knot was pulled in a lot, by whatever method."""
    if lot_id in shelf.results:
        return any(g.tried for g in shelf.gathered.tied[lot_id].values())
    return shelf.logbook.tally.count(Stage.INSPECTED, lot_id=lot_id, role=Role.KNOT) > 0


def lots_tested(shelf: Shelf) -> tuple[Lot, ...]:
    """Lots in which a knot was pulled."""
    return tuple(lot for lot in shelf.logbook.lots if was_tested(shelf, lot.id))


def near_lots(shelf: Shelf, wanted: Cordage) -> tuple[Near, ...]:
    """The nearest tested lots to a cordage."""
    return nearest(wanted, [cordage_of(lot) for lot in lots_tested(shelf)])


def conditions_of(profile: UseProfile) -> Conditions:
    """What the ratings depend on for a use."""
    return Conditions(
        load=profile.load,
        hands=profile.hands,
        directions=profile.directions,
        host=profile.host,
        holds=profile.holds,
        families=profile.families,
    )


def rate_for(shelf: Shelf, lot_id: str, limits: RatingLimits, how: Conditions) -> list[RatedKnot]:
    """Rate the knots of one lot; what was rated before under the same limits is remembered."""

    def work() -> list[RatedKnot]:
        results = dict(shelf.results)
        return rate_lot(shelf.logbook, shelf.gathered, results, lot_id, limits, how)

    return shelf.rated.once((lot_id, repr(limits), how), work)


def choose(shelf: Shelf, lot_id: str, profile: UseProfile, limits: RatingLimits) -> Choice:
    """The short list for a use in a lot, and why the other knots of the campaign are not on it."""
    logbook = shelf.logbook
    lot = logbook.lot(lot_id)
    empty = Ranking((), profile.weights)
    if not was_tested(shelf, lot_id):
        return Choice(
            profile=profile, lot=lot, ranking=empty, near=near_lots(shelf, cordage_of(lot))
        )
    how = conditions_of(profile)
    rated = rate_for(shelf, lot_id, limits, how)
    beside = [
        one
        for other in logbook.lots
        if other.id != lot_id and other.stock_id == lot.stock_id
        for one in rate_for(shelf, other.id, limits, how)
    ]
    ready: list[RatedKnot] = []
    turned: list[Turned] = []
    other_kinds: list[str] = []
    for one in rated:
        structure = logbook.catalogue.get(one.knot.structure)
        reasons = by_structure(structure, profile)
        if structure is not None and _other_kind(one.knot, profile, logbook):
            other_kinds.append(one.name)
            continue
        if structure is not None:
            same = [one, *(b for b in beside if b.name == one.name)]
            reasons += by_pulls(one, structure, profile, same)
        if not any(r.excluded for r in reasons):
            reasons += _unmeasured(one, profile, reasons)
        if reasons:
            turned.append(Turned(one.name, tuple(reasons), one))
        else:
            ready.append(one)
    turned += _never_pulled(logbook, lot, rated, profile, other_kinds)
    ranking = rank([contender(one) for one in ready], profile.weights, profile.anchors)
    by_key = {one.key: one for one in ready}
    listed = tuple(Listed(by_key[r.key], r, say_why(r)) for r in ranking.rows)
    paths = {r: path for r in Rating if (path := weight_path(ranking, r)) is not None}
    return Choice(
        profile=profile,
        lot=lot,
        ranking=ranking,
        listed=listed,
        not_ranked=tuple(t for t in turned if not any(r.excluded for r in t.reasons)),
        excluded=tuple(t for t in turned if any(r.excluded for r in t.reasons)),
        other_kinds=tuple(dict.fromkeys(other_kinds)),
        paths=paths,
    )


def _other_kind(knot: Knot, profile: UseProfile, logbook: Logbook) -> bool:
    structure = logbook.catalogue.get(knot.structure)
    return (
        structure is not None
        and bool(profile.families)
        and not set(profile.families) & set(structure.families)
    )


def _unmeasured(one: RatedKnot, profile: UseProfile, reasons: list[Refusal]) -> list[Refusal]:
    """Ratings that count and are missing; what a requirement said already is not said again."""
    said = {reason.lacks for reason in reasons}
    missing = [r for r in not_measured(one.gauges, profile.weights) if r not in said]
    return [
        Refusal(
            words=f"{SCALES[r].name.lower()} not measured: {one.gauges[r].why}",
            excluded=False,
            pull_ids=one.gauges[r].found.pull_ids,
            lacks=r,
        )
        for r in missing
    ]


def _never_pulled(
    logbook: Logbook,
    lot: Lot,
    rated: list[RatedKnot],
    profile: UseProfile,
    other_kinds: list[str],
) -> list[Turned]:
    """Knots in play that were never pulled in this lot."""
    pulled = {one.knot.id for one in rated}
    found = []
    for knot in logbook.knots_in_play:
        if knot.id in pulled:
            continue
        if _other_kind(knot, profile, logbook):
            other_kinds.append(knot.title)
            continue
        reasons = by_structure(logbook.catalogue.get(knot.structure), profile)
        never = Refusal(words=f"never pulled in {lot.name}, {lot.condition}", excluded=False)
        found.append(Turned(knot.title, tuple(reasons) or (never,)))
    return found


def contender(one: RatedKnot, key: str = "") -> Contender:
    """A knot with the draws of every rating that was measured, under its own key or another."""
    draws = {r: m.draws for r, g in one.gauges.items() if (m := g.measured) is not None}
    return Contender(key or one.key, draws)


def say_why(ranked: Ranked) -> str:
    """Why a knot stands where it stands: what speaks for it, and what against."""
    parts = ranked.parts
    best = max(parts, key=lambda r: (parts[r], -list(Rating).index(r)))
    worst = min(parts, key=lambda r: (parts[r], list(Rating).index(r)))
    said = f"{SCALES[best].name} speaks for it ({parts[best]:.0f} of 100 points)"
    if worst is not best:
        said += f", {SCALES[worst].name.lower()} least ({parts[worst]:.0f})"
    if ranked.tied_with:
        names = [key.partition("|")[2] for key in ranked.tied_with]
        said += f". These pulls cannot tell it from {', '.join(names)} for this use"
    return said + "."
