"""Which specimen is cut from which hank, so that least cord is used up.

Cord is used up by the pieces and by rests too short to keep. Among plans that use up as little, the
one that opens least cord is taken: offcuts go first.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np
from scipy.optimize import Bounds, LinearConstraint, milp
from scipy.sparse import lil_array

from bruiser.core.errors import DataError

EXACT_UP_TO = 300
_OPENED_WEIGHT = 1e-3
_ROUND = 4
_EVERY_SET = 16


@dataclass(frozen=True)
class Piece:
    """A length to cut in metre; pieces with the same `together` come from one hank."""

    key: str
    length_m: float
    together: str = ""


@dataclass(frozen=True)
class Supply:
    """A hank, spool or offcut with the length left on it in metre."""

    key: str
    length_m: float


class TooShort(DataError):
    """The pieces cannot all be cut; `short_m` is missing, in one length or in total."""

    def __init__(self, headline: str, short_m: float) -> None:
        super().__init__(headline, "Take in more cord, or drop specimens.")
        self.short_m = short_m


@dataclass(frozen=True, kw_only=True)
class CutPlan:
    """A plan with what it costs.

    Parameters
    ----------
    cuts : dict
        Keys of the pieces by hank, longest piece first; hanks that stay whole are left out.
    used_up_m : float
        Pieces and written-off rests together.
    written_off_m : float
        Rests shorter than the shortest offcut kept.
    opened_m : float
        Length of all hanks that are cut from.
    bound_m : float
        No plan uses up less than this.
    optimal : bool
        Whether it was proven that none is better.
    method : str
        How it was found.
    """

    cuts: dict[str, tuple[str, ...]]
    used_up_m: float
    written_off_m: float
    opened_m: float
    bound_m: float
    optimal: bool
    method: str

    @property
    def gap(self) -> float:
        """How far above the bound it may be, as a share."""
        return 0.0 if self.bound_m <= 0 else max(0.0, self.used_up_m / self.bound_m - 1.0)


@dataclass(frozen=True)
class _Bundle:
    """Pieces that come from one hank, as one length."""

    length_m: float
    keys: tuple[str, ...]


def _bundles(pieces: Sequence[Piece]) -> list[_Bundle]:
    together: dict[str, list[Piece]] = {}
    for number, piece in enumerate(pieces):
        together.setdefault(piece.together or f"\0{number}", []).append(piece)
    made = [
        _Bundle(round(math.fsum(p.length_m for p in group), _ROUND), tuple(p.key for p in group))
        for group in together.values()
    ]
    return sorted(made, key=lambda b: -b.length_m)


@dataclass
class _Packing:
    """Bundles laid into supplies, and its cost."""

    supplies: Sequence[Supply]
    minimum_m: float
    laid: dict[str, list[_Bundle]] = field(default_factory=dict)

    def rest_m(self, supply: Supply) -> float:
        used = math.fsum(b.length_m for b in self.laid.get(supply.key, ()))
        return round(supply.length_m - used, _ROUND)

    @property
    def written_off_m(self) -> float:
        rests = (self.rest_m(s) for s in self.supplies if self.laid.get(s.key))
        return math.fsum(r for r in rests if r < self.minimum_m)

    @property
    def opened_m(self) -> float:
        return math.fsum(s.length_m for s in self.supplies if self.laid.get(s.key))

    @property
    def cost(self) -> float:
        return self.written_off_m + _OPENED_WEIGHT * self.opened_m


def plan_cuts(
    pieces: Sequence[Piece],
    supplies: Sequence[Supply],
    offcut_minimum_m: float,
    rng: np.random.Generator,
    *,
    time_limit_s: float = 4.0,
    exact_up_to: int = EXACT_UP_TO,
    tries: int = 200,
    progress: Callable[[float], None] = lambda _: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> CutPlan:
    """Plan the cuts of one lot.

    Parameters
    ----------
    pieces : sequence of Piece
        What is to be cut.
    supplies : sequence of Supply
        What is on hand.
    offcut_minimum_m : float
        A rest shorter than this is written off.
    rng : numpy.random.Generator
        For the tries of the heuristic.
    time_limit_s : float
        Limit of the exact solver.
    exact_up_to : int
        Beyond so many pieces only the heuristic is tried.
    tries : int
        Randomised tries of the heuristic.
    progress, cancelled : callable
        Told the share done; asked whether to stop with the best so far.

    Raises
    ------
    TooShort
        If a piece is longer than any hank, or no way was found to cut them all.

    Notes
    -----
    Exact: scipy.optimize.milp (HiGHS) over how many bundles of each length come from each hank,
    with a binary for a hank opened and one for a rest written off. Heuristic: best-fit decreasing,
    then the same with lengths shuffled a little, best kept. Bound: the solver's, else the pieces
    alone.
    """
    bundles = _bundles(pieces)
    total = math.fsum(b.length_m for b in bundles)
    _refuse_what_cannot_fit(bundles, supplies, total)
    if not bundles:
        return CutPlan(
            cuts={},
            used_up_m=0.0,
            written_off_m=0.0,
            opened_m=0.0,
            bound_m=0.0,
            optimal=True,
            method="nothing to cut",
        )
    best = _heuristic(bundles, supplies, offcut_minimum_m, rng, tries, progress, cancelled)
    method, bound, optimal = f"best fit, best of {tries} tries", total, False
    if best is not None and best.written_off_m == 0 and _opens_least(best, total):
        return _finish(best, total, total, True, "best fit; nothing written off, least opened")
    if len(pieces) <= exact_up_to and not cancelled():
        found = _exact(bundles, supplies, offcut_minimum_m, time_limit_s)
        if found is not None:
            solved, bound_cost, proven = found
            if solved is not None and (best is None or solved.cost <= best.cost + 1e-9):
                best, method, optimal = solved, "exact", proven
            bound = max(total, total + bound_cost - _OPENED_WEIGHT * _most(supplies))
            if optimal and best is not None:
                bound = total + best.written_off_m
    progress(1.0)
    if best is None:
        raise TooShort(
            "There is enough cord, but the hanks are too broken up to cut every specimen.",
            _missing(bundles, supplies, offcut_minimum_m),
        )
    return _finish(best, total, min(bound, total + best.written_off_m), optimal, method)


def _most(supplies: Sequence[Supply]) -> float:
    return math.fsum(s.length_m for s in supplies)


def _refuse_what_cannot_fit(
    bundles: list[_Bundle], supplies: Sequence[Supply], total: float
) -> None:
    longest = max((s.length_m for s in supplies), default=0.0)
    on_hand = _most(supplies)
    if total > on_hand + 1e-9:
        short = total - on_hand
        raise TooShort(f"{short:.2f} m too little: {total:.2f} m wanted of {on_hand:.2f} m.", short)
    if bundles and bundles[0].length_m > longest + 1e-9:
        short = bundles[0].length_m - longest
        raise TooShort(
            f"The longest cut is {bundles[0].length_m:.2f} m, {short:.2f} m more than any hank.",
            short,
        )


def _missing(bundles: list[_Bundle], supplies: Sequence[Supply], minimum_m: float) -> float:
    """Length of what best fit leaves uncut."""
    left: list[_Bundle] = []
    _best_fit(bundles, supplies, minimum_m, left)
    return math.fsum(b.length_m for b in left)


def _opens_least(packing: _Packing, total: float) -> bool:
    """Whether no fewer metres could be opened: no set of hanks holds the total in less."""
    lengths = [s.length_m for s in packing.supplies]
    if len(lengths) > _EVERY_SET:
        return False
    sums = {0.0}
    for x in lengths:
        sums |= {s + x for s in sums}
    return not any(total - 1e-9 <= s < packing.opened_m - 1e-9 for s in sums)


def _best_fit(
    bundles: Sequence[_Bundle],
    supplies: Sequence[Supply],
    minimum_m: float,
    left: list[_Bundle] | None = None,
) -> _Packing | None:
    """Lay each bundle into the opened hank with the least room, else the shortest that holds it."""
    packing = _Packing(supplies, minimum_m, {})
    rest = {s.key: s.length_m for s in supplies}
    for bundle in bundles:
        fits = [s for s in supplies if rest[s.key] >= bundle.length_m - 1e-9]
        if not fits:
            if left is None:
                return None
            left.append(bundle)
            continue
        at = min(fits, key=lambda s: (s.key not in packing.laid, rest[s.key]))
        packing.laid.setdefault(at.key, []).append(bundle)
        rest[at.key] = round(rest[at.key] - bundle.length_m, _ROUND)
    return packing


def _heuristic(
    bundles: list[_Bundle],
    supplies: Sequence[Supply],
    minimum_m: float,
    rng: np.random.Generator,
    tries: int,
    progress: Callable[[float], None],
    cancelled: Callable[[], bool],
) -> _Packing | None:
    best = _best_fit(bundles, supplies, minimum_m)
    for number in range(tries):
        if cancelled() or (best is not None and best.written_off_m == 0 and number > 20):
            break
        noise = rng.uniform(0.8, 1.25, len(bundles))
        order = np.argsort([-b.length_m * f for b, f in zip(bundles, noise, strict=True)])
        tried = _best_fit([bundles[k] for k in order], supplies, minimum_m)
        if tried is not None and (best is None or tried.cost < best.cost - 1e-9):
            best = tried
        progress(0.5 * (number + 1) / tries)
    return best


def _exact(
    bundles: list[_Bundle], supplies: Sequence[Supply], minimum_m: float, time_limit_s: float
) -> tuple[_Packing | None, float, bool] | None:
    """The solver's plan, its bound on the cost, and whether it is proven."""
    kinds = sorted(Counter(b.length_m for b in bundles).items(), reverse=True)
    types, hanks = len(kinds), len(supplies)
    opened, written, rest = types * hanks, types * hanks + hanks, types * hanks + 2 * hanks
    size = types * hanks + 3 * hanks
    # Variables: n[t, h], y[h] opened, z[h] rest written off, w[h] metres written off.
    cost = np.zeros(size)
    cost[opened : opened + hanks] = [_OPENED_WEIGHT * s.length_m for s in supplies]
    cost[rest:] = 1.0
    rows: list[tuple[dict[int, float], float, float]] = []
    for t, (_, count) in enumerate(kinds):
        rows.append(({t * hanks + h: 1.0 for h in range(hanks)}, count, count))
    for h, supply in enumerate(supplies):
        used = {t * hanks + h: length for t, (length, _) in enumerate(kinds)}
        limit = supply.length_m
        rows.append(({**used, opened + h: -limit}, -np.inf, 1e-9))
        # rest >= minimum unless written off: L y - used >= minimum (y - z)
        rows.append(
            (
                {**used, opened + h: minimum_m - limit, written + h: -minimum_m},
                -np.inf,
                1e-9,
            )
        )
        # w >= L y - used - L (1 - z)
        rows.append(
            (
                {
                    **{k: -v for k, v in used.items()},
                    opened + h: limit,
                    written + h: limit,
                    rest + h: -1.0,
                },
                -np.inf,
                limit,
            )
        )
    matrix = lil_array((len(rows), size))
    for r, (entries, _, _) in enumerate(rows):
        for column, value in entries.items():
            matrix[r, column] = value
    constraint = LinearConstraint(matrix.tocsr(), [r[1] for r in rows], [r[2] for r in rows])
    upper = np.full(size, np.inf)
    for t, (_, count) in enumerate(kinds):
        upper[t * hanks : (t + 1) * hanks] = count
    upper[opened:rest] = 1.0
    whole = np.ones(size, dtype=np.int64)
    whole[rest:] = 0
    solved = milp(
        cost,
        integrality=whole,
        bounds=Bounds(np.zeros(size), upper),
        constraints=constraint,
        options={"time_limit": time_limit_s, "mip_rel_gap": 1e-6},
    )
    if solved.status == 2:
        return None
    bound = 0.0 if solved.mip_dual_bound is None else float(solved.mip_dual_bound)
    if solved.x is None:
        return None, bound, False
    waiting = {length: [b for b in bundles if b.length_m == length] for length, _ in kinds}
    packing = _Packing(supplies, minimum_m, {})
    for h, supply in enumerate(supplies):
        for t, (length, _) in enumerate(kinds):
            for _ in range(round(solved.x[t * hanks + h])):
                packing.laid.setdefault(supply.key, []).append(waiting[length].pop())
    return packing, bound, solved.status == 0


def _finish(packing: _Packing, total: float, bound: float, optimal: bool, method: str) -> CutPlan:
    cuts = {
        s.key: tuple(
            key for b in sorted(packing.laid[s.key], key=lambda b: -b.length_m) for key in b.keys
        )
        for s in packing.supplies
        if packing.laid.get(s.key)
    }
    written_off = packing.written_off_m
    return CutPlan(
        cuts=cuts,
        used_up_m=total + written_off,
        written_off_m=written_off,
        opened_m=packing.opened_m,
        bound_m=bound,
        optimal=optimal,
        method=method,
    )
