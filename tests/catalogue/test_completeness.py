"""Every shipped entry is complete and agrees with the others."""

import itertools
from collections import Counter

import pytest

from bruiser.catalogue import load_catalogue
from bruiser.catalogue.finding import Need, find_structures, fold, meets, name_clashes
from bruiser.catalogue.structure import Answer
from bruiser.core.choice.use_profile import PROFILES
from bruiser.core.records.families import FAMILIES, TRADES
from bruiser.core.records.layouts import LAYOUTS, PlaceKind
from bruiser.core.records.methods import METHOD_LIST

CATALOGUE = load_catalogue()
AT_LEAST = {
    "end loop": 10, "midline loop": 6, "double loop": 4, "adjustable loop": 4, "bend": 12,
    "hitch on a host": 9, "friction hitch": 5, "tensioning system": 1, "binding": 5,
    "stopper": 4, "quick release": 2,
}  # fmt: skip
ANSWERS = ("needs_end", "in_the_bight", "closed_ring", "slippery", "opens")


@pytest.fixture(params=CATALOGUE.values(), ids=CATALOGUE)
def structure(request):
    return request.param


def test_every_family_is_furnished():
    found = Counter(f for s in CATALOGUE.values() for f in s.families)
    assert len(CATALOGUE) >= 76
    for family, least in AT_LEAST.items():
        assert found[family] >= least, family


def test_an_entry_is_complete(structure):
    for words in (structure.dressing, structure.setting, structure.weaknesses, structure.never):
        assert words
        assert all(len(w) > 12 and w.endswith(".") for w in words)
    assert len(structure.front) > 20
    assert len(structure.back) > 20
    assert len(structure.opening) > 20
    assert structure.directions
    assert structure.cord_use_d > 0
    assert {n.trade for n in structure.names} <= set(TRADES)
    if structure.family in ("hitch on a host", "friction hitch"):
        assert structure.host is not None
    assert structure.layout in LAYOUTS


def test_a_name_belongs_to_a_trade_and_is_said_once(structure):
    said = [(fold(n.name), n.trade) for n in structure.names]
    assert len(said) == len(set(said))
    assert "" not in {name for name, _ in said}


def test_what_needs_no_end_is_not_said_to_need_one(structure):
    if structure.in_the_bight is Answer.YES:
        assert structure.needs_end is not Answer.YES
    if structure.needs_end is Answer.YES:
        assert not meets(structure, Need.NO_END)


def test_tails_stay_above_floors_in_every_variant(structure):
    keys = [[(a.key, o.key) for o in a.options] for a in structure.axes]
    for picked in itertools.islice(itertools.product(*keys), 400):
        rule = structure.cord_rule(dict(picked))
        assert 0 <= rule.tail_floor_d <= rule.tail_usual_d
        assert rule.cord_d > 0
    ends = LAYOUTS[structure.layout].tails
    if structure.tail_floor_d == 0:
        assert structure.needs_end is not Answer.YES or not ends


def test_look_alikes_exist_and_point_back(structure):
    for other in structure.look_alikes:
        assert other.structure != structure.key
        assert structure.key in {x.structure for x in CATALOGUE[other.structure].look_alikes}


@pytest.mark.parametrize(
    "texts",
    [
        lambda s: [s.front, s.back],
        lambda s: s.setting,
        lambda s: s.dressing,
        lambda s: [x.tell for x in s.look_alikes],
        lambda s: [x.when for x in s.look_alikes],
        lambda s: [s.opening],
    ],
    ids=["cues", "setting", "dressing", "tell", "when", "opening"],
)
def test_no_text_is_copied_from_one_structure_to_another(texts):
    said = Counter(fold(t) for s in CATALOGUE.values() for t in texts(s))
    assert [t for t, times in said.items() if times > 1] == []


def test_the_share_not_established_is_reported(record_property):
    given = [getattr(s, field) for s in CATALOGUE.values() for field in ANSWERS]
    share = given.count(Answer.NOT_ESTABLISHED) / len(given)
    record_property("not_established", share)
    print(f"not established: {100 * share:.1f} % of {len(given)} answers")
    assert 0 < share < 0.25


def test_variants_asked_for_are_there():
    for key, axes in {
        "bowline": {"turns", "finish", "tail", "hand", "slip"},
        "figure-eight-loop": {"backup", "hand"},
        "prusik": {"wraps"},
        "blood-dropper-loop": {"turns"},
    }.items():
        assert axes <= {a.key for a in CATALOGUE[key].axes}, key


def test_names_are_found_in_any_trade():
    assert "bowline" in {s.key for s in find_structures(CATALOGUE.values(), "bowl")}
    found = find_structures(CATALOGUE.values(), "becket")
    assert [s.key for s in found][:1] == ["sheet-bend"] or "sheet-bend" in {s.key for s in found}
    assert find_structures(CATALOGUE.values(), "zzz") == []
    midline = find_structures(CATALOGUE.values(), needs=[Need.MIDLINE, Need.NO_END])
    assert midline
    assert all(s.family == "midline loop" for s in midline)


@pytest.mark.parametrize(
    ("said", "key"),
    [
        ("tucked bowline", "bowline"),
        ("water bowline", "bowline"),
        ("stopped bowline", "bowline"),
        ("EDK", "flat-overhand"),
        ("offset overhand", "flat-overhand"),
        ("master point", "four-strand-master-loop"),
        ("power point", "four-strand-master-loop"),
        ("third hand", "autoblock"),
        ("french prusik", "autoblock"),
        ("bunny ears", "double-figure-eight-loop"),
        ("double-eyed bowline", "bowline-on-the-bight"),
    ],
)
def test_short_forms_and_regional_names_lead_to_their_structure(said, key):
    assert key in {s.key for s in find_structures(CATALOGUE.values(), said, variants=True)}
    # Some of them name a variant: none stands for its structure in any trade.
    assert said not in {CATALOGUE[key].name_in(trade).lower() for trade in TRADES}


def test_a_name_that_means_another_knot_elsewhere_is_told():
    clashes = {c.name for s in CATALOGUE.values() for c in name_clashes(s, CATALOGUE)}
    assert "Fisherman's bend" in {c.replace("’", "'") for c in clashes}
    for s in CATALOGUE.values():
        for clash in name_clashes(s, CATALOGUE):
            back = {(c.name, c.other) for c in name_clashes(CATALOGUE[clash.other], CATALOGUE)}
            assert s.key in {other for _, other in back}


def test_every_layout_used_can_say_where_it_gave():
    for s in CATALOGUE.values():
        kinds = {p.kind for p in LAYOUTS[s.layout].places}
        assert PlaceKind.KNOT in kinds


def test_every_family_named_anywhere_is_one_that_is_known():
    named = {f for m in METHOD_LIST for f in m.families}
    named |= {f for p in PROFILES for f in p.families}
    assert named <= set(FAMILIES)
    assert {s.family for s in CATALOGUE.values()} == set(FAMILIES)
    assert {n.trade for s in CATALOGUE.values() for n in s.names} <= set(TRADES)
