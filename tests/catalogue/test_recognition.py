"""Which knot a tie is, by computation; and inspection practice."""

import pytest

from bruiser.catalogue.drawings import drawn, drawn_keys
from bruiser.catalogue.recognition import makes, passes, recognise, turned_by_word, word_of
from bruiser.catalogue.trainer import Trainer, can_be_asked
from bruiser.core.errors import InputError
from bruiser.core.topology.changes import turned_over

ASKED = [k for k in drawn_keys() if can_be_asked(k)]
NOTHING = frozenset()


@pytest.mark.parametrize("key", ASKED)
def test_every_drawing_is_recognised_and_so_is_its_mirror_image(key):
    found = recognise(key, NOTHING)
    assert found.keys[0] == key
    assert not found.loose
    every = frozenset(range(len(drawn(key).layout.crossings)))
    mirror = recognise(key, every)
    assert key in mirror.mirrored or key in mirror.keys


def test_no_two_knots_are_taken_for_one_another_but_those_tied_alike():
    alike = {frozenset(recognise(k, NOTHING).keys) for k in ASKED}
    assert {group for group in alike if len(group) > 1} == {
        frozenset({"barrel-noose", "double-overhand-sliding-loop"}),
        frozenset({"clove-hitch", "clove-binding"}),
    }


@pytest.mark.parametrize(
    ("key", "turned", "is_"),
    [
        ("constrictor", {0}, "clove-hitch"),
        ("constrictor", {2}, "clove-hitch"),
        ("double-overhand-stopper", {1}, "overhand-stopper"),
    ],
)
def test_a_wrong_tie_is_named(key, turned, is_):
    found = recognise(key, frozenset(turned))
    assert is_ in found.keys
    assert key not in found.keys


@pytest.mark.parametrize("key", ["overhand-stopper", "figure-eight-stopper"])
def test_a_stopper_with_one_crossing_wrong_is_no_knot(key):
    for n in range(len(drawn(key).layout.crossings)):
        assert recognise(key, frozenset({n})).loose


@pytest.mark.parametrize(("one", "two"), [("reef", "granny"), ("granny", "reef")])
def test_reef_and_granny_make_one_another(one, two):
    off = makes(one, two)
    assert off
    assert recognise(one, frozenset(off)).keys == (two,)


def test_what_is_laid_otherwise_rings_nothing_and_one_turn_is_found():
    assert makes("constrictor", "clove-binding") == (0,)
    assert makes("bowline", "reef") == ()
    assert makes("munter-lockoff", "reef") == ()


@pytest.mark.parametrize("key", ASKED)
def test_a_word_says_where_a_tie_is_off(key):
    layout = drawn(key).layout
    off = frozenset({0, len(layout.crossings) - 1})
    assert turned_by_word(layout, word_of(layout)) == NOTHING
    assert turned_by_word(layout, word_of(turned_over(layout, off)).upper()) == off


@pytest.mark.parametrize(
    ("word", "says"),
    [
        ("ououx", "“x”"),
        ("", "0 are written"),
        ("ouo", "6 passes from end to end; 3"),
        ("oooooo", "both are called over"),
    ],
)
def test_a_wrong_word_is_named(word, says):
    with pytest.raises(InputError, match=says):
        turned_by_word(drawn("overhand-stopper").layout, word)


def test_every_crossing_is_passed_twice_but_with_a_host():
    steps = [n for rope in passes(drawn("sheet-bend").layout) for n, _ in rope]
    assert sorted(steps) == sorted([*range(7)] * 2)
    with_host = [n for rope in passes(drawn("clove-hitch").layout) for n, _ in rope]
    assert len(with_host) < 2 * len(drawn("clove-hitch").layout.crossings)


def test_practice_asks_right_and_wrong_ties_and_keeps_the_score():
    trainer = Trainer(["bowline", "reef", "munter-lockoff"], 7)
    right = 0
    for n in range(40):
        asked = trainer.ask()
        assert asked.key in ("bowline", "reef")
        if not asked.right:
            found = recognise(asked.key, asked.turned)
            assert asked.key not in (*found.keys, *found.mirrored)
        right += asked.right
        assert trainer.answer(n % 2 == 0) == (asked.right == (n % 2 == 0))
        assert trainer.question is None
    assert 8 < right < 32
    assert sum(of for _, of in trainer.score.values()) == 40
    with pytest.raises(ValueError, match="nothing was asked"):
        trainer.answer(True)
    with pytest.raises(ValueError, match="none of these"):
        Trainer(["munter-lockoff"], 1)
