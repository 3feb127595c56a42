"""Plan through the real window: a queue, its cuts, the sheet, the bench."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QListWidget, QPlainTextEdit, QPushButton

from bruiser.app.window import MainWindow
from bruiser.workshop.logbook.workshop import create_workshop
from tests.build import ROW
from tests.journeys.conftest import Hands


def test_from_ticks_to_a_queue_its_cuts_and_a_printed_sheet(hands, tmp_path, monkeypatch):
    hands.go("plan")
    window = hands.window
    page = window.pages["plan"]
    assert "7 wait in the queue" in page.subtitle.words
    for ticks, wanted in ((page.matrix.lots, "N6-K"), (page.matrix.knots, "Figure-eight loop")):
        rows = [ticks.list.item(n) for n in range(ticks.list.count())]
        next(r for r in rows if r.text() == wanted).setCheckState(Qt.CheckState.Checked)
    hands.type("plan.pulls", "x")
    hands.leave("plan.pulls")
    assert "whole number" in hands.wrong("plan.pulls")
    hands.type("plan.pulls", "4")
    hands.leave("plan.pulls")
    assert "4 specimens" in hands.words("plan.cost")
    cell = window.plan.matrix()[1][0].cells[0].key
    hands.tap("plan.matrix", cell)
    said = hands.words("plan.curve.words")
    assert "after 4 pulls" in said
    assert "±3 points takes" in said
    assert "To tell it from a knot 5 points weaker" in said
    hands.tap("plan.matrix", cell)
    assert "0 specimens" in hands.words("plan.cost")
    assert not hands.find(QPushButton, "plan.queue").isEnabled()
    hands.tap("plan.matrix", cell)
    hands.click("plan.queue")
    assert window.rail.waiting_at("pull") == "11 to pull"
    hands.click("plan.panel.cuts")
    hands.choose("plan.cuts.lot", "N6-K")
    assert "4 specimens from" in hands.words("plan.cuts.words")
    target = tmp_path / "sheet.html"
    monkeypatch.setattr(
        "bruiser.ui.stations.plan.cuts.QFileDialog.getSaveFileName", lambda *_: (str(target), "")
    )
    hands.click("plan.cuts.sheet")
    sheet = target.read_text(encoding="utf-8")
    codes = [c for h in window.plan.cutting.hanks() for c, _ in h.cuts]
    assert len(codes) == 4
    assert all(sheet.count(code) >= 2 for code in codes)
    lot = next(x for x in window.logbook.lots if x.name == "N6-K")
    before = window.logbook.stock.on_hand_m(lot.id)
    used = window.plan.cutting.cuts.plan.used_up_m
    hands.click("plan.cuts.cut")
    assert window.logbook.stock.on_hand_m(lot.id) == pytest.approx(before - used)
    hands.window.undo()
    assert window.logbook.stock.on_hand_m(lot.id) == pytest.approx(before)


def test_the_queue_is_checked_on_a_bench_of_the_book(hands):
    hands.go("plan")
    hands.click("plan.panel.bench")
    assert "with the cautions below" in hands.words("plan.bench.verdict")
    assert len(hands.window.plan.bench.groups) == 6
    hands.click("plan.bench.page.book")
    hands.type("plan.bench.capacity", "5 mm")
    hands.click("plan.bench.store")
    assert "no unit" in hands.wrong("plan.bench.capacity")
    hands.type("plan.bench.capacity", "9 kN")
    hands.click("plan.bench.store")
    assert hands.window.logbook.bench_book.benches[0].capacity_n == 9_000
    assert "does not bear" in hands.words("plan.bench.verdict")
    worst = hands.window.plan.bench.groups[0].checks[0]
    assert (worst.name, worst.mend) == ("Load cell", "Mount a larger cell.")
    hands.window.undo()
    hands.settle()
    assert "with the cautions below" in hands.words("plan.bench.verdict")
    hands.click("plan.bench.page.more")
    hands.type("plan.fixture.name", "pin 4")
    hands.type("plan.fixture.material", "steel")
    hands.type("plan.fixture.diameter", "1/2 in")
    hands.click("plan.fixture.store")
    assert hands.window.plan.bench.fixtures()[-1][4] == "12.7 mm"
    hands.type("plan.room.temperature", "16")
    hands.type("plan.room.humidity", "70")
    hands.click("plan.room.store")
    assert hands.window.plan.bench.rooms()[0][1:] == ("16 °C", "70 %")


@pytest.fixture
def empty(dressed, qtbot, tmp_path):
    """The window over a campaign in which nobody has written anything."""
    made = MainWindow(create_workshop(tmp_path / "empty.bruiser", ROW))
    qtbot.addWidget(made, before_close_func=lambda w: w.pull.abandon())
    made.resize(1280, 800)
    made.show()
    qtbot.waitExposed(made)
    yield Hands(qtbot, made)
    made.close()


def tick(ticks, *names):
    rows = [ticks.list.item(n) for n in range(ticks.list.count())]
    for name in names:
        next(r for r in rows if r.text().startswith(name)).setCheckState(Qt.CheckState.Checked)


def test_from_an_empty_brief_to_a_printed_cut_sheet(empty, tmp_path, monkeypatch):
    hands = empty
    hands.go("brief")
    question = hands.find(QPlainTextEdit, "brief.question")
    question.clear()
    hands.qtbot.keyClicks(question, "Which loop, and does dressing matter?")
    hands.click("brief.use.tether-loop")
    hands.go("cordage")
    hands.click("cordage.offer.go")
    assert hands.window.logbook.brief.uses == ("tether-loop",)
    for name, text in (
        ("name", "N8"), ("material", "nylon"), ("construction", "kernmantle"),
        ("condition", "wet"), ("diameter", "8 mm"), ("rating", "14 kN"), ("soak", "2 h"),
        ("keep", "20 min"),
    ):  # fmt: skip
        hands.type(f"cordage.{name}", text)
    hands.click("cordage.store")
    (lot,) = hands.window.logbook.lots
    assert (lot.soak_s, lot.keep_s) == (7200.0, 1200.0)
    hands.click("cordage.panel.stock")
    hands.type("cordage.hank.label", "N8/1")
    hands.type("cordage.hank.length", "60 m")
    hands.click("cordage.hank.store")

    hands.go("knots")
    hands.type("knots.search", "flemish loop")
    hands.find(QListWidget, "knots.found").setCurrentRow(0)
    hands.settle()
    hands.click("knots.sheet.variant")
    hands.click("knots.play")

    hands.go("plan")
    hands.click("plan.panel.bench")
    hands.click("plan.bench.page.book")
    for name, text in (
        ("name", "yard bench"), ("stroke", "1200 mm"), ("rate", "8 mm/s"), ("capacity", "20 kN"),
        ("resolution", "5 N"), ("sample_rate", "200"),
    ):  # fmt: skip
        hands.type(f"plan.bench.{name}", text)
    tick(hands.window.pages["plan"].bench.methods, "stepped load")
    hands.click("plan.bench.store")
    hands.click("plan.panel.matrix")
    page = hands.window.pages["plan"].matrix
    tick(page.lots, "N8")
    tick(page.knots, "Figure-eight loop")
    hands.type("plan.pulls", "3")
    hands.leave("plan.pulls")
    hands.click("plan.picks.how")
    tick(page.states.dressings, "crossed")
    tick(page.states.methods, "ramp", "stepped load")
    page.states.pair.setChecked(True)
    assert hands.words("plan.cost").startswith("17 specimens, 5 of them straight pulls.")
    hands.type("plan.numbers.2", "160")
    hands.leave("plan.numbers.2")
    assert "100 %" in hands.wrong("plan.numbers.2")
    hands.type("plan.numbers.2", "75")
    hands.leave("plan.numbers.2")
    assert hands.words("plan.short") == ""
    hands.click("plan.queue")

    hands.click("plan.panel.queue")
    rows = hands.window.plan.queue_desk.rows()
    assert len(rows) == 17
    assert all(texts[3] == "planned" and texts[5] and texts[6] for _, texts in rows)
    table = hands.window.pages["plan"].queue.table
    table.selectRow(0)
    hands.click("plan.queue.soaking")
    assert hands.window.plan.queue_desk.rows()[0][1][3] == "planned, soaking"

    hands.click("plan.panel.cuts")
    target = tmp_path / "sheet.html"
    monkeypatch.setattr(
        "bruiser.ui.stations.plan.cuts.QFileDialog.getSaveFileName", lambda *_: (str(target), "")
    )
    hands.click("plan.cuts.sheet")
    sheet = target.read_text(encoding="utf-8")
    assert "Yard bench" in sheet
    assert all(sheet.count(e.specimen.code) >= 2 for e in hands.window.logbook.entries)
    hands.click("plan.cuts.cut")
    hands.click("plan.panel.queue")
    assert hands.words("plan.queue.counts") == "17 cut"
