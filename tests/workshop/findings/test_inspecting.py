from dataclasses import replace

import pytest

from bruiser.app.demo_pulls import pull_specimen
from bruiser.core.records.layouts import End
from bruiser.core.records.records import Gave, JamLevel
from bruiser.core.units import UnitChoice
from bruiser.workshop.findings.inspecting import (
    FindingDraft,
    accept_draft,
    check_draft,
    contradiction,
    draft_of,
)
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.live import read_logbook
from tests.servers import home_daily_on_a_file  # noqa: F401  (on a server in full runs)

UNITS = UnitChoice()


@pytest.fixture
def entry(workshop):
    specimen = read_logbook(workshop).next_to_pull().specimen
    pull_id, _ = pull_specimen(workshop, specimen, "TV")
    return read_logbook(workshop).by_pull[pull_id]


def good():
    return FindingDraft(
        gave=Gave.BROKE,
        place="nip_b",
        draws={"tail_a": "6 mm", "tail_b": "3/8 in"},
        jams={End.A: JamLevel.TOOL, End.B: JamLevel.NOT_TRIED},
        untie={End.A: "2 min"},
    )


@pytest.mark.parametrize(
    ("change", "field", "says"),
    [
        ({"gave": None}, "place", "how it gave"),
        ({"place": None}, "place", "missing"),
        ({"gave": Gave.CAME_OUT}, "place", "cannot happen"),
        ({"gave": Gave.VOID}, "void_reason", "why"),
        ({"draws": {"tail_a": "6 mm"}}, "draw.tail_b", "0 if it did not"),
        ({"draws": {"tail_a": "6 mm", "tail_b": "some"}}, "draw.tail_b", "no number"),
        ({"draws": {"tail_a": "-1 mm", "tail_b": "0"}}, "draw.tail_a", "negative"),
        ({"draws": {"tail_a": "900 mm", "tail_b": "0"}}, "draw.tail_a", "cannot have drawn more"),
        ({"peak": "26 kN"}, "peak", "capacity"),
        ({"peak": "lots"}, "peak", "no number"),
        ({"peak": "0"}, "peak", "void"),
        ({"jams": {}}, "jam.A", "untie"),
        ({"untie": {End.A: "a while"}}, "untie.A", "no number"),
    ],
)
def test_bad_input_is_named_by_its_field_and_nothing_is_stored(
    workshop, entry, change, field, says
):
    draft = replace(good(), **change)
    errors = accept_draft(workshop, entry, draft)
    assert list(errors) == [field]
    assert says in errors[field]
    assert read_logbook(workshop).by_pull[entry.pull.id].stage is Stage.PULLED


def test_a_good_finding_is_stored_in_si_and_can_be_undone_and_redone(workshop, entry):
    assert accept_draft(workshop, entry, good()) == {}
    stored = read_logbook(workshop).by_pull[entry.pull.id]
    assert stored.stage is Stage.INSPECTED
    assert [d.draw_m for d in stored.finding.draws] == pytest.approx([0.006, 0.009525])
    assert stored.finding.peak_load_n == entry.analysis.peak_n
    assert stored.finding.inspections[0].untie_s == 120.0
    assert stored.finding.inspections[1].jam_level is JamLevel.NOT_TRIED
    workshop.undo()
    undone = read_logbook(workshop).by_pull[entry.pull.id]
    assert (undone.stage, len(undone.history)) == (Stage.PULLED, 0)
    workshop.redo()
    redone = read_logbook(workshop).by_pull[entry.pull.id]
    assert (redone.stage, len(redone.history)) == (Stage.INSPECTED, 1)
    assert redone.finding.draws == stored.finding.draws
    workshop.undo()
    assert workshop.undo() is None
    assert read_logbook(workshop).by_pull[entry.pull.id].stage is Stage.PULLED


def test_a_void_pull_needs_only_its_reason(workshop, entry):
    draft = FindingDraft(gave=Gave.VOID, void_reason="shackle slipped")
    assert accept_draft(workshop, entry, draft) == {}
    assert read_logbook(workshop).by_pull[entry.pull.id].stage is Stage.VOID


def test_a_finding_against_the_trace_is_pointed_out(entry):
    against = replace(good(), gave=Gave.STOPPED, place=None)
    assert "Look again" in contradiction(entry, against)
    agreeing = Gave.BROKE if entry.analysis.end == "broke" else Gave.CAME_OUT
    assert contradiction(entry, replace(good(), gave=agreeing)) == ""


def test_without_a_trace_the_peak_must_be_typed(entry):
    blind = replace(entry, analysis=None)
    assert "peak" in check_draft(blind, good(), UNITS)[1]
    finding, errors = check_draft(blind, replace(good(), peak="8.1 kN"), UNITS)
    assert errors == {}
    assert finding.peak_load_n == pytest.approx(8_100)


def test_only_a_pulled_specimen_can_be_inspected(entry):
    with pytest.raises(ValueError, match="pulled"):
        check_draft(replace(entry, pull=None), good(), UNITS)


@pytest.mark.parametrize("typed", ["> 90 s", ">90", "gave up after 1.5 min", "gave up 90 s"])
def test_giving_up_is_a_time_that_was_not_reached(workshop, entry, typed):
    draft = replace(good(), untie={End.A: typed})
    assert accept_draft(workshop, entry, draft) == {}
    stored = read_logbook(workshop).by_pull[entry.pull.id]
    seen = next(i for i in stored.finding.inspections if i.end is End.A)
    assert (seen.untie_s, seen.given_up) == (90.0, True)
    assert draft_of(stored, UNITS).untie[End.A] == "> 90 s"
