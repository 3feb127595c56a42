"""Names that somebody typed are shown as they are, and leave nothing live in what is exported."""

import io

import pytest
from PIL import Image

from bruiser.core.errors import InputError
from bruiser.figures.display import Figure
from bruiser.formats.figure_files import figure_csv, figure_tsv
from bruiser.formats.photo import take_in
from bruiser.ui.kit.parts import Words
from bruiser.workshop.desk.form_texts import Typed

NAME = "<b>N6</b><img src=x>"


def test_a_label_shows_a_name_as_it_was_typed(dressed, qtbot):
    words = Words(NAME)
    plain = Words("x" * len(NAME))
    for made in (words, plain):
        qtbot.addWidget(made)
        made.setWordWrap(False)
    assert words.words == NAME
    assert words.sizeHint().width() > 0.6 * plain.sizeHint().width(), "no mark-up was taken out"


def test_a_chart_leaves_no_formula_in_a_table_or_on_the_clipboard():
    figure = Figure(
        width=10,
        height=10,
        shapes=(),
        title="t",
        header=("name", "@x"),
        rows=(("=1+1", "a\tb\nc"),),
    )
    assert figure_csv(figure).splitlines()[0] == "name,'@x"
    assert figure_csv(figure).splitlines()[1].startswith("'=1+1")
    assert figure_tsv(figure).split("\n") == ["name\t'@x", "'=1+1\ta b c"]


@pytest.mark.parametrize("text", ["²", "1²", "Ⅷ", "½", "-1", "1.5", ""])
def test_what_is_no_whole_number_is_refused_in_words(text):
    typed = Typed({"n": text})
    assert typed.whole("n", missing="How many?") is None
    assert typed.errors["n"]


def picture(width, height, kind="PNG"):
    out = io.BytesIO()
    Image.new("1" if kind == "PNG" else "RGB", (width, height)).save(out, kind)
    return out.getvalue()


def test_a_picture_of_too_many_pixels_is_refused_before_it_is_unpacked():
    with pytest.raises(InputError, match="64 million pixels"):
        take_in(picture(13_000, 13_000))
    assert take_in(picture(400, 300)).width == 400


@pytest.mark.parametrize(
    "raw",
    [b"", b"DDS " + b"\x00" * 200, b"\x89PNG\r\n\x1a\n" + b"\xff" * 60, b"BM" + b"\x00" * 40,
     picture(8, 8, "JPEG")[:120], picture(8, 8, "ICO") if "ICO" in Image.SAVE else b"x"],
)  # fmt: skip
def test_what_is_no_picture_is_refused_in_words(raw):
    with pytest.raises(InputError, match="no picture"):
        take_in(raw)
