"""Presenters of the desk stations without a window: little data, every structure, refusals."""

import pytest
from tests.build import ROW

from bruiser.core.errors import BruiserError
from bruiser.ui.stations.brief.presenter import BriefPresenter
from bruiser.ui.stations.cordage.presenter import CordagePresenter
from bruiser.ui.stations.knots.presenter import KnotsPresenter
from bruiser.ui.stations.plan.presenter import PlanPresenter
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import create_workshop


@pytest.fixture
def bare(tmp_path):
    made = create_workshop(tmp_path / "bare.bruiser", ROW)
    yield made
    made.close()


def test_an_empty_campaign_has_nothing_to_show_and_says_so(bare, tasks, qtbot):
    logbook = read_logbook(bare)
    brief, knots = BriefPresenter(bare), KnotsPresenter(bare)
    cordage, plan = CordagePresenter(bare, tasks), PlanPresenter(bare, tasks)
    for presenter in (brief, knots, cordage, plan):
        presenter.take_up(logbook)
    qtbot.waitUntil(lambda: not tasks.busy)
    assert (brief.criteria(), brief.claims(), brief.lots(), brief.knots()) == ([], [], [], [])
    assert (cordage.shelf(), cordage.hanks(), cordage.ledger()) == ([], [], [])
    assert cordage.baseline() is None
    assert cordage.loads("x") is None
    assert cordage.cord_figure("", (100, 50)) is None
    assert plan.matrix() == ((), [])
    assert plan.outlook() is None
    plan.show_panel("cuts")
    assert plan.cutting.words() == ("Nothing waits to be cut.", "")
    assert plan.cutting.sheet() == ""
    assert len(knots.found()) == len(logbook.catalogue)
    assert knots.cord_table() == []


def test_every_structure_can_be_shown_varied_and_compared(bare):
    knots = KnotsPresenter(bare)
    knots.take_up(read_logbook(bare))
    for key, structure in knots.catalogue.items():
        knots.show(key)
        assert knots.title()[0] == structure.name_in("general")
        assert structure.names[0].name in knots.names_by_trade()
        assert [answer for _, answer in knots.facts()]
        for axis in structure.axes:
            knots.choose(axis.key, axis.options[-1].key)
        assert knots.variant_title().startswith(structure.name)
        assert "Takes" in knots.cord_words()
        others = [k for k, _ in knots.others()]
        plain = [k for k in others if "@" not in k]
        assert sorted([*plain, key]) == sorted(knots.catalogue)
        assert {k.split("@")[0] for k in others if "@" in k} <= {key}
        knots.compare_with(others[0])
        pairs = knots.pairs()
        assert pairs[0].left == knots.name_of(key)
        assert len(knots.own_texts()) >= 20


def test_the_trades_own_name_is_said_first(bare):
    knots = KnotsPresenter(bare)
    knots.take_up(read_logbook(bare))
    knots.show("sheet-bend")
    assert knots.names_by_trade().startswith("Sheet bend")
    BriefPresenter(bare).change(trade="weaving")
    assert knots.title()[0] == "Weaver's knot"
    assert knots.names_by_trade().startswith("Weaver's knot (weaving)")


def test_a_refusal_is_handed_to_the_window_and_nothing_is_stored(workshop, tasks, qtbot):
    cordage = CordagePresenter(workshop, tasks)
    cordage.take_up(read_logbook(workshop))
    before = len(read_logbook(workshop).lots)
    with qtbot.waitSignal(cordage.failed) as said:
        cordage.delete()
    assert isinstance(said.args[0], BruiserError)
    assert "depend on it" in str(said.args[0])
    assert len(read_logbook(workshop).lots) == before


def test_the_shelf_tells_what_has_no_baseline(workshop, tasks):
    cordage = CordagePresenter(workshop, tasks)
    cordage.take_up(read_logbook(workshop))
    by_name = {x.name: x for x in cordage.shelf()}
    assert by_name["R10"].state.startswith("not pulled")
    assert by_name["R8"].state.startswith("5 straight pulls")
    assert by_name["R8 wet"].on_hand_m == by_name["R8"].on_hand_m
    wet = by_name["R8 wet"]
    cordage.show_lot(wet.key)
    assert [h.label for h in cordage.hanks()] == ["R8/1", "R8/2"]
    assert cordage.ledger()[0][3].startswith("−")


def test_the_brief_counts_the_pulls_before_a_wording(workshop):
    brief = BriefPresenter(workshop)
    brief.take_up(read_logbook(workshop))
    first, second = brief.criteria()
    assert not first.late
    assert "before the first pull" in first.when
    assert second.late
    assert "after 2 of the 5 pulls" in second.when
    assert second.was.startswith("It was: breaks at the test knot at 55 %")
    assert {c.state for c in brief.claims()} == {"judged in Results"}
    assert len(brief.claims()) == 3


def test_the_plan_answers_for_what_is_picked(workshop, tasks, qtbot):
    plan = PlanPresenter(workshop, tasks)
    logbook = read_logbook(workshop)
    plan.take_up(logbook)
    lots = {x.name: x.id for x in logbook.lots}
    knot = next(k for k in logbook.knots_in_play if k.structure == "overhand-loop")
    plan.pick((lots["R8"], lots["R10"]), (knot.id,))
    names, rows = plan.matrix()
    assert names == ("R8", "R10")
    assert [c.added for c in rows[0].cells] == [5, 5]
    assert rows[0].cells[0].done > 0
    found = plan.outlook()
    assert found.baselines == 5
    words, short = plan.outlook_words(found)
    assert "15 specimens, 5 of them straight pulls" in words
    assert short == ""
    plan.read(plan.texts() | {"pulls": "60"})
    _, short = plan.outlook_words(plan.outlook())
    assert "R10 is short by" in short
    plan.toggle(rows[0].cells[1].key)
    qtbot.waitUntil(lambda: not tasks.busy)
    assert plan.curve.source.startswith("stated prior")
    plan.toggle(rows[0].cells[1].key)
    assert plan.matrix()[1][0].cells[1].off
    qtbot.waitUntil(lambda: not tasks.busy)


def test_cuts_are_worked_out_when_they_are_seen_and_not_before(workshop, tasks, qtbot):
    plan = PlanPresenter(workshop, tasks)
    plan.take_up(read_logbook(workshop))
    assert not tasks.busy
    assert plan.cutting.cuts is None
    plan.show_panel("cuts")
    qtbot.waitUntil(lambda: not tasks.busy)
    assert plan.cutting.cuts.plan.optimal
    assert plan.cutting.cuts.lot.id == plan.cutting.lot_id
    assert "proven" in plan.cutting.words()[0]
    assert plan.bench.groups == []
    plan.show_panel("bench")
    qtbot.waitUntil(lambda: not tasks.busy)
    assert len(plan.bench.groups) == 4
