"""Results as bytes and back: the same value, or a refusal; never anything else."""

import math
from dataclasses import dataclass
from fractions import Fraction

import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bruiser.core.lasting import digest_of, read_lasting, write_lasting
from bruiser.core.memory import Memory, content_of
from bruiser.core.records.records import Gave, Tail
from bruiser.core.statistics.censored import Sample

SIMPLE = st.one_of(
    st.none(), st.booleans(), st.integers(-(2**60), 2**60), st.floats(allow_nan=False), st.text(),
    st.binary(), st.sampled_from(Gave), st.builds(Tail, st.text(), st.floats(0, 1)),
)  # fmt: skip
VALUES = st.recursive(
    SIMPLE,
    lambda inner: st.one_of(
        st.lists(inner, max_size=4),
        st.lists(inner, max_size=4).map(tuple),
        st.dictionaries(st.text(), inner, max_size=4),
    ),
    max_leaves=12,
)


@given(VALUES)
def test_a_value_comes_back_the_same_and_of_the_same_kind(value):
    back = read_lasting(write_lasting(value))
    assert back == value
    assert repr(back) == repr(value)


def test_arrays_come_back_to_the_bit():
    sample = Sample(
        ln_load=np.array([1.5, math.nan, -math.inf]), events=np.ones(3), floors=np.zeros(3)
    )
    back = read_lasting(write_lasting(sample))
    assert content_of(back) == content_of(sample)
    assert read_lasting(write_lasting(np.float64(0.1))) == 0.1


@dataclass(frozen=True)
class Stranger:
    """A record of somebody else."""

    x: int = 0


@pytest.mark.parametrize("value", [Fraction(1, 2), Stranger(), open, np.array([object()])])
def test_what_is_not_of_this_program_is_not_written(value):
    with pytest.raises(TypeError):
        write_lasting(value)


@pytest.mark.parametrize(
    "text",
    [
        b"",
        b"\xc1",
        msgspec.msgpack.encode(["?", 1]),
        msgspec.msgpack.encode(["d", "os:system", "true"]),
        msgspec.msgpack.encode(["d", "bruiser.core.errors:BruiserError", "x"]),
        msgspec.msgpack.encode(["d", "bruiser.core.memory:Memory.keep"]),
        msgspec.msgpack.encode(["d", "bruiser.core.records.records:Tail", "one field only"]),
        msgspec.msgpack.encode(["e", "bruiser.core.records.records:Gave", "exploded"]),
        msgspec.msgpack.encode(["e", "bruiser.core.records.records:Tail", 1]),
        msgspec.msgpack.encode(["a", "<f8", [3], b"12"]),
        msgspec.msgpack.encode(["d", "bruiser.no.such.module:Thing"]),
    ],
)
def test_what_was_not_written_here_is_refused(text):
    with pytest.raises(ValueError, match=r"."):
        read_lasting(text)


class Kept(dict):
    """Results that last, in a dictionary."""

    rules = b"1"

    def recall(self, digest):
        return self.get(digest)

    def keep(self, digest, value):
        self[digest] = value

    def flush(self):
        """Nothing waits."""


def test_a_new_start_knows_what_lasts_and_forgets_it_when_the_rules_change():
    behind = Kept()
    first = Memory(behind=behind)
    key = ("sum", content_of(np.arange(3.0)))
    assert first.once(key, lambda: Tail("a", 3.0), lasts=True) == Tail("a", 3.0)
    first.once("passing", lambda: 1)
    again = Memory(behind=behind)
    assert again.once(key, lambda: Tail("b", 0.0), lasts=True) == Tail("a", 3.0)
    assert again.recall("passing") is None
    assert again.computed == 0
    behind.rules = b"2"
    assert Memory(behind=behind).recall(key, lasts=True) is None


def test_a_result_that_cannot_be_read_is_worked_out_again():
    behind = Kept()
    behind.keep(digest_of("key", b"1"), b"spoilt")
    memory = Memory(behind=behind)
    assert memory.once("key", lambda: 5, lasts=True) == 5
    assert memory.computed == 1
    assert Memory(behind=behind).recall("key", lasts=True) == 5
