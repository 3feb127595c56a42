"""The line protocol and what speaks it, over real pseudo-terminals, well behaved and not."""

import os
import threading
import time
import tty

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bruiser.core.errors import InputError, LinkLost, RigError, Silent
from bruiser.core.trace import NOTHING_YET, Channel, trace_of
from bruiser.rig import protocol
from bruiser.rig.instrument import Motion
from bruiser.rig.protocol import BadLine, Event, LineSplitter, Reply, SampleLine, Sequence
from bruiser.rig.recorder import Recorder
from bruiser.rig.serial.bench import SerialBench
from bruiser.rig.serial.line import SerialLine
from bruiser.rig.serial.passive import (
    PassiveIndicator,
    PassiveSettings,
    scale_from,
    understand,
)
from bruiser.rig.serial.probe import best, listen
from bruiser.rig.simulated.sensor import Faults
from bruiser.workshop.bench.simulation import serve_bench


def test_the_checksum_is_the_published_one():
    assert protocol.checksum(b"123456789") == 0x29B1
    assert protocol.frame("1,ping") == b"1,ping*%04X\n" % protocol.checksum(b"1,ping")


@pytest.mark.parametrize(
    ("body", "kind"),
    [
        (
            "S,7,14,1203.5,-0.25,1",
            SampleLine(seq=7, t_ms=14.0, load_n=1203.5, travel_mm=-0.25, flags=1),
        ),
        ("A,3,OK,500", Reply("3", True, "OK,500")),
        ("E,4,1,cannot do run", Reply("4", False, "1,cannot do run")),
        ("V,reached", Event("reached")),
    ],
)
def test_every_kind_of_line_is_read(body, kind):
    got = protocol.parse_line(protocol.frame(body).rstrip(b"\n"))
    assert repr(got) == repr(kind)


@pytest.mark.parametrize(
    ("raw", "why"),
    [
        (b"S,1,2,3,4,0", "no checksum"),
        (b"S,1,2,3,4,0*0000", "wrong checksum"),
        (b"S,1,2,3,4,0*ZZZZ", "wrong checksum"),
        (protocol.frame("S,1,2")[:-1], "not a whole sample"),
        (protocol.frame("S,1,2,x,4,0")[:-1], "not a number"),
        (protocol.frame("S,70000,2,3,4,0")[:-1], "odd sequence number"),
        (protocol.frame("Q,1")[:-1], "unknown kind"),
    ],
)
def test_what_is_no_line_says_why(raw, why):
    got = protocol.parse_line(raw)
    assert isinstance(got, BadLine)
    assert got.why == why


@given(st.binary(max_size=60))
@settings(max_examples=200)
def test_garbage_never_passes_for_a_sample(raw):
    assert not isinstance(protocol.parse_line(raw.replace(b"\n", b"")), SampleLine)


@given(st.lists(st.sampled_from(["S,1,2,3,4,0", "V,x", "A,1,OK"]), max_size=8), st.integers(1, 7))
def test_lines_come_whole_in_whatever_pieces_they_arrive(bodies, size):
    data = b"".join(protocol.frame(b) for b in bodies)
    splitter, got = LineSplitter(), []
    for k in range(0, len(data), size):
        got += splitter.feed(data[k : k + size])
    assert got == [protocol.frame(b)[:-1] for b in bodies]


def test_a_line_that_never_ends_is_dropped():
    splitter = LineSplitter()
    assert splitter.feed(b"x" * 500) == []
    assert splitter.dropped == 1
    assert splitter.feed(b"\nV,x*0000\n")[-1] == b"V,x*0000"


def test_sequence_numbers_wrap_and_gaps_and_repeats_are_counted():
    sequence = Sequence()
    places = [sequence.place(s) for s in (65_533, 65_534, 65_534, 65_535, 0, 1, 5, 4)]
    assert places == [0, 1, None, 2, 3, 4, 8, None]
    assert (sequence.lost, sequence.repeated) == (3, 2)


def test_what_a_baud_rate_bears():
    assert protocol.lines_a_second(115_200, 2) == pytest.approx(339, abs=1)
    assert protocol.rates_borne(115_200, 3)[0] == 200
    assert protocol.rates_borne(921_600, 2)[0] == 2000
    assert protocol.rates_borne(9_600, 2)[0] == 20


@pytest.fixture
def device():
    made = serve_bench("polyester double braid", "bowline", 8.0, 500.0, 3, seed=4)
    made.start()
    yield made
    made.unplug()


@pytest.fixture
def bench(device):
    made = SerialBench(SerialLine(device.path), 500.0)
    yield made
    made.close()


def read_for(bench, seconds):
    """What comes while the bench takes so many seconds of samples, at its 500 a second."""
    blocks, wanted = [], round(500 * seconds)
    for _ in range(wanted):
        block = bench.read(0.02)
        if len(block):
            blocks.append(block)
        if sum(len(b) for b in blocks) >= wanted:
            break
    return blocks


def test_a_bench_on_a_line_is_pulled_like_any_other(device, bench):
    assert (bench.info.name, bench.info.capacity_n) == ("simulated bench", 25_000.0)
    bench.pull()
    assert bench.status().motion is Motion.STILL
    bench.zero()
    bench.set_rate(0.05)
    bench.arm()
    bench.to_load(800.0)
    for _ in range(40):
        bench.keep_alive()
        read_for(bench, 0.05)
        if bench.status().at_target:
            break
    assert bench.status().at_target
    block = read_for(bench, 0.2)[-1]
    assert float(np.mean(block.load_n)) == pytest.approx(800, rel=0.15)
    assert block.get(Channel.LOAD2) is not None
    assert bench.counts.bad_lines == 0
    with pytest.raises(RigError, match="refused"):
        bench._ask("dance")


def test_nothing_is_lost_and_samples_are_consecutive(bench):
    blocks = []
    # A machine that stood still for a moment has samples waiting: they come, and none is missing.
    for _ in range(50):
        blocks += read_for(bench, 0.1)
        if sum(len(b) for b in blocks) >= 500:
            break
    firsts = [b.first for b in blocks]
    assert firsts == list(np.cumsum([firsts[0], *(len(b) for b in blocks[:-1])]))
    assert sum(len(b) for b in blocks) >= 500


def test_the_stop_byte_stops_and_disarms(device, bench):
    bench.arm()
    bench.pull()
    read_for(bench, 0.3)
    assert device.bench.status().motion is Motion.PULLING
    before = device.commands
    bench.stop()
    until = time.monotonic() + 5
    while device.bench.status().motion is not Motion.STILL and time.monotonic() < until:
        time.sleep(0.001)
    assert device.bench.status().motion is Motion.STILL
    assert device.commands == before
    assert not device.bench.status().armed


def test_a_bench_without_commands_for_a_second_stops(device, bench):
    bench.arm()
    bench.pull()
    read_for(bench, 0.3)
    assert device.bench.status().motion is Motion.PULLING
    read_for(bench, 1.3)
    assert device.bench.status().motion is Motion.STILL


def test_garbage_between_the_lines_is_counted_and_passed_over(device, bench):
    device.garbage = True
    blocks = read_for(bench, 0.5)
    assert sum(len(b) for b in blocks) > 100
    assert bench.counts.bad_lines > 5
    assert bench.counts.last_bad


def test_missing_readings_are_nan_and_replies_to_others_are_not_ours(device, bench):
    device.bench.sensor.faults = Faults(dropouts=((0.0, 1e9),))
    device._say("A,99999,OK")
    blocks = read_for(bench, 0.3)
    assert np.isnan(blocks[-1].load_n).all()
    assert bench.counts.foreign_replies == 1


def test_a_frozen_bench_is_silent_and_a_pulled_plug_is_a_lost_link(device, bench):
    device.frozen = True
    with pytest.raises(Silent):
        read_for(bench, 3.0)
    device.frozen = False
    device.unplug()
    with pytest.raises((LinkLost, Silent)):
        read_for(bench, 3.0)
    bench.stop()


def test_what_answers_no_bench_is_refused():
    master, slave = os.openpty()
    tty.setraw(slave)
    try:
        with pytest.raises(Silent, match="does not answer"):
            SerialBench(SerialLine(os.ttyname(slave)))
    finally:
        os.close(master)
        os.close(slave)
    with pytest.raises(LinkLost, match="cannot be opened"):
        SerialLine("/dev/does-not-exist")


def test_the_recorder_keeps_everything_over_a_line(device, bench):
    got = []
    recorder = Recorder(bench, got.append)
    recorder.start()
    time.sleep(0.8)
    recorder.finish()
    assert recorder.fault is None
    assert recorder.samples_lost == 0
    assert sum(len(b) for b in got) == recorder.count > 300
    assert [b.first for b in got] == list(np.cumsum([0, *(len(b) for b in got[:-1])]))
    assert recorder.recorded().get(Channel.LOAD2) is not None


def test_a_recorder_told_of_a_lost_link_keeps_what_it_has(device, bench):
    got = []
    recorder = Recorder(bench, got.append)
    recorder.start()
    time.sleep(0.4)
    device.unplug()
    until = time.monotonic() + 4
    while recorder.fault is None and time.monotonic() < until:
        time.sleep(0.02)
    assert isinstance(recorder.fault, RigError)
    recorder.finish()
    assert recorder.count > 50


class Scripted:
    """An instrument that gives the blocks it was told to."""

    def __init__(self, info, blocks):
        self.info, self.blocks, self.stopped = info, list(blocks), 0

    def read(self, timeout_s):
        del timeout_s
        return self.blocks.pop(0) if self.blocks else NOTHING_YET

    def stop(self):
        self.stopped += 1


@pytest.mark.parametrize("fault", ["nothing", "frozen"])
def test_a_bench_on_a_line_stops_when_its_cell_or_its_readings_are_gone(device, bench, fault):
    recorder = Recorder(bench, lambda _: None)
    bench.arm()
    recorder.start()
    recorder.set_moving(True)
    bench.pull()
    until = time.monotonic() + 10
    while recorder.count < 60 and time.monotonic() < until:
        recorder.heard()
        bench.keep_alive()
        time.sleep(0.02)
    if fault == "nothing":
        device.bench.sensor.faults = Faults(disconnect_s=0.0, disconnect_reads="nothing")
    else:
        device.frozen = True
    while recorder.trouble is None and time.monotonic() < until:
        recorder.heard()
        bench.keep_alive()
        time.sleep(0.02)
    assert "reads nothing" in str(recorder.trouble) or "no readings" in str(recorder.trouble)
    assert not bench.status().armed
    while device.bench.status().motion is not Motion.STILL and time.monotonic() < until:
        time.sleep(0.005)
    assert device.bench.status().motion is Motion.STILL
    recorder.finish()


def test_gaps_become_missing_samples_and_a_new_count_goes_behind(bench):
    ones = np.ones(10)
    blocks = [trace_of(ones, ones, first=n) for n in (5, 20, 0)]
    got = []
    recorder = Recorder(Scripted(bench.info, blocks), got.append)
    for _ in blocks:
        recorder.step()
    load = recorder.recorded().load_n
    assert len(load) == 35
    assert np.isnan(load[10:15]).all()
    assert recorder.samples_lost == 5


def test_a_cell_at_its_limit_stops_the_bench_and_recording_goes_on(bench):
    over = np.full(10, 25_000.0)
    one = Scripted(bench.info, [trace_of(over, over, first=n) for n in (0, 10)])
    got = []
    recorder = Recorder(one, got.append)
    recorder.step()
    recorder.step()
    assert one.stopped == 1
    assert recorder.overrange is not None
    assert recorder.fault is None
    assert recorder.count == 20


@pytest.mark.parametrize(
    ("line", "settings", "newton"),
    [
        ("ST,GS,+  1.234kN", PassiveSettings(), 1_234.0),
        ("  -1,5 kg", PassiveSettings(decimal_mark=","), -14.709975),
        ("1.234,5", PassiveSettings(decimal_mark=",", unit="N"), 1_234.5),
        ("W 00250 lb", PassiveSettings(), 1_112.0554),
        ("12.0", PassiveSettings(unit="daN", scale=1.01), 121.2),
        ("OVER", PassiveSettings(), None),
    ],
)
def test_an_indicator_is_understood_by_its_pattern(line, settings, newton):
    got = understand(line, settings, settings.compiled()).load_n
    assert got is None if newton is None else got == pytest.approx(newton, rel=1e-5)


def test_the_wrong_decimal_mark_is_only_found_by_a_known_load():
    wrong = PassiveSettings(decimal_mark=".")
    read = understand("-1,5 kN", wrong, wrong.compiled()).load_n
    assert read == -15_000
    with pytest.raises(InputError, match="decimal mark"):
        scale_from(1_500, 15_000, 1.0)
    assert scale_from(1_000, 990, 1.0) == pytest.approx(1_000 / 990)
    for pattern in ("(", "[0-9]+"):
        with pytest.raises(InputError):
            PassiveSettings(pattern=pattern).compiled()


@pytest.fixture
def terminal():
    master, slave = os.openpty()
    tty.setraw(slave)
    yield master, os.ttyname(slave)
    os.close(master)
    os.close(slave)


def test_a_passive_indicator_is_recorded_and_its_clock_fitted(terminal):
    master, path = terminal
    indicator = PassiveIndicator(SerialLine(path), PassiveSettings(unit="N"))
    os.write(master, b"34.0\r\n")
    loads = []
    for k in range(60):
        os.write(master, b"%.1f N\r\n" % (100 + k))
        time.sleep(0.01)
        loads.append(indicator.read(0.02).load_n)
    got = np.concatenate(loads)
    assert got[0] == 100.0
    np.testing.assert_allclose(np.diff(got), 1.0)
    assert 30 < indicator.info.sample_rate_hz < 100
    indicator.zero()
    os.write(master, b"169.0 N\r\nrubbish\r\n")
    assert indicator.read(0.1).load_n[-1] == pytest.approx(10.0)
    assert indicator.not_understood == 1
    indicator.close()


def test_settings_are_tried_on_the_live_line(terminal, device):
    master, path = terminal
    lines = b"cut\r\n1.5 kN\r\n1.6 kN\r\nhm\r\n"
    later = threading.Timer(0.05, os.write, (master, lines))
    later.start()
    tried = listen(path, 9_600, PassiveSettings(), 0.3)
    later.join()
    assert [u.load_n for u in tried.understood] == [1_500.0, 1_600.0, None]
    assert tried.share == pytest.approx(2 / 3)
    assert best([tried]) is tried
    quiet = listen(path, 19_200, PassiveSettings(), 0.05)
    assert quiet.share == 0.0
    assert best([quiet]) is None
    device._streaming = True
    ours = listen(device.path, 115_200, PassiveSettings(pattern=r"^(?P<load>x)"), 0.2)
    assert ours.protocol_lines > 10
