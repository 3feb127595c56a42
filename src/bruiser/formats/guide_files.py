"""Every kind of file a guide can be written as, for the station and the command line alike."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from bruiser.core.choice.guide import Guide
from bruiser.formats.guide_figures import PrintStyle
from bruiser.formats.guide_kinds import KINDS
from bruiser.formats.guide_pages import cards_html, guide_html, wall_html
from bruiser.formats.guide_tables import guide_csv, guide_json, guide_xlsx


@dataclass(frozen=True, kw_only=True)
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
    "pdf": GuideFile(words=KINDS["pdf"], suffix=".pdf", make=guide_html, printed=True),
    "html": GuideFile(words=KINDS["html"], suffix=".html", make=guide_html),
    "cards": GuideFile(words=KINDS["cards"], suffix=".pdf", make=cards_html, printed=True),
    "wall": GuideFile(words=KINDS["wall"], suffix=".pdf", make=wall_html, printed=True),
    "wall_a2": GuideFile(
        words=KINDS["wall_a2"],
        suffix=".pdf",
        make=lambda guide, style: wall_html(guide, style, "A2"),
        printed=True,
    ),
    "xlsx": GuideFile(words=KINDS["xlsx"], suffix=".xlsx", make=lambda guide, _: guide_xlsx(guide)),
    "csv": GuideFile(words=KINDS["csv"], suffix=".csv", make=lambda guide, _: guide_csv(guide)),
    "json": GuideFile(words=KINDS["json"], suffix=".json", make=lambda guide, _: guide_json(guide)),
}


def as_bytes(content: str | bytes) -> bytes:
    """A file's content as it is written."""
    return content.encode("utf-8") if isinstance(content, str) else content
