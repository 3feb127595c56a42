"""``bruiser-cli check`` and ``backup``."""

from __future__ import annotations

import argparse
import json
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING

from bruiser.app.terminal import terminal_progress
from bruiser.core.errors import InputError, StoreError
from bruiser.store.backups import (
    WHY_WORDS,
    Backup,
    BackupWhy,
    backup_folder,
    clock_words,
    keep_backup,
    list_backups,
)

if TYPE_CHECKING:
    from bruiser.workshop.exchange.rescuing import CheckUp

_MOST_SAID = 30


def check_command(options: argparse.Namespace) -> tuple[str, int]:
    """What is wrong with a campaign, and the status: 1 where something is.

    Raises
    ------
    BruiserError
        If there is no such campaign, or what reads of it cannot be kept.
    """
    from bruiser.workshop.exchange.rescuing import check_campaign, rescue_campaign

    found = check_campaign(options.file, terminal_progress("traces"))
    said: dict[str, object] = {
        "format": "bruiser-check-1",
        "sound": found.sound,
        "unreadable": found.unreadable or None,
        "rows": [
            {"table": r.table, "row": r.row, "field": r.field, "why": r.why} for r in found.rows
        ],
    }
    lines = check_lines(options.file, found)
    if options.rescue is not None:
        rescued = rescue_campaign(options.file, options.rescue)
        kept = {table: n for table, n in rescued.kept.items() if n > 0}
        lost = {table: n for table, n in rescued.lost.items() if n > 0}
        said["rescued"] = {"file": str(options.rescue), "kept": kept, "lost": lost}
        lines.append(f"{options.rescue}: {sum(kept.values())} rows kept, {sum(lost.values())} lost")
        lines += [f"  lost of {table}: {n}" for table, n in lost.items()]
    text = json.dumps(said, ensure_ascii=False) if options.json else "\n".join(lines)
    return text, 0 if found.sound else 1


def check_lines(path: Path, found: CheckUp) -> list[str]:
    """What a check found, in words."""
    if found.sound:
        return [f"{path.name}: sound, every row and trace can be read"]
    lines = [f"{path.name}: {found.unreadable}"] if found.unreadable else []
    lines += [f"{path.name}: {row}" for row in found.rows[:_MOST_SAID]]
    if len(found.rows) > _MOST_SAID:
        lines.append(f"and {len(found.rows) - _MOST_SAID} more (--json has all)")
    lines.append("Everything else can be read. --rescue OUT puts that into a new file.")
    return lines


def _line(backup: Backup) -> str:
    size = f"{backup.size / 1e6:.1f} MB"
    return (
        f"{backup.path.name}  {backup.made_at:%Y-%m-%d %H:%M} UTC, {size}, {WHY_WORDS[backup.why]}"
    )


def backup_command(options: argparse.Namespace) -> str:
    """Keep a copy, list those there are, or put one back; returns what is printed.

    Raises
    ------
    BruiserError
        If there is no such campaign or copy, or it cannot be written.
    """
    if options.list:
        found = list_backups(options.file)
        if options.json:
            rows = [
                {
                    "name": b.path.name,
                    "made_at": b.made_at.isoformat(),
                    "why": b.why.value,
                    "bytes": b.size,
                }
                for b in found
            ]
            return json.dumps(rows, ensure_ascii=False)
        odd = clock_words(found, datetime.now(UTC))
        lines = [*map(_line, found), *([odd] if odd else [])]
        return "\n".join(lines) or f"No copy of {options.file.name} is kept."
    if options.restore:
        return _restore(options)
    from bruiser.store.headers import check_header

    check_header(options.file)
    made = keep_backup(options.file, BackupWhy.ASKED)
    if options.json:
        return json.dumps({"name": made.path.name, "folder": str(made.path.parent)})
    return _line(made)


def _restore(options: argparse.Namespace) -> str:
    from bruiser.store.opening import open_campaign
    from bruiser.store.restoring import put_back
    from bruiser.workshop.exchange.comparing_files import compare_files, difference_words

    named = backup_folder(options.file) / options.restore
    backup = named if named.is_file() else Path(options.restore)
    if not backup.is_file():
        raise InputError(f"There is no copy “{options.restore}”.", "--list names them.")
    try:
        with (
            open_campaign(options.file, read_only=True) as here,
            open_campaign(backup, read_only=True) as there,
        ):
            words = difference_words(compare_files(here, there))
    except StoreError as error:
        words = f"what differs cannot be said: {error.headline}"
    kept = put_back(options.file, backup, datetime.now(UTC))
    if options.json:
        said = {"restored": str(backup), "kept": str(kept), "differs": words}
        return json.dumps(said, ensure_ascii=False)
    said_of = f"{options.file.name} is as it was in {backup.name}; what was there is {kept}"
    return f"{said_of}\n{words}"
