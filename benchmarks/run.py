"""Times the work that must stay fast: ``./run bench``. Prints the median of several runs."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from importlib.resources import files
from pathlib import Path
from shutil import copyfile
from tempfile import TemporaryDirectory

import numpy as np
from benchmarks.campaign import large_campaign

from bruiser.core.censored import Sample, fit
from bruiser.core.efficiency import Case
from bruiser.core.memory import Memory
from bruiser.core.rate import rate_groups
from bruiser.core.strength import OutcomeCounts
from bruiser.core.trace import analyse_trace
from bruiser.workshop.gathering import gather
from bruiser.workshop.journal import Journal, read_journal
from bruiser.workshop.results import all_results, lot_results
from bruiser.workshop.workshop import open_workshop


def median_seconds(work: Callable[[], object], runs: int = 5) -> float:
    """Median duration of `work` after one unmeasured run."""
    work()
    taken = []
    for _ in range(runs):
        began = time.perf_counter()
        work()
        taken.append(time.perf_counter() - began)
    return statistics.median(taken)


def main() -> None:
    rng = np.random.default_rng(1)
    x = np.log(7_000) + 0.06 * rng.standard_normal((1_000, 10))
    d = (rng.random((1_000, 10)) < 0.7).astype(float)
    plain = np.log(10_000) + 0.04 * rng.standard_normal(5)
    base = Sample(plain, np.ones(5), np.zeros(5))
    d[:, :2] = 1
    cases = [Case(Sample(x[k], d[k], 1 - d[k]), base, OutcomeCounts()) for k in range(1_000)]
    n = 60_000
    time_s = np.arange(n) / 500
    load = 8_000 * np.linspace(0, 1, n) + 3 * rng.standard_normal(n)
    travel = np.linspace(0, 0.4, n)
    with TemporaryDirectory() as folder:
        source = files("bruiser.app").joinpath("demo", "fennock-ridge.bruiser")
        workshop = open_workshop(Path(copyfile(str(source), f"{folder}/demo.bruiser")))
        journal = read_journal(workshop)
        rows: dict[str, Callable[[], object]] = {
            "maximum likelihood, 1,000 groups of 10": lambda: fit(x, d, 1 - d),
            "full results, 1,000 groups of 10": lambda: rate_groups(cases),
            "trace analysis, 60,000 samples": lambda: analyse_trace(time_s, load, travel),
            "reading the demo logbook": lambda: read_journal(workshop),
            "results of all demo lots": lambda: [lot_results(journal, p) for p in journal.lots],
        }
        for name, work in rows.items():
            print(f"{1000 * median_seconds(work):9.1f} ms  {name}")
        workshop.close()
    large = large_campaign()
    print(
        f"{1000 * median_seconds(lambda: everything(large), 3):9.1f} ms  1,000 groups, 10,500 pulls"
    )
    gathered, memory = gather(large), Memory()
    all_results(gathered, memory=memory)
    again = median_seconds(lambda: all_results(gather(large), memory=memory), 3)
    print(f"{1000 * again:9.1f} ms  the same again, nothing changed")


def everything(journal: Journal) -> object:
    """Gather and rate a whole campaign."""
    return all_results(gather(journal))


if __name__ == "__main__":
    main()
