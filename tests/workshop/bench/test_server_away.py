"""The server goes in the middle of a pull: nothing is lost, nothing comes twice."""

import time

import numpy as np
import pytest

from bruiser.core.errors import Unreachable
from bruiser.core.records.records import PullEnd
from bruiser.store import campaigns, pulls
from bruiser.store.open_campaign import Worker
from bruiser.workshop.bench.delivering import deliver_waiting, files_waiting
from bruiser.workshop.bench.handing_out import hand_out
from bruiser.workshop.bench.live_pull import Phase
from bruiser.workshop.bench.pull_end import close_interrupted_pulls
from bruiser.workshop.bench.pulling import PullSession
from bruiser.workshop.bench.simulation import TRAVEL_RATE_M_S, bench_with
from bruiser.workshop.findings.history import history
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.traces import read_trace
from bruiser.workshop.logbook.workshop import open_workshop
from tests.alike import assert_alike


@pytest.fixture
def place(own_server, usual_campaign):
    return own_server.filled_with(usual_campaign)


@pytest.fixture
def bench_at(place):
    opened = []

    def open_one(bench, who="TV"):
        made = open_workshop(place, worker=Worker(who=who, bench=bench))
        made.file.listen()
        opened.append(made)
        return made

    yield open_one
    for one in opened:
        one.close()


def session_of(shop, speed=20.0):
    entry, _ = hand_out(shop, read_logbook(shop), "", ())
    bench = bench_with(entry.specimen, speed=speed, watchdog_s=60.0)
    session = PullSession(shop, entry.specimen, bench, TRAVEL_RATE_M_S, "TV")
    session.arm()
    while not session.zero_taken:
        time.sleep(0.005)
    return session


def pull_until(session, until):
    """Pull from where it stands; `until` is asked with what the bench shows."""
    end = time.monotonic() + 30
    while not until(session.poll()):
        if session.phase is not Phase.PULLING:
            assert session.pull()
        session.keep_alive()
        time.sleep(0.005)
        assert time.monotonic() < end


def back_online(shop, server):
    server.start()
    until = time.monotonic() + 20
    while not shop.file.online:
        assert time.monotonic() < until
        time.sleep(0.02)


def gave(live):
    return live.phase is Phase.GAVE


def check_whole(shop, session, codes):
    """The pull is there once, with every sample and its end."""
    code = session.specimen.code
    assert codes == (code,)
    assert files_waiting(shop) == []
    entry = next(e for e in read_logbook(shop).entries if e.specimen.code == code)
    assert entry.stage is Stage.PULLED
    recorded = session.recorder.recorded()
    trace = read_trace(shop, entry.pull)
    np.testing.assert_allclose(trace.load_n, recorded.load_n, atol=1e-3)
    with shop.file.reading() as connection:
        assert len(pulls.load_analysis_history(connection, entry.pull.id)) == 1
    assert_alike(shop)
    return entry


def test_cut_in_the_middle_the_pull_goes_on_and_is_delivered_once(own_server, bench_at):
    shop = bench_at("one")
    session = session_of(shop)
    pull_until(session, lambda live: live.load_n > 1_000)
    assert not session.waits
    own_server.stop()
    pull_until(session, gave)
    session.finish(PullEnd.GAVE)
    assert session.waits
    assert len(files_waiting(shop)) == 1
    with pytest.raises(Unreachable):
        deliver_waiting(shop)
    back_online(shop, own_server)
    entry = check_whole(shop, session, deliver_waiting(shop).codes)
    assert entry.pull.end is PullEnd.GAVE
    assert deliver_waiting(shop).codes == ()
    lines = [line.what for line in history(shop, entry)]
    assert len([line for line in lines if line.startswith("pull began")]) == 1


@pytest.mark.slow
def test_begun_while_the_server_is_away(own_server, bench_at):
    shop = bench_at("one")
    session = session_of(shop)
    own_server.stop()
    pull_until(session, gave)
    session.finish(PullEnd.GAVE)
    back_online(shop, own_server)
    check_whole(shop, session, deliver_waiting(shop).codes)


@pytest.mark.slow
def test_away_at_the_very_end(own_server, bench_at):
    shop = bench_at("one")
    session = session_of(shop)
    pull_until(session, gave)
    session.recorder.finish()
    own_server.stop()
    session.finish(PullEnd.GAVE)
    back_online(shop, own_server)
    check_whole(shop, session, deliver_waiting(shop).codes)


def test_a_window_started_anew_delivers_what_the_last_one_kept(own_server, place, bench_at):
    shop = bench_at("one")
    session = session_of(shop)
    pull_until(session, lambda live: live.load_n > 500)
    own_server.stop()
    pull_until(session, gave)
    session.recorder.finish()
    # The program dies here: what it kept has no end.
    session._storage.close()
    shop.file.close()
    own_server.start()
    again = open_workshop(place, worker=Worker(who="TV", bench="one"))
    codes = deliver_waiting(again).codes
    entry = check_whole(again, session, codes)
    assert entry.pull.end is PullEnd.INTERRUPTED
    assert close_interrupted_pulls(again) == ()
    again.close()


def test_delivered_and_not_yet_taken_out_comes_once(own_server, bench_at, monkeypatch):
    shop = bench_at("one")
    session = session_of(shop)
    own_server.stop()
    pull_until(session, gave)
    session.finish(PullEnd.GAVE)
    back_online(shop, own_server)

    def die(*_):
        raise KeyboardInterrupt

    with monkeypatch.context() as patched, pytest.raises(KeyboardInterrupt):
        patched.setattr("bruiser.workshop.bench.delivering.forget_pull", die)
        deliver_waiting(shop)
    assert len(files_waiting(shop)) == 1
    check_whole(shop, session, deliver_waiting(shop).codes)


def test_another_bench_neither_ends_it_nor_pulls_the_same_specimen(own_server, place, bench_at):
    one, two = bench_at("one"), bench_at("two")
    session = session_of(one)
    other, _ = hand_out(two, read_logbook(two), "", ())
    assert other.specimen.id != session.specimen.id
    wanted, why = hand_out(two, read_logbook(two), session.specimen.id, ())
    assert wanted.specimen.id != session.specimen.id
    assert "in hand elsewhere: TV at one" in why
    pull_until(session, lambda live: live.load_n > 500)
    assert close_interrupted_pulls(two) == ()
    third = open_workshop(place, worker=Worker(bench="one"))
    assert close_interrupted_pulls(third) == ()
    third.close()
    pull_until(session, gave)
    session.finish(PullEnd.GAVE)
    assert two.catch_up()
    assert session.pull_id in read_logbook(two).by_pull


@pytest.mark.slow
def test_a_pull_held_to_be_interrupted_gets_the_end_it_had(own_server, bench_at):
    one, two = bench_at("one"), bench_at("two")
    session = session_of(one)
    pull_until(session, lambda live: live.load_n > 500)
    own_server.stop()
    pull_until(session, gave)
    session.finish(PullEnd.GAVE)
    back_online(two, own_server)
    one.claims.release()
    two.file.worker = Worker(who="OQ", bench="one")
    while one.file.online is False:
        time.sleep(0.02)
    one.claims.release()
    assert close_interrupted_pulls(two) == (session.pull_id,)
    entry = check_delivered(one, session)
    assert entry.pull.end is PullEnd.GAVE


def check_delivered(shop, session):
    assert deliver_waiting(shop).codes == (session.specimen.code,)
    return read_logbook(shop).by_pull[session.pull_id]


@pytest.mark.slow
def test_what_was_dropped_meanwhile_waits_on_and_says_so(own_server, bench_at):
    shop = bench_at("one")
    session = session_of(shop)
    own_server.stop()
    pull_until(session, gave)
    session.finish(PullEnd.GAVE)
    back_online(shop, own_server)
    with shop.file.writing() as connection:
        connection.exec_driver_sql("SET LOCAL bruiser.taking_back = 'on'")
        connection.exec_driver_sql(
            "DELETE FROM stock_entry WHERE specimen_id = %s", (session.specimen.id,)
        )
        connection.exec_driver_sql(
            "DELETE FROM preparation WHERE specimen_id = %s", (session.specimen.id,)
        )
        campaigns.delete_specimen(connection, session.specimen.id)
    done = deliver_waiting(shop)
    assert done.codes == ()
    assert "was dropped from the campaign. Its pull waits on." in done.left[0]
    assert len(files_waiting(shop)) == 1
