"""The open campaign: runs commands, remembers them for undo, tells who listens what changed."""

from __future__ import annotations

import logging
import uuid
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime

from bruiser.core.errors import Refused
from bruiser.core.units import UnitChoice
from bruiser.store.acts import note_act
from bruiser.store.campaigns import CampaignRow, insert_campaign, load_campaign
from bruiser.store.claims import Claims
from bruiser.store.open_campaign import Connection, OpenCampaign, Worker
from bruiser.store.places import Place, create_at, open_place
from bruiser.store.undo_log import Logged, logging_changes, put_back
from bruiser.workshop.logbook.commands import Changes, Command
from bruiser.workshop.logbook.live import LogbookReader

log_book = logging.getLogger(__name__)

Listener = Callable[[Changes], None]


def utc_now() -> str:
    """The time as stored: ISO 8601 in UTC, to the millisecond."""
    return datetime.now(UTC).isoformat(timespec="milliseconds")


def random_id() -> str:
    """A new row id."""
    return str(uuid.uuid4())


@dataclass(frozen=True)
class DoneStep:
    """A command that was run: the rows it was about, and the way back."""

    command: Command
    ids: tuple[str, ...]
    log: tuple[Logged, ...]


class Workshop:
    """One open campaign.

    Parameters
    ----------
    file : OpenCampaign
        The open file.
    now, new_id : callable
        Clock and id source; handed in so that a seeded build repeats exactly.
    stamp : callable, optional
        The clock of acts, where telling that time must not move it on.

    Notes
    -----
    `reader` answers what is asked of the logbook, and keeps what it read; `claims` says what other
    benches have in hand.
    `on_not_shown` is handed what a listener raised after something was stored.
    """

    def __init__(
        self,
        file: OpenCampaign,
        *,
        now: Callable[[], str] = utc_now,
        new_id: Callable[[], str] = random_id,
        stamp: Callable[[], str] | None = None,
    ) -> None:
        self.file = file
        self.now = now
        self.new_id = new_id
        self._stamp = stamp or now
        self._listeners: list[Listener] = []
        self.on_not_shown: Callable[[Exception], None] | None = None
        self._done: list[DoneStep] = []
        self._undone: list[DoneStep] = []
        with file.reading() as connection:
            self.campaign = load_campaign(connection)
        self.claims = Claims(file)
        self.reader = LogbookReader(file.reading, lambda: self.campaign.trade)

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
        with self.file.writing() as connection:
            with logging_changes(connection) as log:
                changes = command.apply(connection)
            self.note(connection, command.title, changes.ids)
            campaign = self._campaign_after(connection, log)
        self.campaign = campaign
        self._undone.clear()
        if command.undoable:
            self._done.append(DoneStep(command, changes.ids, tuple(log)))
        log_book.info("%s: %s", command.title, ", ".join(changes.ids))
        self._tell(changes)
        return changes

    @property
    def undo_title(self) -> str | None:
        """What an undo would take back."""
        return self._done[-1].command.title if self._done else None

    @property
    def redo_title(self) -> str | None:
        """What a redo would do again."""
        return self._undone[-1].command.title if self._undone else None

    @property
    def undo_titles(self) -> tuple[str, ...]:
        """What can be undone, the last first."""
        return tuple(step.command.title for step in reversed(self._done))

    @property
    def redo_titles(self) -> tuple[str, ...]:
        """What can be done again, the next first."""
        return tuple(step.command.title for step in reversed(self._undone))

    def undo(self) -> Changes | None:
        """Take the last command back; None when there is none.

        Raises
        ------
        Refused
            If something stored since depends on it. It then stands, and the next undo takes back
            the one before it.
        StoreError
            If it could not be stored; nothing was.
        """
        if not self._done:
            return None
        try:
            changes, step = self._turn(self._done[-1], back=True)
        except Refused:
            self._done.pop()
            raise
        self._done.pop()
        self._undone.append(step)
        self._tell(changes)
        return changes

    def redo(self) -> Changes | None:
        """Do the last undone command again; None when there is none.

        Raises
        ------
        Refused, StoreError
            As :meth:`undo`.
        """
        if not self._undone:
            return None
        try:
            changes, step = self._turn(self._undone[-1], back=False)
        except Refused:
            self._undone.clear()
            raise
        self._undone.pop()
        self._done.append(step)
        self._tell(changes)
        return changes

    def _turn(self, step: DoneStep, *, back: bool) -> tuple[Changes, DoneStep]:
        """Run a step's log; returns what it touched, and the step with the log that turns it."""
        with self.file.writing() as connection:
            if back:
                step.command.refuse_undo(connection)
            with logging_changes(connection) as log:
                put_back(connection, step.log, self.now())
            deed = f"{'take back' if back else 'do again'}: {step.command.title}"
            self.note(connection, deed, step.ids)
            campaign = self._campaign_after(connection, log)
        self.campaign = campaign
        log_book.info("%s %s", "undone:" if back else "done again:", step.command.title)
        changes = Changes(frozenset(entry.table for entry in step.log), step.ids)
        return changes, replace(step, log=tuple(log))

    def _campaign_after(self, connection: Connection, log: Sequence[Logged]) -> CampaignRow:
        changed = any(entry.table == "campaign" for entry in log)
        return load_campaign(connection) if changed else self.campaign

    def note(self, connection: Connection, deed: str, about: tuple[str, ...]) -> str:
        """Keep who did something, in the transaction that does it; returns the act's id."""
        return note_act(connection, self.file.worker, self._stamp(), deed, about)

    def announce(self, changes: Changes) -> None:
        """Tell the listeners about something stored outside a command (a recorded pull)."""
        self._undone.clear()
        self._tell(changes)

    def catch_up(self) -> bool:
        """Take up what others stored or have in hand now; says whether there was anything."""
        if not self.file.may_have_changed():
            return False
        others = self.claims.look()
        if not self.reader.is_behind:
            return others
        with self.file.reading() as connection:
            self.campaign = load_campaign(connection)
        return True

    def _tell(self, changes: Changes) -> None:
        """Tell the listeners; what is stored is stored, whether or not they can show it."""
        for listener in list(self._listeners):
            try:
                listener(changes)
            except Exception as error:
                log_book.exception("stored, but not shown")
                if self.on_not_shown is None:
                    raise
                self.on_not_shown(error)

    def close(self) -> None:
        """Release the file, and what is in hand here."""
        self.claims.release()
        self.file.close()


def open_workshop(
    place: Place,
    *,
    read_only: bool = False,
    worker: Worker | None = None,
    now: Callable[[], str] = utc_now,
    new_id: Callable[[], str] = random_id,
) -> Workshop:
    """Open a campaign for work, in a file or on a server.

    Raises
    ------
    StoreError
        As :func:`bruiser.store.places.open_place`.
    """
    opened = open_place(place, read_only=read_only, worker=worker)
    try:
        return Workshop(opened, now=now, new_id=new_id)
    except BaseException:
        opened.close()
        raise


def create_workshop(
    place: Place,
    row: CampaignRow,
    *,
    now: Callable[[], str] = utc_now,
    new_id: Callable[[], str] = random_id,
    stamp: Callable[[], str] | None = None,
) -> Workshop:
    """Make a new campaign and open it."""
    create_at(place, lambda connection: insert_campaign(connection, row))
    opened = open_place(place)
    return Workshop(opened, now=now, new_id=new_id, stamp=stamp)
