"""Every kind of file a guide can be written as, for the station and the command line alike."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from bruiser.core.choice.guide import Guide
from bruiser.formats.guide_figures import PrintStyle
from bruiser.formats.guide_kinds import KINDS
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
    "pdf": GuideFile(KINDS["pdf"], ".pdf", guide_html, printed=True),
    "html": GuideFile(KINDS["html"], ".html", guide_html),
    "cards": GuideFile(KINDS["cards"], ".pdf", cards_html, printed=True),
    "wall": GuideFile(KINDS["wall"], ".pdf", wall_html, printed=True),
    "xlsx": GuideFile(KINDS["xlsx"], ".xlsx", lambda guide, _: guide_xlsx(guide)),
    "csv": GuideFile(KINDS["csv"], ".csv", lambda guide, _: guide_csv(guide)),
    "json": GuideFile(KINDS["json"], ".json", lambda guide, _: guide_json(guide)),
}


def as_bytes(content: str | bytes) -> bytes:
    """A file's content as it is written."""
    return content.encode("utf-8") if isinstance(content, str) else content
