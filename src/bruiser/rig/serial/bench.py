"""A controlled bench on a serial line, as an instrument."""

from __future__ import annotations

import math
import threading
import time
from dataclasses import dataclass, field, replace

import numpy as np

from bruiser.core.errors import LinkLost, RigError, Silent
from bruiser.core.trace import NOTHING_YET, Trace, trace_of
from bruiser.rig.instrument import (
    BenchStatus,
    InstrumentInfo,
    Motion,
    Remains,
    Stop,
)
from bruiser.rig.protocol import (
    STOP_BYTE,
    BadLine,
    Event,
    LineSplitter,
    Reply,
    SampleFlag,
    SampleLine,
    Sequence,
    command,
    parse_line,
)
from bruiser.rig.serial.line import SerialLine

ANSWER_S = 0.6
SILENCE_S = 1.0
WINDOW_S = 0.3
"""The recorder stops the travel after so long without a sign from the window."""
START_S = 1.0
"""A bench that does not say within this time that it moves does not."""


@dataclass(kw_only=True)
class LinkCounts:
    """What came over the line so far."""

    samples: int = 0
    bad_lines: int = 0
    foreign_replies: int = 0
    clock_back: int = 0
    beyond_capacity: int = 0
    last_bad: str = ""
    events: list[str] = field(default_factory=list)


class SerialBench:
    """A bench that speaks the line protocol.

    Parameters
    ----------
    line : SerialLine
    sample_rate_hz : float
        Wanted rate; the bench answers with what it gives.

    Raises
    ------
    RigError
        If nothing answers as a bench does.

    Notes
    -----
    Time comes from the sequence number, never from the millisecond stamps, which collide above
    1 kHz. What was in the buffers when the line was opened is dropped: samples count from the
    answer to ``stream`` on.
    """

    def __init__(self, line: SerialLine, sample_rate_hz: float = 500.0) -> None:
        self._line = line
        self.counts = LinkCounts()
        self._splitter, self._sequence = LineSplitter(), Sequence()
        self._pump_lock = threading.Lock()
        self._pending: list[tuple[int, SampleLine]] = []
        self._replies: dict[str, Reply] = {}
        self._asked = 0
        self._streaming = False
        self._flags = 0
        self._last_t = -math.inf
        self._stopped_by = Stop.NONE
        self._armed = False
        self._motion = Motion.STILL
        self._target = False
        self._moved_at = 0.0
        self._seen_moving = False
        self._rate_m_s = 0.0
        self._heard = time.monotonic()
        line.forget()
        hello = self._ask("hello")
        name, capacity, resolution, stroke = [*hello.split(","), "", "", "", ""][:4]
        capacity_n, resolution_n, stroke_m = (_number(x) for x in (capacity, resolution, stroke))
        self.info = InstrumentInfo(
            name=name,
            sample_rate_hz=sample_rate_hz,
            capacity_n=capacity_n,
            resolution_n=resolution_n,
            stroke_m=stroke_m,
            simulated=False,
            silence_s=WINDOW_S,
        )
        given = self._ask(f"stream {sample_rate_hz:g}")
        self._start_stream()
        if given:
            self.info = replace(self.info, sample_rate_hz=_number(given.split(",")[0]))

    def _start_stream(self) -> None:
        with self._pump_lock:
            self._sequence = Sequence()
            self._pending.clear()
            self._streaming = True
            self._heard = time.monotonic()

    def _pump(self, timeout_s: float) -> None:
        """Take in what has come; the lock must be held."""
        data = self._line.read(timeout_s)
        for raw in self._splitter.feed(data):
            self._take(parse_line(raw))

    def _take(self, line: SampleLine | Reply | Event | BadLine) -> None:
        if isinstance(line, SampleLine):
            self._heard = time.monotonic()
            if not self._streaming:
                return
            place = self._sequence.place(line.seq)
            if place is None:
                return
            self.counts.samples += 1
            self.counts.clock_back += line.t_ms < self._last_t
            self.counts.beyond_capacity += abs(line.load_n) > 1.001 * self.info.capacity_n
            self._last_t = line.t_ms
            self._flags = line.flags
            self._pending.append((place, line))
            self._follow(line.flags)
        elif isinstance(line, Reply):
            self._heard = time.monotonic()
            if line.id in self._replies or not line.id.isdecimal() or int(line.id) > self._asked:
                self.counts.foreign_replies += 1
            else:
                self._replies[line.id] = line
        elif isinstance(line, Event):
            self.counts.events.append(line.text)
            self._target |= line.text == "reached"
        else:
            self.counts.bad_lines += 1
            self.counts.last_bad = f"{line.why}: {line.raw[:60]!r}"

    def _follow(self, flags: int) -> None:
        # Samples after a command may still be from before it: a bench takes its time to move off.
        if flags & SampleFlag.MOVING:
            self._seen_moving = True
        elif self._seen_moving or time.monotonic() - self._moved_at > START_S:
            self._motion = Motion.STILL
        for flag, why in (
            (SampleFlag.TRAVEL_LIMIT, Stop.TRAVEL_LIMIT),
            (SampleFlag.OVERLOAD, Stop.OVERLOAD),
            (SampleFlag.STOP_PRESSED, Stop.PRESSED),
        ):
            if flags & flag:
                self._stopped_by = why

    def _send(self, verb: str) -> str:
        self._asked += 1
        self._line.write(command(self._asked, verb))
        return str(self._asked)

    def _ask(self, verb: str) -> str:
        """Send a command and wait for its own answer; what was said after ``OK``."""
        number = self._send(verb)
        until = time.monotonic() + ANSWER_S
        while time.monotonic() < until:
            if self._pump_lock.acquire(timeout=0.01):
                try:
                    if number not in self._replies:
                        self._pump(0.01)
                    reply = self._replies.get(number)
                finally:
                    self._pump_lock.release()
                if reply is not None:
                    if not reply.ok:
                        raise RigError(f"The bench refused “{verb}”: {reply.text}.")
                    return reply.text.removeprefix("OK").removeprefix(",")
        raise Silent(f"The bench does not answer “{verb}”.", "Check port, baud rate and power.")

    def zero(self) -> None:
        """Take the present load as zero."""
        self._ask("zero")

    def set_rate(self, rate_m_s: float) -> None:
        """Travel this fast from now on; sent where it changes, and nobody waits for the answer."""
        if rate_m_s != self._rate_m_s:
            self._rate_m_s = rate_m_s
            self._send(f"rate {1000 * rate_m_s:g}")

    def arm(self) -> None:
        """Allow motion."""
        self._ask("arm")
        self._armed, self._stopped_by = True, Stop.NONE

    def _move(self, verb: str, motion: Motion) -> None:
        if self._armed:
            self._target = False
            self._stopped_by = Stop.NONE
            self._moved_at = time.monotonic()
            self._seen_moving = False
            self._motion = motion
            self._send(verb)

    def pull(self) -> None:
        """Start travel."""
        self._move("run fwd", Motion.PULLING)

    def slack(self) -> None:
        """Travel back."""
        self._move("run rev", Motion.SLACKING)

    def to_load(self, load_n: float) -> None:
        """Travel, either way, until a load is reached."""
        self._move(f"to-load {load_n:g}", Motion.PULLING)

    def to_travel(self, travel_m: float) -> None:
        """Travel, either way, to a position."""
        self._move(f"to-travel {1000 * travel_m:g}", Motion.PULLING)

    def hold(self) -> None:
        """Stop travel; the load stays on."""
        self._motion = Motion.STILL
        self._send("hold 0")

    def stop(self) -> None:
        """Stop at once and disarm: a single byte, without waiting for anything."""
        self._armed, self._motion = False, Motion.STILL
        try:
            self._line.write_first(STOP_BYTE)
        except LinkLost:
            # A bench that hears nothing stops by itself; reading tells the person.
            return

    def keep_alive(self) -> None:
        """The control is still held."""
        self._send("ping")

    def status(self) -> BenchStatus:
        """The state as the last samples told it."""
        gave = bool(self._flags & SampleFlag.BROKEN)
        return BenchStatus(
            armed=self._armed,
            motion=self._motion,
            stopped_by=self._stopped_by,
            specimen_gave=gave,
            at_target=self._target,
        )

    def remains(self, attempt: int = 0) -> Remains | None:
        """A real bench does not know what lies on it."""
        del attempt
        return None

    def read(self, timeout_s: float) -> Trace:
        """Samples since the last call; places of lost ones are NaN.

        Raises
        ------
        LinkLost
            If the line is gone.
        Silent
            If nothing has come for a second.
        """
        with self._pump_lock:
            if not self._pending:
                self._pump(timeout_s)
            if self._streaming and time.monotonic() - self._heard > SILENCE_S:
                raise Silent("The bench has gone silent.", "Use its own emergency stop, then look.")
            taken, self._pending = self._pending, []
            for number in [k for k in self._replies if int(k) < self._asked - 200]:
                del self._replies[number]
        return _block(taken)

    def close(self) -> None:
        """Let go of the line; the bench is stopped first."""
        self.stop()
        self._line.close()


def _number(text: str) -> float:
    """A number above zero that a bench says of itself."""
    try:
        value = float(text)
    except ValueError:
        value = math.nan
    if not 0.0 < value < math.inf:
        raise RigError("What answers there is no bench.", "Check port and baud rate.")
    return value


def _block(taken: list[tuple[int, SampleLine]]) -> Trace:
    """Placed samples as arrays, NaN where a place is empty."""
    if not taken:
        return NOTHING_YET
    first, last = taken[0][0], taken[-1][0]
    table = np.full((4, last - first + 1), np.nan)
    for place, s in taken:
        stale = s.flags & SampleFlag.STALE
        load = math.nan if stale else s.load_n
        table[:, place - first] = load, s.travel_mm / 1000, s.load2_n, s.tail_mm / 1000
    hand = None if np.isnan(table[2]).all() else table[2]
    tail = None if np.isnan(table[3]).all() else table[3]
    return trace_of(table[0], table[1], load2_n=hand, tail_m=tail, first=first)
