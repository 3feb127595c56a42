"""Takes samples from an instrument and hands them to a sink at least every quarter second."""

from __future__ import annotations

import logging
import math
import threading
import time
from collections.abc import Callable
from enum import StrEnum

import numpy as np

from bruiser.core.errors import BruiserError, Overrange, RigError
from bruiser.core.trace import CHANNELS, Channel, Trace
from bruiser.rig.channel_watch import NOTHING_S, ChannelWatch, NoReading
from bruiser.rig.instrument import Instrument, Motion

log = logging.getLogger(__name__)

COMMIT_EVERY_S = 0.15
LONGEST_GAP = 200_000
AT_LIMIT = 3

Sink = Callable[[Trace], None]
ROW = {channel: row for row, channel in enumerate(CHANNELS)}
ALWAYS = (Channel.LOAD, Channel.TRAVEL)


class Beyond(StrEnum):
    """Which limit was exceeded."""

    LOAD = "load"
    TRAVEL = "travel"


_FEW_OVER, _BLANK_SAMPLES = 3, 4.0


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
    goes on. The same where a limit is exceeded (`beyond`), or where while it travels nobody says
    for `silence_s` of the instrument that they are there (:meth:`heard`): the reading thread sends
    the stop by itself, whatever became of the window.
    """

    def __init__(self, instrument: Instrument, sink: Sink) -> None:
        self._instrument = instrument
        self._sink = sink
        self._table = np.empty((len(CHANNELS), 8192))
        self._has = set(ALWAYS)
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
        self.zero_n = 0.0
        self.beyond: Beyond | None = None
        self._most = {Beyond.LOAD: math.inf, Beyond.TRAVEL: math.inf}
        self._heard_at = 0.0
        self._forward = False

    def set_limits(self, load_n: float, travel_m: float) -> None:
        """Stop the travel beyond a load (after the zero) or a travel, while it pulls."""
        self._most = {Beyond.LOAD: load_n, Beyond.TRAVEL: travel_m}

    def know_rate(self, rate_m_s: float) -> None:
        """At which rate it pulls, where it is sent to travel on; 0 where it may stop by itself."""
        self._watch_channels.rate_m_s = rate_m_s

    def know_rest(self, zero_n: float, wavers_n: float, *, in_steps: bool) -> None:
        """What the cell read at rest, how much it wavered (standard deviation), and if in steps."""
        self.zero_n = zero_n
        self._watch_channels.wavers_n = wavers_n
        self._watch_channels.in_steps = in_steps

    def heard(self) -> None:
        """Whoever moves the bench is still there."""
        self._heard_at = time.monotonic()

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

    def recorded(self, since: int = 0) -> Trace:
        """Every channel from sample `since` on, as copies."""
        with self._lock:
            return self._cut(slice(min(since, self._count), self._count))

    def now(self, channel: Channel) -> float | None:
        """What a channel shows: the mean of its last five samples, as far as they were read."""
        with self._lock:
            if channel not in self._has or not self._count:
                return None
            last = self._table[ROW[channel], max(0, self._count - 5) : self._count]
            read = last[np.isfinite(last)]
        return float(read.mean()) if len(read) else None

    def _cut(self, stretch: slice) -> Trace:
        has = [c for c in ROW if c in self._has]
        return Trace(
            channels={c: self._table[ROW[c], stretch].copy() for c in has},
            first=stretch.start,
            rate_hz=self._instrument.info.sample_rate_hz,
        )

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

    def has_fallen_silent(self, patience_s: float) -> bool:
        """Whether no sample has come for so long, or for four of them: what is shown stands."""
        patience_s = max(patience_s, _BLANK_SAMPLES / self._instrument.info.sample_rate_hz)
        return bool(self.arrived_at) and time.monotonic() - self.arrived_at > patience_s

    def set_moving(self, moving: bool, *, forward: bool = False) -> None:
        """The crosshead was sent off, or stopped: its readings are watched while it moves.

        Parameters
        ----------
        forward : bool
            Whether it pulls: only then its limits hold, for beyond one the load is still taken off.
        """
        if moving:
            self.trouble = self.beyond = None
            self._watch_channels.begin_anew(forward=forward)
            self.heard()
        self._forward = forward and moving
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
                self._watch_silence_of_the_window()
            except Exception as error:  # noqa: BLE001  (any fault must stop the bench)
                self._read_fault = error
                self._stop_for(error)
                return

    def _save_on(self) -> None:
        while not self._ending.wait(COMMIT_EVERY_S):
            self._save()

    def _append(self, block: Trace) -> None:
        with self._lock:
            if self._count == 0:
                self._offset = block.first
            gap = block.first - self._offset - self._count
            if not 0 <= gap <= LONGEST_GAP:
                # The bench counts anew: what comes is put behind what is there.
                self._offset = block.first - self._count
                gap = 0
            self.samples_lost += gap + block.lost
            start = self._count + gap
            needed = start + len(block)
            if needed > self._table.shape[1]:
                bigger = np.empty((len(CHANNELS), max(needed, 2 * self._table.shape[1])))
                bigger[:, : self._count] = self._table[:, : self._count]
                self._table = bigger
            self._table[:, self._count : start] = np.nan
            for channel, row in ROW.items():
                values = block.get(channel)
                if values is not None and channel not in self._has:
                    self._table[row, : self._count] = np.nan
                    self._has.add(channel)
                self._table[row, start:needed] = np.nan if values is None else values
            self._count = needed

    def _watch(self, block: Trace) -> None:
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
            watch = self._watch_channels
            # Where it was stopped, by whatever, its travel stands as it should.
            stands = watch.rate_m_s > 0 and self._instrument.status().motion is Motion.STILL
            self.trouble = watch.look(block, stands=stands)
            if self.trouble is not None:
                self._instrument.stop()
        if self._forward and self.beyond is None:
            self._watch_limits(block)

    def _watch_limits(self, block: Trace) -> None:
        """Stop where three readings in a block lie beyond a limit: one wild reading is none."""
        seen = {Beyond.LOAD: block.load_n - self.zero_n, Beyond.TRAVEL: block.travel_m}
        for limit, values in seen.items():
            with np.errstate(invalid="ignore"):
                over = int(np.count_nonzero(values >= self._most[limit]))
            if over >= min(_FEW_OVER, len(values)) and over:
                self.beyond = limit
                self._instrument.stop()
                return

    def _watch_silence_of_the_window(self) -> None:
        """The dead man's switch: nobody has said for too long that the control is held."""
        if self._moving_since is None or self.trouble is not None:
            return
        if time.monotonic() - self._heard_at > self._instrument.info.silence_s:
            self._instrument.stop()
            self.trouble = RigError(
                "The window did not answer while the bench travelled: the travel was stopped.",
                "The load may still be on. Look at it, then go on.",
            )

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
                block = self._cut(slice(first, until))
            try:
                self._sink(block)
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
