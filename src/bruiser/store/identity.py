"""Which file is open: its lock, and how to notice that another one stands in its place.

A campaign is held by what it is, device and inode, not by its path: the lock is taken on the file
itself and goes with the process, however it ends. Each time the journal is written back, a new mark
goes into the head of the file (SQLite's ``user_version``); a note beside the file says which marks
belong to the journal. So a copy laid over the file is told from the file, though its path and even
its inode are the same, and a journal is never applied to another file.
"""

from __future__ import annotations

import fcntl
import logging
import os
import secrets
from dataclasses import dataclass
from enum import Enum
from pathlib import Path

from bruiser.core.errors import Gone, InputError
from bruiser.core.json_records import read_record, write_record

log = logging.getLogger(__name__)

_MARK_AT = 60
_LARGEST_MARK = 2**31 - 1


class Held(Enum):
    """How a file is held."""

    WRITING = "writing"
    ASKED = "asked"
    ELSEWHERE = "elsewhere"
    FORBIDDEN = "forbidden"


def real_path(path: Path) -> Path:
    """Where a campaign really is: links followed, and the name its journal goes by.

    A file with two names (hard links) is opened under the one that has the journal.
    """
    path = path.resolve()
    mine = path.stat()
    if mine.st_nlink < 2:
        return path
    for journal in sorted(path.parent.glob("*-wal")):
        other = journal.with_name(journal.name.removesuffix("-wal"))
        if other.exists() and other.samefile(path):
            return other
    return path


def new_mark() -> int:
    """A mark for the head of a file."""
    return 1 + secrets.randbelow(_LARGEST_MARK)


def note_path(path: Path) -> Path:
    """The note beside an open file."""
    return path.with_name(f"{path.name}-open")


def read_note(path: Path) -> tuple[int, ...]:
    """The marks that belong to the journal of a file; empty without a note."""
    try:
        noted = read_record(dict[str, tuple[int, ...]], note_path(path).read_text(encoding="utf-8"))
    except (OSError, ValueError, InputError):
        return ()
    return noted.get("marks", ())


def write_note(path: Path, marks: tuple[int, ...]) -> None:
    """Say which marks belong to the journal, before one of them is written."""
    target = note_path(path)
    fresh = target.with_name(f"{target.name}.new")
    fresh.write_text(write_record({"marks": marks}), encoding="utf-8")
    fresh.replace(target)


def mark_in(path: Path) -> int:
    """The mark in the head of a file, read past the journal."""
    with path.open("rb") as file:
        return _mark(file.fileno())


def _mark(descriptor: int) -> int:
    return int.from_bytes(os.pread(descriptor, 4, _MARK_AT), "big")


def set_foreign_journal_aside(path: Path) -> Path | None:
    """Put a journal that belongs to another file under another name; None where all is well."""
    journal = path.with_name(f"{path.name}-wal")
    marks = read_note(path)
    if not marks or not journal.exists() or journal.stat().st_size == 0 or mark_in(path) in marks:
        return None
    number, aside = 1, path.with_name(f"{path.name}-journal-of-another-1")
    while aside.exists():
        number += 1
        aside = path.with_name(f"{path.name}-journal-of-another-{number}")
    journal.rename(aside)
    path.with_name(f"{path.name}-shm").unlink(missing_ok=True)
    note_path(path).unlink(missing_ok=True)
    log.warning("%s was replaced while a journal remained; it is kept as %s", path.name, aside.name)
    return aside


@dataclass(kw_only=True)
class FileHold:
    """A file held open, and locked for writing where `held` says so."""

    path: Path
    held: Held
    descriptor: int
    marks: tuple[int, ...] = ()

    @classmethod
    def take(cls, path: Path, *, writing: bool = True) -> FileHold:
        """Hold a file.

        Raises
        ------
        OSError
            If it cannot even be read.
        """
        descriptor = os.open(path, os.O_RDONLY | os.O_CLOEXEC)
        if not writing:
            return cls(path=path, held=Held.ASKED, descriptor=descriptor)
        if not _may_write(path):
            return cls(path=path, held=Held.FORBIDDEN, descriptor=descriptor)
        try:
            fcntl.flock(descriptor, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            return cls(path=path, held=Held.ELSEWHERE, descriptor=descriptor)
        except OSError:
            os.close(descriptor)
            raise
        return cls(path=path, held=Held.WRITING, descriptor=descriptor)

    def look(self) -> None:
        """Say whether the path still leads to the file that is held.

        Raises
        ------
        Gone
            If the file was moved, deleted or replaced.
        """
        mine = os.fstat(self.descriptor)
        try:
            there = self.path.stat()
        except OSError:
            there = None
        if there is not None and (there.st_dev, there.st_ino) == (mine.st_dev, mine.st_ino):
            if self.marks and _mark(self.descriptor) not in self.marks:
                raise self._gone("another file was copied over it")
            return
        if there is not None:
            raise self._gone("another file was put in its place")
        if mine.st_nlink == 0:
            raise self._gone("it was deleted")
        now = os.readlink(f"/proc/self/fd/{self.descriptor}")
        raise self._gone("its disk is gone" if now == str(self.path) else f"it was moved, to {now}")

    def _gone(self, what: str) -> Gone:
        return Gone(
            f"{self.path.name} is no longer the campaign that is open here: {what}.",
            "Nothing was written there. Save the campaign under a new name.",
        )

    def close(self) -> None:
        """Let go of it."""
        if self.descriptor >= 0:
            os.close(self.descriptor)
            self.descriptor = -1


def _may_write(path: Path) -> bool:
    """Whether the file and its folder, where the journal goes, can be written."""
    return os.access(path, os.W_OK) and os.access(path.parent, os.W_OK | os.X_OK)
