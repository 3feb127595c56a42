import math

import pytest

from bruiser.core.choice.criteria import Measure, Met, Observed, PassCriterion, judge_criterion
from bruiser.core.performance.claims import ClaimKind, ClaimVerdict, judge_interval, judge_never
from bruiser.core.performance.groups import GroupKey, TiedOn, labels, merge
from bruiser.core.statistics.measurement import LoadCell, ratio_with_cells, with_cell
from bruiser.core.statistics.strength import Interval

_PIN = TiedOn(diameter_m=0.012, over_cord=1.5)
KEEPS = ClaimKind.KEEPS_AT_LEAST


@pytest.mark.parametrize(
    ("interval", "verdict"),
    [
        (Interval(0.72, 0.68, 0.76), ClaimVerdict.SUPPORTED),
        (Interval(0.50, 0.45, 0.58), ClaimVerdict.CONTRADICTED),
        (Interval(0.63, 0.57, 0.69), ClaimVerdict.UNDECIDED),
        (None, ClaimVerdict.UNDECIDED),
    ],
)
def test_keeps_at_least_is_judged_by_the_whole_interval(interval, verdict):
    found = judge_interval(KEEPS, interval, 5, lower=0.60, pull_ids=("p1",))
    assert (found.verdict, found.pull_ids) == (verdict, ("p1",))


def test_a_claim_between_two_margins_needs_both_sides():
    kind = ClaimKind.CHANGES_LESS_THAN
    inside = judge_interval(kind, Interval(0.0, -0.03, 0.03), 8, lower=-0.05, upper=0.05)
    across = judge_interval(kind, Interval(0.01, -0.06, 0.06), 8, lower=-0.05, upper=0.05)
    assert (inside.verdict, across.verdict) == (ClaimVerdict.SUPPORTED, ClaimVerdict.UNDECIDED)


def test_more_pulls_shrink_the_interval_until_it_decides():
    found = judge_interval(KEEPS, Interval(0.64, 0.56, 0.72), 5, lower=0.60)
    assert found.more_pulls == math.ceil(5 * (0.08 / 0.04) ** 2) - 5
    assert judge_interval(KEEPS, Interval(0.60, 0.5, 0.7), 5, lower=0.60).more_pulls is None


def test_never_is_contradicted_by_one_and_supported_by_many():
    kind = ClaimKind.NEVER_COMES_OUT
    assert judge_never(kind, 1, 12).verdict is ClaimVerdict.CONTRADICTED
    few = judge_never(kind, 0, 6)
    assert (few.verdict, few.more_pulls) == (ClaimVerdict.UNDECIDED, 23)
    assert judge_never(kind, 0, 29).verdict is ClaimVerdict.SUPPORTED
    assert judge_never(kind, 0, 0).interval is None


FIVE = PassCriterion(measure=Measure.HOLDS_SHARE, threshold=0.60, need=4, of=5)


def readings(*values, floors=()):
    return [Observed(f"p{k}", v, k in floors) for k, v in enumerate(values)]


@pytest.mark.parametrize(
    ("given", "met"),
    [
        (readings(0.7, 0.7, 0.65, 0.61), Met.MET),
        (readings(0.7, 0.5, 0.5), Met.NOT_MET),
        (readings(0.7, 0.5, 0.7), Met.OPEN),
        (readings(0.7, 0.7, 0.7, 0.5, 0.5, floors={3, 4}), Met.OPEN),
        (readings(0.7, 0.7, 0.7, 0.5, 0.61, 0.2, floors={4}), Met.MET),
        ([], Met.OPEN),
    ],
)
def test_k_of_n_is_met_not_met_or_open(given, met):
    found = judge_criterion(FIVE, given)
    assert found.met is met
    assert set(found.passed) | set(found.failed) | set(found.cannot_say) == {
        r.pull_id for r in given[:5]
    }


def test_a_floor_cannot_show_that_a_value_stayed_below():
    low = PassCriterion(measure=Measure.DRAW_D, threshold=2.0, need=1, of=1, at_least=False)
    assert judge_criterion(low, readings(1.0)).met is Met.MET
    assert judge_criterion(low, readings(1.0, floors={0})).met is Met.OPEN
    assert judge_criterion(low, readings(3.0, floors={0})).met is Met.NOT_MET
    with pytest.raises(ValueError, match="need"):
        PassCriterion(measure=Measure.DRAW_D, threshold=2.0, need=3, of=2)


A, B = (
    LoadCell(id="A", capacity_n=25_000, resolution_n=2.0, class_percent=1.0),
    LoadCell(id="B", capacity_n=25_000, resolution_n=2.0, class_percent=0.5),
)


def test_the_cells_error_cancels_on_one_cell_and_not_on_two():
    ratio = Interval(0.7, 0.66, 0.74)
    same = ratio_with_cells(ratio, (A,), (A,), 7_000)
    other = ratio_with_cells(ratio, (A,), (B,), 7_000)
    assert (same.interval, same.systematic) == (ratio, 0.0)
    assert "cancels" in same.words
    assert other.systematic == pytest.approx(math.hypot(0.01, 0.005) / math.sqrt(3), rel=1e-3)
    assert other.interval.low < ratio.low < ratio.high < other.interval.high
    load = with_cell(Interval(7_000, 6_900, 7_100), (A, B), 7_000)
    assert load.interval.high == pytest.approx(
        7_000 * math.exp(math.hypot(math.log(71 / 70), 1.96 * load.systematic))
    )


def test_a_cell_of_unknown_class_is_not_taken_as_faultless():
    unknown = LoadCell(id="C", capacity_n=25_000, resolution_n=2.0, class_percent=None)
    ratio = Interval(0.7, 0.66, 0.74)
    assert "cancels" in ratio_with_cells(ratio, (unknown,), (unknown,), 7_000).words
    for found in (
        ratio_with_cells(ratio, (A,), (unknown,), 7_000),
        with_cell(ratio, (unknown,), 1),
    ):
        assert found.interval == ratio
        assert "not recorded" in found.words


def test_groups_are_named_by_what_sets_them_apart():
    thin, thick = (
        GroupKey(knot="bowline", cordage="P8", condition="dry", host=TiedOn(diameter_m=d / 1000))
        for d in (12, 30)
    )
    other = GroupKey(knot="eight", cordage="P8", condition="dry", host=TiedOn(diameter_m=0.012))
    found = labels([thin, thick, other])
    assert found[thin] == "bowline, pin 12 mm"
    assert found[thick] == "bowline, pin 30 mm"
    assert found[other] == "eight"
    bare = GroupKey(knot="bowline", cordage="P8", condition="dry")
    assert labels([thin, bare])[bare] == "bowline, no host"


def test_what_is_usual_is_not_said_in_a_name():
    plain = GroupKey(knot="eight", cordage="P8", condition="dry", host=_PIN)
    crossed = GroupKey(knot="eight", cordage="P8", condition="dry", host=_PIN, dressing="crossed")
    edge = GroupKey(
        knot="eight",
        cordage="P8",
        condition="dry",
        host=TiedOn(name="edge 1", material="steel", over_cord=1.0),
        method="over an edge",
    )
    found = labels([plain, crossed, edge])
    assert found[plain] == "eight, pin 12 mm"
    assert found[crossed] == "eight, pin 12 mm, crossed"
    assert found[edge] == "eight, edge 1, over an edge"


def test_names_that_would_be_alike_say_everything():
    one = GroupKey(
        knot="eight",
        cordage="P8",
        condition="dry",
        host=TiedOn(name="post 1", finish="rough", material="steel"),
    )
    two = GroupKey(
        knot="eight",
        cordage="P8",
        condition="dry",
        host=TiedOn(name="post 1", finish="smooth", material="steel"),
    )
    found = labels([one, two])
    assert found == {one: "eight, post 1, rough steel", two: "eight, post 1, smooth steel"}
    assert labels([]) == {}


def test_what_a_knot_is_tied_on_is_a_record_whose_words_come_last():
    same = TiedOn(diameter_m=0.012 + 1e-12, over_cord=1.5 - 1e-9)
    other = TiedOn(diameter_m=0.01204, over_cord=1.505)
    assert same == _PIN
    assert str(_PIN) == "pin 12 mm, D/d 1.5"
    assert other != _PIN
    post = TiedOn(name="post 1", diameter_m=0.06, over_cord=7.5, finish="painted", material="steel")
    assert (post.called, str(post)) == ("post 1", "post 1, painted steel, D/d 7.5")
    assert (TiedOn().called, str(TiedOn())) == ("", "")


def test_groups_are_merged_only_by_the_user_and_say_so():
    wet = GroupKey(knot="bowline", cordage="P8", condition="wet")
    dry = GroupKey(knot="bowline", cordage="P8", condition="dry")
    both = merge([wet, dry, dry])
    assert both.merged
    assert both.name == "bowline, merged over condition: dry, wet"
    assert not merge([wet]).merged
    with pytest.raises(ValueError, match="cannot be merged"):
        merge([wet, GroupKey(knot="bowline", cordage="N6", condition="wet")])
    with pytest.raises(ValueError, match="nothing"):
        merge([])
