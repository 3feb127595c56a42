"""The queue checked on a bench, one group for specimens that are alike."""

from __future__ import annotations

from dataclasses import dataclass

from bruiser.core.planning.bench_checks import BenchCheck, CheckVerdict, Say, worst
from bruiser.core.records.bench_book import BenchRecord
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.plan.bench_entry import check_specimen, expect
from bruiser.workshop.results.lot_results import lot_results


@dataclass(frozen=True)
class CheckGroup:
    """The checks of specimens that are alike."""

    title: str
    about: str
    checks: tuple[BenchCheck, ...]


def check_queue(logbook: Logbook, bench: BenchRecord, say: Say, today: str) -> list[CheckGroup]:
    """Every kind of specimen in the queue checked on a bench."""
    alike: dict[tuple[str, str, str, float], list[int]] = {}
    waiting = logbook.waiting
    kinds = [w.kind for w in waiting]
    for n, s in enumerate(kinds):
        alike.setdefault((s.lot.id, s.title, s.layout_key, s.span_m), []).append(n)
    results = {
        lot.id: lot_results(logbook, lot) for lot in {s.lot.id: s.lot for s in kinds}.values()
    }
    groups = []
    for members in alike.values():
        s = kinds[members[0]]
        codes = ", ".join(waiting[n].code for n in members)
        expected = expect(s, results[s.lot.id])
        title = f"{s.title}, {s.lot.name}"
        if expected is None:
            about = f"{codes}  ·  neither measured nor rated: nothing can be expected"
            unknown = BenchCheck(
                name="Expected break",
                verdict=CheckVerdict.STOP,
                number="not known",
                mend="Enter the rating.",
            )
            groups.append(CheckGroup(title, about, (unknown,)))
            continue
        floor = 0.0
        if s.knot_a is not None and s.knot_a.structure in logbook.catalogue:
            rule = logbook.catalogue[s.knot_a.structure].cord_rule(
                dict(s.knot_a.choices), flat=s.lot.flat
            )
            floor = rule.tail_floor_d * s.lot.diameter_m
        checks = check_specimen(bench, s, expected, floor, say, today)
        order = list(CheckVerdict)
        checks.sort(key=lambda c: -order.index(c.verdict))
        groups.append(CheckGroup(title, f"{codes}  ·  from the {expected.source}", tuple(checks)))
    groups.sort(key=lambda g: -list(CheckVerdict).index(worst(list(g.checks))))
    return groups
