"""Reading a form field by field."""

import pytest

from bruiser.workshop.desk.form_texts import Typed


@pytest.mark.parametrize(
    ("text", "value", "complaint"),
    [
        ("12", 0.012, ""),
        ("1/2 in", 0.0127, ""),
        ("", None, ""),
        ("0", None, "above zero"),
        ("-3", None, "negative"),
        ("x", None, "no number"),
        ("3 kg", None, "no unit"),
    ],
)
def test_a_quantity(text, value, complaint):
    typed = Typed({"d": text})
    found = typed.quantity("d", "length", "mm")
    assert found == (None if value is None else pytest.approx(value))
    assert complaint in typed.errors.get("d", "")
    assert bool(typed.errors) is bool(complaint)


@pytest.mark.parametrize(
    ("text", "value", "complaint"),
    [
        ("3", 3, ""),
        (" 12 ", 12, ""),
        ("0", None, "from 1 to 50"),
        ("51", None, "from 1 to 50"),
        ("2.5", None, "whole number"),
        ("-1", None, "whole number"),
        ("", None, "How many?"),
    ],
)
def test_a_whole_number(text, value, complaint):
    typed = Typed({"n": text})
    assert typed.whole("n", most=50, missing="How many?") == value
    assert complaint in typed.errors.get("n", "")


@pytest.mark.parametrize(
    ("text", "value", "complaint"),
    [
        ("10", 10.0, ""),
        ("8,5", 8.5, ""),
        ("1e2", 100.0, ""),
        ("0.5", None, "1 or more"),
        ("10 kN", None, "no unit|plain number"),
        ("10 m", None, "plain number"),
    ],
)
def test_a_plain_number_has_no_unit(text, value, complaint):
    typed = Typed({"f": text})
    assert typed.number("f", least=1.0) == value
    said = typed.errors.get("f", "")
    assert any(part in said for part in complaint.split("|"))


def test_a_share_and_a_text():
    typed = Typed({"a": "60 %", "b": "130", "c": "  words ", "d": ""})
    assert typed.share("a") == pytest.approx(0.6)
    assert typed.share("b") is None
    assert typed.share("b", maximum=None) == pytest.approx(1.3)
    assert typed.text("c") == "words"
    assert typed.text("d", "Say something.") == ""
    assert typed.errors["d"] == "Say something."
    assert typed.text("not there") == ""


def test_names_are_as_long_as_a_line_and_notes_as_a_page():
    typed = Typed({"name": "x" * 121, "history": "y" * 10_001, "note": "z" * 10_000})
    for name in ("name", "history", "note"):
        typed.text(name)
    assert typed.errors == {
        "name": "At most 120 characters; this has 121.",
        "history": "At most 10000 characters; this has 10001.",
    }
