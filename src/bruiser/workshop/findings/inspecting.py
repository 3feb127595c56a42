"""From what the technician typed and tapped to a finding, or to the fields that are wrong."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

from bruiser.core.decimal_sign import loads_about
from bruiser.core.errors import InputError
from bruiser.core.records.layouts import End, PlaceKind
from bruiser.core.records.outcomes import possible_findings
from bruiser.core.records.readings import never_untied
from bruiser.core.records.records import (
    Finding,
    FormChange,
    Gave,
    JamLevel,
    KnotInspection,
    LengthAfter,
    TailDraw,
)
from bruiser.core.trace import TraceEnd
from bruiser.core.units import UnitChoice, parse_quantity
from bruiser.workshop.logbook.commands import AcceptFinding, Together
from bruiser.workshop.logbook.entries import Entry
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import Workshop
from bruiser.workshop.plan.queueing import replacement

TRACE_AGREES: dict[TraceEnd, tuple[Gave, ...]] = {
    TraceEnd.BROKE: (Gave.BROKE,),
    TraceEnd.RAN_OUT: (Gave.CAME_OUT, Gave.CAPSIZED),
    TraceEnd.STOPPED: (Gave.STOPPED,),
    TraceEnd.LOST: (),
}


GAVE_UP_SIGNS = (">", "gave up after", "gave up")
"""How a time at which untying was given up is typed."""


@dataclass(kw_only=True)
class FindingDraft:
    """What has been entered so far, as typed.

    Parameters
    ----------
    ruled : dict
        Standard uncertainty in metre of draws read off a photo, by tail, with the text it gave.
    lengths : dict
        Eyes and legs after the pull, and ways slid, by the layout's key.
    forms : dict
        Load at which a knot changed form and then held on, by end.
    against : str
        Why a finding is kept that the trace contradicts.
    correction : str
        Why an earlier finding is corrected.
    seen : str, optional
        The last finding that was there when the draft was begun; empty for none, None for whatever
        is the last when it is stored.
    """

    gave: Gave | None = None
    place: str | None = None
    peak: str = ""
    draws: dict[str, str] = field(default_factory=dict)
    ruled: dict[str, tuple[str, float]] = field(default_factory=dict)
    lengths: dict[str, str] = field(default_factory=dict)
    forms: dict[End, str] = field(default_factory=dict)
    by: str = ""
    against: str = ""
    correction: str = ""
    jams: dict[End, JamLevel] = field(default_factory=dict)
    untie: dict[End, str] = field(default_factory=dict)
    untied_how: str = ""
    note: str = ""
    seen: str | None = None
    void_reason: str = ""


def knot_still_tied(entry: Entry, draft: FindingDraft, end: End) -> bool:
    """Whether a knot can still be untied: it is there and is not the one that gave."""
    if entry.specimen.knot_at(end) is None:
        return False
    if draft.gave in (Gave.STOPPED, Gave.VOID, None) or draft.place is None:
        return True
    return entry.specimen.layout.place(draft.place).owner is not end


def cannot_be(entry: Entry, draft: FindingDraft) -> str:
    """Why it cannot have given in that way at that place, in words; empty where it can."""
    if draft.gave in (None, Gave.STOPPED, Gave.VOID) or draft.place is None:
        return ""
    layout = entry.specimen.layout
    if draft.gave in possible_findings(layout, draft.place):
        return ""
    place = layout.place(draft.place)
    knot = next(
        (
            p
            for p in layout.places
            if p.kind is PlaceKind.KNOT and p.owner is place.owner and place.owner is not None
        ),
        None,
    )
    another = "Tap another place" if knot is None else f"Tap {knot.label}"
    return f"That cannot happen at {place.label}. {another}, or say how else it gave."


def contradiction(entry: Entry, draft: FindingDraft) -> str:
    """What the trace says against the finding, in words; empty when they agree."""
    if entry.analysis is None or draft.gave in (None, Gave.VOID):
        return ""
    changed = entry.analysis.capsized and draft.gave is not Gave.CAPSIZED
    if changed and not any(text.strip() for text in draft.forms.values()):
        return (
            "The trace looks like a knot changing form on the way. Note the load at that knot, or "
            "say why not."
        )
    if draft.gave in TRACE_AGREES[entry.analysis.end] or entry.analysis.end is TraceEnd.LOST:
        return ""
    said = {
        TraceEnd.BROKE: "The trace looks like a break",
        TraceEnd.RAN_OUT: "The trace looks like a tail running out",
        TraceEnd.STOPPED: "The trace ends still holding",
    }[entry.analysis.end]
    return f"{said}. Look again, or say why you keep what you found."


def check_draft(
    entry: Entry, draft: FindingDraft, units: UnitChoice
) -> tuple[Finding | None, dict[str, str]]:
    """Turn a draft into a finding.

    Parameters
    ----------
    entry : Entry
        A pulled specimen.
    draft : FindingDraft
        What was entered.
    units : UnitChoice
        Units of bare numbers.

    Returns
    -------
    finding : Finding or None
        With empty id and time; None when a field is wrong.
    errors : dict
        Message by field: ``place``, ``peak``, ``void_reason``, ``draw.<tail>``, ``jam.<end>``,
        ``untie.<end>``, ``length.<key>``, ``form.<end>``, ``against``, ``correction``.
    """
    if entry.pull is None:
        raise ValueError("only a pulled specimen can be inspected")
    errors: dict[str, str] = {}
    if draft.gave is None and draft.place is not None:
        errors["place"] = "Say how it gave there: broke, came out, or capsized."
    elif draft.gave is None:
        errors["place"] = "Tap on the strip where it gave, or say it was stopped or void."
    elif draft.gave is Gave.VOID:
        if not draft.void_reason.strip():
            errors["void_reason"] = "Say why this pull does not count."
    elif draft.gave is not Gave.STOPPED and draft.place is None:
        errors["place"] = "The place where it gave is missing. Tap on the strip."
    elif words := cannot_be(entry, draft):
        errors["place"] = words
    peak_n = _check_peak(entry, draft, units, errors)
    draws = _check_draws(entry, draft, units, errors)
    inspections = _check_jams(entry, draft, errors)
    lengths = _check_lengths(entry, draft, units, errors)
    forms = _check_forms(entry, draft, units, peak_n, errors)
    if "place" not in errors and contradiction(entry, draft) and not draft.against.strip():
        errors["against"] = "Say why, or change what you found."
    if entry.finding is not None and not draft.correction.strip():
        errors["correction"] = "Say why it is corrected; the first entry stays."
    if errors or draft.gave is None:
        return None, errors
    stays = draft.gave in (Gave.STOPPED, Gave.VOID)
    finding = Finding(
        id="",
        pull_id=entry.pull.id,
        made_at="",
        gave=draft.gave,
        place=None if stays else draft.place,
        peak_load_n=peak_n,
        draws=tuple(draws),
        inspections=tuple(inspections),
        untied_how=draft.untied_how.strip(),
        note=draft.note.strip(),
        void_reason=draft.void_reason.strip() if draft.gave is Gave.VOID else "",
        reason=draft.correction.strip() if entry.finding is not None else "",
        by=draft.by.strip(),
        lengths=tuple(lengths),
        forms=tuple(forms),
        against_trace=draft.against.strip() if contradiction(entry, draft) else "",
    )
    return finding, {}


def _check_lengths(
    entry: Entry, draft: FindingDraft, units: UnitChoice, errors: dict[str, str]
) -> list[LengthAfter]:
    """Eyes, legs and ways slid that were typed; none of them must be."""
    found = []
    for spot in entry.specimen.layout.lengths:
        text = draft.lengths.get(spot.key, "").strip()
        if not text:
            continue
        try:
            after_m = parse_quantity(text, "length", units.length)
        except InputError as error:
            errors[f"length.{spot.key}"] = str(error)
            continue
        tied = None if entry.sheet is None else entry.sheet.length_m(spot.key)
        if tied is None and spot.key == "joint_a":
            tied = entry.specimen.state.joint_m or None
        found.append(LengthAfter(spot.key, after_m, 0.0 if spot.moves else tied))
    return found


def _check_forms(
    entry: Entry, draft: FindingDraft, units: UnitChoice, peak_n: float, errors: dict[str, str]
) -> list[FormChange]:
    """Knots that changed form on the way and held on."""
    found = []
    for end in End:
        text = draft.forms.get(end, "").strip()
        if not text or entry.specimen.knot_at(end) is None:
            continue
        try:
            load_n = parse_quantity(text, "force", units.force, within=loads_about(peak_n))
        except InputError as error:
            errors[f"form.{end}"] = str(error)
            continue
        if load_n > peak_n:
            errors[f"form.{end}"] = "Above the highest load of the pull."
            continue
        found.append(FormChange(end, load_n))
    return found


def draft_of(entry: Entry, units: UnitChoice) -> FindingDraft:
    """The finding of an inspected specimen as a draft, to be corrected."""
    f = entry.finding
    if f is None:
        return FindingDraft()
    say = units.length_text
    return FindingDraft(
        gave=f.gave,
        place=f.place,
        peak=units.force_text(f.peak_load_n),
        draws={d.key: say(d.draw_m) for d in f.draws},
        ruled={d.key: (say(d.draw_m), d.u_m) for d in f.draws if d.u_m is not None},
        jams={k.end: k.jam_level for k in f.inspections},
        untie={k.end: _untie_text(k) for k in f.inspections if k.untie_s is not None},
        untied_how=f.untied_how,
        note=f.note,
        void_reason=f.void_reason,
        lengths={x.key: say(x.after_m) for x in f.lengths},
        forms={x.end: units.force_text(x.load_n) for x in f.forms},
        by=f.by,
        against=f.against_trace,
    )


def _check_peak(
    entry: Entry, draft: FindingDraft, units: UnitChoice, errors: dict[str, str]
) -> float:
    measured = 0.0 if entry.analysis is None else max(entry.analysis.peak_n, 0.0)
    if not draft.peak.strip():
        if measured <= 0 and draft.gave is not Gave.VOID:
            errors["peak"] = "No peak was recorded. Type the highest load."
        return measured
    try:
        strength_n = measured or entry.specimen.lot.rated_strength_n
        within = loads_about(strength_n) if strength_n else None
        peak_n = parse_quantity(draft.peak, "force", units.force, within=within)
    except InputError as error:
        errors["peak"] = str(error)
        return measured
    if entry.pull is not None and peak_n > entry.pull.capacity_n:
        most = units.force_text(entry.pull.capacity_n)
        errors["peak"] = f"Above the load cell's capacity of {most}."
    elif peak_n == 0 and draft.gave is not Gave.VOID:
        errors["peak"] = "A pull without load says nothing. Make it void, with a reason."
    return peak_n


def _check_draws(
    entry: Entry, draft: FindingDraft, units: UnitChoice, errors: dict[str, str]
) -> list[TailDraw]:
    draws = []
    for spot in entry.specimen.layout.tails:
        if entry.specimen.knot_at(spot.end) is None:
            continue
        text = draft.draws.get(spot.key, "")
        if not text.strip():
            if draft.gave is not Gave.VOID:
                errors[f"draw.{spot.key}"] = "Type how far it drew; 0 if it did not."
            continue
        try:
            tied_m = entry.specimen.tail_length_m(spot.key)
            within = None if tied_m is None else (0.0, tied_m)
            draw_m = parse_quantity(text, "length", units.length, within=within)
        except InputError as error:
            errors[f"draw.{spot.key}"] = str(error)
            continue
        if tied_m is not None and draw_m > tied_m + 1e-9:
            length = units.length_text(tied_m)
            errors[f"draw.{spot.key}"] = f"The tail was {length}; it cannot have drawn more."
            continue
        said, u_m = draft.ruled.get(spot.key, ("", 0.0))
        by_photo = bool(said) and said == text.strip()
        how = "photo" if by_photo else "rule"
        draws.append(TailDraw(key=spot.key, draw_m=draw_m, u_m=u_m if by_photo else None, how=how))
    return draws


def _check_jams(entry: Entry, draft: FindingDraft, errors: dict[str, str]) -> list[KnotInspection]:
    inspections = []
    for end in End:
        if entry.specimen.knot_at(end) is None:
            continue
        level = draft.jams.get(end)
        needed = knot_still_tied(entry, draft, end) and draft.gave is not Gave.VOID
        if level is None and needed:
            errors[f"jam.{end}"] = "Say what it took to untie it, or “not tried”."
        untie_s: float | None = None
        text, gave_up = _given_up(draft.untie.get(end, ""))
        if text:
            try:
                untie_s = parse_quantity(text, "time", "s")
            except InputError as error:
                errors[f"untie.{end}"] = str(error)
        level = level or JamLevel.NOT_TRIED
        gave_up = gave_up or never_untied(level)
        inspections.append(
            KnotInspection(end=end, jam_level=level, untie_s=untie_s, gave_up=gave_up)
        )
    return inspections


def _given_up(text: str) -> tuple[str, bool]:
    """The time that was typed, and whether untying was given up then: “> 90 s”, “gave up 90 s”."""
    said = text.strip()
    for sign in GAVE_UP_SIGNS:
        if said.lower().startswith(sign):
            return said[len(sign) :].strip(), True
    return said, False


def _untie_text(seen: KnotInspection) -> str:
    early = seen.gave_up and not never_untied(seen.jam_level)
    return f"{'> ' if early else ''}{seen.untie_s:g} s"


def accept_draft(
    workshop: Workshop, entry: Entry, draft: FindingDraft, *, replace_void: bool = True
) -> dict[str, str]:
    """Store a draft as a finding; returns the fields that are wrong, and stores nothing then.

    In the place of a specimen that is made void another comes into the queue, at a random later
    place, unless `replace_void` is off.
    """
    finding, errors = check_draft(entry, draft, workshop.units)
    if finding is None:
        return errors
    earlier = entry.history[-1].id if entry.history else None
    if draft.seen is not None:
        # Another bench may have stored one since: then both stand, and are settled later.
        earlier = draft.seen or None
    made = replace(finding, id=workshop.new_id(), made_at=workshop.now(), supersedes=earlier)
    accepted = AcceptFinding(made)
    if made.gave is Gave.VOID and replace_void:
        logbook = read_logbook(workshop)
        if not logbook.was_replaced(entry.specimen.id):
            parts = replacement(workshop, logbook, entry.specimen)
            workshop.do(Together((accepted, *parts), "make it void and queue another"))
            return {}
    workshop.do(accepted)
    return {}
