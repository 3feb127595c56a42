"""What the pulls of one group say, ready for the statistics: built in one way, from any source."""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from bruiser.core.behaviour.jamming import JAM_ORDER
from bruiser.core.behaviour.work import NO_WORK, WorkPulls
from bruiser.core.behaviour.wraps import WrapSample
from bruiser.core.memory import content_of
from bruiser.core.records.records import JamLevel, Outcome
from bruiser.core.statistics.censored import Floats, Sample, make_sample
from bruiser.core.statistics.measurement import LoadCell
from bruiser.core.statistics.strength import Caveat, OutcomeCounts, count_outcomes

_EMPTY = np.empty(0)


@dataclass(frozen=True)
class PullContext:
    """When and by whom a pull was made, for drift; None or empty where not recorded."""

    order: float | None = None
    day: float | None = None
    technician: str = ""


@dataclass(frozen=True, kw_only=True)
class GroupData:
    """The readings of one group; `knot` None is the plain rope.

    Parameters
    ----------
    sample : Sample
        Evidence for holding strength (for the baseline: plain strength).
    jam_load_n, jam_level : ndarray, shape (j,)
        Peak that each inspected knot had seen, and its ordered jam level.
    jam_pulls : tuple of str, length j
        The pull of each.
    cycles, cycles_failed, shakes, shakes_failed : ndarray, shape (c,)
        Cycles or shakes done, and whether it failed there.
    work : WorkPulls
        Pulls that tried something else than its strength.
    family : str
        Family of the knot; only knots of one family are compared. Empty where it is not known.
    breaking : Sample or None
        Evidence for breaking strength, in which a run-out is only a floor.
    untie : Sample or None
        ln of the untying time in second; giving up is a floor.
    context : tuple of PullContext
        One a pull of `sample`, or empty.
    cells : tuple of LoadCell
        Load cells the pulls were taken on.
    cordage_b : str
        The second cordage of an unlike pair; the weaker baseline is the reference.
    """

    cordage: str
    condition: str
    knot: str | None
    sample: Sample
    counts: OutcomeCounts
    cordage_b: str = ""
    jam_load_n: Floats = field(default_factory=lambda: _EMPTY)
    jam_level: Floats = field(default_factory=lambda: _EMPTY)
    jam_pulls: tuple[str, ...] = ()
    cycles: Floats = field(default_factory=lambda: _EMPTY)
    cycles_failed: Floats = field(default_factory=lambda: _EMPTY)
    shakes: Floats = field(default_factory=lambda: _EMPTY)
    shakes_failed: Floats = field(default_factory=lambda: _EMPTY)
    work: WorkPulls = NO_WORK
    family: str = ""
    wraps: WrapSample | None = None
    caveats: tuple[Caveat, ...] = ()
    rated_n: float | None = None
    breaking: Sample | None = None
    untie: Sample | None = None
    context: tuple[PullContext, ...] = ()
    cells: tuple[LoadCell, ...] = ()

    @property
    def content(self) -> Hashable:
        """All it holds, to be compared with another group's."""
        return content_of(self)


@dataclass(frozen=True, kw_only=True)
class PullSays:
    """What one pull says of one group; loads in newton.

    Parameters
    ----------
    events, floors : int
        Holding strengths observed, and known only as at least the peak.
    breaks : int
        Breaking strengths observed.
    jams : tuple of (float, JamLevel)
        For each knot that was untied, the load it had seen and what it took.
    untied : tuple of (float, bool)
        Seconds untying took, and whether it was given up then.
    """

    pull_id: str
    load_n: float
    events: int
    floors: int
    breaks: int
    kind: Outcome
    context: PullContext = field(default_factory=PullContext)
    jams: tuple[tuple[float, JamLevel], ...] = ()
    untied: tuple[tuple[float, bool], ...] = ()


def plain_evidence(cordage: str, condition: str, says: Sequence[PullSays], void: int) -> GroupData:
    """The plain rope of a lot: its clear breaks, and the floors beside them.

    Raises
    ------
    DataError
        If a load is unusable; it names the pull.
    """
    return GroupData(
        cordage=cordage,
        condition=condition,
        knot=None,
        sample=make_sample([(p.pull_id, p.load_n, p.events, p.floors) for p in says]),
        counts=count_outcomes([p.kind for p in says], void),
    )


def knot_evidence(
    knot: str | None,
    cordage: str,
    condition: str,
    says: Sequence[PullSays],
    void: int,
    beside: Sequence[PullSays] = (),
) -> GroupData:
    """A knot in a lot: holding and breaking strength, jamming and untying.

    What came out breaks at least where it came out: every strength that is not an observed break
    is a floor of it.

    Parameters
    ----------
    says : sequence of PullSays
        Pulls that can speak to strength.
    beside : sequence of PullSays
        Pulls by other methods: only untying is taken of them.

    Raises
    ------
    DataError
        If a load is unusable; it names the pull.
    """
    seen = (*says, *beside)
    jams = [
        (load, JAM_ORDER[level], p.pull_id)
        for p in seen
        for load, level in p.jams
        if level in JAM_ORDER
    ]
    breaks = [(p.pull_id, p.load_n, p.breaks, p.events + p.floors - p.breaks) for p in says]
    untied = [(p.pull_id, s, int(not up), int(up)) for p in seen for s, up in p.untied]
    return replace(
        plain_evidence(cordage, condition, says, void),
        knot=knot,
        jam_load_n=np.array([j[0] for j in jams], dtype=np.float64),
        jam_level=np.array([j[1] for j in jams], dtype=np.float64),
        jam_pulls=tuple(j[2] for j in jams),
        breaking=make_sample(breaks),
        untie=make_sample(untied),
        context=tuple(p.context for p in says),
    )
