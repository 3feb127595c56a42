"""Leaving pulls out of the results, with a reason, and taking them in again."""

import pytest
import sqlalchemy as sa

from bruiser.core.errors import InputError, StoreError
from bruiser.workshop.findings.excluding import exclude_pull, restore_pull
from bruiser.workshop.findings.history import history
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.results.lot_facts import baseline_facts
from bruiser.workshop.results.lot_results import campaign_report, lot_results
from tests.servers import home_daily_on_a_file  # noqa: F401  (on a server in full runs)


def entry_of(workshop, code=None):
    entries = read_logbook(workshop).at(Stage.INSPECTED)
    return next(e for e in entries if code in (None, e.specimen.code))


def test_an_excluded_pull_keeps_its_reason_and_history(workshop):
    entry = entry_of(workshop)
    exclude_pull(workshop, entry, " shackle was bent ", "OQ")
    left = entry_of(workshop, entry.specimen.code)
    assert (left.excluded.reason, left.excluded.by) == ("shackle was bent", "OQ")
    assert left.finding == entry.finding
    restore_pull(workshop, left, "it was not")
    back = entry_of(workshop, entry.specimen.code)
    assert back.excluded is None
    assert [x.reason for x in back.exclusions] == ["shackle was bent", "it was not"]


def test_what_was_undone_stays_in_the_history(workshop):
    entry = entry_of(workshop)
    exclude_pull(workshop, entry, "wet by mistake")
    workshop.undo()
    assert entry_of(workshop, entry.specimen.code).excluded is None
    workshop.redo()
    again = entry_of(workshop, entry.specimen.code)
    assert again.excluded.reason == "wet by mistake"
    assert [x.excluded for x in again.exclusions] == [True]
    said = [h.what for h in history(workshop, again)]
    assert said[-2:] == [
        "left out of the results: taken back",
        "left out of the results: done again",
    ]


def test_excluding_needs_a_reason_and_findings(workshop):
    entry = entry_of(workshop)
    with pytest.raises(InputError, match="reason"):
        exclude_pull(workshop, entry, "  ")
    planned = read_logbook(workshop).at(Stage.PLANNED)[0]
    with pytest.raises(InputError, match="no findings"):
        exclude_pull(workshop, planned, "no")
    with pytest.raises(ValueError, match="not left out"):
        restore_pull(workshop, entry)
    exclude_pull(workshop, entry, "once")
    with pytest.raises(ValueError, match="already"):
        exclude_pull(workshop, entry_of(workshop, entry.specimen.code), "twice")


def test_the_file_refuses_to_change_an_exclusion(workshop):
    exclude_pull(workshop, entry_of(workshop), "once")
    with pytest.raises((StoreError, sa.exc.IntegrityError)), workshop.file.writing() as connection:
        connection.execute(sa.text("UPDATE exclusion SET reason = ''"))


def test_what_is_left_out_is_left_out_of_everything_that_is_rated(workshop):
    logbook = read_logbook(workshop)
    lot = next(x for x in logbook.lots if x.name == "R8")
    entry = next(
        e
        for e in logbook.at(Stage.INSPECTED)
        if e.specimen.lot.id == lot.id and e.specimen.title.startswith("Bowline, both")
    )
    plain = next(
        e
        for e in logbook.at(Stage.INSPECTED)
        if e.specimen.lot.id == lot.id and e.specimen.knot_a is None
    )
    before = lot_results(logbook, lot)
    for one in (entry, plain):
        exclude_pull(workshop, one, "not to be trusted")
    now = read_logbook(workshop)
    rated = {p for g in campaign_report(now).groups for p in g.data.sample.pull_ids}
    assert {entry.pull.id, plain.pull.id}.isdisjoint(rated)
    results = lot_results(now, lot)
    facts = baseline_facts(now, results, workshop.units)
    assert len(facts.marks) == results.baseline.counts.specimens
    assert any("left out of the results" in line for line in facts.missing)
    row = next(r for r in results.knots if r.name == "Bowline")
    assert {m.left_out for m in row.marks} == {"", "not to be trusted"}
    # With both in again it is as it was at first.
    whole = next(r for r in before.knots if r.name == "Bowline")
    was, with_it = whole.efficiency.interval, row.whole.efficiency.interval
    assert (with_it.value, with_it.low) == pytest.approx((was.value, was.low), rel=1e-9)


def test_a_baseline_left_out_moves_the_share_of_every_knot(workshop):
    logbook = read_logbook(workshop)
    lot = next(x for x in logbook.lots if x.name == "T6")
    before = lot_results(logbook, lot)
    highest = max(before.baseline.marks, key=lambda m: m.load_n)
    exclude_pull(workshop, logbook.by_pull[highest.pull_id], "spool of another lot")
    after = lot_results(read_logbook(workshop), lot)
    assert after.baseline.median_n < before.baseline.median_n
    shares = {r.name: r.efficiency.interval.value for r in before.knots}
    for row in after.knots:
        assert row.efficiency.interval.value > shares[row.name]
        assert row.whole is not None
