"""From a half-filled plan to a confirmed winner, through the window."""

from dataclasses import replace

import pytest
from PyQt6.QtWidgets import QPushButton

from bruiser.app.demo_pulls import inspect_specimen, pull_specimen
from bruiser.app.window import MainWindow
from bruiser.core.choice.next_block import NextStage
from bruiser.core.choice.rating import Rating
from bruiser.workshop.guide.book import read_guide_book, write_profile
from bruiser.workshop.guide.content import NOT_CONFIRMED
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import open_workshop
from tests.build import Situation
from tests.journeys.conftest import Hands
from tests.specimens import patient_bench
from tests.usual import store

PULLS = {
    "bowline": (6_300.0, 6_400.0),
    "figure-eight-loop": (7_300.0, 7_500.0, 7_600.0),
    "overhand-loop": (),
}


@pytest.fixture
def hands(dressed, qtbot, tmp_path):
    s = Situation()
    cord = s.lot("R8", cord_model="polyester double braid")
    for structure, loads in PULLS.items():
        s.knot(structure)
        s.pull(structure, cord, *loads)
    workshop = open_workshop(store(s, tmp_path / "own.bruiser", hanks=(("lot R8", 120.0),)))
    profile = read_guide_book(workshop).profile("tether-loop")
    weights = dict.fromkeys(Rating, 0.0) | {Rating.STRENGTH: 1.0}
    write_profile(workshop, replace(profile, weights=weights, must_open=False))
    made = MainWindow(workshop, patient_bench(60.0))
    qtbot.addWidget(made, before_close_func=lambda w: w.pull.abandon())
    made.resize(1280, 800)
    made.show()
    qtbot.waitExposed(made)
    yield Hands(qtbot, made)
    made.close()


def pull_what_waits(hands):
    """The pulls themselves, as fast as the bench allows: their journeys are others."""
    workshop = hands.window.workshop
    for entry in read_logbook(workshop).at(Stage.PLANNED):
        pull_id, remains = pull_specimen(workshop, entry.specimen, "TV", reference=10_000.0)
        inspect_specimen(workshop, pull_id, remains)
    hands.settle()


def test_from_a_half_filled_plan_to_a_confirmed_winner(hands):
    window = hands.window
    hands.go("plan")
    hands.click("plan.panel.next")
    hands.choose("plan.next.use", "Tether loop")
    hands.choose("plan.next.lot", "R8")
    hands.type("plan.next.budget", "30")
    hands.leave("plan.next.budget")
    hands.settle()
    next_desk = window.plan.next
    stages = []
    for _ in range(14):
        stages.append(next_desk.up.found.stage)
        if stages[-1] in (NextStage.CONFIRMED, NextStage.REFUSED):
            break
        said = hands.words("plan.next.stage")
        assert said
        before = len(window.logbook.at(Stage.PLANNED))
        hands.click("plan.next.queue")
        assert len(window.logbook.at(Stage.PLANNED)) == before + len(next_desk.up.found.picks) or (
            next_desk.up.waiting
        )
        assert "still to be pulled" in hands.words("plan.next.stage")
        if len(stages) == 2:
            hands.go("guide")
            rows = window.guide.facts()
            assert rows is None or not rows.rows or NOT_CONFIRMED in rows.rows[0].why
            hands.go("plan")
        pull_what_waits(hands)
    assert stages[0] is NextStage.OPENING
    assert stages[-1] is NextStage.CONFIRMED
    assert any(s in (NextStage.ENOUGH, NextStage.CLOSE) for s in stages)
    assert "confirmed by 5 fresh pulls" in hands.words("plan.next.stage")
    winner = next_desk.up.knots[next_desk.up.found.leader].title
    hands.go("guide")
    first = window.guide.facts().rows[0]
    assert first.name.startswith(winner)
    assert first.confirmed
    assert NOT_CONFIRMED not in first.why


def test_three_wrong_things(hands):
    hands.go("plan")
    hands.click("plan.panel.next")
    hands.settle()
    hands.type("plan.next.budget", "many")
    hands.leave("plan.next.budget")
    assert "whole number" in hands.wrong("plan.next.budget")
    hands.type("plan.next.budget", "")
    hands.leave("plan.next.budget")
    hands.settle()
    assert "Without a budget" in hands.words("plan.next.stage")
    assert not hands.find(QPushButton, "plan.next.queue").isEnabled()
    hands.type("plan.next.hours", "-3")
    hands.leave("plan.next.hours")
    assert "0.1" in hands.wrong("plan.next.hours")
    hands.choose("plan.next.use", "Adjustable guy")
    hands.settle()
    assert "nothing to choose between" in hands.words("plan.next.stage")
