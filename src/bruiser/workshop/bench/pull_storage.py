"""What the recorder hands over, into the campaign file; before the first travel it is held back."""

from __future__ import annotations

import threading
from collections.abc import Callable

import numpy as np

from bruiser.core.errors import BruiserError, StoreError, Unreachable
from bruiser.core.records.records import Pull, Specimen
from bruiser.core.trace import Trace
from bruiser.rig.recorder import Recorder
from bruiser.store import pulls
from bruiser.workshop.bench.waiting_room import WaitingRoom
from bruiser.workshop.logbook.commands import Changes
from bruiser.workshop.logbook.workshop import Workshop


def fault_words(fault: Exception) -> str:
    """A fault of the recording in words, of whatever kind."""
    if isinstance(fault, BruiserError):
        return str(fault)
    return f"The recording failed unexpectedly ({type(fault).__name__}: {fault})."


def not_stored(recorder: Recorder) -> StoreError:
    """Why the last samples are not stored."""
    fault = recorder.save_fault
    if isinstance(fault, StoreError):
        return fault
    why = "" if fault is None else f" {fault_words(fault)}"
    return StoreError(
        f"{recorder.unsaved} samples are not stored.{why}",
        "They are kept in memory: try again, or save them elsewhere.",
    )


def travel_rate_m_s(recorder: Recorder, seen: int) -> float:
    """Travel rate over the last half second before a sample, in metre per second."""
    rate_hz = recorder.recorded(seen).rate_hz
    since = max(0, seen - max(2, int(0.5 * rate_hz)))
    travel = recorder.recorded(since).travel_m
    travel = travel[np.isfinite(travel)]
    if len(travel) < 2:
        return 0.0
    return float(travel[-1] - travel[0]) * rate_hz / (len(travel) - 1)


class PullStorage:
    """The sink of one pull's recorder.

    While the server of a campaign is away everything goes into a file of this machine instead,
    with all samples from the first on; what came before is brought together when it is delivered.

    Parameters
    ----------
    workshop : Workshop
        Where it is stored.
    specimen : Specimen
        What is pulled.
    rate_now : callable
        The sample rate as far as the samples have told it.
    samples_now : callable
        Every sample so far.
    """

    def __init__(
        self,
        workshop: Workshop,
        specimen: Specimen,
        rate_now: Callable[[], float],
        samples_now: Callable[[], Trace],
    ) -> None:
        self.pull_id: str | None = None
        self._workshop = workshop
        self._specimen = specimen
        self._rate_now = rate_now
        self._samples_now = samples_now
        self._stored_rate_hz = 0.0
        self._held_back: list[Trace] = []
        self._lock = threading.Lock()
        self._aside = threading.RLock()
        self._pull: Pull | None = None
        self._room: WaitingRoom | None = None

    @property
    def waits(self) -> bool:
        """Whether the pull is kept on this machine, to be delivered later."""
        return self._room is not None

    def begin(self, pull: Pull) -> None:
        """Store a pull with all that was held back, or nothing of it.

        Raises
        ------
        StoreError
            If it cannot be stored; what was held back still is.
        """
        with self._lock:
            self._pull = pull
            try:
                with self._workshop.file.writing() as connection:
                    pulls.insert_pull(connection, pull)
                    for block in self._held_back:
                        pulls.append_samples(connection, pull.id, block)
                    about = (pull.id, pull.specimen_id)
                    self._workshop.note(connection, "begin a pull", about)
            except Unreachable:
                last = self._held_back[-1] if self._held_back else None
                self._go_aside(0 if last is None else last.first + len(last))
            self._stored_rate_hz = pull.sample_rate_hz
            self.pull_id, self._held_back = pull.id, []
        if not self.waits:
            self._workshop.announce(Changes(frozenset({"pull"}), (pull.id,)))

    def take(self, block: Trace) -> None:
        """Store a block for good; called from the recorder's saving thread."""
        with self._lock:
            if self.pull_id is None:
                self._held_back.append(block)
                return
        if self._room is None:
            try:
                self._store(self._workshop, block)
            except Unreachable:
                self._go_aside(block.first + len(block))
        else:
            self._store(self._room.open(), block)

    def _store(self, shop: Workshop, block: Trace) -> None:
        rate_hz = self._rate_now()
        assert self.pull_id is not None
        with shop.file.writing() as connection:
            pulls.append_samples(connection, self.pull_id, block)
            if rate_hz != self._stored_rate_hz:
                pulls.set_sample_rate(connection, self.pull_id, rate_hz)
        self._stored_rate_hz = rate_hz

    def run(self, deed: Callable[[Workshop], None]) -> None:
        """Store something beside the samples where they are stored.

        Parameters
        ----------
        deed : callable
            Given the campaign; runs a second time, on the file here, where the server went away.
        """
        if self._room is None:
            try:
                deed(self._workshop)
            except Unreachable:
                self._go_aside()
            else:
                return
        assert self._room is not None
        deed(self._room.open())

    def _go_aside(self, until: int | None = None) -> None:
        """Keep the pull on this machine from now on, with its samples up to one."""
        with self._aside:
            if self._room is not None or self._pull is None:
                return
            room = WaitingRoom(self._workshop)
            samples = self._samples_now()
            room.begin(self._pull, self._specimen, samples.up_to(until))
            self._room = room

    def close(self) -> None:
        """The pull is over: what waits may be delivered."""
        if self._room is not None:
            self._room.close()
