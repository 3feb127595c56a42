"""Two benches at one campaign: each sees what the other stores, and undoes only its own."""

from dataclasses import replace

import pytest

from bruiser.core.errors import Refused
from bruiser.store import claims
from bruiser.store.acts import load_acts
from bruiser.store.holds import RENEW_EVERY_S, take_hold
from bruiser.store.open_campaign import Worker
from bruiser.workshop.bench.handing_out import hand_out, hand_out_pulled
from bruiser.workshop.desk.lot_commands import EditLot
from bruiser.workshop.findings.history import history
from bruiser.workshop.findings.inspecting import accept_draft, draft_of
from bruiser.workshop.findings.settling import settle, unsettled
from bruiser.workshop.logbook.commands import MoveInQueue, PlanSpecimen
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import open_workshop
from tests.alike import assert_alike, whole


@pytest.fixture
def place(server, usual_on_server):
    made = server.copy_of(usual_on_server)
    yield made
    server.forget(made)


@pytest.fixture
def one(place):
    opened = open_workshop(place, worker=Worker(who="TV", bench="one"))
    yield opened
    opened.close()


@pytest.fixture
def two(place):
    opened = open_workshop(place, worker=Worker(who="OQ", bench="two"))
    yield opened
    opened.close()


def inspected(shop):
    return read_logbook(shop).at(Stage.INSPECTED)[0]


def correct(shop, entry, draft, note):
    draft.note, draft.correction, draft.by = note, f"{note} seen", shop.file.worker.who
    assert accept_draft(shop, entry, draft) == {}


def both_correct(one, two):
    """Each corrects the same finding, as it stood before the other did."""
    mine, theirs = inspected(one), inspected(two)
    drafts = []
    for shop, entry in ((one, mine), (two, theirs)):
        draft = draft_of(entry, shop.units)
        draft.seen = entry.history[-1].id
        drafts.append(draft)
    correct(one, mine, drafts[0], "first")
    correct(two, theirs, drafts[1], "second")
    return mine.pull.id


def test_a_correction_on_two_benches_is_kept_twice_and_settled(one, two):
    pull_id = both_correct(one, two)
    entry = read_logbook(one).by_pull[pull_id]
    assert [f.note for f in entry.history][-2:] == ["first", "second"]
    assert entry.finding.note == "second"
    assert [f.note for f in unsettled(entry.history)] == ["first", "second"]
    assert read_logbook(two).unsettled == (pull_id,)
    settle(two, read_logbook(two).by_pull[pull_id], entry.history[-2].id, "OQ")
    entry = read_logbook(one).by_pull[pull_id]
    assert entry.finding.note == "first"
    assert entry.finding.reason.startswith("settled: ")
    assert unsettled(entry.history) == ()
    assert read_logbook(one).unsettled == ()
    with pytest.raises(Refused, match="settled meanwhile"):
        settle(one, entry, entry.history[-2].id)
    assert len(entry.history) == 4
    assert_alike(one)
    assert_alike(two)


def test_taking_one_correction_back_settles_it_too(one, two):
    pull_id = both_correct(one, two)
    one.undo()
    entry = read_logbook(two).by_pull[pull_id]
    assert entry.finding.note == "second"
    assert unsettled(entry.history) == ()


def test_undo_takes_back_ones_own_acts_only(one, two):
    lot = read_logbook(one).lots[0]
    one.do(EditLot(replace(lot, age="bought in May")))
    two.do(EditLot(replace(read_logbook(two).lots[0], history="wet once")))
    one.undo()
    now = read_logbook(one).lots[0]
    assert (now.age, now.history) == (lot.age, "wet once")
    assert two.undo_title == "change the lot"
    assert one.undo_title is None


def test_what_another_bench_changed_since_is_not_written_over(one, two):
    specimen = read_logbook(one).at(Stage.PLANNED)[0].specimen
    one.do(MoveInQueue(((specimen.id, 901),)))
    two.do(MoveInQueue(((specimen.id, 902),)))
    with pytest.raises(Refused, match="Somebody else changed this specimen since"):
        one.undo()
    assert read_logbook(one).entry(specimen.id).specimen.queue_position == 902
    two.undo()
    assert read_logbook(two).entry(specimen.id).specimen.queue_position == 901


def test_everything_one_stores_is_what_the_other_reads(one, two):
    for number, shop in enumerate((one, two, one, two)):
        blank = read_logbook(shop).at(Stage.PLANNED)[0].specimen
        planned = replace(blank, id=f"new {number}", code=f"S-9{number}", replaces_id=None)
        shop.do(PlanSpecimen(planned))
        assert whole(one).entries == whole(two).entries
        assert_alike(one)
        assert_alike(two)


def test_each_bench_is_handed_another_specimen(one, two):
    first, _ = hand_out(one, read_logbook(one), "", ())
    second, _ = hand_out(two, read_logbook(two), "", ())
    assert first.specimen.id != second.specimen.id
    again, _ = hand_out(one, read_logbook(one), "", ())
    assert again.specimen.id == first.specimen.id
    pulled = [hand_out_pulled(shop, read_logbook(shop)) for shop in (one, two)]
    waiting = read_logbook(one).at(Stage.PULLED)
    assert len({e.specimen.id for e in pulled if e is not None}) == min(2, len(waiting))
    one.claims.release()
    two.claims.look()
    third, _ = hand_out(two, read_logbook(two), first.specimen.id, ())
    assert third.specimen.id == first.specimen.id


def test_one_bench_never_waits_for_what_the_other_has(one, two):
    """Also where all is read from a state in which nothing was taken yet."""
    with two.file.in_one_state():
        logbook = read_logbook(two)
        first, _ = hand_out(one, read_logbook(one), "", ())
        second, _ = hand_out(two, logbook, "", ())
    assert second.specimen.id != first.specimen.id
    assert list(two.claims.others) == [first.specimen.id]


def test_what_was_taken_a_moment_ago_is_not_asked_for_again(one, two, monkeypatch):
    now = [0.0]
    monkeypatch.setattr(claims, "_now_s", lambda: now[0])
    asked = []
    monkeypatch.setattr(
        claims, "take_hold", lambda *about: asked.append(about[1]) or take_hold(*about)
    )
    key = read_logbook(one).queued[0].specimen_id
    assert one.claims.take(key)
    now[0] = RENEW_EVERY_S - 0.1
    assert one.claims.take(key)
    assert asked == [key]
    now[0] = RENEW_EVERY_S + 0.1
    assert one.claims.take(key)
    assert asked == [key, key]
    one.claims.release()
    assert two.claims.take(key)
    assert not one.claims.take(key)


def test_who_did_what_from_which_bench_is_kept(one, two):
    pull_id = both_correct(one, two)
    with one.file.reading() as connection:
        acts = load_acts(connection, pull_id)
    assert [(a.whence, a.deed) for a in acts] == [
        ("TV at one", "accept the findings"),
        ("OQ at two", "accept the findings"),
    ]
    one.undo()
    with one.file.reading() as connection:
        assert load_acts(connection, pull_id)[-1].deed == "take back: accept the findings"
    entry = read_logbook(one).by_pull[pull_id]
    lines = [line for line in history(one, entry) if line.what.startswith("corrected")]
    assert [(line.who, line.bench) for line in lines] == [("OQ", "two")]
