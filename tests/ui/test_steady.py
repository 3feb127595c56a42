"""A wheel, and pages made late: neither changes or loses what was said."""

import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtWidgets import QAbstractSlider, QApplication, QComboBox, QLabel, QLineEdit
from tests.specimens import patient_bench

from bruiser.app.stations import STATIONS
from bruiser.app.window import MainWindow
from bruiser.ui.kit.shown_stack import ShownStack
from bruiser.ui.kit.steady import ChoiceBox, SteadySlider
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.workshop import open_workshop


def turn_wheel_over(widget):
    at = QPointF(widget.rect().center())
    event = QWheelEvent(
        at,
        widget.mapToGlobal(at),
        QPoint(0, -120),
        QPoint(0, -120),
        Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    QApplication.sendEvent(widget, event)


@pytest.fixture
def window(dressed, qtbot, demo_file):
    made = MainWindow(open_workshop(demo_file), patient_bench(25.0))
    qtbot.addWidget(made, before_close_func=lambda w: w.pull.abandon())
    made.show()
    yield made
    made.close()


@pytest.mark.parametrize("focused", [False, True])
def test_a_wheel_changes_no_list_and_no_slider(qtbot, focused):
    box, slider = ChoiceBox(), SteadySlider()
    for widget in (box, slider):
        qtbot.addWidget(widget)
        widget.show()
        if focused:
            widget.setFocus()
    box.addItems(["kN", "lbf"])
    turn_wheel_over(box)
    turn_wheel_over(slider)
    assert (box.currentIndex(), slider.value()) == (0, 0)


def test_every_list_and_slider_of_the_stations_is_steady(qtbot, window):
    for station in STATIONS:
        window.go_to(station.key)
        page = window.pages[station.key]
        kinds = [*page.findChildren(QComboBox), *page.findChildren(QAbstractSlider)]
        for widget in kinds:
            if widget.isVisible() and not widget.inherits("QScrollBar"):
                before = widget.property("value"), widget.property("currentIndex")
                turn_wheel_over(widget)
                assert before == (widget.property("value"), widget.property("currentIndex"))


def shown_on(page):
    """Every word that is to be seen, and what fields hold."""
    labels = [w.text() for w in page.findChildren(QLabel) if w.isVisible()]
    fields = [w.text() for w in page.findChildren(QLineEdit) if w.isVisible()]
    lists = [w.currentText() for w in page.findChildren(QComboBox) if w.isVisible()]
    return labels, fields, lists


@pytest.mark.parametrize("key", [s.key for s in STATIONS])
def test_a_page_made_after_its_desk_shows_the_same(qtbot, window, key):
    window.desk(key).take_up(window.logbook)
    window._stale.discard(key)
    window.go_to(key)
    qtbot.waitUntil(lambda: not window.tasks.busy)
    qtbot.wait(20)
    late = shown_on(window.pages[key])
    window.refresh()
    qtbot.waitUntil(lambda: not window.tasks.busy)
    qtbot.wait(20)
    for was, now in zip(late, shown_on(window.pages[key]), strict=True):
        assert was == now


def test_a_finding_opened_from_the_logbook_is_there_whole(qtbot, window):
    found = next(e for e in window.logbook.at(Stage.INSPECTED) if e.finding.place)
    window._open_finding(found.pull.id)
    page = window.pages["findings"]
    assert found.specimen.code in page.title.words
    assert page.peak.text
    assert page.strip.state.place == found.finding.place


def test_a_page_that_is_hidden_asks_for_no_room(qtbot):
    stack, low, tall = ShownStack(), QLabel("one"), QLabel("two")
    tall.setMinimumHeight(900)
    for page in (low, tall):
        stack.addWidget(page)
    qtbot.addWidget(stack)
    assert stack.minimumSizeHint().height() < 100
    stack.setCurrentWidget(tall)
    assert stack.minimumSizeHint() == tall.minimumSizeHint()


@pytest.mark.parametrize("key", [s.key for s in STATIONS])
def test_a_station_fits_the_smallest_window_at_every_moment_of_being_worked_out(
    qtbot, window, key, qapp
):
    window.resize(1024, 700)
    window.go_to(key)
    page = window.pages[key]
    tallest, moments = 0, 0
    while window.tasks.busy or moments < 20:
        qapp.processEvents()
        tallest = max(tallest, page.minimumSizeHint().height())
        moments += 1
    assert tallest <= 700
