"""The open campaign: runs commands, remembers them for undo, tells who listens what changed."""

from __future__ import annotations

import logging
import uuid
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path

from bruiser.core.trace import TraceResult
from bruiser.core.units import UnitChoice
from bruiser.store.campaign_file import CampaignFile, create_campaign, open_campaign
from bruiser.store.campaigns import CampaignRow, insert_campaign, load_campaign
from bruiser.workshop.commands import Changes, Command

log = logging.getLogger(__name__)

Listener = Callable[[Changes], None]


def utc_now() -> str:
    """The time as stored: ISO 8601 in UTC, to the millisecond."""
    return datetime.now(UTC).isoformat(timespec="milliseconds")


def random_id() -> str:
    """A new row id."""
    return str(uuid.uuid4())


class Workshop:
    """One open campaign.

    Parameters
    ----------
    file : CampaignFile
        The open file.
    now, new_id : callable
        Clock and id source; handed in so that a seeded build repeats exactly.

    `analyses_read` keeps analyses by their id: they never change, and are long to read.
    """

    def __init__(
        self,
        file: CampaignFile,
        *,
        now: Callable[[], str] = utc_now,
        new_id: Callable[[], str] = random_id,
    ) -> None:
        self.file = file
        self.now = now
        self.new_id = new_id
        self.analyses_read: dict[str, TraceResult] = {}
        self._listeners: list[Listener] = []
        self._done: list[Command] = []
        self._undone: list[Command] = []
        with file.reading() as connection:
            self.campaign = load_campaign(connection)

    @property
    def units(self) -> UnitChoice:
        """The units the campaign shows."""
        return UnitChoice(self.campaign.force_unit, self.campaign.length_unit)

    @property
    def read_only(self) -> bool:
        """Whether nothing can be stored from here."""
        return self.file.read_only

    def listen(self, listener: Listener) -> None:
        """Call `listener` with the changes after every command."""
        self._listeners.append(listener)

    def do(self, command: Command) -> Changes:
        """Run a command in one transaction and remember how to take it back.

        Raises
        ------
        StoreError
            If it could not be stored; nothing was.
        """
        changes = self._run(command)
        if command.inverse() is not None:
            self._done.append(command)
            self._undone.clear()
        return changes

    @property
    def undo_title(self) -> str | None:
        """What an undo would take back."""
        return self._done[-1].title if self._done else None

    @property
    def redo_title(self) -> str | None:
        """What a redo would do again."""
        return self._undone[-1].title if self._undone else None

    def undo(self) -> Changes | None:
        """Take the last command back; None when there is none."""
        if not self._done:
            return None
        inverse = self._done[-1].inverse()
        if inverse is None:
            raise ValueError("a command without inverse was remembered")
        changes = self._run(inverse)
        self._undone.append(self._done.pop())
        return changes

    def redo(self) -> Changes | None:
        """Do the last undone command again; None when there is none."""
        if not self._undone:
            return None
        command = self._undone[-1].renewed(self.new_id())
        changes = self._run(command)
        self._undone.pop()
        self._done.append(command)
        return changes

    def announce(self, changes: Changes) -> None:
        """Tell the listeners about something stored outside a command (a recorded pull)."""
        for listener in list(self._listeners):
            listener(changes)

    def close(self) -> None:
        """Release the file."""
        self.file.close()

    def _run(self, command: Command) -> Changes:
        with self.file.writing() as connection:
            changes = command.apply(connection)
            campaign = load_campaign(connection)
        self.campaign = campaign
        log.info("%s: %s", command.title, ", ".join(changes.ids))
        self.announce(changes)
        return changes


def open_workshop(path: Path, *, read_only: bool = False) -> Workshop:
    """Open a campaign file for work.

    Raises
    ------
    StoreError
        As :func:`bruiser.store.campaign_file.open_campaign`.
    """
    file = open_campaign(path, read_only=read_only)
    try:
        return Workshop(file)
    except BaseException:
        file.close()
        raise


def create_workshop(
    path: Path,
    row: CampaignRow,
    *,
    now: Callable[[], str] = utc_now,
    new_id: Callable[[], str] = random_id,
) -> Workshop:
    """Make a new campaign file and open it."""
    file = create_campaign(path)
    with file.writing() as connection:
        insert_campaign(connection, row)
    return Workshop(file, now=now, new_id=new_id)
