"""Records of loggers as they come: heads, marks, units, channels; refused where not clear."""

import contextlib

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bruiser.core.errors import InputError
from bruiser.core.trace import Channel, trace_of
from bruiser.formats.logger_file import LoggerHints, read_logger_file, read_logger_text
from bruiser.formats.trace_file import write_trace_file

TIME = np.arange(12) / 100.0
LOAD = np.array([0.0, 0, 1, 150, 400, 900, 1400, 2100, 3000, 3990, 120, 5])
TRAVEL = np.arange(12) * 0.0005


def read(text, **hints):
    return read_logger_text(text, "log", LoggerHints(**hints))


def rows(mark, *columns, decimal="."):
    return "\n".join(
        mark.join(f"{v:.4f}".replace(".", decimal) for v in row)
        for row in zip(*columns, strict=True)
    )


@pytest.mark.parametrize("mark", [",", ";", "\t", "  ", " "])
@pytest.mark.parametrize("decimal", [".", ","])
def test_any_mark_and_any_decimal(mark, decimal):
    if mark == decimal:
        pytest.skip("that would be two readings")
    head = f"Logger 7\nStarted by nobody\n\nTime (s){mark}Load (kN){mark}Travel (mm)\n"
    record = read(head + rows(mark, TIME, LOAD / 1000, TRAVEL * 1000, decimal=decimal))
    assert record.trace.load_n == pytest.approx(LOAD, abs=0.11)
    assert record.trace.travel_m == pytest.approx(TRAVEL, abs=1e-7)
    assert record.trace.time_s == pytest.approx(TIME)


def test_units_may_stand_in_a_row_of_their_own_and_columns_be_passed_over():
    text = "Temp\tForce\tt\ndegC\tlbf\tms\n" + rows("\t", TIME * 0 + 20, LOAD, TIME * 1000)
    record = read(text)
    assert record.trace.load_n[9] == pytest.approx(3990 * 4.4482216)
    assert record.trace.time_s == pytest.approx(TIME)
    assert record.said[Channel.LOAD] == ("Force", "lbf")


def test_a_clock_is_a_time_and_starts_at_nothing():
    stamps = [f"14:03:{10 + n:02d}.5" for n in range(12)]
    body = "\n".join(f"{s};{v}" for s, v in zip(stamps, LOAD, strict=True))
    record = read("time;load [N]\n" + body)
    assert record.trace.time_s == pytest.approx(np.arange(12.0))


def test_without_headings_the_even_column_is_the_time():
    record = read(rows(",", TIME, LOAD, TRAVEL), load_unit="N", travel_unit="mm")
    assert record.trace.load_n == pytest.approx(LOAD)
    assert record.said["time"] == ("column 1", "s")


def test_without_time_a_rate_is_asked_for_and_without_unit_the_unit():
    with pytest.raises(InputError, match="how many samples") as asked:
        read("Load (N)\n" + rows(",", LOAD))
    assert asked.value.where == "rate"
    assert read("Load (N)\n" + rows(",", LOAD), rate_hz=50.0).trace.time_s[1] == 0.02
    with pytest.raises(InputError, match="no unit") as asked:
        read("time,load\n" + rows(",", TIME, LOAD))
    assert asked.value.where == "unit"
    record = read("time,load\n" + rows(",", TIME, LOAD), load_unit="kgf")
    assert record.trace.load_n[9] == pytest.approx(3990 * 9.80665)


def test_our_own_files_read_the_same(tmp_path):
    trace = trace_of(LOAD, TRAVEL, load2_n=LOAD / 2, rate_hz=100.0)
    path = tmp_path / "t.csv"
    path.write_text("written by hand\n" + write_trace_file(trace), encoding="utf-16")
    record = read_logger_file(path)
    assert record.trace.load_n == pytest.approx(LOAD)
    assert record.trace.get(Channel.LOAD2) == pytest.approx(LOAD / 2)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "no block of numbers"),
        ("a\nb\nc\nd\n", "no block of numbers"),
        ("time,temp (C)\n" + rows(",", TIME, LOAD), "no column is a load"),
        ("time;load (N)\n" + rows(";", TIME, LOAD) + "\n0.12;oops\n", "row 14, column 2"),
        ("time;load (N)\n" + rows(";", TIME, LOAD) + "\n0.12;1;2\n", "row 14: 3 cells"),
        ("time;load (N)\n" + rows(";", TIME[::-1], LOAD), "do not rise"),
        ("time;load (N)\n" + rows(";", TIME, LOAD) + "\n0.12;1e999\n", "no finite|no number"),
    ],
)
def test_what_cannot_be_read_is_said_with_its_row(text, says):
    with pytest.raises(InputError, match=says):
        read(text)


def test_a_comma_that_may_be_either_is_refused():
    body = "\n".join(f'{n},"{n},250"' for n in range(1, 9))
    with pytest.raises(InputError):
        read(f"time,load (N)\n{body}\n")


@settings(max_examples=80, deadline=None)
@given(st.text(alphabet='0123456789.,;\t -+eEtimeload()kN\n:"', max_size=300))
def test_any_text_is_a_record_or_refused_in_words(text):
    with contextlib.suppress(InputError):
        read(text, rate_hz=10.0, load_unit="N")
