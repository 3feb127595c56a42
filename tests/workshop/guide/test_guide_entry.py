"""Uses and limits as typed: round trips, what is refused and where, undo and versions."""

from dataclasses import replace

import numpy as np
import pytest

from bruiser.core.choice.ranking import STARTING_ANCHORS
from bruiser.core.choice.rating import Band, Rating, RatingLimits
from bruiser.core.choice.use_profile import PROFILES, shipped_profiles
from bruiser.core.errors import InputError
from bruiser.core.json_records import read_record, write_record
from bruiser.core.records.preparation import Hands
from bruiser.workshop.guide.book import (
    read_guide_book,
    set_limits,
    withdraw_profile,
    write_profile,
)
from bruiser.workshop.guide.entry import (
    limits_texts,
    new_key,
    profile_texts,
    read_anchors,
    read_limits,
    read_profile,
)
from tests.servers import home_daily_on_a_file  # noqa: F401  (on a server in full runs)

TETHER = shipped_profiles()["tether-loop"]


@pytest.mark.parametrize("profile", PROFILES, ids=lambda p: p.key)
def test_every_use_comes_back_from_its_form_as_it_went_in(profile):
    made, errors = read_profile(profile_texts(profile), profile.families, profile)
    assert errors == {}
    assert made == profile
    assert read_record(type(profile), write_record(profile)) == profile


def test_limits_come_back_from_their_form_as_they_went_in():
    limits = RatingLimits()
    made, errors = read_limits(limits_texts(limits), limits)
    assert errors == {}
    assert made == limits
    assert read_record(RatingLimits, write_record(limits)) == limits


def test_a_scale_is_typed_as_values_and_points():
    found = read_anchors(Rating.STRENGTH, "20 % = 0, 50% = 60; 80 = 100")
    assert found == ((0.2, 0.0), (0.5, pytest.approx(60.0)), (0.8, 100.0))
    assert read_anchors(Rating.TYING, "10 s = 100, 90 = 0") == ((10.0, 100.0), (90.0, 0.0))
    for rating, anchors in STARTING_ANCHORS.items():
        text = profile_texts(replace(TETHER, anchors={**TETHER.anchors, rating: anchors}))
        read = read_anchors(rating, text[f"anchors.{rating}"])
        assert np.array(read) == pytest.approx(np.array(anchors))


@pytest.mark.parametrize(
    ("rating", "text"),
    [
        (Rating.STRENGTH, "20 %"),
        (Rating.STRENGTH, "20 % = 0, 50 % = 120"),
        (Rating.STRENGTH, "20 % = 50, 50 % = 10"),
        (Rating.TYING, "10 s = 0, 90 s = 100"),
        (Rating.TYING, "soon = 100, 90 s = 0"),
        (Rating.OPENING, ""),
    ],
)
def test_a_scale_that_is_none_is_refused(rating, text):
    with pytest.raises(InputError):
        read_anchors(rating, text)


@pytest.mark.parametrize(
    ("field", "text"),
    [
        ("name", " "),
        ("load", "140 %"),
        ("load", ""),
        ("weight.strength", "much"),
        ("anchors.security", "0 = 0"),
    ],
)
def test_what_is_wrong_with_a_use_stands_at_its_field(field, text):
    texts = {**profile_texts(TETHER), field: text}
    made, errors = read_profile(texts, (), TETHER)
    assert made is None
    assert field in errors


def test_a_use_without_any_weight_is_refused():
    texts = profile_texts(TETHER) | {f"weight.{r}": "0" for r in Rating}
    made, errors = read_profile(texts, (), TETHER)
    assert made is None
    assert "above zero" in errors["weight.strength"]


@pytest.mark.parametrize(
    ("field", "text", "at"),
    [
        ("name.strength.1", "", "name.strength.1"),
        ("limit.strength.2", "", "limit.strength.2"),
        ("limit.strength.2", "10 %", "limit.strength.1"),
        ("limit.tying.1", "slow", "limit.tying.1"),
        ("came_out.good", "60 %", "came_out.poor"),
        ("onset.good", "10 %", "onset.poor"),
        ("draw_d.poor", "far", "draw_d.poor"),
        ("reference", "", "reference"),
    ],
)
def test_what_is_wrong_with_limits_stands_at_its_field(field, text, at):
    limits = RatingLimits()
    made, errors = read_limits({**limits_texts(limits), field: text}, limits)
    assert made is None
    assert at in errors


def test_limits_are_versions_and_no_number_is_given_twice(workshop):
    book = read_guide_book(workshop)
    assert (book.limits.version, book.limits_history) == (0, ())
    bands = {**book.limits.bands, Rating.CHECKING: (Band("no"), Band("yes", 0.8))}
    set_limits(workshop, replace(book.limits, bands=bands), "two will do", "QO")
    changed = read_guide_book(workshop)
    assert changed.limits.version == 1
    assert changed.limits.band(Rating.CHECKING, 0.9).name == "yes"
    first = changed.limits_history[0]
    assert (first.comment, first.by) == ("two will do", "QO")
    workshop.undo()
    back = read_guide_book(workshop)
    assert back.limits == RatingLimits()
    set_limits(workshop, replace(back.limits, bands=bands))
    assert read_guide_book(workshop).limits.version == 2
    workshop.undo()
    set_limits(workshop, replace(back.limits, bands=bands))
    assert read_guide_book(workshop).limits.version == 3
    workshop.undo()
    workshop.redo()
    assert read_guide_book(workshop).limits.band(Rating.CHECKING, 0.9).name == "yes"


def test_uses_are_added_changed_and_withdrawn_and_all_of_it_is_taken_back(workshop):
    book = read_guide_book(workshop)
    key = new_key("Tether loop!", book.profiles)
    assert key == "tether-loop-2"
    made = replace(TETHER, key=key, name="Tether in gloves", hands=Hands.GLOVES)
    write_profile(workshop, made)
    book = read_guide_book(workshop)
    assert book.profile("tether in gloves") == made
    assert key in book.own_profiles
    write_profile(workshop, replace(made, load=0.4))
    assert read_guide_book(workshop).profiles[key].load == 0.4
    workshop.undo()
    assert read_guide_book(workshop).profiles[key].load == made.load
    workshop.redo()
    assert read_guide_book(workshop).profiles[key].load == 0.4
    workshop.undo()
    workshop.undo()
    assert key not in read_guide_book(workshop).profiles
    withdraw_profile(workshop, TETHER)
    assert "tether-loop" not in read_guide_book(workshop).profiles
    workshop.undo()
    assert read_guide_book(workshop).profiles["tether-loop"] == TETHER
    with pytest.raises(InputError, match="no use"):
        read_guide_book(workshop).profile("kite")
