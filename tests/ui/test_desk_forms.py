"""The inline forms of the desk stations: opened, left, complained about, reached by keyboard."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QListWidget, QPlainTextEdit, QPushButton, QTableWidget

from bruiser.app.window import MainWindow
from bruiser.core.choice.brief import pattern_of
from bruiser.core.choice.criteria import Measure
from bruiser.core.performance.claims import ClaimKind
from bruiser.workshop.logbook.workshop import open_workshop


@pytest.fixture
def window(dressed, qtbot, usual_file):
    made = MainWindow(open_workshop(usual_file))
    qtbot.addWidget(made)
    made.resize(1280, 800)
    made.show()
    yield made
    made.close()


def test_a_form_takes_the_place_of_its_list_and_gives_it_back(window, qtbot):
    window.go_to("brief")
    page = window.pages["brief"]
    for rows in (page.criteria, page.claims):
        assert rows.stack.currentWidget() is rows.list
        qtbot.mouseClick(rows.add, Qt.MouseButton.LeftButton)
        assert rows.stack.currentWidget() is rows.form
        assert not rows.add.isVisible()
        qtbot.mouseClick(rows.form.cancel, Qt.MouseButton.LeftButton)
        assert rows.stack.currentWidget() is rows.list
        assert rows.add.isVisible()
    assert len(window.brief.claims()) == 3


@pytest.mark.parametrize("measure", Measure)
def test_a_threshold_is_asked_for_only_where_there_is_one(window, measure):
    window.go_to("brief")
    page = window.pages["brief"]
    page.criteria.add.click()
    form = page.criterion_form
    form.measure.pick(measure.value)
    assert form.threshold.isVisible() is (measure is not Measure.OPENS)
    if form.threshold.isVisible():
        assert form.threshold.label.words == form.threshold.entry.accessibleName()


@pytest.mark.parametrize("kind", ClaimKind)
def test_a_claims_form_shows_the_gaps_of_its_pattern(window, kind):
    window.go_to("brief")
    page = window.pages["brief"]
    page.claims.add.click()
    form = page.claim_form
    form.kind.pick(kind.value)
    shown = {name for name, field in form.gaps.items() if field.isVisible()}
    assert shown == set(pattern_of(kind).gaps)
    if "share" in shown:
        assert "Type P" in form.deciders.words
        form.share.fill("7")
    assert form.deciders.words.startswith("Supported by: ")
    assert "Contradicted by: " in form.deciders.words


def test_changing_a_criterion_fills_the_form_with_its_wording(window):
    window.go_to("brief")
    page, row = window.pages["brief"], window.brief.criteria()[1]
    window.findChild(QPushButton, f"brief.criterion.change.{row.criterion.id}").click()
    texts = page.criterion_form.form.texts()
    assert texts["measure"] == Measure.BREAKS_AT_KNOT
    assert (texts["threshold"], texts["need"], texts["of"]) == ("55 %", "3", "4")
    assert page.criterion_form.knots.keys == row.criterion.knot_ids
    assert page.criterion_form.lots.keys == row.criterion.lot_ids


def test_a_new_lot_has_an_empty_form_and_no_other_pages(window, qtbot):
    window.go_to("cordage")
    page = window.pages["cordage"]
    page.new.click()
    assert {k: v for k, v in page.facts.form.texts().items() if v} == {
        "diameter_means": "nominal",
        "rating_means": "unknown",
    }
    assert not page.panels.chip("stock").isEnabled()
    assert not page.facts.archive.isVisible()
    page.facts.store.click()
    wrong = {n for n, f in page.facts.form.fields.items() if f.complaint}
    assert wrong == {"name", "material", "construction", "condition", "diameter"}
    window.cordage.show_lot(window.logbook.lots[0].id)
    qtbot.waitUntil(lambda: not window.tasks.busy)
    assert page.panels.chip("stock").isEnabled()
    assert not any(f.complaint for f in page.facts.form.fields.values())


def test_lists_and_long_fields_have_names_too(window):
    for key in ("brief", "cordage", "knots", "plan"):
        window.go_to(key)
        for kind in (QPlainTextEdit, QListWidget, QTableWidget):
            for widget in window.pages[key].findChildren(kind):
                assert widget.accessibleName(), (key, widget.objectName())


def test_nothing_of_a_station_is_cut_off_at_its_right_edge(window, qtbot):
    for size in ((1280, 800), (1024, 700)):
        window.resize(*size)
        for key in ("brief", "cordage", "knots", "plan"):
            window.go_to(key)
            qtbot.wait(10)
            page = window.pages[key]
            for button in page.findChildren(QPushButton):
                if button.isVisibleTo(page) and button.isVisible():
                    right = button.mapTo(page, button.rect().topRight()).x()
                    assert right <= page.width(), (size, key, button.objectName())


def test_the_lots_form_follows_an_undo_and_the_units(window, qtbot):
    window.go_to("cordage")
    page = window.pages["cordage"]
    fields = page.facts.form.fields
    before = fields["age"].text
    fields["age"].fill("very old")
    page.facts.store.click()
    window.undo()
    assert fields["age"].text == before
    fields["history"].fill("typed, not stored")
    window.cordage.cut("nobody", "nothing")
    window.refresh()
    assert fields["history"].text == "typed, not stored"
    window.brief.change(force_unit="lbf")
    assert fields["rating"].text.endswith("lbf")
    qtbot.waitUntil(lambda: not window.tasks.busy)
