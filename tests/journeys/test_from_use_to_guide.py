"""From what it is for to a printed guide, through the real window, as far as the PDF's own text."""

import re

import pypdfium2
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QFileDialog, QLineEdit, QPushButton, QTableView, QWidget

from bruiser.core.choice.guide import Guide
from bruiser.core.choice.rating import Rating
from bruiser.core.json_records import read_record
from bruiser.ui.kit.trace_bench import TraceBench
from bruiser.workshop.guide.book import read_guide_book


@pytest.fixture
def guide(hands):
    hands.go("guide")
    return hands


def listed(hands):
    return [one.rated.name for one in hands.window.guide.choice.listed]


def board(hands):
    return hands.find(QWidget, "guide.board").figure


def tick(hands, name, words):
    """Ticks the row that begins so, with the mouse."""
    rows = hands.find(QWidget, name)
    item = next(rows.item(n) for n in range(rows.count()) if rows.item(n).text().startswith(words))
    rows.scrollToItem(item)
    box = rows.visualItemRect(item)
    spot = box.center()
    spot.setX(box.left() + 14)
    hands.qtbot.mouseClick(rows.viewport(), Qt.MouseButton.LeftButton, pos=spot)
    assert item.checkState() is Qt.CheckState.Checked


def write(hands, monkeypatch, kind, path):
    """Writes a file through the menu; the desktop's file dialog is answered."""
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), ""))
    hands.find(QAction, f"guide.export.{kind}").trigger()
    hands.settle()
    assert path.exists(), hands.words("guide.notice")


def test_from_the_use_to_the_printed_guide(guide, tmp_path, monkeypatch):
    hands = guide
    hands.choose("guide.for", "Line joined for good")
    hands.choose("guide.in", "P8-B, new")
    assert listed(hands) == ["Grapevine bend", "Zeppelin bend"]
    rows = {row[1]: row for row in board(hands).rows}
    assert "excluded: came out 4 of 4" in rows["Sheet bend"][-1]
    key = hands.window.guide.choice.listed[0].rated.key

    # Two clicks to the pulls: a gauge, then a pull.
    hands.tap("guide.board", f"gauge:{key}:{Rating.STRENGTH}")
    assert hands.words("guide.behind.heading") == "Grapevine bend, strength kept"
    table = hands.find(QTableView, "guide.pulls")
    first = table.visualRect(table.model().index(0, 0)).center()
    code = hands.window.guide.pulls()[0][1][0]
    hands.qtbot.mouseClick(table.viewport(), Qt.MouseButton.LeftButton, pos=first)
    bench = hands.window.findChild(TraceBench)
    assert bench is not None
    assert code in bench.windowTitle()
    bench.close()
    hands.settle()
    assert hands.window.station == "guide"

    # Side by side, and how sure the order is.
    hands.tap("guide.board", f"row:{key}")
    hands.click("guide.beside.put")
    hands.click("guide.part.beside")
    assert hands.find(QPushButton, "guide.beside.pulls.0").isVisible()
    hands.click("guide.part.rank")
    chances = hands.find(QWidget, "guide.chances").figure.rows
    assert [float(c) for c in chances[0][1:3]] == pytest.approx(
        hands.window.guide.choice.listed[0].ranked.chances, abs=1e-4
    )
    assert sum(float(c) for c in chances[0][1:3]) == pytest.approx(1, abs=1e-3)

    # Freeze, check, release.
    hands.click("guide.part.publish")
    tick(hands, "guide.uses", "Line joined for good")
    tick(hands, "guide.lots", "P8-B, new")
    hands.type("guide.scope", "Lines of the winch")
    hands.click("guide.make")
    assert not hands.find(QPushButton, "guide.release").isEnabled()
    hands.type("guide.initials", "OQ")
    hands.click("guide.check")
    hands.find(QPushButton, "guide.release").click()
    hands.qtbot.waitUntil(lambda: not hands.window.tasks.busy, timeout=120_000)
    assert "is released" in hands.words("guide.notice")
    assert hands.find(QWidget, "guide.pages").isVisible()
    assert hands.words("guide.pages.at").startswith("page 1 of ")
    hands.click("guide.pages.on")
    assert hands.words("guide.pages.at").startswith("page 2 of ")

    # What is printed is what was seen.
    write(hands, monkeypatch, "pdf", tmp_path / "guide.pdf")
    write(hands, monkeypatch, "json", tmp_path / "guide.json")
    document = pypdfium2.PdfDocument((tmp_path / "guide.pdf").read_bytes())
    whole = " ".join(page.get_textpage().get_text_range() for page in document)
    whole = re.sub(r"\s+", " ", whole)
    for words in ("Lines of the winch", "Grapevine bend", "Zeppelin bend", "came out 4 of 4", "OQ"):
        assert words in whole
    assert "not checked, not released" not in whole
    kept = read_record(Guide, (tmp_path / "guide.json").read_text(encoding="utf-8"))
    assert kept.state == "released"
    assert [r.name for r in kept.uses[0].lists[0].rows] == ["Grapevine bend", "Zeppelin bend"]
    before = (tmp_path / "guide.pdf").read_bytes()

    # A pull is left out afterwards: the guide stays, and the next revision says what moved.
    hands.go("results")
    hands.choose("results.lot", "P8-B, new")
    hands.window.results.select(kept_pull(hands, "Grapevine bend"))
    hands.click("results.exclude")
    hands.qtbot.keyClicks(hands.find(QLineEdit, "results.exclude.reason"), "tail cut short")
    hands.leave("results.exclude.reason")
    hands.settle()
    hands.go("guide")
    hands.settle()
    write(hands, monkeypatch, "pdf", tmp_path / "again.pdf")
    assert (tmp_path / "again.pdf").read_bytes() == before
    hands.click("guide.make")
    said = hands.window.pages["guide"].publishing.changes_words()
    assert "Since revision 1: 1 fewer pull counts." in said
    book = read_guide_book(hands.window.workshop)
    assert [r.state for r in book.revisions] == ["released", "draft"]
    assert book.revisions[0].row.data_revision != book.revisions[1].row.data_revision


def kept_pull(hands, knot):
    """A pull of that knot that counts."""
    row = next(r for r in hands.window.results.found.rows if r.name == knot)
    return next(m.pull_id for m in row.marks if not m.left_out)


def test_a_use_with_gloves_leads_to_another_list_and_back(guide):
    hands = guide
    hands.choose("guide.for", "Tether loop")
    hands.choose("guide.in", "P8-B, new")
    bare = listed(hands)
    hands.click("guide.ask.gloves")
    assert listed(hands) != bare
    turned = {t.name: t.words for t in hands.window.guide.choice.not_ranked}
    assert any("with gloves" in words for words in turned.values()) or listed(hands)
    hands.click("guide.ask.gloves")
    assert listed(hands) == bare
    hands.choose("guide.in", "K10-H")
    assert "no numbers are given" in hands.words("guide.empty")
    hands.choose("guide.in", "N6-K")
    assert "Bowline" in {t.name for t in hands.window.guide.choice.excluded}


def test_every_chart_of_the_guide_is_a_table_and_a_file(guide, tmp_path):
    hands = guide
    view = hands.window.pages["guide"]
    hands.click("guide.board.table")
    assert view.choosing.chart.table.isVisible()
    hands.click("guide.board.table")
    for part, frame in (
        ("choose", view.choosing.chart),
        ("rank", view.ranking.chances),
        ("rank", view.ranking.parts),
        ("rank", view.ranking.lines),
    ):
        hands.click(f"guide.part.{part}")
        for suffix in (".svg", ".png", ".csv"):
            path = tmp_path / f"{frame.view.objectName()}{suffix}"
            frame.save(path)
            assert path.stat().st_size > 100


def test_the_keyboard_chooses_a_knot_and_its_gauge(guide):
    hands = guide
    figure = hands.find(QWidget, "guide.board")
    figure.setFocus()
    hands.qtbot.keyClick(figure, Qt.Key.Key_Right)
    hands.qtbot.keyClick(figure, Qt.Key.Key_Return)
    hands.settle()
    assert hands.words("guide.behind.heading") != "Nothing pointed at yet"
    assert hands.window.guide.chosen
