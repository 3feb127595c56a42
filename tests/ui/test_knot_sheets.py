"""The knots station's sheets: small drawings, cues that point, wrong ties beside the right one."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton

from bruiser.catalogue import load_catalogue
from bruiser.catalogue.drawings import WRONG, drawn, drawn_keys, own_paths, split_key
from bruiser.core.topology.crossings import pointed_at
from bruiser.figures.display import Disc
from bruiser.ui.kit.two_lines import KEY
from bruiser.ui.stations.knots.presenter import KnotsPresenter
from bruiser.ui.stations.knots.view import KnotsView
from bruiser.workshop.logbook.entries import read_logbook


@pytest.fixture
def page(workshop, dressed, qtbot):
    presenter = KnotsPresenter(workshop)
    made = KnotsView(presenter)
    qtbot.addWidget(made)
    made.resize(1080, 760)
    presenter.take_up(read_logbook(workshop))
    made.show()
    qtbot.waitExposed(made)
    return made


def rings(view):
    return sum(isinstance(s, Disc) and s.stroke == "brick" for s in view.figure.shapes)


def test_the_shelf_as_drawings_shows_what_was_found_and_opens_what_is_picked(page, qtbot):
    page.as_sheet.click()
    sheet = page.drawings
    assert sheet.isVisible()
    assert not page.sheets.chip("know").isChecked()
    assert sheet.count() == len(load_catalogue())
    page.search.entry.setText("grapevine")
    assert [sheet.item(n).data(KEY) for n in range(sheet.count())] == page.found.keys()
    page.search.entry.clear()
    blank = sheet.grab().toImage()
    qtbot.waitUntil(lambda: sheet.grab().toImage() != blank, timeout=5_000)
    sheet.setFocus()
    sheet.setCurrentRow(0)
    QTest.keyClick(sheet, Qt.Key.Key_Right)
    assert page.title.text() == sheet.item(1).text()
    QTest.keyClick(sheet, Qt.Key.Key_Return)
    qtbot.waitUntil(page.know.isVisible)
    assert not page.as_sheet.isChecked()
    page.as_sheet.click()
    page.as_sheet.click()
    assert page.know.isVisible()


def test_a_cue_rings_what_it_speaks_of_on_its_own_face(page):
    page._presenter.show("sheet-bend")
    panel = page.know.drawing
    back = page.findChild(QPushButton, "knots.where.back")
    back.click()
    assert panel.face.key == "back"
    assert rings(panel.view) == len(pointed_at(drawn("sheet-bend").layout, "back")) == 2
    back.click()
    assert rings(panel.view) == 0
    page._presenter.show("boa")
    assert page.findChild(QPushButton, "knots.where.front") is None


def test_every_cue_points_at_a_crossing_of_ropes():
    pointing = 0
    for key in drawn_keys():
        layout = drawn(key).layout
        hosts = {h.key for h in layout.recipe.hosts}
        for face in layout.recipe.cues:
            for n in pointed_at(layout, face):
                pointing += 1
                assert not hosts & {layout.crossings[n].over.line, layout.crossings[n].under.line}
    assert pointing > 80


def test_a_wrong_tie_stands_beside_the_right_one_with_what_differs_ringed(page):
    page._presenter.show("double-fishermans")
    wrong = f"double-fishermans@{WRONG}=1"
    page.findChild(QPushButton, f"knots.beside.{wrong}").click()
    assert page.beside.isVisible()
    one, two = (panel.view for panel in page.beside.drawings)
    assert rings(one) == rings(two) > 3
    assert page.beside.other.text == wrong
    assert any("other hand" in p.right for p in page._presenter.pairs())


def test_a_false_finish_is_offered_beside_the_true_one(page):
    page._presenter.show("taut-line-hitch")
    assert ("taut-line-hitch@finish=cow") in [k for k, _ in page._presenter.others()]
    page._on_compare("taut-line-hitch@finish=cow")
    assert page.beside.drawings[1].view.isVisible()
    assert page._presenter.pairs()[0].right == "Taut-line hitch, cow-type finish (wrong)"


def test_what_follows_from_a_path_is_said_to_be_computed(page):
    page._presenter.show("bowline")
    assert "needs an end: yes (computed)" in page.know.facts.text()
    page._presenter.show("boa")
    assert "computed" not in page.know.facts.text()


def test_paths_of_wrong_ties_belong_to_one_that_is_told():
    for key in drawn_keys():
        for path in own_paths(key):
            base, choices = split_key(path)
            if WRONG in choices:
                assert int(choices[WRONG]) <= len(load_catalogue()[base].mis_ties)
