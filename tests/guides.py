"""The shelf and a small guide of a campaign file, made once for the tests that read them."""

from pathlib import Path

from bruiser.workshop.guide.book import read_guide_book
from bruiser.workshop.guide.choosing import fill_shelf
from bruiser.workshop.guide.content import Stamp, Wanted, make_guide
from bruiser.workshop.guide.publishing import draft_guide, keep_draft
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import open_workshop
from tests.alike import whole

USES = ("tether-loop", "line-joined")


def filled_shelf(path: Path):
    """The pulls of a file, sorted and rated, with its campaign and its guide book."""
    opened = open_workshop(path, read_only=True)
    try:
        shelf = fill_shelf(whole(opened))
        return shelf, read_guide_book(opened), opened.campaign
    finally:
        opened.close()


def small_guide(filled, lot_ids):
    """The first revision for two uses in some lots."""
    shelf, book, campaign = filled
    wanted = Wanted(uses=USES, lot_ids=tuple(lot_ids), scope="a trial")
    return make_guide(shelf, campaign, book, wanted, Stamp(1, "2026-10-01T08:00:00.000+00:00"))


def freeze_revision(workshop):
    """Freeze a revision of the guide of a campaign, over its first lot."""
    logbook = read_logbook(workshop)
    wanted = Wanted(uses=USES, lot_ids=(logbook.lots[0].id,), scope="a trial")
    made = draft_guide(workshop, fill_shelf(logbook), read_guide_book(workshop), wanted)
    return keep_draft(workshop, made)
