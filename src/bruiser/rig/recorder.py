"""Takes samples from an instrument and hands them to a sink at least every quarter second."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable

import numpy as np

from bruiser.core.errors import BruiserError
from bruiser.rig.instrument import Floats, Instrument, SampleBlock

COMMIT_EVERY_S = 0.15

Sink = Callable[[SampleBlock], None]


class Recorder:
    """Records one pull.

    Parameters
    ----------
    instrument : Instrument
        Where samples come from.
    sink : callable
        Stores a block for good; called from the recording thread.

    Notes
    -----
    All samples stay in memory until the recorder is dropped. When the sink refuses (a full disk),
    the instrument is stopped, `fault` holds the error, and the unsaved samples are kept.
    """

    def __init__(self, instrument: Instrument, sink: Sink) -> None:
        self._instrument = instrument
        self._sink = sink
        self._load = np.empty(4096)
        self._travel = np.empty(4096)
        self._count = 0
        self._saved = 0
        self._last_save = time.monotonic()
        self._lock = threading.Lock()
        self._ending = threading.Event()
        self._thread: threading.Thread | None = None
        self.samples_lost = 0
        self.fault: Exception | None = None

    @property
    def count(self) -> int:
        """Samples taken so far."""
        return self._count

    @property
    def unsaved(self) -> int:
        """Samples the sink has not taken yet."""
        return self._count - self._saved

    def snapshot(self) -> tuple[Floats, Floats]:
        """Load and travel recorded so far, as copies of shape (count,)."""
        with self._lock:
            return self._load[: self._count].copy(), self._travel[: self._count].copy()

    def latest(self, since: int) -> tuple[Floats, Floats]:
        """Load and travel from sample `since` on, as copies."""
        with self._lock:
            stretch = slice(min(since, self._count), self._count)
            return self._load[stretch].copy(), self._travel[stretch].copy()

    def start(self) -> None:
        """Begin recording on a thread of its own."""
        self._thread = threading.Thread(target=self._run, name="recorder", daemon=True)
        self._thread.start()

    def finish(self) -> None:
        """Stop recording and hand the last samples to the sink, also after it refused before."""
        self._ending.set()
        if self._thread is not None:
            self._thread.join()
            self._thread = None
        self.fault = None
        self._save()

    def step(self, timeout_s: float = 0.02) -> int:
        """Read once and save when due; returns the number of samples read."""
        block = self._instrument.read(timeout_s)
        if len(block):
            self._append(block)
        if time.monotonic() - self._last_save >= COMMIT_EVERY_S:
            self._save()
        return len(block)

    def _run(self) -> None:
        while not self._ending.is_set():
            try:
                self.step()
            except Exception as error:  # noqa: BLE001  (any fault must stop the bench)
                self._give_up(error)
                return

    def _append(self, block: SampleBlock) -> None:
        with self._lock:
            self.samples_lost += max(0, block.first_seq - self._count - self.samples_lost)
            needed = self._count + len(block)
            if needed > len(self._load):
                room = max(needed, 2 * len(self._load))
                self._load = np.concatenate([self._load, np.empty(room - len(self._load))])
                self._travel = np.concatenate([self._travel, np.empty(room - len(self._travel))])
            self._load[self._count : needed] = block.load_n
            self._travel[self._count : needed] = block.travel_m
            self._count = needed

    def _save(self) -> None:
        if self._count == self._saved or self.fault is not None:
            return
        stretch = slice(self._saved, self._count)
        block = SampleBlock(self._saved, self._load[stretch], self._travel[stretch])
        try:
            self._sink(block)
        except BruiserError as error:
            self._give_up(error)
            return
        self._saved += len(block)
        self._last_save = time.monotonic()

    def _give_up(self, error: Exception) -> None:
        self.fault = error
        self._instrument.stop()
