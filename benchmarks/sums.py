"""Times what is worked out: plans, fits, ratings, traces, campaigns."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from datetime import datetime
from importlib.resources import files
from pathlib import Path
from shutil import copyfile
from tempfile import TemporaryDirectory

import numpy as np
from benchmarks.campaign import large_campaign
from benchmarks.timing import Timing, median_seconds
from scipy import stats
from validation.trace_report import speed_factor

from bruiser.core.memory import Memory
from bruiser.core.performance.efficiency import Case
from bruiser.core.performance.knot_strength import measure_groups
from bruiser.core.statistics.censored import Floats, Sample, fit
from bruiser.core.statistics.strength import OutcomeCounts
from bruiser.core.trace import analyse_trace, trace_of
from bruiser.workshop.groups.gathering import Gathered, gather
from bruiser.workshop.groups.jam_results import jam_rows
from bruiser.workshop.groups.knot_cases import knot_cases
from bruiser.workshop.groups.slipping import slip_rows
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import open_workshop
from bruiser.workshop.plan.plan_cells import PlanDraft
from bruiser.workshop.plan.planning import outlook
from bruiser.workshop.results.lot_results import all_results, campaign_report, lot_results


def beside_a_sort(name: str, work: Callable[[], object], times: int = 5) -> Timing:
    """Time some work beside sorting a million numbers, done right before it."""
    numbers = np.random.default_rng(1).random(1_000_000)
    sort_s = median_seconds(lambda _: np.sort(numbers), 9)
    took_s = median_seconds(lambda _: work(), times)
    return Timing(name=name, took_s=took_s, beside_s=sort_s, beside="of sorting a million numbers")


def beside_one_by_one(x: Floats, d: Floats, loop: int = 25) -> Timing:
    """Time the fits of all groups at once beside scipy's own, one by one."""

    def one_by_one() -> None:
        for k in range(loop):
            data = stats.CensoredData.right_censored(np.exp(x[k]), d[k] < 1)
            stats.lognorm.fit(data, floc=0)

    return Timing(
        name=f"maximum likelihood, {len(x):,} groups at once",
        took_s=median_seconds(lambda _: fit(x, d, 1 - d), 5),
        beside_s=median_seconds(lambda _: one_by_one(), 3) * len(x) / loop,
        beside="of scipy's fits one by one",
    )


def timings() -> Iterator[Timing]:
    """What is worked out, beside sorting a million numbers on the same machine."""
    rng = np.random.default_rng(1)
    x = np.log(7_000) + 0.06 * rng.standard_normal((1_000, 10))
    d = (rng.random((1_000, 10)) < 0.7).astype(float)
    plain = np.log(10_000) + 0.04 * rng.standard_normal(5)
    base = Sample(ln_load=plain, events=np.ones(5), floors=np.zeros(5))
    d[:, :2] = 1
    cases = [
        Case(
            knot=Sample(ln_load=x[k], events=d[k], floors=1 - d[k]),
            baseline=base,
            counts=OutcomeCounts(),
        )
        for k in range(1_000)
    ]
    n = 60_000
    load = 8_000 * np.linspace(0, 1, n) + 3 * rng.standard_normal(n)
    trace = trace_of(load, np.linspace(0, 0.4, n), rate_hz=500.0)
    yield beside_one_by_one(x, d)
    factor, took_s = speed_factor()
    yield Timing(
        name="trace analysis, 1,000,000 samples",
        took_s=took_s,
        beside_s=took_s / factor,
        beside="of their max and cumsum",
    )
    with TemporaryDirectory() as folder:
        source = files("bruiser.app").joinpath("demo", "fennock-ridge.bruiser")
        workshop = open_workshop(Path(copyfile(str(source), f"{folder}/demo.bruiser")))
        logbook = read_logbook(workshop)
        plan = PlanDraft(
            lot_ids=tuple(lot.id for lot in logbook.lots_in_use[:3]),
            knot_ids=tuple(knot.id for knot in logbook.knots_in_play[:9]),
            pulls=8,
        )
        begin = datetime(2026, 3, 2, 8, 0)
        rows: dict[str, Callable[[], object]] = {
            "looking ahead at a plan of over 200": lambda: outlook(logbook, plan, begin),
            "full results, 1,000 groups of 10": lambda: measure_groups(cases),
            "trace analysis, 60,000 samples": lambda: analyse_trace(trace),
            "reading the demo logbook": lambda: read_logbook(workshop),
            "results of all demo lots": lambda: [lot_results(logbook, p) for p in logbook.lots],
        }
        for name, work in rows.items():
            yield beside_a_sort(name, work)
        workshop.close()
    large = large_campaign()
    gathered, memory = gather(large), Memory()
    whole: dict[str, Callable[[], object]] = {
        "1,000 groups of 10,500 pulls, all rated": lambda: campaign_report(large),
        "the same for the sheet of strengths": lambda: all_results(gather(large)),
        "their slipping": lambda: everything(large, gathered, "slip"),
        "their jamming": lambda: everything(large, gathered, "jam"),
        "strengths again, nothing changed": lambda: all_results(gathered, memory=memory),
    }
    for name, work in whole.items():
        yield beside_a_sort(name, work, 3)


def everything(logbook: Logbook, gathered: Gathered, what: str) -> object:
    """Rate every knot of a campaign by case."""
    cases = [(c, 14_000.0) for lot in logbook.lots for c in knot_cases(gathered, lot.id)]
    rate = slip_rows if what == "slip" else jam_rows
    return [rate(cases[n : n + 100]) for n in range(0, len(cases), 100)]
