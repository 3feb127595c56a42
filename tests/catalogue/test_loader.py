import pytest

from bruiser.catalogue.loader import load_catalogue, parse_structure
from bruiser.core.errors import InputError

GOOD = """family = "bend"
layout = "bend"
tail_usual_d = 14
tail_floor_d = 10
cord_use_d = 20
[[names]]
name = "Sheet bend"
trade = "sailing"
"""


def test_every_shipped_structure_loads_with_two_trades_names():
    found = load_catalogue()
    assert len(found) >= 6
    for structure in found.values():
        assert len({n.trade for n in structure.names}) >= 2
        assert structure.tail_usual_d >= structure.tail_floor_d


@pytest.mark.parametrize(
    ("change", "field"),
    [
        (("tail_usual_d = 14", "tail_usual_d = 4"), "tail_usual_d"),
        (("cord_use_d = 20", ""), "cord_use_d"),
        (("cord_use_d = 20", "cord_use_d = -1"), "cord_use_d"),
        (('layout = "bend"', 'layout = "wheel"'), "layout"),
        (('family = "bend"', ""), "family"),
        (('trade = "sailing"', ""), "names"),
    ],
)
def test_a_wrong_file_is_refused_by_file_and_field(change, field):
    with pytest.raises(InputError) as caught:
        parse_structure("x", GOOD.replace(*change))
    assert caught.value.where == f"x.toml: {field}"


def test_what_is_no_toml_names_the_file():
    with pytest.raises(InputError, match=r"x\.toml"):
        parse_structure("x", "family = ")
