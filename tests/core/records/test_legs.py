"""A direction is its legs: the names that follow, and what each structure can be loaded by."""

import pytest

from bruiser.catalogue import load_catalogue
from bruiser.core.records.layouts import LAYOUTS, PlaceKind
from bruiser.core.records.legs import (
    BACKWARDS,
    EYE,
    LAID,
    LEGS,
    OTHER,
    SECOND_EYE,
    STANDING,
    legs_of,
    named,
    say_legs,
)

CATALOGUE = load_catalogue()
SETS = sorted(
    {legs for s in CATALOGUE.values() for legs in s.leg_sets}
    | {x for v in LAID.values() for x in v},
    key=sorted,
)


@pytest.mark.parametrize("legs", SETS, ids=say_legs)
def test_a_name_follows_from_its_legs_and_leads_back_to_them(legs):
    assert legs <= set(LEGS)
    assert legs_of(say_legs(legs)) == legs
    assert named(say_legs(legs)) == say_legs(legs)


def test_two_wordings_of_one_direction_are_one_direction():
    assert named("both ends against the eye") == named("eye against both ends")
    assert named("eye against either end") == "eye against one end"
    assert named("") == ""


@pytest.mark.parametrize("key", CATALOGUE)
def test_every_structure_says_its_legs_and_can_be_loaded_as_it_is_meant(key):
    s = CATALOGUE[key]
    meant = [way.legs for way in s.loadings]
    assert len(set(meant)) == len(meant) or s.key == "reef"
    assert set(meant) <= set(s.leg_sets)
    eyes = {EYE, SECOND_EYE}
    kinds = {p.kind for p in LAYOUTS[s.layout].places}
    if kinds & {PlaceKind.HOST, PlaceKind.ROPE, PlaceKind.PLATE} or s.layout == "bend":
        assert all(not legs & eyes for legs in s.leg_sets)
    for way in s.loadings:
        assert s.said(way.legs)


def test_a_midline_loop_is_loaded_in_every_pair_of_its_legs_and_by_all_of_them():
    pairs = {frozenset({STANDING, OTHER}), frozenset({STANDING, EYE}), frozenset({OTHER, EYE})}
    midline = [s for s in CATALOGUE.values() if s.layout == "midline"]
    assert len(midline) > 4
    for s in midline:
        assert pairs | {frozenset({STANDING, OTHER, EYE})} <= set(s.leg_sets)


def test_what_grips_along_a_host_can_be_pulled_the_other_way():
    other = frozenset({STANDING, BACKWARDS})
    can = {s.key for s in CATALOGUE.values() if other in s.leg_sets}
    assert {"prusik", "klemheist", "rolling-hitch", "rolling-hitch-on-rope", "bachmann"} <= can
    assert "clove-hitch" not in can
    assert "bowline" not in can
