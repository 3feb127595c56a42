"""Spikes taken out, noise averaged down, and what the noise is."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from bruiser.core.trace.record import Floats

_PART = 40_000


def blocks(count: int, size: int = 1 << 15) -> Iterator[slice]:
    """Stretches of a long array that fit into the processor's cache."""
    for first in range(0, count, size):
        yield slice(first, min(first + size, count))


def median_of_three(values: Floats) -> Floats:
    """The middle one of every sample and its neighbours; the ends stay."""
    if len(values) < 3:
        return values.astype(np.float64)
    out = np.empty(len(values))
    out[[0, -1]] = values[[0, -1]]
    a, b, c, inner = values[:-2], values[1:-1], values[2:], out[1:-1]
    for part in blocks(len(inner)):
        low, high = np.minimum(a[part], b[part]), np.maximum(a[part], b[part])
        np.minimum(high, c[part], out=high)
        np.maximum(low, high, out=inner[part])
    return out


def running_mean(values: Floats, width: int) -> Floats:
    """Mean over `width` samples about each; the ends are held."""
    if width <= 1 or len(values) < 3:
        return values
    before, count = width // 2, len(values)
    out = np.empty(count)
    sums = np.zeros((1 << 15) + width + 1)
    for part in blocks(count):
        first, after = part.start - before, part.stop - before + width - 1
        piece = values[max(first, 0) : min(after, count)]
        held = (max(0, -first), max(0, after - count))
        if any(held):
            piece = np.pad(piece, held, mode="edge")
        total = sums[: len(piece) + 1]
        np.cumsum(piece, out=total[1:])
        mean = out[part]
        np.subtract(total[width:], total[:-width], out=mean)
        mean /= width
    return out


def first_above(values: Floats, level: float) -> int:
    """The first sample above a level; -1 where none is."""
    for part in blocks(len(values)):
        above = values[part] > level
        at = int(np.argmax(above))
        if above[at]:
            return int(part.start) + at
    return -1


def smooth_load(load_n: Floats, sample_rate_hz: float, mean_s: float = 0.005) -> Floats:
    """Median of three, then a mean over 5 ms: spikes go, the peak stays.

    The raw maximum of a noisy trace is a spike, not a strength.
    """
    return running_mean(median_of_three(load_n), max(1, round(mean_s * sample_rate_hz)))


@dataclass(frozen=True, kw_only=True)
class Noise:
    """Noise of a reading (one sigma), the step it comes in, and mains hum found at rest."""

    sigma_n: float
    step_n: float
    hum_n: float = 0.0
    hum_hz: float = 0.0
    hum_phase: complex = 0j


def find_noise(load_n: Floats, rest: int, rate_hz: float) -> Noise:
    """Noise from the part at rest, else from second differences of the whole.

    Notes
    -----
    sigma = 1.4826 MAD(first differences) / sqrt(2) at rest; MAD(second differences) / sqrt(6) where
    there is none, in which a ramp cancels. Hum is the projection on 50 and 60 Hz at rest; it counts
    from five standard errors and one step on.
    """
    part = load_n[: min(rest, _PART)]
    if len(part) >= 20:
        steps = np.diff(part)
        sigma = 1.4826 * float(np.median(np.abs(steps - np.median(steps)))) / np.sqrt(2.0)
    else:
        part = load_n[:_PART]
        steps = np.diff(part, 2)
        sigma = 1.4826 * float(np.median(np.abs(steps))) / np.sqrt(6.0) if len(steps) else 0.0
    moves = np.abs(np.diff(load_n[:_PART]))
    moves = moves[moves > 0]
    step = float(np.min(moves)) if len(moves) else 0.0
    sigma = max(sigma, step / np.sqrt(12.0))
    hum = Noise(sigma_n=sigma, step_n=step)
    if rest < 0.1 * rate_hz or rate_hz < 150:
        return hum
    at = np.arange(len(part)) / rate_hz
    about = part - np.median(part)
    wild = np.abs(about - median_of_three(about)) > 8.0 * sigma + 2.0 * step
    about[wild] = median_of_three(about)[wild]
    about -= about.mean()
    for hz in (50.0, 60.0):
        phase = complex(2.0 * np.mean(about * np.exp(-2j * np.pi * hz * at)))
        size = abs(phase)
        if size > max(5.0 * sigma * np.sqrt(2.0 / len(part)), step, hum.hum_n):
            left = np.diff(about - (phase * np.exp(2j * np.pi * hz * at)).real)
            rest_sigma = 1.4826 * float(np.median(np.abs(left))) / np.sqrt(2.0)
            hum = Noise(
                sigma_n=max(rest_sigma, step / np.sqrt(12.0)),
                step_n=step,
                hum_n=size,
                hum_hz=hz,
                hum_phase=phase,
            )
    return hum


def take_out_hum(load_n: Floats, noise: Noise, rate_hz: float) -> Floats:
    """The load without the hum found at rest."""
    if noise.hum_n <= 0:
        return load_n
    at = np.arange(len(load_n)) / rate_hz
    wave = noise.hum_n * np.cos(2 * np.pi * noise.hum_hz * at + np.angle(noise.hum_phase))
    return np.asarray(load_n - wave)
