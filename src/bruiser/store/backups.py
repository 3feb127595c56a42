"""Copies kept of a campaign: made, listed, thinned out, put back.

They stand in a folder beside the file, each whole and openable by itself. The last ten are
kept, and the oldest of each month.
"""

from __future__ import annotations

import re
import sqlite3
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from enum import StrEnum
from pathlib import Path

from bruiser.core.errors import InputError, StoreError
from bruiser.core.json_records import read_record, write_record

LAST_KEPT = 10
_NAME = re.compile(r"(\d{4}-\d\d-\d\dT\d\d-\d\d-\d\d)(?:-(\d+))? ([a-z-]+)\.bruiser")
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
    """A copy that is kept."""

    path: Path
    made_at: datetime
    why: BackupWhy
    size: int


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
            made = datetime.strptime(named[1], _MOMENT).replace(tzinfo=UTC)
            why = BackupWhy(named[3])
        except ValueError:
            continue
        found.append(Backup(path=file, made_at=made, why=why, size=file.stat().st_size))
    return sorted(found, key=lambda b: (b.made_at, b.path.name), reverse=True)


def _free_name(folder: Path, why: BackupWhy, now: datetime) -> Path:
    moment = now.astimezone(UTC).strftime(_MOMENT)
    target, number = folder / f"{moment} {why}.bruiser", 1
    while target.exists():
        number += 1
        target = folder / f"{moment}-{number} {why}.bruiser"
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
    target = _free_name(folder, why, now)
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
    made = Backup(path=target, made_at=now, why=why, size=target.stat().st_size)
    for old in to_thin(list_backups(path)):
        old.path.unlink(missing_ok=True)
    return made


def _not_made(path: Path, reason: str) -> StoreError:
    return StoreError(
        f"No copy of {path.name} could be kept: {reason.rstrip('.')}.",
        "Make room, or work in another folder; the campaign is as it was.",
    )


def to_thin(backups: list[Backup]) -> list[Backup]:
    """Which copies need not be kept: neither of the last ten nor the oldest of its month."""
    newest = sorted(backups, key=lambda b: b.made_at, reverse=True)
    oldest: dict[tuple[int, int], Backup] = {}
    for backup in newest:
        oldest[backup.made_at.year, backup.made_at.month] = backup
    kept = {b.path for b in (*newest[:LAST_KEPT], *oldest.values())}
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
    files = (path, path.with_name(f"{path.name}-wal"))
    changed = max((f.stat().st_mtime for f in files if f.exists()), default=0.0)
    return (
        now - newest.made_at >= timedelta(days=schedule.every_days)
        and changed > newest.made_at.timestamp()
    )
