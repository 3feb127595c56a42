"""Looking through a whole campaign: every row, every reference, every trace."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from bruiser.core.choice.guide import Guide
from bruiser.core.errors import BruiserError, InputError, StoreError
from bruiser.core.json_records import read_record
from bruiser.core.progress import Progress, no_progress
from bruiser.store import briefs, campaigns, guides, pulls, undo_log
from bruiser.store.checked_rows import OPTION, SetAside, leave_out
from bruiser.store.open_campaign import Connection
from bruiser.store.progress import wrong_progress, wrong_tally
from bruiser.store.tables import (
    BlobPlace,
    broken_references,
    ids_of,
    pull_ids,
    read_blob,
)
from bruiser.workshop.guide.book import load_guide_book
from bruiser.workshop.logbook.whole import load_logbook

_JPEG = b"\xff\xd8"


@contextmanager
def setting_aside(connection: Connection) -> Iterator[dict[tuple[str, str], SetAside]]:
    """Gather the rows that cannot be read inside, apart from those before."""
    before = connection.get_execution_options().get(OPTION)
    found: dict[tuple[str, str], SetAside] = {}
    connection.execution_options(**{OPTION: found})
    try:
        yield found
    finally:
        connection.execution_options(**{OPTION: before})


def look_through(connection: Connection, progress: Progress = no_progress) -> list[SetAside]:
    """Every row, reference and trace that cannot be read, by table and key.

    Raises
    ------
    StoreError
        If the file itself cannot be read on.
    """
    with setting_aside(connection) as found:
        campaign = campaigns.load_campaign(connection)
        load_logbook(connection, campaign.trade)
        load_guide_book(connection)
        for pull_id in ids_of(connection, "pull"):
            pulls.load_analysis_history(connection, pull_id)
        for guide in guides.load_guides(connection):
            _check_guide(connection, guide.id)
        undo_log.load_all_taken_back(connection)
        briefs.load_brief(connection)
    return [
        *found.values(),
        *_broken(connection),
        *_pictures(connection),
        *_traces(connection, progress),
    ]


def look_at_progress(connection: Connection) -> list[SetAside]:
    """Specimens and lots of which what is kept does not follow from the records."""
    wrong = [("progress", key) for key in wrong_progress(connection)]
    wrong += [("tally", key) for key in wrong_tally(connection)]
    why = "does not follow from the records; a rescued copy has it right."
    return [SetAside(table=table, row=key, field="stage", why=why) for table, key in wrong]


def _check_guide(connection: Connection, guide_id: str) -> None:
    try:
        read_record(Guide, guides.load_body(connection, guide_id))
    except InputError as error:
        leave_out(connection, "guide", {"id": guide_id}, error)


def _broken(connection: Connection) -> Iterator[SetAside]:
    for table, number, parent in broken_references(connection):
        yield SetAside(
            table=table, row=f"number {number}", field="", why=f"its {parent} is not there."
        )


def _traces(connection: Connection, progress: Progress) -> Iterator[SetAside]:
    ids = pull_ids(connection)
    for done, pull_id in enumerate(ids):
        progress(done, len(ids))
        try:
            pulls.load_samples(connection, pull_id)
        except StoreError as error:
            yield SetAside(table="trace_chunk", row=pull_id, field="data", why=error.headline)
        except (BruiserError, ValueError, MemoryError, OverflowError, TypeError) as error:
            yield SetAside(table="trace_chunk", row=pull_id, field="data", why=str(error))


def _pictures(connection: Connection) -> Iterator[SetAside]:
    place = BlobPlace(table="photo", column="jpeg")
    for row in ids_of(connection, place.table):
        if not (read_blob(connection, place, row) or b"").startswith(_JPEG):
            yield SetAside(table=place.table, row=row, field=place.column, why="is no picture.")
