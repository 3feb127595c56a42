"""Matrix, precision curves and cuts; and a figure as SVG."""

from xml.etree import ElementTree

import pytest
from tests.figures.test_cordage_figures import sound

from bruiser.figures.display import Box, Disc, Text
from bruiser.figures.plan_charts import (
    CutHank,
    MatrixRow,
    PlannedCell,
    PrecisionLine,
    cuts_figure,
    matrix_figure,
    precision_figure,
)
from bruiser.formats.cut_sheet import SheetHank, SheetLine, SheetLot, write_cut_sheet
from bruiser.formats.svg import write_svg
from bruiser.ui.theme.tokens import CHALK, TEXT

SIZES = {name: (t.pixels / 3.8, t.weight) for name, t in TEXT.items()}
HANKS = [
    CutHank(
        key="a",
        label="A & B",
        before_m=10.0,
        cuts=(("S-001", 4.0), ("S-002", 1.0)),
        left_m=5.0,
        kept=True,
        words="5.00 m left",
    ),
    CutHank(
        key="b",
        label="C",
        before_m=4.0,
        cuts=(("S-003", 3.8),),
        left_m=0.2,
        kept=False,
        words="0.20 m lost",
    ),
]


@pytest.mark.parametrize(("lots", "knots"), [(1, 1), (6, 8), (3, 30)])
def test_every_cell_of_the_matrix_can_be_tapped(lots, knots):
    rows = [
        MatrixRow(
            f"knot {k}",
            tuple(PlannedCell(key=f"{n}|{k}", done=k, added=n, off=n == 1) for n in range(lots)),
        )
        for k in range(knots)
    ]
    figure = matrix_figure(tuple(f"lot {n}" for n in range(lots)), rows, 190, 90, "0|0")
    sound(figure)
    assert len(figure.spots) == lots * knots


def test_the_planned_number_is_marked_on_both_curves():
    lines = [
        PrecisionLine("one knot", tuple((n, 0.3 / n) for n in range(2, 21)), "storm"),
        PrecisionLine("both ends", tuple((n, 0.29 / n) for n in range(2, 21)), "plum"),
    ]
    figure = precision_figure(lines, 190, 60, planned=5)
    sound(figure)

    assert sum(isinstance(s, Disc) for s in figure.shapes) == 2
    assert ("one knot", "5", "6.00") in figure.rows
    sound(precision_figure([], 190, 60))


def test_cuts_lie_along_the_hank_to_scale():
    figure = cuts_figure(HANKS, 190)
    sound(figure)
    pieces = [s for s in figure.shapes if isinstance(s, Box) and s.fill == "hemp"]
    assert pieces[0].width == pytest.approx(4 * pieces[1].width)
    assert pieces[1].x == pytest.approx(pieces[0].x + pieces[0].width)
    assert [r[1] for r in figure.rows] == ["S-001", "S-002", "S-003"]
    lost = [s for s in figure.shapes if isinstance(s, Box) and s.fill == "ochre-wash"]
    assert len(lost) == 1


@pytest.mark.parametrize("pitch", [9.0, 15.0])
def test_narrow_cuts_keep_their_codes_in_two_rows(pitch):
    cuts = tuple((f"S-{n:03d}", 1.0) for n in range(20))
    figure = cuts_figure(
        [
            CutHank(
                key="a",
                label="A",
                before_m=22.0,
                cuts=cuts,
                left_m=2.0,
                kept=True,
                words="2.00 m left",
            )
        ],
        180,
        pitch,
    )
    sound(figure)
    words = [s for s in figure.shapes if isinstance(s, Text) and s.text.isdigit()]
    assert len(words) == 20
    assert len({s.y for s in words}) == (2 if pitch > 13 else 1)


def test_a_figure_becomes_sound_svg():
    text = write_svg(cuts_figure(HANKS, 180), CHALK, SIZES)
    root = ElementTree.fromstring(text)
    space = "{http://www.w3.org/2000/svg}"
    assert root.get("width") == "180.00mm"
    words = [e.text for e in root.iter(f"{space}text")]
    assert "A & B" in words
    assert len(list(root.iter(f"{space}rect"))) == 5
    lines = write_svg(precision_figure([], 100, 50), CHALK, SIZES)
    assert "polyline" in lines or "text" in lines


def test_the_cut_sheet_lists_every_cut_with_a_box_and_a_label():
    lines = (
        SheetLine(code="S-001", title="Bowline <both>", length="1.66 m", tails="tails 112 mm"),
        SheetLine(code="S-002", title="Plain rope, baseline", length="2.31 m", tails=""),
    )
    hank = SheetHank(label="P8/1", before="20.00 m", after="16.03 m left", lines=lines)
    lot = SheetLot(
        name="P8",
        about="2 specimens",
        picture=write_svg(cuts_figure(HANKS, 180), CHALK, SIZES),
        hanks=(hank,),
    )
    page = write_cut_sheet("Ridge & mast", "2026-03-02", "Bench <1>, 17 °C", (lot,), CHALK)
    assert page.count('class="box"') == 2
    assert page.count('class="label"') == 2
    assert page.count("S-001") >= 2
    assert "Bowline &lt;both&gt;" in page
    assert "Ridge &amp; mast" in page
    assert "Bench &lt;1&gt;, 17 °C" in page
    assert "<svg" in page
