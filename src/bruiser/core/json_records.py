"""Records as JSON and back: the one serialiser of stored rows, of guides and of documents."""

from __future__ import annotations

import json
from typing import Any, TypeVar

import msgspec
import numpy as np

from bruiser.core.errors import InputError

T = TypeVar("T")


def _plain(value: object) -> object:
    """A number of an array's kind as a plain one."""
    if isinstance(value, np.generic):
        return value.item()
    raise TypeError(f"{type(value).__name__} has no place in JSON")


def write_record(record: object) -> str:
    """A record, or plain lists and mappings, as JSON; what is not finite is null."""
    return msgspec.json.encode(record, enc_hook=_plain).decode()


def write_document(content: object) -> str:
    """The same, set out over lines for people to read."""
    return msgspec.json.format(write_record(content), indent=1)


def read_record(kind: type[T], text: str) -> T:
    """A record from its JSON, or a plain kind such as ``dict[str, float]``.

    Raises
    ------
    InputError
        Naming the first field that is missing or does not fit.
    """
    try:
        return msgspec.json.decode(text, type=kind)
    except RecursionError as error:
        raise InputError("the text: it is nested too deep.", where="the text") from error
    except msgspec.MsgspecError as error:
        # The library says the place at the end of its sentence, and nowhere else.
        words, _, place = str(error).partition(" - at ")
        where = place.strip("`").removeprefix("$.") or "the text"
        raise InputError(f"{where}: {words}.", where=where) from error


def record_schema(kind: type[Any]) -> dict[str, Any]:
    """The JSON Schema (2020-12) of a record."""
    found: dict[str, Any] = json.loads(msgspec.json.encode(msgspec.json.schema(kind)))
    return found
