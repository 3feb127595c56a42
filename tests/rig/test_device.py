"""The simulated device's own answers, without a serial port between."""

import numpy as np
import pytest

from bruiser.rig.instrument import Motion
from bruiser.rig.protocol import LineSplitter, Reply, SampleLine, command, parse_line
from bruiser.rig.simulated.archetypes import Kind, bulk_d, fits_host, slip_share
from bruiser.rig.simulated.cords import CORDS
from bruiser.rig.simulated.setup import SpecimenSetup, Ways, ways
from bruiser.rig.simulated.variants import BASES, tying
from bruiser.workshop.bench.simulation import serve_bench


@pytest.fixture
def device():
    made = serve_bench("nylon kernmantle", "bowline", 8.0, 200.0, 4, seed=2)
    yield made
    made.close()


def said(device):
    lines = LineSplitter().feed(bytes(device._out))
    device._out.clear()
    return [parse_line(x) for x in lines]


def ask(device, verb, number=1):
    device._take_in(command(number, verb))
    return said(device)[-1]


@pytest.mark.parametrize(
    ("verb", "ok"),
    [
        ("hello", True), ("zero", True), ("rate 4", True), ("stream 100", True), ("ping", True),
        ("run fwd", False), ("to-load 5", False), ("dance", False), ("rate x", False),
        ("hold 2", True), ("arm", True), ("stop", True),
    ],
)  # fmt: skip
def test_every_command_is_answered_by_its_number(device, verb, ok):
    reply = ask(device, verb, 17)
    assert isinstance(reply, Reply)
    assert (reply.id, reply.ok) == ("17", ok)


def test_motion_needs_arming_and_a_bad_checksum_is_refused(device):
    assert ask(device, "arm").ok
    assert ask(device, "run fwd").ok
    assert device.bench.status().motion is Motion.PULLING
    device._take_in(b"9,stop*0000\n")
    reply = said(device)[-1]
    assert not reply.ok
    assert device.bench.status().motion is Motion.PULLING
    device._take_in(b"!")
    assert device.bench.status().motion is Motion.STILL
    assert not device.bench.status().armed


def test_samples_carry_their_flags_and_channels(device):
    device._streaming = True
    device.bench.arm()
    device.bench.pull()
    device._frame_block(device.bench._produce(5))
    lines = [x for x in said(device) if isinstance(x, SampleLine)]
    assert [x.seq for x in lines] == [0, 1, 2, 3, 4]
    assert all(x.flags & 1 for x in lines)
    assert not any(np.isnan(x.load2_n) or np.isnan(x.tail_mm) for x in lines)


@pytest.mark.parametrize("kind", Kind)
def test_each_kind_grips_less_when_fitness_falls(kind):
    a = next(a for a in BASES.values() if a.kind is kind)
    cord = CORDS["polypropylene 3-strand"]
    full, half = (slip_share(a, cord, h, ratio=0.7, seat_d=1.9) for h in (1.0, 0.5))
    assert half < full


def test_hosts_ropes_and_holes_have_their_own_sums():
    assert fits_host(0.7) == 1.0
    assert fits_host(0.3) < fits_host(0.5) < 1.0
    stopper = BASES["figure-eight-stopper"]
    assert bulk_d(stopper, 0.5) < bulk_d(stopper, 0.1) < stopper.bulk_d
    nylon = CORDS["nylon kernmantle"]
    assert slip_share(stopper, nylon, 1.0, seat_d=10.0) == 0.02
    assert slip_share(stopper, nylon, 1.0, seat_d=0.5) == 9.0


@pytest.mark.parametrize(
    ("changes", "weaker"),
    [
        ({"crossed": True}, "both"),
        ({"layout": "hitch", "host_mm": 60, "host_finish": "polished"}, "grip"),
        ({"layout": "hitch", "host_mm": 6}, "strength"),
        ({"other_mm": 3.0}, "grip"),
        ({"direction": "eye spread as a ring"}, "both"),
        ({"direction": "standing part the other way along the host"}, "both"),
    ],
)
def test_what_a_setup_takes_away(changes, weaker):
    knots = {}
    setup = SpecimenSetup(
        cord="nylon kernmantle", diameter_mm=8, span_mm=300, layout="bend", knots=knots
    )
    plain = ways(setup, tying("bowline"))
    assert plain == Ways()
    made = ways(SpecimenSetup(**{**setup.__dict__, **changes}), tying("bowline"))
    if weaker in ("both", "strength"):
        assert made.strength < 1
    if weaker in ("both", "grip"):
        assert made.grip < 1
