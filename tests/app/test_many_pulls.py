"""With four times the pulls and a long queue no more is asked, and no more specimens are read."""

import shutil
from contextlib import contextmanager

import pytest
import sqlalchemy as sa
from benchmarks.at_work import correct, settle_down
from benchmarks.years import build, demo_file
from PyQt6.QtCore import QEvent
from PyQt6.QtWidgets import QApplication
from tests.alike import whole

from bruiser.app.opener import Opener
from bruiser.app.stations import STATIONS
from bruiser.store.progress import wrong_progress, wrong_tally
from bruiser.ui.runtime.preferences import Preferences
from bruiser.workshop.logbook import live
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.live import read_logbook

PLACES = [*(station.key for station in STATIONS), "logbook"]
MOST_FOR_A_FINDING = {"brief": 42, "findings": 32, "plan": 36}
MOST_FOR_A_STATION = 12


@pytest.fixture(scope="module")
def large(tmp_path_factory):
    path = tmp_path_factory.mktemp("large") / "large.bruiser"
    assert build(path, 1200, waiting=900) >= 1200
    return path


class Asked:
    """Statements run, and specimens read, while it counts."""

    def __init__(self):
        self.statements = self.specimens = 0


@contextmanager
def counting(monkeypatch):
    asked, load = Asked(), live.load_entries

    def ran(connection, cursor, statement, *_):
        asked.statements += not statement.startswith("BEGIN")

    def loaded(connection, books, of=None):
        found = load(connection, books, of)
        asked.specimens += len(found)
        return found

    with monkeypatch.context() as patched:
        patched.setattr(live, "load_entries", loaded)
        sa.event.listen(sa.Engine, "before_cursor_execute", ran)
        try:
            yield asked
        finally:
            sa.event.remove(sa.Engine, "before_cursor_execute", ran)


def let_go(window):
    """Close a window and have it gone: each has thousands of parts that would be styled anew."""
    window.close()
    window.deleteLater()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


@contextmanager
def window_on(path):
    opener = Opener(Preferences(toured=True), remembers=False)
    assert opener.open(path)
    app, window = QApplication.instance(), opener.window
    try:
        for place in PLACES:
            window.go_to(place)
            settle_down(app, window)
        yield app, window
    finally:
        let_go(window)


def asked_at_work(path, monkeypatch):
    """What is asked by storing a finding at each place, and by going there afterwards."""
    found = {}
    with window_on(path) as (app, window):
        logbook = read_logbook(window.workshop)
        first = next(lot for lot in logbook.lots if logbook.tally.count(lot_id=lot.id))
        entry = next(
            e
            for e in logbook.of_lots([first.id])
            if e.stage is Stage.INSPECTED and e.specimen.knot_a is None
        )
        for number, place in enumerate(MOST_FOR_A_FINDING):
            window.go_to(place)
            settle_down(app, window)
            entry = read_logbook(window.workshop).entry(entry.specimen.id)
            with counting(monkeypatch) as asked:
                correct(window, entry, number)
                found["finding", place] = asked
            settle_down(app, window)
        for place in PLACES:
            window.go_to(place)
            settle_down(app, window)
        for place in PLACES:
            with counting(monkeypatch) as asked:
                window.go_to(place)
                app.processEvents()
                found[place] = asked
            settle_down(app, window)
    return found


def test_a_command_and_a_station_ask_as_often_whatever_the_campaign_holds(
    dressed, large, tmp_path, monkeypatch
):
    small = tmp_path / "small.bruiser"
    shutil.copy(demo_file(), small)
    few, many = asked_at_work(small, monkeypatch), asked_at_work(large, monkeypatch)
    for deed, asked in many.items():
        finding = isinstance(deed, tuple)
        most = MOST_FOR_A_FINDING[deed[1]] if finding else MOST_FOR_A_STATION
        assert asked.statements <= most, deed
        assert asked.statements <= few[deed].statements + 2, deed
        assert asked.specimens <= few[deed].specimens + 2, deed


def test_opening_a_large_campaign_reads_no_more_specimens(dressed, large, tmp_path, monkeypatch):
    small = tmp_path / "small.bruiser"
    shutil.copy(demo_file(), small)
    counts = []
    for path in (small, large):
        opener = Opener(Preferences(toured=True), remembers=False)
        with counting(monkeypatch) as asked:
            assert opener.open(path)
        counts.append(asked)
        window = opener.window
        settle_down(QApplication.instance(), window)
        let_go(window)
    few, many = counts
    assert many.statements <= few.statements + 4
    # A lot has three times the pulls there.
    assert many.specimens <= 4 * few.specimens


def test_the_large_campaign_is_one_that_could_be(large):
    from bruiser.workshop.logbook.workshop import open_workshop

    shop = open_workshop(large, read_only=True)
    with shop.file.reading() as connection:
        assert not wrong_progress(connection)
        assert not wrong_tally(connection)
    assert len(whole(shop).entries) == len(read_logbook(shop).lines)
    shop.close()


def test_a_window_let_go_leaves_nothing(dressed, usual_file):
    before = len(QApplication.allWidgets())
    with window_on(usual_file):
        assert len(QApplication.allWidgets()) > before + 1000
    assert len(QApplication.allWidgets()) < before + 200
