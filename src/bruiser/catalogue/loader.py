"""Loads structures and checks them against the schema; messages name file and field."""

from __future__ import annotations

import json
from collections.abc import Mapping
from functools import lru_cache
from importlib.resources import files
from pathlib import Path
from typing import TYPE_CHECKING, Any

from bruiser.catalogue.structure import (
    SHARED_AXES,
    Answer,
    CordRule,
    Host,
    Loading,
    LookAlike,
    MisTie,
    Option,
    Structure,
    TradeName,
    VariantAxis,
)
from bruiser.catalogue.toml_text import read_toml
from bruiser.core.errors import InputError
from bruiser.core.records.families import FAMILIES, TRADES
from bruiser.core.records.layouts import LAYOUTS
from bruiser.core.records.legs import legs_of

if TYPE_CHECKING:
    from jsonschema import Draft202012Validator, ValidationError


@lru_cache(maxsize=1)
def _validator() -> Draft202012Validator:
    from jsonschema import Draft202012Validator

    return Draft202012Validator(structure_schema())


def structure_schema() -> dict[str, Any]:
    """The schema of a structure file, with the families and trades that are known."""
    text = files("bruiser.catalogue").joinpath("structure.schema.json").read_text("utf-8")
    schema: dict[str, Any] = json.loads(text)
    schema["$defs"]["family"] = {"enum": list(FAMILIES)}
    schema["$defs"]["trade"] = {"enum": list(TRADES)}
    return schema


def _field(error: ValidationError) -> str:
    """Where in the file an error lies, e.g. ``names[1].trade``."""
    parts = [f"[{p}]" if isinstance(p, int) else f".{p}" for p in error.absolute_path]
    if error.validator == "required" and isinstance(error.instance, dict):
        wanted = error.validator_value if isinstance(error.validator_value, list) else []
        parts.append("." + next(name for name in wanted if name not in error.instance))
    return "".join(parts).lstrip(".") or "the file"


def parse_structure(key: str, text: str, *, check: bool = True) -> Structure:
    """Read one structure file.

    Parameters
    ----------
    key : str
        Its key: the file's name without ``.toml``.
    text : str
        TOML as ``structure.schema.json`` describes it.
    check : bool
        Whether to check it against the schema; the tests have checked those that are shipped.

    Raises
    ------
    InputError
        If it is no TOML, or a field is missing or wrong; `where` names file and field.
    """
    where = f"{key}.toml"
    data = read_toml(text, where)
    if check:
        check_structure(key, data)
    return _made(key, data)


def check_structure(key: str, data: Mapping[str, Any]) -> None:
    """Check plain data against the schema, and what a schema cannot say.

    Raises
    ------
    InputError
        If a field is missing or wrong; `where` names file and field.
    """
    from jsonschema.exceptions import best_match

    where = f"{key}.toml"
    worst = best_match(_validator().iter_errors(dict(data)))
    if worst is not None:
        field = _field(worst)
        raise InputError(f"{field}: {worst.message}.", where=f"{where}: {field}")

    def refuse(field: str, message: str) -> InputError:
        return InputError(message, where=f"{where}: {field}")

    if data["layout"] not in LAYOUTS:
        raise refuse("layout", f"“{data['layout']}” is no layout of the bench.")
    if data["tail_usual_d"] < data["tail_floor_d"]:
        raise refuse("tail_usual_d", "tail_usual_d is below tail_floor_d.")
    if (data["needs_end"] == "yes") and (data["in_the_bight"] == "yes"):
        raise refuse("needs_end", "A knot that is tied in the bight needs no end.")
    axes = _axes(data)
    if len({axis.key for axis in axes}) < len(axes):
        raise refuse("axes", "Two axes have the same key.")
    for axis in axes:
        if len({option.key for option in axis.options}) < len(axis.options):
            raise refuse("axes", f"Two options of {axis.key} have the same key.")


def structure_from(key: str, data: Mapping[str, Any]) -> Structure:
    """Check plain data and make a structure of it.

    Raises
    ------
    InputError
        If a field is missing or wrong; `where` names file and field.
    """
    check_structure(key, data)
    return _made(key, data)


BACKED_UP = ("end loop", "bend", "hitch on a host", "adjustable loop")
"""Families of which any knot may be backed up on its tail."""


def _axes(data: Mapping[str, Any]) -> list[VariantAxis]:
    own = [_axis(axis) for axis in data.get("axes", ())]
    found = own + [SHARED_AXES[name] for name in data.get("shared", ())]
    backup = SHARED_AXES["backup"]
    said = {o.name for axis in found for o in axis.options}
    if data["family"] in BACKED_UP and not said & {o.name for o in backup.options}:
        # Any knot with a tail and a standing part can have one more knot behind it; where an axis
        # of its own says so already, that one stays.
        found.append(backup)
    return found


def _loading(way: str | Mapping[str, Any]) -> Loading:
    """A direction of an entry; one typed as mere words is read for its legs."""
    if isinstance(way, str):
        return Loading(way, legs_of(way))
    return Loading(way["words"], frozenset(way["legs"]))


def _made(key: str, data: Mapping[str, Any]) -> Structure:
    host, flat = data.get("host"), data.get("webbing")
    return Structure(
        key=key,
        family=data["family"],
        also=tuple(data.get("also", ())),
        layout=data["layout"],
        needs_end=Answer(data["needs_end"]),
        in_the_bight=Answer(data["in_the_bight"]),
        closed_ring=Answer(data["closed_ring"]),
        ends=data["ends"],
        legs=data["legs"],
        loadings=tuple(_loading(way) for way in data["directions"]),
        slippery=Answer(data["slippery"]),
        opens=Answer(data["opens"]),
        tail_floor_d=float(data["tail_floor_d"]),
        tail_usual_d=float(data["tail_usual_d"]),
        cord_use_d=float(data["cord_use_d"]),
        dressing=tuple(data["dressing"]),
        setting=tuple(data["setting"]),
        opening=data["opening"],
        weaknesses=tuple(data["weaknesses"]),
        never=tuple(data["never"]),
        opinions=tuple(data.get("opinions", ())),
        names=tuple(TradeName(n["name"], n["trade"]) for n in data["names"]),
        front=data["cues"]["front"],
        back=data["cues"]["back"],
        look_alikes=tuple(LookAlike(**x) for x in data.get("look_alikes", ())),
        axes=tuple(_axes(data)),
        mis_ties=tuple(MisTie(**x) for x in data.get("mis_ties", ())),
        host=None if host is None else Host(**host),
        advantage=data.get("advantage"),
        drawing=data.get("drawing", ""),
        webbing=None if flat is None else CordRule(**{k: float(v) for k, v in flat.items()}),
    )


def _axis(data: Mapping[str, Any]) -> VariantAxis:
    options = (Option(**{**o, "names": tuple(o.get("names", ()))}) for o in data["options"])
    return VariantAxis(data["key"], data["name"], tuple(options))


@lru_cache(maxsize=1)
def load_catalogue() -> dict[str, Structure]:
    """All shipped structures by key."""
    return {key: parse_structure(key, text, check=False) for key, text in shipped_texts().items()}


@lru_cache(maxsize=1)
def shipped_texts() -> dict[str, str]:
    """The files of the shipped structures by key."""
    folder = files("bruiser.catalogue").joinpath("structures")
    found = {}
    for entry in sorted(folder.iterdir(), key=lambda e: e.name):
        if entry.name.endswith(".toml"):
            found[Path(entry.name).stem] = entry.read_text(encoding="utf-8")
    return found
