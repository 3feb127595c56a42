"""Tables as people keep them: encodings, marks, workbooks; what their columns are taken for."""

import datetime as dt
import io
import zipfile
from functools import lru_cache

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bruiser.catalogue.finding import fold
from bruiser.core.errors import InputError
from bruiser.formats.column_mapping import (
    DateOrder,
    DecimalMark,
    TableMapping,
    headings_of,
    mapping_text,
    read_mapping,
    recognise,
)
from bruiser.formats.mapped_table import read_figure, read_mapped
from bruiser.formats.sheets import read_sheets, text_sheet
from bruiser.formats.workbook import read_workbook

KNOTS = ("bowline", "sheet bend", "clove hitch")


def recognised(sheet):
    return recognise(sheet, lambda c: fold(c) in KNOTS, lambda c: c == "P8-B")


def columns(text):
    return recognised(text_sheet(text, "t")).columns


@pytest.mark.parametrize(
    "encoding", ["utf-8", "utf-8-sig", "utf-16", "utf-16-le", "utf-16-be", "cp1252"]
)
@pytest.mark.parametrize("mark", [",", ";", "\t", "|"])
def test_any_encoding_and_any_mark(encoding, mark):
    odd = f"a{mark}b\r\n“c”"
    rows = [["Knot", "Größe", "Note"], ["Bowline", "8 mm", odd], ["Überhand", "9 mm", ""]]
    text = "\r\n".join(mark.join(f'"{c}"' for c in row) for row in rows) + "\r\n"
    sheet = text_sheet(text.encode(encoding), "t")
    assert [list(row) for row in sheet.rows] == rows
    assert list(sheet.lines) == [1, 2, 4]


@settings(max_examples=60, deadline=None)
@given(st.binary(max_size=400))
def test_any_bytes_are_a_table_or_refused_in_words(content):
    try:
        sheet = text_sheet(content, "t")
    except InputError:
        return
    read_mapped(sheet, recognised(sheet))


def test_headings_are_known_by_what_people_call_them():
    headings = "No.,Rope,Knot,Max load (kN),Result,Untied,Tester,Remarks"
    found = columns(f"{headings}\n1,a,b,2,broke,hand,x,y\n")
    assert found == {
        "pull": "No.", "cordage": "Rope", "knot": "Knot", "peak": "Max load (kN)",
        "finding": "Result", "jam_level": "Untied", "technician": "Tester", "note": "Remarks",
    }  # fmt: skip


def test_units_are_read_from_headings_and_cells():
    text = "Rope,Knot,Peak [lbf],Slip (in)\nP8-B,bowline,1000,2\nP8-B,bowline,5 kN,3 mm\n"
    sheet = text_sheet(text, "t")
    mapping = recognised(sheet)
    assert mapping.units == {"peak": "lbf", "draw_mm": "in"}
    table = read_mapped(sheet, mapping)
    assert table.values["peak"] == pytest.approx([4448.2216, 5000.0])
    assert table.values["draw_mm"] == pytest.approx([0.0508, 0.003])


def test_contents_tell_where_headings_do_not():
    text = "a,b,c,d\nP8-B,sheet bend,14.2,snapped\nP8-B,bowline,13.1,came out\nP8-B,-,20.1,clear\n"
    assert columns(text) == {"cordage": "a", "knot": "b", "peak": "c", "finding": "d"}


def test_titles_above_and_merged_heading_rows_are_skipped_and_joined():
    sheet = text_sheet("Yard tests,,\n,,\nWhat,Load,Load\nKnot,peak,first slip\nbowline,2,1\n", "t")
    mapping = recognised(sheet)
    assert (mapping.skip, mapping.heading_rows) == (1, 2)
    assert headings_of(sheet, mapping) == ["What Knot", "Load peak", "Load first slip"]
    assert mapping.columns == {
        "knot": "What Knot", "peak": "Load peak", "first_slip": "Load first slip"
    }  # fmt: skip


def test_a_heading_that_stands_there_twice_is_numbered_and_the_first_is_taken():
    sheet = text_sheet("knot,peak,peak\nbowline,2,3\n", "t")
    mapping = recognised(sheet)
    assert headings_of(sheet, mapping) == ["knot", "peak", "peak#2"]
    assert mapping.columns["peak"] == "peak"


@pytest.mark.parametrize(
    ("cells", "mark"),
    [
        (["9,25", "10,5"], DecimalMark.COMMA),
        (["9.25", "1,234.5"], DecimalMark.POINT),
        (["9,250", "1,100"], DecimalMark.ASK),
        (["9.250", "1.100"], DecimalMark.ASK),
        (["509", "13,654"], DecimalMark.POINT),
        (["9", "9,254"], DecimalMark.ASK),
        (["0.850", "9.250"], DecimalMark.POINT),
        (["1.234,5"], DecimalMark.COMMA),
        (["9,25", "9.3"], DecimalMark.ASK),
        (["9250", "800"], DecimalMark.POINT),
        (["0,250"], DecimalMark.COMMA),
    ],
)
def test_which_mark_is_the_decimal_one(cells, mark):
    sheet = text_sheet("knot;peak\n" + "".join(f"bowline;{c}\n" for c in cells), "t")
    assert recognised(sheet).decimal is mark


@pytest.mark.parametrize(
    ("text", "decimal", "value"),
    [
        ("1 234,5", ",", 1234.5), ("1.234,5", ",", 1234.5), ("1'234.5", ".", 1234.5),
        ("1,234.5", ".", 1234.5), ("9,25", "ask", 9.25), ("1\u00a0234", ".", 1234.0),
        ("1e3", ".", 1e3),
    ],
)  # fmt: skip
def test_numbers_with_marks_between_thousands(text, decimal, value):
    assert read_figure(text, DecimalMark(decimal)) == value


@pytest.mark.parametrize(
    ("text", "decimal", "says"),
    [
        ("9,250", "ask", "may be 9.25 or 9250"), ("9,25", ".", "does not go with"),
        ("9.25", ",", "does not go with"),
        ("1_000", ".", "no number"), ("inf", ".", "no number"), ("²", ".", "no number"),
        ("1e999", ".", "no finite"), ("", ".", "no number"), ("1,23,456", ".", "no number"),
    ],
)  # fmt: skip
def test_what_may_be_two_or_none_is_said(text, decimal, says):
    with pytest.raises(ValueError, match=says):
        read_figure(text, DecimalMark(decimal))


@pytest.mark.parametrize(
    ("cells", "order"),
    [
        (["2024-03-04"], DateOrder.YEAR), (["13/4/2024"], DateOrder.DAY),
        (["4/13/24"], DateOrder.MONTH),
        (["3/4/2024"], DateOrder.ASK), (["3.4.2024"], DateOrder.DAY),
    ],
)  # fmt: skip
def test_dates_that_may_be_two_are_asked_about(cells, order):
    sheet = text_sheet("knot,peak (kN),date\n" + "".join(f"bowline,2,{c}\n" for c in cells), "t")
    mapping = recognised(sheet)
    assert mapping.dates is order
    table = read_mapped(sheet, mapping)
    if order is DateOrder.ASK:
        assert "may be two dates" in table.problems[0].said
    else:
        assert isinstance(table.values["day"][0], dt.date)


def test_words_are_known_and_unknown_ones_are_listed_by_row():
    text = "knot,peak (kN),result\n,2,broke mid span\nbowline,2,snapped\nbowline,2,went ping\n"
    sheet = text_sheet(text, "t")
    mapping = recognised(sheet)
    table = read_mapped(sheet, mapping)
    assert list(table.values["finding"]) == ["broke_clear", "broke_at_knot", ""]
    assert [str(p) for p in table.problems] == [
        "Row 4, column result: “went ping” is no word for what gave that is known. "
        "Say what the word means."
    ]
    assert table.unknown_words == {"finding": ("went ping",)}
    taught = TableMapping(columns=mapping.columns, words={"finding": {"went ping": "came_out"}})
    assert read_mapped(sheet, taught).values["finding"][2] == "came_out"


def test_a_mapping_comes_back_from_its_file_and_wrong_ones_are_named():
    mapping = TableMapping(
        columns={"peak": "Max"}, units={"peak": "lbf"}, decimal=DecimalMark.COMMA,
        words={"finding": {"ping": "broke_at_knot"}}, fixed={"cordage": "P8"},
        knots={"x": "bowline"},
    )  # fmt: skip
    assert read_mapping(mapping_text(mapping)) == mapping
    for text, says in (
        ('{"columns": {"moon": "a"}}', "moon"),
        ('{"units": {"peak": "mm"}}', "none of"),
        ('{"words": {"finding": {"x": "exploded"}}}', "exploded"),
        ('{"columns": 5}', "columns"),
        ("[" * 10_000, "no JSON|the text"),
        ('{"format": "other"}', "format"),
    ):
        with pytest.raises(InputError, match=says):
            read_mapping(text)


def workbook(rows, *, merged=(), second=False):
    from openpyxl import Workbook

    book = Workbook()
    for row in rows:
        book.active.append(row)
    for cells in merged:
        book.active.merge_cells(cells)
    if second:
        book.create_sheet("later").append(["x"])
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def test_a_workbook_with_merged_cells_dates_and_sheets(tmp_path):
    rows = [["What", "Load", None], ["Knot", "peak", "first slip"], ["bowline", 14, 2.5],
            ["bowline", 13.25, dt.datetime(2024, 3, 4)]]  # fmt: skip
    path = tmp_path / "t.xlsx"
    path.write_bytes(workbook(rows, merged=["B1:C1"], second=True))
    sheets = read_sheets(path)
    assert [s.name for s in sheets] == ["Sheet", "later"]
    assert [list(r) for r in sheets[0].rows] == [
        ["What", "Load", "Load"], ["Knot", "peak", "first slip"], ["bowline", "14", "2.5"],
        ["bowline", "13.25", "2024-03-04"],
    ]  # fmt: skip


def test_an_open_document_sheet_reads_the_same(tmp_path):
    from odf.opendocument import OpenDocumentSpreadsheet
    from odf.table import Table, TableCell, TableRow
    from odf.text import P

    book, table = OpenDocumentSpreadsheet(), Table(name="pulls")
    for row in (["knot", "peak"], ["bowline", 14.5]):
        line = TableRow()
        for value in row:
            kind = {"valuetype": "float", "value": value} if isinstance(value, float) else {}
            cell = TableCell(**(kind or {"valuetype": "string"}))
            cell.addElement(P(text=str(value)))
            line.addElement(cell)
        table.addElement(line)
    book.spreadsheet.addElement(table)
    book.save(str(tmp_path / "t.ods"))
    (sheet,) = read_sheets(tmp_path / "t.ods")
    assert [list(r) for r in sheet.rows] == [["knot", "peak"], ["bowline", "14.5"]]


def test_what_would_unpack_to_too_much_or_is_no_workbook_is_refused(tmp_path, monkeypatch):
    monkeypatch.setattr("bruiser.formats.workbook.LARGEST_UNPACKED", 10_000_000)
    bomb = tmp_path / "bomb.xlsx"
    with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as archive:
        for n in range(6):
            archive.writestr(f"{n}.xml", b"0" * 2_000_000)
    for content in (bomb.read_bytes(), b"PK\x03\x04 broken", b"PK\x05\x06" + bytes(18)):
        with pytest.raises(InputError):
            read_workbook("x.xlsx", content)


@lru_cache(maxsize=1)
def small_workbook():
    """Made once: a workbook says when it was made, and is as long as that packs."""
    return bytes(workbook([["knot", "peak"], ["bowline", 2]]))


@settings(max_examples=25, deadline=None)
@given(st.data())
def test_a_spoilt_workbook_ends_in_words(data):
    import tempfile
    from pathlib import Path

    content = bytearray(small_workbook())
    for _ in range(data.draw(st.integers(1, 6))):
        content[data.draw(st.integers(4, len(content) - 1))] = data.draw(st.integers(0, 255))
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "t.xlsx"
        path.write_bytes(bytes(content))
        try:
            for sheet in read_sheets(path):
                read_mapped(sheet, recognised(sheet))
        except InputError:
            pass


@pytest.mark.parametrize(
    "content", [b"", b"\n\n", b"\xff\xfe\x00", b"\x00\x01\x02\x03" * 50, b'a,b\n"x,y\n']
)
def test_nothing_and_no_text_are_said(content, tmp_path):
    with pytest.raises(InputError):
        text_sheet(content, "t")
