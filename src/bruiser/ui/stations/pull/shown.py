"""What the pull station shows at one moment, made from what the bench did last."""

from __future__ import annotations

import math
from dataclasses import dataclass

from bruiser.core.records.records import PullEnd, Specimen
from bruiser.core.units import UnitChoice, si_factor
from bruiser.rig.instrument import Stop
from bruiser.ui.stations.pull.driver import BenchDriver
from bruiser.workshop.bench.live_pull import Live, Phase
from bruiser.workshop.bench.pulling import PullSession
from bruiser.workshop.bench.running import RunState
from bruiser.workshop.logbook.entries import Entry

NOT_READ = "–"
ONCE_MORE = "Lane still clear? Press once more to run by itself."
_LIMIT_WORDS = {
    PullEnd.LOAD_LIMIT: "The load limit of this pull is reached. ",
    PullEnd.TRAVEL_LIMIT: "The travel limit of this pull is reached. ",
    PullEnd.TIME_LIMIT: "The time limit of this pull is reached. ",
}
_STOP_WORDS = {
    Stop.LOAD_LIMIT: "Load limit reached. ",
    Stop.TRAVEL_LIMIT: "End of travel reached. ",
    Stop.WATCHDOG: "The control went silent. ",
    Stop.PRESSED: "The bench's own stop was pressed. ",
    Stop.OVERLOAD: "The bench stopped at overload. ",
    Stop.NONE: "",
}


@dataclass(frozen=True, kw_only=True)
class Readings:
    """The large numbers, as texts with units."""

    load: str
    highest: str
    force_unit: str
    travel: str
    length_unit: str
    share: str


@dataclass(frozen=True, kw_only=True)
class PullControls:
    """What can be done now, and what the bench says."""

    words: str
    tone: str
    may_arm: bool = False
    may_pull: bool = False
    may_slack: bool = False
    may_end: bool = False
    may_stop: bool = False
    done: bool = False


def readings_of(live: Live | None, units: UnitChoice, baseline_n: float | None) -> Readings:
    """The large numbers of a moment."""
    if live is None:
        return Readings(
            load="–",
            highest="–",
            force_unit=units.force,
            travel="–",
            length_unit=units.length,
            share="–",
        )
    share = f"{100 * live.highest_n / baseline_n:.0f}" if baseline_n else "–"
    travel = live.travel_m / si_factor(units.length, "length")
    shown = 0.0 if abs(live.load_n) < 10 else live.load_n
    return Readings(
        load=units.force_number(shown) if math.isfinite(shown) else NOT_READ,
        highest=units.force_number(live.highest_n),
        force_unit=units.force,
        travel=f"{travel:.1f}" if math.isfinite(travel) else NOT_READ,
        length_unit=units.length,
        share=share,
    )


def controls_of(driver: BenchDriver) -> PullControls:
    """What can be done with the bench now."""
    if driver.not_stored is not None:
        words = f"{driver.unsaved or 'The'} samples are not stored yet; they are kept in memory."
        return PullControls(
            words=f"{words} Make room, then end the pull.", tone="brick", may_end=True
        )
    live, session = driver.live, driver.session
    if session is None or live is None or live.phase is Phase.READY:
        words = "Ready to arm." if driver.lane_clear else "Lane clear? Tick both, then arm."
        return PullControls(words=words, tone="ink", may_arm=driver.lane_clear)
    if live.phase in (Phase.GAVE, Phase.ENDED):
        return PullControls(words="It gave. Go and look.", tone="moss", done=True)
    if driver.asks:
        return _asking(driver, session, live)
    state = None if driver.run is None else driver.run.state
    if driver.latched and state in (RunState.MOVING, RunState.HOLDING):
        return PullControls(words="Running by itself. Esc stops it.", tone="plum", may_stop=True)
    if live.phase is Phase.ARMED:
        return _armed(driver, session)
    if live.phase is Phase.PULLING:
        return PullControls(
            words="Pulling. Let go to stop.", tone="plum", may_pull=True, may_stop=True
        )
    if live.phase is Phase.SLACKING:
        return PullControls(words="Slacking off.", tone="plum", may_slack=True, may_stop=True)
    words, tone = _held_words(driver, live)
    armed = session.armed
    if armed and driver.confirming:
        words, tone = ONCE_MORE, "ochre"
    return PullControls(
        words=words,
        tone=tone,
        may_arm=driver.lane_clear and not armed,
        may_pull=armed and driver.act is not None,
        may_slack=armed,
        may_end=session.may_end,
        may_stop=armed,
    )


def _armed(driver: BenchDriver, session: PullSession) -> PullControls:
    if not session.zero_taken:
        return PullControls(words="Armed. Taking the zero …", tone="plum", may_stop=True)
    if driver.confirming:
        return PullControls(words=ONCE_MORE, tone="ochre", may_pull=True, may_stop=True)
    words = "Press to run by itself." if driver.latched else "Hold Space to pull."
    return PullControls(words=f"Armed. {words}", tone="plum", may_pull=True, may_stop=True)


def _asking(driver: BenchDriver, session: PullSession, live: Live) -> PullControls:
    """Between two acts: what is asked, and whether it is safe to go there."""
    act, armed = driver.act, session.armed
    if act is not None and not act.approach:
        words = "Load on. Read it from outside the lane."
        return PullControls(words=words, tone="brick", may_slack=armed, may_stop=armed)
    if live.load_is_on or armed:
        words = "The load is still on. Slack off before you go there."
        return PullControls(
            words=words, tone="brick", may_arm=driver.lane_clear, may_slack=armed, may_stop=armed
        )
    words = "Load off, bench disarmed. Safe to approach."
    return PullControls(words=words, tone="moss", may_end=session.may_end)


def _held_words(driver: BenchDriver, live: Live) -> tuple[str, str]:
    if live.fault:
        off = "" if not live.load_is_on else " The load may still be on."
        return f"{live.fault}{off} The samples are kept in memory.", "brick"
    reason = _STOP_WORDS[live.stopped_by] if live.limit is None else _LIMIT_WORDS[live.limit]
    if live.load_is_on:
        return f"{reason}Stopped. The load is still on.", "brick"
    if driver.run is not None and driver.act is None:
        return "The method is done and the load is off. End this pull.", "moss"
    return f"{reason}Stopped, the load is off.", "ink"


def strip_notes(
    specimen: Specimen | None, live: Live | None, units: UnitChoice
) -> tuple[dict[str, str], float]:
    """What stands under each tail, and how far the specimen is drawn out, 0 to 1."""
    if specimen is None:
        return {}, 0.0
    say = units.length_text
    notes = {t.key: f"tail {say(t.length_m)}" for t in specimen.tails}
    if live is None:
        return notes, 0.0
    if live.drawn_m is not None and specimen.tails:
        first = specimen.tails[0]
        left = say(max(0.0, first.length_m - live.drawn_m))
        notes[first.key] = f"tail {left}, drew {say(live.drawn_m)}"
    travel_m = live.travel_m if math.isfinite(live.travel_m) else 0.0
    drawn_out = max(0.0, travel_m) / max(specimen.span_m, 0.05)
    return notes, round(min(1.0, drawn_out), 2)


def programme_words(driver: BenchDriver, entry: Entry, of_what: str) -> str:
    """What comes next in words; before the pull, what the method is and how it ends.

    Parameters
    ----------
    of_what : str
        What the method's shares are of.
    """
    plan, run, act = entry.specimen.method, driver.run, driver.act
    if run is None:
        of = f" Shares are of the {of_what}." if plan.highest_share else ""
        return f"{plan.words.capitalize()}. Ends when {plan.method.ends_when}.{of}"
    if run.state is RunState.DONE or act is None:
        return "The method is done. Slack off, then end the pull."
    count = f" ({act.number} of {act.of})" if act.of > 1 else ""
    return f"{'Now' if run.state is not RunState.READY else 'First'}: {act.words}{count}."
