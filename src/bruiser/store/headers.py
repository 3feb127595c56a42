"""What the first bytes of a file say, before anything opens it."""

from __future__ import annotations

from pathlib import Path

from bruiser.core.errors import Damaged, StoreError
from bruiser.store.schema import APPLICATION_ID

_HEADER = b"SQLite format 3\x00"


def looks_like_a_database(path: Path) -> bool:
    """Whether the file begins like a campaign; a file that cannot be read does not."""
    try:
        with path.open("rb") as file:
            return file.read(len(_HEADER)) == _HEADER
    except OSError:
        return False


def check_header(path: Path) -> None:
    """Refuse what is no campaign, reading 100 bytes and touching nothing.

    Raises
    ------
    StoreError
        If there is no such file.
    Damaged
        If it is no SQLite file, or not one of ours.
    """
    try:
        with path.open("rb") as file:
            head = file.read(100)
    except FileNotFoundError as error:
        raise StoreError(f"There is no file {path.name}.") from error
    except OSError as error:
        raise StoreError(f"{path.name} cannot be read: {error.strerror}.") from error
    if len(head) < 100 or not head.startswith(_HEADER):
        raise Damaged(f"{path.name} is not a campaign file.", "It was left untouched.")
    if int.from_bytes(head[68:72], "big") != APPLICATION_ID:
        raise Damaged(
            f"{path.name} is a database, but not a Bruiser campaign.", "It was left untouched."
        )
