"""Every kind of file a guide can be written as, for the station and the command line alike."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from bruiser.core.guide import Guide
from bruiser.formats.guide_figures import PrintStyle
from bruiser.formats.guide_pages import cards_html, guide_html, wall_html
from bruiser.formats.guide_tables import guide_csv, guide_json, guide_xlsx


@dataclass(frozen=True)
class GuideFile:
    """A kind of file.

    Parameters
    ----------
    make : callable
        Its content; of what is `printed`, the page that becomes the PDF.
    """

    words: str
    suffix: str
    make: Callable[[Guide, PrintStyle], str | bytes]
    printed: bool = False


FILES: dict[str, GuideFile] = {
    "pdf": GuideFile("Guide as PDF", ".pdf", guide_html, printed=True),
    "html": GuideFile("Guide as HTML", ".html", guide_html),
    "cards": GuideFile("Bench cards, A6", ".pdf", cards_html, printed=True),
    "wall": GuideFile("Wall chart, A3", ".pdf", wall_html, printed=True),
    "xlsx": GuideFile("Tables as XLSX", ".xlsx", lambda guide, _: guide_xlsx(guide)),
    "csv": GuideFile("Ratings as CSV", ".csv", lambda guide, _: guide_csv(guide)),
    "json": GuideFile("Everything as JSON", ".json", lambda guide, _: guide_json(guide)),
}


def as_bytes(content: str | bytes) -> bytes:
    """A file's content as it is written."""
    return content.encode("utf-8") if isinstance(content, str) else content
