"""Reads what was typed, field by field, and gathers what is wrong with it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import TypeVar

from bruiser.core.errors import InputError
from bruiser.core.units import parse_quantity, parse_share

_T = TypeVar("_T")


LONGEST_NAME, LONGEST_TEXT = 120, 10_000
_NAMES = (
    "name", "designation", "material", "construction", "condition", "label", "title", "technician",
    "by", "age", "finish",
)  # fmt: skip
"""Fields that are printed on one line."""


@dataclass
class Typed:
    """The texts of a form, by field.

    `errors` holds what must be mended, `asks` what is allowed but odd; both by field.
    """

    texts: Mapping[str, str]
    errors: dict[str, str] = field(default_factory=dict)
    asks: dict[str, str] = field(default_factory=dict)

    def text(self, name: str, missing: str = "") -> str:
        """A text without blanks round it; `missing` is the complaint when there is none."""
        said = self.texts.get(name, "").strip()
        if not said and missing:
            self.errors[name] = missing
        most = LONGEST_NAME if name in _NAMES else LONGEST_TEXT
        if len(said) > most:
            self.errors[name] = f"At most {most} characters; this has {len(said)}."
        return said

    def quantity(
        self,
        name: str,
        dimension: str,
        unit: str,
        *,
        missing: str = "",
        above_zero: bool = True,
    ) -> float | None:
        """A quantity in SI units; None when it is missing or wrong."""

        def read(text: str) -> float:
            value = parse_quantity(text, dimension, unit, field=name)
            if above_zero and value <= 0:
                raise InputError("Must be above zero.", where=name)
            return value

        return self._read(name, read, missing)

    def share(self, name: str, *, missing: str = "", maximum: float | None = 1.0) -> float | None:
        """A percentage as a share; None when it is missing or wrong."""
        return self._read(name, lambda t: parse_share(t, maximum=maximum, field=name), missing)

    def whole(self, name: str, *, least: int = 1, most: int = 999, missing: str = "") -> int | None:
        """A whole number; None when it is missing or wrong."""

        def read(text: str) -> int:
            if not text.isdecimal() or not least <= int(text) <= most:
                raise InputError(f"Type a whole number from {least} to {most}.", where=name)
            return int(text)

        return self._read(name, read, missing)

    def number(self, name: str, *, least: float = 0.0, missing: str = "") -> float | None:
        """A plain number; None when it is missing or wrong."""

        def read(text: str) -> float:
            value = parse_quantity(text, "length", "m", field=name)
            if any(c.isalpha() for c in text.replace("e", "").replace("E", "")):
                raise InputError("Type a plain number.", where=name)
            if value < least:
                raise InputError(f"Must be {least:g} or more.", where=name)
            return value

        return self._read(name, read, missing)

    def _read(self, name: str, read: Callable[[str], _T], missing: str) -> _T | None:
        text = self.text(name, missing)
        if not text:
            return None
        try:
            return read(text)
        except InputError as error:
            self.errors[name] = str(error)
            return None
