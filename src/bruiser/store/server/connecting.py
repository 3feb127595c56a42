"""Connections to a server, and the engine over them."""

from __future__ import annotations

from collections.abc import Callable

import psycopg
import sqlalchemy as sa
from sqlalchemy import BLOB, INTEGER, REAL
from sqlalchemy.engine import Engine
from sqlalchemy.ext.compiler import compiles

from bruiser.core.errors import PasswordWanted, StoreError, Unreachable
from bruiser.store.server.address import DRIVER, ServerAddress
from bruiser.store.server.passwords import kept_password


@compiles(REAL, "postgresql")
def _real(_kind: object, _compiler: object, **_how: object) -> str:
    """Numbers of a file are of eight bytes; what the server calls real has four."""
    return "DOUBLE PRECISION"


@compiles(INTEGER, "postgresql")
def _integer(_kind: object, _compiler: object, **_how: object) -> str:
    return "BIGINT"


@compiles(BLOB, "postgresql")
def _bytes(_kind: object, _compiler: object, **_how: object) -> str:
    return "BYTEA"


Connect = Callable[[], "psycopg.Connection[tuple[object, ...]]"]

_PATIENCE_S = 5
_SESSION = (
    "SET lock_timeout = '10s'",
    "SET idle_in_transaction_session_timeout = '60s'",
    "SET statement_timeout = '120s'",
    "SET timezone = 'UTC'",
    "SET search_path = public, pg_temp",
)
_WATCHING = (
    "CREATE TEMP TABLE touched (tbl text, id text, PRIMARY KEY (tbl, id))",
    "CREATE TEMP TABLE undo_log (n bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY, "
    "tbl text, deed text, place bigint, sql text)",
    "CREATE TEMP TABLE undo_on (yes integer)",
)


def connector(address: ServerAddress, bench: str) -> Connect:
    """What opens a connection.

    Parameters
    ----------
    bench : str
        Shown to whoever looks after the server.

    Notes
    -----
    The password is the one said in this run, the keyring's, or what the driver knows
    (``~/.pgpass``). Raises :class:`PasswordWanted`, :class:`Unreachable` or :class:`StoreError`.
    """
    said = kept_password(address)
    options: dict[str, str | int | None] = {
        "connect_timeout": _PATIENCE_S,
        "keepalives_idle": _PATIENCE_S,
        "keepalives_interval": 2,
        "keepalives_count": 3,
        "tcp_user_timeout": 1000 * _PATIENCE_S,
        "application_name": f"Bruiser {bench}".strip()[:60],
        **dict(address.options),
    }
    if address.host:
        options["host"] = address.host
    if address.port:
        options["port"] = address.port
    if address.user:
        options["user"] = address.user

    def connect() -> psycopg.Connection[tuple[object, ...]]:
        try:
            made = psycopg.connect(dbname=address.database, password=said, **options)  # type: ignore[arg-type]
        except psycopg.OperationalError as error:
            raise _not_connected(error, address, said is not None) from None
        except psycopg.ProgrammingError:
            raise StoreError(
                f"The address of {address.name} says something the driver does not know."
            ) from None
        return _told(made, _SESSION)

    return connect


def knock(address: ServerAddress) -> None:
    """See whether a server answers and lets this user in; that may take some seconds.

    Raises
    ------
    PasswordWanted, Unreachable, StoreError
        As :func:`connector`.
    """
    connector(address, "")().close()


def _told(
    made: psycopg.Connection[tuple[object, ...]], statements: tuple[str, ...]
) -> psycopg.Connection[tuple[object, ...]]:
    """A connection after some statements; closed where one of them fails."""
    try:
        for statement in statements:
            made.execute(statement)
        made.commit()
    except BaseException:
        made.close()
        raise
    return made


def watched(connect: Connect) -> Connect:
    """Connections of one who writes: what is changed is noted in tables of their own."""

    def connect_watched() -> psycopg.Connection[tuple[object, ...]]:
        return _told(connect(), _WATCHING)

    return connect_watched


def make_server_engine(connect: Connect, size: int = 5) -> Engine:
    """An engine whose connections are looked at before they are used again."""
    return sa.create_engine(
        f"{DRIVER}://", creator=connect, pool_pre_ping=True, pool_size=size, max_overflow=10
    )


def _not_connected(
    error: psycopg.OperationalError, address: ServerAddress, said: bool
) -> StoreError:
    """Why no connection came about. What the driver says may hold what was typed: it is left out.

    Notes
    -----
    A refused connection has no SQLSTATE; libpq says whether a password was wanted or used, and its
    words for a missing database do not depend on the language of this machine where the server's
    are English.
    """
    line = error.pgconn
    if line is not None and (line.needs_password or line.used_password):
        return PasswordWanted(
            f"{address.name} does not take this password."
            if said
            else f"{address.name} wants a password."
        )
    words = str(error)
    if "does not exist" in words and "database" in words:
        return StoreError(
            f"There is no database “{address.database}” on this server.",
            "Whoever keeps the server makes one: createdb.",
        )
    if "does not exist" in words or "pg_hba.conf" in words or "authentication failed" in words:
        return StoreError(
            f"{address.name} does not let “{address.user or 'this user'}” in.",
            "Whoever keeps the server lets people in.",
        )
    return Unreachable(
        f"{address.name} cannot be reached.", "Look at the address, the network and the server."
    )
