"""The matrix beyond lots and knots, what a bench refuses, and the queue after it was made."""

from dataclasses import replace
from datetime import datetime

import pytest

from bruiser.core.errors import Refused
from bruiser.core.records.bench_book import BenchRecord, Fixture
from bruiser.core.records.methods import METHODS, MethodPlan
from bruiser.core.records.preparation import PrepStep
from bruiser.core.records.records import Gave, Knot, Lot, Pull, PullEnd, Role
from bruiser.core.records.stock import Hank, HankKind, StockEntry, StockMove
from bruiser.store import pulls
from bruiser.workshop.desk.cutting import cut_length_m, cut_parts
from bruiser.workshop.desk.knot_commands import AddKnot
from bruiser.workshop.desk.lot_commands import AddLot, ReceiveHank
from bruiser.workshop.findings.history import history
from bruiser.workshop.findings.inspecting import FindingDraft, accept_draft
from bruiser.workshop.logbook.entries import Stage, State
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.logbook import kind_of
from bruiser.workshop.plan import cut_sheet, queueing
from bruiser.workshop.plan.bench_entry import AddFixture, PutBench
from bruiser.workshop.plan.cell_specimens import plan_specimens, row_words
from bruiser.workshop.plan.plan_cells import PlanDraft, cell_of, count_there
from bruiser.workshop.plan.plan_refusals import refusals
from bruiser.workshop.plan.planning import outlook, queue_plan, timetable
from tests.build import LOT

WET = replace(
    LOT, id="l2", name="P8 wet", condition="wet", stock_lot_id="l1", soak_s=7200.0, keep_s=1200.0
)
THIN = Lot(
    id="l3",
    name="N6",
    material="nylon",
    construction="kernmantle",
    diameter_m=0.006,
    condition="dry",
    rated_strength_n=8_000.0,
    rating_means="minimum",
)
SHEET = Knot(id="k2", structure="sheet-bend", variant="plain", name="Sheet bend", family="bend")
CLOVE = Knot(
    id="k3", structure="clove-hitch", variant="plain", name="Clove hitch", family="hitch on a host"
)
CROSSED = "Bowline, both ends, crossed"
POST = Fixture(
    id="f1", kind="host", name="post 1", material="steel", finish="painted", diameter_m=0.060
)
BENCH = BenchRecord(
    id="b1",
    name="bench",
    stroke_m=1.0,
    rate_m_s=0.008,
    capacity_n=5_000.0,
    resolution_n=2.0,
    sample_rate_hz=500.0,
    methods=METHODS,
)

DAY = "2026-10-01"


def received(label, lot_id):
    hank = Hank(id=label, lot_id=lot_id, label=label, kind=HankKind.HANK)
    return ReceiveHank(
        hank,
        StockEntry(
            id=f"e-{label}",
            hank_id=label,
            made_at="2026-10-01",
            move=StockMove.RECEIVED,
            change_m=60.0,
        ),
    )


@pytest.fixture
def ready(stocked):
    for lot in (WET, THIN):
        stocked.do(AddLot(lot))
    for knot in (SHEET, CLOVE):
        stocked.do(AddKnot(knot))
    for command in (AddFixture(POST), PutBench(BENCH), received("a", "l1"), received("b", "l3")):
        stocked.do(command)
    return stocked


def draft(**changes):
    return replace(
        PlanDraft(lot_ids=("l1",), knot_ids=("k1",), pulls=2, span_m=0.3, seed=7), **changes
    )


def knots_of(made):
    return [s for s in made if s.role is Role.KNOT]


@pytest.mark.parametrize(
    ("changes", "states"),
    [
        ({}, {"Bowline, both ends"}),
        ({"dressings": ("dressed", "crossed")}, {"Bowline, both ends", CROSSED}),
        ({"others": ("k2",)}, {"Bowline, both ends", "Bowline and Sheet bend"}),
        ({"methods": (MethodPlan("cycles"),)}, {"Bowline, both ends, cycles"}),
        ({"methods": (MethodPlan("cord on rope"),)}, set()),
        ({"knot_ids": ("k3",), "fixture_ids": ("f1",)}, {"Clove hitch, on post 1"}),
        ({"knot_ids": ("k2",), "lot_b_ids": ("l3",)}, {"Sheet bend", "Sheet bend, to N6"}),
    ],
)  # fmt: skip
def test_the_axes_make_the_states_that_make_sense(ready, changes, states):
    logbook = read_logbook(ready)
    made = knots_of(plan_specimens(logbook, draft(**changes)))
    assert {s.title for s in made} == states
    cells = draft(**changes).cells(logbook)
    assert {cell_of(kind_of(s)).key for s in made} == {c.key for c in cells}
    assert len(made) == 2 * len(cells)


def state_of(ready, entry):
    logbook = read_logbook(ready)
    return logbook.state(logbook.entry(entry.specimen.id))


def test_unlike_lines_bring_both_baselines_and_take_cord_of_both(ready):
    logbook = read_logbook(ready)
    made = plan_specimens(logbook, draft(knot_ids=("k2",), lot_b_ids=("l3",)))
    assert {s.lot.id for s in made if s.role is Role.BASELINE} == {"l1", "l3"}
    unlike = next(s for s in made if s.lot_b is not None)
    alike = next(s for s in made if s.knot_a and s.lot_b is None)
    thick, thin = (cut_length_m(logbook, unlike, i) for i in ("l1", "l3"))
    assert thin < thick < cut_length_m(logbook, alike)
    queue_plan(ready, logbook, draft(knot_ids=("k2",), lot_b_ids=("l3",)))
    logbook = read_logbook(ready)
    waiting = next(e for e in logbook.entries if e.specimen.lot_b is not None)
    cut_sheet.cut_all(ready, cut_sheet.plan_lot(logbook, LOT, 0.5))
    assert state_of(ready, waiting) is State.PLANNED
    cut_sheet.cut_all(ready, cut_sheet.plan_lot(logbook, THIN, 0.5))
    assert state_of(ready, waiting) is State.CUT


def test_a_thick_host_costs_cord(ready):
    logbook = read_logbook(ready)
    (one, _) = plan_specimens(logbook, draft(knot_ids=("k3",), fixture_ids=("f1",)))[-2:]
    names = {p.name: p.length_m for p in cut_parts(logbook, one)}
    assert names["round the host"] > 0
    thick = replace(one, fixture=replace(POST, diameter_m=0.2))
    assert cut_length_m(logbook, thick) > cut_length_m(logbook, one)


def test_pairs_come_from_one_hank(ready):
    plan = draft(dressings=("dressed", "crossed"), pair=True, pulls=4)
    queue_plan(ready, read_logbook(ready), plan)
    logbook = read_logbook(ready)
    pairs = {}
    for e in logbook.entries:
        if e.specimen.pair:
            pairs.setdefault(e.specimen.pair, []).append(e.specimen)
    assert sorted(len(v) for v in pairs.values()) == [2, 2, 2, 2]
    assert all({s.dressing for s in v} == {"dressed", "crossed"} for v in pairs.values())
    cuts = cut_sheet.plan_lot(logbook, LOT, 0.5)
    hank = {x.specimen_id: h.hank_id for h in cuts.hanks for x in h.cuts}
    assert all(len({hank[s.id] for s in v}) == 1 for v in pairs.values())


def test_a_bench_refuses_levels_above_it_with_the_figure(ready):
    logbook, say = read_logbook(ready), ready.units
    plan = MethodPlan("cycles", (("high", 0.5),))
    (why,) = refusals(logbook, draft(methods=(plan,)), BENCH, say)
    assert "50 % of 13.00 kN is 6.50 kN" in why
    assert "bears 5.00 kN" in why
    assert refusals(logbook, draft(methods=(MethodPlan("cycles"),)), BENCH, say) == []
    plain = replace(BENCH, methods=METHODS[:2])
    (why,) = refusals(logbook, draft(methods=(MethodPlan("cycles"),)), plain, say)
    assert "cannot do" in why


def test_states_move_on_from_their_own_evidence(ready):
    first = read_logbook(ready).entries[0]
    seen = [read_logbook(ready).state(first)]
    with pytest.raises(Refused, match="Say who"):
        queueing.record_step(ready, [first.specimen], PrepStep.TIED, " ")
    cut_sheet.cut_all(ready, cut_sheet.plan_lot(read_logbook(ready), LOT, 0.5))
    seen.append(read_logbook(ready).state(read_logbook(ready).entries[0]))
    for step in (PrepStep.TIED, PrepStep.CHECKED):
        queueing.record_step(ready, [first.specimen], step, "TV")
        logbook = read_logbook(ready)
        seen.append(logbook.state(logbook.entries[0]))
    assert seen == [State.PLANNED, State.CUT, State.TIED, State.CHECKED]
    ready.undo()
    logbook = read_logbook(ready)
    assert logbook.state(logbook.entries[0]) is State.TIED
    assert [p.step for p in logbook.entries[0].prepared] == [PrepStep.TIED]
    said = [h.what for h in history(ready, logbook.entries[0])]
    assert said[-1] == "checked by a second person: taken back"
    ready.redo()
    logbook = read_logbook(ready)
    assert logbook.state(logbook.entries[0]) is State.CHECKED
    with pytest.raises(Refused, match="was begun"):
        queueing.drop_waiting(ready, logbook, [first.specimen.id])


def test_the_rest_is_shuffled_and_dropped_while_what_is_done_stays(ready):
    queue_plan(ready, read_logbook(ready), draft(pulls=6))
    before = [e.specimen.id for e in read_logbook(ready).at(Stage.PLANNED)]
    queueing.reshuffle(ready, read_logbook(ready), 3)
    after = [e.specimen.id for e in read_logbook(ready).at(Stage.PLANNED)]
    assert sorted(after) == sorted(before)
    assert after != before
    queueing.reshuffle(ready, read_logbook(ready), 3)
    ready.undo()
    ready.undo()
    assert [e.specimen.id for e in read_logbook(ready).at(Stage.PLANNED)] == before
    queueing.drop_waiting(ready, read_logbook(ready), before[1:3])
    left = [e.specimen.id for e in read_logbook(ready).at(Stage.PLANNED)]
    assert left == [before[0], *before[3:]]


def pulled(workshop, entry):
    pull = Pull(
        id="p-" + entry.specimen.id,
        specimen_id=entry.specimen.id,
        started_at="2026-02-01T01:00:00Z",
        instrument="b",
        sample_rate_hz=500,
        rate_m_s=0.008,
        capacity_n=5e3,
        resolution_n=2,
    )
    with workshop.file.writing() as c:
        pulls.insert_pull(c, pull)
        pulls.end_pull(c, pull.id, "2026-02-01T01:01:00Z", PullEnd.GAVE, None, 0, 500.0)
    return read_logbook(workshop).by_pull[pull.id]


def test_a_void_specimen_comes_back_at_a_later_place(ready):
    queue_plan(ready, read_logbook(ready), draft(pulls=9))
    waiting = [e.specimen.id for e in read_logbook(ready).at(Stage.PLANNED)]
    entry = pulled(ready, read_logbook(ready).at(Stage.PLANNED)[0])
    void = FindingDraft(gave=Gave.VOID, void_reason="shackle slipped")
    assert accept_draft(ready, entry, void) == {}
    logbook = read_logbook(ready)
    assert (
        logbook.state(next(e for e in logbook.entries if e.specimen.id == waiting[0])) is State.VOID
    )
    now = [e.specimen for e in logbook.at(Stage.PLANNED)]
    (made,) = [s for s in now if s.replaces_id == waiting[0]]
    assert [s.id for s in now if s is not made] == waiting[1:]
    assert made.title == entry.specimen.title
    assert made.code not in {e.specimen.code for e in logbook.entries if e.specimen.id != made.id}
    assert len({s.queue_position for s in now}) == len(now)
    assert logbook.to_replace() == ()
    ready.undo()
    logbook = read_logbook(ready)
    assert [e.specimen.id for e in logbook.at(Stage.PLANNED)] == waiting[1:]


def test_a_soak_decides_what_comes_next_and_when(ready):
    queue_plan(ready, read_logbook(ready), draft(lot_ids=("l2", "l1"), seed=2))
    logbook = read_logbook(ready)
    wet = [e for e in logbook.at(Stage.PLANNED) if e.specimen.lot.id == "l2"]
    slots = timetable(logbook, 6.0, 0.0)
    assert all(slots[e.specimen.id].start_s >= 7200.0 for e in wet)
    assert all(slots[e.specimen.id].soak_from_s >= 0.0 for e in wet)
    early = "2026-02-01T08:00:00+00:00"
    assert logbook.next_to_pull(early).specimen.lot.id == "l1"
    ready.now = lambda: early
    queueing.record_step(ready, [wet[-1].specimen], PrepStep.SOAKING, "")
    logbook = read_logbook(ready)
    assert logbook.next_to_pull("2026-02-01T09:59:00+00:00").specimen.lot.id == "l1"
    assert logbook.next_to_pull("2026-02-01T10:10:00+00:00").specimen == wet[-1].specimen
    assert logbook.next_to_pull("2026-02-01T10:21:00+00:00").specimen.lot.id == "l1"


def test_other_numbers_of_a_method_are_another_cell(ready):
    logbook = read_logbook(ready)
    three, four = (MethodPlan("cycles", (("count", n),)) for n in (30, 40))
    queue_plan(ready, logbook, draft(methods=(three,)))
    there = count_there(read_logbook(ready), ["l1"])
    keys = {c.method: c.key for c in draft(methods=(three, four)).cells(logbook)}
    assert there[keys[three]] == 2
    assert keys[four] not in there
    same = MethodPlan("cycles", (("count", 30), ("high", 0.30), ("low", 0.05)))
    (cell,) = draft(methods=(same,)).cells(logbook)
    assert cell.key == keys[three]


def test_a_whole_edit_of_a_large_matrix_is_answered(ready):
    """Everything the station works out when a tick changes, with over 200 specimens."""
    logbook, say = read_logbook(ready), ready.units
    plans = (MethodPlan(), MethodPlan("cycles"), MethodPlan("stepped load"))
    big = draft(
        lot_ids=("l1", "l2", "l3"), knot_ids=("k1", "k2", "k3"), methods=plans, fixture_ids=("f1",),
        dressings=("dressed", "crossed"), pulls=4,
    )  # fmt: skip
    found = outlook(logbook, big, datetime(2026, 3, 2, 8, 0))
    refusals(logbook, big, BENCH, say)
    there = count_there(logbook, big.lot_ids)
    rows = {c.row: row_words(logbook, c) for c in big.all_cells(logbook)}
    assert found.specimens >= 200
    assert rows
    assert there
