"""The five ratings of every knot of a lot, each from the pulls and trials that say something."""

from __future__ import annotations

import zlib
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from bruiser.core.behaviour.jamming import HARD_PULL
from bruiser.core.behaviour.security import CRITERIA, SecurityLimits
from bruiser.core.behaviour.tying import measure_checking, measure_tying
from bruiser.core.choice.ranking import DRAWS
from bruiser.core.choice.rating import Gauge, Measured, Missing, Rating, RatingLimits, judge
from bruiser.core.choice.use_profile import HOLDS
from bruiser.core.performance.uncertain import around, interval_of, opening, share, weakest_grade
from bruiser.core.records.legs import loads_legs
from bruiser.core.records.method_kinds import Tells
from bruiser.core.records.methods import METHOD_OF, tells
from bruiser.core.records.preparation import Hands, TyingTrial
from bruiser.core.records.records import JAM_WORDS, Knot, Lot, Outcome
from bruiser.core.statistics.censored import Floats
from bruiser.core.statistics.contrast import efficiency_draws
from bruiser.core.statistics.strength import Interval
from bruiser.core.words import count
from bruiser.workshop.groups.gathering import Gathered
from bruiser.workshop.groups.jam_results import JamRow, jam_curve, jam_rows
from bruiser.workshop.groups.knot_cases import KnotCase, knot_cases
from bruiser.workshop.groups.slipping import Counted, SlipRow, slip_rows
from bruiser.workshop.groups.trials import Trials, trials_of
from bruiser.workshop.groups.work_results import WorkRow, work_rows
from bruiser.workshop.guide.rating_work import family_at_work, work_security
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.results.comparing import sides_of
from bruiser.workshop.results.lot_results import KnotResult, LotResults
from bruiser.workshop.results.result_words import percent

BEYOND = 1.1


@dataclass(frozen=True, kw_only=True)
class Conditions:
    """What a rating depends on beside the pulls.

    Parameters
    ----------
    load : float
        Share of the plain rope after which the knot is opened.
    hands : Hands
        In which state of the hands it is tied.
    directions : tuple of str
        Directions that count; empty for every one pulled.
    host : str
        A word of the host it must have been pulled on; empty for any.
    holds : float
        Load that a grip or a stopper has to hold, as a share of the plain rope.
    families : tuple of str
        Families that serve; a knot of several is judged by the work of those.
    """

    load: float = HARD_PULL
    hands: Hands = Hands.BARE
    directions: tuple[str, ...] = ()
    host: str = ""
    holds: float = HOLDS
    families: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class RatedKnot:
    """One knot in one lot with its five ratings.

    Parameters
    ----------
    row : KnotResult or None
        The weakest of the ways in which it was pulled until it gave.
    ways : tuple of KnotResult
        All of them, weakest first.
    """

    case: KnotCase
    gauges: dict[Rating, Gauge]
    row: KnotResult | None
    ways: tuple[KnotResult, ...]
    slip: SlipRow
    jam: JamRow

    @property
    def key(self) -> str:
        """What tells it from others: lot and name."""
        return self.case.key

    @property
    def name(self) -> str:
        """The knot, with what sets it apart."""
        return self.case.name

    @property
    def knot(self) -> Knot:
        """The knot variant."""
        return self.case.knot

    @property
    def lot(self) -> Lot:
        """The lot it was tied in."""
        return self.case.lot


def rate_lot(
    logbook: Logbook,
    gathered: Gathered,
    results: dict[str, LotResults],
    lot_id: str,
    limits: RatingLimits,
    conditions: Conditions | None = None,
) -> list[RatedKnot]:
    """Rate every knot of a lot.

    Parameters
    ----------
    results : dict
        Results by lot id, with the groups of every method.
    limits : RatingLimits
        Bands, and what staying tied is judged by.
    conditions : Conditions, optional
        What the ratings depend on.
    """
    asked = conditions or Conditions()
    own = results[lot_id]
    cases = knot_cases(gathered, lot_id)
    median_n = own.baseline.median_n
    pairs = [(case, median_n) for case in cases]
    slips, jams = slip_rows(pairs, limits.security), jam_rows(pairs)
    ways = [_ways(case, own.knots, asked) for case in cases]
    weakest = [w[0] for w in ways if w]
    drawn = efficiency_draws(sides_of(weakest, results), DRAWS) if weakest else []
    draws = {id(row): d for row, d in zip(weakest, drawn, strict=True)}
    works = work_rows(gathered, lot_id)

    def family_of(knot: Knot) -> str:
        structure = logbook.catalogue.get(knot.structure)
        own = (knot.family,) if structure is None else structure.families
        return family_at_work(own, asked.families)

    trials = trials_of(logbook)
    pull_of = trials.inspected
    found = []
    for case, mine, slip, jam in zip(cases, ways, slips, jams, strict=True):
        rng = np.random.default_rng([7, zlib.crc32(case.key.encode())])
        row = mine[0] if mine else None
        measured: dict[Rating, Measured | Missing] = {
            Rating.STRENGTH: _strength(case, mine, draws.get(id(row)), own, asked),
            Rating.SECURITY: _stays(
                case, family_of(case.knot), works, slip, limits.security, asked, rng
            ),
            Rating.OPENING: _opening(case, jam, asked.load, rng),
            Rating.TYING: _tying(case, trials, pull_of, asked.hands, rng),
            Rating.CHECKING: _checking(case, trials, pull_of, rng),
        }
        gauges = {rating: judge(rating, m, limits) for rating, m in measured.items()}
        found.append(RatedKnot(case=case, gauges=gauges, row=row, ways=mine, slip=slip, jam=jam))
    return found


def _ordinary(method: str) -> bool:
    """Whether a pull until it gave is one that a use asks for, in whatever direction."""
    return tells(method, Tells.USUAL) or METHOD_OF[method].directed


def _ways(case: KnotCase, rows: Sequence[KnotResult], asked: Conditions) -> tuple[KnotResult, ...]:
    """The ways it was pulled until it gave, weakest first."""
    keys = {g.key for g in case.groups if _ordinary(g.method)}
    mine = [r for r in rows if r.key in keys]
    if asked.directions:
        mine = [r for r in mine if _along(r.key.direction, asked.directions)]
    if asked.host:
        mine = [r for r in mine if asked.host.lower() in str(r.key.host).lower()]
    return tuple(sorted(mine, key=_weakness))


def _along(direction: str, wanted: Iterable[str]) -> bool:
    """Whether a pull loaded the legs of one of some directions; the usual way always counts."""
    return not direction or any(loads_legs((direction,), w) for w in wanted)


def _weakness(row: KnotResult) -> tuple[float, float]:
    interval, at_least = row.efficiency.interval, row.efficiency.at_least
    if interval is not None:
        return interval.low, interval.value
    return (9.0, at_least or 0.0)


def _strength(
    case: KnotCase,
    ways: tuple[KnotResult, ...],
    draws: Floats | None,
    own: LotResults,
    asked: Conditions,
) -> Measured | Missing:
    if not ways:
        pulls = case.pull_ids
        if asked.host:
            return Missing(f"never pulled on a {asked.host}", pulls)
        if asked.directions:
            return Missing("never pulled in that direction", pulls)
        return Missing("never pulled until it gave", pulls)
    row = ways[0]
    eff, pulls = row.efficiency, row.efficiency.pull_ids
    if eff.interval is None or draws is None:
        if own.baseline.median_n is None:
            return Missing("no plain-rope pulls to compare with", pulls)
        if eff.at_least is not None:
            least = f"only known to be at least {percent(eff.at_least)} %: nothing gave"
            return Missing(least, pulls)
        return Missing("too few pulls gave", pulls)
    n = eff.counts.specimens
    basis = f"{count(n, 'pull')}, {eff.counts.broke} broke, {eff.counts.came_out} came out"
    if len(ways) > 1:
        how = row.key.direction or row.key.host.called or row.group.method
        basis += f"; the weakest of {len(ways)} ways ({how})"
    caveat = str(eff.caveats[0]) if eff.caveats else ""
    return Measured(
        interval=eff.interval, n=n, basis=basis, draws=draws, pull_ids=pulls, caveat=caveat
    )


def came_out_of(case: KnotCase, directions: Iterable[str] = ()) -> tuple[int, int, tuple[str, ...]]:
    """How many of how many that gave came out, in the ordinary ways of pulling; and those pulls."""
    wanted = tuple(directions)
    gave = [
        t
        for g in case.groups
        if g.key is not None
        and (tells(g.method, Tells.SLIP) or METHOD_OF[g.method].directed)
        and (not wanted or _along(g.key.direction, wanted))
        for t in g.tried
        if t.kind is not Outcome.OUTLASTED
    ]
    out = sum(t.kind is Outcome.CAME_OUT for t in gave)
    return out, len(gave), tuple(t.finding.pull_id for t in gave)


def _counted(counted: Counted) -> tuple[float, int] | None:
    """Survivors at the end of a curve, as pulls of those that were counted."""
    last, n = counted.last, len(counted.pulls)
    return None if last is None or not n else (last.value * n, n)


def _stays(
    case: KnotCase,
    family: str,
    works: Sequence[WorkRow],
    slip: SlipRow,
    limits: SecurityLimits,
    asked: Conditions,
    rng: np.random.Generator,
) -> Measured | Missing:
    """Staying tied: by its work where its family is for that, else by slip, cycles and shakes."""
    if not family:
        return _security(case, slip, limits, asked, rng)
    mine = [w for w in works if w.knot.id == case.knot.id and set(w.pull_ids) <= set(case.pull_ids)]
    if asked.host:
        mine = [w for w in mine if asked.host.lower() in str(w.key.host).lower()]
    return work_security(family, mine, asked.holds, rng)


def _security(
    case: KnotCase,
    slip: SlipRow,
    limits: SecurityLimits,
    asked: Conditions,
    rng: np.random.Generator,
) -> Measured | Missing:
    drawn, said = {}, {}
    out, gave, pulls = came_out_of(case, asked.directions)
    onset = slip.slip.onset
    if onset is None and slip.slip.no_slip_to is not None:
        least = slip.slip.no_slip_to
        onset = Interval(least, least, least)
    if onset is not None:
        drawn["onset"] = around(onset, DRAWS, rng)
        words = "first slip at" if slip.slip.onset is not None else "no slip up to"
        said["onset"] = f"{words} {percent(onset.value)} %"
    if slip.draw_at_reference is not None:
        drawn["draw_d"] = around(slip.draw_at_reference, DRAWS, rng)
        at = percent(limits.reference_share)
        said["draw_d"] = f"drew {slip.draw_at_reference.value:.1f} d at {at} %"
    if gave:
        drawn["came_out"] = share(out, gave, DRAWS, rng)
        said["came_out"] = f"{out} of {gave} came out"
    for key, counted, what in (
        ("cycles", slip.cycles, "cycles"),
        ("shakes", slip.shakes, "shakes"),
    ):
        alive = _counted(counted)
        if alive is not None:
            hits, trials = alive
            drawn[key] = share(hits, trials, DRAWS, rng)
            said[key] = f"{hits:.0f} of {trials} lasted {counted.most} {what}"
            pulls = (*pulls, *(p for p, _, _ in counted.pulls))
    if not drawn:
        return Missing("no pull to failure, cycles or shaking says whether it stays", case.pull_ids)
    found, weakest = weakest_grade(drawn, limits)
    missing = [CRITERIA[key] for key in CRITERIA if key not in drawn]
    basis = f"weakest: {said[weakest]}"
    others = [words for key, words in said.items() if key != weakest]
    basis += f"; also {', '.join(others)}" if others else ""
    basis += f"; not measured: {', '.join(missing)}" if missing else ""
    behind = tuple(dict.fromkeys((*pulls, *slip.slip_pulls)))
    return Measured(
        interval=interval_of(found), n=len(behind), basis=basis, draws=found, pull_ids=behind
    )


def _opening(
    case: KnotCase, jam: JamRow, load: float, rng: np.random.Generator
) -> Measured | Missing:
    if not jam.attempts:
        return Missing(
            "no knot was untied after a pull: note it in Findings, or pull a stepped load",
            case.pull_ids,
        )
    if jam.baseline_n is None:
        return Missing("no plain-rope pulls to compare with", case.pull_ids)
    fit = jam_curve(jam)
    seen = [a.load_n / jam.baseline_n for a in jam.attempts]
    jammed = jam.jam is not None and jam.jam.jammed > 0
    pulls = tuple(dict.fromkeys(a.pull_id for a in jam.attempts))
    if load > BEYOND * max(seen) and not jammed:
        least = f"none was untied after more than {percent(max(seen))} %"
        return Missing(least, pulls)
    low, middle, high = (1 - float(v[0]) for v in reversed(fit.chance(np.array([load]))))
    words = ", ".join(f"{n} {JAM_WORDS[level]}" for level, n in jam.counts.items())
    drawn = opening(fit, load, DRAWS, rng)
    return Measured(
        interval=Interval(middle, low, high),
        n=len(jam.attempts),
        basis=f"after {percent(load)} % of the rope; {words}",
        draws=drawn,
        pull_ids=pulls,
    )


PullOf = Mapping[str, str]


def _pulls_of(pull_of: PullOf, rows: Iterable[tuple[str, TyingTrial]]) -> tuple[str, ...]:
    """The pulls of the specimens that were tied in some trials, in whichever cordage."""
    return tuple(pull_of[specimen] for specimen, _ in rows if specimen in pull_of)


def _tying(
    case: KnotCase, trials: Trials, pull_of: PullOf, hands: Hands, rng: np.random.Generator
) -> Measured | Missing:
    rows, elsewhere = trials.of(case.knot, case.lot)
    if not rows:
        return Missing("no tying trial")
    mine = [r for r in rows if r[1].hands is hands]
    result = measure_tying(mine, case.knot.structure).by_hands
    if not result or result[0].seconds is None:
        tried = ", ".join(sorted({t.hands.value for _, t in rows}))
        return Missing(f"no trial with {hands.value}, only with {tried}")
    found = result[0]
    seconds = found.seconds
    assert seconds is not None
    basis = f"{count(found.trials, 'trial')} with {hands.value}"
    basis += f", {count(found.wrong, 'wrong tie')}" if found.wrong else ""
    caveat = "tied in other cordage" if elsewhere else ""
    drawn = around(seconds, DRAWS, rng)
    return Measured(
        interval=seconds,
        n=found.trials,
        basis=basis,
        draws=drawn,
        pull_ids=_pulls_of(pull_of, mine),
        caveat=caveat,
    )


def _checking(
    case: KnotCase, trials: Trials, pull_of: PullOf, rng: np.random.Generator
) -> Measured | Missing:
    rows, elsewhere = trials.of(case.knot, case.lot)
    seen = measure_checking([t for _, t in rows], case.knot.structure)
    if seen.recognised is None:
        return Missing("no inspector was asked")
    hits = round(seen.recognised.value * seen.judged)
    basis = f"{hits} of {seen.judged} recognised"
    caveat = "tied in other cordage" if elsewhere else ""
    drawn = share(hits, seen.judged, DRAWS, rng)
    return Measured(
        interval=seen.recognised,
        n=seen.judged,
        basis=basis,
        draws=drawn,
        pull_ids=_pulls_of(pull_of, rows),
        caveat=caveat,
    )
