"""A method at work: its acts one after another, and the readings they take."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import replace
from enum import StrEnum

from bruiser.core.errors import InputError
from bruiser.core.records.layouts import End
from bruiser.core.records.programme import Act, ActKind, programme
from bruiser.core.records.readings import GAVE_NOTE, Reading, Takes, opens_by_hand
from bruiser.core.records.records import JamLevel, Lot, PullEnd, Specimen
from bruiser.core.trace import Channel
from bruiser.store import readings
from bruiser.workshop.bench.live_pull import Live, Phase
from bruiser.workshop.bench.live_readings import GAVE_SHARE
from bruiser.workshop.bench.pulling import PullSession
from bruiser.workshop.bench.simulation import lock_off
from bruiser.workshop.logbook.commands import Changes
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop
from bruiser.workshop.results.lot_results import baseline_median_n

SLACK_N = 0.001
"""Share of the cell's capacity under which a line counts as slack."""

SLID_D = 4.0
_SAME_LOAD = 1.02
_TOP_UP = 0.99


def reference_n(logbook: Logbook, lot: Lot) -> tuple[float, str]:
    """The strength that a method's levels are shares of, and what it is; 0 without one."""
    measured = baseline_median_n(logbook, lot)
    if measured is not None:
        return measured, "measured baseline"
    if lot.rated_strength_n:
        return lot.rated_strength_n, "rated strength, which is no baseline"
    return 0.0, "neither measured nor rated"


def acts_for(specimen: Specimen, reference: float) -> tuple[Act, ...]:
    """What the method of a specimen commands.

    Raises
    ------
    InputError
        If its levels are shares of a strength that is neither measured nor rated.
    """
    if specimen.method.highest_share and not reference > 0:
        raise InputError(
            f"The levels of “{specimen.method.words}” are shares of a strength nobody knows.",
            "Measure the baseline of its lot, or enter its rating.",
        )
    return tuple(programme(specimen.method, reference))


class RunState(StrEnum):
    """Where a method stands."""

    READY = "ready"
    MOVING = "moving"
    HOLDING = "holding"
    ASKING = "asking"
    PAUSED = "paused"
    DONE = "done"


class MethodRun:
    """Drives a pull session through the acts of its method.

    Parameters
    ----------
    workshop : Workshop
        Where readings are stored.
    session : PullSession
        The pull.
    acts : sequence of Act
        From :func:`bruiser.core.records.programme.programme`.

    Notes
    -----
    Time is counted in samples, so that an accelerated bench holds as long as a slow one. Readings
    are stored at once and by themselves: what was read before a stop stays.
    """

    def __init__(self, workshop: Workshop, session: PullSession, acts: Sequence[Act]) -> None:
        self._workshop = workshop
        self._session = session
        self.acts = tuple(acts)
        self.index = 0
        self.state = RunState.READY
        self.readings: list[Reading] = []
        self._held_from: int | None = None
        self._held = 0
        self._travel_at_hold = 0.0
        self._cycle_top_n = 0.0
        self._first_drawn_m: float | None = None
        self._top_n = 0.0
        self._top_at_m = 0.0
        self._slack_n = SLACK_N * session.instrument_info.capacity_n

    @property
    def act(self) -> Act | None:
        """The act under way or next; None when there is none left."""
        return self.acts[self.index] if self.index < len(self.acts) else None

    @property
    def progress(self) -> float:
        """Share of the acts done."""
        return 1.0 if self.state is RunState.DONE else self.index / max(1, len(self.acts))

    def start(self) -> bool:
        """Begin, or go on after a pause; False when the bench is not ready for it."""
        act = self.act
        if act is None or self.state not in (RunState.READY, RunState.PAUSED):
            return False
        if act.move is ActKind.HOLD and self._session.pull_id is not None:
            self.state = RunState.HOLDING
            return True
        if act.move is ActKind.ASK:
            self.state = RunState.ASKING
            return True
        return self._issue(act)

    def _issue(self, act: Act) -> bool:
        session = self._session
        if act.move is ActKind.PULL:
            moved = session.pull()
        elif act.move is ActKind.SLACK:
            moved = session.drive(0.8 * self._slack_n, act.rate)
        else:
            moved = session.drive(act.load_n, act.rate)
        if moved:
            self.state = RunState.MOVING
        return moved

    def pause(self) -> None:
        """The bench was stopped or let go; the act is begun again on :meth:`start`."""
        if self.state in (RunState.MOVING, RunState.HOLDING):
            self._count_hold(self._session.recorder.count)
            self.state = RunState.PAUSED

    def tick(self, live: Live) -> None:
        """Look where things stand and go on; call after every poll of the session."""
        act = self.act
        if self.state is RunState.DONE or act is None:
            return
        if live.phase in (Phase.GAVE, Phase.ENDED):
            self._note_end(act, live)
            self.state = RunState.DONE
            return
        if live.limit is not None or live.fault:
            self.pause()
            return
        self._cycle_top_n = max(self._cycle_top_n, live.load_n)
        if self.state is RunState.MOVING:
            self._tick_moving(act, live)
        elif self.state is RunState.HOLDING:
            self._tick_holding(act, live)

    def _tick_moving(self, act: Act, live: Live) -> None:
        if act.move is ActKind.SLIDE and self._has_slid(live):
            self._session.release()
            self._take(Takes.SLID, self._top_n, 1.0)
            self._next()
            return
        if not self._arrived(act, live):
            if live.phase is Phase.HELD and live.stopped_by:
                self.state = RunState.PAUSED
            elif (
                live.phase is Phase.HELD
                and not live.load_is_on
                and (live.load_n < GAVE_SHARE * live.highest_n)
            ):
                self._session.it_gave()
            return
        if act.takes is not None:
            self._take_at_arrival(act, live)
        self._next()

    def _arrived(self, act: Act, live: Live) -> bool:
        if act.move is ActKind.PULL:
            return False
        if act.move is ActKind.SLACK:
            return live.at_target or live.load_n <= self._slack_n
        return live.at_target

    def _tick_holding(self, act: Act, live: Live) -> None:
        if self._held_from is None:
            self._held_from = live.samples
            self._travel_at_hold = self._travel_at_hold if self._held else live.travel_m
        rate = self._session.instrument_info.sample_rate_hz
        if self._held + live.samples - self._held_from >= act.seconds * rate:
            self._count_hold(live.samples)
            if act.takes is not None:
                self._take_after_hold(act, live)
            self._next()
            return
        tops_up = act.keeps and live.phase is Phase.HELD
        if tops_up and live.load_n < _TOP_UP * act.load_n:
            self._session.drive(act.load_n, act.rate)

    def _count_hold(self, samples: int) -> None:
        if self._held_from is not None:
            self._held += samples - self._held_from
            self._held_from = None

    def _has_slid(self, live: Live) -> bool:
        """Whether travel of four diameters brought no more load: it slides."""
        if live.load_n > _SAME_LOAD * self._top_n:
            self._top_n, self._top_at_m = live.load_n, live.travel_m
        enough = self._top_n > 4 * self._slack_n
        way = SLID_D * self._session.specimen.lot.diameter_m
        return enough and live.travel_m - self._top_at_m > way

    def _next(self) -> None:
        self.index += 1
        self._held, self._held_from = 0, None
        act = self.act
        if act is None:
            self.state = RunState.DONE
            return
        if act.move is ActKind.HOLD:
            self.state = RunState.HOLDING
            if act.takes is Takes.KEPT:
                lock_off(self._session.instrument)
        elif act.move is ActKind.ASK:
            self.state = RunState.ASKING
            hand = (
                self._session.recorder.now(Channel.LOAD2) if act.takes is Takes.TWO_LOADS else None
            )
            if hand is not None:
                self.answer_value(hand, "from the bench's second channel")
            elif act.approach:
                self._session.stop()
        elif not self._issue(act):
            self.state = RunState.PAUSED

    def answer_untying(self, found: Mapping[End, tuple[JamLevel, float | None]]) -> None:
        """What it took to untie each knot at this step; ends the method once one needed a tool."""
        act = self.act
        if act is None or self.state is not RunState.ASKING or act.takes is not Takes.UNTYING:
            return
        for end, (level, seconds) in found.items():
            self._take(Takes.UNTYING, act.load_n, seconds, end=end, level=level)
        stuck = any(
            level is not JamLevel.NOT_TRIED and not opens_by_hand(level)
            for level, _ in found.values()
        )
        self.index += 1
        if stuck or self.index >= len(self.acts):
            self.state = RunState.DONE
            return
        self.state = RunState.PAUSED

    def answer_value(self, value: float | None, note: str = "") -> None:
        """The load or length the technician read; None where what was tried did not happen."""
        act = self.act
        if act is None or self.state is not RunState.ASKING or act.takes is None:
            return
        live = self._session.poll()
        # What is shown goes blank when no sample comes; the reading keeps the last one there was.
        load_n = live.last_n if math.isnan(live.load_n) else live.load_n
        self._take(act.takes, load_n, value, note=note)
        self._next()

    def end_early(self) -> None:
        """Go no further; what was read stays."""
        if self.state is not RunState.DONE:
            self._count_hold(self._session.recorder.count)
            act = self.act
            if act is not None and act.takes is Takes.HELD and self._held:
                self._take(Takes.HELD, act.load_n, self._held_s, note="stopped before its time")
        self.state = RunState.DONE

    @property
    def ends_as(self) -> PullEnd:
        """How the pull ends when the load is off."""
        whole = self.state is RunState.DONE and (self.act is None or self._stuck)
        return PullEnd.COMPLETED if whole else self._session.why_ended

    @property
    def _stuck(self) -> bool:
        levels = [r.level for r in self.readings if r.level not in (None, JamLevel.NOT_TRIED)]
        return any(not opens_by_hand(level) for level in levels if level is not None)

    @property
    def _held_s(self) -> float:
        return self._held / self._session.instrument_info.sample_rate_hz

    def _take_at_arrival(self, act: Act, live: Live) -> None:
        if act.takes is Takes.SLID:
            self._take(Takes.SLID, act.load_n, 0.0)
        elif act.takes in (Takes.CYCLE, Takes.SHAKE):
            drawn, how = live.drawn_m, "by the tail gauge"
            if drawn is None:
                drawn, how = live.travel_m, "by the travel at this load"
            if self._first_drawn_m is None:
                self._first_drawn_m = 0.0 if live.drawn_m is not None else drawn
            self._take(act.takes, self._cycle_top_n, drawn - self._first_drawn_m, note=how)
            self._cycle_top_n = 0.0

    def _take_after_hold(self, act: Act, live: Live) -> None:
        if act.takes is Takes.HELD:
            creep = 1000 * (live.travel_m - self._travel_at_hold)
            self._take(Takes.HELD, act.load_n, act.seconds, note=f"crept {creep:.1f} mm")
        elif act.takes is Takes.KEPT:
            self._take(Takes.KEPT, act.load_n, max(0.0, live.load_n) / act.load_n)

    def _note_end(self, act: Act, live: Live) -> None:
        """It gave in the middle of an act: what that act would have read is read as it is."""
        self._count_hold(live.samples)
        if act.takes is Takes.HELD:
            self._take(Takes.HELD, act.load_n, self._held_s, note="gave")
        elif act.takes is Takes.SLID:
            gave = live.phase is Phase.GAVE
            note = GAVE_NOTE if gave else "stopped"
            self._take(Takes.SLID, live.highest_n, 1.0 if gave else 0.0, note=note)

    def _take(
        self,
        takes: Takes,
        load_n: float,
        value: float | None,
        *,
        end: End | None = None,
        level: JamLevel | None = None,
        note: str = "",
    ) -> None:
        pull_id, act = self._session.pull_id, self.act
        if pull_id is None or act is None:
            raise ValueError("nothing is read before the pull began")
        blank = Reading(
            id=self._workshop.new_id(),
            pull_id=pull_id,
            made_at=self._workshop.now(),
            takes=takes,
            number=act.number,
            load_n=0,
        )
        made = replace(blank, load_n=load_n, value=value, end=end, level=level, note=note)

        def store(shop: Workshop) -> None:
            with shop.file.writing() as connection:
                readings.insert_reading(connection, made)
                shop.note(connection, "note a reading", (pull_id,))

        self._session.store(store)
        self.readings.append(made)

    def announce(self) -> None:
        """Tell the listeners that readings came in; after the pull, for it costs a look at all."""
        ids = tuple(r.id for r in self.readings)
        if self._session.waits:
            return
        self._workshop.announce(Changes(frozenset({"reading"}), ids))
