"""Tables that give back exactly what was written, whatever stands in them."""

import csv
import io

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bruiser.core.errors import InputError
from bruiser.formats.package_tables import PackageColumn, read_table, write_table

COLUMNS = (
    PackageColumn(name="id", kind="string"),
    PackageColumn(name="note", kind="string", optional=True),
    PackageColumn(name="count", kind="integer", optional=True),
    PackageColumn(name="load_n", kind="number", optional=True),
)
TEXTS = st.one_of(
    st.text(alphabet=st.characters(exclude_categories=["Cs"]), max_size=40),
    st.sampled_from(["", "\\N", "'\\N", "=1+1", "'=x", "\\", "a\r\nb", '"', "\tx", "-5", "@a,b"]),
)
ROWS = st.fixed_dictionaries(
    {
        "id": TEXTS,
        "note": st.none() | TEXTS,
        "count": st.none() | st.integers(-(2**63), 2**63 - 1),
        "load_n": st.none() | st.floats(allow_nan=False, allow_infinity=False),
    }
)


@settings(max_examples=60, deadline=None)
@given(st.lists(ROWS, max_size=6))
def test_every_row_comes_back_as_it_was(rows):
    assert read_table("t", write_table(COLUMNS, rows), COLUMNS) == rows


@settings(max_examples=40, deadline=None)
@given(st.lists(ROWS, min_size=1, max_size=4))
def test_no_text_is_a_formula_to_a_spreadsheet(rows):
    cells = list(csv.reader(io.StringIO(write_table(COLUMNS, rows), newline="")))
    for row in cells[1:]:
        for cell in row[:2]:
            assert not cell.startswith(("=", "+", "-", "@", "\t", "\r"))


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("id,note,count\n", "column load_n is missing"),
        ("id,note,count,load_n,id\n", "twice"),
        ("id,note,count,load_n\na,b,1\n", "row 2: 3 cells under 4 headings"),
        ("id,note,count,load_n\na,b,1.5,2\n", "row 2, column count: “1.5” is no integer"),
        ("id,note,count,load_n\na,b,1,inf\n", "row 2, column load_n: “inf” is no number"),
        ("id,note,count,load_n\na,b,99999999999999999999,1\n", "column count"),
        ("id,note,count,load_n\n\\N,b,1,1\n", "row 2, column id: is empty"),
        ('id,note,count,load_n\n"a,b,1,1\n', "t, row"),
    ],
)
def test_what_is_not_right_is_named_by_row_and_column(text, says):
    with pytest.raises(InputError, match=says):
        read_table("t", text, COLUMNS)
