"""Pulls a demo specimen on the simulated bench and writes down what lies there."""

from __future__ import annotations

from bruiser.core.records.layouts import End, LengthSpot
from bruiser.core.records.programme import programme, runs_latched
from bruiser.core.records.readings import Takes
from bruiser.core.records.records import (
    JAM_WORDS,
    Gave,
    JamLevel,
    PullEnd,
    Specimen,
)
from bruiser.rig.instrument import Remains
from bruiser.workshop.bench.live_pull import Phase
from bruiser.workshop.bench.pulling import PullSession
from bruiser.workshop.bench.running import MethodRun, RunState
from bruiser.workshop.bench.simulation import (
    AS_FAST_AS_IT_GOES,
    TRAVEL_RATE_M_S,
    bench_with,
    felt_reading,
)
from bruiser.workshop.findings.inspecting import FindingDraft, accept_draft, contradiction
from bruiser.workshop.logbook.entries import Entry
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import Workshop


def pull_specimen(
    workshop: Workshop,
    specimen: Specimen,
    technician: str,
    stop_at_n: float | None = None,
    reference: float = 0.0,
) -> tuple[str, Remains]:
    """Pull one specimen by its method on the simulated bench, as fast as it goes.

    `reference` is the strength in newton that levels are shares of.
    """
    bench = bench_with(specimen, speed=AS_FAST_AS_IT_GOES, load_limit_n=stop_at_n)
    plan = specimen.method
    session = PullSession(
        workshop,
        specimen,
        bench,
        TRAVEL_RATE_M_S,
        technician,
        programmed=runs_latched(plan),
        threaded=False,
    )
    run = MethodRun(workshop, session, programme(plan, reference))
    recorder, tried = session.recorder, 0
    session.arm()
    while not session.zero_taken:
        recorder.step()
    while run.state is not RunState.DONE:
        if run.state in (RunState.READY, RunState.PAUSED):
            if session.poll().stopped_by:
                break
            session.arm()
            if not run.start():
                break
        if run.state is RunState.ASKING:
            tried += 1
            answer_for(run, bench.remains(tried))
            continue
        recorder.step()
        run.tick(session.poll())
    limited = session.phase is not Phase.GAVE
    if limited and session.poll().load_is_on:
        session.arm()
        session.slack()
        while session.poll().load_is_on:
            recorder.step()
    session.finish(run.ends_as if limited else PullEnd.GAVE)
    if session.pull_id is None:
        raise ValueError(f"{specimen.code} was not pulled")
    return session.pull_id, bench.remains()


def answer_for(run: MethodRun, lies: Remains) -> None:
    """Answer what a method asks, as the simulated specimen would."""
    act = run.act
    if act is None:
        return
    if act.takes is Takes.UNTYING:
        found = {End(k.end): (JamLevel(k.jam_level), k.untie_s) for k in lies.knots}
        run.answer_untying(found)
    else:
        value, note = felt_reading(act.takes, lies) or (0.0, "")
        run.answer_value(None if value is None else round(value, 4), note)


def inspect_specimen(workshop: Workshop, pull_id: str, remains: Remains) -> None:
    """Write down what lies on the simulated bench, as a technician would."""
    entry = read_logbook(workshop).by_pull[pull_id]
    draft = FindingDraft(
        gave=Gave(remains.gave),
        place=remains.place,
        draws={key: f"{1000 * draw:.0f} mm" for key, draw in remains.draws_m.items()},
        jams={End(k.end): JamLevel(k.jam_level) for k in remains.knots},
        untie={End(k.end): f"{k.untie_s} s" for k in remains.knots if k.untie_s is not None},
        by=entry.pull.technician if entry.pull is not None else "",
    )
    if remains.gave != "capsized":
        draft.forms = {
            end: f"{load / 1000:.3f} kN"
            for end in End
            if (load := remains.truth.get(f"form_{end}_n")) is not None
        }
    slid = {s.key: f"{remains.truth[f'slid_{s.end}_mm']:.0f} mm" for s in moved_spots(entry)}
    draft.lengths = {k: v for k, v in slid.items() if v != "0 mm"}
    draft.lengths |= {
        s.key: f"{length:.0f} mm"
        for s in entry.specimen.layout.lengths
        if (length := remains.truth.get(f"{s.key}_mm")) is not None
    }
    if contradiction(entry, draft):
        draft.against = "seen with my own eyes; the trace alone cannot tell"
    worst = [JamLevel(k.jam_level) for k in remains.knots if k.jam_level != "not_tried"]
    draft.untied_how = ", ".join(JAM_WORDS[level] for level in worst)
    errors = accept_draft(workshop, entry, draft)
    if errors:
        raise ValueError(f"{entry.specimen.code}: {errors}")


def moved_spots(entry: Entry) -> list[LengthSpot]:
    """The ways a specimen's knots may have slid."""
    return [s for s in entry.specimen.layout.lengths if s.moves]


def void_specimen(workshop: Workshop, pull_id: str, reason: str) -> None:
    """Set a pull aside."""
    entry = read_logbook(workshop).by_pull[pull_id]
    draft = FindingDraft(gave=Gave.VOID, void_reason=reason)
    accept_draft(workshop, entry, draft, replace_void=False)
