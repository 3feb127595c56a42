"""An indicator that only streams its reading, in whatever words it uses."""

from __future__ import annotations

import re
import time
from dataclasses import dataclass, replace

import numpy as np

from bruiser.core.errors import InputError, Silent
from bruiser.core.trace import Trace, trace_of
from bruiser.core.units import si_factor
from bruiser.rig.instrument import BenchStatus, InstrumentInfo, Motion, Remains, Stop
from bruiser.rig.serial.line import SerialLine

SILENCE_S = 3.0
_LONGEST = 400
ANY_NUMBER = (
    r"(?P<load>[-+]?\s*\d+(?:[.,]\d{3}(?!\d))*(?:[.,]\d+)?)\s*(?P<unit>kN|daN|kgf|kg|lbf|lb|N)?"
)
_UNITS = {"kg": "kgf", "lb": "lbf"}


@dataclass(frozen=True, kw_only=True)
class PassiveSettings:
    """How an indicator's lines are understood.

    Parameters
    ----------
    pattern : str
        Regular expression with a group ``load`` and, where lines name it, ``unit``.
    unit : str
        Unit of a line that names none.
    decimal_mark : str
        ``.`` or ``,``. The other mark groups thousands and is dropped.
    scale : float
        Factor from the calibration; set by the check with a known load.
    capacity_n, resolution_n : float
        Of the cell behind it.
    """

    pattern: str = ANY_NUMBER
    unit: str = "kN"
    decimal_mark: str = "."
    scale: float = 1.0
    capacity_n: float = 50_000.0
    resolution_n: float = 10.0

    def compiled(self) -> re.Pattern[str]:
        """The pattern, ready to be used.

        Raises
        ------
        InputError
            If it is no pattern, or has no group ``load``.
        """
        try:
            made = re.compile(self.pattern)
        except re.error as error:
            raise InputError(f"This is no pattern: {error}.", where="pattern") from error
        if "load" not in made.groupindex:
            raise InputError("The pattern needs a group called load.", where="pattern")
        return made


@dataclass(frozen=True)
class Understood:
    """A raw line beside what was made of it; None where nothing was."""

    raw: str
    load_n: float | None


LONGEST_LINE = 200
"""More of a line is not looked at: patterns may take the square of its length."""


def understand(line: str, settings: PassiveSettings, pattern: re.Pattern[str]) -> Understood:
    """Read one line of an indicator.

    Notes
    -----
    With the wrong decimal mark -1,5 reads as -15, silently: only a known load tells.
    """
    found = pattern.search(line[:LONGEST_LINE])
    if found is None:
        return Understood(line, None)
    other = "," if settings.decimal_mark == "." else "."
    number = found["load"].replace(" ", "").replace(other, "").replace(settings.decimal_mark, ".")
    unit = found["unit"] if "unit" in pattern.groupindex else None
    unit = _UNITS.get(unit or settings.unit, unit or settings.unit)
    try:
        return Understood(line, float(number) * si_factor(unit, "force") * settings.scale)
    except (ValueError, KeyError, InputError):
        return Understood(line, None)


def scale_from(known_n: float, read_n: float, scale: float) -> float:
    """The factor that makes a reading right, from a known load.

    Raises
    ------
    InputError
        If the two are so far apart that the unit or the decimal mark must be wrong.
    """
    if known_n <= 0 or read_n <= 0:
        raise InputError("Hang a known load on it first.", where="known")
    off = read_n / known_n
    if not 0.8 < off < 1.25:
        raise InputError(
            f"It reads {off:.3g} times the known load: the unit or the decimal mark is wrong.",
            "Change it; a factor would hide it.",
            where="known",
        )
    return scale / off


class PassiveIndicator:
    """A load cell display that streams; motion is up to the person.

    Parameters
    ----------
    line : SerialLine
    settings : PassiveSettings

    Notes
    -----
    Lines carry no time. Arrivals are jittery, so the rate is fitted to them (least squares of
    arrival against count) and samples stand at equal distance.
    """

    def __init__(self, line: SerialLine, settings: PassiveSettings) -> None:
        self._line, self.settings = line, settings
        self._pattern = settings.compiled()
        self._rest = ""
        self._dropped_first = False
        self._count = 0
        self._arrivals = np.zeros(5)
        self._first_arrival = 0.0
        self._tare_n = 0.0
        self._last_n = 0.0
        self._heard = time.monotonic()
        self._pulling = False
        self.recent: list[Understood] = []
        self.not_understood = 0
        self.info = InstrumentInfo(
            name="indicator",
            sample_rate_hz=10.0,
            capacity_n=settings.capacity_n,
            resolution_n=settings.resolution_n,
            stroke_m=0.0,
            simulated=False,
        )
        line.forget()

    def read(self, timeout_s: float) -> Trace:
        """Readings since the last call, without travel."""
        text = self._rest + self._line.read(timeout_s).decode("ascii", "replace")
        *lines, self._rest = re.split(r"[\r\n]+", text)
        self._rest = self._rest[-_LONGEST:]
        if lines and not self._dropped_first:
            lines, self._dropped_first = lines[1:], True
        seen = [understand(x, self.settings, self._pattern) for x in lines if x.strip()]
        self.recent = (self.recent + seen)[-12:]
        self.not_understood += sum(u.load_n is None for u in seen)
        loads = np.array([u.load_n for u in seen if u.load_n is not None], dtype=np.float64)
        now = time.monotonic()
        if len(loads):
            self._heard = now
            self._last_n = float(loads[-1])
        elif now - self._heard > SILENCE_S:
            raise Silent("The indicator has gone silent.", "Check plug, baud rate and pattern.")
        first, self._count = self._count, self._count + len(loads)
        if len(loads):
            self._fit_clock(now)
        return trace_of(loads - self._tare_n, np.zeros(len(loads)), first=first)

    def _fit_clock(self, now: float) -> None:
        """Fit the rate to every arrival so far, by the running sums of the regression."""
        if not self._arrivals[0]:
            self._first_arrival = now
        at, count = now - self._first_arrival, float(self._count)
        self._arrivals += (1.0, at, count, at * at, at * count)
        n, sum_at, sum_count, sum_at_at, sum_at_count = self._arrivals.tolist()
        if n < 8 or at < 0.3:
            return
        slope = (n * sum_at_count - sum_at * sum_count) / (n * sum_at_at - sum_at**2)
        if slope > 0:
            self.info = replace(self.info, sample_rate_hz=round(slope, 3))

    def zero(self) -> None:
        """Take the present load as zero."""
        self._tare_n = self._last_n

    def set_rate(self, rate_m_s: float) -> None:
        """The person sets the rate."""

    def arm(self) -> None:
        """Nothing moves by itself."""

    def pull(self) -> None:
        """The person pulls."""
        self._pulling = True

    def slack(self) -> None:
        """The person slacks off."""

    def to_load(self, load_n: float) -> None:
        """The person pulls to a load."""

    def to_travel(self, travel_m: float) -> None:
        """The person moves."""

    def hold(self) -> None:
        """The person stops."""
        self._pulling = False

    def stop(self) -> None:
        """The person stops: the screen says so."""
        self._pulling = False

    def keep_alive(self) -> None:
        """Nothing waits for it."""

    def status(self) -> BenchStatus:
        """Armed for ever: recording is all it does."""
        motion = Motion.PULLING if self._pulling else Motion.STILL
        return BenchStatus(armed=True, motion=motion, stopped_by=Stop.NONE, specimen_gave=False)

    def remains(self, attempt: int = 0) -> Remains | None:
        """An indicator does not know."""
        del attempt
        return None

    def close(self) -> None:
        """Let go of the line."""
        self._line.close()
