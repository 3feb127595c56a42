"""Plan through the real window: a queue, its cuts, the sheet, the bench."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QPushButton


def test_from_ticks_to_a_queue_its_cuts_and_a_printed_sheet(hands, tmp_path, monkeypatch):
    hands.go("plan")
    window = hands.window
    page = window.pages["plan"]
    assert "5 wait in the queue" in page.subtitle.words
    for ticks, wanted in ((page.matrix.lots, "N6-K"), (page.matrix.knots, "Bowline")):
        rows = [ticks.list.item(n) for n in range(ticks.list.count())]
        next(r for r in rows if r.text() == wanted).setCheckState(Qt.CheckState.Checked)
    hands.type("plan.pulls", "x")
    hands.leave("plan.pulls")
    assert "whole number" in hands.wrong("plan.pulls")
    hands.type("plan.pulls", "4")
    hands.leave("plan.pulls")
    assert "4 specimens" in hands.words("plan.cost")
    cell = f"{window.plan.draft.lot_ids[0]}|{window.plan.draft.knot_ids[0]}"
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
    assert window.rail.waiting_at("pull") == "9 to pull"
    hands.click("plan.panel.cuts")
    hands.choose("plan.cuts.lot", "N6-K")
    assert "4 specimens from" in hands.words("plan.cuts.words")
    target = tmp_path / "sheet.html"
    monkeypatch.setattr(
        "bruiser.ui.stations.plan.view.QFileDialog.getSaveFileName", lambda *_: (str(target), "")
    )
    hands.click("plan.cuts.sheet")
    sheet = target.read_text(encoding="utf-8")
    codes = [c for h in window.plan.cut_hanks() for c, _ in h.cuts]
    assert len(codes) == 4
    assert all(sheet.count(code) >= 2 for code in codes)
    lot = next(x for x in window.journal.lots if x.name == "N6-K")
    before = window.journal.stock.on_hand_m(lot.id)
    used = window.plan.cuts.plan.used_up_m
    hands.click("plan.cuts.cut")
    assert window.journal.stock.on_hand_m(lot.id) == pytest.approx(before - used)
    hands.window.undo()
    assert window.journal.stock.on_hand_m(lot.id) == pytest.approx(before)


def test_the_queue_is_checked_on_a_bench_of_the_book(hands):
    hands.go("plan")
    hands.click("plan.panel.bench")
    assert "with the cautions below" in hands.words("plan.bench.verdict")
    assert len(hands.window.plan.bench.groups) == 4
    hands.click("plan.bench.page.book")
    hands.type("plan.bench.capacity", "5 mm")
    hands.click("plan.bench.store")
    assert "no unit" in hands.wrong("plan.bench.capacity")
    hands.type("plan.bench.capacity", "9 kN")
    hands.click("plan.bench.store")
    assert hands.window.journal.bench_book.benches[0].capacity_n == 9_000
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
