import pytest

from tests.guides import filled_shelf, small_guide
from tests.usual import CORD, WET


@pytest.fixture(scope="package")
def filled(usual_campaign):
    """The usual pulls, sorted and rated once, with their campaign and its guide book."""
    return filled_shelf(usual_campaign)


@pytest.fixture(scope="package")
def guide(filled):
    """A small guide of them: two uses in two cordages."""
    return small_guide(filled, (CORD, WET))
