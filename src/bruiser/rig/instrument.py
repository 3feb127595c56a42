"""What every bench, real or simulated, offers the rest of the application."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum
from typing import Protocol

from bruiser.core.trace import Trace

SILENCE_S = 0.3


class Motion(StrEnum):
    """What the crosshead does."""

    STILL = "still"
    PULLING = "pulling"
    SLACKING = "slacking"


class Stop(StrEnum):
    """Why the bench stopped by itself."""

    NONE = ""
    TRAVEL_LIMIT = "travel_limit"
    LOAD_LIMIT = "load_limit"
    WATCHDOG = "watchdog"
    PRESSED = "pressed"
    OVERLOAD = "overload"


@dataclass(frozen=True, kw_only=True)
class InstrumentInfo:
    """What the instrument is.

    Parameters
    ----------
    silence_s : float
        While it travels, the recorder stops it after so long without a sign from whoever moves it.
    """

    name: str
    sample_rate_hz: float
    capacity_n: float
    resolution_n: float
    stroke_m: float
    simulated: bool
    silence_s: float = SILENCE_S


@dataclass(frozen=True, kw_only=True)
class BenchStatus:
    """The state of the bench when it was asked."""

    armed: bool
    motion: Motion
    stopped_by: Stop
    specimen_gave: bool
    at_target: bool = False


class Instrument(Protocol):
    """A bench with a load cell and a travel encoder.

    Calls come from the interface thread, :meth:`read` from the recorder's; implementations lock.
    While it moves, the bench expects :meth:`keep_alive` at least twice a second and stops without.
    """

    info: InstrumentInfo

    def zero(self) -> None:
        """Take the present load as zero."""

    def arm(self) -> None:
        """Allow motion."""

    def pull(self) -> None:
        """Start travel; needs :meth:`arm`."""

    def slack(self) -> None:
        """Travel back to take the load off; needs :meth:`arm`."""

    def set_rate(self, rate_m_s: float) -> None:
        """Travel this fast from now on."""

    def to_load(self, load_n: float) -> None:
        """Travel, either way, until the load (after :meth:`zero`) is reached; needs :meth:`arm`."""

    def to_travel(self, travel_m: float) -> None:
        """Travel, either way, to a crosshead position; needs :meth:`arm`."""

    def hold(self) -> None:
        """Stop travel where it is; the load stays on."""

    def stop(self) -> None:
        """Stop at once and disarm."""

    def keep_alive(self) -> None:
        """Say that the person still holds the control."""

    def read(self, timeout_s: float) -> Trace:
        """Samples since the last call, numbered; waits up to `timeout_s` for the first."""

    def status(self) -> BenchStatus:
        """The state now."""

    def remains(self, attempt: int = 0) -> Remains | None:
        """What lies on the bench, where the instrument can know (simulated benches can).

        `attempt` numbers the attempts at untying made so far; each finds something else.
        """

    def close(self) -> None:
        """Stop, and let go of the bench."""


@dataclass(frozen=True)
class KnotRemains:
    """One knot after the pull, as somebody with hands would find it."""

    end: str
    jam_level: str
    untie_s: float | None


@dataclass(frozen=True, kw_only=True)
class Remains:
    """What is left of a specimen. Keys of places and tails are those of its layout."""

    gave: str
    place: str | None
    draws_m: dict[str, float] = field(default_factory=dict)
    knots: tuple[KnotRemains, ...] = ()
    truth: dict[str, float] = field(default_factory=dict)
