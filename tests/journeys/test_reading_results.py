"""Reading the results through the real window: marks, numbers, exclusions, claims, files."""

import csv

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLineEdit, QPushButton, QWidget

from bruiser.core.cells import read_cell
from bruiser.ui.kit.rows_table import RowsTable
from bruiser.ui.kit.trace_bench import TraceBench
from bruiser.ui.stations.results.sheets import SHEETS
from bruiser.workshop.logbook.live import read_logbook


def lot_of(hands, name):
    return next(x for x in hands.window.logbook.lots if x.name == name)


@pytest.fixture
def results(hands):
    hands.go("results")
    hands.choose("results.lot", "P8-B, new")
    return hands


def sheet(hands, key):
    hands.click(f"results.sheet.{key}")
    hands.qtbot.waitUntil(lambda: hands.window.results.found.asked.sheet == key)


def figure(hands, name="results.chart"):
    return hands.find(QWidget, name).figure


def behind(hands):
    return {row[1][0] for row in hands.window.results.pulls()}


def tap(hands, key, name="results.chart"):
    """Brings a spot into sight and taps it."""
    view = hands.find(QWidget, name)
    spot = view.spot_centre(key).toPoint()
    pane = hands.find(QWidget, f"{name}.pane")
    pane.ensureVisible(spot.x(), spot.y())
    hands.qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=spot)
    hands.settle()


def test_from_a_mark_to_its_trace_and_back(results):
    shown = results.window.results.found.rows[0]
    mark = shown.marks[0]
    tap(results, mark.pull_id)
    assert mark.code in results.words("results.behind")
    assert results.find(QWidget, "results.trace").figure.rows
    results.click("results.trace.open")
    bench = results.window.findChild(TraceBench)
    assert bench is not None
    assert mark.code in bench.windowTitle() or bench.isVisible()
    bench.close()
    results.settle()
    assert results.window.station == "results"
    assert results.window.results.selected == mark.pull_id


def test_every_number_of_every_sheet_opens_its_pulls(results):
    results.choose("results.lot", "N7-T")
    codes = {e.specimen.code for e in results.window.logbook.entries}
    seen = 0
    for key in SHEETS:
        sheet(results, key)
        for name in ("results.chart", "results.side"):
            view = results.find(QWidget, name)
            if not view.isVisible() or view.figure is None:
                continue
            for spot in view.figure.spots:
                if spot.key.startswith("row:"):
                    continue
                results.window.results.tap(spot.key)
                assert behind(results), (key, spot.key)
                assert behind(results) <= codes
                seen += 1
    assert seen > 150


def test_leaving_a_pull_out_and_taking_it_in_again(results):
    row = next(r for r in results.window.results.found.rows if r.name == "Bowline")
    tap(results, f"n:{row.lot.id}|{row.name}")
    table = results.find(RowsTable, "results.pulls")
    assert table.isVisible()
    assert behind(results) == {m.code for m in row.marks}
    assert table.keys == (results.window.results.selected,)
    results.window.results.select(row.marks[2].pull_id)
    assert table.keys == (row.marks[2].pull_id,)
    results.click("results.exclude")
    reason = results.find(QLineEdit, "results.exclude.reason")
    assert reason.isVisible()
    results.leave("results.exclude.reason")
    assert "reason is missing" in results.wrong("results.exclude.reason")
    out = results.window.results.selected
    results.type("results.exclude.reason", "the pin was bent")
    results.leave("results.exclude.reason")
    results.settle()
    now = next(r for r in results.window.results.found.rows if r.name == "Bowline")
    assert out not in now.efficiency.pull_ids
    assert now.whole.efficiency.interval == row.efficiency.interval
    assert out in {s.key for s in figure(results).spots}
    lines = " ".join(x.words for x in results.window.pages["results"].lines if x.isVisible())
    assert "is left out, the pin was bent. With it 69 %" in lines
    assert "Left out: the pin was bent" in results.words("results.behind")
    results.click("results.restore")
    results.settle()
    back = next(r for r in results.window.results.found.rows if r.name == "Bowline")
    assert back.efficiency.interval == row.efficiency.interval
    entry = read_logbook(results.window.workshop).by_pull[out]
    assert [x.excluded for x in entry.exclusions] == [True, False]
    results.window.undo()
    results.settle()
    assert read_logbook(results.window.workshop).by_pull[out].excluded is not None


def test_judging_a_claim(results):
    sheet(results, "claims")
    found = results.window.results.found.claims
    assert results.words("results.sentence").startswith(f"Of {len(found)} judgements")
    first = found[0]
    tap(results, f"row:{first.claim.id}|{first.lot_id}")
    lines = [x.words for x in results.window.pages["results"].lines if x.isVisible()]
    assert any(line.startswith("Supported by the whole 95 % interval") for line in lines)
    tap(results, "n:claim|0")
    assert len(behind(results)) == first.judgement.pulls
    verdicts = {row[1] for row in figure(results).rows}
    assert {"supported", "contradicted", "not decided"} <= verdicts


@pytest.mark.parametrize("lot", ["N7-T", "P8-B, new"])
def test_every_chart_is_exported_and_reads_back(results, tmp_path, monkeypatch, lot):
    results.choose("results.lot", lot)
    written = 0
    for key in SHEETS:
        sheet(results, key)
        for name in ("results.chart", "results.side"):
            view = results.find(QWidget, name)
            if not view.isVisible() or view.figure is None:
                continue
            for kind in ("csv", "svg", "png"):
                target = tmp_path / f"{key}-{name}.{kind}"
                monkeypatch.setattr(
                    "bruiser.ui.kit.chart_frame.QFileDialog.getSaveFileName",
                    lambda *_, path=target: (str(path), ""),
                )
                results.click(f"{name}.export")
                assert target.stat().st_size > 40
                written += 1
            with (tmp_path / f"{key}-{name}.csv").open(newline="", encoding="utf-8") as file:
                read = [[read_cell(cell) for cell in row] for row in csv.reader(file)]
            assert read == [list(view.figure.header), *(list(r) for r in view.figure.rows)]
            assert results.words("results.notice").startswith("Written:")
    assert written >= 18


def test_definitions_floors_order_and_filters(results):
    p = results.window.results
    results.choose("results.against", "maker's rating")
    assert "against the maker's rating" in figure(results).title
    lines = " ".join(x.words for x in results.window.pages["results"].lines if x.isVisible())
    assert "not a measured baseline" in lines
    results.choose("results.against", "typical")
    results.choose("results.sort", "by name")
    names = list(dict.fromkeys(r[0] for r in figure(results).rows))
    assert names[:-1] == sorted(names[:-1])
    loose = {row[0]: row[4] for row in figure(results).rows}
    results.choose("results.floor", "99 in 100")
    results.choose("results.sure", "said 99 %")
    tight = {row[0]: row[4] for row in figure(results).rows}
    assert float(tight["Bowline"]) < float(loose["Bowline"])
    results.click("results.filter")
    results.choose("results.filter.technician", "TV")
    mine = [p.logbook.by_pull[key].pull for key in p.found.rows[0].group.pull_ids]
    assert {pull.technician for pull in mine} == {"TV"}
    results.choose("results.filter.technician", "every")
    results.choose("results.filter.variant", "plain")
    assert "Bowline, round turn (double)" not in {r.name for r in p.found.rows}
    results.choose("results.filter.variant", "every")
    results.choose("results.lot", "All lots")
    assert len({r.lot.id for r in p.found.rows}) > 5
    assert "letters and comparisons hold within one lot only" in results.words("results.sentence")


def test_wraps_are_judged_against_another_load(results):
    results.choose("results.lot", "N7-T")
    sheet(results, "wraps")
    assert "3 wraps typically hold 3.00 kN" in results.words("results.sentence")
    results.type("results.target", "1800 lbf")
    results.leave("results.target")
    results.settle()
    assert "4 wraps typically hold 8.01 kN" in results.words("results.sentence")
    results.type("results.target", "much")
    results.leave("results.target")
    assert results.wrong("results.target")


def test_pairs_are_chosen_and_the_matrix_opens_its_pulls(results):
    sheet(results, "compare")
    p = results.window.results
    rows = p.comparable()
    p.compare(tuple(key for key, _ in rows[:2]))
    results.settle()
    assert len(p.found.compared.contrasts) == 1
    assert results.find(QPushButton, "results.compared").text().startswith(f"2 of {len(rows)} ")
    results.click("results.way.matrix")
    cell = next(s for s in figure(results).spots if "Bowline|P8-B" in s.key)
    tap(results, cell.key)
    assert len(behind(results)) == 6


def test_the_keyboard_reaches_marks_and_lines(results):
    view = results.find(QWidget, "results.chart")
    view.setFocus()
    results.qtbot.keyClick(view, Qt.Key.Key_Right)
    results.qtbot.keyClick(view, Qt.Key.Key_Return)
    results.settle()
    line = next(
        x for x in results.window.pages["results"].lines if "Asked:" in x.words and x.isVisible()
    )
    line.setFocus()
    results.qtbot.keyClick(line, Qt.Key.Key_Return)
    assert len(behind(results)) >= 10
    assert "passed" in results.words("results.behind.heading")
