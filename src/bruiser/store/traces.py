"""How samples are packed into a trace chunk.

Loads in millinewton and lengths in micrometre, each as 32-bit integers: differences along the
samples (wrapping), bytes of equal weight put together, then zlib. A missing reading (NaN) is the
smallest integer. One millinewton and one micrometre are finer than any cell or encoder here.
"""

from __future__ import annotations

import zlib

import numpy as np

from bruiser.core.errors import Damaged
from bruiser.core.trace import CHANNELS, Channel, Floats, Trace

_UNREADABLE = ("A stored trace cannot be read.", "The other pulls are unharmed.")
_MISSING = np.iinfo(np.int32).min


def _pack(values: Floats, per_unit: float) -> bytes:
    known = np.where(np.isnan(values), 0.0, values) * per_unit
    whole = np.clip(np.rint(known), _MISSING + 1, -(_MISSING + 1)).astype(np.int32)
    whole[np.isnan(values)] = _MISSING
    steps = np.diff(whole.view(np.uint32), prepend=np.uint32(0)).astype("<u4")
    return steps.view(np.uint8).reshape(-1, 4).T.tobytes()


def _unpack(data: bytes, count: int, per_unit: float) -> Floats:
    steps = np.frombuffer(data, np.uint8).reshape(4, count).T.copy().view("<u4")[:, 0]
    whole = np.cumsum(steps, dtype=np.uint32).view(np.int32)
    return np.where(whole == _MISSING, np.nan, whole / per_unit)


ALWAYS_STORED = (Channel.LOAD, Channel.TRAVEL)
_EXTRA = tuple(channel for channel in CHANNELS if channel not in ALWAYS_STORED)


def _join(trace: Trace, channels: tuple[Channel, ...]) -> bytes:
    nothing = np.full(len(trace), np.nan)
    packed = []
    for channel in channels:
        values = trace.get(channel)
        packed.append(_pack(nothing if values is None else values, CHANNELS[channel].steps))
    return zlib.compress(b"".join(packed), 6)


def encode_trace(trace: Trace) -> tuple[bytes, bytes | None]:
    """Pack a trace: load and travel, and all other channels where it has any of them."""
    extra = any(trace.get(channel) is not None for channel in _EXTRA)
    return _join(trace, ALWAYS_STORED), _join(trace, _EXTRA) if extra else None


def decode_trace(data: bytes, extra: bytes | None, count: int) -> dict[Channel, Floats]:
    """Unpack a chunk of `count` samples.

    What was stored before a channel was known holds one less.

    Raises
    ------
    Damaged
        If the bytes are not what was packed.
    """
    found = _split(data, count, ALWAYS_STORED)
    if len(found) != len(ALWAYS_STORED):
        raise Damaged(*_UNREADABLE)
    return found | ({} if extra is None else _split(extra, count, _EXTRA))


def _split(data: bytes, count: int, channels: tuple[Channel, ...]) -> dict[Channel, Floats]:
    try:
        raw = zlib.decompress(data)
        there, rest = divmod(len(raw), 4 * count)
        if rest or there > len(channels):
            raise ValueError("wrong length")
    except (zlib.error, ValueError, ZeroDivisionError) as error:
        raise Damaged(*_UNREADABLE) from error
    parts = (raw[4 * count * k : 4 * count * (k + 1)] for k in range(there))
    return {
        channel: _unpack(part, count, CHANNELS[channel].steps)
        for channel, part in zip(channels, parts, strict=False)
    }
