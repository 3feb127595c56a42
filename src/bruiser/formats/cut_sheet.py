"""The cut sheet and the labels as one HTML page that any browser prints."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from html import escape

_STYLE = """
body { font-family: Karla, sans-serif; font-size: 10pt; margin: 12mm; color: @ink; }
h1 { font-size: 15pt; margin: 0 0 2mm; } h2 { font-size: 11pt; margin: 6mm 0 2mm; }
table { border-collapse: collapse; width: 100%; }
th, td { border-bottom: 0.2mm solid @muted; padding: 1mm 2mm; text-align: left; }
.box { display: inline-block; width: 4mm; height: 4mm; border: 0.3mm solid @ink; }
.labels { display: grid; grid-template-columns: repeat(4, 1fr); gap: 3mm; }
.label { border: 0.3mm solid @ink; border-radius: 2mm; padding: 2mm; break-inside: avoid; }
.label b { font-size: 13pt; display: block; }
section { break-inside: avoid; } .labels-page { break-before: page; }
@page { size: A4; margin: 12mm; }
"""


@dataclass(frozen=True, kw_only=True)
class SheetLine:
    """One cut on the sheet."""

    code: str
    title: str
    length: str
    tails: str


@dataclass(frozen=True, kw_only=True)
class SheetHank:
    """One hank with its cuts in the order they are made."""

    label: str
    before: str
    after: str
    lines: tuple[SheetLine, ...]


@dataclass(frozen=True, kw_only=True)
class SheetLot:
    """One lot: its name, how the plan was found, its picture as SVG, and its hanks."""

    name: str
    about: str
    picture: str
    hanks: tuple[SheetHank, ...]


def write_cut_sheet(
    campaign: str, day: str, about: str, lots: tuple[SheetLot, ...], colours: Mapping[str, str]
) -> str:
    """The page: each lot's cuts drawn and listed with a box to tick, then a label a specimen.

    `about` is a line under the title: bench, room.
    """
    style = _STYLE.replace("@ink", colours["ink"]).replace("@muted", colours["muted"])
    parts = [
        "<!doctype html>",
        f'<html lang="en"><head><meta charset="utf-8"><title>Cut sheet, {escape(campaign)}</title>',
        f"<style>{style}</style></head><body>",
        f"<h1>Cut sheet</h1><p>{escape(campaign)}, {escape(day)}<br>{escape(about)}</p>",
    ]
    for lot in lots:
        parts.append(f"<h2>{escape(lot.name)}</h2><p>{escape(lot.about)}</p>{lot.picture}")
        parts += [_hank(hank) for hank in lot.hanks]
    parts.append('<div class="labels-page"><h2>Labels</h2><div class="labels">')
    for lot in lots:
        for hank in lot.hanks:
            parts += [_label(line, lot.name) for line in hank.lines]
    parts.append("</div></div></body></html>")
    return "\n".join(parts)


def _hank(hank: SheetHank) -> str:
    rows = "".join(
        f'<tr><td><span class="box"></span></td><td>{escape(x.code)}</td>'
        f"<td>{escape(x.length)}</td><td>{escape(x.title)}</td><td>{escape(x.tails)}</td></tr>"
        for x in hank.lines
    )
    return (
        f"<section><h2>{escape(hank.label)}: {escape(hank.before)}, then {escape(hank.after)}</h2>"
        "<table><tr><th></th><th>Specimen</th><th>Cut</th><th>For</th><th>Tails</th></tr>"
        f"{rows}</table></section>"
    )


def _label(line: SheetLine, lot: str) -> str:
    return (
        f'<div class="label"><b>{escape(line.code)}</b>{escape(line.title)}<br>'
        f"{escape(lot)}, {escape(line.length)}<br>{escape(line.tails)}</div>"
    )
