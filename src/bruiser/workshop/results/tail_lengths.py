"""How long a tail is enough: one knot of a lot tied with tails of several lengths."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from bruiser.core.records.records import DRESSED
from bruiser.core.statistics.strength import Interval
from bruiser.core.units import UnitChoice
from bruiser.core.words import count
from bruiser.workshop.groups.slipping import SlipRow
from bruiser.workshop.results.result_words import percent


@dataclass(frozen=True, kw_only=True)
class TailLength:
    """A knot with tails of one length.

    Parameters
    ----------
    given_d, drawn_d : float or None
        Length of its tails as tied (the shortest), and the most that a tail drew and held, in
        diameters; None where that was not measured.
    out, gave : int
        How many came out, of how many that gave.
    """

    row: SlipRow
    given_d: float | None
    drawn_d: float | None
    out: int
    gave: int
    came_out: Interval | None

    @property
    def said(self) -> str:
        """Its length in words, planned or usual."""
        state = _state(self.row)
        if state:
            return state
        return "usual tail" if self.given_d is None else f"usual tail, {self.given_d:.0f} d"


def _state(row: SlipRow) -> str:
    key = row.case.groups[0].key
    return "" if key is None else key.state


def _only_the_tail_differs(row: SlipRow) -> bool:
    states = [t.entry.specimen.state for g in row.case.groups for t in g.tried]
    return all(set(s.values) <= {"tail_d"} for s in states)


def _alike(a: SlipRow, b: SlipRow) -> bool:
    """Whether two cases are one knot in one lot, but for their tails."""
    one, two = a.case.groups[0].key, b.case.groups[0].key
    same = a.case.lot.id == b.case.lot.id and a.case.knot.id == b.case.knot.id
    if one is None or two is None or not same:
        return False
    dressed = one.dressing == two.dressing == DRESSED
    return dressed and one.cordage_b == two.cordage_b and _only_the_tail_differs(b)


def tail_lengths(rows: Sequence[SlipRow], row: SlipRow) -> list[TailLength]:
    """A knot with every length of tail it was tied with in its lot, longest first; none for one."""
    mine = [r for r in rows if _alike(row, r)]
    if len({_state(r) for r in mine}) < 2:
        return []
    d = row.case.lot.diameter_m
    found = []
    for r in mine:
        given = [t.given_m for t in r.tails if t.given_m is not None]
        held = [t.draw_m for t in r.tails if not t.ran_out]
        found.append(
            TailLength(
                row=r,
                given_d=min(given) / d if given else None,
                drawn_d=max(held) / d if held else None,
                out=r.out,
                gave=r.gave,
                came_out=r.came_out,
            )
        )
    return sorted(found, key=lambda t: -(t.given_d or 0.0))


def say_tail_lengths(found: Sequence[TailLength], units: UnitChoice) -> list[str]:
    """What the lengths say of how much is enough, and what the tails drew; nothing for one."""
    if not found:
        return []
    name = found[0].row.case.knot.name
    said = [
        f"{t.said}: {t.out} of {t.gave} came out" + _up_to(t.came_out)
        for t in found
        if t.gave and t.came_out is not None
    ]
    held = [t.drawn_d for t in found if t.drawn_d is not None]
    lines = [f"{name} by the length of its tail: {'; '.join(said)}."]
    if held:
        most = max(held)
        length = units.length_text(most * found[0].row.case.lot.diameter_m)
        n = sum(len(t.row.tails) for t in found)
        lines.append(
            f"Of {count(n, 'tail')} none that held drew more than {most:.1f} d ({length}): "
            "what is shorter than that is not enough."
        )
    return lines


def _up_to(found: Interval | None) -> str:
    return "" if found is None else f" (up to {percent(found.high)} %)"
