import pytest

from bruiser.catalogue import load_catalogue, parse_structure
from bruiser.catalogue.loader import shipped_texts
from bruiser.core.errors import InputError

GOOD = shipped_texts()["sheet-bend"]


@pytest.mark.parametrize(
    ("change", "field"),
    [
        (("tail_usual_d = 18", "tail_usual_d = 4"), "tail_usual_d"),
        (("cord_use_d = 22", ""), "cord_use_d"),
        (("cord_use_d = 22", "cord_use_d = -1"), "cord_use_d"),
        (("cord_use_d = 22", 'cord_use_d = "two"'), "cord_use_d"),
        (('layout = "bend"', 'layout = "wheel"'), "layout"),
        (('family = "bend"', ""), "family"),
        (('family = "bend"', 'family = "noose"'), "family"),
        (('opens = "yes"', 'opens = "perhaps"'), "opens"),
        ((', trade = "sailing"', ""), "names[0].trade"),
        ((', trade = "weaving"', ', trade = "juggling"'), "names[1].trade"),
        (('when = "the bight', 'whan = "the bight'), "look_alikes[0]"),
        (('in_the_bight = "no"', 'in_the_bight = "yes"'), "needs_end"),
        (('shared = ["mirrored", ', 'shared = ["mirrored", "mirrored", '), "shared"),
        (('key = "opposite"', 'key = "same"'), "axes"),
    ],
)
def test_a_wrong_file_is_refused_by_file_and_field(change, field):
    assert change[0] in GOOD
    with pytest.raises(InputError) as caught:
        parse_structure("x", GOOD.replace(*change))
    assert caught.value.where == f"x.toml: {field}"


def test_what_is_no_toml_names_the_file():
    with pytest.raises(InputError, match=r"x\.toml"):
        parse_structure("x", "family = ")


def test_a_variant_has_its_own_words_cord_and_tail():
    bowline = load_catalogue()["bowline"]
    plain, round_turn = bowline.cord_rule({}), bowline.cord_rule({"turns": "round-turn"})
    assert bowline.variant_words({}) == "plain"
    assert bowline.variant_words(bowline.plain) == "plain"
    assert "round turn" in bowline.variant_words({"turns": "round-turn"})
    assert round_turn.cord_d > plain.cord_d
    backed = bowline.cord_rule({"finish": "stopper"})
    assert (backed.cord_d - plain.cord_d, backed.tail_floor_d - plain.tail_floor_d) == (9, 6)
    assert bowline.differing({"hand": "as-drawn", "turns": "round-turn"}) == {"turns": "round-turn"}
    for wrong in ({"turns": "nine"}, {"colour": "red"}):
        with pytest.raises(ValueError, match="has no"):
            bowline.chosen(wrong)


@pytest.mark.parametrize("key", shipped_texts())
def test_every_shipped_structure_keeps_to_the_schema(key):
    assert parse_structure(key, shipped_texts()[key]) == load_catalogue()[key]
