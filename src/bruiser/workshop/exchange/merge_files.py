"""A campaign file merged into an open one: looked at first, then all of it or nothing."""

from __future__ import annotations

import tempfile
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path

from bruiser.core.errors import InputError, StoreError
from bruiser.core.progress import Progress, no_progress
from bruiser.formats.data_package import DESCRIPTOR
from bruiser.store.backups import BackupWhy, keep_backup
from bruiser.store.open_campaign import Connection, OpenCampaign
from bruiser.store.opening import open_campaign
from bruiser.store.places import Place, open_place
from bruiser.store.server.address import ServerAddress
from bruiser.store.tables import (
    BLOBS,
    check_references,
    copy_chunks,
    drop_chunks,
    key_of,
    later_references,
    pull_ids,
    read_blob,
    read_tables,
    replace_rows,
    sample_count,
    write_rows,
)
from bruiser.workshop.exchange.checking import look_through
from bruiser.workshop.exchange.merging import Choices, Merged, merge_tables
from bruiser.workshop.exchange.packages import package_as_campaign


@contextmanager
def opened_other(source: Place) -> Iterator[OpenCampaign]:
    """Another campaign for reading: a file, one on a server, or a package made one for the while.

    Raises
    ------
    BruiserError
        If it is neither, or cannot be read whole.
    """
    if isinstance(source, ServerAddress) or not source.is_dir():
        with open_place(source, read_only=True) as other:
            yield other
        return
    if not (source / DESCRIPTOR).is_file():
        raise InputError(f"{source.name} is a folder without {DESCRIPTOR}.")
    with tempfile.TemporaryDirectory(prefix="bruiser-merging-") as folder:
        made = Path(folder) / "other.bruiser"
        package_as_campaign(source, made)
        with open_campaign(made, read_only=True) as other:
            yield other


def look_at_merge(
    file: OpenCampaign,
    other: OpenCampaign,
    choices: Choices | None = None,
    apart: Iterable[str] = (),
) -> Merged:
    """What merging would give; nothing is written.

    Raises
    ------
    InputError
        If a row of the other cannot be read: it is checked and rescued first.
    """
    with other.reading() as theirs:
        wrong = look_through(theirs)
        if wrong:
            raise InputError(f"{other.name} is damaged: {wrong[0]}", "Check and rescue it first.")
        rows = read_tables(theirs)
    with file.reading() as mine:
        return merge_tables(read_tables(mine), rows, choices, apart)


def merge_into(
    file: OpenCampaign,
    other: OpenCampaign,
    choices: Choices | None = None,
    apart: Iterable[str] = (),
    progress: Progress = no_progress,
) -> Merged:
    """Merge another campaign into this one, after a copy was kept.

    Raises
    ------
    InputError
        As :func:`look_at_merge`.
    StoreError
        If no copy could be kept, or the campaign cannot be written; it is then as it was.
    """
    if file.is_same(other):
        raise InputError("A campaign is not merged with itself.")
    apart = tuple(apart)
    if look_at_merge(file, other, choices, apart).changed:
        keep_backup(file.path, BackupWhy.MERGE, file.copy_to)
    with other.reading() as theirs, file.writing() as mine:
        merged = merge_tables(read_tables(mine), read_tables(theirs), choices, apart)
        later_references(mine)
        for table in merged.changed:
            _store(mine, theirs, table, merged)
        _take_samples(mine, theirs, progress)
        check_references(mine)
        wrong = look_through(mine)
        if wrong:
            raise StoreError(f"The two do not fit together: {wrong[0]}", "Nothing was stored.")
    return merged


def _store(mine: Connection, theirs: Connection, table: str, merged: Merged) -> None:
    places = [place for place in BLOBS if place.table == table]
    rows = merged.tables[table]
    if not places:
        replace_rows(mine, table, rows)
        return
    known = {key_of(table, row) for row in read_tables(mine)[table]}
    fresh = [dict(row) for row in rows if key_of(table, row) not in known]
    for row in fresh:
        for place in places:
            row[place.column] = read_blob(theirs, place, row["id"])
    write_rows(mine, table, fresh)


def _take_samples(mine: Connection, theirs: Connection, progress: Progress) -> None:
    ids = pull_ids(theirs)
    for done, pull_id in enumerate(ids):
        progress(done, len(ids))
        here = sample_count(mine, pull_id)
        if here < sample_count(theirs, pull_id):
            if here:
                drop_chunks(mine, pull_id)
            copy_chunks(theirs, mine, [pull_id])
