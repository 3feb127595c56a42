"""The kinds of file a guide is written as, and what each is called."""

from __future__ import annotations

KINDS = {
    "pdf": "Guide as PDF",
    "html": "Guide as HTML",
    "cards": "Bench cards, A6",
    "wall": "Wall chart, A3",
    "wall_a2": "Wall chart, A2",
    "xlsx": "Tables as XLSX",
    "csv": "Ratings as CSV",
    "json": "Everything as JSON",
}
