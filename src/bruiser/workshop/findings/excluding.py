"""Leaving a pull out of the results, with a reason; nothing of it vanishes."""

from __future__ import annotations

from dataclasses import dataclass

from bruiser.core.errors import InputError
from bruiser.core.records.records import Exclusion
from bruiser.store import readings
from bruiser.store.open_campaign import Connection
from bruiser.workshop.logbook.commands import Changes, Command
from bruiser.workshop.logbook.entries import Entry
from bruiser.workshop.logbook.workshop import Workshop


@dataclass(frozen=True)
class Exclude(Command):
    """Leave a pull out of the results, or take it in again."""

    made: Exclusion
    title: str = "leave the pull out"

    def apply(self, connection: Connection) -> Changes:
        readings.insert_exclusion(connection, self.made)
        return Changes(frozenset({"exclusion"}), (self.made.pull_id,))


def exclude_pull(workshop: Workshop, entry: Entry, reason: str, by: str = "") -> None:
    """Leave a pull out of the results.

    Raises
    ------
    InputError
        Without a reason, or if nothing was found of it that a result could rest on.
    ValueError
        If it is left out already.
    """
    if not reason.strip():
        raise InputError("A reason is missing.", "Say why this pull is left out.", where="reason")
    if entry.pull is None or entry.finding is None:
        raise InputError("This pull has no findings yet.", "Inspect it first.")
    if entry.excluded is not None:
        raise ValueError(f"{entry.specimen.code} is left out already")
    _write(workshop, entry.pull.id, True, reason.strip(), by, "leave the pull out")


def restore_pull(workshop: Workshop, entry: Entry, reason: str = "", by: str = "") -> None:
    """Take a pull that was left out into the results again; ``ValueError`` if it counts."""
    if entry.pull is None or entry.excluded is None:
        raise ValueError(f"{entry.specimen.code} is not left out")
    _write(workshop, entry.pull.id, False, reason.strip() or "taken in again", by, "take it in")


def _write(
    workshop: Workshop, pull_id: str, excluded: bool, reason: str, by: str, title: str
) -> None:
    made = Exclusion(
        id=workshop.new_id(),
        pull_id=pull_id,
        made_at=workshop.now(),
        excluded=excluded,
        reason=reason,
        by=by,
    )
    workshop.do(Exclude(made, title))
