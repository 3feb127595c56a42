"""Results that went wrong in silence: each with what set it off."""

import subprocess
import sys
from dataclasses import replace

import pytest

from bruiser.core.choice.brief import Criterion
from bruiser.core.choice.criteria import Measure, Met, PassCriterion
from bruiser.core.choice.guide import ListFacts, TurnedFacts
from bruiser.core.choice.rating import RatingLimits
from bruiser.core.errors import InputError
from bruiser.core.memory import Memory, content_of
from bruiser.core.records.layouts import End
from bruiser.core.records.method_kinds import Tells
from bruiser.core.records.records import JamLevel, KnotInspection
from bruiser.core.units import parse_share
from bruiser.formats.guide_pages import worth_a_list
from bruiser.workshop.desk.brief_commands import WriteCriterion
from bruiser.workshop.desk.lot_commands import EditLot
from bruiser.workshop.findings.inspecting import FindingDraft, check_draft
from bruiser.workshop.groups.gathering import gather
from bruiser.workshop.groups.jam_results import jam_row
from bruiser.workshop.groups.knot_cases import knot_cases
from bruiser.workshop.groups.slipping import slip_row
from bruiser.workshop.guide.book import read_limits, set_limits
from bruiser.workshop.guide.content import data_revision
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.results.judging import judge_lot
from bruiser.workshop.results.lot_results import lot_results
from bruiser.workshop.results.overview import SLIPPING, SheetQuery, overview


def test_a_list_that_only_says_let_go_is_in_the_guide():
    gone = TurnedFacts(name="Bowline", why="let go ring load: 3 of 5", pulled=True, by_pulls=True)
    kind = TurnedFacts(name="Reef", why="is a binding", pulled=True, by_pulls=False)
    never = TurnedFacts(name="Clove", why="in any words", pulled=False, by_pulls=False)
    assert worth_a_list(ListFacts(lot="l", rows=(), not_ranked=(), excluded=(gone,), other_kinds=0))
    assert not worth_a_list(
        ListFacts(lot="l", rows=(), not_ranked=(never,), excluded=(kind,), other_kinds=0)
    )
    assert worth_a_list(
        ListFacts(
            lot="l", rows=(), not_ranked=(replace(never, pulled=True),), excluded=(), other_kinds=0
        )
    )


def slips(workshop, lot_id, memory, **more):
    logbook = read_logbook(workshop)
    return overview(
        logbook, SheetQuery(sheet="slip", work=SLIPPING, lot_ids=(lot_id,), **more), memory
    ).slip


def test_a_corrected_diameter_changes_what_security_says_at_once(workshop):
    memory, logbook = Memory(), read_logbook(workshop)
    lot = next(x for x in logbook.lots if x.name == "R8")
    before = slips(workshop, lot.id, memory)
    revision = data_revision(logbook)
    workshop.do(EditLot(replace(lot, diameter_m=2 * lot.diameter_m)))
    after = slips(workshop, lot.id, memory)
    fresh = slips(workshop, lot.id, Memory())
    assert repr(after) == repr(fresh) != repr(before)
    assert data_revision(read_logbook(workshop)) != revision
    computed = memory.computed
    slips(workshop, lot.id, memory)
    assert memory.computed == computed


def test_every_part_of_a_case_is_in_its_key(logbook, gathered):
    case = next(
        c for lot in logbook.lots for c in knot_cases(gathered, lot.id) if c.that_tell(Tells.CYCLES)
    )
    group = case.groups[0]
    t = group.tried[0]
    changed = [
        replace(case, lot=replace(case.lot, diameter_m=1.0)),
        replace(case, name="x"),
        *(
            replace(
                case, groups=(replace(group, tried=(other, *group.tried[1:])), *case.groups[1:])
            )
            for other in (
                replace(t, entry=replace(t.entry, readings=())) if t.entry.readings else t,
                replace(t, finding=replace(t.finding, peak_load_n=1.0)),
                replace(t, entry=replace(t.entry, analysis=None)),
                replace(t, kind="outlasted" if t.kind != "outlasted" else "broke"),
            )
        ),
    ]
    keys = {case.content, *(c.content for c in changed)}
    assert len(keys) >= len(changed)
    with pytest.raises(TypeError, match="cannot be a key"):
        content_of({1, 2})


def test_security_is_judged_by_the_limits_of_the_campaign(workshop):
    shipped = RatingLimits()
    strict = replace(shipped.security, came_out=(0.0, 0.001), onset=(0.99, 0.98))
    set_limits(workshop, replace(shipped, security=strict))
    limits = read_limits(workshop).security
    assert limits == strict
    logbook = read_logbook(workshop)
    lot = next(x for x in logbook.lots if x.name == "R8")
    memory = Memory()
    usual = slips(workshop, lot.id, memory)
    ours = slips(workshop, lot.id, memory, security=limits)
    by_name = {r.case.name: r.verdict for r in usual}
    assert {r.case.name: r.verdict for r in ours} != by_name
    for row, kept in ((r, strict) for r in ours):
        onset = next(c for c in row.verdict.criteria if c.name == "first slip")
        assert (onset.good, onset.poor) == kept.onset


def test_a_criterion_on_cycles_is_judged(workshop):
    gathered = gather(read_logbook(workshop))
    case = next(
        c
        for lot in gathered.tied
        for c in knot_cases(gathered, lot)
        if len(c.that_tell(Tells.CYCLES)) > 1
    )
    tried = case.that_tell(Tells.CYCLES)
    counts = slip_row(case, None).cycles.pulls
    most, knot = max(n for _, n, _ in counts), case.knot.id
    for threshold, expected in ((1, Met.MET), (most + 5_000, Met.NOT_MET)):
        rule = PassCriterion(
            measure=Measure.CYCLES, threshold=threshold, need=1, of=len(tried), at_least=True
        )
        made = Criterion(
            id=workshop.new_id(),
            made_at=workshop.now(),
            rule=rule,
            lot_ids=(case.lot.id,),
            knot_ids=(knot,),
        )
        workshop.do(WriteCriterion(made))
        logbook = read_logbook(workshop)
        found = judge_lot(logbook, lot_results(logbook, case.lot), gather(logbook))
        mine = next(j for j in found if j.criterion.id == made.id)
        result = mine.result
        told = {*result.passed, *result.failed, *result.cannot_say}
        assert told == {t.finding.pull_id for t in tried}
        if threshold == 1:
            assert result.met is expected
        else:
            assert (result.passed, result.met is Met.MET) == ((), False)
            assert set(result.failed) == {p for p, _, out in counts if out}


@pytest.mark.parametrize(
    ("level", "up"),
    [(JamLevel.HAND, False), (JamLevel.TOOL, False), (JamLevel.CUT, True), (JamLevel.FUSED, True)],
)
def test_untying_is_given_up_where_a_knot_never_came_open(workshop, level, up):
    logbook = read_logbook(workshop)
    entry = next(e for e in logbook.at(Stage.INSPECTED) if e.specimen.layout_key == "loop_pair")
    place = entry.specimen.layout.places[2].key
    draft = FindingDraft(
        gave=entry.finding.gave, place=entry.finding.place or place,
        jams={End.A: level, End.B: level}, untie={End.A: "40 s", End.B: "40 s"}, by="A",
        draws={"tail_a": "5 mm", "tail_b": "5 mm"},
        correction="read anew", against="so seen",
    )  # fmt: skip
    finding, errors = check_draft(entry, draft, workshop.units)
    assert errors == {}
    seen = next(i for i in finding.inspections if i.jam_level is level)
    assert (seen.gave_up, seen.given_up) == (up, up)
    assert KnotInspection(end=End.A, jam_level=level, untie_s=40.0).given_up is up


def test_steps_that_ended_in_cutting_or_fusing_are_given_up_and_a_tool_is_not(logbook, gathered):
    rows = [
        jam_row(case, 1e4)
        for lot in logbook.lots
        for case in knot_cases(gathered, lot.id)
        if case.that_tell(Tells.STEPS)
    ]
    steps = [u for row in rows for u in row.attempts if u.stepped]
    assert steps
    for u in steps:
        assert u.gave_up == (u.level in (JamLevel.CUT, JamLevel.FUSED))


@pytest.mark.parametrize("text", ["30 mm", "3 kN", "5 s", "3 in", "2 %%", "5 % mm", "m"])
def test_a_percentage_refuses_a_unit_of_another_dimension(text):
    with pytest.raises(InputError, match="percentage"):
        parse_share(text)


@pytest.mark.parametrize("text", ["3.1 %", "3,1%", "3.1", " 3.10 % "])
def test_a_percentage_is_read_with_or_without_its_sign(text):
    assert parse_share(text) == pytest.approx(0.031)


@pytest.mark.long
def test_output_that_is_closed_early_is_no_fault(usual_file):
    command = [sys.executable, "-m", "bruiser.app.cli", "results", str(usual_file), "--json"]
    piped = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE)
    piped.stdout.read(20)
    piped.stdout.close()
    said = piped.stderr.read()
    piped.stderr.close()
    assert (piped.wait(), said) == (0, b"")
