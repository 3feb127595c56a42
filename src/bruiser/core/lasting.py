"""Results as bytes and back, to be kept from one start to the next.

Only what the calculations are made of can be written: numbers, texts, arrays, and records and
enumerations of this program, each by its name and its fields. Reading makes those and nothing else.
"""

from __future__ import annotations

import hashlib
from collections.abc import Hashable
from dataclasses import fields, is_dataclass
from enum import Enum
from importlib import import_module
from typing import Any

import msgspec
import numpy as np

_OURS = "bruiser."
_PLAIN = (type(None), bool, int, float, str, bytes)


def write_lasting(value: Any) -> bytes:
    """A value as bytes; ``TypeError`` for a kind that has no place in results."""
    return msgspec.msgpack.encode(_taken_apart(value))


def read_lasting(text: bytes) -> Any:
    """The value again.

    Raises
    ------
    ValueError
        If the bytes are no value of this program's, or of another version of it.
    """
    try:
        return _put_together(msgspec.msgpack.decode(text))
    except ValueError:
        raise
    except (
        msgspec.MsgspecError, TypeError, KeyError, IndexError, AttributeError, ImportError
    ) as error:  # fmt: skip
        raise ValueError(f"no result: {error}") from error


def digest_of(key: Hashable, rules: bytes = b"") -> bytes:
    """A short name of a key (32 bytes): the same in every start; `rules` stand before it."""
    return hashlib.sha256(rules + write_lasting(key)).digest()


def _name(kind: Any) -> str:
    name = f"{kind.__module__}:{getattr(kind, '__qualname__', type(kind).__qualname__)}"
    if not name.startswith(_OURS):
        raise TypeError(f"{name} has no place in results")
    return name


def _taken_apart(value: Any) -> Any:
    kind = type(value)
    if kind in _PLAIN:
        return value
    if isinstance(value, Enum):
        return ["e", _name(kind), value.value]
    if isinstance(value, np.ndarray):
        if value.dtype.hasobject:
            raise TypeError("an array of objects has no place in results")
        return ["a", value.dtype.str, list(value.shape), value.tobytes()]
    if isinstance(value, np.generic):
        return ["g", value.dtype.str, value.tobytes()]
    if is_dataclass(value) and not isinstance(value, type):
        return ["d", _name(kind), *(_taken_apart(getattr(value, f.name)) for f in fields(value))]
    if isinstance(value, tuple):
        return ["t", *map(_taken_apart, value)]
    if isinstance(value, list):
        return ["l", *map(_taken_apart, value)]
    if isinstance(value, dict):
        return ["m", *([_taken_apart(k), _taken_apart(v)] for k, v in value.items())]
    return ["c", _name(value)]


def _put_together(value: Any) -> Any:
    if not isinstance(value, list):
        return value
    mark, *rest = value
    match mark:
        case "t":
            return tuple(map(_put_together, rest))
        case "l":
            return list(map(_put_together, rest))
        case "m":
            return {_put_together(k): _put_together(v) for k, v in rest}
        case "a":
            dtype, shape, data = rest
            return np.frombuffer(data, dtype=dtype).reshape(shape)
        case "g":
            return np.frombuffer(rest[1], dtype=rest[0])[0]
        case "e":
            return _of_ours(rest[0], Enum)(rest[1])
        case "d":
            kind = _of_ours(rest[0], object)
            names = [f.name for f in fields(kind)]
            return kind(**dict(zip(names, map(_put_together, rest[1:]), strict=True)))
    raise ValueError(f"no result begins with {mark!r}")


def _of_ours(name: str, above: type) -> Any:
    """A class of this program by its name."""
    module, _, path = name.partition(":")
    if not module.startswith(_OURS):
        raise ValueError(f"{name} is not of this program")
    found: Any = import_module(module)
    for part in path.split("."):
        found = getattr(found, part)
    if not (isinstance(found, type) and issubclass(found, above)):
        raise ValueError(f"{name} is no kind of result")
    return found
