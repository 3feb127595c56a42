"""What a few more pulls of each knot are worth per hour: bars to compare, without a scale."""

from __future__ import annotations

from dataclasses import dataclass

from bruiser.figures.display import Box, Disc, Figure, Line, Pen, Text

_NAMES, _ROW, _TOP = 62.0, 8.6, 2.0
OPENING = 3


@dataclass(frozen=True, kw_only=True)
class WorthRow:
    """One knot.

    Parameters
    ----------
    share : float or None
        Of the longest bar; None while it is not ranked.
    events : int
        Observed failures so far.
    picked : int
        How often it stands in the next block.
    """

    name: str
    share: float | None
    events: int
    picked: int
    words: str = ""


def worth_figure(rows: tuple[WorthRow, ...], width: float) -> Figure:
    """Draw the bars; where nothing is ranked yet, the pulls of the opening as pips."""
    pen = Pen()
    room = width - _NAMES - 44.0
    for n, row in enumerate(rows):
        top = _TOP + n * _ROW
        middle = top + 0.5 * _ROW
        pen.add(Line(((0, top + _ROW), (width, top + _ROW)), "line", width=0.2))
        pen.add(Text(0.5, middle + 1.2, row.name, style="strong", max_width=_NAMES - 3))
        if row.share is None:
            for k in range(OPENING):
                done = k < row.events
                x = _NAMES + 3.0 + 6.0 * k
                pen.add(Disc(x, middle, 1.8, fill="plum" if done else None, stroke="plum"))
        else:
            pen.add(Line(((_NAMES, middle), (_NAMES + room, middle)), "line", width=0.2))
            long = max(0.6, row.share * room)
            pen.add(Box(_NAMES, middle - 1.5, long, 3.0, radius=1.5, fill="plum"))
        words = f"{row.events} gave"
        pen.add(Text(_NAMES + room + 3.0, middle + 1.2, words, colour="muted"))
        for k in range(row.picked):
            pen.add(Disc(width - 3.0 - 4.4 * k, middle, 1.6, fill="hemp", stroke="hemp-edge"))
    return Figure(
        width=width,
        height=_TOP + len(rows) * _ROW + 2.0,
        shapes=tuple(pen.shapes),
        title="What further pulls are worth, beside one another",
        header=("knot", "gave so far", "worth beside the most", "in the next block"),
        rows=tuple(
            (
                r.name,
                str(r.events),
                "" if r.share is None else _words(r.share),
                str(r.picked),
            )
            for r in rows
        ),
    )


def _words(share: float) -> str:
    """How long a bar is, in words: its number would promise more than is known."""
    for least, words in ((0.8, "most"), (0.4, "much"), (0.1, "some"), (0.0, "little")):
        if share >= least:
            return words
    return "little"
