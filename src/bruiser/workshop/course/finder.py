"""Everything in a campaign found by any part of its name, for the list behind Ctrl+K."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum

from bruiser.catalogue.finding import fold
from bruiser.workshop.logbook.logbook import Logbook


class FoundKind(StrEnum):
    """What is found, in the order in which kinds are listed when nothing else decides."""

    STATION = "station"
    ACTION = "action"
    SHEET = "sheet of Results"
    LOT = "lot"
    KNOT = "knot"
    SPECIMEN = "specimen"
    PREFERENCE = "preference"
    HELP = "help"


@dataclass(frozen=True, kw_only=True)
class FoundPlace:
    """Something one can go to.

    Parameters
    ----------
    key : str
        What leads there, unique within its kind.
    words : str
        What is shown.
    also : str
        Further names it is found by.
    """

    kind: FoundKind
    key: str
    words: str
    also: str = ""


class FoundPlaces:
    """The index: every place with its folded text, made once for a state of the campaign."""

    def __init__(self, places: Iterable[FoundPlace]) -> None:
        self.places = tuple(places)
        self._text = [f" {fold(f'{p.words} {p.also}')}" for p in self.places]

    def find(self, words: str, recent: Sequence[str] = (), most: int = 60) -> list[FoundPlace]:
        """Places that have every word in their names, best first.

        A word that begins a word counts more than one inside; what was gone to lately comes
        first among equals. With no words, what was gone to lately, then stations and actions.

        Parameters
        ----------
        recent : sequence of str
            ``kind|key`` of places gone to, the latest first.
        """
        late = {name: n for n, name in enumerate(recent)}
        wanted = fold(words).split()
        if not wanted:
            known = {f"{p.kind}|{p.key}": p for p in self.places}
            first = [known[name] for name in recent if name in known]
            rest = (p for p in self.places if p not in first)
            return [*first, *rest][:most]
        order = {kind: n for n, kind in enumerate(FoundKind)}
        hits = []
        for at, text in enumerate(self._text):
            if all(w in text for w in wanted):
                inside = sum(f" {w}" not in text for w in wanted)
                place = self.places[at]
                lately = late.get(f"{place.kind}|{place.key}", len(late))
                called = fold(place.words)
                begins = not called.startswith(wanted[0])
                hits.append((inside, lately, order[place.kind], begins, len(called), at))
        hits.sort()
        return [self.places[hit[-1]] for hit in hits[:most]]


def campaign_places(logbook: Logbook) -> list[FoundPlace]:
    """The lots, knots and specimens of a campaign."""
    found = [
        FoundPlace(
            kind=FoundKind.LOT,
            key=lot.id,
            words=f"{lot.name}, {lot.condition}",
            also=f"{lot.material} {lot.construction} {1000 * lot.diameter_m:g} mm "
            f"{lot.designation}",
        )
        for lot in logbook.lots_in_use
    ]
    for key, structure in logbook.catalogue.items():
        names = " ".join((*(n.name for n in structure.names), *structure.variant_names))
        found.append(
            FoundPlace(
                kind=FoundKind.KNOT, key=key, words=structure.name_in(logbook.trade), also=names
            )
        )
    found += [
        FoundPlace(
            kind=FoundKind.SPECIMEN,
            key=line.specimen_id,
            words=f"{line.code}, {line.title}, {line.lot}",
            also=line.note,
        )
        for line in logbook.lines
    ]
    return found
