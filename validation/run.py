"""Runs every simulation and writes the report: ``./run validate [WHAT]``."""

from __future__ import annotations

import argparse
import sys
import time
from collections.abc import Iterable
from pathlib import Path

from validation import practice_report, trace_report
from validation import statistics as v

REPORT = Path(__file__).parents[1] / "docs" / "validation-statistics.md"


def limits(low: float, high: float, found: v.Measured) -> bool:
    """Whether a share lies inside its limits, two standard errors allowed on each."""
    allowed = [2 * (limit * (1 - limit) / max(found.trials, 1)) ** 0.5 for limit in (low, high)]
    return low - allowed[0] <= found.share <= high + allowed[1]


def _row(cells: Iterable[object]) -> str:
    return "| " + " | ".join(str(c) for c in cells) + " |"


class Report:
    """Collects the lines of the report and whether everything was reached."""

    def __init__(self) -> None:
        self.lines: list[str] = []
        self.failed: list[str] = []

    def table(self, title: str, wanted: str, header: tuple[str, ...]) -> None:
        """Begin a table."""
        self.lines += ["", f"## {title}", "", f"Wanted: {wanted}.", "", _row(header)]
        self.lines.append(_row("---" for _ in header))

    def add(self, cells: tuple[object, ...], reached: bool, name: str) -> None:
        """Add a row."""
        self.lines.append(_row((*cells, "yes" if reached else "**no**")))
        print(cells, "reached" if reached else "NOT REACHED", flush=True)
        if not reached:
            self.failed.append(name)


def _percent(share: float) -> str:
    return f"{100 * share:.1f} %"


def efficiency(report: Report, campaigns: int, seed: int) -> None:
    """Coverage and bias of the default interval in every cell."""
    report.table(
        "Efficiency: default interval",
        "93 to 99 % in every cell; bias under 1 % from 5 pulls on",
        ("knot CV", "pulls", "knots", "drums break", "coverage", "bias", "no interval", "reached"),
    )
    for cv in (0.04, 0.08, 0.12):
        for pulls in (3, 5, 8, 12):
            for knots in (1, 2):
                for terminations in (False, True):
                    m = v.efficiency_cell(cv, pulls, knots, terminations, campaigns, seed)
                    noise = 2 * cv / (pulls * max(m.trials, 1)) ** 0.5
                    fair = pulls < 5 or abs(m.bias) < 0.01 + noise
                    cells = (
                        f"{100 * cv:.0f} %", pulls, knots, "35 %" if terminations else "no",
                        _percent(m.share), f"{100 * m.bias:+.2f} %", m.without,
                    )  # fmt: skip
                    report.add(cells, fair and limits(0.93, 0.99, m), f"efficiency {cells}")


def tolerance(report: Report, campaigns: int, seed: int) -> None:
    """Coverage of the lower tolerance bound."""
    report.table(
        "Lower tolerance bound, 95 % confidence",
        "94 to 97 %",
        ("knot CV", "pulls", "outlasted", "share exceeding", "coverage", "reached"),
    )
    for cv in (0.04, 0.12):
        for pulls in (5, 10):
            for censored in (0.0, 0.3):
                for share in (0.90, 0.95):
                    m = v.tolerance_cell(cv, pulls, censored, share, campaigns, seed)
                    cells = (
                        f"{100 * cv:.0f} %", pulls, _percent(censored), _percent(share),
                        _percent(m.share),
                    )  # fmt: skip
                    report.add(cells, limits(0.94, 0.97, m), f"tolerance {cells}")


def others(report: Report, scale: float, seed: int) -> None:
    """Profile cross-check, jamming, untying, wraps and comparisons."""
    head = ("case", "campaigns", "share", "not decided", "reached")

    def count(full: int) -> int:
        return max(20, int(full * scale))

    report.table("Profile-likelihood cross-check: coverage", "92.8 to 97.4 %, N of 4 or more", head)
    for cv, pulls, knots in ((0.04, 5, 1), (0.08, 5, 2), (0.12, 8, 1), (0.12, 5, 2)):
        m = v.profile_cell(cv, pulls, knots, count(600), seed)
        name = f"CV {100 * cv:.0f} %, {pulls} pulls, {knots} knots"
        report.add((name, m.trials, _percent(m.share), 0), limits(0.928, 0.974, m), name)
    report.table("J50: coverage among campaigns that decide", "92 % or better", head)
    for knots in (6, 10, 20):
        m = v.jam_cell(knots, count(1000), seed)
        name = f"{knots} inspected knots"
        report.add((name, m.trials, _percent(m.share), m.without), limits(0.92, 1.0, m), name)
    report.table("Untying time, given up at three minutes: coverage", "92 % or better", head)
    for knots in (3, 6, 10):
        m = v.untie_cell(knots, count(800), seed)
        name = f"{knots} knots"
        report.add((name, m.trials, _percent(m.share), 0), limits(0.92, 1.0, m), name)
    report.table("Wraps: false certification at the edge", "6 % at most", head)
    for per_count, nine in ((3, False), (4, False), (4, True)):
        m = v.wraps_cell(per_count, nine, count(700), seed)
        name = f"{per_count} pulls a count, {'nine of ten' if nine else 'typical'}"
        report.add((name, m.trials, _percent(m.share), 0), limits(0.0, 0.06, m), name)
    report.table("Comparisons of equal knots: family error", "5.5 % at most", head)
    for groups, pulls, knots in ((3, 5, 1), (6, 5, 2), (6, 8, 1), (4, 3, 2)):
        m = v.family_cell(groups, pulls, knots, count(2000), seed)
        name = f"{groups} knots, {pulls} pulls, {knots} ends"
        report.add((name, m.trials, _percent(m.share), 0), limits(0.0, 0.055, m), name)


def main() -> int:
    """Run all; 1 when something was not reached."""
    parser = argparse.ArgumentParser()
    parser.add_argument(
        "what",
        nargs="?",
        choices=("all", "statistics", "traces", "practice", "benches", "across", "next", "hostile"),
        default="all",
        help="benches (which need PostgreSQL), across, next and hostile are not among all",
    )
    parser.add_argument("--seed", type=int, default=20261124)
    parser.add_argument("--reduced", action="store_true", help="a tenth; writes no report")
    options = parser.parse_args()
    if options.what == "benches":
        from validation import benches

        return benches.main()
    if options.what == "hostile":
        from validation.hostile import known_truth

        return known_truth.main(2_000 if options.reduced else 20_000, options.seed)
    if options.what == "across":
        from validation import across

        return across.main(40 if options.reduced else 400)
    if options.what == "next":
        from validation import next_pulls

        return next_pulls.main(40 if options.reduced else 400)
    scale = 0.1 if options.reduced else 1.0
    if options.what in ("all", "practice") and not options.reduced:
        held = practice_report.write()
        if options.what == "practice" or not held:
            return 0 if held else 1
    traces = True
    if options.what in ("all", "traces") and not options.reduced:
        traces = trace_report.write()
        if options.what == "traces":
            return 0 if traces else 1
    began = time.monotonic()
    report = Report()
    efficiency(report, int(2000 * scale), options.seed)
    tolerance(report, int(2000 * scale), options.seed)
    others(report, scale, options.seed)
    taken = (time.monotonic() - began) / 60
    print(f"{taken:.1f} minutes; not reached: {report.failed or 'nothing'}")
    if not options.reduced:
        head = [
            "# What the statistics reach, measured",
            "",
            f"Written by `./run validate` (seed {options.seed}, {taken:.0f} minutes). Campaigns "
            "are simulated from known truth: plain rope CV 4 %, 5 baseline pulls, efficiency 70 %. "
            "Two standard errors are allowed on every limit.",
        ]
        REPORT.write_text("\n".join([*head, *report.lines]) + "\n", encoding="utf-8")
    return 1 if report.failed or not traces else 0


if __name__ == "__main__":
    sys.exit(main())
