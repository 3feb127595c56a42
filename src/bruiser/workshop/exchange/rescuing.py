"""A campaign looked through for damage, and what reads of it put into a new file."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from bruiser.core.errors import Damaged, StoreError, TooNew
from bruiser.core.progress import Progress, no_progress
from bruiser.store.checked_rows import SetAside
from bruiser.store.headers import check_header
from bruiser.store.opening import open_campaign
from bruiser.store.rescue import Rescued, drop_orphans, rescue
from bruiser.store.tables import delete_row
from bruiser.workshop.exchange.checking import look_at_progress, look_through

_MOST_ROUNDS = 20


@dataclass(frozen=True, kw_only=True)
class CheckUp:
    """What a look through a campaign found; sound where both are empty.

    Parameters
    ----------
    unreadable : str
        Why the file as a whole cannot be opened.
    rows : tuple of SetAside
        Rows that cannot be read.
    """

    unreadable: str = ""
    rows: tuple[SetAside, ...] = ()

    @property
    def sound(self) -> bool:
        """Whether nothing is wrong."""
        return not self.unreadable and not self.rows


def check_campaign(path: Path, progress: Progress = no_progress) -> CheckUp:
    """Look through a campaign without changing it.

    Raises
    ------
    StoreError
        If there is no such file, or it is of a newer version.
    Damaged
        If it is no campaign at all.
    """
    check_header(path)
    try:
        with open_campaign(path, read_only=True) as file, file.reading() as connection:
            rows = (*look_through(connection, progress), *look_at_progress(connection))
            return CheckUp(rows=rows)
    except TooNew:
        raise
    except StoreError as error:
        return CheckUp(unreadable=str(error))


def rescue_campaign(path: Path, target: Path) -> Rescued:
    """Put every row and trace that can be read into a new campaign, which is then sound.

    Raises
    ------
    StoreError
        As :func:`bruiser.store.rescue.rescue`.
    """
    made, found = rescue(path, target)
    try:
        with made:
            for _ in range(_MOST_ROUNDS):
                with made.writing() as connection:
                    wrong = look_through(connection)
                    for row in wrong:
                        gone = delete_row(connection, row.table, row.row)
                        found.lose(row.table, gone)
                        found.kept[row.table] = found.kept.get(row.table, 0) - gone
                    drop_orphans(connection, found)
                if not wrong:
                    return found
    except BaseException:
        target.unlink(missing_ok=True)
        raise
    target.unlink(missing_ok=True)
    raise Damaged(f"What reads of {path.name} does not fit together.", "Nothing was kept.")
