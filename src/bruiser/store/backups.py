"""Copies kept of a campaign: made, listed, thinned out, put back.

They stand in a folder beside the file, each whole and openable by itself, and are numbered in the
order in which they were made: clocks are set back, and run years ahead. The last ten are kept, the
oldest of each month, and those before a merge or an upgrade of the last month.
"""

from __future__ import annotations

import re
import sqlite3
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from enum import StrEnum
from itertools import pairwise
from pathlib import Path

from bruiser.core.errors import InputError, StoreError
from bruiser.core.json_records import read_record, write_record

LAST_KEPT = 10
_MONTH, _CLOCK_ODD = timedelta(days=31), timedelta(hours=1)
_NAME = re.compile(r"(?:(\d{5,9}) )?(\d{4}-\d\d-\d\dT\d\d-\d\d-\d\d)(?:-(\d+))? ([a-z-]+)\.bruiser")
_MOMENT = "%Y-%m-%dT%H-%M-%S"
_SCHEDULE = "schedule.json"


class BackupWhy(StrEnum):
    """What a copy was made for."""

    ASKED = "asked"
    SCHEDULED = "scheduled"
    UPGRADE = "before-upgrade"
    IMPORT = "before-import"
    MERGE = "before-merge"
    RESTORE = "before-restore"


WHY_WORDS = {
    BackupWhy.ASKED: "asked for",
    BackupWhy.SCHEDULED: "on schedule",
    BackupWhy.UPGRADE: "before an upgrade",
    BackupWhy.IMPORT: "before pulls were brought in",
    BackupWhy.MERGE: "before a merge",
    BackupWhy.RESTORE: "before an earlier copy was put back",
}


@dataclass(frozen=True, kw_only=True)
class Backup:
    """A copy that is kept.

    Parameters
    ----------
    made_at : datetime
        What the clock said; `number` says what came after what, 0 for copies of earlier versions.
    """

    path: Path
    made_at: datetime
    why: BackupWhy
    size: int
    number: int = 0


@dataclass(frozen=True, kw_only=True)
class BackupSchedule:
    """How often a copy is made by itself; 0 days: never."""

    every_days: int = 1


def backup_folder(path: Path) -> Path:
    """Where the copies of a campaign are kept."""
    return path.with_name(f"{path.name}.backups")


def list_backups(path: Path) -> list[Backup]:
    """The copies of a campaign, the newest first."""
    found = []
    try:
        files = list(backup_folder(path).iterdir())
    except OSError:
        return []
    for file in files:
        named = _NAME.fullmatch(file.name)
        if named is None or file.is_symlink() or not file.is_file():
            continue
        try:
            made = datetime.strptime(named[2], _MOMENT).replace(tzinfo=UTC)
            why = BackupWhy(named[4])
        except ValueError:
            continue
        size, number = file.stat().st_size, int(named[1] or 0)
        found.append(Backup(path=file, made_at=made, why=why, size=size, number=number))
    return sorted(found, key=_order, reverse=True)


def _order(backup: Backup) -> tuple[int, datetime, str]:
    return backup.number, backup.made_at, backup.path.name


def clock_words(backups: list[Backup], now: datetime) -> str:
    """What is odd about the clock by which copies were made, in words; empty where nothing is."""
    if any(b.made_at > now + _CLOCK_ODD for b in backups):
        return (
            "A copy bears a time that has not come yet: the clock was ahead then, or is behind now."
            " Copies are kept in the order they were made."
        )
    ordered = sorted(backups, key=_order)
    if any(b.made_at < a.made_at - _CLOCK_ODD for a, b in pairwise(ordered) if a.number):
        return "The clock was set back between copies: they are kept in the order they were made."
    return ""


def _free_name(folder: Path, why: BackupWhy, now: datetime, number: int) -> Path:
    moment = now.astimezone(UTC).strftime(_MOMENT)
    target = folder / f"{number:06d} {moment} {why}.bruiser"
    while target.exists():
        number += 1
        target = folder / f"{number:06d} {moment} {why}.bruiser"
    return target


def keep_backup(
    path: Path,
    why: BackupWhy,
    copy_to: Callable[[Path], None] | None = None,
    now: datetime | None = None,
) -> Backup:
    """Copy a campaign into its folder, and thin that out.

    Parameters
    ----------
    copy_to : callable, optional
        What copies it, where it is open; else its file is copied with its journal.

    Raises
    ------
    StoreError
        If it cannot be made; no half copy stays, and the campaign is as it was.
    """
    # Loaded here, for whoever only lists copies waits for no database library.
    from bruiser.store.driver_errors import translate
    from bruiser.store.upgrading import copy_database

    now = now or datetime.now(UTC)
    folder = backup_folder(path)
    try:
        folder.mkdir(exist_ok=True)
    except OSError as error:
        raise _not_made(path, error.strerror or "") from error
    number = max((b.number for b in list_backups(path)), default=0) + 1
    target = _free_name(folder, why, now, number)
    half = target.with_suffix(".half")
    try:
        if copy_to is None:
            copy_database(path, half)
        else:
            copy_to(half)
        half.rename(target)
    except (OSError, sqlite3.Error, StoreError) as error:
        half.unlink(missing_ok=True)
        said = translate(error) if isinstance(error, sqlite3.Error) else error
        reason = said.strerror if isinstance(said, OSError) else str(said)
        raise _not_made(path, reason or "") from error
    number = int(target.name.partition(" ")[0])
    made = Backup(path=target, made_at=now, why=why, size=target.stat().st_size, number=number)
    for old in to_thin(list_backups(path), now):
        if old.path != target:
            old.path.unlink(missing_ok=True)
    return made


def _not_made(path: Path, reason: str) -> StoreError:
    return StoreError(
        f"No copy of {path.name} could be kept: {reason.rstrip('.')}.",
        "Make room, or work in another folder; the campaign is as it was.",
    )


def to_thin(backups: list[Backup], now: datetime) -> list[Backup]:
    """Which copies need not be kept.

    Kept are the last ten, the oldest of each month, and those before a merge or an upgrade: of the
    last month, of a time that has not come yet, and the last three whatever the clock says.
    """
    newest = sorted(backups, key=_order, reverse=True)
    oldest: dict[tuple[int, int], Backup] = {}
    for backup in newest:
        oldest[backup.made_at.year, backup.made_at.month] = backup
    before = [b for b in newest if b.why in (BackupWhy.MERGE, BackupWhy.UPGRADE)]
    lately = [b for b in before if now - b.made_at < _MONTH]
    kept = {b.path for b in (*newest[:LAST_KEPT], *oldest.values(), *lately, *before[:3])}
    return [b for b in newest if b.path not in kept]


def read_schedule(path: Path) -> BackupSchedule:
    """How often a campaign is copied; daily where nothing was said."""
    try:
        text = (backup_folder(path) / _SCHEDULE).read_text(encoding="utf-8")
        said = read_record(BackupSchedule, text)
    except (OSError, InputError, UnicodeDecodeError):
        return BackupSchedule()
    return said if 0 <= said.every_days <= 366 else BackupSchedule()


def write_schedule(path: Path, schedule: BackupSchedule) -> None:
    """Say how often a campaign is copied.

    Raises
    ------
    StoreError
        If it cannot be kept.
    """
    folder = backup_folder(path)
    try:
        folder.mkdir(exist_ok=True)
        (folder / _SCHEDULE).write_text(write_record(schedule) + "\n", encoding="utf-8")
    except OSError as error:
        raise StoreError(f"The schedule could not be kept: {error.strerror}.") from error


def is_due(path: Path, now: datetime) -> bool:
    """Whether the schedule asks for a copy: none is as young as it says, and something changed."""
    schedule = read_schedule(path)
    if not schedule.every_days:
        return False
    newest = next(iter(list_backups(path)), None)
    if newest is None:
        return True
    if newest.made_at > now + _CLOCK_ODD:
        return True  # Its time has not come yet: no clock tells how old it is.
    files = (path, path.with_name(f"{path.name}-wal"))
    changed = max((f.stat().st_mtime for f in files if f.exists()), default=0.0)
    return (
        now - newest.made_at >= timedelta(days=schedule.every_days)
        and changed > newest.made_at.timestamp()
    )
