"""A finished series typed in from a notebook: one line a specimen, each checked as it is typed.

A line is ``knot; peak; what gave; untied how``, its parts apart by a semicolon, a tab, or a comma
with a blank after it, so that a decimal comma stays one. What is not known is left out.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import TypeVar

from bruiser.catalogue.finding import find_structures, fold
from bruiser.catalogue.structure import PLAIN, Structure
from bruiser.core.errors import InputError, Refused
from bruiser.core.records.layouts import End, Layout, PlaceKind, lay
from bruiser.core.records.methods import RAMP, STRAIGHT, MethodPlan
from bruiser.core.records.records import (
    Finding,
    Gave,
    JamLevel,
    Knot,
    KnotInspection,
    Lot,
    Pull,
    PullEnd,
    Role,
    Specimen,
)
from bruiser.core.units import UnitChoice, parse_quantity
from bruiser.store import campaigns, pulls
from bruiser.store.open_campaign import Connection
from bruiser.workshop.bench.recording import HAND_SCALE
from bruiser.workshop.logbook.commands import Changes, Command
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop

PLAIN_WORDS = ("plain", "plain rope", "straight", "rope", "baseline")
BOTH = re.compile(r"(?:\s*,?\s*(?:both ends|both|x2|×2))$", re.IGNORECASE)
GAVE_WORDS: dict[str, tuple[str, ...]] = {
    "broke": ("broke", "b", "nip", "at the knot"),
    "span": ("span", "clear", "in the rope"),
    "drum": ("drum", "pin", "termination"),
    "came out": ("came out", "out", "o", "slipped out"),
    "capsized": ("capsized", "c"),
    "stopped": ("stopped", "held", "s", "h"),
}
UNTIED_WORDS: dict[JamLevel, tuple[str, ...]] = {
    JamLevel.SHAKEN: ("shaken", "shaken loose"),
    JamLevel.HAND: ("hand", "by hand"),
    JamLevel.WORKED: ("worked", "worked loose"),
    JamLevel.TOOL: ("tool", "needed a tool"),
    JamLevel.CUT: ("cut",),
    JamLevel.FUSED: ("fused",),
    JamLevel.NOT_TRIED: ("", "-", "not tried"),
}
K = TypeVar("K")
FIELDS = ("knot", "peak", "gave", "untied")


@dataclass(frozen=True, kw_only=True)
class TypedLine:
    """A line that was understood.

    Parameters
    ----------
    structure : Structure or None
        None for plain rope.
    both : bool
        Whether the knot is tied at both ends.
    gave : str
        A key of :data:`GAVE_WORDS`.
    """

    text: str
    structure: Structure | None
    both: bool
    peak_n: float
    gave: str
    untied: JamLevel

    def say(self, trade: str, units: UnitChoice) -> str:
        """What was understood, for the person to see."""
        name = "plain rope" if self.structure is None else self.structure.name_in(trade)
        ends = ", both ends" if self.both else ""
        untied = "" if self.untied is JamLevel.NOT_TRIED else f", {self.untied.value}"
        return f"{name}{ends} · {units.force_text(self.peak_n)} · {self.gave}{untied}"


def parts_of(text: str) -> list[str]:
    """The parts of a line."""
    return [part.strip() for part in re.split(r";|\t|,\s", text)]


def read_line(text: str, logbook: Logbook, units: UnitChoice) -> TypedLine:
    """Understand a line.

    Raises
    ------
    InputError
        Saying what part is wrong, in `where`: one of :data:`FIELDS`.
    """
    parts = parts_of(text)
    if len(parts) > len(FIELDS):
        raise InputError("A line has at most four parts: knot; peak; what gave; untied.", where="")
    named, peak, gave, untied = (*parts, *[""] * (len(FIELDS) - len(parts)))
    structure, both = _knot(named, logbook)
    if not peak:
        raise InputError("The peak is missing, as 6.7 kN.", where="peak")
    peak_n = parse_quantity(peak, "force", units.force, field="peak")
    if not peak_n > 0:
        raise InputError("A peak lies above zero.", where="peak")
    if not gave:
        raise InputError("What gave: broke, span, drum, came out, capsized, stopped?", where="gave")
    how = _among(GAVE_WORDS, gave, "gave")
    level = _among(UNTIED_WORDS, untied, "untied")
    if structure is None and how in ("came out", "capsized"):
        raise InputError("Plain rope breaks or is stopped.", where="gave")
    if structure is None and level is not JamLevel.NOT_TRIED:
        raise InputError("Plain rope has no knot to untie.", where="untied")
    return TypedLine(
        text=text, structure=structure, both=both, peak_n=peak_n, gave=how, untied=level
    )


def _among(words: dict[K, tuple[str, ...]], said: str, field: str) -> K:
    wanted = said.lower()
    for key, known in words.items():
        if wanted in known:
            return key
    near = [key for key, known in words.items() if wanted and known[0].startswith(wanted)]
    if len(near) == 1:
        return near[0]
    options = ", ".join(known[0] for known in words.values() if known[0])
    raise InputError(f"“{said}”: one of {options}.", where=field)


def _knot(named: str, logbook: Logbook) -> tuple[Structure | None, bool]:
    if not named:
        raise InputError("Which knot? “plain” is the rope without one.", where="knot")
    both = BOTH.search(named) is not None
    name = BOTH.sub("", named)
    if fold(name) in PLAIN_WORDS:
        return None, False
    structure = find_knot(name, logbook)
    if both and structure.layout != "loop_pair":
        raise InputError(f"{structure.name} is not tied at both ends.", where="knot")
    return structure, both


def find_knot(name: str, logbook: Logbook) -> Structure:
    """The structure a person means by a name of any trade; those in play come first.

    Raises
    ------
    InputError
        If none or several may be meant.
    """
    every = logbook.catalogue
    by_key = next((s for key, s in every.items() if fold(key) == fold(name)), None)
    if by_key is not None:
        return by_key
    exact = [s for s in every.values() if any(fold(n.name) == fold(name) for n in s.names)]
    played = {k.structure for k in logbook.knots_in_play}
    found = exact or find_structures(every.values(), name)
    mine = [s for s in found if s.key in played]
    if len(mine) == 1 or len(found) == 1:
        return (mine if len(mine) == 1 else found)[0]
    if not found:
        raise InputError(f"No knot is called “{name}”.", where="knot")
    options = ", ".join(s.name for s in (mine or found)[:4])
    more = " …" if len(mine or found) > 4 else ""
    raise InputError(f"“{name}” may be {options}{more}", where="knot")


@dataclass(frozen=True, kw_only=True)
class SeriesHead:
    """What holds for the whole series.

    Parameters
    ----------
    capacity_n : float
        What the scale reads up to.
    """

    lot: Lot
    capacity_n: float
    technician: str
    pin_m: float = 0.0
    span_m: float = 0.4


@dataclass(frozen=True)
class TypeSeries(Command):
    """Store typed specimens, each pulled on a hand scale and inspected, as one step."""

    knots: tuple[Knot, ...]
    rows: tuple[tuple[Specimen, Pull, Finding], ...]
    title: str = "type a series"

    def apply(self, connection: Connection) -> Changes:
        for knot in self.knots:
            campaigns.insert_knot(connection, knot)
        for specimen, pull, finding in self.rows:
            campaigns.insert_specimen(connection, specimen)
            pulls.insert_pull(connection, pull)
            pulls.insert_finding(connection, finding)
        tables = frozenset({"knot", "specimen", "pull", "finding"})
        return Changes(tables, tuple(p.id for _, p, _ in self.rows))


def _place(line: TypedLine, layout: Layout) -> str | None:
    """Where it gave, by the key of a place."""
    match line.gave:
        case "stopped":
            return None
        case "came out" | "capsized":
            return "knot_a"
        case "broke" if line.structure is not None:
            return "nip_a"
        case "drum":
            ends = (PlaceKind.TERMINATION, PlaceKind.PIN)
            return next(p.key for p in layout.places if p.kind in ends)
    return next(p.key for p in layout.places if p.kind is PlaceKind.SPAN)


_GAVE = {"came out": Gave.CAME_OUT, "capsized": Gave.CAPSIZED, "stopped": Gave.STOPPED}


def series_command(
    workshop: Workshop, logbook: Logbook, head: SeriesHead, lines: Sequence[TypedLine]
) -> TypeSeries:
    """Lines as specimens that were pulled and inspected, ready to be stored in one step.

    Knots that were not in play are brought into it.

    Raises
    ------
    Refused
        If there is no line, or a peak lies above what the scale reads.
    """
    if not lines:
        raise Refused("There is no line to store.")
    above = next((x for x in lines if x.peak_n > head.capacity_n), None)
    if above is not None:
        raise Refused(f"“{above.text}” lies above what the scale reads.", "Look at both again.")
    known = {k.structure: k for k in logbook.knots_in_play if k.variant == PLAIN}
    fresh = {s.key: s for x in lines if (s := x.structure) is not None and s.key not in known}
    new = [_in_play(workshop, structure) for structure in fresh.values()]
    known |= {k.structure: k for k in new}
    number, last = logbook.last_number(), logbook.last_place()
    rows = []
    for at, line in enumerate(lines, start=1):
        knot = None if line.structure is None else known[line.structure.key]
        specimen = _specimen(workshop, head, line, knot)
        specimen = replace(specimen, code=f"S-{number + at:03d}", queue_position=last + at)
        rows.append((specimen, *_pulled(workshop, head, line, specimen)))
    return TypeSeries(tuple(new), tuple(rows), f"type {len(rows)} pulls")


def store_series(
    workshop: Workshop, logbook: Logbook, head: SeriesHead, lines: Sequence[TypedLine]
) -> tuple[str, ...]:
    """Store lines as :func:`series_command` makes them; returns the ids of their pulls."""
    command = series_command(workshop, logbook, head, lines)
    workshop.do(command)
    return tuple(pull.id for _, pull, _ in command.rows)


def _in_play(workshop: Workshop, structure: Structure) -> Knot:
    return Knot(
        id=workshop.new_id(),
        structure=structure.key,
        variant=PLAIN,
        name=structure.name,
        family=structure.family,
    )


def _specimen(workshop: Workshop, head: SeriesHead, line: TypedLine, knot: Knot | None) -> Specimen:
    layout = "baseline"
    if line.structure is not None:
        layout = line.structure.layout
        if layout == "loop_pair" and not line.both:
            layout = "loop_single"
    return Specimen(
        id=workshop.new_id(),
        code="",
        role=Role.BASELINE if knot is None else Role.KNOT,
        lot=head.lot,
        layout_key=layout,
        queue_position=0,
        span_m=head.span_m,
        knot_a=knot,
        knot_b=knot if line.both else None,
        pin_diameter_m=head.pin_m if knot is not None else 0.0,
        note="typed from a notebook",
        method=MethodPlan(STRAIGHT if knot is None else RAMP),
    )


def _pulled(
    workshop: Workshop, head: SeriesHead, line: TypedLine, specimen: Specimen
) -> tuple[Pull, Finding]:
    when = workshop.now()
    pull = Pull(
        id=workshop.new_id(),
        specimen_id=specimen.id,
        started_at=when,
        instrument=HAND_SCALE,
        sample_rate_hz=1.0,
        rate_m_s=0.0,
        capacity_n=head.capacity_n,
        resolution_n=1.0,
        technician=head.technician,
        ended_at=when,
        end=PullEnd.STOPPED if line.gave == "stopped" else PullEnd.GAVE,
    )
    layout = lay(specimen.layout_key)
    seen = tuple(
        KnotInspection(end=end, jam_level=line.untied)
        for end in layout.ends
        if not (line.both and end is End.A and line.gave != "stopped")
    )
    finding = Finding(
        id=workshop.new_id(),
        pull_id=pull.id,
        made_at=when,
        gave=_GAVE.get(line.gave, Gave.BROKE),
        place=_place(line, layout),
        peak_load_n=line.peak_n,
        inspections=seen if line.untied is not JamLevel.NOT_TRIED else (),
        by=head.technician,
    )
    return pull, finding
