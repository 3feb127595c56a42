"""The charts of Results: what they show stands where it belongs, and the same as a table."""

import csv
import io
from xml.etree import ElementTree

import pytest
from tests.figures.test_cordage_figures import sound
from tests.figures.test_plan_charts import SIZES

from bruiser.core.records.records import JamLevel, Outcome
from bruiser.figures.claim_chart import ClaimRow, claim_figure
from bruiser.figures.display import Box, Disc, Line, Text
from bruiser.figures.drift_chart import DriftChart, DriftMark, drift_figure
from bruiser.figures.frame import ChartAxis, Frame, in_percent
from bruiser.figures.jam_charts import (
    JamCurve,
    JamLine,
    JamMark,
    jam_curve_figure,
    jam_ladder,
    level_shapes,
)
from bruiser.figures.ladder import (
    Ladder,
    LadderAxis,
    LadderMark,
    ladder_figure,
    ladder_row,
    share_axis,
)
from bruiser.figures.pull_marks import mark_shapes
from bruiser.figures.rungs import CordageCell, Rung, Rungs, matrix_figure, rungs_figure
from bruiser.figures.slip_charts import (
    CriterionCell,
    DrawChart,
    DrawEnd,
    DrawLine,
    SecurityRow,
    SurvivalCurve,
    draw_figure,
    security_figure,
    survival_figure,
)
from bruiser.figures.wrap_chart import WrapBound, WrapChart, WrapPoint, wrap_figure
from bruiser.formats.figure_files import figure_csv, figure_svg, figure_tsv
from bruiser.ui.theme.tokens import CHALK

ROPE = share_axis("plain rope")


def a_row(n, marks=3, **more):
    kinds = (Outcome.BROKE, Outcome.CAME_OUT, Outcome.OUTLASTED)
    pulls = tuple(
        LadderMark(
            key=f"p{n}-{k}", kind=kinds[k % 3], at=0.5 + 0.05 * k, label=f"S-{k}", left_out=k == 1
        )
        for k in range(marks)
    )
    return ladder_row(
        ROPE,
        key=f"r{n}",
        name=f"Knot {n}",
        counts="3 broke",
        marks=pulls,
        interval=(0.55, 0.5, 0.6),
        letters="ab",
        floor=0.42,
        mean=0.52,
        behind=f"n:r{n}",
        tooltip="t",
        **more,
    )


def a_ladder(*numbers, **more):
    return Ladder(title="Strength", rows=tuple(a_row(n) for n in numbers), axis=ROPE, **more)


JAM_MARKS = (
    JamMark(key="p1", share=0.5, level=JamLevel.HAND, label="S-1"),
    JamMark(key="p2", share=0.8, level=JamLevel.FUSED, label="S-2"),
)
CELL = CriterionCell(
    text="30 % (20–40)", place=0.5, low=0.3, high=0.7, weakest=True, behind="n:c", tooltip="words"
)
BARE = CriterionCell(
    text="–", place=None, low=None, high=None, weakest=False, behind="n:d", tooltip="words"
)
STEPS = ((0, 1, 0.4, 1, 3), (8, 0.6, 0.1, 0.9, 3))
_OVER = (0.6, float("inf"))
CLAIMS = (
    ClaimRow(
        key="a",
        text="keeps",
        verdict="supported",
        words="5",
        value=0.7,
        low=0.65,
        high=0.75,
        region=_OVER,
        scale="share",
        said="65 to 75",
        more="",
        behind="n:a",
    ),
    ClaimRow(
        key="b",
        text="never",
        verdict="nothing can be said",
        words="why",
        value=None,
        low=None,
        high=None,
        region=None,
        scale="",
        said="",
        more="",
    ),
)

FIGURES = {
    "ladder": lambda w, h: ladder_figure(a_ladder(*range(4), band=(0.97, 1.03)), w, h),
    "draw": lambda w, h: draw_figure(
        DrawChart(
            name="Bowline",
            lines=(DrawLine("p1", (0.0, 0.5), (0.0, 1.0)),),
            ends=(DrawEnd(key="p1", share=0.5, draw_d=1.2, kind=Outcome.BROKE, label="S-1"),),
            band=((0.0, 0.0, 0.0, 0.0), (0.5, 0.8, 0.9, 1.0)),
            given_d=3.0,
        ),
        w,
        h,
    ),
    "survival": lambda w, h: survival_figure(
        (SurvivalCurve(name="Sheet bend", what="cycles", most=30, steps=STEPS, behind="n:s"),),
        w,
        h,
    ),
    "security": lambda w, _: security_figure(
        ("First slip", "Draw"),
        (SecurityRow(key="r", name="Bowline", words="weak", cells=(CELL, BARE)),),
        "r",
        w,
    ),
    "jam": lambda w, _: jam_ladder(
        (
            JamLine(
                key="r",
                name="Bowline",
                words="1",
                marks=JAM_MARKS,
                value=0.6,
                low=0.5,
                high=0.7,
                bound="half",
                opens="60 %",
                untie="5 s",
                behind="n:j",
            ),
        ),
        "r",
        w,
    ),
    "curve": lambda w, h: jam_curve_figure(
        JamCurve(
            name="Bowline", points=((0.1, 0.0, 0.1, 0.2), (0.9, 0.7, 0.9, 1.0)), marks=JAM_MARKS
        ),
        w,
        h,
    ),
    "wraps": lambda w, h: wrap_figure(
        WrapChart(
            name="hitch",
            points=(
                WrapPoint(key="p1", wraps=1, load_n=900.0, slid=True, label="S-1"),
                WrapPoint(key="p2", wraps=2, load_n=2_900.0, slid=False, label="S-2"),
            ),
            bounds=(
                WrapBound(wraps=1, typical_n=950.0, shown_n=800.0, holds=False),
                WrapBound(wraps=2, typical_n=2_900.0, shown_n=2_400.0, holds=True),
            ),
            target_n=1_500.0,
            cord_n=9_000.0,
            most_tested=2,
        ),
        w,
        h,
        lambda v: f"{v:.0f} N",
    ),
    "rungs": lambda w, _: rungs_figure(
        Rungs(
            title="Differences",
            rows=(
                Rung(
                    key="a",
                    name="A – B",
                    words="5 pulls",
                    value=0.1,
                    low=-0.05,
                    high=0.2,
                    columns=("90 %", "no"),
                    behind="n:a",
                ),
            ),
            headings=("stronger", "told apart"),
            widths=(20, 20),
            label="points",
            zero=0.0,
        ),
        w,
    ),
    "matrix": lambda w, _: matrix_figure(
        ("Bowline", "Sheet bend"),
        ("P8", "N6"),
        {("Bowline", "P8"): CordageCell(text="70 %", small="65–75, n 5", share=0.7, behind="n:m")},
        w,
    ),
    "drift": lambda w, h: drift_figure(
        DriftChart(
            by="test order",
            marks=(
                DriftMark(key="p1", place=3, away=0.05, person=0, label="S-1"),
                DriftMark(key="p2", place=9, away=-0.03, person=1, label="S-2"),
            ),
            change=(0.02, -0.05, 0.09),
            warns=False,
            people=("OQ", "TV"),
        ),
        w,
        h,
    ),
    "claims": lambda w, h: claim_figure(
        (*CLAIMS,),
        "a",
        w,
        h,
    ),
}


@pytest.mark.parametrize("key", FIGURES)
@pytest.mark.parametrize("width", [120, 290])
def test_every_chart_is_sound_and_is_a_table_and_files_too(key, width):
    figure = FIGURES[key](width, 90)
    sound(figure)
    assert figure.title
    assert figure.rows
    assert len(figure.keys) in (0, len(figure.rows))
    assert all(len(row) == len(figure.header) for row in figure.rows)
    read = list(csv.reader(io.StringIO(figure_csv(figure))))
    assert read == [list(figure.header), *(list(row) for row in figure.rows)]
    assert len(figure_tsv(figure).splitlines()) == len(read)
    root = ElementTree.fromstring(figure_svg(figure, CHALK, SIZES))
    ground = root[1]
    assert ground.tag.endswith("rect")
    assert float(ground.get("width")) == pytest.approx(figure.width, abs=0.01)


@pytest.mark.parametrize("key", sorted(set(FIGURES) - {"curve", "matrix"}))
def test_what_the_spots_lead_to_stands_in_the_table_too(key):
    figure = FIGURES[key](250, 90)
    spots = {s.key for s in figure.spots if not s.key.startswith("row:")}
    keys = {k for k in figure.keys if k}
    assert keys
    assert keys <= spots | {"n:d"}


def test_a_pull_that_is_left_out_stays_on_the_ladder_crossed_through():
    figure = ladder_figure(a_ladder(0), 250, 90)
    left_out = [row for row in figure.rows if row[-1] == "yes"]
    assert [row[7] for row in left_out] == ["S-1"]
    plain = mark_shapes(Outcome.BROKE, 5, 5, 1)
    crossed = mark_shapes(Outcome.BROKE, 5, 5, 1, left_out=True)
    assert len(crossed) == len(plain) + 1
    assert {s.stroke for s in crossed if isinstance(s, (Disc, Line))} == {"muted"}


def test_the_ladder_grows_where_its_rows_do_not_fit():
    few = ladder_figure(a_ladder(*range(3)), 250, 90)
    many = ladder_figure(a_ladder(*range(40)), 250, 90)
    assert few.height <= 90
    assert many.height > 300


def test_a_load_ladder_has_nothing_at_a_hundred_percent():
    marks = (
        LadderMark(key="p", kind=Outcome.BROKE, at=9_000.0, label="S-1"),
        LadderMark(key="q", kind=Outcome.BROKE, at=8_000.0, label="S-2"),
    )
    kn = LadderAxis(
        say=lambda v: f"{v / 1000:g} kN", bare=lambda v: f"{v / 1000:g}", measure="load (N)"
    )
    row = ladder_row(
        kn,
        key="r",
        name="Bowline",
        counts="2 broke",
        marks=marks,
        interval=(8_500.0, 7_000.0, 30_000.0),
    )
    figure = ladder_figure(Ladder(title="Load held", rows=(row,), axis=kn), 250, 90)
    assert "load (N)" in figure.header
    assert "share" not in " ".join(figure.header)
    assert (row.value_text, row.range_text) == ("8.5 kN", "7 to 30")
    said = [s.text for s in figure.shapes if isinstance(s, Text)]
    assert "plain rope" not in said
    assert any(text.endswith(" kN") for text in said)


def test_jam_levels_differ_by_shape_alone():
    drawn = {
        level: [
            (type(s).__name__, getattr(s, "fill", None) is None)
            for s in level_shapes(level, 0, 0, 1)
        ]
        for level in (JamLevel.HAND, JamLevel.WORKED, JamLevel.TOOL, JamLevel.CUT, JamLevel.FUSED)
    }
    assert len({tuple(v) for v in drawn.values()}) == 5


def test_nothing_is_drawn_where_wraps_are_refused():
    figure = FIGURES["wraps"](250, 90)
    said = [s.text for s in figure.shapes if isinstance(s, Text)]
    assert "not judged:" in said
    shade = next(s for s in figure.shapes if isinstance(s, Box) and s.fill == "sunk")
    assert all(s.x < shade.x for s in figure.spots)
    lines = [
        s for s in figure.shapes if isinstance(s, Line) and s.stroke == "plum" and s.width == 0.7
    ]
    assert lines
    assert all(x <= shade.x for line in lines for x, _ in line.points)


def test_a_logarithmic_axis_has_round_ticks_and_equal_steps():
    axis = ChartAxis(low=100.0, high=10_000.0, logarithmic=True)
    assert axis.share(1_000.0) == pytest.approx(0.5)
    assert axis.ticks == (100.0, 200.0, 500.0, 1_000.0, 2_000.0, 5_000.0, 10_000.0)
    frame = Frame(
        left=10, top=0, right=110, bottom=50, x_axis=ChartAxis(low=0, high=1), y_axis=axis
    )
    assert frame.y(100.0) == 50
    assert frame.y(1e9) == 0
    assert (frame.x(-5), frame.x(0.5)) == (10, 60)
    assert in_percent(0.256) == "26 %"
