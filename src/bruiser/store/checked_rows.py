"""The one reader of stored rows: what cannot be read is set aside by table, row and field."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator, Mapping
from dataclasses import dataclass
from datetime import datetime
from functools import cache
from typing import Any, NamedTuple, TypeVar

import sqlalchemy as sa
from sqlalchemy.engine import Connection

from bruiser.core.errors import BruiserError, Damaged, InputError
from bruiser.store.ranges import check_number, check_text
from bruiser.store.schema import metadata

T = TypeVar("T")

OPTION = "set_aside"
_LONGEST_WORD = 80
_UNREADABLE = (ValueError, KeyError, TypeError, AttributeError, RecursionError, OverflowError)
_MOMENTS = ("made_at", "started_at", "ended_at", "created_at", "again_at")
LONGEST_NAME = 500
_NAMES = (
    "name", "code", "title", "label", "condition", "material", "construction", "designation",
    "technician", "by", "variant", "station", "pair", "instrument",
)  # fmt: skip
"""Texts that are printed on one line: longer ones would keep a page busy for minutes."""


@dataclass(frozen=True, kw_only=True)
class SetAside:
    """A row that could not be read: where it stands, which field, and why."""

    table: str
    row: str
    field: str
    why: str

    def __str__(self) -> str:
        field = f", field {self.field}" if self.field else ""
        return f"table {self.table}, row {self.row}{field}: {self.why}"


def _short(value: object) -> str:
    text = value if isinstance(value, str) else repr(value)
    kept = "".join(c if c.isprintable() else "\ufffd" for c in text[:_LONGEST_WORD])
    return f"“{kept}”" + (" …" if len(text) > _LONGEST_WORD else "")


def _wrong(field: str, value: object, why: str) -> InputError:
    return InputError(f"{_short(value)} {why}", where=field)


class _Look(NamedTuple):
    """What a column holds: its name and kind, may it be missing, how its text reads."""

    name: str
    kind: type
    optional: bool
    moment: bool
    named: bool


@cache
def _rules(table: str) -> tuple[_Look, ...]:
    found = []
    for column in metadata.tables[table].columns:
        kind: type = str
        if isinstance(column.type, sa.INTEGER):
            kind = int
        elif isinstance(column.type, sa.REAL):
            kind = float
        elif isinstance(column.type, sa.BLOB):
            kind = bytes
        found.append(
            _Look(
                name=column.name,
                kind=kind,
                optional=bool(column.nullable) and not column.primary_key,
                moment=column.name in _MOMENTS,
                named=column.name in _NAMES,
            )
        )
    return tuple(found)


_NOT_THERE = object()


def check_row(table: str, row: Mapping[Any, Any]) -> None:
    """Refuse a row whose values are not of their column's kind, or none that can be.

    Raises
    ------
    InputError
        `where` names the field.
    """
    for name, kind, optional, moment, named_so in _rules(table):
        value: Any = row.get(name, _NOT_THERE)
        if type(value) is kind:
            if kind is str:
                check_text(name, str(value))
                if moment:
                    _check_moment(name, value)
                elif named_so:
                    _check_name(name, value)
            elif kind is not bytes:
                check_number(name, value, whole=kind is int)  # type: ignore[arg-type]
        elif value is None:
            if not optional:
                raise InputError("is missing.", where=name)
        elif value is not _NOT_THERE and not (kind is float and type(value) is int):
            raise _wrong(name, value, f"is no {_KINDS[kind]}.")


_KINDS = {str: "text", int: "whole number", float: "number", bytes: "picture or record"}


def _check_name(name: str, value: Any) -> None:
    if len(value) > LONGEST_NAME:
        raise InputError(f"{len(value)} characters are too long for a name.", where=name)


def _check_moment(name: str, value: Any) -> None:
    try:
        moment = datetime.fromisoformat(value)
    except ValueError:
        raise _wrong(name, value, "is no moment.") from None
    if not 1900 < moment.year < 9990:
        raise _wrong(name, value, "is no moment of ours.")


def named(table: str, row: Mapping[Any, Any]) -> str:
    """What a row is called: its key, shortened."""
    keys = [c.name for c in metadata.tables[table].primary_key.columns if c.name in row]
    return " ".join(str(row[k])[:_LONGEST_WORD] for k in keys) or "?"


def leave_out(connection: Connection, table: str, row: Mapping[Any, Any], error: Exception) -> None:
    """Note that a row cannot be read, and why.

    Raises
    ------
    Damaged
        Where nobody asked for the rest: nothing is read then.
    """
    field = error.where if isinstance(error, InputError) else ""
    why = error.headline if isinstance(error, BruiserError) else _words_for(error)
    found = SetAside(table=table, row=named(table, row), field=field, why=why)
    kept = connection.get_execution_options().get(OPTION)
    if kept is None:
        raise Damaged(f"A row cannot be read: {found}") from error
    kept[(found.table, found.row)] = found


def _words_for(error: Exception) -> str:
    if isinstance(error, KeyError):
        return f"{_short(error.args[0] if error.args else '')} is not there."
    return f"it says {_short(str(error))}." if str(error) else "it cannot be read."


def only(
    query: sa.Select[Any],
    column: sa.ColumnElement[Any],
    of: Collection[str] | sa.Select[Any] | None,
) -> sa.Select[Any]:
    """A query narrowed to the rows about some ids, or about those selected; all for None."""
    return query if of is None else query.where(column.in_(of))


def each(
    connection: Connection,
    table: str,
    query: sa.Select[Any],
    make: Callable[[dict[str, Any]], T],
) -> Iterator[T]:
    """What is made of every row that can be read; the others are set aside.

    Parameters
    ----------
    make : callable
        Makes the record of a row; what it raises for a bad value says why.
    """
    found = connection.execute(query)
    names = list(found.keys())
    for values in found:
        row = dict(zip(names, values, strict=True))
        try:
            check_row(table, row)
            made = make(row)
        except (*_UNREADABLE, BruiserError) as error:
            leave_out(connection, table, row, error)
        else:
            yield made
