"""Tables that could be read wrongly are refused with the row and the column."""

import contextlib

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bruiser.core.errors import InputError
from bruiser.core.trace import Channel
from bruiser.formats.pull_table import read_pull_table
from bruiser.formats.table_rows import read_number, table_rows
from bruiser.formats.trace_file import read_trace_file

HEAD = "pull,role,cordage,knot,peak,unit,finding"
GOOD = "P1,baseline,N6,,9250,N,broke_clear"


@pytest.mark.parametrize(
    ("text", "where"),
    [
        (f'{HEAD}\nP1,baseline,N6,,"9,250",N,broke_clear', "Row 2, column peak: “9,250” may be"),
        (f'{HEAD}\nP1,baseline,N6,,"1,009,250",N,broke_clear', "Row 2, column peak"),
        (f"{HEAD},peak\n{GOOD},9000", "column peak stands there twice"),
        (f"{HEAD}\n{GOOD},surplus", "Row 2: 8 cells under 7 headings"),
        (f"{HEAD}\nP1,baseline,N6,,inf,N,broke_clear", "no finite number"),
        (f"{HEAD}\nP1,baseline,N6,,1e999,N,broke_clear", "no finite number"),
        (f"{HEAD}\nP1,baseline,N6,,1_000,N,broke_clear", "no finite number"),
        (f"{HEAD}\nP1,baseline,{'x' * 140_000},,9250,N,broke_clear", "Row 2"),
        (f'{HEAD}\nP1,baseline,N6,,"9250,N,broke_clear', "Row 2"),
        (f"{HEAD},wraps\n{GOOD},1e300", "beyond a million"),
        (f"{HEAD},wraps\n{GOOD},²", "is no number"),
    ],
)
def test_a_pull_table_that_is_odd_names_its_place(text, where):
    with pytest.raises(InputError, match=where):
        read_pull_table(text)


def test_numbers_of_one_sense_are_read():
    for text, value in (
        ("9.25", 9.25),
        ("9,25", 9.25),
        ("0,250", 0.25),
        ("-3", -3.0),
        ("1e3", 1e3),
    ):
        assert read_number(text) == value
    text = f'{HEAD}\nP1,baseline,N6,,"9250,5",N,broke_clear\n'
    assert read_pull_table(text).rows[0].peak_n == 9250.5


@pytest.mark.parametrize(
    ("text", "where"),
    [
        ("time_s,load_N,travel_mm\n0,1,3,990,0,0\n0,2,3,991,0,1", "6 cells under 3 headings"),
        ("time_s,load_N,load_N\n0,1,2\n1,2,3", "column load_N stands there twice"),
        ("time_s;load_N\n0;3,990\n1;4", "Row 2, column load_N: “3,990” may be"),
        ("time_s,load_N\n0,inf\n1,2", "no finite number"),
    ],
)
def test_a_trace_that_is_odd_names_its_place(text, where):
    with pytest.raises(InputError, match=where):
        read_trace_file(text)


def test_a_decimal_comma_between_semicolons_is_read():
    read = read_trace_file("time_s;load_N\n0;3,5\n0,5;4,25\n")
    assert read.trace.get(Channel.LOAD).tolist() == [3.5, 4.25]


@pytest.mark.parametrize("rate", [1e12, -5.0, 0.0, 1e-9])
def test_a_rate_no_logger_has_is_refused(rate):
    with pytest.raises(InputError, match="none of a logger"):
        read_trace_file("load_N\n1\n2\n", rate)


@given(st.text(max_size=300), st.sampled_from(",;\t"))
def test_any_text_is_read_or_refused_in_words(text, mark):
    rows: list[tuple[int, list[str]]] = []
    with contextlib.suppress(InputError):
        rows.extend(table_rows(text, mark))
    assert all(len(cells) == len(rows[0][1]) for _, cells in rows)


@given(st.text(max_size=300))
def test_any_text_as_a_pull_table_or_a_trace_ends_in_words(text):
    for read in (read_pull_table, read_trace_file):
        with contextlib.suppress(InputError):
            read(text)
