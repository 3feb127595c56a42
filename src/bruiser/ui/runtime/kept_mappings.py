"""What columns meant the last time, kept for this person by the headings of a table."""

from __future__ import annotations

from pathlib import Path

from platformdirs import user_config_path

from bruiser.core.errors import InputError
from bruiser.core.json_records import read_record, write_record
from bruiser.formats.column_mapping import TableMapping, mapping_text, read_mapping

_MOST_KEPT = 60


def _path() -> Path:
    return user_config_path("bruiser") / "tables.json"


def _read() -> dict[str, str]:
    try:
        return read_record(dict[str, str], _path().read_text(encoding="utf-8"))
    except (OSError, InputError, UnicodeDecodeError, RecursionError):
        return {}


def kept_mapping(key: str) -> TableMapping | None:
    """What the columns of a table with these headings meant; None for one that is new."""
    text = _read().get(key)
    if text is None:
        return None
    try:
        return read_mapping(text)
    except InputError:
        return None


def keep_mapping(key: str, mapping: TableMapping) -> bool:
    """Remember a mapping, the latest of those with its headings; says whether that could be."""
    kept = {k: v for k, v in _read().items() if k != key}
    kept[key] = mapping_text(mapping)
    kept = dict(list(kept.items())[-_MOST_KEPT:])
    try:
        _path().parent.mkdir(parents=True, exist_ok=True)
        _path().write_text(write_record(kept), encoding="utf-8")
    except OSError:
        return False
    return True
