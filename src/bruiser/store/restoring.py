"""An earlier copy of a campaign put back in its place."""

from __future__ import annotations

import os
import sqlite3
from contextlib import closing
from datetime import datetime
from pathlib import Path

from bruiser.core.errors import Busy, StoreError
from bruiser.store.backups import BackupWhy, keep_backup
from bruiser.store.driver_errors import translate
from bruiser.store.headers import check_header
from bruiser.store.opening import open_campaign
from bruiser.store.setting_aside import set_aside
from bruiser.store.upgrading import copy_database


def put_back(path: Path, backup: Path, now: datetime | None = None) -> Path:
    """Put a copy in the campaign's place; returns where that is kept as it was.

    Raises
    ------
    Busy
        If the campaign is open.
    StoreError
        If the copy is none, or it cannot be done; the campaign is then as it was.
    """
    check_header(backup)
    fresh = path.with_name(f".{path.name}.restoring")
    try:
        fresh.unlink(missing_ok=True)
        copy_database(backup, fresh)
        with closing(sqlite3.connect(fresh)) as copy:
            copy.execute("PRAGMA journal_mode = DELETE")
        kept = _make_way(path, now)
        os.replace(fresh, path)
    except (OSError, sqlite3.Error) as error:
        fresh.unlink(missing_ok=True)
        said = translate(error) if isinstance(error, sqlite3.Error) else error
        raise StoreError(f"The copy could not be put back: {said}.") from error
    except BaseException:
        fresh.unlink(missing_ok=True)
        raise
    return kept


def _make_way(path: Path, now: datetime | None) -> Path:
    """Keep what is there: as a copy where it can be read, else under another name."""
    if not path.exists():
        return path
    try:
        with open_campaign(path) as there:
            if there.read_only:
                raise Busy(f"{path.name} is open in another window.", "Close it there first.")
            kept = keep_backup(path, BackupWhy.RESTORE, there.copy_to, now)
    except Busy:
        raise
    except StoreError:
        return set_aside(path)
    journal = path.with_name(f"{path.name}-wal")
    if journal.exists() and journal.stat().st_size:
        raise Busy(f"{path.name} has a journal that was not written back.", "Open and close it.")
    return kept.path
