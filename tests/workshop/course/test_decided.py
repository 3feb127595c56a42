"""What of the queue is not needed once a criterion is decided, at the bench too."""

import pytest
from PyQt6.QtWidgets import QPushButton

from bruiser.app.window import MainWindow
from bruiser.core.choice.criteria import Measure
from bruiser.core.memory import Memory
from bruiser.core.records.preparation import PrepStep
from bruiser.ui.kit.parts import Words
from bruiser.workshop.course.decided import decided_early, put_back
from bruiser.workshop.desk.brief_entry import store_criterion
from bruiser.workshop.groups.gathering import gather
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import open_workshop
from bruiser.workshop.plan.plan_cells import PlanDraft
from bruiser.workshop.plan.planning import queue_plan
from bruiser.workshop.plan.queueing import record_step
from bruiser.workshop.results.judging import judge_lot
from bruiser.workshop.results.lot_results import all_results
from tests.build import Situation
from tests.usual import store

LOADS = (7_000.0, 7_050.0, 7_100.0, 7_150.0)


@pytest.fixture
def workshop(tmp_path):
    s = Situation()
    cord = s.lot("R8")
    s.pull("bowline", cord, *LOADS)
    opened = open_workshop(store(s, tmp_path / "own.bruiser", hanks=(("lot R8", 90.0),)))
    texts = {"measure": Measure.HOLDS_SHARE, "threshold": "60 %", "need": "4", "of": "8"}
    assert store_criterion(opened, texts, (), ()).stored
    yield opened
    opened.close()


def queue(workshop, pulls=4):
    logbook = read_logbook(workshop)
    draft = PlanDraft(
        lot_ids=("lot R8",), knot_ids=tuple(k.id for k in logbook.knots_in_play), pulls=pulls
    )
    return [s for s in queue_plan(workshop, logbook, draft) if s.knot_a is not None]


def test_the_rest_is_named_and_put_back(workshop):
    waiting = queue(workshop)
    (found,) = decided_early(read_logbook(workshop), Memory())
    assert "met after 4, the rest not needed" in found.sentence
    assert set(found.rest) == {s.id for s in waiting}
    put_back(workshop, read_logbook(workshop), found)
    left = read_logbook(workshop).at(Stage.PLANNED)
    assert not any(e.specimen.knot_a for e in left)
    assert decided_early(read_logbook(workshop), Memory()) == ()
    workshop.undo()
    assert len(decided_early(read_logbook(workshop), Memory())[0].rest) == 4


def test_what_was_begun_stays_and_is_said(workshop):
    waiting = queue(workshop)
    record_step(workshop, waiting[:1], PrepStep.TIED, "TV")
    (found,) = decided_early(read_logbook(workshop), Memory())
    assert (len(found.rest), found.begun) == (3, 1)
    assert "1 specimen more of it begun already" in found.sentence


def test_another_criterion_still_open_needs_the_pulls(workshop):
    queue(workshop)
    texts = {"measure": Measure.OPENS, "threshold": "", "need": "6", "of": "8"}
    assert store_criterion(workshop, texts, (), ()).stored
    assert decided_early(read_logbook(workshop), Memory()) == ()


def test_without_a_criterion_nothing_is_decided(tmp_path):
    s = Situation()
    s.pull("bowline", s.lot("R8"), *LOADS)
    opened = open_workshop(store(s, tmp_path / "n.bruiser", hanks=(("lot R8", 90.0),)))
    queue(opened)
    assert decided_early(read_logbook(opened), Memory()) == ()
    opened.close()


def test_the_bench_says_it_and_offers_both_ways(dressed, qtbot, workshop):
    waiting = queue(workshop)
    window = MainWindow(workshop)
    qtbot.addWidget(window)
    window.show()
    window.go_to("pull")
    qtbot.waitUntil(lambda: not window.tasks.busy)
    words = window.findChild(Words, "pull.decided.words")
    qtbot.waitUntil(words.isVisible)
    assert "the rest not needed" in words.words
    keep = window.findChild(QPushButton, "pull.decided.keep")
    keep.click()
    assert not words.isVisible()
    window.pull.decided._kept = frozenset()
    window.pull.decided.take_up(window.logbook)
    qtbot.waitUntil(words.isVisible)
    window.findChild(QPushButton, "pull.decided.back").click()
    qtbot.waitUntil(lambda: not words.isVisible())
    left = {e.specimen.id for e in window.logbook.at(Stage.PLANNED)}
    assert not left & {s.id for s in waiting}
    window.close()


def judged_of(workshop):
    logbook = read_logbook(workshop)
    gathered = gather(logbook)
    results = all_results(gathered)
    return {
        j.criterion.rule.measure: j.result
        for r in results.values()
        for j in judge_lot(logbook, r, gathered)
    }


def interval_texts(share, of, comment=""):
    return {
        "measure": Measure.INTERVAL, "threshold": share, "need": "", "of": of, "comment": comment
    }  # fmt: skip


def test_an_interval_is_judged_as_the_rule_allows(workshop):
    assert store_criterion(workshop, interval_texts("40 %", "10"), (), ()).stored
    found = judged_of(workshop)[Measure.INTERVAL]
    assert found.met == "met"
    assert 3 <= found.after <= 4
    assert store_criterion(workshop, interval_texts("x", "2"), (), ()).errors.keys() == {
        "threshold", "of"
    }  # fmt: skip


def test_an_n_raised_after_it_was_reached_passes_no_more(workshop):
    assert store_criterion(workshop, interval_texts("70 %", "4"), (), ()).stored
    assert judged_of(workshop)[Measure.INTERVAL].met == "not met"
    logbook = read_logbook(workshop)
    (first,) = [c for c in logbook.brief.criteria_in_force if c.rule.measure is Measure.INTERVAL]
    raised = interval_texts("70 %", "9", "a few more")
    assert store_criterion(workshop, raised, (), (), first).stored
    found = judged_of(workshop)[Measure.INTERVAL]
    assert (found.met, found.looks) == ("open", 1)
