"""What the presenter of Results decides: choices, taps, stopping, and what can be chosen."""

import time

import pytest

from bruiser.core.progress import Cancelled
from bruiser.ui.stations.results import presenter as module
from bruiser.ui.stations.results.presenter import ALL_LOTS, ResultsPresenter
from bruiser.ui.stations.results.sheets import SHEETS
from bruiser.ui.stations.results.view import ResultsView
from bruiser.workshop.findings.excluding import exclude_pull
from bruiser.workshop.logbook.live import read_logbook


@pytest.fixture
def desk(workshop, tasks, qtbot):
    made = ResultsPresenter(workshop, tasks)
    made.take_up(read_logbook(workshop))
    qtbot.waitUntil(lambda: not tasks.busy)
    return made


def show(desk, tasks, qtbot, lot, sheet="strength"):
    desk.show_lot(next(x.id for x in desk.logbook.lots if x.name == lot))
    desk.show_sheet(sheet)
    qtbot.waitUntil(lambda: not tasks.busy)
    return desk.sheet()


def test_it_begins_with_the_lot_most_was_pulled_of(desk):
    assert desk.results.baseline.lot.name == "R8"
    assert desk.title() == SHEETS["strength"].question
    keys = [key for key, _ in desk.lots()]
    assert keys[-1] == ALL_LOTS
    assert len(keys) == 5


@pytest.mark.parametrize("sheet", SHEETS)
def test_every_sheet_of_every_lot_has_a_chart_or_says_why_not(desk, tasks, qtbot, sheet):
    desk.show_sheet(sheet)
    for key, _ in desk.lots():
        desk.show_lot(key)
        qtbot.waitUntil(lambda: not tasks.busy)
        found = desk.sheet()
        assert found.about
        if found.main is None:
            assert found.empty
            continue
        figure = found.main(280.0, 110.0)
        assert figure.rows
        assert found.sentence
        spots = {s.key for s in figure.spots}
        for part in found.parts:
            spots |= {s.key for s in part.draw(110.0, 90.0).spots}
        for spot in spots:
            known = spot.startswith("row:") or spot in desk.logbook.by_pull
            assert known or spot in found.behind, (sheet, spot)
        for line in found.lines:
            assert not line.behind or line.behind in found.behind


def test_a_row_is_talked_about_until_it_is_tapped_again(desk, tasks, qtbot):
    before = show(desk, tasks, qtbot, "R8").sentence
    row = next(r for r in desk.found.rows if r.name == "Overhand loop")
    desk.tap(f"row:{row.lot.id}|{row.name}")
    assert desk.sheet().sentence.startswith("Overhand loop keeps between")
    desk.tap(f"row:{row.lot.id}|{row.name}")
    assert desk.sheet().sentence == before


def test_the_sheet_is_built_once_for_what_is_chosen(desk, tasks, qtbot):
    show(desk, tasks, qtbot, "R8")
    first = desk.sheet()
    desk.select(desk.found.rows[0].marks[0].pull_id)
    assert desk.sheet() is first
    desk.show(sort="name")
    assert desk.sheet() is not first


def test_tapping_a_number_lists_its_pulls_and_a_mark_only_itself(desk, tasks, qtbot):
    show(desk, tasks, qtbot, "R8")
    row = desk.found.rows[1]
    desk.tap(f"n:{row.lot.id}|{row.name}")
    assert [key for key, _ in desk.pulls()] == [m.pull_id for m in row.marks]
    assert desk.selected == row.marks[0].pull_id
    other = desk.found.rows[0].marks[0].pull_id
    desk.tap(other)
    assert [key for key, _ in desk.pulls()] == [other]
    desk.tap("nothing of the kind")
    assert desk.selected == other


def test_a_void_or_left_out_pull_says_so_in_the_list(desk, workshop, tasks, qtbot):
    show(desk, tasks, qtbot, "R8")
    row = desk.found.rows[1]
    exclude_pull(workshop, desk.logbook.by_pull[row.marks[0].pull_id], "bent")
    desk.take_up(read_logbook(workshop))
    qtbot.waitUntil(lambda: not tasks.busy)
    desk.tap(f"n:{row.lot.id}|{row.name}")
    said = {key: cells[1] for key, cells in desk.pulls()}
    assert said[row.marks[0].pull_id].startswith("left out; ")
    desk.select(row.marks[0].pull_id)
    assert desk.entry_words().startswith("Left out: bent")
    assert desk.exclude("again") == ""  # it is out already: nothing is stored


def test_a_load_for_wraps_is_read_in_any_unit_or_refused(desk, tasks, qtbot):
    show(desk, tasks, qtbot, "N7", "wraps")
    assert desk.hold("250 kgf") == ""
    qtbot.waitUntil(lambda: not tasks.busy)
    assert desk.found.wraps[0].target_n == pytest.approx(2451.7, rel=1e-3)
    assert desk.hold("heavy") != ""
    assert desk.hold("") == ""
    qtbot.waitUntil(lambda: not tasks.busy)
    assert desk.found.wraps[0].target_n == pytest.approx(3_000.0)


def test_filters_offer_what_is_there(desk, tasks, qtbot):
    show(desk, tasks, qtbot, "N7")
    offered = desk.filter_options()
    assert [key for key, _ in offered["dressing"]] == ["", "crossed", "dressed"]
    assert {"TV", "OQ"} <= {key for key, _ in offered["technician"]}
    assert any("post 1" in words for _, words in offered["host"])


def slow_overview(logbook, asked, memory, progress):
    for n in range(3_000):
        progress(n, 3_000)
        time.sleep(0.001)
    raise AssertionError("was not stopped")


def test_stopping_keeps_what_was_there_and_says_it_is_older(
    desk, tasks, qtbot, monkeypatch, dressed
):
    view = ResultsView(desk)
    qtbot.addWidget(view)
    view.resize(1104, 780)
    view.show()
    shown = show(desk, tasks, qtbot, "R8")
    monkeypatch.setattr(module, "overview", slow_overview)
    desk.measure_against("rating")
    qtbot.waitUntil(view.line.progress.isVisible)
    assert view.line.cancel.isVisible()
    view.line.cancel.click()
    qtbot.waitUntil(lambda: not tasks.busy)
    assert view.line.notice.words == "Stopped: what is shown is older."
    assert desk.sheet().main is not None
    assert desk.sheet().sentence == shown.sentence
    assert not view.line.progress.isVisible()
    monkeypatch.undo()
    view.again.click()
    qtbot.waitUntil(lambda: not tasks.busy)
    assert desk.found.asked.against.value == "rating"
    assert not view.again.isVisible()
    assert issubclass(Cancelled, Exception)


def test_in_a_narrow_window_one_chart_is_shown_at_a_time(desk, tasks, qtbot, dressed):
    view = ResultsView(desk)
    qtbot.addWidget(view)
    view.resize(848, 680)
    view.show()
    show(desk, tasks, qtbot, "R8", "slip")
    qtbot.waitUntil(view.turn.isVisible)
    assert view.chart.isVisible()
    assert not view.side.isVisible()
    view.turn.click()
    assert not view.chart.isVisible()
    assert view.side.isVisible()
    view.resize(1104, 780)
    assert view.chart.isVisible()
    assert view.side.isVisible()
    assert not view.turn.isVisible()
