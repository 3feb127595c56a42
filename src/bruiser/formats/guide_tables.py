"""A guide as tables: a workbook, CSV, and JSON against its published schema."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable
from typing import Any

from bruiser.core.cells import printable, safe_cell
from bruiser.core.choice.guide import Guide, ResultFacts
from bruiser.core.choice.rating import SCALES, Rating
from bruiser.core.json_records import record_schema, write_record

Row = tuple[object, ...]
RATING_HEADER = (
    *("cordage", "condition", "knot", "rating", "band", "could be"),
    *("value", "low", "high", "unit", "n", "rests on", "not measured because"),
)


def _rating_rows(guide: Guide) -> Iterable[Row]:
    for r in guide.results:
        lot = guide.lot(r.lot)
        for g in r.gauges:
            yield (
                *(lot.name, lot.condition, r.name, SCALES[g.rating].name, g.band, g.could_be),
                *(g.value, g.low, g.high, SCALES[g.rating].unit, g.n, g.basis, g.why),
            )


def _strength_rows(guide: Guide) -> Iterable[Row]:
    for r in guide.results:
        lot = guide.lot(r.lot)
        for s in r.strengths:
            yield (
                *(lot.name, lot.condition, r.name, s.way, s.share, s.low, s.high, s.floor),
                *(s.floor_n, s.broke, s.came_out, s.outlasted, *_loads(r)),
            )


def _loads(result: ResultFacts) -> Row:
    return tuple(s.load_n for s in result.loads) or (None,) * 4


def _list_rows(guide: Guide) -> Iterable[Row]:
    for use in guide.uses:
        for found in use.lists:
            lot = guide.lot(found.lot)
            where = (use.name, lot.name, lot.condition)
            for place, r in enumerate(found.rows, start=1):
                parts = tuple(r.parts.get(rating) for rating in Rating)
                yield (
                    *where,
                    *(place, r.name, r.score, r.low, r.high, *parts, r.chances[0]),
                    *(r.likely[0], r.likely[1], r.letters, r.load_text, r.load_school, r.why),
                )
            blank = (None,) * (3 + len(Rating) + 3)
            for said, rows in (("excluded", found.excluded), ("not ranked", found.not_ranked)):
                for t in rows:
                    yield (*where, None, t.name, *blank, "", "", "", f"{said}: {t.why}")


def _pull_rows(guide: Guide) -> Iterable[Row]:
    for p in guide.pulls:
        lot = guide.lot(p.lot)
        yield (
            *(p.code, p.day, lot.name, lot.condition, p.knot, p.method, p.host, p.outcome),
            *(p.load_n, p.technician, "yes" if p.counts else "no", p.note),
        )


def _across_rows(guide: Guide) -> Iterable[Row]:
    for a in guide.across:
        for r in a.rows:
            for c in (*r.cells, *((r.new,) if r.new is not None else ())):
                kind = "measured" if c.measured else "predicted"
                # What is predicted has a range and no typical value: it is not to be read as one.
                yield (
                    a.alike,
                    r.name,
                    c.cordage,
                    kind,
                    c.value if c.measured else None,
                    c.low,
                    c.high,
                )


def guide_sheets(guide: Guide) -> dict[str, tuple[Row, tuple[Row, ...]]]:
    """Every table of a guide by name: its header and its rows; loads in newton."""
    parts = tuple(f"points: {SCALES[r].name}" for r in Rating)
    schools = ("halve it (N)", "third (N)", "measured typical (N)", "measured floor (N)")
    about = (
        ("title", guide.title),
        ("revision", guide.revision),
        ("made", guide.made_at),
        ("state", guide.state),
        ("checked by", guide.checked_by),
        ("state of the data", guide.data_revision),
        ("limits", guide.limits.version),
        ("design factor", guide.factor_text),
        *(("caution", c) for c in guide.cautions),
        *(("stands against it", f"{b.words} {b.reason}".strip()) for b in guide.blocking),
    )
    return {
        "about": (("what", ""), about),
        "short lists": (
            (
                *("use", "cordage", "condition", "place", "knot", "score", "low", "high", *parts),
                *("chance first", "likely from", "likely to", "tied", "working load", "by", "why"),
            ),
            tuple(_list_rows(guide)),
        ),
        "ratings": (RATING_HEADER, tuple(_rating_rows(guide))),
        "strength": (
            (
                *("cordage", "condition", "knot", "way", "share kept", "low", "high"),
                *("floor", "floor (N)", "broke", "came out", "outlasted", *schools),
            ),
            tuple(_strength_rows(guide)),
        ),
        "across": (
            ("alike", "knot", "cordage", "kind", "share kept", "low", "high"),
            tuple(_across_rows(guide)),
        ),
        "pulls": (
            (
                *("pull", "day", "cordage", "condition", "specimen", "method", "on", "found"),
                *("load (N)", "by", "counts", "note"),
            ),
            tuple(_pull_rows(guide)),
        ),
    }


def _safe(value: object) -> Any:
    """A cell as it is written: never a formula, and nothing that no workbook may hold."""
    return safe_cell(printable(value)) if isinstance(value, str) else value


def guide_xlsx(guide: Guide) -> bytes:
    """The tables as a workbook, one sheet each."""
    # Only who writes one waits for the package.
    from openpyxl import Workbook
    from openpyxl.styles import Font
    from openpyxl.utils import get_column_letter

    book = Workbook()
    book.remove(book.worksheets[0])
    for name, (header, rows) in guide_sheets(guide).items():
        sheet = book.create_sheet(name)
        sheet.append([_safe(v) for v in header])
        for row in rows:
            sheet.append([_safe(v) for v in row])
        for cell in sheet[1]:
            cell.font = Font(bold=True)
        sheet.freeze_panes = "A2"
        for k in range(len(header)):
            longest = max((len(str(r[k])) for r in (header, *rows) if r[k] is not None), default=4)
            sheet.column_dimensions[get_column_letter(k + 1)].width = min(60, longest + 2)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def guide_csv(guide: Guide, table: str = "ratings") -> str:
    """One table as CSV (RFC 4180), the header first; ``ValueError`` if there is none so called."""
    sheets = guide_sheets(guide)
    if table not in sheets:
        raise ValueError(f"no table {table!r}")
    header, rows = sheets[table]
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(header)
    for row in rows:
        writer.writerow(["" if v is None else _safe(v) for v in row])
    return out.getvalue()


def guide_json(guide: Guide) -> str:
    """The whole guide as JSON, as ``docs/guide.schema.json`` says."""
    return write_record(guide)


def guide_schema() -> dict[str, Any]:
    """The published JSON Schema of a guide."""
    found = record_schema(Guide)
    found["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    found["title"] = "Bruiser selection guide"
    return found
