"""Campaigns with little or odd in them give a sensible picture and a sentence, not an error."""

from dataclasses import replace

import pytest

from bruiser.app.demo_pulls import pull_specimen, void_specimen
from bruiser.app.stations import STATIONS
from bruiser.app.window import MainWindow
from bruiser.core.records.records import Gave, JamLevel, Role
from bruiser.ui.stations.results.sheets import SHEETS
from bruiser.workshop.desk.knot_commands import AddKnot
from bruiser.workshop.desk.lot_commands import AddLot
from bruiser.workshop.findings.inspecting import FindingDraft, accept_draft
from bruiser.workshop.logbook.commands import PlanSpecimen
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import create_workshop
from tests.build import KNOT, LOT, ROW, SPECIMEN

CORDED = replace(LOT, cord_model="polyester double braid")


@pytest.fixture
def bare(tmp_path):
    return create_workshop(tmp_path / "odd.bruiser", ROW)


def plan(workshop, count, *, baseline=0):
    for command in (AddLot(CORDED), AddKnot(KNOT)):
        workshop.do(command)
    for n in range(count + baseline):
        one = replace(SPECIMEN, id=f"s{n}", code=f"S-{n}", queue_position=n, lot=CORDED, seed=n + 3)
        if n >= count:
            one = replace(
                one, role=Role.BASELINE, layout_key="baseline", knot_a=None, knot_b=None, tails=()
            )
        workshop.do(PlanSpecimen(one))
    return [e.specimen for e in read_logbook(workshop).entries]


def found(workshop, specimen, gave, place, stop_at=None):
    pull_id, _ = pull_specimen(workshop, specimen, "TV", stop_at)
    entry = read_logbook(workshop).by_pull[pull_id]
    draft = FindingDraft(
        gave=gave,
        place=place,
        draws={t.key: "3 mm" for t in specimen.layout.tails},
        jams=dict.fromkeys(specimen.layout.ends, JamLevel.HAND),
        against="made up for this test",
    )
    assert accept_draft(workshop, entry, draft) == {}


def seen(dressed, qtbot, workshop):
    """Opens the window, visits every station and every sheet; returns what Results says."""
    window = MainWindow(workshop)
    qtbot.addWidget(window)
    window.show()
    qtbot.waitUntil(lambda: not window.tasks.busy)
    for key in (s.key for s in STATIONS):
        window.go_to(key)
        qtbot.wait(5)
    page = window.pages["results"]
    for key in SHEETS:
        window.go_to("results")
        page.sheets.pick(key)
        qtbot.waitUntil(lambda: not window.tasks.busy)
        sheet = window.results.sheet()
        assert sheet.main is not None or sheet.empty, key
        assert page.chart.isVisible() == (sheet.main is not None), key
        if sheet.main is not None:
            assert page.chart.figure.shapes, key
            assert sheet.sentence, key
    page.sheets.pick("strength")
    qtbot.waitUntil(lambda: not window.tasks.busy)
    lines = " ".join(line.words for line in page.lines if line.isVisible())
    drawn = page.chart.figure if page.chart.isVisible() else None
    said = (page.subtitle.words, page.sentence.words, lines, page.empty.words, drawn)
    window.close()
    return said


def test_an_empty_campaign(dressed, qtbot, bare):
    subtitle, sentence, _, empty, drawn = seen(dressed, qtbot, bare)
    assert subtitle == "No lot is chosen."
    assert (sentence, drawn) == ("", None)
    assert "Nothing has been pulled yet" in empty


def test_a_planned_campaign_without_pulls(dressed, qtbot, bare):
    plan(bare, 2)
    subtitle, sentence, _, empty, drawn = seen(dressed, qtbot, bare)
    assert "no measured plain rope" in subtitle
    assert (sentence, drawn) == ("", None)
    assert "Nothing of P8 has been pulled and inspected yet" in empty


def test_one_pull_without_a_baseline(dressed, qtbot, bare):
    found(bare, plan(bare, 1)[0], Gave.BROKE, "nip_a")
    _, sentence, caveats, _, drawn = seen(dressed, qtbot, bare)
    assert "no measured plain rope to compare with" in sentence
    assert "no baseline pulls" in caveats
    assert drawn.title == "Load held: no plain rope to set it against"
    assert len(drawn.rows) == 1


def test_everything_outlasted(dressed, qtbot, bare):
    specimens = plan(bare, 2, baseline=3)
    for specimen in specimens[:2]:
        found(bare, specimen, Gave.STOPPED, None, stop_at=5_000.0)
    for specimen in specimens[2:]:
        found(bare, specimen, Gave.BROKE, "span")
    _, sentence, caveats, _, drawn = seen(dressed, qtbot, bare)
    assert "Nothing gave" in sentence
    assert "at least" in sentence
    assert "floor only" in caveats
    assert [row[8] for row in drawn.rows if row[0] == "Bowline"] == ["outlasted"] * 2


def test_everything_came_out_and_one_is_void(dressed, qtbot, bare):
    specimens = plan(bare, 4, baseline=3)
    for specimen in specimens[:3]:
        found(bare, specimen, Gave.CAME_OUT, "knot_a")
    pull_id, _ = pull_specimen(bare, specimens[3], "OQ")
    void_specimen(bare, pull_id, "wrong pin")
    for specimen in specimens[4:]:
        found(bare, specimen, Gave.BROKE, "span")
    _, sentence, _, _, drawn = seen(dressed, qtbot, bare)
    assert "3 of 3 came out" in sentence
    assert [row[8] for row in drawn.rows if row[0] == "Bowline"] == ["came_out"] * 3


def test_a_baseline_that_only_broke_at_the_drums(dressed, qtbot, bare):
    specimens = plan(bare, 3, baseline=2)
    for specimen in specimens[:3]:
        found(bare, specimen, Gave.BROKE, "nip_b")
    for specimen in specimens[3:]:
        found(bare, specimen, Gave.BROKE, "termination_a")
    _, sentence, caveats, _, drawn = seen(dressed, qtbot, bare)
    assert "no measured plain rope to compare with" in sentence
    assert "the true strength is higher" in caveats
    # Loads of the knots, and beside them what the rope held at least.
    assert [row[0] for row in drawn.rows] == ["Bowline"] * 3 + ["Plain rope"] * 2
    assert {row[8] for row in drawn.rows if row[0] == "Plain rope"} == {"outlasted"}
