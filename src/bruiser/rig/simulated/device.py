"""The simulated bench on a pseudo-terminal, so that it is spoken to as a real one is."""

from __future__ import annotations

import os
import select
import threading
import time
import tty
from collections.abc import Callable

import numpy as np

from bruiser.core.trace import Channel, Trace
from bruiser.rig.instrument import Motion, Stop
from bruiser.rig.protocol import SEQUENCE, LineSplitter, SampleFlag, checksum, frame
from bruiser.rig.simulated.bench import SimulatedBench

_TICK_S = 0.002
_MOST_WAITING = 4_000_000
_FASTEST_HZ = 4000.0


class BenchDevice:
    """Serves the line protocol for a simulated bench.

    Parameters
    ----------
    bench : SimulatedBench
        With a watchdog of one second.
    channels : int
        2 for load and travel, 3 with the second load channel, 4 with the tail gauge too.
    autostream : bool
        Whether it streams before it is asked to.

    Notes
    -----
    The terminal is raw before its path is told to anybody. What nobody reads waits in memory.
    """

    def __init__(
        self, bench: SimulatedBench, channels: int = 2, *, autostream: bool = False
    ) -> None:
        self.bench = bench
        self.channels = channels
        self._master, self._slave = os.openpty()
        tty.setraw(self._slave)
        tty.setraw(self._master)
        os.set_blocking(self._master, False)
        self.path = os.ttyname(self._slave)
        self._splitter = LineSplitter()
        self._out = bytearray()
        self._streaming = autostream
        self._seq = 0
        self._began = 0
        self._held_until: float | None = None
        self._was = Motion.STILL
        self._ending = threading.Event()
        self._thread: threading.Thread | None = None
        self.frozen = False
        self.garbage = False
        self.stopped_in_s = 0.0
        self.commands = 0

    def start(self) -> None:
        """Serve on a thread of its own."""
        self._thread = threading.Thread(target=self.serve, name="bench device", daemon=True)
        self._thread.start()

    def serve(self, until: Callable[[], bool] = lambda: False) -> None:
        """Serve until told to end."""
        while not self._ending.is_set() and not until():
            self.step()

    def step(self) -> None:
        """Take in commands, send the samples that are due."""
        try:
            ready, _, _ = select.select([self._master], [], [], _TICK_S)
            if ready:
                self._take_in(os.read(self._master, 4096))
            if not self.frozen:
                self._send_samples()
                self._flush()
        except (OSError, ValueError):
            self._ending.set()

    def unplug(self) -> None:
        """Pull the cable: both ends of the line are closed."""
        self._ending.set()
        if self._thread is not None:
            self._thread.join(1.0)
            self._thread = None
        for end in (self._master, self._slave):
            try:
                os.close(end)
            except OSError:
                continue

    close = unplug

    def _take_in(self, data: bytes) -> None:
        if b"!" in data:
            began = time.perf_counter()
            self.bench.stop()
            self._held_until = None
            self.stopped_in_s = time.perf_counter() - began
            self._say("V,stopped")
            data = data.replace(b"!", b"")
        for line in self._splitter.feed(data):
            body, _, sum_ = line.rstrip(b"\r").rpartition(b"*")
            number, _, verb = body.decode("ascii", "replace").partition(",")
            if len(sum_) != 4 or sum_ != b"%04X" % checksum(body):
                self._say(f"E,{number or 0},3,bad checksum")
                continue
            self.commands += 1
            self.bench.keep_alive()
            self._obey(number, verb)

    def _obey(self, number: str, verb: str) -> None:
        name, _, rest = verb.partition(" ")
        try:
            said = self._do(name, rest)
        except (ValueError, KeyError):
            self._say(f"E,{number},2,{name} needs a number")
            return
        if said is None:
            self._say(f"E,{number},1,cannot do {name}")
        else:
            self._say(f"A,{number},OK{',' + said if said else ''}")

    def _do(self, name: str, rest: str) -> str | None:
        bench, info = self.bench, self.bench.info
        if name == "hello":
            return f"{info.name},{info.capacity_n:g},{info.resolution_n:g},{info.stroke_m:g}"
        if name == "stream":
            wanted = min(float(rest), _FASTEST_HZ)
            self._streaming = wanted > 0
            if wanted > 0:
                bench.set_sample_rate(wanted)
                self._began, self._seq = 0, 0
            return f"{wanted:g}"
        if name == "hold":
            bench.hold()
            self._held_until = time.monotonic() + float(rest or 0)
            return ""
        if name == "arm":
            bench.arm()
            return ""
        if not bench.status().armed and name in ("run", "to-load", "to-travel"):
            return None
        acts: dict[str, Callable[[], None]] = {
            "zero": bench.zero,
            "stop": bench.stop,
            "ping": lambda: None,
            "run": bench.pull if rest == "fwd" else bench.slack,
            "rate": lambda: bench.set_rate(float(rest) / 1000),
            "to-load": lambda: bench.to_load(float(rest)),
            "to-travel": lambda: bench.to_travel(float(rest) / 1000),
        }
        if name not in acts:
            return None
        acts[name]()
        return ""

    def _say(self, body: str) -> None:
        self._out += frame(body)

    def _flags(self) -> int:
        status, flags = self.bench.status(), SampleFlag.NONE
        if status.motion is not Motion.STILL:
            flags |= SampleFlag.MOVING
        if self._held_until is not None and time.monotonic() < self._held_until:
            flags |= SampleFlag.HOLD
        if status.stopped_by is Stop.TRAVEL_LIMIT:
            flags |= SampleFlag.TRAVEL_LIMIT
        if status.stopped_by is Stop.LOAD_LIMIT:
            flags |= SampleFlag.OVERLOAD
        if status.specimen_gave:
            flags |= SampleFlag.BROKEN
        return int(flags)

    def _send_samples(self) -> None:
        block = self.bench.read(0.0)
        status = self.bench.status()
        if status.at_target and self._was is not Motion.STILL and status.motion is Motion.STILL:
            self._say("V,reached")
        self._was = status.motion
        if not self._streaming or not len(block):
            return
        if self.garbage:
            self._out += bytes(np.random.default_rng(self._seq).integers(1, 255, 40).tolist())
            self._out += b"\n"
        self._frame_block(block)

    def _frame_block(self, block: Trace) -> None:
        flags, dt_ms = self._flags(), 1000.0 / self.bench.info.sample_rate_hz
        lines = []
        top = 0.999 * self.bench.info.capacity_n
        travel, hand, tail = block.travel_m, block.get(Channel.LOAD2), block.get(Channel.TAIL)
        for k in range(len(block)):
            load = float(block.load_n[k])
            mark = flags | (SampleFlag.SATURATED if abs(load) >= top else 0)
            if load != load:
                mark |= SampleFlag.STALE
                load = 0.0
            number = self._seq % SEQUENCE
            body = (
                f"S,{number},{int(self._seq * dt_ms)},{load:.1f},{1000 * travel[k]:.2f},{int(mark)}"
            )
            if self.channels > 2 and hand is not None:
                body += f",{hand[k]:.1f}"
            if self.channels > 3 and tail is not None:
                body += f",{1000 * tail[k]:.1f}"
            lines.append(frame(body))
            self._seq += 1
        if len(self._out) < _MOST_WAITING:
            self._out += b"".join(lines)

    def _flush(self) -> None:
        while self._out:
            try:
                sent = os.write(self._master, self._out[:4096])
            except BlockingIOError:
                return
            del self._out[:sent]
