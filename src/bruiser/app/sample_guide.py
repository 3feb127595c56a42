"""Makes the sample guide in docs/sample-guide from the demo campaign; ``./run shots`` calls it."""

from __future__ import annotations

from pathlib import Path

from bruiser.app.guide_command import STYLE
from bruiser.core.choice.guide import Guide
from bruiser.core.json_records import write_document
from bruiser.formats.guide_pages import cards_html, guide_html, wall_html
from bruiser.formats.guide_tables import guide_json, guide_schema, guide_xlsx
from bruiser.formats.pdf import html_to_pdf
from bruiser.workshop.guide.book import read_guide_book
from bruiser.workshop.guide.choosing import fill_shelf
from bruiser.workshop.guide.content import Stamp, Wanted, make_guide
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import open_workshop

USES = ("tether-loop", "line-joined", "hand-hold", "post")
LOTS = ("P8-B", "P8-B wet", "N6-K", "N7-T")
MADE_AT = "2026-10-12T09:00:00.000+00:00"
SCOPE = "Balloon tethers, lines joined for good, hand-holds and posts of the station."


def sample_guide(demo: Path) -> Guide:
    """The sample, always made at the same moment so that it only changes with what it says."""
    workshop = open_workshop(demo)
    try:
        shelf, book = fill_shelf(read_logbook(workshop)), read_guide_book(workshop)
        ids = tuple(lot.id for lot in shelf.logbook.lots if lot.name in LOTS)
        wanted = Wanted(uses=USES, lot_ids=ids, scope=SCOPE)
        return make_guide(shelf, workshop.campaign, book, wanted, Stamp(1, MADE_AT))
    finally:
        workshop.close()


def write_sample(demo: Path, folder: Path) -> None:
    """Write the sample in every form, and the published schema beside the documents."""
    folder.mkdir(parents=True, exist_ok=True)
    guide = sample_guide(demo)
    html = guide_html(guide, STYLE)
    (folder / "guide.html").write_text(html, encoding="utf-8")
    (folder / "guide.pdf").write_bytes(html_to_pdf(html))
    (folder / "bench-cards.pdf").write_bytes(html_to_pdf(cards_html(guide, STYLE)))
    (folder / "wall-chart.pdf").write_bytes(html_to_pdf(wall_html(guide, STYLE)))
    (folder / "guide.xlsx").write_bytes(guide_xlsx(guide))
    (folder / "guide.json").write_text(guide_json(guide), encoding="utf-8")
    schema = write_document(guide_schema())
    (folder.parent / "guide.schema.json").write_text(schema + "\n", encoding="utf-8")
