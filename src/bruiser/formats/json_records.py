"""Records as JSON and back, checked field by field on the way in."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, TypeVar

from bruiser.core.errors import InputError

T = TypeVar("T")


if TYPE_CHECKING:
    from pydantic import TypeAdapter

_ADAPTERS: dict[type[Any], TypeAdapter[Any]] = {}


def _adapter(kind: type[Any]) -> TypeAdapter[Any]:
    """The adapter of a record; making one takes longer than using it."""
    from pydantic import TypeAdapter

    if kind not in _ADAPTERS:
        _ADAPTERS[kind] = TypeAdapter(kind)
    return _ADAPTERS[kind]


def write_record(record: object) -> str:
    """A frozen record as JSON; what is not finite is null."""
    return _adapter(type(record)).dump_json(record).decode()


def read_record(kind: type[T], text: str) -> T:
    """A record from its JSON.

    Raises
    ------
    InputError
        Naming the first field that is missing or does not fit.
    """
    from pydantic import ValidationError

    try:
        found: T = _adapter(kind).validate_json(text)
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"])
        raise InputError(f"{where or 'the text'}: {first['msg']}.", where=where) from error
    return found


def record_schema(kind: type[Any]) -> dict[str, Any]:
    """The JSON Schema (2020-12) of a record."""
    return _adapter(kind).json_schema(mode="serialization")
