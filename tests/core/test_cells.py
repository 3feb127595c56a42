"""Cells for others: no formula, read back as they were, nothing that no workbook may hold."""

import csv
import io

import pytest
from hypothesis import given
from hypothesis import strategies as st
from openpyxl import Workbook

from bruiser.core.cells import printable, read_cell, safe_cell


@given(st.text())
def test_every_text_comes_back_and_none_is_a_formula(text):
    cell = safe_cell(text)
    assert read_cell(cell) == text
    assert cell[:1] not in ("=", "+", "-", "@", "\t", "\r")


@pytest.mark.parametrize("text", ["=cmd|' /C calc'!A0", "+1+1", "-2+3", "@SUM(A1)", "\t=1", "'=1"])
def test_a_formula_is_a_text(text):
    out = io.StringIO()
    csv.writer(out).writerow([safe_cell(text)])
    ((cell,),) = csv.reader(io.StringIO(out.getvalue()))
    assert cell == f"'{text}"
    assert read_cell(cell) == text


@given(st.text(alphabet=st.characters()))
def test_whatever_is_printable_fits_a_workbook(text):
    sheet = Workbook().active
    sheet["A1"] = safe_cell(printable(text))[:30_000]
    assert sheet["A1"].data_type == "s" or not text or sheet["A1"].data_type == "n"
