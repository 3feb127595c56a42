"""The sheet across cordages, and what of it stands in the guide, in the window and outside."""

import json
import shutil
from dataclasses import replace

import pytest
from PyQt6.QtWidgets import QWidget

from bruiser.app.cli import main
from bruiser.app.window import MainWindow
from bruiser.workshop.guide.book import read_limits
from bruiser.workshop.logbook.workshop import open_workshop
from bruiser.workshop.results.across_words import NEW_CORDAGE


@pytest.fixture
def window(dressed, qtbot, demo_file):
    made = MainWindow(open_workshop(demo_file))
    qtbot.addWidget(made)
    made.show()
    made.go_to("results")
    made.results.show_sheet("across")
    qtbot.waitUntil(lambda: not made.tasks.busy)
    yield made
    made.close()


def leave_out(qtbot, window, name):
    """As from the menu: which cordages enter."""
    controls = window.pages["results"].controls
    controls._lots_menu.aboutToShow.emit()
    (action,) = [a for a in controls._lots_menu.actions() if a.text().startswith(name)]
    action.trigger()
    qtbot.waitUntil(lambda: not window.tasks.busy)


def figure(window):
    return window.findChild(QWidget, "results.chart").figure


def lines(window):
    return [line.text for line in window.results.sheet().lines]


def test_a_cordage_of_another_kind_takes_predictions_back_until_it_is_left_out(qtbot, window):
    assert any("withdrawn" in line and "H4-W" in line for line in lines(window))
    assert not any(row[3] == "predicted" for row in figure(window).rows)
    assert NEW_CORDAGE not in {row[1] for row in figure(window).rows}
    leave_out(qtbot, window, "H4-W")
    assert not any("withdrawn" in line for line in lines(window))
    rows = figure(window).rows
    assert any(row[3] == "predicted" for row in rows)
    assert {row[3] for row in rows if row[1] == NEW_CORDAGE} == {"predicted"}
    assert "H4-W" not in {row[1] for row in rows}
    assert any("Left out by decision: H4-W" in line for line in lines(window))
    limits = read_limits(window.workshop)
    assert (limits.version, len(limits.across.left_out)) == (1, 1)
    window.workshop.undo()
    qtbot.waitUntil(lambda: not window.tasks.busy)
    assert any("withdrawn" in line for line in lines(window))


def test_every_cell_leads_to_pulls_and_says_whether_it_is_predicted(qtbot, window):
    leave_out(qtbot, window, "H4-W")
    desk = window.results
    kinds = set()
    for spot in figure(window).spots:
        desk.tap(spot.key)
        pulls = desk.opened.pulls
        assert pulls, spot.key
        predicted = "predicted" in spot.label
        kinds.add(predicted)
        lot = spot.key.rpartition("|")[2]
        lots = {window.logbook.by_pull[p].specimen.lot.name for p in pulls}
        assert (lot in lots) != predicted, spot.key
        assert predicted or "measured" in spot.label
    assert kinds == {True, False}


def test_what_compares_is_chosen(qtbot, window):
    sets = window.results.alike_sets()
    assert len(sets) > 3
    window.results.show(alike=sets[-1][0])
    assert window.results.sheet().about.startswith(sets[-1][1])
    assert figure(window).rows


def test_an_untested_cordage_gets_ranges_and_no_band(qtbot, window):
    leave_out(qtbot, window, "H4-W")
    window.go_to("guide")
    qtbot.waitUntil(lambda: not window.tasks.busy)
    guide = window.guide
    assert not guide.describe("aramid", "laid", "6 mm")
    guide.wish = replace(guide.wish, lot_id="other")
    guide.ask()
    qtbot.waitUntil(lambda: not window.tasks.busy)
    said = window.findChild(QWidget, "guide.empty").words
    assert "Not tested" in said
    assert "no band, no place and no working load" in said
    assert said.count("predicted ") >= 8
    assert not window.findChild(QWidget, "guide.board").isVisible()


def test_the_command_line_gives_what_the_sheet_shows(demo_file, capsys):
    assert main(["results", str(demo_file), "--json"]) == 0
    across = json.loads(capsys.readouterr().out)["across"]
    assert [one["condition"] for one in across if len(one["cells"]) > 20] == ["new, dry"]
    first = across[0]
    assert first["check"]["withdrawn"]
    assert {c["kind"] for c in first["cells"]} == {"measured"}
    assert first["typical"] == first["new_cordage"] == []
    assert any("H4-W" in words for words in first["caveats"])


TABLE = """pull,role,cordage,condition,knot,peak,finding
"""


def test_a_pull_table_is_laid_across(tmp_path, capsys):
    rows, n = [], 0
    shares = {"R8": (10.0, 0.70, 0.78), "R9": (14.0, 0.68, None), "T6": (6.0, 0.72, 0.80)}
    for cordage, (rope, bowline, eight) in shares.items():
        for factor in (0.98, 1.0, 1.02):
            for knot, share in (("", 1.0), ("bowline", bowline), ("eight", eight)):
                if share is None:
                    continue
                n += 1
                role, found = ("knot", "broke_at_knot") if knot else ("baseline", "broke_clear")
                rows.append(f"{n},{role},{cordage},new,{knot},{rope * share * factor:.3f},{found}")
    path = tmp_path / "t.csv"
    path.write_text(TABLE + "\n".join(rows) + "\n", encoding="utf-8")
    assert main(["results", str(path), "--json"]) == 0
    (across,) = json.loads(capsys.readouterr().out)["across"]
    assert set(across) >= {
        "condition", "cells", "typical", "new_cordage", "spread", "check", "caveats"
    }  # fmt: skip
    kinds = {(c["knot"], c["cordage"]): c for c in across["cells"]}
    assert len(kinds) == 6
    assert kinds["eight", "R9"]["kind"] == "predicted"
    assert 0.6 < kinds["eight", "R9"]["low"] < 0.78 < kinds["eight", "R9"]["high"] < 1.0
    assert {t["knot"] for t in across["typical"]} == {"bowline", "eight"}
    assert across["check"] == {"cells": 4, "inside": 4, "withdrawn": False}


def test_another_campaign_is_laid_beside_and_nothing_of_it_is_changed(
    qtbot, window, usual_campaign, tmp_path
):
    other = tmp_path / "yard.bruiser"
    shutil.copy(usual_campaign, other)
    before = other.read_bytes()
    leave_out(qtbot, window, "H4-W")
    alone = {row[1] for row in figure(window).rows}
    pulls = len(window.logbook.entries)
    window.results.lay_beside(other)
    qtbot.waitUntil(lambda: not window.tasks.busy)
    columns = {row[1] for row in figure(window).rows}
    laid = columns - alone
    assert laid
    assert all(" to 20" in name for name in laid), "with its days"
    assert any("R8 (" in name for name in laid)
    assert any("Laid beside: " in line for line in lines(window))
    assert len(window.logbook.entries) == pulls
    assert other.read_bytes() == before
    other.unlink()
    window.results.again()
    qtbot.waitUntil(lambda: not window.tasks.busy)
    assert any("not to be read: yard.bruiser" in line for line in lines(window))
    assert {row[1] for row in figure(window).rows} == alone
    window.results.lay_beside(other)
    qtbot.waitUntil(lambda: not window.tasks.busy)
    assert read_limits(window.workshop).across.beside == ()


def test_what_cannot_be_laid_beside_is_refused(qtbot, window, tmp_path):
    told = []
    window.results.failed.connect(told.append)
    text = tmp_path / "notes.bruiser"
    text.write_text("no campaign", encoding="utf-8")
    window.results.lay_beside(text)
    window.results.lay_beside(window.workshop.file.path)
    assert ["not a campaign" in str(told[0]), "this campaign" in str(told[1])] == [True, True]
    assert read_limits(window.workshop).version == 0
