"""Where a campaign may be: a file, or an address on a server; opened and made alike."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from platformdirs import user_state_path
from sqlalchemy.engine import Connection

from bruiser.store.open_campaign import OpenCampaign, Worker
from bruiser.store.opening import create_campaign, open_campaign
from bruiser.store.server.address import ServerAddress, is_address, read_address

Place = Path | ServerAddress


def read_place(text: str) -> Place:
    """A place from what was typed or noted.

    Raises
    ------
    InputError
        If it is meant as an address and is none.
    """
    return read_address(text) if is_address(text) else Path(text)


def servers_folder() -> Path:
    """Where this machine keeps copies of campaigns on servers, and what waits for one."""
    return user_state_path("bruiser") / "servers"


def open_place(
    place: Place,
    *,
    read_only: bool = False,
    worker: Worker | None = None,
) -> OpenCampaign:
    """Open a campaign, wherever it is.

    Raises
    ------
    StoreError
        As :func:`bruiser.store.opening.open_campaign` and
        :func:`bruiser.store.server.opening.open_server`.
    """
    if isinstance(place, ServerAddress):
        # Loaded here: who works on a file waits for no driver of a server.
        from bruiser.store.server.opening import open_server

        return open_server(place, servers_folder(), worker, read_only=read_only)
    opened = open_campaign(place, read_only=read_only)
    opened.worker = worker or Worker()
    return opened


def create_at(place: Place, fill: Callable[[Connection], None] | OpenCampaign) -> None:
    """Make a campaign, and store its first rows, or all of another one.

    Raises
    ------
    StoreError
        If there is one already, or none can be made.
    """
    if isinstance(place, ServerAddress):
        from bruiser.store.server.opening import create_on_server

        create_on_server(place, fill)
        return
    if isinstance(fill, OpenCampaign):
        fill.copy_to(place)
        return
    with create_campaign(place) as made, made.writing() as connection:
        fill(connection)
