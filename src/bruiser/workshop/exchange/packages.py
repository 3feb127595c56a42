"""The whole campaign as a Data Package, and back without loss."""

from __future__ import annotations

import zlib
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from bruiser.core.errors import Damaged, InputError, StoreError, TooNew
from bruiser.core.progress import Progress, no_progress
from bruiser.core.trace import Trace
from bruiser.formats.data_package import (
    Package,
    PackageBytes,
    PackageTable,
    PackageWriter,
    open_package,
    package_rows,
    package_traces,
)
from bruiser.formats.package_tables import PackageColumn
from bruiser.formats.package_traces import TraceKind
from bruiser.store import pulls
from bruiser.store.open_campaign import Connection, OpenCampaign
from bruiser.store.opening import create_campaign
from bruiser.store.schema import HEAD
from bruiser.store.tables import (
    BLOBS,
    REFERENCES,
    TABLES,
    BlobPlace,
    Row,
    check_references,
    empty_table,
    is_empty,
    key_of,
    kind_of,
    later_references,
    plain_columns,
    pull_ids,
    read_blob,
    read_table,
    write_rows,
)
from bruiser.workshop.exchange.checking import look_through

_PACKED = ("html", "pdf")
"""Documents that the campaign keeps compressed."""
_SUFFIX = {"jpeg": "jpg"}
_LARGEST_DOCUMENT = 256 * 2**20


def columns_of(table: str) -> list[PackageColumn]:
    """The columns of a table as a package describes them."""
    return [
        PackageColumn(name=c.name, kind=kind_of(c), optional=bool(c.nullable) and not c.primary_key)
        for c in plain_columns(table)
    ]


def export_package(
    file: OpenCampaign,
    folder: Path,
    kind: TraceKind = TraceKind.CSV,
    progress: Progress = no_progress,
) -> int:
    """Write a campaign into a new folder; returns how many files.

    Raises
    ------
    StoreError
        If the folder is not empty or cannot be written; nothing stays of it then.
    InputError
        If Parquet is asked for and not there.
    """
    with file.reading() as connection:
        title = str(read_table(connection, "campaign")[0]["title"])
        writer = PackageWriter(folder, title, HEAD, kind)
        try:
            count = _write(connection, writer, progress)
            writer.finish()
        except OSError as error:
            writer.give_up()
            raise StoreError(
                f"The package could not be written: {error.strerror}.", "Nothing of it was kept."
            ) from error
        except BaseException:
            writer.give_up()
            raise
    return count


def _write(connection: Connection, writer: PackageWriter, progress: Progress) -> int:
    rates: dict[str, float] = {}
    for name, table in TABLES.items():
        rows = read_table(connection, name)
        if name == "pull":
            rates = {row["id"]: row["sample_rate_hz"] for row in rows}
        writer.table(
            PackageTable(
                name=name,
                columns=columns_of(name),
                key=[c.name for c in table.primary_key.columns],
                references=REFERENCES.get(name, {}),
                rows=rows,
            )
        )
    ids = pull_ids(connection)
    for done, pull_id in enumerate(ids):
        progress(done, len(ids))
        writer.trace(pull_id, pulls.load_samples(connection, pull_id, rates.get(pull_id, 0.0)))
    blobs = 0
    for blob in _blobs(connection):
        writer.blob(blob)
        blobs += 1
    return len(TABLES) + len(ids) + blobs + 1


def _blobs(connection: Connection) -> Iterator[PackageBytes]:
    for place in BLOBS:
        for row in read_table(connection, place.table):
            content = read_blob(connection, place, row["id"])
            if content is not None:
                yield PackageBytes(
                    table=place.table,
                    column=place.column,
                    row=row["id"],
                    suffix=_SUFFIX.get(place.column, place.column),
                    content=_unpacked(content) if place.column in _PACKED else content,
                )


def _unpacked(content: bytes) -> bytes:
    try:
        worker = zlib.decompressobj()
        found = worker.decompress(content, _LARGEST_DOCUMENT)
    except zlib.error as error:
        raise Damaged("A released guide cannot be read.", "The rest is unharmed.") from error
    if worker.unconsumed_tail:
        raise Damaged("A released guide is larger than any can be.")
    return found


@dataclass(frozen=True, kw_only=True)
class Brought:
    """What came in: rows by table, traces, and files that were changed since they were written."""

    rows: dict[str, int]
    traces: int
    changed: tuple[str, ...] = ()


def package_into(file: OpenCampaign, folder: Path, progress: Progress = no_progress) -> Brought:
    """Fill an empty campaign with a package, all of it or nothing.

    Raises
    ------
    InputError
        If the package is none, or a file, row or field of it cannot be.
    TooNew
        If a newer Bruiser wrote it.
    StoreError
        If the campaign has pulls of its own already, or cannot be written.
    """
    package = open_package(folder)
    _check_version(package)
    with file.writing() as connection:
        if not is_empty(connection):
            raise StoreError(f"{file.name} is not empty.", "Merge the two instead.")
        later_references(connection)
        for table in ("campaign_use", "campaign"):
            empty_table(connection, table)
        counts = {name: _fill(connection, package, name) for name in TABLES}
        traces = _fill_traces(connection, package, progress)
        try:
            check_references(connection)
            wrong = look_through(connection)
        except Damaged as error:
            raise InputError(f"{folder.name}: {error.headline}", "Nothing was stored.") from error
        if wrong:
            raise InputError(
                f"{folder.name}: {wrong[0]}", "Nothing was stored.", where=wrong[0].table
            )
    return Brought(rows=counts, traces=traces, changed=package.changed)


def package_as_campaign(folder: Path, target: Path, progress: Progress = no_progress) -> Brought:
    """Make a new campaign file of a package; none stays where it cannot be.

    Raises
    ------
    BruiserError
        As :func:`package_into`.
    """
    made = create_campaign(target)
    try:
        with made:
            return package_into(made, folder, progress)
    except BaseException:
        target.unlink(missing_ok=True)
        raise


def _check_version(package: Package) -> None:
    if package.schema != HEAD:
        if package.schema > HEAD:
            raise TooNew("The package was written by a newer Bruiser.", "Open it with that.")
        raise InputError(
            f"The package is of version {package.schema[:40] or 'unknown'}; this is {HEAD}.",
            "Open its campaign with this version, and export that.",
        )


def _fill(connection: Connection, package: Package, name: str) -> int:
    rows: list[Row] = package_rows(package, name, columns_of(name))
    seen = {key_of(name, row) for row in rows}
    if len(seen) != len(rows):
        raise InputError(f"tables/{name}.csv: a row stands there twice.", where=name)
    if name == "campaign" and len(rows) != 1:
        raise InputError("tables/campaign.csv: there is not one campaign.", where=name)
    places = [place for place in BLOBS if place.table == name]
    if not places:
        write_rows(connection, name, rows)
        return len(rows)
    ids = {row["id"] for row in rows}
    bytes_of: dict[tuple[str, str], bytes] = {}
    for found in package.blobs:
        if found.table == name:
            if found.row not in ids or BlobPlace(table=name, column=found.column) not in places:
                raise InputError(f"{found.said} belongs to no row.", where=found.said)
            content = found.path.read_bytes()
            packed = zlib.compress(content) if found.column in _PACKED else content
            bytes_of[found.column, found.row] = packed
    for row in rows:
        for place in places:
            row[place.column] = bytes_of.get((place.column, row["id"]))
    write_rows(connection, name, rows)
    return len(rows)


def _fill_traces(connection: Connection, package: Package, progress: Progress) -> int:
    rates = {row["id"]: row["sample_rate_hz"] for row in read_table(connection, "pull")}
    done = 0
    for pull_id, trace in package_traces(package):
        progress(done, len(package.traces))
        if pull_id not in rates:
            raise InputError(f"A trace belongs to no pull: {pull_id[:60]}.", where="traces")
        if len(trace):
            pulls.append_samples(connection, pull_id, _placed(trace, rates[pull_id]))
        done += 1
    return done


def _placed(trace: Trace, rate_hz: float) -> Trace:
    """A trace with every sample at its number; NaN where none was written."""
    numbers = np.rint(trace.time_s * rate_hz)
    if numbers[0] < 0 or np.any(np.diff(numbers) <= 0) or numbers[-1] > pulls.LONGEST_GAP:
        raise InputError("A trace's times do not fit its pull's rate.", where="traces")
    length = int(numbers[-1]) + 1
    at = numbers.astype(np.int64)
    channels = {}
    for channel, values in trace.channels.items():
        channels[channel] = np.full(length, np.nan)
        channels[channel][at] = values
    return Trace(channels=channels, rate_hz=rate_hz)
