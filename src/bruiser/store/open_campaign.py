"""A campaign that is open: what the workshop asks of a file, and alike of a server."""

from __future__ import annotations

import threading
from abc import ABC, abstractmethod
from collections.abc import Iterator
from contextlib import AbstractContextManager, ExitStack, contextmanager
from dataclasses import dataclass
from pathlib import Path
from types import TracebackType

from sqlalchemy.engine import Connection
from sqlalchemy.exc import DBAPIError

from bruiser.core.errors import ReadOnly, StoreError
from bruiser.core.progress import Progress, no_progress
from bruiser.store.checked_rows import OPTION, SetAside
from bruiser.store.driver_errors import translate

__all__ = ["Connection", "OpenCampaign", "Worker"]


@dataclass(frozen=True, kw_only=True)
class Worker:
    """Who works here, and from which bench or desk; both may be empty on a file."""

    who: str = ""
    bench: str = ""


class _OneState(threading.local):
    """What a thread goes on reading with, inside :meth:`OpenCampaign.in_one_state`."""

    def __init__(self) -> None:
        self.depth = self.readers = 0
        self.connection: Connection | None = None
        self._open = ExitStack()

    def keep(self, reading: AbstractContextManager[Connection]) -> Connection:
        """Begin to read one state."""
        self.connection = self._open.enter_context(reading)
        return self.connection

    def leave(self) -> None:
        """The next who reads begins anew; who reads still goes on with what was kept."""
        self.connection = None
        if not self.readers:
            self._open.close()


class OpenCampaign(ABC):
    """An open campaign.

    Attributes
    ----------
    path : Path
        The file; for a campaign on a server the place of its local copies, where no file stands.
    notes : list of str
        What a person should be told about how it was opened.
    set_aside : dict
        Rows that could not be read so far, by table and key.
    unchecked : bool
        Whether its pages have still to be looked through, which takes long where there are many.
    shared : bool
        Whether other benches may write into it at the same time.
    worker : Worker
        Who works here, and from which bench.
    token : str
        What tells this window from others that write into the same campaign.
    """

    path: Path
    notes: list[str]
    set_aside: dict[tuple[str, str], SetAside]
    unchecked: bool = False
    shared: bool = False
    worker: Worker = Worker()
    token: str = ""

    @property
    @abstractmethod
    def name(self) -> str:
        """What it is called on a screen."""

    @property
    @abstractmethod
    def place(self) -> str:
        """What opens it again: the file's path, or the server's address without a password."""

    def is_same(self, other: OpenCampaign) -> bool:
        """Whether the other is this campaign at this very place."""
        return self.place == other.place

    @property
    def read_only(self) -> bool:
        """Whether nothing can be written from here."""
        return bool(self.why_read_only)

    @property
    @abstractmethod
    def why_read_only(self) -> str:
        """Why nothing can be written, and what to do; empty where it can."""

    @property
    def why_no_release(self) -> str:
        """Why no guide can be checked or released from here; empty where it can."""
        return self.why_read_only

    def __init__(self) -> None:
        self._one_state = _OneState()

    @contextmanager
    def reading(self) -> Iterator[Connection]:
        """A connection that sees one state of the campaign."""
        kept = self._one_state
        try:
            if kept.depth:
                connection = kept.connection or kept.keep(self._reading_anew())
                kept.readers += 1
                try:
                    yield connection
                finally:
                    kept.readers -= 1
            else:
                with self._reading_anew() as connection:
                    yield connection
        except DBAPIError as error:
            self._read_anew()
            raise self._said(error) from error

    @contextmanager
    def _reading_anew(self) -> Iterator[Connection]:
        with self._begin_reading() as connection, connection.begin():
            yield connection

    @contextmanager
    def in_one_state(self) -> Iterator[None]:
        """All that this thread reads inside is read from one state, over one connection.

        Once this thread has stored something, what it reads is the state after that.
        """
        kept = self._one_state
        kept.depth += 1
        try:
            yield
        finally:
            kept.depth -= 1
            if not kept.depth:
                self._read_anew()

    def _read_anew(self) -> None:
        """Let go of the state kept; what was read of it was read, also where the server is gone."""
        try:
            self._one_state.leave()
        except DBAPIError as error:
            self._said(error)

    @contextmanager
    def writing(self) -> Iterator[Connection]:
        """A transaction: all or nothing.

        Raises
        ------
        ReadOnly
            If the campaign was opened for reading only.
        Gone
            If the file was moved, deleted or replaced; nothing is written then.
        Unreachable
            If the server does not answer.
        """
        if self.read_only:
            raise ReadOnly("This window shows the campaign read-only.", self.why_read_only)
        self._read_anew()
        try:
            with self._begin_writing() as connection:
                yield connection
        except DBAPIError as error:
            raise self._said(error) from error

    @property
    def online(self) -> bool:
        """Whether it can be reached; a file always can."""
        return True

    @contextmanager
    def claiming(self) -> Iterator[Connection]:
        """A short transaction beside those that write, for claims alone."""
        with self.writing() as connection:
            yield connection

    @property
    def _how(self) -> dict[str, object]:
        """What every connection is told of the rows that cannot be read."""
        return {OPTION: self.set_aside}

    def _said(self, error: DBAPIError) -> StoreError:
        return translate(error)

    @abstractmethod
    def _begin_reading(self) -> AbstractContextManager[Connection]:
        """A connection to read with, before its transaction."""

    @abstractmethod
    def _begin_writing(self) -> AbstractContextManager[Connection]:
        """A writing transaction, committed at its end."""

    def listen(self) -> None:  # noqa: B027  (a file is asked)
        """Begin to hear of what others store."""

    def may_have_changed(self) -> bool:
        """Whether it is worth asking for what others stored; says so once where it is told."""
        return True

    @abstractmethod
    def look(self) -> None:
        """Say whether it is still what was opened; raises where it is not."""

    @abstractmethod
    def look_through_pages(self, progress: Progress = no_progress) -> str:
        """Look through every page of it; what is wrong, or nothing."""

    @abstractmethod
    def copy_to(self, target: Path) -> None:
        """Write all that is open here into a new file.

        Raises
        ------
        StoreError
            If a file of that name exists, it cannot be written, or does not hold together.
        """

    def save_as(self, target: Path) -> None:
        """Write all that is open here into a new file; a file's window goes on there.

        Raises
        ------
        StoreError
            As :meth:`copy_to`.
        """
        self.copy_to(target)

    @abstractmethod
    def close(self) -> None:
        """Let go of it."""

    def __enter__(self) -> OpenCampaign:
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        value: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        self.close()
