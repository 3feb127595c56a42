"""What is read in one state is read from one, until this thread stores something itself."""

import threading

import pytest
import sqlalchemy as sa
from sqlalchemy.exc import DBAPIError
from tests.servers import home_daily_on_a_file  # noqa: F401  (on a server in full runs)

from bruiser.core.errors import StoreError
from bruiser.store.campaigns import load_campaign
from bruiser.store.places import open_place
from bruiser.store.schema import campaign


@pytest.fixture
def opened(usual_place):
    with open_place(usual_place) as found:
        yield found


def title(opened):
    with opened.reading() as connection:
        return load_campaign(connection).title


def rename(opened, words):
    with opened.writing() as connection:
        connection.execute(sa.update(campaign).values(title=words))


def elsewhere(work):
    found = []
    other = threading.Thread(target=lambda: found.append(work()))
    other.start()
    other.join()
    return found[0]


def test_what_others_store_is_not_seen_before_its_end(opened):
    before = title(opened)
    with opened.in_one_state():
        assert title(opened) == before
        elsewhere(lambda: rename(opened, "renamed elsewhere"))
        with opened.in_one_state():
            assert title(opened) == before
        assert title(opened) == before
        assert elsewhere(lambda: title(opened)) == "renamed elsewhere"
    assert title(opened) == "renamed elsewhere"


def test_what_this_thread_stores_is_seen_at_once(opened):
    with opened.in_one_state():
        assert title(opened) != "renamed here"
        rename(opened, "renamed here")
        assert title(opened) == "renamed here"


def test_who_reads_still_goes_on_while_something_is_stored(opened):
    with opened.in_one_state():
        with opened.reading() as earlier:
            before = load_campaign(earlier).title
            rename(opened, "renamed here")
            assert load_campaign(earlier).title == before
            assert title(opened) == "renamed here"
        assert title(opened) == "renamed here"
    assert title(opened) == "renamed here"


def test_one_connection_is_enough(opened):
    with opened.in_one_state(), opened.reading() as first:
        for _ in range(5):
            with opened.reading() as again:
                assert again is first
    with opened.reading() as one, opened.reading() as other:
        assert one is not other


def test_after_a_question_that_failed_the_next_is_answered(opened):
    with opened.in_one_state():
        before = title(opened)
        with pytest.raises((StoreError, DBAPIError)), opened.reading() as connection:
            connection.exec_driver_sql("SELECT nothing FROM nowhere")
        assert title(opened) == before
