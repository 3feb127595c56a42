"""All that ever happened to a specimen, in the order it happened, with who and why."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from bruiser.core.records.preparation import Preparation, PrepStep
from bruiser.core.records.readings import GAVE_NOTE, Reading, Takes
from bruiser.core.records.records import JAM_WORDS, Finding, Gave
from bruiser.core.units import UnitChoice
from bruiser.store import pulls
from bruiser.store.acts import DoneAct, load_acts
from bruiser.store.undo_log import TakenBack, load_taken_back
from bruiser.workshop.logbook.entries import Entry
from bruiser.workshop.logbook.workshop import Workshop

_SAME_ACT = timedelta(seconds=2)
_STEP_WORDS = {
    PrepStep.TIED: "tied",
    PrepStep.CHECKED: "checked by a second person",
    PrepStep.SOAKING: "conditioning began",
    PrepStep.TRIAL: "tying trial",
}
GAVE_WORDS = {
    Gave.BROKE: "broke",
    Gave.CAME_OUT: "came out",
    Gave.CAPSIZED: "capsized and let go",
    Gave.STOPPED: "nothing gave",
    Gave.VOID: "void",
}


@dataclass(frozen=True, kw_only=True)
class Happening:
    """One line of a history: when, who, at which bench, what, and why where one was given."""

    at: str
    who: str
    what: str
    why: str = ""
    bench: str = ""


def history(workshop: Workshop, entry: Entry) -> list[Happening]:
    """Every record of a specimen, oldest first; nothing that was corrected is left out."""
    found = [_prepared(step, workshop.units) for step in entry.prepared]
    pull = entry.pull
    if pull is not None:
        words = f"pull began, {pull.instrument}"
        found.append(Happening(at=pull.started_at, who=pull.technician, what=words))
        if pull.ended_at is not None and pull.end is not None:
            lost = f", {pull.samples_lost} samples lost" if pull.samples_lost else ""
            found.append(
                Happening(
                    at=pull.ended_at, who="", what=f"pull ended: {pull.end.replace('_', ' ')}{lost}"
                )
            )
        with workshop.file.reading() as connection:
            read = pulls.load_analysis_history(connection, pull.id)
        for n, a in enumerate(read):
            again = "read" if n == 0 else "read anew, other settings"
            peak = workshop.units.force_text(a.result.peak_n)
            found.append(Happening(at=a.made_at, who="", what=f"trace {again}: peak {peak}"))
    found += [
        Happening(at=r.made_at, who="", what=_reading(r, workshop.units)) for r in entry.readings
    ]
    found += [Happening(at=p.made_at, who="", what=f"photo kept: {p.name}") for p in entry.photos]
    found += list(_findings(entry, workshop.units))
    about = [entry.specimen.id] if pull is None else [entry.specimen.id, pull.id]
    with workshop.file.reading() as connection:
        gone = load_taken_back(connection, *about)
        acts = load_acts(connection, *about)
    found += [line for one in gone for line in _taken_back(one, workshop.units)]
    return [_from_bench(line, acts) for line in sorted(found, key=lambda h: h.at)]


def _from_bench(line: Happening, acts: list[DoneAct]) -> Happening:
    """A line with who did it from which bench, by the act that stored it a moment later."""
    for act in acts:
        if act.made_at >= line.at:
            late = datetime.fromisoformat(act.made_at) - datetime.fromisoformat(line.at)
            if late > _SAME_ACT:
                break
            return replace(line, who=line.who or act.by, bench=act.bench)
    return line


def _taken_back(one: TakenBack, units: UnitChoice) -> Iterator[Happening]:
    """What an undo took back, when, and when it was done again."""
    row = one.row
    match one.table:
        case "preparation":
            what = _STEP_WORDS[PrepStep(str(row["step"]))]
        case "finding":
            peak = units.force_text(float(str(row["peak_load_n"])))
            what = f"findings ({GAVE_WORDS[Gave(str(row['gave']))]}, peak {peak})"
        case "trace_analysis":
            what = "reading of the trace"
        case "exclusion":
            what = "left out of the results" if row["excluded"] else "taken in again"
        case _:
            return
    yield Happening(at=one.made_at, who="", what=f"{what}: taken back", why="undone")
    if one.again_at is not None:
        yield Happening(at=one.again_at, who="", what=f"{what}: done again", why="redone")


def _prepared(step: Preparation, units: UnitChoice) -> Happening:
    what = _STEP_WORDS[step.step]
    if step.withdrawn:
        return Happening(at=step.made_at, who=step.by, what=f"{what}: taken back", why=step.note)
    if step.trial is not None:
        t = step.trial
        timed = f": {t.seconds:g} s, {t.attempts} attempts, {t.wrong} wrong, {t.hands}"
        what += timed if t.attempts else ": looked at, not timed"
        if t.verdict is not None:
            what += f"; {t.inspector}: {t.verdict}"
    if step.sheet is not None:
        done, left = len(step.sheet.ticked), len(step.sheet.not_done)
        what += f": {done} of {done + left} points ticked" if done + left else ""
        tails = ", ".join(units.length_text(v) for _, v in step.sheet.tails)
        what += f", tails {tails}" if tails else ""
        what += f"; laid out: {step.sheet.tie_seen}" if step.sheet.tie_seen else ""
    return Happening(at=step.made_at, who=step.by, what=what, why=step.note)


def _reading(r: Reading, units: UnitChoice) -> str:
    load = units.force_text(r.load_n)
    value = 0.0 if r.value is None else r.value
    if r.takes is Takes.UNTYING:
        level = "" if r.level is None else JAM_WORDS[r.level]
        seconds = "" if r.value is None else f", {value:g} s"
        return f"step {r.number}, {load}: knot {r.end} {level}{seconds}"
    refused = r.note if r.refused else ""
    force = f" with {units.hand_force_text(value)}" if value else ""
    return {
        Takes.CYCLE: f"cycle {r.number} to {load}: drawn {units.length_text(value)}",
        Takes.SHAKE: f"shake {r.number} to {load}: drawn {units.length_text(value)}",
        Takes.HELD: f"held {value:.0f} s at {load} {r.note}".rstrip(),
        Takes.SLID: _slide(r, load),
        Takes.TWO_LOADS: f"load {load}, in the hand line {units.force_text(value)}",
        Takes.KEPT: f"kept {100 * value:.0f} % of {load} at the lock-off",
        Takes.RELEASE: f"{refused or 'released'} under {load}{force} on the tail",
        Takes.BY_HAND: f"{refused or 'slid'} by hand when slack{force}",
        Takes.SHEATH: f"sheaths {r.note}",
        Takes.MOVED: f"moved along its host by {units.hand_force_text(value)}"
        if value
        else "slack",
        Takes.WIDTH: f"{units.length_text(value)} at its widest",
        Takes.LEDGE: f"{refused or 'came'} over the ledge{force}",
    }[r.takes]


def _slide(r: Reading, load: str) -> str:
    if r.note == GAVE_NOTE:
        return f"gave at {load} while it was pulled to slide"
    return f"slid at {load}" if r.value else f"held {load} without sliding"


def _findings(entry: Entry, units: UnitChoice) -> Iterator[Happening]:
    for n, f in enumerate(entry.history):
        why = f.reason or f.void_reason or f.against_trace
        if f.withdrawn:
            yield Happening(at=f.made_at, who=f.by, what="findings taken back", why=why)
            continue
        what = f"{'corrected' if n else 'found'}: {_found(entry, f, units)}"
        yield Happening(at=f.made_at, who=f.by, what=what, why=why)


def _found(entry: Entry, f: Finding, units: UnitChoice) -> str:
    at = "" if f.place is None else f" at {entry.specimen.layout.place(f.place).label}"
    draws = ", ".join(f"{d.key.replace('_', ' ')} {units.length_text(d.draw_m)}" for d in f.draws)
    return f"{GAVE_WORDS[f.gave]}{at}, peak {units.force_text(f.peak_load_n)}" + (
        f", drew {draws}" if draws else ""
    )


def history_rows(workshop: Workshop, entry: Entry) -> list[tuple[str, ...]]:
    """The same as rows to read: when, who, what, why, and from which bench."""
    found = history(workshop, entry)
    return [(h.at[:19].replace("T", " "), h.who, h.what, h.why, h.bench) for h in found]
