"""Making a campaign on a server, opening one, and bringing its tables up to date."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import sqlalchemy as sa
from sqlalchemy.engine import Connection, Engine
from sqlalchemy.exc import DBAPIError

from bruiser.core.errors import NoCampaign, StoreError
from bruiser.store.driver_errors import translate
from bruiser.store.open_campaign import OpenCampaign, Worker
from bruiser.store.progress import settle
from bruiser.store.ranges import guard
from bruiser.store.server.address import ServerAddress
from bruiser.store.server.campaign_server import WRITE_KEY, CampaignServer, Rights
from bruiser.store.server.connecting import Connect, connector, make_server_engine, watched
from bruiser.store.server.roles import give_rights
from bruiser.store.upgrading import is_older, revision_of, upgrade_on
from bruiser.store.whole_copies import copy_campaign

_BEFORE_SERVERS = "0011_part_the_surgeons_knots"
_OLDEST_SERVER = 140_000
_LOCK = sa.text("SELECT pg_advisory_xact_lock(:key)")
_MAY = sa.text(
    "SELECT has_table_privilege('finding', 'INSERT'), has_table_privilege('guide_step', 'INSERT')"
)
_MAY_MAKE = sa.text("SELECT has_schema_privilege('public', 'CREATE')")


def open_server(
    address: ServerAddress,
    folder: Path,
    worker: Worker | None = None,
    *,
    read_only: bool = False,
) -> CampaignServer:
    """Open a campaign on a server; an older one is upgraded by whoever may.

    Parameters
    ----------
    folder : Path
        Where local copies of campaigns on servers are kept.

    Raises
    ------
    PasswordWanted, Unreachable
        If the server wants a password, or does not answer.
    NoCampaign
        If the database holds none yet.
    TooNew
        If it was made by a newer program.
    """
    worker = worker or Worker()
    connect = connector(address, worker.bench)
    with _engine(connect) as engine:
        with engine.connect() as connection:
            _check_server(connection)
            revision = revision_of(connection)
        if revision is None:
            raise NoCampaign(
                f"{address.name} holds no campaign yet.", "Begin one there, or put a file there."
            )
        if is_older(address.name, revision):
            _upgrade(engine, address)
        with engine.connect() as connection:
            writes, releases = connection.execute(_MAY).one()
    return CampaignServer(
        address,
        connect,
        Rights(writes=writes, releases=releases),
        worker,
        _path(folder, address),
        read_only=read_only,
    )


def create_on_server(
    address: ServerAddress,
    fill: Callable[[Connection], None] | OpenCampaign,
) -> None:
    """Make a campaign in an empty database.

    Parameters
    ----------
    fill : callable or OpenCampaign
        Stores the campaign's own row; or the campaign that is put there whole.

    Raises
    ------
    StoreError
        If the database holds tables already, or may not be written.
    Busy
        If another campaign is being put there.

    Notes
    -----
    All of it is one transaction under the writers' lock: whatever fails, what was there before is
    there after it, and nothing else.
    """
    connect = watched(connector(address, ""))
    with _engine(connect) as engine:
        guard(engine)
        with engine.connect() as connection, connection.begin():
            _check_server(connection)
            # From here on nobody else begins one here: who waits finds a campaign, or nothing.
            connection.execute(_LOCK, {"key": WRITE_KEY})
            if not connection.execute(_MAY_MAKE).scalar():
                raise StoreError(
                    f"{address.name} lets its owner alone begin a campaign.",
                    "Whoever keeps the server begins it, and gives you a role.",
                )
            if sa.inspect(connection).get_table_names():
                raise StoreError(
                    f"{address.name} is not empty.",
                    "Take another database, or open what is there, or merge the two.",
                )
            _begin_at(connection)
            upgrade_on(connection)
            give_rights(connection)
            if isinstance(fill, OpenCampaign):
                with fill.reading() as theirs:
                    copy_campaign(theirs, connection)
            else:
                fill(connection)
            settle(connection)


def _path(folder: Path, address: ServerAddress) -> Path:
    folder.mkdir(parents=True, exist_ok=True)
    return folder / address.file_name


@contextmanager
def _engine(connect: Connect) -> Iterator[Engine]:
    """An engine for the while; what the driver raises is said in words."""
    engine = make_server_engine(connect, 1)
    try:
        yield engine
    except DBAPIError as error:
        raise translate(error) from error
    finally:
        engine.dispose()


def _check_server(connection: Connection) -> None:
    number = int(connection.exec_driver_sql("SHOW server_version_num").scalar_one())
    if number < _OLDEST_SERVER:
        raise StoreError(
            f"The server is PostgreSQL {number // 10_000}.", "Campaigns need 14 or later."
        )


def _upgrade(engine: Engine, address: ServerAddress) -> None:
    """Bring the tables up to date, one program at a time, while nobody writes.

    Raises
    ------
    StoreError
        If this user may not.
    """
    with engine.connect() as connection, connection.begin():
        connection.execute(_LOCK, {"key": WRITE_KEY})
        if not is_older(address.name, revision_of(connection)):
            return  # Another program was faster.
        if not connection.execute(_MAY_MAKE).scalar():
            raise StoreError(
                f"{address.name} is of an older version, and yours is no role to upgrade it.",
                "Its owner opens it once with this program.",
            )
        upgrade_on(connection)
        give_rights(connection)


def _begin_at(connection: Connection) -> None:
    """Say that the steps before campaigns came to servers are behind."""
    from alembic.migration import MigrationContext
    from alembic.script import ScriptDirectory

    from bruiser.store.upgrading import alembic_config

    script = ScriptDirectory.from_config(alembic_config())
    MigrationContext.configure(connection).stamp(script, _BEFORE_SERVERS)
