"""From the cut piece to the bench, and what is kept of it: sheets, trials, photos, history."""

import io
from dataclasses import replace

import numpy as np
import pytest
from PIL import Image

from bruiser.app.demo_pulls import pull_specimen
from bruiser.core.errors import InputError, Refused
from bruiser.core.records.layouts import End
from bruiser.core.records.legs import say_legs
from bruiser.core.records.preparation import Hands, PrepStep, TyingVerdict
from bruiser.core.records.records import Gave, JamLevel
from bruiser.core.units import UnitChoice
from bruiser.formats.photo import LARGEST_PX, take_in
from bruiser.formats.trace_file import write_trace_file
from bruiser.workshop.bench.recording import record_by_hand, record_from_file
from bruiser.workshop.desk import preparing
from bruiser.workshop.desk.preparing import TyingDraft
from bruiser.workshop.findings.directions import direction_matrix
from bruiser.workshop.findings.history import history
from bruiser.workshop.findings.inspecting import FindingDraft, accept_draft, draft_of
from bruiser.workshop.findings.photos import drop_photo, keep_photo, read_picture
from bruiser.workshop.logbook.entries import Stage, seconds_of
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.traces import read_trace
from tests.servers import home_daily_on_a_file  # noqa: F401  (on a server in full runs)

UNITS = UnitChoice()


def first(workshop):
    logbook = read_logbook(workshop)
    return logbook, logbook.next_to_pull()


def again(workshop, entry):
    entries = read_logbook(workshop).entries
    return next(e for e in entries if e.specimen.id == entry.specimen.id)


def picture(size=(400, 300), **more):
    room = io.BytesIO()
    Image.new("RGB", size, "white").save(room, "JPEG", **more)
    return room.getvalue()


def test_the_tying_sheet_tells_cues_tails_steps_and_wrong_ties(workshop):
    logbook, entry = first(workshop)
    (sheet,) = preparing.knot_sheets(logbook, entry.specimen, UNITS)
    assert sheet.where == "both ends"
    rule = logbook.catalogue[entry.specimen.knot_a.structure].cord_rule({})
    d = 1000 * entry.specimen.lot.diameter_m
    assert f"= {rule.tail_usual_d * d:.0f} mm" in sheet.tail_words
    assert all((sheet.cues[0], sheet.dressing, sheet.setting, sheet.look_alikes))
    points = preparing.check_list(logbook, entry.specimen)
    assert points == tuple(dict.fromkeys((*sheet.dressing, *sheet.setting)))
    crossed = replace(entry.specimen, dressing="crossed")
    assert preparing.CROSSED_STEP in preparing.check_list(logbook, crossed)


def test_what_is_not_ticked_is_recorded_as_not_done(workshop):
    logbook, entry = first(workshop)
    points = preparing.check_list(logbook, entry.specimen)
    draft = TyingDraft(
        set(points[:2]), False, {"tail_a": "102 mm", "eye_a": "12 cm", "cord": "70 cm"}
    )
    assert preparing.keep_tied(workshop, logbook, entry, draft, "") == {
        "by": "Say who tied it: initials are enough."
    }
    assert preparing.keep_tied(workshop, logbook, entry, draft, "TV") == {}
    tied = again(workshop, entry)
    assert tied.sheet.ticked == points[:2]
    assert tied.sheet.not_done == points[2:]
    assert tied.specimen.tail_length_m("tail_a") == pytest.approx(0.102)
    assert tied.sheet.length_m("eye_a") == pytest.approx(0.12)
    said = preparing.not_done(tied)
    assert "no ink marks" in said
    assert any(points[2] in words for words in said)
    readings = read_logbook(workshop).cord_readings
    assert readings[-1].length_m == pytest.approx(0.35)
    workshop.undo()
    assert again(workshop, entry).sheet is None
    assert len(read_logbook(workshop).cord_readings) == len(readings) - 1


@pytest.mark.parametrize(
    ("texts", "field"),
    [({"tail_a": "long"}, "tail_a"), ({"cord": "-2 m"}, "cord"), ({"set_load": "x"}, "set_load")],
)
def test_a_wrong_length_is_named_and_nothing_is_stored(workshop, texts, field):
    logbook, entry = first(workshop)
    errors = preparing.keep_tied(workshop, logbook, entry, TyingDraft(texts=texts), "TV")
    assert list(errors) == [field]
    assert again(workshop, entry).prepared == entry.prepared


def test_the_check_is_a_second_persons(workshop):
    logbook, entry = first(workshop)
    preparing.keep_tied(workshop, logbook, entry, TyingDraft(), "TV")
    with pytest.raises(Refused, match="tied S-"):
        preparing.keep_checked(workshop, again(workshop, entry), "tv")
    with pytest.raises(Refused, match="who"):
        preparing.keep_checked(workshop, again(workshop, entry), " ")
    preparing.keep_checked(workshop, again(workshop, entry), "OQ")
    assert again(workshop, entry).steps[PrepStep.CHECKED].by == "OQ"


def test_a_trial_keeps_seconds_attempts_hands_and_a_blind_verdict(workshop):
    _, entry = first(workshop)
    good = {
        "seconds": "24 s", "attempts": "2", "wrong": "1", "hands": Hands.GLOVES.value,
        "inspector": "OQ", "named": "bowline", "verdict": TyingVerdict.RIGHT.value,
    }  # fmt: skip
    for change, field in (
        ({"seconds": ""}, "seconds"),
        ({"attempts": "none"}, "attempts"),
        ({"wrong": "3"}, "wrong"),
        ({"inspector": ""}, "inspector"),
        ({"inspector": "TV"}, "inspector"),
    ):
        assert field in preparing.keep_trial(workshop, entry, good | change, "TV")
    assert preparing.keep_trial(workshop, entry, good, "TV") == {}
    trial = again(workshop, entry).steps[PrepStep.TRIAL].trial
    assert (trial.seconds, trial.attempts, trial.wrong) == (24.0, 2, 1)
    assert (trial.hands, trial.verdict, trial.named) == (
        Hands.GLOVES,
        TyingVerdict.RIGHT,
        "bowline",
    )


def test_the_conditioning_clock_runs_from_waiting_to_too_old(workshop):
    _, entry = first(workshop)
    lot = replace(entry.specimen.lot, soak_s=7_200.0, keep_s=1_200.0)
    wet = replace(entry, specimen=replace(entry.specimen, lot=lot))
    assert "has not started" in preparing.clock_words(wet, 0.0)
    assert preparing.clock_words(entry, 0.0) == ""
    preparing.start_soak(workshop, wet, "TV")
    soaking = replace(again(workshop, entry), specimen=wet.specimen)
    began = seconds_of(soaking.steps[PrepStep.SOAKING].made_at)
    for after, words in ((600, "ready in 1 h 50 min"), (7_300, "pull it within"), (9_000, "again")):
        assert words in preparing.clock_words(soaking, began + after)


def test_a_photo_is_kept_upright_small_and_without_its_data(workshop):
    exif = Image.Exif()
    exif[0x0112] = 6
    exif[0x8825] = {1: "N", 2: (50.0, 3.0, 1.0)}
    kept = take_in(picture((3_000, 1_000), exif=exif))
    assert (kept.width, kept.height) == (533, LARGEST_PX)
    with Image.open(io.BytesIO(kept.jpeg)) as opened:
        assert dict(opened.getexif()) == {}
    for raw, says in ((b"no picture", "no picture"), (b"x" * 40_000_001, "40 MB")):
        with pytest.raises(InputError, match=says):
            take_in(raw)


def test_photos_come_and_go_with_undo(workshop):
    _, entry = first(workshop)
    pull_id, _ = pull_specimen(workshop, entry.specimen, "TV")
    photo = keep_photo(workshop, pull_id, "remains.jpg", picture())
    assert again(workshop, entry).photos == (photo,)
    kept = read_picture(workshop, photo.id)
    drop_photo(workshop, photo)
    assert again(workshop, entry).photos == ()
    workshop.undo()
    assert read_picture(workshop, photo.id) == kept


def test_a_hand_scale_and_a_loggers_file_are_pulls_too(workshop, tmp_path):
    _, entry = first(workshop)
    pull_id = record_by_hand(workshop, entry.specimen, 0.008, 10_000.0, "TV")
    by_hand = read_logbook(workshop).by_pull[pull_id]
    assert by_hand.stage is Stage.PULLED
    assert by_hand.analysis is None
    _, entry = first(workshop)
    other, _ = pull_specimen(workshop, entry.specimen, "TV")
    trace = read_trace(workshop, read_logbook(workshop).by_pull[other].pull)
    path = tmp_path / "logged.csv"
    path.write_text(write_trace_file(trace))
    _, entry = first(workshop)
    logged = record_from_file(workshop, entry.specimen, path, 0.008, 25_000.0)
    found = read_logbook(workshop).by_pull
    assert found[logged].analysis.peak_n == pytest.approx(found[other].analysis.peak_n, rel=1e-3)
    path.write_text("time_s,load_N\n0,1\n0.1,2\n0.9,3\n1.0,4\n")
    _, entry = first(workshop)
    gaps = record_from_file(workshop, entry.specimen, path, 0.008, 25_000.0)
    kept = read_trace(workshop, read_logbook(workshop).by_pull[gaps].pull).load_n
    assert len(kept) == 11
    assert list(kept[[0, 1, 9, 10]]) == [1.0, 2.0, 3.0, 4.0]
    assert np.isnan(kept[2:9]).all()
    path.write_text("time_s,load_N\n0,1\n0,2\n0,3\n0,4\n")
    with pytest.raises(InputError, match="evenly"):
        record_from_file(workshop, entry.specimen, path, 0.008, 25_000.0)
    with pytest.raises(InputError, match="cannot be read"):
        record_from_file(workshop, entry.specimen, tmp_path / "none.csv", 0.008, 25_000.0)


def found_draft(remains):
    return FindingDraft(
        gave=Gave(remains.gave),
        place=remains.place,
        draws={k: f"{1000 * v:.0f} mm" for k, v in remains.draws_m.items()},
        jams={End(k.end): JamLevel(k.jam_level) for k in remains.knots},
        by="TV",
    )


def test_a_correction_keeps_the_original_with_who_and_why(workshop):
    logbook, entry = first(workshop)
    preparing.keep_tied(workshop, logbook, entry, TyingDraft(texts={"eye_a": "100 mm"}), "TV")
    pull_id, remains = pull_specimen(workshop, again(workshop, entry).specimen, "TV")
    draft = found_draft(remains)
    draft.lengths = {"eye_a": "112 mm"}
    draft.forms = {End.A: "1 kN"}
    assert accept_draft(workshop, again(workshop, entry), draft) == {}
    kept = again(workshop, entry).finding
    assert kept.lengths[0].change_m == pytest.approx(0.012)
    assert (kept.forms[0].end, kept.forms[0].load_n) == (End.A, 1_000.0)
    corrected = draft_of(again(workshop, entry), UNITS)
    corrected.draws["tail_a"] = "9 mm"
    errors = accept_draft(workshop, again(workshop, entry), corrected)
    assert list(errors) == ["correction"]
    corrected.correction, corrected.by = "misread the rule", "OQ"
    assert accept_draft(workshop, again(workshop, entry), corrected) == {}
    newest = again(workshop, entry)
    assert len(newest.history) == 2
    assert newest.finding.supersedes == kept.id
    lines = history(workshop, newest)
    assert [h.at for h in lines] == sorted(h.at for h in lines)
    told = next(h for h in lines if h.what.startswith("corrected"))
    assert (told.who, told.why) == ("OQ", "misread the rule")
    assert any(h.what.startswith("found") for h in lines)
    assert any("tied" in h.what for h in lines)
    assert any("trace read" in h.what for h in lines)
    workshop.undo()
    assert again(workshop, entry).pull.id == pull_id


@pytest.mark.parametrize(
    ("change", "field", "says"),
    [
        ({"forms": {End.A: "90 kN"}}, "form.A", "Above the highest"),
        ({"forms": {End.B: "much"}}, "form.B", "no number"),
        ({"lengths": {"eye_a": "wide"}}, "length.eye_a", "no number"),
        ({"gave": Gave.STOPPED, "place": None}, "against", "why"),
    ],
)
def test_odd_findings_are_named_next_to_their_fields(workshop, change, field, says):
    _, entry = first(workshop)
    _, remains = pull_specimen(workshop, entry.specimen, "TV")
    draft = replace(found_draft(remains), **change)
    if field == "against":
        draft.jams = dict.fromkeys(End, JamLevel.NOT_TRIED)
    errors = accept_draft(workshop, again(workshop, entry), draft)
    assert says in errors[field]
    assert again(workshop, entry).stage is Stage.PULLED


def test_a_contradiction_is_kept_only_with_its_reason(workshop):
    _, entry = first(workshop)
    _, remains = pull_specimen(workshop, entry.specimen, "TV")
    draft = found_draft(remains)
    draft.gave, draft.place = Gave.STOPPED, None
    draft.jams = dict.fromkeys(End, JamLevel.NOT_TRIED)
    draft.against = "the pin broke, the rope did not"
    assert accept_draft(workshop, again(workshop, entry), draft) == {}
    assert again(workshop, entry).finding.against_trace == "the pin broke, the rope did not"


def test_the_direction_matrix_lists_every_direction_and_what_was_pulled(workshop):
    logbook = read_logbook(workshop)
    knot = next(k for k in logbook.knots if k.structure == "figure-eight-loop")
    matrix = direction_matrix(logbook, knot.id)
    known = tuple(say_legs(legs) for legs in logbook.catalogue["figure-eight-loop"].leg_sets)
    assert known == ("eye against one end", "the eye spread as a ring")
    assert matrix.directions[: len(known)] == known
    for cell in matrix.cells.values():
        loads = [p.load_n for p in cell.pulls]
        assert loads == sorted(loads)
        assert cell.lowest_n == loads[0]
        assert 0 <= cell.held <= len(loads)
    assert {d for d, _ in matrix.cells} <= set(matrix.directions)
