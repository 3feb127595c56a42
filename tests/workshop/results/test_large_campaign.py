"""A large campaign in memory: it holds its truth, and one changed pull is quick."""

from dataclasses import replace

import pytest
from benchmarks.campaign import large_campaign

from bruiser.core.memory import Memory
from bruiser.core.progress import Cancelled
from bruiser.workshop.groups.gathering import gather
from bruiser.workshop.results.lot_results import all_results
from bruiser.workshop.results.overview import SheetQuery, overview


@pytest.fixture(scope="module")
def small():
    return large_campaign(lots=12, knots=6, pulls=8, seed=4)


def changed(logbook, at):
    """The same campaign with one more newton in one finding."""
    entry = logbook.entries[at]
    finding = replace(entry.finding, id="new", peak_load_n=entry.finding.peak_load_n + 1)
    entries = list(logbook.entries)
    entries[at] = replace(entry, finding=finding)
    return replace(logbook, specimens=tuple(entries))


def test_every_group_is_rated_and_most_hold_the_truth(small):
    found = all_results(gather(small))
    rows = [row for r in found.values() for row in r.knots]
    assert len(rows) == 72
    hits = sum(
        i.low <= 0.5 + 0.04 * int(row.knot.id[1:]) <= i.high
        for row in rows
        if (i := row.efficiency.interval) is not None
    )
    assert hits >= 0.85 * len(rows)


def test_one_changed_pull_recomputes_its_group_and_family(small):
    memory = Memory()
    all_results(gather(small), memory=memory)
    before = memory.computed
    assert before == 12 + 72 + 12
    knot_pull = next(
        n for n, e in enumerate(small.entries) if e.specimen.knot_a and e.finding.place
    )
    all_results(gather(changed(small, knot_pull)), memory=memory)
    assert memory.computed == before + 2


def test_stopping_leaves_what_was_done_for_the_next_time(small):
    memory = Memory()
    asked = SheetQuery(sheet="strength", lot_ids=tuple(lot.id for lot in small.lots))

    def stop(done, whole):
        if done > 12:
            raise Cancelled

    with pytest.raises(Cancelled):
        overview(small, asked, memory, stop)
    kept = memory.computed
    assert kept >= 12
    overview(small, asked, memory)
    assert memory.computed == 96


@pytest.mark.slow
def test_a_thousand_groups_of_ten_thousand_pulls_are_each_rated_once():
    """How long it takes is measured by ``./run bench``."""
    logbook, memory = large_campaign(), Memory()
    assert len(logbook.entries) == 10_500
    all_results(gather(logbook), memory=memory)
    computed = memory.computed
    assert computed >= 1_000
    all_results(gather(logbook), memory=memory)
    assert memory.computed == computed
