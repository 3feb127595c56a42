"""A drawing for anyone's check: by command, as JSON and SVG, and in the guide."""

import json
from xml.etree import ElementTree

import numpy as np
import pytest

from bruiser.app.cli import main
from bruiser.catalogue import load_catalogue
from bruiser.catalogue.drawings import drawn, drawn_keys, proven
from bruiser.core.topology.changes import differing, reflected, turned_over
from bruiser.core.topology.fingerprint import invariants, mirrored
from bruiser.formats.drawing_json import drawing_json


@pytest.mark.parametrize("key", [k for k in drawn_keys() if k != "triple-fishermans"])
def test_json_holds_what_was_proven(key):
    found = drawing_json(key, {})
    assert found["format"] == "bruiser-drawing-1"
    assert found["key"] == key
    assert found["crossings"] == len(drawn(key).layout.crossings)
    by_curve = {c: i.alexander.coefficients for c, i in proven(key).items()}
    assert sorted(map(tuple, (c["alexander"] for c in found["codes"].values()))) == sorted(
        by_curve.values()
    )
    for curve in found["codes"].values():
        arcs = sorted(a for crossing in curve["code"] for a in crossing)
        assert arcs == sorted([*range(2 * len(curve["code"]))] * 2), "every arc has two ends"
    for rope in found["ropes"]:
        assert np.isfinite(rope["points"]).all()
        assert len(rope["points"][0]) == 3


def test_the_other_hand_is_the_mirror_image(capsys):
    assert main(["drawing", "granny", "--json"]) == 0
    plain = json.loads(capsys.readouterr().out)
    assert main(["drawing", "granny", "--variant", "hand=mirrored", "--json"]) == 0
    other = json.loads(capsys.readouterr().out)
    assert other["variant"] == {"hand": "mirrored"}
    for one, two in zip(plain["ropes"], other["ropes"], strict=True):
        turned = np.array(one["points"]) * [-1, 1, 1]
        assert np.allclose(turned, two["points"])
    one, two = plain["codes"]["splice"]["jones"], other["codes"]["splice"]["jones"]
    assert one["coefficients"] == two["coefficients"][::-1]
    assert one["lowest"] + len(one["coefficients"]) - 1 == -two["lowest"]


@pytest.mark.parametrize("key", ["granny", "bowline", "zeppelin-bend", "clove-hitch"])
def test_reflecting_a_diagram_mirrors_every_curve(key):
    layout = drawn(key).layout
    other = invariants(reflected(layout))
    for name, one in proven(key).items():
        assert other[name].jones == mirrored(one.jones), name
        assert other[name].alexander == one.alexander, name


def test_a_crossing_turned_over_twice_is_as_it_was():
    layout = drawn("sheet-bend").layout
    once = turned_over(layout, {2})
    assert differing(layout, once) == (2,)
    assert turned_over(once, {2}).crossings == layout.crossings


def test_reef_and_granny_differ_where_one_half_is_tied_the_other_way():
    one, two = drawn("reef").layout, drawn("granny").layout
    off = differing(one, two)
    assert off
    assert len(off) < len(one.crossings)
    assert differing(one, drawn("bowline").layout) is None
    told = {k: v.jones for k, v in invariants(turned_over(one, off)).items()}
    assert told["splice"] in (proven("granny")["splice"].jones, mirrored(
        proven("granny")["splice"].jones))  # fmt: skip


def test_the_command_lists_draws_and_says_what_it_rests_on(capsys, tmp_path):
    assert main(["drawing", "--list"]) == 0
    listed = capsys.readouterr().out.split()
    assert listed == list(drawn_keys())
    assert set(listed) <= set(load_catalogue())
    front, back = tmp_path / "front.svg", tmp_path / "back.svg"
    assert main(["drawing", "carrick-bend", "--svg", str(front)]) == 0
    assert "one recipe" in capsys.readouterr().out
    assert main(["drawing", "carrick-bend", "--back", "--svg", str(back)]) == 0
    for path in (front, back):
        assert ElementTree.fromstring(path.read_text(encoding="utf-8")).tag.endswith("svg")
    assert front.read_text(encoding="utf-8") != back.read_text(encoding="utf-8")
    assert main(["drawing", "alpine-butterfly"]) == 0
    assert "Two recipes agree" in capsys.readouterr().out


@pytest.mark.parametrize(
    ("said", "names"),
    [
        ([], "--list"),
        (["bowlin"], "bowlin"),
        (["bowline", "--variant", "hand"], "AXIS=OPTION"),
        (["bowline", "--variant", "hand=third"], "third"),
        (["munter-lockoff"], "no drawing"),
        (["bowline", "--variant", "finish=half-hitch"], "no drawing"),
    ],
)
def test_what_cannot_be_drawn_is_named(said, names, capsys):
    assert main(["drawing", *said]) != 0
    out = capsys.readouterr()
    assert names in out.err
    assert "Traceback" not in out.err
