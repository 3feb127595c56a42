"""Pulls that waited on this machine, brought to the server.

Each is stored in one transaction on the server and then taken out of its file: one that was
delivered and not yet taken out is recognised by its ids, so that nothing comes twice.
"""

from __future__ import annotations

import logging
from dataclasses import dataclass
from pathlib import Path

from bruiser.core.errors import BruiserError, Refused, StoreError, Unreachable
from bruiser.store.deliveries import (
    code_of_waiting,
    deliver_pull,
    forget_pull,
    others_of,
    waiting_pulls,
)
from bruiser.store.opening import open_campaign
from bruiser.workshop.bench.pull_end import close_interrupted_pulls
from bruiser.workshop.logbook.workshop import Workshop

log = logging.getLogger(__name__)


@dataclass(frozen=True, kw_only=True)
class Delivered:
    """What came to the campaign, by the specimens' codes, and why others wait on.

    `twice` are specimens that another bench pulled as well; the later pull counts.
    """

    codes: tuple[str, ...] = ()
    left: tuple[str, ...] = ()
    twice: tuple[str, ...] = ()


def files_waiting(workshop: Workshop) -> list[Path]:
    """The files of this machine with pulls that wait for this campaign's server."""
    if not workshop.file.shared:
        return []
    base = workshop.file.path
    return sorted(base.parent.glob(f"{base.stem}.waiting-*.bruiser"))


def deliver_waiting(workshop: Workshop) -> Delivered:
    """Bring pulls that waited on this machine to the server; what fails waits on.

    A pull that was cut off while it waited is ended first, as interrupted.

    Raises
    ------
    Unreachable
        If the server went away again.
    """
    codes: list[str] = []
    left: list[str] = []
    twice: list[str] = []
    if workshop.read_only:
        return Delivered()
    for path in files_waiting(workshop):
        try:
            file = open_campaign(path)
        except StoreError as error:
            left.append(f"{path.name}: {error}")
            continue
        with file:
            if file.read_only:
                continue  # Another window is still recording into it.
            room = Workshop(file, now=workshop.now, new_id=workshop.new_id)
            close_interrupted_pulls(room)
            with file.reading() as connection:
                waiting = waiting_pulls(connection)
            for pull_id in waiting:
                try:
                    code, others = _deliver(room, workshop, pull_id)
                    codes.append(code)
                    twice += [code] * bool(others)
                except Unreachable:
                    raise
                except BruiserError as error:
                    left.append(str(error))
            with file.reading() as connection:
                empty = not waiting_pulls(connection)
        if empty:
            path.unlink(missing_ok=True)
    if codes:
        log.info("delivered: %s", ", ".join(codes))
    return Delivered(codes=tuple(codes), left=tuple(left), twice=tuple(twice))


def _deliver(room: Workshop, workshop: Workshop, pull_id: str) -> tuple[str, int]:
    """Deliver one; returns its specimen's code, and how many other pulls that has."""
    with room.file.reading() as source:
        code = code_of_waiting(source, pull_id)
        if workshop.campaign.id != room.campaign.id:
            raise Refused(f"The pull of {code} belongs to another campaign.", "It waits on.")
        with workshop.file.writing() as target:
            deliver_pull(source, target, pull_id)
            workshop.note(target, "deliver a pull that waited", (pull_id,))
            others = others_of(target, pull_id)
    with room.file.writing() as connection:
        forget_pull(connection, pull_id)
    return code, others
