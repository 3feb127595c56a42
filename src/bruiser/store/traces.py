"""How samples are packed into a trace chunk.

Load in millinewton and travel in micrometre, each as 32-bit integers: differences along the
samples (wrapping), bytes of equal weight put together, then zlib. A missing reading (NaN) is the
smallest integer. One millinewton and one micrometre are finer than any cell or encoder here.
"""

from __future__ import annotations

import zlib

import numpy as np
from numpy.typing import NDArray

from bruiser.core.errors import Damaged

Floats = NDArray[np.float64]
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


def encode_samples(load_n: Floats, travel_m: Floats) -> bytes:
    """Pack equally long load and travel arrays of shape (n,)."""
    return zlib.compress(_pack(load_n, 1e3) + _pack(travel_m, 1e6), 6)


def encode_extra(load2_n: Floats | None, tail_m: Floats | None, count: int) -> bytes | None:
    """Pack the second load and the tail gauge of a chunk; None where there is neither."""
    if load2_n is None and tail_m is None:
        return None
    nothing = np.full(count, np.nan)
    load2 = nothing if load2_n is None else load2_n
    tail = nothing if tail_m is None else tail_m
    return encode_samples(load2, tail)


def decode_samples(data: bytes, count: int) -> tuple[Floats, Floats]:
    """Unpack a chunk of `count` samples.

    Raises
    ------
    Damaged
        If the bytes are not what was packed.
    """
    try:
        raw = zlib.decompress(data)
        if len(raw) != 8 * count:
            raise ValueError("wrong length")
    except (zlib.error, ValueError) as error:
        raise Damaged("A stored trace cannot be read.", "The other pulls are unharmed.") from error
    return _unpack(raw[: 4 * count], count, 1e3), _unpack(raw[4 * count :], count, 1e6)
