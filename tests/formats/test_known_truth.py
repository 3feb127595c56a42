"""Files made from numbers are read right or asked about, never wrong without a word."""

import numpy as np
import pytest
from validation.hostile.known_truth import run_known_truth

from bruiser.core.decimal_sign import (
    DecimalMark,
    decimal_sign_of,
    may_be_two,
    reads_as,
    signs_of_columns,
)
from bruiser.core.errors import InputError
from bruiser.core.trace import Channel, Trace
from bruiser.core.trace.even import even_trace
from bruiser.core.units import parse_quantity
from bruiser.formats.logger_file import LoggerHints, read_logger_text


def test_three_hundred_files_of_known_truth_are_never_silently_wrong():
    tallies = run_known_truth(300, 20261202)
    assert all(tally.wrong == [] for tally in tallies)
    assert sum(tally.right for tally in tallies) > 200


@pytest.mark.slow
def test_twenty_thousand_files_of_known_truth_are_never_silently_wrong():
    assert all(tally.wrong == [] for tally in run_known_truth(20_000, 7))


@pytest.mark.parametrize("between", [";", "\t", "  "])
def test_whole_newtons_grouped_by_commas_are_no_thousandths(between):
    loads = [300 * n for n in range(1, 42)]
    rows = [f"{n / 100:.2f}{between}{load:,}" for n, load in enumerate(loads)]
    text = f"time (s){between}load (N)\n" + "\n".join(rows) + "\n"
    assert list(read_logger_text(text, "t", LoggerHints()).trace.load_n) == loads


def test_a_record_whose_sign_nothing_tells_is_asked_about_and_told():
    rows = "\n".join(f"{n};{1.0 + n / 7:.3f}" for n in range(1, 40))
    text = f"time (s);load (kgf)\n{rows}\n"
    with pytest.raises(InputError) as asked:
        read_logger_text(text, "t", LoggerHints(rate_hz=10.0))
    assert asked.value.where == "decimal"
    said = read_logger_text(text, "t", LoggerHints(rate_hz=10.0, decimal=DecimalMark.POINT))
    assert said.trace.load_n[0] == pytest.approx(1.143 * 9.80665)


@pytest.mark.parametrize(
    ("cells", "within", "sign"),
    [
        (["509", "13,654"], None, DecimalMark.POINT),
        (["9,250", "8,731"], (50.0, 40_000.0), DecimalMark.POINT),
        (["9,250", "8,731"], (0.05, 40.0), DecimalMark.COMMA),
        (["9.250", "1,250"], None, DecimalMark.ASK),
        (["9,250", "1234"], None, DecimalMark.ASK),
        (["9,25", "9.3"], None, DecimalMark.ASK),
        (["none", "-"], None, DecimalMark.POINT),
    ],
)
def test_a_column_decides_by_itself_its_size_and_its_neighbours(cells, within, sign):
    assert decimal_sign_of(cells, within=within) is sign


def test_a_column_that_leaves_it_open_has_the_sign_of_the_others():
    columns = [["0,01", "0,02"], ["1,250", "2,500"]]
    assert signs_of_columns(columns, {}) == [DecimalMark.COMMA] * 2


@pytest.mark.parametrize("text", ["1.25e3", "12", "0,250", "1,234,567", "1.234,5"])
def test_what_can_only_be_one_number_is_one(text):
    assert may_be_two(text) is None
    assert any(reads_as(text, m) is not None for m in (DecimalMark.POINT, DecimalMark.COMMA))


@pytest.mark.parametrize(
    ("text", "unit", "within", "value"),
    [
        ("8.125", "kN", None, 8_125.0),
        ("9,250 N", "kN", (20.0, 30_000.0), 9_250.0),
        ("9.250 N", "kN", (20.0, 30_000.0), 9_250.0),
        ("12 240 N", "kN", None, 12_240.0),
    ],
)
def test_a_typed_load_is_settled_by_its_size(text, unit, within, value):
    assert parse_quantity(text, "force", unit, within=within) == pytest.approx(value)


@pytest.mark.parametrize("text", ["12,240 N", "9.250 N", "8 12 N", "9" * 400])
def test_a_typed_load_that_may_be_two_or_is_none_is_asked_about(text):
    with pytest.raises(InputError):
        parse_quantity(text, "force", "kN")


def test_a_tenth_of_the_rows_missing_changes_no_length():
    rng = np.random.default_rng(4)
    stamps = np.arange(50_000) / 5_000.0
    kept = np.sort(rng.choice(50_000, 45_000, replace=False))
    kept[[0, -1]] = 0, 49_999
    load = 1_000.0 * stamps
    made, rate_hz = even_trace(
        Trace(channels={Channel.LOAD: load[kept]}, stamps_s=stamps[kept]), "t"
    )
    assert rate_hz == pytest.approx(5_000.0, rel=1e-6)
    assert len(made) == 50_000
    read = np.isfinite(made.load_n)
    assert read.sum() == pytest.approx(len(kept), abs=5)
    assert np.abs(made.load_n[read] - load[read]).max() < 0.3


def test_times_written_to_the_millisecond_are_even():
    stamps = np.round(np.arange(2_000) / 700.0, 3)
    made, rate_hz = even_trace(Trace(channels={Channel.LOAD: np.ones(2_000)}, stamps_s=stamps), "t")
    assert (len(made), rate_hz) == (2_000, pytest.approx(700.0, rel=1e-3))
