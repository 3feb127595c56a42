"""Takes samples from an instrument and hands them to a sink at least every quarter second."""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from bruiser.core.errors import BruiserError, Overrange, RigError
from bruiser.rig.channel_watch import NOTHING_S, ChannelWatch, NoReading
from bruiser.rig.instrument import Floats, Instrument, SampleBlock

log = logging.getLogger(__name__)

COMMIT_EVERY_S = 0.15
LONGEST_GAP = 200_000
AT_LIMIT = 3

Sink = Callable[[SampleBlock], None]


@dataclass(frozen=True)
class Columns:
    """Recorded samples: equally long arrays, NaN where a reading is missing.

    Parameters
    ----------
    load2_n, tail_m : ndarray or None
        Channels the bench may not have.
    """

    load_n: Floats
    travel_m: Floats
    load2_n: Floats | None = None
    tail_m: Floats | None = None


class Recorder:
    """Records one pull.

    Parameters
    ----------
    instrument : Instrument
        Where samples come from.
    sink : callable
        Stores a block for good; called from the saving thread.

    Notes
    -----
    One thread reads and never waits for the disk, another saves: a slow disk loses nothing while
    the process lives. All samples stay in memory until the recorder is dropped. Places of lost
    samples are NaN, so that the place of a sample is its time. Whatever ends the reading (the line
    is gone, or any other error) or the saving (a full disk, or any other error), the instrument is
    stopped, `fault` holds the error, and the samples are kept; :meth:`finish` tries once more to
    save them. When the cell is at its limit (`overrange`) or a channel gives no reading that can be
    believed while the crosshead moves (`trouble`), the instrument is stopped and the recording
    goes on.
    """

    def __init__(self, instrument: Instrument, sink: Sink) -> None:
        self._instrument = instrument
        self._sink = sink
        self._table = np.empty((4, 8192))
        self._has = [True, True, False, False]
        self._count = 0
        self._saved = 0
        self._offset = 0
        self._last_save = time.monotonic()
        self._lock = threading.Lock()
        self._saving = threading.Lock()
        self._ending = threading.Event()
        self._threads: list[threading.Thread] = []
        self._at_limit = 0
        self._read_fault: Exception | None = None
        self._save_fault: Exception | None = None
        self._watch_channels = ChannelWatch(instrument.info)
        self._moving_since: float | None = None
        self.samples_lost = 0
        self.trouble: RigError | None = None
        self.overrange: Overrange | None = None
        self.arrived_at = 0.0

    @property
    def fault(self) -> Exception | None:
        """What ended the reading or the saving, of whatever kind."""
        return self._read_fault or self._save_fault

    @property
    def count(self) -> int:
        """Samples taken so far, lost ones counted."""
        return self._count

    @property
    def unsaved(self) -> int:
        """Samples the sink has not taken yet."""
        return self._count - self._saved

    def snapshot(self) -> tuple[Floats, Floats]:
        """Load and travel recorded so far, as copies of shape (count,)."""
        with self._lock:
            return self._table[0, : self._count].copy(), self._table[1, : self._count].copy()

    def latest(self, since: int) -> tuple[Floats, Floats]:
        """Load and travel from sample `since` on, as copies."""
        with self._lock:
            stretch = slice(min(since, self._count), self._count)
            return self._table[0, stretch].copy(), self._table[1, stretch].copy()

    def tail_now(self) -> float | None:
        """What the tail gauge shows now, in metre; None without one."""
        return self._now(3)

    def hand_now(self) -> float | None:
        """The second load channel now, in newton; None without one."""
        return self._now(2)

    def _now(self, channel: int) -> float | None:
        """The mean of the last five samples of a channel, as far as they were read."""
        with self._lock:
            if not self._has[channel] or not self._count:
                return None
            last = self._table[channel, max(0, self._count - 5) : self._count]
            read = last[np.isfinite(last)]
        return float(read.mean()) if len(read) else None

    def columns(self) -> Columns:
        """Every channel recorded so far, as copies."""
        with self._lock:
            return self._columns(slice(0, self._count))

    def _columns(self, stretch: slice) -> Columns:
        parts = [self._table[k, stretch].copy() if self._has[k] else None for k in range(4)]
        load, travel, load2, tail = parts
        if load is None or travel is None:
            raise ValueError("load and travel are always recorded")
        return Columns(load, travel, load2, tail)

    def start(self) -> None:
        """Begin recording on threads of its own."""
        for run, name in ((self._read, "recorder"), (self._save_on, "recorder's saver")):
            thread = threading.Thread(target=run, name=name, daemon=True)
            self._threads.append(thread)
            thread.start()

    def finish(self) -> None:
        """Stop recording and hand the last samples to the sink, also after it refused before."""
        self._ending.set()
        for thread in self._threads:
            thread.join()
        self._threads = []
        self._save_fault = None
        self._save()

    @property
    def read_fault(self) -> Exception | None:
        """Why nothing more is read."""
        return self._read_fault

    @property
    def save_fault(self) -> Exception | None:
        """Why the sink did not take the last samples."""
        return self._save_fault

    def save_again(self) -> None:
        """Hand what was not taken to the sink once more, and go on saving if it takes it."""
        self._save_fault = None
        self._save()

    def set_moving(self, moving: bool) -> None:
        """The crosshead was sent off, or stopped: its readings are watched while it moves."""
        if moving:
            self.trouble = None
            self._watch_channels.begin_anew()
        self._moving_since = time.monotonic() if moving else None

    def step(self, timeout_s: float = 0.02) -> int:
        """Read once and save when due, without threads; returns the number of samples read."""
        read = self._read_once(timeout_s)
        if time.monotonic() - self._last_save >= COMMIT_EVERY_S:
            self._save()
        return read

    def _read_once(self, timeout_s: float) -> int:
        block = self._instrument.read(timeout_s)
        if len(block):
            self._append(block)
            self.arrived_at = time.monotonic()
            self._watch(block)
        else:
            self._watch_silence()
        return len(block)

    def _read(self) -> None:
        while not self._ending.is_set():
            try:
                self._read_once(0.02)
            except Exception as error:  # noqa: BLE001  (any fault must stop the bench)
                self._read_fault = error
                self._stop_for(error)
                return

    def _save_on(self) -> None:
        while not self._ending.wait(COMMIT_EVERY_S):
            self._save()

    def _append(self, block: SampleBlock) -> None:
        with self._lock:
            if self._count == 0:
                self._offset = block.first_seq
            gap = block.first_seq - self._offset - self._count
            if not 0 <= gap <= LONGEST_GAP:
                # The bench counts anew: what comes is put behind what is there.
                self._offset = block.first_seq - self._count
                gap = 0
            missing = int(np.count_nonzero(np.isnan(block.load_n) & np.isnan(block.travel_m)))
            self.samples_lost += gap + missing
            start = self._count + gap
            needed = start + len(block)
            if needed > self._table.shape[1]:
                bigger = np.empty((4, max(needed, 2 * self._table.shape[1])))
                bigger[:, : self._count] = self._table[:, : self._count]
                self._table = bigger
            self._table[:, self._count : start] = np.nan
            channels = (block.load_n, block.travel_m, block.load2_n, block.tail_m)
            for k, values in enumerate(channels):
                if values is not None and not self._has[k]:
                    self._table[k, : self._count] = np.nan
                    self._has[k] = True
                self._table[k, start:needed] = np.nan if values is None else values
            self._count = needed

    def _watch(self, block: SampleBlock) -> None:
        """Stop the bench when the cell is at its limit, or a channel cannot be believed."""
        top = 0.999 * self._instrument.info.capacity_n
        at_limit = int(np.count_nonzero(np.abs(block.load_n) >= top))
        self._at_limit = self._at_limit + at_limit if at_limit else 0
        if self._at_limit >= AT_LIMIT and self.overrange is None:
            self.overrange = Overrange(
                "The load cell is at its limit.", "The bench was stopped; the peak is a floor."
            )
            self._instrument.stop()
        if self._moving_since is not None and self.trouble is None:
            self.trouble = self._watch_channels.look(block)
            if self.trouble is not None:
                self._instrument.stop()

    def _watch_silence(self) -> None:
        """Stop the bench when nothing at all has come while it moves."""
        since = self._moving_since
        if since is None or self.trouble is not None or not self._instrument.info.stroke_m:
            return
        if time.monotonic() - max(self.arrived_at, since) > NOTHING_S:
            self.trouble = NoReading("bench", "sends no readings: neither load nor travel comes")
            self._instrument.stop()

    def _save(self) -> None:
        with self._saving:
            if self._count == self._saved or self._save_fault is not None:
                return
            with self._lock:
                first, until = self._saved, self._count
                c = self._columns(slice(first, until))
            try:
                self._sink(SampleBlock(first, c.load_n, c.travel_m, c.load2_n, c.tail_m))
            except Exception as error:  # noqa: BLE001  (any fault must stop the bench)
                self._save_fault = error
                self._stop_for(error)
                return
            self._saved = until
            self._last_save = time.monotonic()

    def _stop_for(self, error: Exception) -> None:
        """Stop the bench for a fault, which is set already, whatever the bench answers."""
        if not isinstance(error, BruiserError):
            log.error("the recording failed", exc_info=error)
        try:
            self._instrument.stop()
        except Exception:
            log.exception("the bench could not be told to stop")
