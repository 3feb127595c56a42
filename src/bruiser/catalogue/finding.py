"""Finding a structure by any name, by family, and by what it must do."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from enum import StrEnum

from bruiser.catalogue.structure import Answer, Structure
from bruiser.core.records.families import GENERAL


class Need(StrEnum):
    """What a knot must do, as a person says it."""

    NO_END = "no end at hand"
    CLOSED_RING = "round a closed ring"
    MIDLINE = "in the middle of a line"
    SLIPPERY = "holds in slippery cord"
    SEVERAL = "several directions"
    OPENS = "opens after load"


BY_REPUTE = (Need.SLIPPERY, Need.OPENS)


def meets(structure: Structure, need: Need) -> bool:
    """Whether the catalogue answers a need with yes; “varies” and “not established” do not."""
    return {
        Need.NO_END: structure.in_the_bight is Answer.YES,
        Need.CLOSED_RING: structure.closed_ring is Answer.YES,
        Need.MIDLINE: structure.family == "midline loop",
        Need.SLIPPERY: structure.slippery is Answer.YES,
        Need.SEVERAL: len(structure.directions) > 1,
        Need.OPENS: structure.opens is Answer.YES,
    }[need]


def fold(text: str) -> str:
    """A name as it is compared: lower case, letters and digits only."""
    return re.sub(r"[^a-z0-9]+", " ", text.lower().replace("’", "'").replace("'", "")).strip()


def find_structures(
    structures: Iterable[Structure],
    words: str = "",
    family: str = "",
    needs: Iterable[Need] = (),
    trade: str = GENERAL,
    *,
    variants: bool = False,
) -> list[Structure]:
    """Structures that match, by the name a trade uses.

    Parameters
    ----------
    words : str
        Every word must begin some word of one of its names, in any trade.
    family : str
        A family, or empty for all.
    needs : iterable of Need
        All must be met.
    trade : str
        Whose names order the list.
    variants : bool
        Whether the names of variants lead to their structure too.
    """
    wanted = fold(words).split()
    needed = tuple(needs)
    found = [
        s
        for s in structures
        if (not family or family in s.families)
        and all(meets(s, need) for need in needed)
        and any(_matches(wanted, fold(n).split()) for n in _names(s, variants=variants))
    ]
    whole = " ".join(wanted)

    def order(s: Structure) -> tuple[bool, str]:
        """Who typed a whole name means that structure, whatever else holds its words."""
        exact = bool(whole) and any(fold(n.name) == whole for n in s.names)
        return not exact, s.name_in(trade).lower()

    return sorted(found, key=order)


def _names(s: Structure, *, variants: bool) -> tuple[str, ...]:
    return (*(n.name for n in s.names), *(s.variant_names if variants else ()))


def _matches(wanted: list[str], words: list[str]) -> bool:
    return all(any(word.startswith(part) for word in words) for part in wanted)


@dataclass(frozen=True, kw_only=True)
class NameClash:
    """A name of one structure that means another one in some trade."""

    name: str
    trade: str
    other: str
    other_trade: str


def name_clashes(structure: Structure, others: Mapping[str, Structure]) -> list[NameClash]:
    """Names of a structure that another structure carries too."""
    return [
        NameClash(name=name.name, trade=name.trade, other=other.key, other_trade=theirs.trade)
        for name in structure.names
        for other in others.values()
        if other.key != structure.key
        for theirs in other.names
        if fold(theirs.name) == fold(name.name)
    ]
