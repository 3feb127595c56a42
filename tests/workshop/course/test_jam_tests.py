"""The adaptive jam ladder in a campaign and at the bench: each try from all before it."""

import pytest
from PyQt6.QtWidgets import QPushButton

from bruiser.app.demo_pulls import inspect_specimen, pull_specimen
from bruiser.app.window import MainWindow
from bruiser.core.behaviour.jam_ladder import FIRST
from bruiser.core.errors import Refused
from bruiser.core.memory import Memory
from bruiser.core.records.readings import Takes
from bruiser.ui.kit.parts import Words
from bruiser.workshop.course.jam_tests import (
    cap_of,
    ladder_for,
    ladder_words,
    ladders_begun,
    queue_try,
)
from bruiser.workshop.groups.gathering import gather
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import open_workshop
from bruiser.workshop.results.lot_results import all_results
from tests.build import Situation
from tests.usual import store


@pytest.fixture
def workshop(tmp_path):
    s = Situation()
    cord = s.lot("R8", cord_model="polyester double braid")
    s.pull("figure-eight-loop", cord, 7_300.0, 7_500.0, 7_600.0)
    s.knot("bowline")
    opened = open_workshop(store(s, tmp_path / "own.bruiser", hanks=(("lot R8", 90.0),)))
    yield opened
    opened.close()


def at_of(workshop, title="Figure-eight loop"):
    logbook = read_logbook(workshop)
    knot = next(k for k in logbook.knots if k.title == title)
    return ladder_for(logbook, logbook.lots[0], knot, Memory())


def pull(workshop, specimen):
    pull_id, remains = pull_specimen(workshop, specimen, "TV", reference=10_000.0)
    inspect_specimen(workshop, pull_id, remains)
    return read_logbook(workshop).by_pull[pull_id]


def test_each_try_is_a_fresh_specimen_at_the_load_the_others_ask_for(workshop):
    at = at_of(workshop)
    assert at.ladder.next_share == pytest.approx(FIRST)
    shares = []
    for number in range(1, 6):
        logbook = read_logbook(workshop)
        made = queue_try(workshop, logbook, at)
        assert f"try {number} at" in made.note
        assert made.method.value("first") == made.method.value("last") == at.ladder.next_share
        assert read_logbook(workshop).at(Stage.PLANNED)[0].specimen.id == made.id, "at the head"
        assert at_of(workshop).waiting == 1
        entry = pull(workshop, made)
        (read,) = {r.number for r in entry.readings if r.takes is Takes.UNTYING}
        assert read == 1
        shares.append(at.ladder.next_share)
        at = at_of(workshop)
        assert (at.ladder.tries, at.waiting) == (number, 0)
        assert "half jam at about" in ladder_words(at)
        if at.ladder.next_share is None:
            break
    assert len(set(shares)) > 1
    (begun,) = ladders_begun(read_logbook(workshop), Memory())
    assert begun.ladder == at.ladder
    assert ladders_begun(read_logbook(workshop), Memory())[0].knot.title == "Figure-eight loop"


def test_the_cap_is_what_such_knots_hold(workshop):
    logbook = read_logbook(workshop)
    results = all_results(gather(logbook))["lot R8"]
    eight = next(k for k in logbook.knots if k.title.startswith("Figure"))
    bowline = next(k for k in logbook.knots if k.title.startswith("Bowline"))
    assert 0.65 < cap_of(results, eight) < 0.75
    assert cap_of(results, bowline) == 0.60


def test_nothing_is_begun_where_nobody_began(workshop):
    assert ladders_begun(read_logbook(workshop), Memory()) == ()


def test_the_bench_proposes_the_next_load_after_each_untying(dressed, qtbot, workshop):
    queue_try(workshop, read_logbook(workshop), at_of(workshop))
    window = MainWindow(workshop)
    qtbot.addWidget(window)
    window.show()
    window.go_to("pull")
    qtbot.waitUntil(lambda: not window.tasks.busy)
    words = window.findChild(Words, "pull.ladder.words")
    go_on = window.findChild(QPushButton, "pull.ladder.next")
    qtbot.waitUntil(words.isVisible)
    assert "1 try wait" in words.words
    assert not go_on.isVisible()
    pull(workshop, window.pull.entry.specimen)
    qtbot.waitUntil(lambda: "Next: a fresh one at" in words.words)
    before = len(window.logbook.at(Stage.PLANNED))
    go_on.click()
    qtbot.waitUntil(lambda: not window.tasks.busy)
    assert len(window.logbook.at(Stage.PLANNED)) == before + 1
    assert window.pull.entry.specimen.note.startswith("jam ladder, try 2")
    window.findChild(QPushButton, "pull.ladder.away").click()
    assert not words.isVisible()
    window.close()


def test_plan_begins_it_and_refuses_a_second_try_that_waits(dressed, qtbot, workshop):
    window = MainWindow(workshop)
    qtbot.addWidget(window)
    window.show()
    window.go_to("plan")
    window.pages["plan"].panels.pick("next")
    qtbot.waitUntil(lambda: not window.tasks.busy)
    desk, panel = window.plan.next, window.pages["plan"].next
    panel._jams.aboutToShow.emit()
    named = [a.text() for a in panel._jams.actions()]
    assert "Bowline" in named
    panel._jams.actions()[named.index("Bowline")].trigger()
    qtbot.waitUntil(lambda: not window.tasks.busy)
    assert read_logbook(workshop).at(Stage.PLANNED)[0].specimen.note.startswith("jam ladder")
    told = []
    desk.failed.connect(told.append)
    knot = next(k for k, title in desk.jams if title == "Bowline")
    desk.begin_ladder(knot)
    assert isinstance(told[0], Refused)
    assert "waits already" in str(told[0])
    window.close()
