"""A notebook typed in: each line understood or refused by its part, stored as pulls like others."""

import pytest

from bruiser.core.errors import InputError, Refused
from bruiser.core.records.records import Gave, JamLevel, Role
from bruiser.core.units import UnitChoice
from bruiser.workshop.course.typed_series import SeriesHead, read_line, store_series
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.results.lot_results import lot_results
from tests.alike import whole
from tests.build import LOT
from tests.servers import home_daily_on_a_file  # noqa: F401  (on a server in full runs)

UNITS = UnitChoice("kN", "mm")


@pytest.mark.parametrize(
    ("text", "knot", "both", "peak_n", "gave", "untied"),
    [
        ("plain; 9.8; clear", None, False, 9_800, "span", JamLevel.NOT_TRIED),
        ("plain rope, 9,8 kN, drum", None, False, 9_800, "drum", JamLevel.NOT_TRIED),
        ("bowline; 6.7; broke; hand", "bowline", False, 6_700, "broke", JamLevel.HAND),
        ("Bowline both\t1500 lbf\tout", "bowline", True, 6_672, "came out", JamLevel.NOT_TRIED),
        ("weaver's knot; 400 kgf; c; tool", "sheet-bend", False, 3_923, "capsized", JamLevel.TOOL),
        ("figure-eight loop x2; 7; held", "figure-eight-loop", True, 7_000, "stopped", None),
    ],
)
def test_a_line_is_understood(stocked, text, knot, both, peak_n, gave, untied):
    line = read_line(text, read_logbook(stocked), UNITS)
    assert (line.structure and line.structure.key) == knot
    assert line.both is both
    assert line.peak_n == pytest.approx(peak_n, rel=1e-3)
    assert line.gave == gave
    assert line.untied is (untied or JamLevel.NOT_TRIED)
    assert line.say("general", UNITS).count("·") == 2


@pytest.mark.parametrize(
    ("text", "field", "says"),
    [
        ("", "knot", "Which knot"),
        ("granny loop of doom; 4; broke", "knot", "No knot is called"),
        ("double; 4; broke", "knot", "may be"),
        ("sheet bend both; 4; broke", "knot", "both ends"),
        ("bowline", "peak", "missing"),
        ("bowline; heavy; broke", "peak", "no number"),
        ("bowline; 6 mm; broke", "peak", "mm"),
        ("bowline; 0; broke", "peak", "above zero"),
        ("bowline; 6.7", "gave", "What gave"),
        ("bowline; 6.7; sulked", "gave", "one of broke"),
        ("plain; 9.8; out", "gave", "Plain rope"),
        ("plain; 9.8; clear; hand", "untied", "no knot"),
        ("bowline; 6.7; broke; teeth", "untied", "one of shaken"),
        ("bowline; 6.7; broke; hand; and more", "", "at most four"),
    ],
)
def test_what_is_wrong_is_named(stocked, text, field, says):
    with pytest.raises(InputError, match=says) as refused:
        read_line(text, read_logbook(stocked), UNITS)
    assert refused.value.where == field


def typed(workshop, *texts, capacity_n=20_000.0):
    logbook = read_logbook(workshop)
    lines = [read_line(t, logbook, UNITS) for t in texts]
    head = SeriesHead(lot=LOT, capacity_n=capacity_n, technician="TV", pin_m=0.012)
    return store_series(workshop, logbook, head, lines)


PLAIN_ROPE = [f"plain; {x}; clear" for x in ("9.8", "9.9", "10.0", "10.1", "10.2")]
LOOPS = [f"bowline; {x}; broke; hand" for x in ("6.6", "6.7", "6.8", "6.9")]


def test_a_series_gives_an_efficiency_like_any_other_pulls(stocked):
    ids = typed(stocked, *PLAIN_ROPE, *LOOPS, "zeppelin bend; 5.9; came out")
    logbook = read_logbook(stocked)
    entries = [logbook.by_pull[i] for i in ids]
    assert {e.stage for e in entries} == {Stage.INSPECTED}
    assert [e.specimen.role for e in entries].count(Role.BASELINE) == 5
    assert len({e.specimen.code for e in logbook.entries}) == len(logbook.entries)
    assert entries[-1].finding.gave is Gave.CAME_OUT
    assert {k.structure for k in logbook.knots} == {"bowline", "zeppelin-bend"}
    results = lot_results(logbook, LOT)
    bowline = next(r for r in results.knots if r.key.knot == "Bowline")
    assert bowline.efficiency.interval.value == pytest.approx(0.675, abs=0.01)
    assert bowline.efficiency.counts.specimens == 4


def test_a_series_is_one_step_to_undo_and_to_do_again(stocked):
    before = whole(stocked).entries
    typed(stocked, *PLAIN_ROPE, *LOOPS, "zeppelin bend; 5.9; out")
    after = whole(stocked).entries
    stocked.undo()
    assert whole(stocked).entries == before
    stocked.redo()
    assert whole(stocked).entries == after


def test_a_peak_above_the_scale_or_no_line_at_all_is_refused(stocked):
    before = whole(stocked)
    with pytest.raises(Refused, match="above what the scale reads"):
        typed(stocked, *PLAIN_ROPE, capacity_n=10_100.0)
    with pytest.raises(Refused, match="no line"):
        typed(stocked)
    assert whole(stocked) == before
