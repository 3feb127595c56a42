"""What the database driver says, by its codes, as errors a person can act on."""

from __future__ import annotations

import sqlite3

from sqlalchemy.exc import DBAPIError

from bruiser.core.errors import Busy, Damaged, Full, ReadOnly, StoreError, Unreachable


def translate(error: DBAPIError | sqlite3.Error) -> StoreError:
    """An error of the store for what the driver raised.

    Notes
    -----
    Only the driver's result code decides (`sqlite3.Error.sqlite_errorcode`, its low byte is the
    kind): texts hold parameters, and so whatever a person typed.
    """
    raised = error.orig if isinstance(error, DBAPIError) else error
    if hasattr(raised, "sqlstate"):
        return _from_server(raised, str(getattr(raised, "sqlstate", None) or ""))
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


_CONNECTION_LOST = ("", "57P01", "57P02", "57P03", "57P05", "25P03")
"""The server went, or ended the connection; without a code it was never reached."""


def _from_server(raised: object, code: str) -> StoreError:
    """The same for a PostgreSQL server, by its SQLSTATE.

    Source: PostgreSQL's documentation, appendix A, error codes.
    """
    if code in _CONNECTION_LOST or code.startswith("08"):
        return Unreachable(
            "The server does not answer.", "What was stored before is safe; it is tried again."
        )
    if code == "42501":
        return ReadOnly(
            "Your role on the server may not do this.", "Whoever keeps the server gives roles."
        )
    if code == "55P03":
        return Busy("Another bench is writing for long.", "Try again in a moment.")
    if code == "57014":
        return Busy("The server took too long.", "Nothing was stored; try again.")
    if code.startswith("53"):
        return Full("The server has no room.", "Whoever keeps it has to make some.")
    said = getattr(getattr(raised, "diag", None), "message_primary", None) or "no reason given"
    return StoreError(f"The server refused this: {said}.", "Nothing was stored.")
