"""The knots station's sheets: small drawings, cues that point, wrong ties beside the right one."""

import tomllib

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton

from bruiser.catalogue import load_catalogue
from bruiser.catalogue.drawings import (
    WRONG,
    drawn,
    drawn_keys,
    offer_own,
    own_paths,
    recipe_texts,
    split_key,
)
from bruiser.core.topology.crossings import pointed_at
from bruiser.figures.display import Disc
from bruiser.ui.kit.two_lines import KEY
from bruiser.ui.stations.knots.presenter import KnotsPresenter
from bruiser.ui.stations.knots.view import KnotsView
from bruiser.workshop.logbook.live import read_logbook


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


OVERHAND = (
    "-7.5,-1.7 -4.6,-1.6 -2.6,-0.9 o -1.1,0.62 u 1.1,-0.55 o 2.7,1.0 3.1,2.6 2.0,4.0 0,4.5 "
    "-2.0,4.0 -3.1,2.6 -2.7,1.0 u -1.1,-0.55 o 1.1,0.62 u 2.6,-0.9 4.6,-1.6 7.5,-1.7"
)
ROWS = " ".join(f"{(k % 2) * 40},{k * 1.1}" for k in range(22))
COLUMNS = " ".join(f"{k * 1.7 + 1},{(k % 2) * 30 - 2}" for k in range(22))
FOUR_HUNDRED = f"[[ropes]]\nid = 'A'\npath = '{ROWS}'\n[[ropes]]\nid = 'B'\npath = '{COLUMNS}'"
UNLIKE = f"[[ropes]]\nid = 'A'\npath = '{OVERHAND}'\n[expect]\nA = 't^2-3t+1'"


@pytest.fixture
def preview(page, qtbot):
    page.sheets.pick("own")
    made = page.own.preview

    def typed(text):
        made.field.fill(text)
        qtbot.waitUntil(lambda: not made._wait.isActive())
        return made.words.text()

    return made, typed


def test_a_path_is_drawn_while_it_is_typed(preview):
    made, typed = preview
    assert "3 crossings" in typed(OVERHAND)
    assert made.view.isVisible()
    said = typed(OVERHAND.replace("o -1.1,0.62 u", "oo -1.1,0.62 u"))
    assert "rope A, from -2.6,-0.9 to -1.1,0.62" in said
    assert "crosses 1 times" in said
    assert made.view.isVisible(), "the last that could be read stays beside what is wrong"
    assert len(made.view.figure.rows) == 3
    assert "No drawing" in typed("")
    assert not made.view.isVisible()


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("-5,0 5,0", "no line crosses another"),
        ("-5,0 5,x", "is neither a point"),
        ("= nothing", "no recipe"),
        (UNLIKE, "expected to be t^2-3t+1, and it is t^2-t+1"),
        (FOUR_HUNDRED, "are the most that are read"),
    ],
)
def test_a_bad_path_is_named(preview, text, says):
    assert says in preview[1](text)


def test_a_rope_that_ends_inside_is_doubted(preview):
    said = preview[1](tomllib.loads(recipe_texts()["bowline"])["ropes"][0]["path"])
    assert "rope A ends inside" in said


def test_a_drawing_of_ones_own_is_kept_shown_and_taken_back(page, preview, workshop):
    preview[1](OVERHAND)
    presenter = page._presenter
    texts = page.own.form.texts() | {"names": "Ridge knot: general"}
    wrong = presenter.store_own(texts | {"drawing": "-5,0 5,0"}, adapt=False, anyway=True)
    assert "no line crosses" in wrong.errors["drawing"]
    assert presenter.store_own(texts, adapt=False, anyway=True).stored
    logbook = read_logbook(workshop)
    try:
        offer_own({k: s.drawing for k, s in logbook.catalogue.items() if s.drawing})
        presenter.take_up(logbook)
        presenter.show("ridge-knot")
        page.sheets.pick("know")
        assert page.know.drawing.view.isVisible()
        assert len(drawn("ridge-knot").layout.crossings) == 3
        assert presenter.own_texts()["drawing"] == OVERHAND
    finally:
        offer_own({})
    assert drawn("ridge-knot") is None
