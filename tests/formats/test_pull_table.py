import json
import math

import numpy as np
import pytest

from bruiser.app.cli import main as cli
from bruiser.core.errors import InputError
from bruiser.core.performance.report import make_report
from bruiser.core.statistics.censored import fit, stack
from bruiser.formats.pull_groups import group_pulls
from bruiser.formats.pull_table import read_pull_table
from bruiser.formats.results_json import report_json
from tests.core.samples import sample

BASE = """pull,role,cordage,condition,knot,ends,peak,unit,finding,failed_end,jam_level
b1,baseline,P8,dry,,,10.1,kN,broke_clear,,
b2,baseline,P8,dry,,,9900,N,broke_clear,,
b3,baseline,P8,dry,,,10.4,,broke_clear,,
b4,baseline,P8,dry,,,9.2,kN,broke_at_termination,,
b5,baseline,P8,dry,,,,,void,,
"""
KNOTS = """k1,knot,P8,dry,bowline,2,6.9,kN,broke_at_knot,B,hand
k2,knot,P8,dry,bowline,2,7.1,kN,came_out,A,tool
k3,knot,P8,dry,bowline,2,6.6,kN,broke_elsewhere,,hand
k4,knot,P8,dry,bowline,1,6.2,kN,capsized,,cut
k5,knot,P8,dry,bowline,1,5.0,kN,void,,
"""


def groups(text):
    return {(g.cordage, g.knot): g for g in group_pulls(read_pull_table(text))}


def test_rows_become_events_and_floors():
    found = groups(BASE + KNOTS)
    base, knot = found["P8", None], found["P8", "bowline"]
    assert base.sample.events.tolist() == [1, 1, 1, 0]
    assert base.sample.floors.tolist() == [0, 0, 0, 1]
    assert np.exp(base.sample.ln_load) == pytest.approx([10_100, 9_900, 10_400, 9_200])
    assert knot.sample.events.tolist() == [1, 1, 0, 1]
    assert knot.sample.floors.tolist() == [1, 1, 2, 0]
    n = knot.counts
    assert (n.broke, n.came_out, n.outlasted, n.void) == (1, 2, 1, 1)
    assert knot.jam_level.tolist() == [0, 2, 0, 3]


def test_different_knots_at_the_ends_each_get_their_own():
    text = (
        "pull,role,cordage,knot,knot_b,peak,finding,failed_end,jam_level\n"
        "k1,knot,P8,bowline,eight,6.9,broke_at_knot,A,tool\n"
        "k2,knot,P8,bowline,eight,7.2,came_out,B,\n"
    )
    found = groups(text)
    assert found["P8", "bowline"].sample.events.tolist() == [1, 0]
    assert found["P8", "bowline"].sample.floors.tolist() == [0, 1]
    assert found["P8", "eight"].sample.events.tolist() == [0, 1]
    assert found["P8", "eight"].counts.outlasted == 1
    assert len(found["P8", "eight"].jam_level) == 1
    assert len(found["P8", "bowline"].jam_level) == 0


def test_an_unlike_pair_is_measured_against_the_weaker_and_shows_the_other():
    text = "pull,role,cordage,cordage_b,knot,peak,finding\n"
    for k in range(5):
        text += f"s{k},baseline,thick,,,{14 + 0.2 * k},broke_clear\n"
        text += f"w{k},baseline,thin,,,{8 + 0.1 * k},broke_clear\n"
        text += f"k{k},knot,thick,thin,sheet bend,{4 + 0.1 * k},broke_at_knot\n"
    found = make_report(group_pulls(read_pull_table(text))).groups[-1]
    assert found.reference == "thin"
    assert found.rated.efficiency.interval.value == pytest.approx(4.2 / 8.2, rel=0.01)
    assert found.other.efficiency.interval.value == pytest.approx(4.2 / 14.4, rel=0.01)


@pytest.mark.parametrize(
    ("change", "where"),
    [
        (("10.1,kN", "none,kN"), "2:peak"),
        (("10.1,kN", "0,kN"), "2:peak"),
        (("10.1,kN", "-1,kN"), "2:peak"),
        (("10.1,kN", "nan,kN"), "2:peak"),
        (("10.1,kN", "inf,kN"), "2:peak"),
        (("10.1,kN", ",kN"), "2:peak"),
        (("10.1,kN", "10.1,stone"), "2:unit"),
        (("broke_at_knot", "snapped"), "7:finding"),
        (("k1,knot", "k1,rope"), "7:role"),
        (("bowline,2,6.9", "bowline,3,6.9"), "7:ends"),
        (("k1,knot,P8", "k1,knot,"), "7:cordage"),
        (("knot,P8,dry,bowline,2,6.9", "knot,P8,dry,,2,6.9"), "7:knot"),
        (("B,hand", "C,hand"), "7:failed_end"),
        (("B,hand", "B,easy"), "7:jam_level"),
        (("pull,role", "name,role"), "1:pull"),
    ],
)
def test_a_wrong_cell_is_named_by_row_and_column(change, where):
    with pytest.raises(InputError) as caught:
        read_pull_table((BASE + KNOTS).replace(*change, 1))
    assert caught.value.where == where
    row, column = where.split(":")
    assert f"Row {row}" in str(caught.value)
    assert column in str(caught.value)


@pytest.mark.parametrize("text", ["", "pull,role,cordage,peak,finding\n"])
def test_an_empty_table_is_refused(text):
    with pytest.raises(InputError):
        read_pull_table(text)


def test_two_pulls_of_one_name_are_refused():
    with pytest.raises(InputError, match="twice"):
        read_pull_table(BASE + KNOTS + KNOTS.splitlines()[0] + "\n")


def test_the_command_prints_what_the_page_promises(tmp_path, capsys):
    path = tmp_path / "table.csv"
    path.write_text("\ufeff" + (BASE + KNOTS).replace("jam_level", "jam_level,colour", 1), "utf-8")
    assert cli(["results", str(path), "--json"]) == 0
    out = capsys.readouterr()
    assert "column colour" in out.err
    data = json.loads(out.out)
    assert data["format"] == "bruiser-results-1"
    base, knot = data["groups"]
    assert (base["knot"], base["efficiency"]) == (None, None)
    s = sample([6_900, 7_100, 6_600, 6_200], [1, 1, 0, 1], [1, 1, 2, 0])
    reference = fit(*stack([s]))
    assert knot["mle"]["mu"] == pytest.approx(reference.mu[0])
    assert knot["mle"]["log_likelihood"] == pytest.approx(reference.log_likelihood[0])
    mean = (6_900 + 7_100 + 6_600 + 6_200) / 4 / ((10_100 + 9_900 + 10_400 + 9_200) / 4)
    assert knot["efficiency_plain_mean"] == pytest.approx(mean)
    assert knot["came_out_share"]["value"] == pytest.approx(2 / 3)
    assert set(knot["tolerance"]) == {"p90", "p95", "p99"}
    assert knot["efficiency"]["low"] < knot["efficiency"]["value"] < knot["efficiency"]["high"]
    assert knot["j50"]["decided"] is True
    assert data["comparisons"] == []
    assert data["chance_best"][0]["knots"] == {"bowline": pytest.approx(1.0)}


def test_undecided_jamming_has_no_value_but_the_bound(tmp_path, capsys):
    path = tmp_path / "t.csv"
    path.write_text(BASE + KNOTS.replace("tool", "hand").replace("cut", "worked"), "utf-8")
    cli(["results", str(path), "--json"])
    j50 = json.loads(capsys.readouterr().out)["groups"][1]["j50"]
    assert (j50["value"], j50["decided"], j50["high"]) == (None, False, None)
    assert j50["low"] == pytest.approx(7_100 / math.exp(sample_mu()), rel=1e-6)


def sample_mu():
    s = sample([10_100, 9_900, 10_400, 9_200], [1, 1, 1, 0], [0, 0, 0, 1])
    return fit(*stack([s])).mu[0]


def test_a_wrong_table_ends_with_status_two_and_nothing_on_stdout(tmp_path, capsys):
    path = tmp_path / "t.csv"
    path.write_text(BASE.replace("10.1", "ten"), "utf-8")
    assert cli(["results", str(path), "--json"]) == 2
    out = capsys.readouterr()
    assert (out.out, "Row 2, column peak" in out.err) == ("", True)


def test_cycles_and_wraps_are_gathered():
    text = "pull,role,cordage,knot,peak,finding,cycles,cycles_end,wraps\n"
    for k, wraps in enumerate([2, 2, 2, 3, 3, 3]):
        done = "failed" if k % 2 else "survived"
        text += f"k{k},knot,P6,grip,{1 + 0.7 * wraps + 0.05 * k},came_out,{10 + k},{done},{wraps}\n"
    found = make_report(group_pulls(read_pull_table(text))).groups[0]
    assert found.wraps.per_wrap > 0.2
    assert [s.cycles for s in found.survival] == [0, 11, 13, 15]
    assert "no baseline" in [c.kind for c in found.caveats]


WORK = """pull,role,cordage,knot,peak,finding,method,wraps,slides_by_hand,release_force,freed,\
freed_itself,hand_load,applied_load,kept_load,before_load,after_load,cycles,cycles_end,jam_level
b1,baseline,C,,10,broke_clear,,,,,,,,,,,,,,
b2,baseline,C,,10.2,broke_clear,,,,,,,,,,,,,,
s1,knot,C,grip,2,slid,slide,3,yes,,,,,,,,,,,
s2,knot,C,grip,2.3,slid,slide,3,no,,,,,,,,,,,
s3,knot,C,grip,2.6,broke_at_knot,slide,3,,,,,,,,,,,,
s4,knot,C,grip,2.1,came_out,ramp,,,,,,,,,,,,,
r1,knot,C,slip,1,,release,,,0.05,yes,no,,,,,,,,
r2,knot,C,slip,1,,release,,,,,yes,,,,,,,,
a1,knot,C,truck,,,advantage,,,,,,0.5,1,0.8,,,,,
t1,knot,C,bind,,,retention,,,,,,,,,0.4,0.3,10,,cut
t2,knot,C,bind,,,retention,,,,,,,,,0.4,0,10,,hand
p1,knot,C,stop,4,came_out,seat,,,,,,,,,,,,,
p2,knot,C,stop,5,broke_at_knot,seat,,,,,,,,,,,,,
k1,knot,C,loop,1,stopped,shaking,,,,,,,,,,,30,survived,
k2,knot,C,loop,1,stopped,shaking,,,,,,,,,,,12,failed,
k3,knot,C,loop,2,stopped,cycles,,,,,,,,,,,50,survived,tool
"""


def test_only_the_methods_that_speak_to_a_result_enter_it():
    found = groups(WORK)
    grip = found["C", "grip"]
    assert (grip.counts.came_out, grip.counts.specimens) == (1, 1)
    assert [p.gave for p in grip.work.slides] == [True, True, False]
    assert list(grip.wraps.held) == [False, False, True]
    assert [p.slides_by_hand for p in grip.work.slides] == [True, False, None]
    loop = found["C", "loop"]
    assert loop.counts.specimens == 0
    assert (list(loop.cycles), list(loop.shakes)) == ([50.0], [30.0, 12.0])
    assert len(loop.jam_load_n) == 1
    assert [p.gave for p in found["C", "stop"].work.seats] == [True, False]
    assert [p.after_n for p in found["C", "bind"].work.retentions] == [300.0, 0.0]
    assert [p.cut for p in found["C", "bind"].work.retentions] == [True, False]


def test_what_the_methods_say_stands_in_the_json():
    report = make_report(group_pulls(read_pull_table(WORK)))
    said = {g["knot"]: g for g in json.loads(report_json(report))["groups"]}
    assert said["grip"]["grip"]["n"] == {"slid": 2, "held": 1}
    assert said["grip"]["efficiency"]["value"] == pytest.approx(0.208, abs=0.002)
    assert said["loop"]["efficiency"] is None
    assert said["slip"]["release"]["freed_itself"]["value"] == 0.5
    assert said["slip"]["release"]["force_share"]["value"] == pytest.approx(0.05)
    assert said["truck"]["advantage"]["value"] == pytest.approx(2.0)
    assert said["truck"]["advantage"]["low"] is None
    assert said["truck"]["advantage"]["kept"]["value"] == pytest.approx(0.8)
    assert said["bind"]["retention"] | {"kept": None} == {
        "n": 2, "kept": None, "slack": 1, "cut": {"yes": 1, "no": 1},
    }  # fmt: skip
    assert said["stop"]["seat"]["n"] == {"through": 1, "held": 1}
    assert {s["by"] for s in said["loop"]["cycles_survival"]} == {"cycles", "shaking"}
    assert said["loop"]["grip"] is None


@pytest.mark.parametrize(
    ("old", "new", "where"),
    [
        ("a1,knot,C,truck,,,advantage,,,,,,0.5", "a1,knot,C,truck,,,advantage,,,,,,", "hand_load"),
        ("0.4,0.3,10", "0.4,-0.3,10", "after_load"),
        ("s4,knot,C,grip,2.1,came_out,ramp", "s4,knot,C,grip,2.1,slid,ramp", "finding"),
        ("r1,knot,C,slip,1,,release", "r1,knot,C,slip,,,release", "peak"),
        ("p1,knot,C,stop,4,came_out,seat", "p1,knot,C,stop,4,came_out,plate", "method"),
        ("b1,baseline,C,,10,broke_clear,", "b1,baseline,C,,10,broke_clear,slide", "method"),
        ("0.05,yes,no", "0.05,maybe,no", "freed"),
    ],
)
def test_a_method_without_its_numbers_is_refused_at_its_cell(old, new, where):
    assert old in WORK
    with pytest.raises(InputError, match=f"column {where}"):
        read_pull_table(WORK.replace(old, new))
