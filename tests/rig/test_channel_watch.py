"""A channel that says nothing, stands or cannot be stops the travel; frames without sense."""

import math
import threading
import time

import numpy as np
import pytest

from bruiser.core.errors import RigError
from bruiser.core.trace import NOTHING_YET, trace_of
from bruiser.rig.channel_watch import ChannelWatch
from bruiser.rig.instrument import BenchStatus, InstrumentInfo, Motion, Stop
from bruiser.rig.protocol import BadLine, SampleLine, Sequence, frame, parse_line
from bruiser.rig.recorder import Recorder
from bruiser.rig.serial.bench import SerialBench

INFO = InstrumentInfo(
    name="bench",
    sample_rate_hz=500.0,
    capacity_n=20_000.0,
    resolution_n=2.0,
    stroke_m=1.0,
    simulated=False,
    silence_s=60.0,
)


def block(load, travel=None, first=0):
    load = np.asarray(load, dtype=float)
    travel = np.linspace(0, 0.01, len(load)) if travel is None else np.asarray(travel, dtype=float)
    return trace_of(load, travel, first=first)


def noisy(count, load=3_000.0):
    return load + np.round(np.random.default_rng(3).normal(0, 4, count) / 2) * 2


def test_a_good_channel_is_never_found_bad():
    watch = ChannelWatch(INFO)
    for n in range(40):
        assert watch.look(block(noisy(50, 100.0 * n))) is None
    assert watch.look(block(np.r_[noisy(40), [np.nan] * 60, noisy(10)])) is None
    assert watch.look(block(np.r_[noisy(10), [9e9, 3e3, 9e9], noisy(10)])) is None


@pytest.mark.parametrize(
    ("load", "travel", "channel", "says"),
    [
        ([np.nan] * 101, None, "load cell", "reads nothing"),
        (noisy(101), [np.nan] * 101, "travel", "reads nothing"),
        ([9e9] * 3, None, "load cell", "cannot be"),
        ([math.inf] * 3, None, "load cell", "cannot be"),
        (noisy(5), [-3.0] * 5, "travel", "cannot be"),
    ],
)
def test_a_bad_channel_is_named(load, travel, channel, says):
    found = ChannelWatch(INFO).look(block(load, travel))
    assert isinstance(found, RigError)
    assert (found.channel, says in found.headline) == (channel, True)


def test_what_is_missing_is_counted_over_blocks():
    watch = ChannelWatch(INFO)
    found = [watch.look(block([np.nan] * 20)) for _ in range(5)]
    assert [f is None for f in found] == [True, True, True, True, False]


def test_a_load_that_stands_while_the_crosshead_moves_is_found_and_a_plateau_is_not():
    watch = ChannelWatch(INFO)
    assert watch.look(block(noisy(500))) is None
    dead = watch.look(block([3_002.0] * 200))
    assert "stands still" in dead.headline
    steady = ChannelWatch(INFO)
    for _ in range(20):
        assert steady.look(block(np.repeat([3_000.0, 3_050.0], 25))) is None
    assert ChannelWatch(INFO).look(block([3_002.0] * 900, np.zeros(900))) is None


class Bench:
    """A bench that does what a test says at each read."""

    def __init__(self, reads):
        self.info, self._reads, self.stopped = INFO, reads, threading.Event()
        self._n = 0

    def read(self, _timeout_s):
        time.sleep(0.005)
        self._n += 1
        return self._reads(self._n)

    def stop(self):
        self.stopped.set()

    def status(self):
        return BenchStatus(
            armed=True, motion=Motion.PULLING, stopped_by=Stop.NONE, specimen_gave=False
        )


def samples(n):
    return trace_of(noisy(3), np.full(3, n / 1e4), first=3 * (n - 1))


def recording(reads, sink=lambda _: None):
    bench = Bench(reads)
    recorder = Recorder(bench, sink)
    recorder.start()
    recorder.set_moving(True)
    return bench, recorder


@pytest.mark.parametrize("error", [ZeroDivisionError("odd"), RuntimeError("foreign"), OSError(5)])
def test_whatever_the_saver_raises_stops_the_bench_and_keeps_every_sample(error):
    def refuse(_):
        raise error

    bench, recorder = recording(samples, refuse)
    assert bench.stopped.wait(0.5)
    assert recorder.fault is error
    while recorder.count <= 60:  # The reading goes on; the test's own timeout is the patience.
        time.sleep(0.01)
    recorder.finish()
    assert recorder.unsaved == recorder.count > 60
    got = []
    recorder._sink = lambda b: got.append(len(b))
    recorder.save_again()
    assert (sum(got), recorder.unsaved, recorder.fault) == (recorder.count, 0, None)


def test_whatever_the_reader_raises_stops_the_bench_and_what_came_is_saved():
    def reads(n):
        if n > 20:
            raise ZeroDivisionError("odd")
        return samples(n)

    got = []
    bench, recorder = recording(reads, lambda b: got.append(len(b)))
    assert bench.stopped.wait(0.5)
    recorder.finish()
    assert isinstance(recorder.fault, ZeroDivisionError)
    assert sum(got) == recorder.count == 60


def test_a_bench_that_cannot_be_stopped_does_not_end_the_threads_unseen():
    def refuse(_):
        raise ZeroDivisionError("odd")

    bench = Bench(samples)

    def stop():
        bench.stopped.set()
        raise RuntimeError("no line")

    bench.stop = stop
    recorder = Recorder(bench, refuse)
    recorder.start()
    assert bench.stopped.wait(0.5)
    recorder.finish()
    assert isinstance(recorder.fault, ZeroDivisionError)


def test_silence_in_motion_stops_the_bench_and_at_rest_it_does_not():
    nothing = NOTHING_YET
    bench, recorder = recording(lambda n: samples(n) if n < 10 else nothing)
    assert bench.stopped.wait(0.5)
    assert "sends no readings" in str(recorder.trouble)
    recorder.finish()
    still = Bench(lambda n: samples(n) if n < 10 else nothing)
    recorder = Recorder(still, lambda _: None)
    recorder.start()
    assert not still.stopped.wait(0.4)
    recorder.finish()


def test_numbers_that_are_none_in_a_frame_with_a_right_checksum_are_bad_lines():
    for place in range(1, 9):
        for odd in ("nan", "inf", "-inf", "1e999"):
            parts = ["S", "7", "14", "100.0", "1.0", "0", "5.0", "2.0"]
            if place < len(parts):
                parts[place] = odd
            line = parse_line(frame(",".join(parts)).rstrip())
            assert isinstance(line, (BadLine, SampleLine))
            if isinstance(line, SampleLine):
                assert not any(math.isinf(v) for v in (line.load_n, line.travel_mm, line.t_ms))


class Line:
    """A serial line that answers the first commands, and then whatever it is told."""

    def __init__(self, *answers):
        self.answers = list(answers)
        self.waiting = b""

    def forget(self):
        return

    def write(self, data):
        number = data.split(b",")[0].decode()
        if self.answers:
            self.waiting += frame(f"A,{number},{self.answers.pop(0)}")

    def read(self, _timeout_s):
        taken, self.waiting = self.waiting, b""
        return taken

    def close(self):
        return


@pytest.mark.parametrize("hello", ["OK,b,nan,2,1", "OK,b,inf,2,1", "OK,b,x,2,1", "OK,b,2e4,-1,1"])
def test_a_bench_that_says_odd_things_of_itself_is_no_bench(hello):
    with pytest.raises(RigError, match="no bench"):
        SerialBench(Line(hello, "OK,500"))
    with pytest.raises(RigError, match="no bench"):
        SerialBench(Line("OK,b,2e4,2,1", "OK,nan"))


@pytest.mark.parametrize("last", [20, 1_200, 40_000])
def test_a_bench_that_counts_anew_loses_three_samples_and_no_more(last):
    sequence = Sequence()
    for n in range(last - 10, last + 1):
        sequence.place(n)
    before = sequence.count
    placed = [sequence.place(n) for n in range(1_200)]
    assert placed[:3] == [None] * 3
    assert placed[3:] == list(range(before + 4, before + 4 + 1_197))
    assert (sequence.lost, sequence.restarts, sequence.repeated) == (3, 1, 0)


def test_a_repeated_line_is_dropped_and_counted():
    sequence = Sequence()
    placed = [sequence.place(n) for n in (5, 6, 6, 7, 5, 8, 9)]
    assert placed == [0, 1, None, 2, None, 3, 4]
    assert (sequence.repeated, sequence.lost) == (2, 0)
