"""Results kept between starts: there again, bounded, and done without when the file is spoilt."""

import sqlite3
from contextlib import closing

import pytest

from bruiser.core.memory import Memory
from bruiser.store.results_cache import ResultsCache, rules_digest
from bruiser.workshop.findings.excluding import exclude_pull
from bruiser.workshop.groups.gathering import gather
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import open_workshop
from bruiser.workshop.results.lot_results import all_results


@pytest.fixture
def path(tmp_path):
    return tmp_path / "cache" / "results.sqlite"


def test_what_was_kept_is_there_at_the_next_start(path):
    first = ResultsCache(path)
    first.keep(b"a" * 32, b"value")
    assert first.recall(b"a" * 32) == b"value"
    assert not path.exists()
    first.flush()
    assert ResultsCache(path).recall(b"a" * 32) == b"value"
    assert ResultsCache(path).recall(b"b" * 32) is None


def test_the_oldest_results_make_room(path):
    cache = ResultsCache(path, room=3_000)
    for n in range(6):
        cache.keep(bytes([n]) * 32, bytes(1_000))
        cache.flush()
    known = [n for n in range(6) if cache.recall(bytes([n]) * 32) is not None]
    assert known == [3, 4, 5]


def test_a_spoilt_file_makes_way_and_the_work_goes_on(path):
    path.parent.mkdir()
    path.write_bytes(b"no database at all, but long enough to be looked at" * 40)
    cache = ResultsCache(path)
    assert cache.recall(b"a" * 32) is None
    cache.keep(b"a" * 32, b"value")
    cache.flush()
    assert cache.recall(b"a" * 32) is None
    again = ResultsCache(path)
    again.keep(b"a" * 32, b"value")
    again.flush()
    assert ResultsCache(path).recall(b"a" * 32) == b"value"


def test_a_folder_that_cannot_be_made_is_done_without(tmp_path):
    blocked = tmp_path / "file"
    blocked.write_text("in the way")
    cache = ResultsCache(blocked / "results.sqlite")
    cache.keep(b"a" * 32, b"value")
    cache.flush()
    assert cache.recall(b"a" * 32) is None


def test_two_windows_keep_in_one_file(path):
    one, other = ResultsCache(path), ResultsCache(path)
    one.keep(b"a" * 32, b"1")
    other.keep(b"b" * 32, b"2")
    one.flush()
    other.flush()
    assert one.recall(b"b" * 32) == b"2"
    with closing(sqlite3.connect(path)) as raw:
        assert raw.execute("SELECT count(*) FROM kept").fetchone() == (2,)


def test_the_rules_have_one_name_in_a_process():
    assert rules_digest() == rules_digest()
    assert len(rules_digest()) == 32


def figures(results):
    return {
        (lot_id, row.name): (
            row.efficiency.interval, row.efficiency.at_least, row.letters, row.chance_best,
            row.rated.tolerance, row.result.jam, row.result.survival, row.whole,
        )
        for lot_id, lot in results.items()
        for row in lot.knots
    }  # fmt: skip


def test_results_of_yesterday_are_there_and_what_changed_is_worked_out(usual_file, path):
    def look(shop):
        cache = ResultsCache(path)
        memory = Memory(behind=cache)
        found = all_results(gather(read_logbook(shop)), memory=memory)
        cache.flush()
        return figures(found), memory.computed

    shop = open_workshop(usual_file)
    fresh = figures(all_results(gather(read_logbook(shop)), memory=Memory()))
    first, computed = look(shop)
    assert computed > 0
    again, computed = look(shop)
    assert computed == 0
    assert repr(again) == repr(first) == repr(fresh)
    entry = next(e for e in read_logbook(shop).at(Stage.INSPECTED) if e.specimen.knot_a)
    exclude_pull(shop, entry, "bent pin")
    changed, computed = look(shop)
    # Its group, its family, and that family with the pull in.
    assert 0 < computed <= 4
    assert changed != first
    shop.close()
