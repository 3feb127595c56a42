"""What pulls would buy: precision against their number, and what a wanted precision costs."""

from __future__ import annotations

from dataclasses import dataclass

from bruiser.core.planning.bench_time import learn
from bruiser.core.records.records import Knot, Lot
from bruiser.core.statistics.precision import (
    SpreadGuess,
    half_width,
    pulls_for_half_width,
    pulls_to_tell_apart,
)
from bruiser.workshop.desk.cutting import cut_length_m
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.plan.cell_specimens import BASELINE_WANTED, one_specimen
from bruiser.workshop.plan.plan_cells import PlanDraft, can_be_paired
from bruiser.workshop.plan.planning import specimen_seconds
from bruiser.workshop.results.lot_results import LotResults

PRIOR_KNOT, PRIOR_BASELINE = 0.07, 0.04


@dataclass(frozen=True, kw_only=True)
class Curve:
    """Half-width expected after n pulls, with the knot at one end and at both."""

    pulls: tuple[int, ...]
    one_knot: tuple[float, ...]
    two_knots: tuple[float, ...]
    share: float
    spread: SpreadGuess
    baseline_pulls: int

    @property
    def source(self) -> str:
        """Where the spreads come from."""
        return self.spread.source

    def pulls_for(self, wanted: float, knots: int) -> int | None:
        """Fewest pulls that reach a half-width; None where the baseline limits it."""
        return pulls_for_half_width(wanted, self.share, self.spread, self.baseline_pulls, knots)

    def pulls_to_tell(self, by: float) -> int | None:
        """Pulls of each that tell it from a knot weaker by so much, with 80 % power."""
        other = self.share - by
        if other <= 0:
            return 2
        return pulls_to_tell_apart(self.share, other, self.spread.knot, self.spread.knot)


@dataclass(frozen=True, kw_only=True)
class Price:
    """What reaching a half-width costs with so many knots a specimen."""

    knots: int
    pulls: int
    cord_m: float
    seconds: float


def prices(
    logbook: Logbook, draft: PlanDraft, lot: Lot, knot: Knot, curve: Curve, wanted: float
) -> list[Price]:
    """Pulls, cord and bench time that reach a half-width, with one knot a specimen and with two.

    Two are left out where the knot is not a loop tied at both ends, and either where the baseline
    does not allow that half-width.
    """
    times = learn(logbook.recorded_times())
    found = []
    for knots in (1, 2) if can_be_paired(logbook, knot.id) else (1,):
        pulls = curve.pulls_for(wanted, knots)
        if pulls is None:
            continue
        one = one_specimen(logbook, draft, lot, knot, knots)
        cord, seconds = cut_length_m(logbook, one), specimen_seconds(one, times)
        found.append(Price(knots=knots, pulls=pulls, cord_m=pulls * cord, seconds=pulls * seconds))
    return found


def precision_curve(results: LotResults | None, knot: Knot, most: int = 20) -> Curve:
    """Expected half-width of a knot's efficiency in a lot against the number of pulls.

    Spreads are those measured in this lot where there are three failures or more, else the stated
    priors; the baseline is taken as it stands, with five pulls where there are fewer than two.
    """
    knot_spread, base_spread, share = PRIOR_KNOT, PRIOR_BASELINE, 0.7
    baseline_pulls, source = BASELINE_WANTED, "stated prior: 7 % for the knot, 4 % for the rope"
    if results is not None:
        base = results.baseline
        if base.estimate is not None and base.counts.broke >= 2:
            baseline_pulls = base.counts.broke
        if base.estimate is not None and base.counts.broke >= 3:
            base_spread = max(base.estimate.sigma, 0.01)
        row = next((r for r in results.knots if r.knot.id == knot.id), None)
        if row is not None and row.efficiency.interval is not None:
            share = row.efficiency.interval.value
            events = row.efficiency.counts.broke + row.efficiency.counts.came_out
            if events >= 3 and row.result.estimate is not None:
                knot_spread = max(row.result.estimate.sigma, 0.01)
                source = (
                    f"measured here: {100 * knot_spread:.0f} % for the knot, "
                    f"{100 * base_spread:.0f} % for the rope"
                )
    spread = SpreadGuess(knot_spread, base_spread, source)
    pulls = tuple(range(2, most + 1))

    def width(n: int, knots: int) -> float:
        return half_width(share, spread, n, baseline_pulls, knots)

    return Curve(
        pulls=pulls,
        one_knot=tuple(width(n, 1) for n in pulls),
        two_knots=tuple(width(n, 2) for n in pulls),
        share=share,
        spread=spread,
        baseline_pulls=baseline_pulls,
    )
