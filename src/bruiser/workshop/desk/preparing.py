"""A specimen from the cut piece to the bench: how to tie it, how it was tied, and who checked."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from bruiser.core.errors import Refused
from bruiser.core.planning.cord_use import CordReading
from bruiser.core.records.layouts import End
from bruiser.core.records.preparation import (
    Hands,
    Preparation,
    PrepStep,
    TyingSheet,
    TyingTrial,
    TyingVerdict,
)
from bruiser.core.records.records import CROSSED, Specimen
from bruiser.core.units import UnitChoice
from bruiser.workshop.desk.form_texts import Typed
from bruiser.workshop.desk.knot_commands import RecordCord
from bruiser.workshop.logbook.commands import Command, Prepare, Together
from bruiser.workshop.logbook.entries import Entry
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop

CROSSED_STEP = "One pair of strands crossed, as planned for this specimen"


@dataclass(frozen=True, kw_only=True)
class KnotSheet:
    """How one knot of a specimen is tied.

    Parameters
    ----------
    where : str
        At which end, in words.
    cues : tuple of str
        How it is recognised, front and back.
    dressing, setting : tuple of str
        Steps, in their order.
    tail_words : str
        Tail in diameters and in the campaign's length for this cord.
    look_alikes : tuple of str
        What a wrong tie looks like, and which knot it has become.
    """

    title: str
    where: str
    cues: tuple[str, ...]
    dressing: tuple[str, ...]
    setting: tuple[str, ...]
    tail_words: str
    look_alikes: tuple[str, ...]


def knot_sheets(logbook: Logbook, specimen: Specimen, units: UnitChoice) -> list[KnotSheet]:
    """The tying sheet: one part for every different knot of the specimen."""
    found: list[KnotSheet] = []
    d = specimen.lot.diameter_m
    for end in End:
        knot = specimen.knot_at(end)
        if knot is None or knot.structure not in logbook.catalogue:
            continue
        if end is End.B and knot == specimen.knot_a:
            found[0] = replace(found[0], where="both ends")
            continue
        s = logbook.catalogue[knot.structure]
        rule = s.cord_rule(dict(knot.choices), flat=specimen.lot.flat)
        tail = units.length_text(rule.tail_usual_d * d)
        floor = units.length_text(rule.tail_floor_d * d)
        of = "widths" if specimen.lot.flat else "d"
        tails = (
            f"Tail {rule.tail_usual_d:g} {of} = {tail}, never under {rule.tail_floor_d:g} {of} = "
            f"{floor}"
        )
        if specimen.state.tail_d:
            cut = units.length_text(specimen.state.tail_d * d)
            tails = f"Tail {specimen.state.tail_d:g} {of} = {cut}, as planned. Usual: {tails}"
        alike = tuple(
            f"{a.tell} Then it is the {logbook.catalogue[a.structure].name.lower()}."
            for a in s.look_alikes
            if a.structure in logbook.catalogue
        )
        alike += tuple(f"{x.tell} Then {x.when}." for x in s.mis_ties)
        dressing = (*s.dressing, CROSSED_STEP) if specimen.dressing == CROSSED else s.dressing
        found.append(
            KnotSheet(
                title=knot.title,
                where="" if specimen.knot_b is None else f"end {end}",
                cues=(s.front, s.back),
                dressing=dressing,
                setting=s.setting,
                tail_words=tails if rule.tail_usual_d else "No tail: both parts go on.",
                look_alikes=alike,
            )
        )
    return found


def _on_purpose(specimen: Specimen) -> list[str]:
    """What is done to a specimen on purpose, as points to tick."""
    state, units = specimen.state, UnitChoice()
    found = []
    if state.longer_eye:
        found.append(f"The second eye is {100 * state.longer_eye:g} % longer than the first.")
    if state.cut_share:
        where = "the eye, which hangs out of the line" if specimen.knot_a else "the span"
        found.append(f"Cut through by {100 * state.cut_share:g} % of its section in {where}.")
    if state.around_m:
        found.append(
            f"Closed round both pins to {units.length_text(state.around_m)}, the joint "
            f"{units.length_text(state.joint_m)} from the nearer pin, clear of it."
        )
    return found


def check_list(logbook: Logbook, specimen: Specimen) -> tuple[str, ...]:
    """What is ticked on a tied specimen: its dressing and setting, the marks, tails and eyes."""
    points = [*_on_purpose(specimen)]
    for sheet in knot_sheets(logbook, specimen, UnitChoice()):
        before = f"{sheet.where}: " if sheet.where.startswith("end") else ""
        points += [f"{before}{step}" for step in (*sheet.dressing, *sheet.setting)]
    return tuple(dict.fromkeys(points))


@dataclass
class TyingDraft:
    """A tying sheet as it is filled in: what is ticked, and what is typed."""

    ticked: set[str] = field(default_factory=set)
    marked: bool = False
    texts: dict[str, str] = field(default_factory=dict)


def _sheet_of(
    draft: TyingDraft, points: Sequence[str], specimen: Specimen, units: UnitChoice
) -> tuple[TyingSheet, dict[str, str]]:
    typed = Typed(draft.texts)
    lengths: dict[str, float] = {}
    tails = [t.key for t in specimen.layout.tails]
    eyes = [s.key for s in specimen.layout.lengths if not s.moves]
    for key in (*tails, *eyes):
        found = typed.quantity(key, "length", units.length)
        if found is not None:
            lengths[key] = found
    cord = typed.quantity("cord", "length", units.length)
    set_load = typed.quantity("set_load", "force", units.force)
    if cord is not None and specimen.knot_a is None:
        typed.errors["cord"] = "Plain rope has no knot that takes cord."
    sheet = TyingSheet(
        ticked=tuple(p for p in points if p in draft.ticked),
        not_done=tuple(p for p in points if p not in draft.ticked),
        marked=draft.marked,
        tails=tuple((k, v) for k, v in lengths.items() if k in tails),
        eyes=tuple((k, v) for k, v in lengths.items() if k not in tails),
        cord_m=cord,
        set_load_n=set_load,
    )
    return sheet, typed.errors


def keep_tied(
    workshop: Workshop, logbook: Logbook, entry: Entry, draft: TyingDraft, by: str
) -> dict[str, str]:
    """Write down that a specimen is tied, by whom and how; returns the fields that are wrong.

    What is not ticked is stored as not done. Cord typed as used joins the lot's readings.
    """
    specimen = entry.specimen
    sheet, errors = _sheet_of(draft, check_list(logbook, specimen), specimen, workshop.units)
    if not by.strip():
        errors["by"] = "Say who tied it: initials are enough."
    if errors:
        return errors
    parts: list[Command] = [
        _step(workshop, specimen, PrepStep.TIED, by, sheet=sheet),
    ]
    if sheet.cord_m is not None and specimen.knot_a is not None:
        knots = 2 if specimen.knot_b is not None else 1
        reading = CordReading(
            id=workshop.new_id(),
            knot_id=specimen.knot_a.id,
            lot_id=specimen.lot.id,
            length_m=sheet.cord_m / knots,
            made_at=workshop.now(),
            note=f"from {specimen.code} as tied",
        )
        parts.append(RecordCord(reading))
    workshop.do(Together(tuple(parts), f"write down how {specimen.code} was tied"))
    return {}


def keep_checked(
    workshop: Workshop,
    entry: Entry,
    by: str,
    ticked: Sequence[str] = (),
    tie: tuple[str, str] = ("", ""),
) -> None:
    """Write down a second person's check; `tie` is what lay there and which knot that is.

    Raises
    ------
    Refused
        If nobody is named, or it is the person who tied it.
    """
    who = by.strip()
    tied = entry.steps.get(PrepStep.TIED)
    if not who:
        raise Refused("Say who checked it: initials are enough.")
    if tied is not None and tied.by.casefold() == who.casefold():
        raise Refused(
            f"{who} tied {entry.specimen.code}.", "A second person checks it, with their own eyes."
        )
    sheet = TyingSheet(ticked=tuple(ticked), tie=tie[0], tie_seen=tie[1])
    kept = None if sheet == TyingSheet() else sheet
    workshop.do(_step(workshop, entry.specimen, PrepStep.CHECKED, who, sheet=kept))


def start_soak(workshop: Workshop, entry: Entry, by: str) -> None:
    """The conditioning clock starts now."""
    workshop.do(_step(workshop, entry.specimen, PrepStep.SOAKING, by.strip()))


def keep_trial(
    workshop: Workshop, entry: Entry, texts: Mapping[str, str], by: str
) -> dict[str, str]:
    """Write down a tying trial; returns the fields that are wrong.

    Fields: ``seconds``, ``attempts``, ``wrong``, ``hands``; and of the inspector, who must not
    have been told what it is: ``verdict``, ``named``, ``inspector``. With a verdict neither seconds
    nor attempts need be said: then it was only looked at.
    """
    typed = Typed(texts)
    looked = bool(typed.text("verdict")) and not (typed.text("seconds") or typed.text("attempts"))
    how_long, how_many = ("", "") if looked else ("How long did it take?", "How many attempts?")
    seconds = typed.quantity("seconds", "time", "s", missing=how_long)
    attempts = typed.whole("attempts", missing=how_many)
    if looked:
        seconds, attempts = 0.0, 0
    wrong = typed.whole("wrong", least=0) or 0
    if attempts is not None and wrong > attempts:
        typed.errors["wrong"] = "More wrong ties than attempts."
    inspector, verdict = typed.text("inspector"), typed.text("verdict")
    if verdict and not inspector:
        typed.errors["inspector"] = "Who looked at it?"
    if inspector and inspector.casefold() == by.strip().casefold():
        typed.errors["inspector"] = "The inspector is not the one who tied it."
    if not by.strip():
        typed.errors["by"] = "Say who tied it: initials are enough."
    if typed.errors or seconds is None or attempts is None:
        return typed.errors
    trial = TyingTrial(
        seconds=seconds,
        attempts=attempts,
        wrong=wrong,
        hands=Hands(texts.get("hands") or Hands.BARE),
        verdict=TyingVerdict(verdict) if verdict else None,
        named=typed.text("named"),
        inspector=inspector,
    )
    workshop.do(_step(workshop, entry.specimen, PrepStep.TRIAL, by.strip(), trial=trial))
    return {}


def _step(
    workshop: Workshop,
    specimen: Specimen,
    step: PrepStep,
    by: str,
    *,
    sheet: TyingSheet | None = None,
    trial: TyingTrial | None = None,
) -> Prepare:
    done = Preparation(
        id=workshop.new_id(),
        specimen_id=specimen.id,
        made_at=workshop.now(),
        step=step,
        by=by,
        sheet=sheet,
        trial=trial,
    )
    return Prepare(done, f"record {specimen.code} as {step.value}")


def clock_words(entry: Entry, now_s: float) -> str:
    """What the conditioning clock says; empty for a specimen that needs none."""
    lot = entry.specimen.lot
    if not lot.soak_s:
        return ""
    window = entry.window
    if window is None:
        return f"Has to soak {_span(lot.soak_s)} before its pull. The clock has not started."
    said = window.says(now_s)
    if said == "soaking":
        return f"Soaking: ready in {_span(window.ready_s - now_s)}."
    if said == "too old":
        return "Out too long: soak it again, or set it aside."
    if window.too_old_s is None:
        return "Ready."
    return f"Ready: pull it within {_span(window.too_old_s - now_s)}."


def _span(seconds: float) -> str:
    minutes = max(0, round(seconds / 60))
    return f"{minutes // 60} h {minutes % 60:02d} min" if minutes >= 60 else f"{minutes} min"


def not_done(entry: Entry) -> tuple[str, ...]:
    """What was not done before the pull, to be said beside the result."""
    steps = entry.steps
    said = [
        words
        for step, words in (
            (PrepStep.TIED, "no tying sheet"),
            (PrepStep.CHECKED, "not checked by a second person"),
        )
        if step not in steps and entry.specimen.knot_a is not None
    ]
    sheet = entry.sheet
    if sheet is not None:
        said += [f"not done: {point}" for point in sheet.not_done]
        if not sheet.marked:
            said.append("no ink marks")
    return tuple(said)
