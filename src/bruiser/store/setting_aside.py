"""A campaign under another name, so that its own is free."""

from __future__ import annotations

from pathlib import Path

from bruiser.core.errors import Busy, StoreError
from bruiser.store.identity import note_path
from bruiser.store.opening import open_campaign


def set_aside(path: Path) -> Path:
    """Give a campaign another name beside it, so that its own is free; returns that name.

    Its journal is written back first, and no earlier file is overwritten.

    Raises
    ------
    Busy
        If a window has it open.
    OSError
        If it cannot be renamed.
    """
    number, target = 1, path.with_name(f"{path.stem}-earlier-1{path.suffix}")
    while target.exists():
        number += 1
        target = path.with_name(f"{path.stem}-earlier-{number}{path.suffix}")
    try:
        kept = open_campaign(path)
    except StoreError:
        # Whatever it is, it is kept as it is, with its journal.
        journal = path.with_name(f"{path.name}-wal")
        if journal.exists():
            journal.rename(target.with_name(f"{target.name}-wal"))
        path.with_name(f"{path.name}-shm").unlink(missing_ok=True)
        note_path(path).unlink(missing_ok=True)
        return path.rename(target)
    with kept:
        if kept.read_only:
            raise Busy(f"{path.name} is open in another window.", "Close it there first.")
    return path.rename(target)
