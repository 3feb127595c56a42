"""A record at a constant rate: each sample at its own time, nothing where none was written."""

from __future__ import annotations

import numpy as np

from bruiser.core.errors import InputError
from bruiser.core.trace.channels import Channel, Trace

_ON_TIME = 0.6
_GAP = 1.5
_LONGEST = 20


def even_trace(trace: Trace, name: str) -> tuple[Trace, float]:
    """A trace at a constant rate, and the rate.

    Parameters
    ----------
    trace : Trace
        With its own times; its travel may be missing.
    name : str
        Of the file, for the message.

    Returns
    -------
    trace : Trace
        NaN where rows are missing, so that the place of a sample is its time.
    rate_hz : float

    Raises
    ------
    InputError
        If there is no usual step.

    Notes
    -----
    Times are even where none lies further from its place than 0.6 of a step, or than the grain of
    times that are written too coarsely: the mean step is the rate then. Else the usual step is,
    and samples are laid on its grid: interpolated between neighbours, none within a gap of more
    than 1.5 steps. A tenth of the rows missing thus changes no length.
    """
    stamps = trace.time_s - float(trace.time_s[0])
    steps = np.diff(stamps)
    rising = steps[steps > 0]
    step = float(np.median(steps)) if len(steps) else 0.0
    if not len(rising) or float(stamps[-1]) <= 0:
        raise _uneven(name)
    channels = {Channel.TRAVEL: np.zeros(len(trace)), **trace.channels}
    mean_step = float(stamps[-1]) / len(steps)
    grain = float(rising.min())
    # Coarse times stand still, or step by one grain more or less; missing rows never do so.
    coarse = grain if step <= 0 or np.any(steps == 0) else 0.0
    off = np.abs(stamps - mean_step * np.arange(len(stamps)))
    if float(off.max()) <= max(_ON_TIME * mean_step, 1.05 * coarse):
        rate_hz = round(1 / mean_step, 6)
        return Trace(channels=channels, rate_hz=rate_hz), rate_hz
    if step <= 0:
        raise _uneven(name)
    rate_hz = round(1 / step, 6)
    length = round(float(stamps[-1]) * rate_hz) + 1
    if length > _LONGEST * len(trace):
        raise _uneven(name)
    grid = np.arange(length) / rate_hz
    after = np.clip(np.searchsorted(stamps, grid - 1e-9 * step), 1, len(stamps) - 1)
    wide = stamps[after] - stamps[after - 1] > _GAP * step
    near = np.minimum(np.abs(stamps[after] - grid), np.abs(grid - stamps[after - 1])) < 0.5 * step
    nearest = np.where(grid - stamps[after - 1] < stamps[after] - grid, after - 1, after)
    even = {}
    for channel, values in channels.items():
        between = np.interp(grid, stamps, values)
        at_gap = np.where(near, values[nearest], np.nan)
        even[channel] = np.where(wide, at_gap, between)
    return Trace(channels=even, rate_hz=rate_hz), rate_hz


def _uneven(name: str) -> InputError:
    return InputError(
        f"{name}: its times do not rise evenly.",
        "Export it at a constant rate, or look into it with bruiser-cli trace.",
    )
