"""What the recorder hands over, into the campaign file; before the first travel it is held back."""

from __future__ import annotations

import threading
from collections.abc import Callable

from bruiser.core.errors import BruiserError
from bruiser.core.records.records import Pull
from bruiser.core.trace import Trace
from bruiser.store import pulls
from bruiser.workshop.logbook.commands import Changes
from bruiser.workshop.logbook.workshop import Workshop


def fault_words(fault: Exception) -> str:
    """A fault of the recording in words, of whatever kind."""
    if isinstance(fault, BruiserError):
        return str(fault)
    return f"The recording failed unexpectedly ({type(fault).__name__}: {fault})."


class PullStorage:
    """The sink of one pull's recorder.

    Parameters
    ----------
    workshop : Workshop
        Where it is stored.
    rate_now : callable
        The sample rate as far as the samples have told it.
    """

    def __init__(self, workshop: Workshop, rate_now: Callable[[], float]) -> None:
        self.pull_id: str | None = None
        self._workshop = workshop
        self._rate_now = rate_now
        self._stored_rate_hz = 0.0
        self._held_back: list[Trace] = []
        self._lock = threading.Lock()

    def begin(self, pull: Pull) -> None:
        """Store a pull with all that was held back, or nothing of it.

        Raises
        ------
        StoreError
            If it cannot be stored; what was held back still is.
        """
        with self._lock:
            with self._workshop.file.writing() as connection:
                pulls.insert_pull(connection, pull)
                for block in self._held_back:
                    pulls.append_samples(connection, pull.id, block)
            self._stored_rate_hz = pull.sample_rate_hz
            self.pull_id, self._held_back = pull.id, []
        self._workshop.announce(Changes(frozenset({"pull"}), (pull.id,)))

    def take(self, block: Trace) -> None:
        """Store a block for good; called from the recorder's saving thread."""
        with self._lock:
            if self.pull_id is None:
                self._held_back.append(block)
                return
        rate_hz = self._rate_now()
        with self._workshop.file.writing() as connection:
            pulls.append_samples(connection, self.pull_id, block)
            if rate_hz != self._stored_rate_hz:
                pulls.set_sample_rate(connection, self.pull_id, rate_hz)
        self._stored_rate_hz = rate_hz
