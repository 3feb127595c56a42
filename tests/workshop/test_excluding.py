"""Leaving pulls out of the results, with a reason, and taking them in again."""

import pytest
import sqlalchemy as sa

from bruiser.core.errors import InputError, StoreError
from bruiser.workshop.excluding import exclude_pull, restore_pull
from bruiser.workshop.journal import Stage, read_journal


def entry_of(workshop, code=None):
    entries = read_journal(workshop).at(Stage.INSPECTED)
    return next(e for e in entries if code in (None, e.specimen.code))


def test_an_excluded_pull_keeps_its_reason_and_history(workshop):
    entry = entry_of(workshop)
    exclude_pull(workshop, entry, " shackle was bent ", "OQ")
    left = entry_of(workshop, entry.specimen.code)
    assert (left.excluded.reason, left.excluded.by) == ("shackle was bent", "OQ")
    assert left.finding == entry.finding
    restore_pull(workshop, left, "it was not")
    back = entry_of(workshop, entry.specimen.code)
    assert back.excluded is None
    assert [x.reason for x in back.exclusions] == ["shackle was bent", "it was not"]


def test_undo_and_redo_add_rows_that_say_so(workshop):
    entry = entry_of(workshop)
    exclude_pull(workshop, entry, "wet by mistake")
    workshop.undo()
    assert entry_of(workshop, entry.specimen.code).excluded is None
    workshop.redo()
    again = entry_of(workshop, entry.specimen.code)
    assert again.excluded.reason == "wet by mistake"
    assert [x.excluded for x in again.exclusions] == [True, False, True]


def test_excluding_needs_a_reason_and_findings(workshop):
    entry = entry_of(workshop)
    with pytest.raises(InputError, match="reason"):
        exclude_pull(workshop, entry, "  ")
    planned = read_journal(workshop).at(Stage.PLANNED)[0]
    with pytest.raises(InputError, match="no findings"):
        exclude_pull(workshop, planned, "no")
    with pytest.raises(ValueError, match="not left out"):
        restore_pull(workshop, entry)
    exclude_pull(workshop, entry, "once")
    with pytest.raises(ValueError, match="already"):
        exclude_pull(workshop, entry_of(workshop, entry.specimen.code), "twice")


def test_the_file_refuses_to_change_an_exclusion(workshop):
    exclude_pull(workshop, entry_of(workshop), "once")
    with pytest.raises((StoreError, sa.exc.IntegrityError)), workshop.file.writing() as connection:
        connection.execute(sa.text("UPDATE exclusion SET reason = ''"))
