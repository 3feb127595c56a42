"""Fields, forms, chips and lists of the kit."""

import pytest
from PyQt6.QtCore import QEvent, Qt
from PyQt6.QtGui import QFocusEvent
from PyQt6.QtWidgets import QApplication

from bruiser.core.choice.criteria import Measure
from bruiser.ui.kit.fields import Chips, ChoiceField, Field, Form, LongField, Ticks
from bruiser.ui.kit.parts import Words
from bruiser.ui.kit.scrolled import Scrolled
from bruiser.ui.kit.two_lines import TwoLineList


@pytest.fixture
def shown(dressed, qtbot):
    def show(widget):
        qtbot.addWidget(widget)
        widget.resize(400, 200)
        widget.show()
        return widget

    return show


def test_a_choice_keeps_what_was_chosen_while_others_are_offered(shown, qtbot):
    choice = shown(ChoiceField("Knot", "c", [("a", "Ay"), ("b", "Bee")]))
    choice.fill("b")
    choice.offer([("x", "Ex"), ("b", "Bee")])
    assert choice.text == "b"
    choice.offer([("x", "Ex")])
    assert choice.text == "x"
    choice.offer({Measure.OPENS: "opens", Measure.CYCLES: "cycles"})
    choice.fill(Measure.CYCLES)
    assert choice.text == "cycles survived"
    choice.fill("opens without a tool")
    assert choice.text == Measure.OPENS
    choice.offer([("x", "Ex")])
    choice.fill("gone")
    assert choice.text == "x"
    with qtbot.assertNotEmitted(choice.chosen):
        choice.fill("x")
    with qtbot.waitSignal(choice.chosen):
        choice.pick("x")
    choice.offer([])
    assert choice.text == ""


def test_a_form_is_filled_read_and_complained_about(shown):
    name, kind, more = (
        Field("Name", "n"),
        ChoiceField("Kind", "k", {"a": "Ay"}),
        LongField("M", "m"),
    )
    form = Form({"name": name, "kind": kind, "more": more})
    for field in (name, kind, more):
        shown(field)
    form.fill({"name": "P8", "more": "two\nlines"})
    assert form.texts() == {"name": "P8", "kind": "a", "more": "two\nlines"}
    form.complain({"name": "Taken."}, {"kind": "Odd."})
    assert (name.complaint, kind.complaint, more.complaint) == ("Taken.", "Odd.", "")
    assert name.entry.property("wrong") == "true"
    assert kind.box.property("wrong") == "odd"
    form.complain({})
    assert name.complaint == ""
    assert name.entry.property("wrong") == "false"


def test_ticks_tell_what_is_ticked(shown):
    ticks = shown(Ticks("Lots", "t"))
    ticks.offer([("a", "Ay"), ("b", "Bee"), ("c", "Sea")], ("b",))
    assert ticks.keys == ("b",)
    ticks.list.item(2).setCheckState(Qt.CheckState.Checked)
    assert ticks.keys == ("b", "c")
    assert ticks.text == "b c"


def test_one_chip_is_chosen_at_a_time(shown, qtbot):
    chips = shown(Chips("p", {"a": "Ay", "b": "Bee"}))
    assert chips.key == "a"
    with qtbot.waitSignal(chips.chosen) as said:
        qtbot.mouseClick(chips.chip("b"), Qt.MouseButton.LeftButton)
    assert said.args == ["b"]
    assert (chips.chip("a").isChecked(), chips.chip("b").isChecked()) == (False, True)


def test_tab_leaves_a_long_field_and_leaving_is_said(shown, qtbot):
    field = shown(LongField("More", "m"))
    assert field.entry.tabChangesFocus()
    with qtbot.waitSignal(field.entry.left):
        QApplication.sendEvent(field.entry, QFocusEvent(QEvent.Type.FocusOut))


def test_a_list_of_two_lines_offers_and_selects_silently(shown, qtbot):
    rows = [("a", "Alpine", "also this", "in play"), ("b", "Bowline", "bulin", "")]
    made = shown(TwoLineList("l", "Knots"))
    with qtbot.assertNotEmitted(made.currentItemChanged):
        made.offer(rows, "b")
        made.select("a")
    assert made.keys() == ["a", "b"]
    assert made.currentRow() == 0
    assert not made.grab().isNull()


def test_a_scrolled_column_replaces_what_it_holds(shown):
    column = shown(Scrolled("s"))
    column.replace([Words("one"), Words("two")])
    column.replace([Words("three")])
    words = [w.words for w in column.widget().findChildren(Words) if w.parent() is not None]
    assert words == ["three"]
