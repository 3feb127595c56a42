"""A workbook that takes its reader down is a sentence here, and the program goes on."""

import io
import zipfile

import pytest

from bruiser.core.errors import InputError
from bruiser.formats import apart
from bruiser.formats.sheets import read_sheets
from bruiser.formats.table_files import table_bytes

CONTENT = table_bytes(".xlsx", ["knot", "peak (kN)"], [["bowline", 14.5]])


def with_cell(place):
    """The same workbook with one more cell, far away."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(CONTENT)) as old, zipfile.ZipFile(out, "w") as new:
        for part in old.infolist():
            body = old.read(part)
            if part.filename == "xl/worksheets/sheet1.xml":
                row = "".join(c for c in place if c.isdigit())
                far = f'<row r="{row}"><c r="{place}"><v>1</v></c></row></sheetData>'
                body = body.replace(b"</sheetData>", far.encode())
            new.writestr(part.filename, body)
    return out.getvalue()


@pytest.mark.parametrize("place", ["XFD1048576", "ZZ1048576", "XFD9", "A9999999"])
def test_two_cells_far_apart_are_refused_in_words(place, tmp_path):
    path = tmp_path / "far.xlsx"
    path.write_bytes(with_cell(place))
    assert path.stat().st_size < 30_000
    with pytest.raises(InputError, match=r"larger than any table|can be read"):
        read_sheets(path)


def test_a_usual_workbook_is_read_all_the_same(tmp_path):
    path = tmp_path / "near.xlsx"
    path.write_bytes(CONTENT)
    (sheet,) = read_sheets(path)
    assert [list(row) for row in sheet.rows] == [["knot", "peak (kN)"], ["bowline", "14.5"]]
    assert list(sheet.lines) == [1, 2]


@pytest.mark.parametrize(
    "script",
    [
        "import os; os.abort()",
        "import os, signal; os.kill(os.getpid(), signal.SIGKILL)",
        "bytearray(64 * 2**30)",
        "raise SystemExit(1)",
    ],
)
def test_however_a_reader_ends_it_is_a_sentence(script, monkeypatch, tmp_path):
    run = apart.subprocess.run

    def other(command, **how):
        return run([command[0], "-c", script], **how)

    monkeypatch.setattr(apart.subprocess, "run", other)
    path = tmp_path / "any.xlsx"
    path.write_bytes(CONTENT)
    with pytest.raises(InputError, match="ran out of room or failed"):
        read_sheets(path)
