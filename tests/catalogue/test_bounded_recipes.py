"""Recipes and structures longer, deeper or stranger than any of ours are refused in words."""

import pytest

from bruiser.app.recent import RecentCampaign
from bruiser.catalogue import parse_structure
from bruiser.catalogue.drawings import recipe_from_text
from bruiser.core.errors import InputError
from bruiser.store.server.address import read_address

POINTS = "[[ropes]]\nid = 'A'\npath = '" + " ".join(["0,0"] * 3_000) + "'\n"
HOSTILE = (
    POINTS,
    "a = " + "[" * 50_000,
    ".".join(["a"] * 20_000) + " = 1",
    "x" * 300_000,
    "[[ropes]]\nid = 'A'\npath = '0,0 1,0 2,1'\n[cut]\nB = [1, 1]\n",
)


@pytest.mark.parametrize("text", HOSTILE, ids=["points", "brackets", "dots", "long", "cut"])
def test_a_hostile_recipe_is_refused_in_words(text):
    with pytest.raises(InputError):
        recipe_from_text("own", text)


@pytest.mark.parametrize("text", HOSTILE[1:4], ids=["brackets", "dots", "long"])
def test_a_hostile_structure_is_refused_in_words(text):
    with pytest.raises(InputError):
        parse_structure("own", text)


def test_a_path_that_no_file_can_have_is_listed_as_not_there():
    assert not RecentCampaign(path="/" + "x" * 5_000, title="Long").there


def test_no_password_of_any_kind_stands_in_an_address_and_the_line_is_remembered():
    with pytest.raises(InputError, match="password"):
        read_address("postgresql://lab/ridge?sslpassword=secret")
    said = read_address("postgresql://lab/ridge").with_option("sslmode", "verify-full")
    assert str(said) == "postgresql://lab/ridge?sslmode=verify-full"
