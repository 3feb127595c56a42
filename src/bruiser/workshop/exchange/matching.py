"""Which lot or knot of a campaign a table means: found by any trade's name, or made."""

from __future__ import annotations

import re
import uuid
from collections.abc import Callable
from typing import Any

from bruiser.catalogue import Structure, parse_structure
from bruiser.catalogue.finding import fold
from bruiser.catalogue.structure import PLAIN
from bruiser.core.errors import InputError
from bruiser.core.records.records import Knot, Lot
from bruiser.formats.column_mapping import TableMapping
from bruiser.store.briefs import OwnStructure
from bruiser.workshop.exchange.made_structures import FAMILIES_MADE, likely_family, made_structure
from bruiser.workshop.logbook.logbook import Logbook

SPACE = uuid.UUID("6b0c3a52-4f0e-5d5e-9b57-0d6a3c1f7e21")
"""Ids of rows brought in follow from what they say: the same table twice is the same pulls."""
UNSAID = "not said"
PIN = re.compile(r"pin (\d{1,3}(?:\.\d+)?) mm")


class Matcher:
    """Finds the lots and knots that a table names; what is not there is made, once.

    Parameters
    ----------
    add : callable
        Takes a problem: line, field, what is not right, what to do.
    """

    def __init__(
        self, logbook: Logbook, mapping: TableMapping, now: str, add: Callable[..., None]
    ) -> None:
        self.logbook, self.mapping, self.now, self.add = logbook, mapping, now, add
        self.structures: dict[str, OwnStructure] = {}
        self.catalogue = dict(logbook.catalogue)
        self.new_lots: dict[str, Lot] = {}
        self.new_knots: dict[tuple[str, tuple[tuple[str, str], ...]], Knot] = {}
        self.lots: dict[tuple[str, str], Lot | None] = {}
        self.knots: dict[str, Knot | None] = {}
        self._in_play = {(k.structure, k.choices): k for k in self.logbook.knots}
        self._variants = {
            fold(name): (s, ((axis.key, option.key),))
            for s in self.catalogue.values()
            for axis in s.axes
            for option in axis.options
            for name in option.names
        }
        self._variants |= {
            fold(f"{n.name}, {s.variant_words({axis.key: option.key})}"): (
                s,
                ((axis.key, option.key),),
            )
            for s in self.catalogue.values()
            for axis in s.axes
            for option in axis.options[1:]
            for n in s.names
        }
        self._names = {
            _bare(n.name): s for s in reversed(self.catalogue.values()) for n in s.names
        } | {_bare(key): s for key, s in self.catalogue.items()}

    def lot(self, line: int, row: dict[str, Any], name: str, condition: str) -> Lot | None:
        """The lot that is meant, or one made of what the row says; None is a problem."""
        key = (fold(name), fold(condition))
        if key not in self.lots:
            self.lots[key] = self._find_lot(name, condition) or self._make_lot(
                line, row, name, condition
            )
        return self.lots[key]

    def look(self, row: dict[str, Any]) -> None:
        """Find what a row names that cannot come in yet, so that it is said; nothing is made."""
        name, condition = row.get("cordage") or "", row.get("condition") or ""
        if name and (fold(name), fold(condition)) not in self.lots:
            found = self._find_lot(name, condition)
            if found is not None:
                self.lots[fold(name), fold(condition)] = found
        for knot in (row.get("knot"), row.get("knot_b")):
            if knot and self._named(knot) is not None:
                self.knot(0, knot)

    def _find_lot(self, name: str, condition: str) -> Lot | None:
        meant = self.mapping.lots.get(name, name)
        called = {fold(f"{meant} {condition}"), *([] if condition else [fold(meant)])}
        every = (*self.logbook.lots, *self.new_lots.values())
        for lot in every:
            if fold(lot.name) in called or fold(f"{lot.name} {lot.condition}") in called:
                return lot
        for lot in every:
            if fold(lot.name) == fold(meant) and (
                not condition or fold(condition) in fold(lot.condition)
            ):
                return lot
        said = fold(f"{meant} {condition}")
        near = [lot for lot in every if fold(f"{lot.name} {lot.condition}").startswith(said)]
        return near[0] if len(near) == 1 else None

    def _make_lot(self, line: int, row: dict[str, Any], name: str, condition: str) -> Lot | None:
        diameter = row.get("diameter_mm") or _said_in(name)
        if not diameter:
            self.add(
                line,
                "diameter_mm",
                f"“{name[:60]}” would be a new lot, and its diameter is not said.",
                "Choose the lot that is meant, or say a diameter.",
            )
            return None
        called = f"{name}, {condition}" if condition else name
        lot = Lot(
            id=str(uuid.uuid5(SPACE, f"lot {fold(called)}")),
            name=called,
            material=row.get("material") or UNSAID,
            construction=row.get("construction") or UNSAID,
            diameter_m=diameter,
            condition=condition or UNSAID,
        )
        self.new_lots[lot.id] = lot
        return lot

    def knot(self, line: int, name: str) -> Knot | None:
        """The knot that is meant, brought into play or made; None is a problem."""
        key = fold(name) or name
        if key not in self.knots:
            self.knots[key] = self._find_knot(line, name)
        return self.knots[key]

    def _find_knot(self, line: int, name: str) -> Knot | None:
        meant = self.mapping.knots.get(name, "")
        known = self._named(name) is not None or fold(name) in self._variants
        if " (" in name and not meant and not known:
            return self._kept_apart(line, name)
        if meant and meant not in self.catalogue and meant not in FAMILIES_MADE:
            self.add(line, "knot", f"“{meant[:60]}” is no knot of the catalogue and no family.")
            return None
        choices: tuple[tuple[str, str], ...] = ()
        structure = self.catalogue.get(meant) if meant else self._named(name)
        if structure is None and not meant and fold(name) in self._variants:
            structure, picked = self._variants[fold(name)]
            choices = tuple(structure.differing(dict(picked)).items())
        if structure is None:
            structure = self._make_structure(line, name, meant or likely_family(name))
        if structure is None:
            return None
        return self._in_play_as(structure, choices)

    def _in_play_as(self, structure: Structure, choices: tuple[tuple[str, str], ...]) -> Knot:
        """The knot in play, brought there where it is not."""
        key = (structure.key, choices)
        known = self._in_play.get(key) or self.new_knots.get(key)
        if known is None:
            known = Knot(
                id=str(uuid.uuid5(SPACE, f"knot {key}")),
                structure=structure.key,
                variant=structure.variant_words(dict(choices)) if choices else PLAIN,
                name=structure.name,
                family=structure.family,
                choices=choices,
            )
            self.new_knots[key] = known
        return known

    def _kept_apart(self, line: int, name: str) -> Knot | None:
        """A knot with something in brackets behind its name that no pull of it shares.

        Pins are a fact of the specimen; whatever else it is makes a knot of its own, so that a ring
        load is never rated with straight pulls.
        """
        plain, _, inside = name.rpartition(" (")
        words = [word.strip() for word in inside.rstrip(")").split(",")]
        apart = [word for word in words if word and not PIN.fullmatch(word)]
        if not apart:
            return self._find_knot(line, plain)
        called = f"{plain} ({', '.join(apart)})"
        base = self._named(plain)
        structure = self._names.get(_bare(called))
        if structure is None:
            family = likely_family(plain) if base is None else base.family
            usual = family if family in FAMILIES_MADE else likely_family(plain)
            structure = self._make_structure(line, called, usual)
        return None if structure is None else self._in_play_as(structure, ())

    def _named(self, name: str) -> Structure | None:
        """The structure of a name, with or without its last word where that is a kind of knot."""
        bare = _bare(name)
        if bare in self._names:
            return self._names[bare]
        first, _, last = bare.rpartition(" ")
        if last in _KINDS:
            return self._names.get(first)
        found = {s.key: s for kind in _KINDS if (s := self._names.get(f"{bare} {kind}"))}
        return next(iter(found.values())) if len(found) == 1 else None

    def _make_structure(self, line: int, name: str, family: str) -> Structure | None:
        key = fold(name).replace(" ", "-")
        if not key:
            self.add(line, "knot", f"“{name[:60]}” cannot be the name of a knot.")
            return None
        try:
            own = made_structure(key, name, family, self.now)
            structure = parse_structure(key, own.text)
        except InputError as error:
            self.add(line, "knot", f"“{name[:60]}” cannot be made: {error}")
            return None
        self.structures[key] = own
        self.catalogue[key] = structure
        self._names[_bare(name)] = structure
        return structure


def _said_in(name: str) -> float | None:
    """The diameter that a cordage's own name says, in metre: “8 mm braid”."""
    found = _IN_NAME.search(name)
    value = 0.0 if found is None else float(found[1].replace(",", ".")) / 1000
    return value if value > 0 else None


_IN_NAME = re.compile(r"\b(\d{1,3}(?:[.,]\d{1,2})?) ?mm\b")
_KINDS = ("hitch", "bend", "loop")


def _bare(name: str) -> str:
    """A name as it is compared, without the small words that people leave out."""
    words = fold(name).split()
    kept = [w for w in words if w not in ("of", "the", "a", "knot")]
    return " ".join(kept or words)
