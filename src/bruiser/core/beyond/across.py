"""Knots across cordages: what a knot may keep in cordage where nobody pulled it, and how far to go.

The model is :mod:`bruiser.core.beyond.crossed` on ln efficiency, knots as rows and cordages as
columns; the error of a cordage's plain rope is what the cells of a column share. When nothing is
said, and what weakens what is said, is data here (:class:`Note`); the words are the surface's.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from bruiser.core.beyond.crossed import CrossedFit, doubled, fit_crossed
from bruiser.core.beyond.given import Cells
from bruiser.core.beyond.rules import CrossedPrior
from bruiser.core.performance.efficiency import Efficiency, Priors, tabulate
from bruiser.core.performance.report import GroupResult
from bruiser.core.statistics.censored import Sample, make_sample
from bruiser.core.statistics.posterior import Marginal
from bruiser.core.statistics.strength import Interval

FEW_CORDAGES = 4
WIDER = 1.2
"""An interval that grows by more than this when the prior of t is doubled rests on it."""
_COUNT_LEVEL = 0.01
_LEVEL = 0.95
_FAR = 0.005
"""Each way, shared out among the cordages: one false alarm in a hundred campaigns, not in ten."""
_COLUMNS_TO_LEAVE_ONE_OUT = 3


class CellKind(StrEnum):
    """Where a figure comes from."""

    MEASURED = "measured"
    PREDICTED = "predicted"


class Doubt(StrEnum):
    """Why something is not said, or what weakens it."""

    ONE_CORDAGE = "one cordage"
    FEW_CORDAGES = "few cordages"
    KNOT_IN_ONE = "knot in one cordage"
    RESTS_ON_PRIOR = "rests on the prior"
    FLOORS_ONLY = "floors only"
    NO_PLAIN_ROPE = "no plain rope"
    TOO_FEW_INSIDE = "too few inside"
    CORDAGE_OUTSIDE = "cordage outside"
    WEAK_SPARED = "weak knots spared"


NO_ROPE = make_sample([])
WITHDRAWS = frozenset({Doubt.TOO_FEW_INSIDE, Doubt.CORDAGE_OUTSIDE})


@dataclass(frozen=True, kw_only=True)
class Note:
    """A refusal or a warning.

    Parameters
    ----------
    about : tuple of str
        The knots or cordages it is about.
    number : float, optional
        Of cordages, of cells inside, or how much wider.
    """

    doubt: Doubt
    about: tuple[str, ...] = ()
    number: float | None = None


@dataclass(frozen=True, kw_only=True)
class MeasuredCell:
    """A knot that was pulled in a cordage with its plain rope beside it.

    Parameters
    ----------
    ln_share, error : float
        Posterior mean of ln efficiency and its standard deviation, the plain rope's part included.
    shared : float
        The plain rope's part of the error.
    efficiency : Interval
        As it is shown everywhere else.
    """

    cordage: str
    knot: str
    ln_share: float
    error: float
    shared: float
    efficiency: Interval
    pull_ids: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class UnusedCell:
    """A knot that was pulled in a cordage and does not enter, with the reason."""

    cordage: str
    knot: str
    doubt: Doubt


@dataclass(frozen=True, kw_only=True)
class AcrossCell:
    """A knot in a cordage, measured or predicted."""

    cordage: str
    knot: str
    kind: CellKind
    share: Interval
    pull_ids: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class Check:
    """Every measured cell predicted from the others, and every cordage from the others.

    Parameters
    ----------
    cells, inside : int
        How many could be left out, and how many of them lay inside their 95 %.
    outside : tuple of (str, str)
        Knot and cordage of the others: one in twenty is to be expected, a mistyped figure is
        among them.
    """

    cells: int
    inside: int
    withdrawn: bool
    outside: tuple[tuple[str, str], ...] = ()


@dataclass(frozen=True, kw_only=True)
class Across:
    """Knots across cordages.

    Parameters
    ----------
    typical, new_cordage : dict of str to Interval
        By knot: in the cordages there are taken together, and in one that nobody pulled. Empty
        where that is not said.
    spread : Interval or None
        Between cordages: t in ln, as a share (0.08 is about 8 %); None with one cordage.
    refused : tuple of (str, str)
        Knot and cordage of cells that are neither measured nor predicted.
    """

    knots: tuple[str, ...]
    cordages: tuple[str, ...]
    cells: tuple[AcrossCell, ...]
    typical: dict[str, Interval]
    new_cordage: dict[str, Interval]
    spread: Interval | None
    check: Check
    notes: tuple[Note, ...]
    prior: CrossedPrior
    refused: tuple[tuple[str, str], ...] = ()

    def cell(self, knot: str, cordage: str) -> AcrossCell | None:
        """A cell, measured or predicted; None where nothing is said."""
        return next((c for c in self.cells if (c.knot, c.cordage) == (knot, cordage)), None)


def moments(marginal: Marginal) -> tuple[float, float]:
    """Mean and standard deviation of a posterior of one group that is tabulated."""
    mass = np.diff(marginal.cdf[0])
    middle = 0.5 * (marginal.mu[0, 1:] + marginal.mu[0, :-1])
    mean = float((mass * middle).sum() / mass.sum())
    return mean, math.sqrt(float((mass * (middle - mean) ** 2).sum() / mass.sum()))


@dataclass(frozen=True, kw_only=True)
class PulledCell:
    """A knot in a cordage as it was rated, with the pulls of its plain rope."""

    cordage: str
    knot: str
    efficiency: Efficiency
    plain: Sample


def cells_of(pulled: Sequence[PulledCell]) -> tuple[list[MeasuredCell], list[UnusedCell]]:
    """Which cells enter, in ln with their errors, and which do not."""
    ropes = tabulate([c.plain for c in pulled], Priors().baseline)
    measured: list[MeasuredCell] = []
    unused: list[UnusedCell] = []
    for c in sorted(pulled, key=lambda c: (c.cordage, c.knot)):
        rope, own, share = ropes.of(c.plain), c.efficiency.marginal, c.efficiency.interval
        if rope is None or own is None or share is None:
            doubt = Doubt.NO_PLAIN_ROPE if rope is None else Doubt.FLOORS_ONLY
            unused.append(UnusedCell(cordage=c.cordage, knot=c.knot, doubt=doubt))
            continue
        (mean, sd), (plain, shared) = moments(own), moments(rope)
        measured.append(
            MeasuredCell(
                cordage=c.cordage,
                knot=c.knot,
                ln_share=mean - plain,
                error=math.hypot(sd, shared),
                shared=shared,
                efficiency=share,
                pull_ids=c.efficiency.pull_ids,
            )
        )
    return measured, unused


def report_across(groups: Sequence[GroupResult]) -> dict[str, Across]:
    """Knots across the cordages of a report, by condition: there a group's name says the rest."""
    plain = {(g.data.cordage, g.data.condition): g for g in groups if g.data.knot is None}
    by_condition: dict[str, list[PulledCell]] = {}
    for g in groups:
        if g.data.knot is None or g.data.cordage_b or g.rated is None:
            continue
        base = plain.get((g.data.cordage, g.data.condition))
        by_condition.setdefault(g.data.condition, []).append(
            PulledCell(
                cordage=g.data.cordage,
                knot=g.data.knot,
                efficiency=g.rated.efficiency,
                plain=NO_ROPE if base is None else base.data.sample,
            )
        )
    found = {condition: lay_across(*cells_of(own)) for condition, own in by_condition.items()}
    return {condition: across for condition, across in found.items() if across is not None}


def lay_across(
    measured: Sequence[MeasuredCell],
    unused: Sequence[UnusedCell] = (),
    prior: CrossedPrior | None = None,
) -> Across | None:
    """Predict what was not pulled, and check on what was; None where nothing was measured.

    Parameters
    ----------
    measured : sequence of MeasuredCell
        Cells that compare; each knot and cordage once.
    unused : sequence of UnusedCell
        Cells that do not enter; their knots and cordages are named.
    """
    if not measured:
        return None
    used = prior or CrossedPrior()
    knots = tuple(dict.fromkeys(c.knot for c in measured))
    cordages = tuple(dict.fromkeys(c.cordage for c in measured))
    cells = _cells(measured, knots, cordages)
    fit = fit_crossed(cells, used)
    many = len(cordages) > 1
    check, wrong = (
        _check(fit, knots, cordages) if many else (Check(cells=0, inside=0, withdrawn=False), ())
    )
    notes = [*wrong, *_notes(cells, knots, cordages, unused)]
    found = [_as_measured(c) for c in measured]
    typical: dict[str, Interval] = {}
    new: dict[str, Interval] = {}
    empty = ~cells.mask
    refused = {(c.knot, c.cordage) for c in unused}
    if not check.withdrawn:
        new_column = fit.new_column()
        typical = dict(zip(knots, fit.rows(), strict=True))
        new = dict(zip(knots, new_column, strict=True))
        notes += _wider(new_column, fit_crossed(cells, doubled(used)).new_column())
    if many and not check.withdrawn:
        where = [(knots[k], cordages[j]) for k, j in np.argwhere(empty)]
        found += [
            AcrossCell(cordage=j, knot=k, kind=CellKind.PREDICTED, share=share)
            for (k, j), share in zip(where, fit.new_cells(empty), strict=True)
        ]
        refused -= set(where)
    else:
        refused |= {(knots[k], cordages[j]) for k, j in np.argwhere(empty)}
    return Across(
        knots=knots,
        cordages=cordages,
        cells=tuple(found),
        typical=typical,
        new_cordage=new,
        spread=fit.spread if many else None,
        check=check,
        notes=tuple(notes),
        prior=used,
        refused=tuple(sorted(refused)),
    )


def _cells(
    measured: Sequence[MeasuredCell], knots: tuple[str, ...], cordages: tuple[str, ...]
) -> Cells:
    shape = len(knots), len(cordages)
    y, error = np.full(shape, np.nan), np.ones(shape)
    shared = np.zeros(len(cordages))
    for c in measured:
        at = knots.index(c.knot), cordages.index(c.cordage)
        y[at], error[at], shared[at[1]] = c.ln_share, c.error, c.shared
    return Cells(y=y, error=error, shared=shared)


def _as_measured(cell: MeasuredCell) -> AcrossCell:
    return AcrossCell(
        cordage=cell.cordage,
        knot=cell.knot,
        kind=CellKind.MEASURED,
        share=cell.efficiency,
        pull_ids=cell.pull_ids,
    )


def _check(
    fit: CrossedFit, knots: tuple[str, ...], cordages: tuple[str, ...]
) -> tuple[Check, tuple[Note, ...]]:
    """Leave out every cell whose knot and cordage are measured elsewhere, and every cordage."""
    from scipy.stats import binom  # slow to load

    mask = fit.cells.mask
    elsewhere = mask & (mask.sum(axis=1) > 1)[:, None] & (mask.sum(axis=0) > 1)
    far = elsewhere & (np.abs(fit.left_out() - 0.5) > 0.5 * _LEVEL)
    cells = int(np.count_nonzero(elsewhere))
    inside = cells - int(np.count_nonzero(far))
    wrong: list[Note] = []
    if cells and binom.cdf(inside, cells, _LEVEL) < _COUNT_LEVEL:
        wrong.append(Note(doubt=Doubt.TOO_FEW_INSIDE, number=float(inside)))
    if len(cordages) >= _COLUMNS_TO_LEAVE_ONE_OUT:
        at = fit.columns_left_out()
        far_out = _FAR / len(cordages)
        odd = tuple(c for c, p in zip(cordages, at, strict=True) if min(p, 1.0 - p) < far_out)
        wrong += [Note(doubt=Doubt.CORDAGE_OUTSIDE, about=odd)] if odd else []
    outside = tuple((knots[k], cordages[j]) for k, j in np.argwhere(far))
    check = Check(cells=cells, inside=inside, withdrawn=bool(wrong), outside=outside)
    return check, tuple(wrong)


def _notes(
    cells: Cells,
    knots: tuple[str, ...],
    cordages: tuple[str, ...],
    unused: Sequence[UnusedCell],
) -> list[Note]:
    found = []
    if len(cordages) == 1:
        found.append(Note(doubt=Doubt.ONE_CORDAGE, about=cordages))
    elif len(cordages) < FEW_CORDAGES:
        found.append(Note(doubt=Doubt.FEW_CORDAGES, number=float(len(cordages))))
    alone = cells.mask.sum(axis=1) == 1
    if len(cordages) > 1 and alone.any():
        once = tuple(k for k, one in zip(knots, alone, strict=True) if one)
        found.append(Note(doubt=Doubt.KNOT_IN_ONE, about=once))
    for doubt in (Doubt.FLOORS_ONLY, Doubt.NO_PLAIN_ROPE):
        about = tuple(
            f"{c.knot} in {c.cordage}" if doubt is Doubt.FLOORS_ONLY else c.cordage
            for c in unused
            if c.doubt is doubt
        )
        if about:
            found.append(Note(doubt=doubt, about=tuple(dict.fromkeys(about))))
    if not cells.mask.all():
        found.append(Note(doubt=Doubt.WEAK_SPARED))
    return found


def _wider(usual: list[Interval], under: list[Interval]) -> list[Note]:
    """Says so when intervals rest on the prior of t, with how much wider the widest became."""
    ratio = max(_width(b) / _width(a) for a, b in zip(usual, under, strict=True))
    return [Note(doubt=Doubt.RESTS_ON_PRIOR, number=ratio)] if ratio > WIDER else []


def _width(interval: Interval) -> float:
    return math.log(interval.high / interval.low)
