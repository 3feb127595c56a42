"""Whatever is measured, there is an answer without a warning and without an absurd interval."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bruiser.core.performance.evidence import GroupData
from bruiser.core.performance.report import make_report
from bruiser.core.statistics.censored import Sample
from bruiser.core.statistics.strength import OutcomeCounts

row = st.tuples(st.floats(1.0, 1e6), st.integers(0, 1), st.integers(0, 2)).filter(
    lambda r: r[1] + r[2] > 0
)


def group(knot, rows):
    loads, events, floors = (np.array([r[k] for r in rows], dtype=float) for k in range(3))
    counts = OutcomeCounts(broke=int(events.sum()), came_out=0, outlasted=int((events == 0).sum()))
    level = np.arange(len(rows)) % 4
    sample = Sample(ln_load=np.log(loads), events=events, floors=floors)
    return GroupData(
        cordage="P8",
        condition="dry",
        knot=knot,
        sample=sample,
        counts=counts,
        jam_load_n=loads,
        jam_level=level,
    )


@given(st.lists(row, max_size=6), st.lists(row, max_size=6), st.lists(row, max_size=6))
@settings(max_examples=60)
def test_any_groups_are_rated_without_a_warning(base, first, second):
    report = make_report([group(None, base), group("a", first), group("b", second)])
    for result in report.groups[1:]:
        interval = result.rated.efficiency.interval
        if interval is not None:
            assert 0 <= interval.low <= interval.value <= interval.high
            assert np.isfinite(interval.value)
        elif result.data.sample.event_count == 0 or not base:
            assert result.caveats
        bounds = [b.load_n for _, b in sorted(result.tolerance.items())]
        assert bounds == sorted(bounds, reverse=True)


@pytest.mark.parametrize("loads", [[9_000] * 5, [9_000, 9_000.0001, 9_000, 9_000, 9_000]])
def test_a_baseline_without_spread_still_gives_an_interval(loads):
    base = [(load, 1, 0) for load in loads]
    knot = [(load, 1, 1) for load in (6_000, 6_200, 6_500)]
    found = make_report([group(None, base), group("a", knot)]).groups[1].rated.efficiency
    assert found.interval.low < 0.70 < found.interval.high
    assert found.interval.high / found.interval.low < 2
