"""A campaign as a Data Package: a folder of plain tables, traces and pictures that says what it is.

``datapackage.json`` names every file with its Table Schema. Traces are CSV, or Parquet where
`pyarrow` is installed.
"""

from __future__ import annotations

import hashlib
import json
import re
import shutil
import tempfile
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path, PurePosixPath
from typing import Any

from bruiser.core.errors import InputError, StoreError
from bruiser.core.trace import Trace
from bruiser.formats.package_tables import NOTHING, PackageColumn, read_table, write_table
from bruiser.formats.package_traces import FIELDS, TraceKind, read_samples, write_samples

DESCRIPTOR = "datapackage.json"
LARGEST_DESCRIPTOR = 64 * 2**20
LARGEST_RESOURCE = 512 * 2**20
LARGEST_FILE = 2**31
_SAFE = re.compile(r"[A-Za-z0-9][A-Za-z0-9_-]{0,80}")


@dataclass(frozen=True, kw_only=True)
class PackageTable:
    """A table to be written: its columns, what identifies a row, and which column points where."""

    name: str
    columns: Sequence[PackageColumn]
    key: Sequence[str]
    references: Mapping[str, str] = field(default_factory=dict)
    rows: Sequence[Mapping[str, Any]] = ()


@dataclass(frozen=True, kw_only=True)
class PackageBytes:
    """A picture or document, and whose it is."""

    table: str
    column: str
    row: str
    suffix: str
    content: bytes


@dataclass(frozen=True, kw_only=True)
class PackageFile:
    """A file of a package that was found there, and what it belongs to."""

    path: Path
    said: str
    table: str
    column: str = ""
    row: str = ""


@dataclass(frozen=True, kw_only=True)
class Package:
    """A package that was opened: its descriptor and its files, none of them read yet."""

    folder: Path
    schema: str
    tables: Mapping[str, PackageFile]
    traces: Sequence[PackageFile]
    blobs: Sequence[PackageFile]
    changed: tuple[str, ...] = ()
    """Files that are not as they were written."""


class PackageWriter:
    """Writes a package into a folder that is put in its place when all of it is there."""

    def __init__(self, folder: Path, title: str, schema: str, traces: TraceKind) -> None:
        self.folder, self._title, self._schema, self._traces = folder, title, schema, traces
        if folder.exists() and (not folder.is_dir() or any(folder.iterdir())):
            raise StoreError(f"{folder.name} is not empty.", "Name a new folder.")
        try:
            folder.parent.mkdir(parents=True, exist_ok=True)
            made = tempfile.mkdtemp(prefix=f".{folder.name[:40]}-", dir=folder.parent)
        except OSError as error:
            raise StoreError(f"{folder} cannot be made: {error.strerror}.") from error
        self._made = Path(made)
        self._resources: list[dict[str, Any]] = []
        self._numbers: dict[str, int] = {}

    def _put(self, name: str, path: str, content: bytes, **more: Any) -> None:
        target = self._made / path
        target.parent.mkdir(exist_ok=True)
        target.write_bytes(content)
        self._resources.append(
            {
                "name": name.lower(),
                "path": path,
                "bytes": len(content),
                "hash": f"sha256:{hashlib.sha256(content).hexdigest()}",
                **more,
            }
        )

    def _called(self, kind: str, key: str) -> str:
        """A file name for a row: its key where that is plain, else a number."""
        if _SAFE.fullmatch(key):
            return key
        self._numbers[kind] = self._numbers.get(kind, 0) + 1
        return f"row_{self._numbers[kind]}"

    def table(self, table: PackageTable) -> None:
        """Write a table."""
        content = write_table(table.columns, table.rows).encode()
        fields = [
            {"name": c.name, "type": c.kind, "constraints": {"required": not c.optional}}
            for c in table.columns
        ]
        schema: dict[str, Any] = {
            "fields": fields,
            "primaryKey": list(table.key),
            "missingValues": [NOTHING],
        }
        if table.references:
            schema["foreignKeys"] = [
                {
                    "fields": [column],
                    "reference": {
                        "resource": "" if to == table.name else to,
                        "fields": ["id"],
                    },
                }
                for column, to in table.references.items()
            ]
        self._put(
            table.name,
            f"tables/{table.name}.csv",
            content,
            profile="tabular-data-resource",
            format="csv",
            mediatype="text/csv",
            encoding="utf-8",
            schema=schema,
        )

    def trace(self, pull_id: str, trace: Trace) -> None:
        """Write the samples of a pull."""
        called = self._called("trace", pull_id)
        content, names = write_samples(trace, self._traces)
        kind = self._traces
        self._put(
            f"trace-{called}",
            f"traces/{called}.{kind.suffix}",
            content,
            profile="tabular-data-resource",
            format=kind.suffix,
            mediatype=kind.mediatype,
            schema={"fields": [FIELDS[name] for name in names], "missingValues": ["nan"]},
            row={"table": "pull", "id": pull_id},
        )

    def blob(self, blob: PackageBytes) -> None:
        """Write a picture or document."""
        kind = f"{blob.table}-{blob.column}"
        called = self._called(kind, blob.row)
        self._put(
            f"{kind}-{called}".replace("_", "-"),
            f"{blob.table}/{called}.{blob.suffix}",
            blob.content,
            format=blob.suffix,
            row={"table": blob.table, "column": blob.column, "id": blob.row},
        )

    def finish(self) -> None:
        """Write the descriptor and put the folder in its place.

        Raises
        ------
        StoreError
            If it cannot be written.
        """
        said = {
            "profile": "data-package",
            "name": re.sub(r"[^a-z0-9]+", "-", self._title.lower()).strip("-")[:80] or "campaign",
            "title": self._title,
            "bruiser": {"format": "bruiser-package-1", "schema": self._schema},
            "resources": self._resources,
        }
        text = json.dumps(said, ensure_ascii=False, indent=1) + "\n"
        (self._made / DESCRIPTOR).write_text(text, encoding="utf-8")
        if self.folder.exists():
            self.folder.rmdir()
        self._made.chmod(0o755)
        self._made.rename(self.folder)

    def give_up(self) -> None:
        """Leave nothing behind."""
        shutil.rmtree(self._made, ignore_errors=True)


def open_package(folder: Path) -> Package:
    """Look at a package: its descriptor, and that every file it names is inside it.

    Raises
    ------
    InputError
        If it is none, names what is outside, or lacks a file; `where` is the resource.
    """
    said = _descriptor(folder)
    ours = said.get("bruiser")
    if not isinstance(ours, dict) or ours.get("format") != "bruiser-package-1":
        raise InputError(f"{folder.name} is a Data Package, but not of a campaign.")
    resources = said.get("resources")
    if not isinstance(resources, list):
        raise InputError(f"{DESCRIPTOR}: resources is no list.", where="resources")
    tables: dict[str, PackageFile] = {}
    traces: list[PackageFile] = []
    blobs: list[PackageFile] = []
    changed: list[str] = []
    for number, resource in enumerate(resources, 1):
        found, digest = _resource(folder, resource, number)
        if digest and _digest(found.path) != digest:
            changed.append(found.said)
        if found.column:
            blobs.append(found)
        elif found.row:
            traces.append(found)
        else:
            tables[found.table] = found
    return Package(
        folder=folder,
        schema=str(ours.get("schema", "")),
        tables=tables,
        traces=traces,
        blobs=blobs,
        changed=tuple(changed),
    )


def _digest(path: Path) -> str:
    """The hash of a file, read by pieces, none of them kept.

    Raises
    ------
    InputError
        If it cannot be read, or is larger than any file of a campaign.
    """
    try:
        if path.stat().st_size > LARGEST_RESOURCE:
            raise InputError(f"{path.name} is larger than any file of a campaign.", where=path.name)
        with path.open("rb") as file:
            return hashlib.file_digest(file, "sha256").hexdigest()
    except OSError as error:
        raise InputError(f"{path.name} cannot be read: {error.strerror}.") from error


def _descriptor(folder: Path) -> dict[str, Any]:
    path = folder / DESCRIPTOR
    try:
        if path.stat().st_size > LARGEST_DESCRIPTOR:
            raise InputError(f"{DESCRIPTOR} is too large to be one.")
        said = json.loads(path.read_text(encoding="utf-8"))
    except OSError as error:
        raise InputError(f"{folder.name} has no {DESCRIPTOR}: {error.strerror}.") from error
    except (ValueError, RecursionError) as error:
        raise InputError(f"{DESCRIPTOR} is no JSON that can be read.", where="1") from error
    if not isinstance(said, dict):
        raise InputError(f"{DESCRIPTOR} is no Data Package.", where="1")
    return said


def _resource(folder: Path, resource: object, number: int) -> tuple[PackageFile, str]:
    if not isinstance(resource, dict) or not isinstance(resource.get("path"), str):
        raise InputError(f"{DESCRIPTOR}: resource {number} has no path.", where=str(number))
    said: str = resource["path"]
    path = inside(folder, said)
    row = resource.get("row")
    digest = str(resource.get("hash", "")).removeprefix("sha256:")
    if row is None:
        return PackageFile(path=path, said=said, table=str(resource.get("name"))), digest
    if not isinstance(row, dict) or not isinstance(row.get("id"), str):
        raise InputError(f"{DESCRIPTOR}: {said} does not say whose it is.", where=said)
    return (
        PackageFile(
            path=path,
            said=said,
            table=str(row.get("table")),
            column=str(row.get("column", "")),
            row=row["id"],
        ),
        digest,
    )


def inside(folder: Path, said: str) -> Path:
    """A file of a package by the path its descriptor gives.

    Raises
    ------
    InputError
        If that leads out of the folder, is no plain file, or is beyond any size of ours.
    """
    plain = PurePosixPath(said)
    if plain.is_absolute() or ".." in plain.parts or "\\" in said or "\0" in said or ":" in said:
        raise InputError(f"{said[:80]!r} leads out of the package.", where=said[:80])
    path = folder / plain
    try:
        if not path.resolve(strict=True).is_relative_to(folder.resolve(strict=True)):
            raise InputError(f"{said[:80]} leads out of the package.", where=said)
        if not path.is_file():
            raise InputError(f"{said[:80]} is no file.", where=said)
        if path.stat().st_size > LARGEST_FILE:
            raise InputError(f"{said[:80]} is too large.", where=said)
    except OSError as error:
        raise InputError(f"{said[:80]} is not there: {error.strerror}.", where=said) from error
    return path


def package_rows(
    package: Package, table: str, columns: Sequence[PackageColumn]
) -> list[dict[str, Any]]:
    """The rows of a table of a package.

    Raises
    ------
    InputError
        Naming file, row and column of what is missing or not right.
    """
    found = package.tables.get(table)
    if found is None:
        raise InputError(f"{package.folder.name} has no table {table}.", where=table)
    try:
        text = found.path.read_bytes().decode("utf-8")
    except OSError as error:
        raise InputError(f"{found.said} cannot be read: {error.strerror}.") from error
    except UnicodeDecodeError as error:
        raise InputError(f"{found.said} is no UTF-8 text.", where=found.said) from error
    return read_table(found.said, text, columns)


def package_traces(package: Package) -> Iterable[tuple[str, Trace]]:
    """The samples of every pull of a package, by pull id.

    Raises
    ------
    InputError
        Naming the file that cannot be read.
    """
    for found in package.traces:
        yield found.row, read_samples(found.path, found.said)
