"""A trace: what was sampled of a pull, channel by channel, from the instrument to the chart."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from bruiser.core.trace.record import Floats


class Channel(StrEnum):
    """What is sampled."""

    LOAD = "load"
    TRAVEL = "travel"
    LOAD2 = "load2"
    TAIL = "tail"


@dataclass(frozen=True, kw_only=True)
class ChannelKind:
    """How a channel is written.

    Parameters
    ----------
    unit : str
        Its unit in the application.
    column : str
        Its name in a trace file.
    in_column : float
        How many of the file's units one of ours is.
    steps : float
        How many of the steps it is stored in one unit is: finer than any cell or encoder here.
    """

    unit: str
    column: str
    in_column: float
    steps: float


CHANNELS: dict[Channel, ChannelKind] = {
    Channel.LOAD: ChannelKind(unit="N", column="load_N", in_column=1.0, steps=1e3),
    Channel.TRAVEL: ChannelKind(unit="m", column="travel_mm", in_column=1e3, steps=1e6),
    Channel.LOAD2: ChannelKind(unit="N", column="load2_N", in_column=1.0, steps=1e3),
    Channel.TAIL: ChannelKind(unit="m", column="tail_mm", in_column=1e3, steps=1e6),
}
"""Every channel there is. A new sensor is a line here; it is then recorded, stored and exported."""


@dataclass(frozen=True, eq=False, kw_only=True)
class Trace:
    """Consecutive samples of some channels, NaN where a reading is missing.

    Parameters
    ----------
    channels : mapping of Channel to ndarray, shape (n,)
        In SI units, equally long; the load is always there.
    first : int
        Number of the first sample since the recording started.
    rate_hz : float
        Samples a second; 0 where it is not known.
    stamps_s : ndarray, shape (n,), optional
        Time of every sample, where it was written down; else it follows from number and rate.

    Raises
    ------
    ValueError
        If there is no load, or the channels differ in length.
    """

    channels: Mapping[Channel, Floats]
    first: int = 0
    rate_hz: float = 0.0
    stamps_s: Floats | None = None

    def __post_init__(self) -> None:
        if Channel.LOAD not in self.channels:
            raise ValueError("a trace has a load")
        stamps = () if self.stamps_s is None else (self.stamps_s,)
        if len({len(values) for values in (*self.channels.values(), *stamps)}) != 1:
            raise ValueError("the channels of a trace differ in length")

    def __len__(self) -> int:
        return len(self.channels[Channel.LOAD])

    def up_to(self, until: int | None) -> Trace:
        """The samples before one, by its number since the recording started; None for all."""
        if until is None:
            return self
        count = max(0, until - self.first)
        return replace(self, channels={c: v[:count] for c, v in self.channels.items()})

    def get(self, channel: Channel) -> Floats | None:
        """A channel's samples; None where it was not recorded."""
        return self.channels.get(channel)

    @property
    def load_n(self) -> Floats:
        """Load as the cell gave it, in newton."""
        return self.channels[Channel.LOAD]

    @property
    def travel_m(self) -> Floats:
        """Crosshead travel in metre; NaN where none was recorded."""
        travel = self.get(Channel.TRAVEL)
        return np.full(len(self), np.nan) if travel is None else travel

    @property
    def time_s(self) -> Floats:
        """Time of every sample in second.

        Raises
        ------
        ValueError
            If it has neither stamps nor a rate.
        """
        if self.stamps_s is not None:
            return self.stamps_s
        if not self.rate_hz > 0 and len(self):
            raise ValueError("a trace without stamps needs its rate")
        return (self.first + np.arange(len(self))) / (self.rate_hz or 1.0)

    @property
    def lost(self) -> int:
        """Places at which neither load nor travel was read."""
        nothing = np.isnan(self.load_n)
        travel = self.get(Channel.TRAVEL)
        return int(np.count_nonzero(nothing if travel is None else nothing & np.isnan(travel)))


def trace_of(
    load_n: Floats,
    travel_m: Floats | None = None,
    *,
    load2_n: Floats | None = None,
    tail_m: Floats | None = None,
    first: int = 0,
    rate_hz: float = 0.0,
    stamps_s: Floats | None = None,
) -> Trace:
    """A trace of those channels that are not None."""
    given = {
        Channel.LOAD: load_n,
        Channel.TRAVEL: travel_m,
        Channel.LOAD2: load2_n,
        Channel.TAIL: tail_m,
    }
    return Trace(
        channels={k: v for k, v in given.items() if v is not None},
        first=first,
        rate_hz=rate_hz,
        stamps_s=stamps_s,
    )


NOTHING_YET = trace_of(np.empty(0), np.empty(0))
"""A trace without samples."""
