"""What to pull next, from a campaign: opening, blocks, confirming, and every refusal."""

import json
from dataclasses import replace

import pytest

from bruiser.app.cli import main
from bruiser.app.demo_pulls import inspect_specimen, pull_specimen
from bruiser.core.choice.next_block import Lacks, NextStage, Why
from bruiser.core.choice.rating import Rating
from bruiser.core.records.stock import Hank, HankKind, StockEntry, StockMove
from bruiser.workshop.course.next_pulls import (
    Allowance,
    can_queue,
    next_up,
    queue_block,
    usual_budget,
)
from bruiser.workshop.course.next_words import (
    block_words,
    doubt_words,
    pick_words,
    room_words,
    stage_words,
)
from bruiser.workshop.desk.lot_commands import ReceiveHank
from bruiser.workshop.guide.book import read_guide_book, write_profile
from bruiser.workshop.guide.choosing import choose, fill_shelf
from bruiser.workshop.guide.content import NOT_CONFIRMED, list_facts
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import open_workshop
from bruiser.workshop.plan.proposals import CONFIRMS, PROPOSED
from tests.build import Situation
from tests.usual import store

LOT = "lot R8"
USE = "strong"
NEAR = {"bowline": (6_900.0, 7_100.0, 7_200.0), "figure-eight-loop": (7_000.0, 7_150.0, 7_350.0)}
FAR = {"overhand-loop": (5_000.0, 5_100.0, 5_250.0)}


def opened(tmp_path, pulls, **lot):
    s = Situation()
    cord = s.lot("R8", cord_model="polyester double braid", **lot)
    for structure, loads in pulls.items():
        s.knot(structure)
        s.pull(structure, cord, *loads)
    workshop = open_workshop(store(s, tmp_path / "own.bruiser", hanks=((LOT, 120.0),)))
    profile = read_guide_book(workshop).profile("tether-loop")
    weights = dict.fromkeys(Rating, 0.0) | {Rating.STRENGTH: 1.0}
    strong = replace(
        profile, key=USE, name="As strong as can be", weights=weights, must_open=False, caution=""
    )
    write_profile(workshop, strong)
    return workshop


def up_of(workshop, *, budget=30, use=USE, lot=LOT, hours=None, seed=1, aside=()):
    book = read_guide_book(workshop)
    shelf = fill_shelf(read_logbook(workshop), (lot,))
    allowed = Allowance(budget=budget, hours=hours)
    return next_up(shelf, lot, book.profile(use), book.limits, allowed, seed, aside)


def titles(up):
    return [up.knots[p.key].title if p.key else "" for p in up.found.picks]


def pull_what_waits(workshop):
    for entry in read_logbook(workshop).at(Stage.PLANNED):
        pull_id, remains = pull_specimen(workshop, entry.specimen, "TV", reference=10_000.0)
        inspect_specimen(workshop, pull_id, remains)


def test_a_close_pair_is_pulled_and_what_is_far_behind_is_not(tmp_path):
    workshop = opened(tmp_path, NEAR | FAR)
    up = up_of(workshop)
    assert up.found.stage is NextStage.RUNNING
    assert "Overhand loop" not in titles(up)
    assert sum(bool(t) for t in titles(up)) == 4
    assert {p.why for p in up.found.picks} >= {Why.NEED, Why.SPREAD}
    assert "may be lost by taking it now" in stage_words(up)
    assert "cannot be told apart" in block_words(up)
    assert "spread over those that may still be first" in block_words(up)
    assert doubt_words(up) == ""
    assert "cord on hand" in room_words(up)
    assert all(all(pick_words(up, pick)) for pick in up.found.picks)
    bars = {up.knots[w.key].title: w.per_hour for w in up.found.worths}
    assert min(bars, key=bars.get) == "Overhand loop"
    workshop.close()


def test_a_knot_nobody_pulled_is_opened_first(tmp_path):
    workshop = opened(tmp_path, NEAR | {"overhand-loop": ()})
    up = up_of(workshop)
    assert up.found.stage is NextStage.OPENING
    assert [t for t in titles(up) if t] == ["Overhand loop"]
    aside = next(k for k, knot in up.could_run.items() if knot.title == "Overhand loop")
    assert up_of(workshop, aside={aside}).found.stage is NextStage.RUNNING
    workshop.close()


def test_a_queued_block_waits_until_it_is_pulled_and_the_next_rests_on_it(tmp_path):
    workshop = opened(tmp_path, NEAR)
    up = up_of(workshop)
    assert can_queue(up)
    made = queue_block(workshop, read_logbook(workshop), up, 1)
    assert [s.note.startswith(PROPOSED) for s in made] == [True] * len(up.found.picks)
    assert [s.knot_a.title if s.knot_a else "" for s in made] == titles(up)
    waits = up_of(workshop)
    assert waits.waiting == len(made)
    assert not can_queue(waits)
    assert "still to be pulled" in stage_words(waits)
    before = {up.knots[r.key].title: r.events for r in up.runners}
    pull_what_waits(workshop)
    after = up_of(workshop)
    now = {after.knots[r.key].title: r.events for r in after.runners}
    assert after.waiting == 0
    assert sum(now.values()) > sum(before.values())
    workshop.undo()
    workshop.close()


def test_a_clear_winner_is_confirmed_and_marked_until_then(tmp_path):
    pulls = {
        "bowline": (5_000.0, 5_050.0, 5_100.0),
        "figure-eight-loop": (8_000.0, 8_050.0, 8_100.0),
    }
    workshop = opened(tmp_path, pulls)
    up = up_of(workshop)
    assert up.found.stage is NextStage.ENOUGH
    assert titles(up).count("Figure-eight loop") == 5
    assert titles(up).count("") == 2
    assert "hardly change the choice" in stage_words(up)
    assert "not confirmed" in stage_words(up)
    assert NOT_CONFIRMED in first_row(workshop).why
    assert not first_row(workshop).confirmed
    made = queue_block(workshop, read_logbook(workshop), up, 2)
    assert all(s.note.startswith(CONFIRMS) for s in made)
    pull_what_waits(workshop)
    after = up_of(workshop)
    assert after.found.stage is NextStage.CONFIRMED
    assert "confirmed by 5 fresh pulls" in stage_words(after)
    assert first_row(workshop).confirmed
    assert NOT_CONFIRMED not in first_row(workshop).why
    workshop.close()


def first_row(workshop):
    book, logbook = read_guide_book(workshop), read_logbook(workshop)
    choice = choose(fill_shelf(logbook, (LOT,)), LOT, book.profile(USE), book.limits)
    return list_facts(logbook, choice, None, workshop.units).rows[0]


def test_a_close_race_ends_at_the_budget(tmp_path):
    workshop = opened(tmp_path, NEAR)
    up = up_of(workshop, budget=6)
    assert (up.found.stage, up.found.left) == (NextStage.CLOSE, 0)
    assert "take either" in stage_words(up)
    workshop.close()


def test_cord_and_hours_allow_only_so_much(tmp_path):
    workshop = opened(tmp_path, NEAR)
    logbook = read_logbook(workshop)
    free = up_of(workshop)
    few = up_of(workshop, hours=0.4)
    assert 0 < few.by_hours < 5
    assert few.found.left == few.by_hours
    assert sum(bool(t) for t in titles(few)) <= few.by_hours
    assert f"the hours for {few.by_hours}" in room_words(few)
    assert free.by_hours is None
    hank = Hank(id="more", lot_id=LOT, label="more", kind=HankKind.HANK)
    line = StockEntry(
        id="l", hank_id="more", made_at=workshop.now(), move=StockMove.RECEIVED, change_m=40.0
    )
    workshop.do(ReceiveHank(hank, line))
    assert up_of(workshop).by_cord > free.by_cord
    assert usual_budget(logbook, free.choice) == 16
    workshop.close()


@pytest.mark.parametrize(
    ("pulls", "more", "lacks", "words"),
    [
        ({"bowline": NEAR["bowline"]}, {}, Lacks.ONE_KNOT, "nothing to choose between"),
        (NEAR, {"budget": None}, Lacks.BUDGET, "Without a budget"),
    ],
)
def test_what_is_refused_is_said_with_what_would_lift_it(tmp_path, pulls, more, lacks, words):
    workshop = opened(tmp_path, pulls)
    up = up_of(workshop, **more)
    assert (up.found.stage, up.found.lacks) == (NextStage.REFUSED, lacks)
    assert words in stage_words(up)
    assert not can_queue(up)
    workshop.close()


def test_without_plain_rope_it_comes_first(tmp_path):
    workshop = opened(tmp_path, NEAR, plain=())
    up = up_of(workshop)
    assert up.found.stage is NextStage.OPENING
    assert titles(up)[:2] == ["", ""]
    workshop.close()


def test_doubt_that_rests_on_opening_offers_that_test(tmp_path):
    workshop = open_workshop(store(_jammed(), tmp_path / "j.bruiser", hanks=((LOT, 120.0),)))
    profile = read_guide_book(workshop).profile("tether-loop")
    weights = dict.fromkeys(Rating, 0.0) | {Rating.STRENGTH: 0.2, Rating.OPENING: 1.0}
    write_profile(workshop, replace(profile, key=USE, weights=weights, must_open=False))
    up = up_of(workshop)
    assert up.found.rests_on is Rating.OPENING
    assert "jam ladder" in doubt_words(up)
    workshop.close()


def _jammed():
    from bruiser.core.records.records import JamLevel

    s = Situation()
    cord = s.lot("R8", cord_model="polyester double braid")
    for structure, jam in (("bowline", JamLevel.HAND), ("figure-eight-loop", JamLevel.WORKED)):
        s.pull(structure, cord, *NEAR[structure], jam=jam)
    return s


def test_the_command_line_says_the_same(tmp_path, capsys):
    workshop = opened(tmp_path, NEAR | FAR)
    up = up_of(workshop)
    path = workshop.file.path
    workshop.close()
    asked = ["next", str(path), "--use", USE, "--cordage", "R8", "--budget", "30"]
    assert main([*asked, "--json"]) == 0
    said = json.loads(capsys.readouterr().out)
    assert said["format"] == "bruiser-next-1"
    assert [b["knot"] or "" for b in said["block"]] == titles(up)
    assert said["stage"] == "running"
    assert max(w["bar"] for w in said["worth"]) == 1.0
    assert said["budget"] == 30
    assert main(asked) == 0
    assert stage_words(up) in capsys.readouterr().out
    for more, words in (
        (["--cordage", "R99"], "There is no cordage"),
        (["--use", "flying"], "There is no use"),
        (["--without", "nothing such"], "There is no knot"),
    ):
        assert main([*asked, *more]) == 2
        assert words in capsys.readouterr().err
