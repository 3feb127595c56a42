"""What is done on purpose stands behind numbers of its own, and says what it did."""

import pytest

from bruiser.core.records.layouts import lay
from bruiser.core.records.readings import Sheath, Takes
from bruiser.core.records.records import Gave, LengthAfter, Role
from bruiser.core.records.tied_state import TiedState
from bruiser.core.units import UnitChoice
from bruiser.workshop.findings.pull_words import pull_words
from bruiser.workshop.groups.gathering import gather
from bruiser.workshop.groups.knot_cases import knot_cases
from bruiser.workshop.groups.slipping import slip_rows
from bruiser.workshop.groups.work_results import damage_rows, work_rows
from bruiser.workshop.results.lot_results import all_results
from bruiser.workshop.results.tail_lengths import say_tail_lengths, tail_lengths
from bruiser.workshop.results.work_words import say_damage, say_grip
from tests.build import Situation

CORD = "lot R8"
SLING = TiedState(around_m=0.8, joint_m=0.2)
CUT = TiedState(cut_share=0.4)


@pytest.fixture(scope="module")
def situation():
    s = Situation()
    cord, host = s.lot("R8"), s.lot("R11", diameter_m=0.011)
    s.pull("double-fishermans", cord, 5_900.0, 6_000.0, 6_100.0)
    s.pull("double-fishermans", cord, 11_800.0, 12_000.0, 12_200.0, layout_key="sling", state=SLING)
    for load in (5_400.0, 5_500.0, 5_600.0):
        made = s.specimen(cord, s.entries[0].specimen.method, role=Role.BASELINE, state=CUT)
        s._add(made, load, Gave.BROKE, "span")
    s.pull("alpine-butterfly", cord, 6_500.0, 6_600.0, 6_700.0)
    s.pull("alpine-butterfly", cord, 6_400.0, 6_500.0, 6_600.0, state=CUT)
    s.pull("sheet-bend", cord, 5_000.0, 5_100.0, 5_200.0, drew_m=0.020)
    short = TiedState(tail_d=3.0)
    s.pull("sheet-bend", cord, 2_000.0, 2_100.0, gave=Gave.CAME_OUT, state=short)
    s.pull("sheet-bend", cord, 5_100.0, drew_m=0.022, state=short)
    for load, look in ((2_000.0, Sheath.CLEAN), (2_100.0, Sheath.GLAZED), (2_200.0, Sheath.GLAZED)):
        s.pull(
            "prusik", cord, load, gave=Gave.STOPPED, method="cord on rope", lot_b=host,
            values=(("wraps", 3.0),),
            readings=lambda e, at=load, seen=look: [
                s.reading(e, Takes.SLID, 1, at, 1.0),
                s.reading(e, Takes.SHEATH, 1, 0.0, note=seen.value),
            ],
        )  # fmt: skip
    return s


@pytest.fixture(scope="module")
def logbook(situation):
    return situation.logbook()


@pytest.fixture(scope="module")
def gathered(logbook):
    return gather(logbook)


def test_a_joint_in_a_sling_bears_half_of_what_the_bench_reads(logbook, gathered):
    rows = {r.name: r for r in all_results(gathered)[CORD].knots}
    joint = [r for r in rows.values() if r.key.state == SLING.words]
    end_to_end = rows["Double fisherman's"]
    assert [r.efficiency.interval.value for r in joint] == [
        pytest.approx(end_to_end.efficiency.interval.value, rel=1e-9)
    ]
    slung = next(e for e in logbook.entries if e.specimen.layout_key == "sling")
    assert "5.90 kN in each of its legs" in pull_words(slung, UnitChoice())


def test_a_sling_gives_at_its_joint_or_in_a_leg():
    layout = lay("sling")
    assert [p.key for p in layout.places if p.owner] == ["nip_a", "knot_a", "nip_a2"]
    assert layout.place("leg_2").owner is None
    assert [s.key for s in layout.lengths] == ["joint_a"]
    moved = LengthAfter("joint_a", 0.21, 0.2)
    assert moved.change_m == pytest.approx(0.01)


def test_a_cut_rope_is_no_plain_rope_and_a_loop_takes_the_cut_out_of_the_line(gathered):
    assert len(gathered.plain[CORD].tried) == 5
    rope, loop = damage_rows(gathered, CORD)
    assert rope.knot is None
    assert rope.found.share.value == pytest.approx(0.55, abs=0.01)
    assert loop.knot.structure == "alpine-butterfly"
    assert loop.found.interval.value == pytest.approx(6_500.0, rel=0.01)
    assert "lying in its eye" in say_damage(loop, UnitChoice())
    assert "Plain rope cut through by 40 % gives at 5.50 kN" in say_damage(rope, UnitChoice())


def test_how_long_a_tail_is_enough_is_said_from_every_length_with_its_draw(logbook, gathered):
    baseline = all_results(gathered)[CORD].baseline.median_n
    rows = slip_rows([(case, baseline) for case in knot_cases(gathered, CORD)])
    plain = next(r for r in rows if r.case.name == "Sheet bend")
    found = tail_lengths(rows, plain)
    assert [(t.said, t.out, t.gave) for t in found] == [
        ("usual tail, 12 d", 0, 3),
        ("tail 3 d", 2, 3),
    ]
    said = " ".join(say_tail_lengths(found, UnitChoice()))
    assert "tail 3 d: 2 of 3 came out" in said
    assert "held drew more than 2.8 d (22 mm)" in said
    other = next(r for r in rows if r.case.name == "Alpine butterfly")
    assert tail_lengths(rows, other) == []
    assert say_tail_lengths([], UnitChoice()) == []


def test_how_the_sheaths_looked_is_counted(gathered):
    (grip,) = [r for r in work_rows(gathered, CORD) if r.result.grip is not None]
    assert dict(grip.result.grip.sheaths) == {Sheath.CLEAN: 1, Sheath.GLAZED: 2}
    assert "Sheaths where it gripped: clean 1, glazed 2." in say_grip(grip, UnitChoice())
