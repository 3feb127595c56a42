"""From picks to a queue, its cost, its cuts and the sheet."""

from collections import Counter
from dataclasses import replace
from datetime import datetime

import pytest

from bruiser.core.errors import Refused
from bruiser.core.planning.bench_time import WorkStep, learn
from bruiser.core.records.records import Knot, Role
from bruiser.core.records.stock import Hank, HankKind, StockEntry, StockMove
from bruiser.workshop.desk.cutting import cut_length_m
from bruiser.workshop.desk.knot_commands import AddKnot
from bruiser.workshop.desk.lot_commands import AddLot, ReceiveHank
from bruiser.workshop.logbook.commands import DropSpecimen, PlanSpecimen, Together
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.plan import cell_specimens, cut_sheet, plan_cells, planning, pricing
from bruiser.workshop.plan.plan_cells import PlanDraft
from bruiser.workshop.results.lot_results import lot_results
from tests.build import LOT, SPECIMEN
from tests.servers import home_daily_on_a_file  # noqa: F401  (on a server in full runs)

SHEET = Knot(id="k2", structure="sheet-bend", variant="plain", name="Sheet bend", family="bend")
WET = replace(LOT, id="l2", name="P8 wet", condition="wet", stock_lot_id="l1")
BEGIN = datetime(2026, 3, 2, 8, 0)

DAY = "2026-10-01"


@pytest.fixture
def ready(stocked):
    """Two lots that share hanks, two knots; nothing but a planned bowline."""
    for command in (AddLot(WET), AddKnot(SHEET)):
        stocked.do(command)
    return stocked


def draft(**changes):
    return replace(
        PlanDraft(
            lot_ids=("l1", "l2"),
            knot_ids=("k1", "k2"),
            pulls=3,
            span_m=0.3,
            seed=7,
            technicians=("A", "B"),
        ),
        **changes,
    )


def receive(workshop, label, length, lot_id="l1"):
    hank = Hank(id=f"h-{label}", lot_id=lot_id, label=label, kind=HankKind.HANK)
    entry = StockEntry(
        id=f"e-{label}",
        hank_id=hank.id,
        made_at="2026-10-01",
        move=StockMove.RECEIVED,
        change_m=length,
    )
    workshop.do(ReceiveHank(hank, entry))


def test_cells_are_every_pick_but_those_switched_off(ready):
    logbook = read_logbook(ready)
    cells = draft(off=frozenset({plan_cells.Cell(lot_id="l2", knot_id="k2", pulls=0).key})).cells(
        logbook
    )
    assert {(c.lot_id, c.knot_id, c.ends) for c in cells} == {
        ("l1", "k1", 2),
        ("l1", "k2", 1),
        ("l2", "k1", 2),
    }
    assert {c.ends for c in draft(both_ends=False).cells(logbook)} == {1}


def test_missing_baselines_are_added_to_every_lot_and_condition(ready):
    logbook = read_logbook(ready)
    made = cell_specimens.plan_specimens(logbook, draft())
    plain = [s for s in made if s.role is Role.BASELINE]
    assert {lot: sum(s.lot.id == lot for s in plain) for lot in ("l1", "l2")} == {"l1": 5, "l2": 5}
    assert len(made) == 10 + 4 * 3
    planning.queue_plan(ready, logbook, draft())
    assert cell_specimens.baselines_missing(read_logbook(ready), LOT) == 0


def test_a_specimen_is_laid_out_tailed_and_pinned_by_its_knot(ready):
    logbook = read_logbook(ready)
    made = {s.title: s for s in cell_specimens.plan_specimens(logbook, draft(lot_ids=("l1",)))}
    loop, bend = made["Bowline, both ends"], made["Sheet bend"]
    assert (loop.layout_key, bend.layout_key) == ("loop_pair", "bend")
    rule = logbook.catalogue["bowline"].cord_rule({})
    assert {t.length_m for t in loop.tails} == {rule.tail_usual_d * 0.008}
    assert (loop.pin_diameter_m, bend.pin_diameter_m) == (0.012, 0.0)
    assert loop.set_load_n == pytest.approx(650.0)
    single = cell_specimens.plan_specimens(logbook, draft(lot_ids=("l1",), both_ends=False))
    assert "loop_single" in {s.layout_key for s in single}


def test_the_queue_is_shuffled_coded_and_one_step(ready):
    logbook = read_logbook(ready)
    queued = planning.queue_plan(ready, logbook, draft())
    after = read_logbook(ready)
    assert [e.specimen.code for e in after.at(Stage.PLANNED)][:2] == ["S-001", "S-002"]
    assert len(after.entries) == 1 + len(queued)
    assert len({e.specimen.code for e in after.entries}) == len(after.entries)
    assert all("order seed 7" in s.note and s.note[-1] in "AB" for s in queued)
    titles = [s.title for s in queued]
    assert titles != sorted(titles)
    ready.undo()
    assert len(read_logbook(ready).entries) == 1
    ready.redo()
    assert len(read_logbook(ready).entries) == 1 + len(queued)


def test_the_same_seed_gives_the_same_order(ready):
    logbook = read_logbook(ready)
    first = [s.title for s in planning.queue_plan(ready, logbook, draft())]
    ready.undo()
    second = [s.title for s in planning.queue_plan(ready, read_logbook(ready), draft())]
    assert first == second
    ready.undo()
    other = [s.title for s in planning.queue_plan(ready, read_logbook(ready), draft(seed=8))]
    assert other != first


def test_the_cost_of_a_plan_by_hand(ready):
    logbook = read_logbook(ready)
    found = planning.outlook(logbook, draft(), BEGIN)
    made = cell_specimens.plan_specimens(logbook, draft())
    (need,) = found.needs
    assert need.needed_m == pytest.approx(sum(cut_length_m(logbook, s) for s in made))
    queued = cut_length_m(logbook, logbook.entries[0].specimen)
    assert need.on_hand_m == pytest.approx(20.0 - queued)
    assert need.short_m == pytest.approx(need.needed_m - need.on_hand_m)
    assert found.short == (need,)
    assert (found.specimens, found.baselines) == (len(made), 10)
    assert found.ends > BEGIN
    slower = planning.outlook(logbook, draft(hours_a_day=1.0), BEGIN)
    assert slower.ends > found.ends
    assert slower.seconds == found.seconds
    nothing = planning.outlook(logbook, draft(lot_ids=()), BEGIN)
    assert (nothing.specimens, nothing.ends) == (0, None)


def test_recorded_times_teach_the_plan(workshop):
    logbook = read_logbook(workshop)
    times = learn(logbook.recorded_times())
    assert times[WorkStep.PULL].count > 100
    assert times[WorkStep.TIE].count == 0
    lot = next(x for x in logbook.lots if x.name == "R8")
    found = planning.outlook(
        logbook, PlanDraft(lot_ids=(lot.id,), knot_ids=(logbook.knots[0].id,)), BEGIN
    )
    assert found.learned > 100


def test_a_curve_rests_on_what_was_measured_or_on_the_stated_prior(workshop):
    logbook = read_logbook(workshop)
    lot = next(x for x in logbook.lots if x.name == "R8")
    results = lot_results(logbook, lot)
    row = results.knots[0]
    measured = pricing.precision_curve(results, row.knot)
    assert measured.source.startswith("measured here")
    assert measured.share == row.efficiency.interval.value
    assert list(measured.one_knot) == sorted(measured.one_knot, reverse=True)
    guessed = pricing.precision_curve(None, row.knot)
    assert guessed.source.startswith("stated prior")
    assert guessed.one_knot[3] > measured.one_knot[3]


def test_cuts_are_planned_drawn_from_the_hanks_and_taken_in_one_step(ready):
    receive(ready, "P8/2", 40.0)
    planning.queue_plan(ready, read_logbook(ready), draft())
    logbook = read_logbook(ready)
    (lot,) = cut_sheet.lots_to_cut(logbook)
    cuts = cut_sheet.plan_lot(logbook, lot, 0.5)
    lines = [line for h in cuts.hanks for line in h.cuts]
    assert sorted(x.code for x in lines) == sorted(e.specimen.code for e in logbook.entries)
    for hank in cuts.hanks:
        assert hank.left_m == pytest.approx(hank.before_m - sum(x.length_m for x in hank.cuts))
        assert list(hank.cuts) == sorted(hank.cuts, key=lambda x: -x.length_m)
    cut_sheet.cut_all(ready, cuts)
    after = read_logbook(ready)
    assert cut_sheet.lots_to_cut(after) == []
    for hank in cuts.hanks:
        assert after.stock.left_m(hank.hank_id) == pytest.approx(hank.left_m)
    with pytest.raises(Refused, match=r"cut already|too little"):
        cut_sheet.cut_all(ready, cuts)
    ready.undo()
    assert read_logbook(ready).stock.on_hand_m("l1") == pytest.approx(60.0)
    ready.redo()
    assert cut_sheet.lots_to_cut(read_logbook(ready)) == []


def test_a_plan_that_cannot_be_cut_says_what_is_missing_and_what_to_drop(ready):
    planning.queue_plan(ready, read_logbook(ready), draft())
    logbook = read_logbook(ready)
    cuts = cut_sheet.plan_lot(logbook, LOT, 0.5)
    assert cuts.plan is None
    assert cuts.trouble.startswith("P8: ")
    assert f"{cuts.short_m:.2f} m too little" in cuts.trouble
    dropped = cuts.drop.removeprefix("Dropping ").removesuffix(" would do.").split(", ")
    codes = {e.specimen.code: e.specimen for e in logbook.entries}
    freed = sum(cut_length_m(logbook, codes[c]) for c in dropped)
    assert freed >= cuts.short_m
    back = tuple(DropSpecimen(codes[c]) for c in dropped)
    ready.do(Together(back, "drop specimens"))
    assert cut_sheet.plan_lot(read_logbook(ready), LOT, 0.5).plan is not None


def test_together_does_all_or_nothing(ready):
    twin = replace(SPECIMEN, id="other")
    good = replace(SPECIMEN, id="good", code="S-900")
    parts = (PlanSpecimen(good), PlanSpecimen(twin))
    with pytest.raises(Exception, match=r"UNIQUE|unique"):
        ready.do(Together(parts, "two"))
    assert len(read_logbook(ready).entries) == 1


def test_two_hundred_specimens_are_looked_ahead_at(ready):
    logbook, big = read_logbook(ready), draft(pulls=48)
    assert planning.outlook(logbook, big, BEGIN).specimens >= 200


def test_what_a_half_width_costs_with_one_knot_and_with_two(workshop):
    logbook = read_logbook(workshop)
    lot = next(x for x in logbook.lots if x.name == "R8")
    results = lot_results(logbook, lot)
    loop = next(r.knot for r in results.knots if r.knot.structure == "bowline")
    bend = next(r.knot for r in results.knots if r.knot.structure == "sheet-bend")
    curve = pricing.precision_curve(results, loop)
    picks = PlanDraft(lot_ids=(lot.id,), knot_ids=(loop.id,))
    one, two = pricing.prices(logbook, picks, lot, loop, curve, 0.05)
    assert (one.knots, two.knots) == (1, 2)
    for price in (one, two):
        kind = curve.one_knot if price.knots == 1 else curve.two_knots
        assert kind[curve.pulls.index(price.pulls)] <= 0.05
        assert price.pulls == 2 or kind[curve.pulls.index(price.pulls - 1)] > 0.05
    made = {
        len(s.layout.ends): s
        for s in (
            cell_specimens.plan_specimens(logbook, replace(picks, both_ends=b))[-1]
            for b in (True, False)
        )
    }
    for price in (one, two):
        by_hand = price.pulls * cut_length_m(logbook, made[price.knots])
        assert price.cord_m == pytest.approx(by_hand)
    assert two.seconds / two.pulls > one.seconds / one.pulls
    assert len(pricing.prices(logbook, picks, lot, bend, curve, 0.05)) == 1
    assert pricing.prices(logbook, picks, lot, loop, curve, 0.0001) == []
    near, far = curve.pulls_to_tell(0.02), curve.pulls_to_tell(0.15)
    assert near > far
    assert curve.pulls_to_tell(0.99) == 2


def test_a_round_has_every_technician_pull_every_knot(workshop):
    logbook = read_logbook(workshop)
    knots = tuple(k.id for k in logbook.knots_in_play[:2])
    lot = logbook.lots[0].id
    turns = PlanDraft(lot_ids=(lot,), knot_ids=knots, pulls=3, technicians=("TV", "OQ"))
    draft = replace(turns, round=True)

    def tied(one):
        made = cell_specimens.plan_specimens(logbook, one)
        return [s for s in made if s.knot_a is not None]

    assert len(tied(draft)) == 2 * len(tied(turns))
    assert len(tied(replace(draft, technicians=("TV",)))) == len(tied(turns))
    queued = [s for s in planning.queue_plan(workshop, logbook, draft) if s.knot_a is not None]
    cells = Counter((s.title, s.note.split(", ")[-2]) for s in queued)
    assert {who for _, who in cells} == {"TV", "OQ"}
    assert set(cells.values()) == {3}
    assert all(s.note.endswith("round") for s in queued)
    people = [s.note.split(", ")[-2] for s in queued]
    assert people != sorted(people), "shuffled"
