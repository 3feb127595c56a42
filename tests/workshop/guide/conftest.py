import pytest

from bruiser.workshop.guide.book import read_guide_book
from bruiser.workshop.guide.choosing import fill_shelf
from bruiser.workshop.guide.content import Stamp, Wanted, make_guide
from bruiser.workshop.logbook.entries import read_logbook
from bruiser.workshop.logbook.workshop import open_workshop
from tests.usual import CORD, WET


@pytest.fixture(scope="package")
def filled(usual_campaign):
    """The usual pulls, sorted and rated once, with their campaign and its guide book."""
    opened = open_workshop(usual_campaign, read_only=True)
    shelf, book, campaign = (
        fill_shelf(read_logbook(opened)),
        read_guide_book(opened),
        opened.campaign,
    )
    opened.close()
    return shelf, book, campaign


@pytest.fixture(scope="package")
def guide(filled):
    """A small guide of them: two uses in two cordages."""
    shelf, book, campaign = filled
    wanted = Wanted(uses=("tether-loop", "line-joined"), lot_ids=(CORD, WET), scope="a trial")
    return make_guide(shelf, campaign, book, wanted, Stamp(1, "2026-10-01T08:00:00.000+00:00"))
