"""What the database driver says, by its codes, as errors a person can act on."""

from __future__ import annotations

import sqlite3

from sqlalchemy.exc import DBAPIError

from bruiser.core.errors import Busy, Damaged, Full, ReadOnly, StoreError


def translate(error: DBAPIError | sqlite3.Error) -> StoreError:
    """An error of the store for what the driver raised.

    Notes
    -----
    Only the driver's result code decides (`sqlite3.Error.sqlite_errorcode`, its low byte is the
    kind): texts hold parameters, and so whatever a person typed.
    """
    raised = error.orig if isinstance(error, DBAPIError) else error
    code = getattr(raised, "sqlite_errorcode", 0) & 0xFF
    match code:
        case sqlite3.SQLITE_FULL:
            return Full("The disk is full.", "Make room; what was stored before is safe.")
        case sqlite3.SQLITE_BUSY | sqlite3.SQLITE_LOCKED:
            return Busy("The campaign file is in use.", "Close the other program and try again.")
        case sqlite3.SQLITE_READONLY | sqlite3.SQLITE_PERM:
            return ReadOnly("The campaign file cannot be written.", "It may be write-protected.")
        case sqlite3.SQLITE_CORRUPT | sqlite3.SQLITE_NOTADB:
            return Damaged("The campaign file is damaged.", "It was left untouched.")
        case sqlite3.SQLITE_IOERR:
            return StoreError(
                "The disk refuses to read or write.", "Look at it; what was stored before is safe."
            )
        case sqlite3.SQLITE_CANTOPEN:
            return StoreError(
                "The campaign file cannot be opened.", "It may be gone, or its folder forbidden."
            )
    return StoreError(f"The campaign file refused this: {raised}.", "Nothing was stored.")
