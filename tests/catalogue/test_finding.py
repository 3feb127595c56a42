"""Finding structures by name, family and what they must do."""

import pytest

from bruiser.catalogue import Need, find_structures, load_catalogue, name_clashes
from bruiser.catalogue.finding import BY_REPUTE, fold, meets
from bruiser.catalogue.structure import Answer

CATALOGUE = load_catalogue()


def keys(words="", **more):
    return [s.key for s in find_structures(CATALOGUE.values(), words, **more)]


@pytest.mark.parametrize(
    ("words", "key"),
    [
        ("bowl", "bowline"),
        ("becket", "sheet-bend"),
        ("weaver", "sheet-bend"),
        ("WEAVER'S", "sheet-bend"),
        ("weavers knot", "sheet-bend"),
        ("knot weavers", "sheet-bend"),
        ("flemish loop", "figure-eight-loop"),
        ("grapevine", "double-fishermans"),
        ("lineman", "alpine-butterfly"),
        ("peg", "clove-hitch"),
    ],
)
def test_any_name_of_any_trade_finds_it(words, key):
    assert key in keys(words)


@pytest.mark.parametrize("words", ["owline", "sheet loop", "xyz"])
def test_words_must_begin_words_of_one_name(words):
    assert "bowline" not in keys(words)


@pytest.mark.parametrize("structure", CATALOGUE.values(), ids=CATALOGUE)
def test_every_structure_is_found_by_every_name_it_has(structure):
    for name in structure.names:
        assert structure.key in keys(name.name), name


@pytest.mark.parametrize("need", Need)
def test_every_need_is_met_by_some_and_not_by_all(need):
    found = keys(needs=[need])
    assert 0 < len(found) < len(CATALOGUE)
    assert all(meets(CATALOGUE[k], need) for k in found)


def test_needs_add_up():
    both = set(keys(needs=[Need.NO_END, Need.OPENS]))
    assert both == set(keys(needs=[Need.NO_END])) & set(keys(needs=[Need.OPENS]))
    assert both
    assert set(BY_REPUTE) == {Need.SLIPPERY, Need.OPENS}


def test_what_varies_or_is_not_established_does_not_meet_a_need():
    for s in CATALOGUE.values():
        if s.opens in (Answer.VARIES, Answer.NOT_ESTABLISHED):
            assert not meets(s, Need.OPENS)


def test_a_family_counts_every_family_a_knot_belongs_to():
    assert "highwaymans" in keys(family="quick release")
    assert set(keys(family="bend")) >= {"sheet-bend", "double-fishermans", "carrick-bend"}
    assert all("bend" in CATALOGUE[k].families for k in keys(family="bend"))


def test_the_list_is_ordered_by_the_names_of_the_trade():
    rigging = [CATALOGUE[k].name_in("rigging").lower() for k in keys(trade="rigging")]
    assert rigging == sorted(rigging)
    assert keys(trade="rigging") != keys(trade="general")


@pytest.mark.parametrize(
    ("text", "folded"),
    [
        ("Ashley's bend", "ashleys bend"),
        ("Fisherman’s", "fishermans"),
        ("Figure-eight  loop", "figure eight loop"),
        ("", ""),
    ],
)
def test_names_are_folded(text, folded):
    assert fold(text) == folded


def test_six_names_mean_two_knots():
    clashes = {fold(c.name) for s in CATALOGUE.values() for c in name_clashes(s, CATALOGUE)}
    assert len(clashes) >= 6
    for s in CATALOGUE.values():
        for clash in name_clashes(s, CATALOGUE):
            assert clash.other != s.key
            assert fold(clash.name) in {fold(n.name) for n in CATALOGUE[clash.other].names}
