"""The line protocol of a controlled bench: frames, samples, replies, and their checksum.

A line is ``body*CCCC``, CCCC the CRC-16/CCITT-FALSE of the body in upper-case hex. Samples are
``S,seq,t_ms,load_N,travel_mm,flags[,load2_N[,tail_mm]]``, commands ``id,verb ...``, replies
``A,id,OK...`` or ``E,id,code,text``, events ``V,...``. A single ``!`` stops at once.
"""

from __future__ import annotations

import binascii
import math
from dataclasses import dataclass
from enum import IntFlag

SEQUENCE = 1 << 16
COUNTS_ANEW = 4
"""So many numbers in a row from elsewhere, each following the other, are a bench counting anew."""

LONGEST_STEP = SEQUENCE // 8
"""A longer step forward is no gap: the bench would have been found silent long before."""

STOP_BYTE = b"!"
LONGEST_LINE = 200
BITS_A_CHARACTER = 10


class SampleFlag(IntFlag):
    """What the bench says of a sample."""

    NONE = 0
    MOVING = 1
    HOLD = 2
    TRAVEL_LIMIT = 4
    OVERLOAD = 8
    STOP_PRESSED = 16
    SATURATED = 32
    STALE = 64
    BROKEN = 128


@dataclass(frozen=True, kw_only=True)
class SampleLine:
    """One sample; NaN is a reading the bench could not take."""

    seq: int
    t_ms: float
    load_n: float
    travel_mm: float
    flags: int
    load2_n: float = math.nan
    tail_mm: float = math.nan


@dataclass(frozen=True)
class Reply:
    """An answer to a command: whether it was done, and what was said."""

    id: str
    ok: bool
    text: str


@dataclass(frozen=True)
class Event:
    """Something the bench says by itself."""

    text: str


@dataclass(frozen=True)
class BadLine:
    """A line that is none: what came, and why it is none."""

    raw: bytes
    why: str


Line = SampleLine | Reply | Event | BadLine


def checksum(body: bytes) -> int:
    """CRC-16/CCITT-FALSE: polynomial 1021, initial value FFFF, nothing reflected."""
    return binascii.crc_hqx(body, 0xFFFF)


def frame(body: str) -> bytes:
    """A line with its checksum, ready to be sent."""
    raw = body.encode("ascii")
    return b"%s*%04X\n" % (raw, checksum(raw))


def command(number: int, verb: str) -> bytes:
    """A command's line."""
    return frame(f"{number},{verb}")


def parse_line(raw: bytes) -> Line:
    """Read one line without its line feed; one that is wrong comes back as a :class:`BadLine`."""
    line = raw.rstrip(b"\r")
    body, star, sum_ = line.rpartition(b"*")
    if not star or len(sum_) != 4:
        return BadLine(raw, "no checksum")
    try:
        right = int(sum_, 16) == checksum(body)
    except ValueError:
        right = False
    if not right:
        return BadLine(raw, "wrong checksum")
    parts = body.decode("ascii", "replace").split(",")
    if parts[0] == "S":
        return _sample(raw, parts)
    if parts[0] in ("A", "E") and len(parts) >= 3:
        return Reply(parts[1], parts[0] == "A", ",".join(parts[2:]))
    if parts[0] == "V":
        return Event(",".join(parts[1:]))
    return BadLine(raw, "unknown kind")


def _sample(raw: bytes, parts: list[str]) -> Line:
    if not 6 <= len(parts) <= 8:
        return BadLine(raw, "not a whole sample")
    try:
        numbers = [float(p) for p in parts[1:]]
    except ValueError:
        return BadLine(raw, "not a number")
    if any(math.isinf(n) for n in numbers):
        return BadLine(raw, "an infinite number")
    seq, t_ms, load, travel, flags, *more = numbers
    if math.isnan(seq + t_ms + flags):
        return BadLine(raw, "no number where one has to be")
    if not (seq == int(seq) and 0 <= seq < SEQUENCE and flags == int(flags)):
        return BadLine(raw, "odd sequence number")
    return SampleLine(
        seq=int(seq),
        t_ms=t_ms,
        load_n=load,
        travel_mm=travel,
        flags=int(flags),
        **dict(zip(("load2_n", "tail_mm"), more, strict=False)),
    )


class LineSplitter:
    """Cuts a stream into lines, in whatever pieces it comes; a line that never ends is dropped."""

    def __init__(self) -> None:
        self._rest = b""
        self.dropped = 0

    def feed(self, data: bytes) -> list[bytes]:
        """Whole lines so far, without line feeds."""
        *lines, self._rest = (self._rest + data).split(b"\n")
        if len(self._rest) > LONGEST_LINE:
            self._rest = b""
            self.dropped += 1
        return lines


class Sequence:
    """Unwraps 16-bit sequence numbers into a count of samples since the first."""

    def __init__(self) -> None:
        self._last: int | None = None
        self._behind: int | None = None
        self._behind_count = 0
        self.count = -1
        self.lost = 0
        self.repeated = 0
        self.restarts = 0

    def place(self, seq: int) -> int | None:
        """The place of a sample; None for one that came before (a repeat, or stale data)."""
        if self._last is None:
            self._last, self.count = seq, 0
            return 0
        step = (seq - self._last) % SEQUENCE
        if step == 0 or step > LONGEST_STEP:
            return self._place_behind(seq)
        self._behind = None
        self.lost += step - 1
        self._last = seq
        self.count += step
        return self.count

    def _place_behind(self, seq: int) -> int | None:
        """A number from elsewhere: a repeat, or the bench has begun to count anew."""
        follows = self._behind is not None and seq == (self._behind + 1) % SEQUENCE
        self._behind_count = self._behind_count + 1 if follows else 1
        self._behind = seq
        if self._behind_count < COUNTS_ANEW:
            self.repeated += 1
            return None
        # Those of the new count that were taken for repeats are lost, and keep their places.
        self.repeated -= COUNTS_ANEW - 1
        self.lost += COUNTS_ANEW - 1
        self.restarts += 1
        self._last, self._behind = seq, None
        self.count += COUNTS_ANEW
        return self.count


def lines_a_second(baud: int, channels: int) -> float:
    """How many samples a second a serial line carries, 10 bits a character."""
    longest = {1: 34, 2: 34, 3: 43, 4: 50}[channels]
    return baud / BITS_A_CHARACTER / longest


def rates_borne(baud: int, channels: int) -> tuple[int, ...]:
    """Sample rates that a line bears with a fifth to spare, fastest first."""
    most = 0.8 * lines_a_second(baud, channels)
    return tuple(r for r in (2000, 1000, 500, 250, 200, 100, 50, 20, 10) if r <= most)
