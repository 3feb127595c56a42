"""Loads the structure files of the catalogue; messages name file and field."""

from __future__ import annotations

import tomllib
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files
from pathlib import Path
from typing import Any

from bruiser.core.errors import InputError
from bruiser.core.layouts import LAYOUTS


@dataclass(frozen=True)
class TradeName:
    """A name and the trade that uses it."""

    name: str
    trade: str


@dataclass(frozen=True)
class Structure:
    """One knot structure: the identity behind its names."""

    key: str
    family: str
    layout: str
    names: tuple[TradeName, ...]
    tail_usual_d: float
    tail_floor_d: float
    cord_use_d: float

    @property
    def name(self) -> str:
        """The name shown first."""
        return self.names[0].name


def parse_structure(key: str, text: str) -> Structure:
    """Read one structure file.

    Raises
    ------
    InputError
        If the file is no TOML, or a field is missing or wrong; `where` names file and field.
    """
    where = f"{key}.toml"
    try:
        data: dict[str, Any] = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise InputError(f"{where} cannot be read: {error}.", where=where) from error

    def number(field: str) -> float:
        value = data.get(field)
        if isinstance(value, bool) or not isinstance(value, int | float) or value <= 0:
            raise InputError(f"{field} must be a number above zero.", where=f"{where}: {field}")
        return float(value)

    names = data.get("names")
    if not isinstance(names, list) or not names:
        raise InputError("names must list at least one name.", where=f"{where}: names")
    if not all(isinstance(n, dict) and n.get("name") and n.get("trade") for n in names):
        raise InputError("every name needs `name` and `trade`.", where=f"{where}: names")
    if data.get("layout") not in LAYOUTS:
        raise InputError("layout is unknown.", where=f"{where}: layout")
    if not isinstance(data.get("family"), str):
        raise InputError("family is missing.", where=f"{where}: family")
    structure = Structure(
        key,
        data["family"],
        data["layout"],
        tuple(TradeName(n["name"], n["trade"]) for n in names),
        number("tail_usual_d"),
        number("tail_floor_d"),
        number("cord_use_d"),
    )
    if structure.tail_usual_d < structure.tail_floor_d:
        raise InputError("tail_usual_d is below tail_floor_d.", where=f"{where}: tail_usual_d")
    return structure


@lru_cache(maxsize=1)
def load_catalogue() -> dict[str, Structure]:
    """All shipped structures by key."""
    folder = files("bruiser.catalogue").joinpath("structures")
    found = {}
    for entry in sorted(folder.iterdir(), key=lambda e: e.name):
        if entry.name.endswith(".toml"):
            key = Path(entry.name).stem
            found[key] = parse_structure(key, entry.read_text(encoding="utf-8"))
    return found
