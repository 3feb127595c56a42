"""In which range each number of the store lies, and the one door by which all of them come in."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from functools import cache
from typing import Any

import sqlalchemy as sa
from sqlalchemy.engine import Connection, Engine

from bruiser.core.errors import InputError

POSITIVE = (
    "diameter_m", "span_m", "sample_rate_hz", "rated_strength_n", "thickness_m", "stroke_m",
    "capacity_n", "resolution_n", "known_n", "entry", "need", "of", "version", "revision", "count",
    "width", "height", "factor",
)  # fmt: skip
NOT_NEGATIVE = (
    "length_m", "draw_m", "u_m", "peak_load_n", "untie_s", "set_load_n", "pin_diameter_m",
    "queue_position", "samples_lost", "first_seq", "soak_s", "keep_s", "humidity", "position",
    "number", "seed", "rate_m_s", "mass_per_length_kg_m", "offcut_minimum_m", "wraps", "share",
)  # fmt: skip
YES_NO = ("archived", "synthetic", "withdrawn", "excluded", "gave_up", "at_least")
_MOST = {"_n": 1e9, "_m": 1e7, "_s": 1e9, "_hz": 1e9, "_j": 1e12}
_ANY = 1e15
_LARGEST_WHOLE = 2.0**62


@cache
def range_of(column: str, *, whole: bool = False) -> tuple[float, float]:
    """The least and the most that a column of this name holds, in its own unit."""
    if column in YES_NO:
        return 0.0, 1.0
    most = _LARGEST_WHOLE if whole else _ANY
    for tail, limit in _MOST.items():
        if column.endswith(tail):
            most = limit
    least = -most
    if column in POSITIVE:
        least = math.ulp(0.0)
    elif column in NOT_NEGATIVE:
        least = 0.0
    return least, most


def check_number(column: str, value: float, *, whole: bool = False) -> None:
    """Refuse a number that its column cannot hold.

    Raises
    ------
    InputError
        `where` names the column.
    """
    least, most = range_of(column, whole=whole)
    if least <= value <= most:
        return
    if not math.isfinite(value):
        said = "is no finite number."
    elif column in YES_NO:
        said = "is neither 0 nor 1."
    elif value > most:
        said = "is too large."
    else:
        said = "is below zero." if least == 0.0 else "is too small."
    raise InputError(f"“{value:.12g}” {said}", where=column)


def check_text(column: str, text: str) -> None:
    """Refuse a text with a character that ends it where others read it; `where` is the column."""
    if "\x00" in text:
        raise InputError("A text holds a character (NUL) that no text has.", where=column)


def guard(engine: Engine) -> None:
    """Let nothing into the store past these checks, whoever wrote the statement."""

    @sa.event.listens_for(engine, "before_cursor_execute")
    def _look(
        connection: Connection,
        cursor: object,
        statement: str,
        parameters: Any,
        context: Any,
        many: bool,
    ) -> None:
        del connection, cursor, statement
        compiled = getattr(context, "compiled", None)
        if compiled is None or not (context.isinsert or context.isupdate):
            return
        rows: Iterable[Any] = parameters if many else (parameters,)
        places = compiled.positiontup
        if places is None:
            for row in rows:
                _check(row.items())
        else:
            _check_rows(places, rows)


def _check_rows(places: Sequence[str], rows: Iterable[Sequence[Any]]) -> None:
    limits = [(at, name, *range_of(name)) for at, name in enumerate(places)]
    for row in rows:
        for at, name, least, most in limits:
            value = row[at]
            kind = type(value)
            if kind is str:
                if "\x00" in value:
                    check_text(name, value)
            elif kind is float and not least <= value <= most:
                check_number(name, value)


def _check(pairs: Iterable[tuple[str, Any]] | Mapping[str, Any]) -> None:
    for name, value in pairs.items() if isinstance(pairs, Mapping) else pairs:
        if type(value) is str:
            check_text(name, value)
        elif type(value) is float:
            check_number(name, value)
