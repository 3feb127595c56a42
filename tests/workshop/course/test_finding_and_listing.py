"""Go to, and the list of every specimen."""

import csv
import io
import shutil
from dataclasses import replace

import pytest
from benchmarks.years import demo_file

from bruiser.core.records.records import Gave
from bruiser.core.units import UnitChoice
from bruiser.formats.table_files import table_bytes
from bruiser.store.lines import LineQuery
from bruiser.workshop.course.finder import FoundKind, FoundPlace, FoundPlaces, campaign_places
from bruiser.workshop.course.pull_list import (
    COLUMNS,
    ListFilter,
    cells_of,
    find_lines,
    ids_of,
    list_table,
    listed,
    sorted_lines,
    technicians,
)
from bruiser.workshop.logbook.entries import State
from bruiser.workshop.logbook.lines import unread_line
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.paged_list import PAGE, PagedList
from bruiser.workshop.logbook.workshop import open_workshop

UNITS = UnitChoice("kN", "mm")


@pytest.fixture(scope="module")
def demo_logbook(tmp_path_factory):
    """The demo, asked by queries."""
    path = tmp_path_factory.mktemp("listed") / "demo.bruiser"
    shutil.copy(demo_file(), path)
    opened = open_workshop(path, read_only=True)
    yield read_logbook(opened)
    opened.close()


@pytest.fixture(scope="module")
def index(logbook):
    stations = [FoundPlace(kind=FoundKind.STATION, key="results", words="Results")]
    return FoundPlaces([*stations, *campaign_places(logbook)])


@pytest.mark.parametrize(
    ("words", "kind", "key"),
    [
        ("resul", FoundKind.STATION, "results"),
        ("weaver", FoundKind.KNOT, "sheet-bend"),
        ("bow", FoundKind.KNOT, "bowline"),
        ("8 mm double", FoundKind.LOT, "lot R8"),
        ("S-001", FoundKind.SPECIMEN, "s1"),
        ("r8 wet", FoundKind.LOT, "lot R8 wet"),
    ],
)
def test_a_thing_is_found_by_any_part_of_any_of_its_names(index, words, kind, key):
    first = index.find(words)[0]
    assert (first.kind, first.key) == (kind, key)


def test_what_was_gone_to_lately_comes_first(index):
    late = f"{FoundKind.KNOT}|double-sheet-bend"
    assert index.find("", (late,))[0].key == "double-sheet-bend"
    assert index.find("sheet", (late,))[0].key == "double-sheet-bend"
    assert index.find("no such thing at all") == []
    assert len(index.find("a", most=7)) == 7


def found(logbook, **wanted):
    return listed(logbook.lines, ListFilter(**wanted), UNITS)


def texts(lines):
    return [cells_of(line, UNITS) for line in lines]


def test_every_specimen_is_listed_and_filters_leave_fewer(logbook):
    whole = found(logbook)
    assert len(whole) == len(logbook.entries)
    by = {
        "lot": found(logbook, lot_id="lot R8"),
        "words": found(logbook, words="sheet bend"),
        "outcome": found(logbook, outcome=Gave.CAME_OUT.value),
        "technician": found(logbook, technician="OQ"),
        "state": found(logbook, state=State.VOID.value),
    }
    for name, rows in by.items():
        assert 0 < len(rows) < len(whole), name
    assert {row[3] for row in texts(by["lot"])} == {"R8"}
    assert all("Sheet bend" in row[2] for row in texts(by["words"]))
    assert len(by["state"]) == 1
    assert technicians(logbook) == ("OQ", "TV")
    assert any(row[6].endswith("left out") for row in texts(whole))


@pytest.mark.parametrize("column", COLUMNS)
def test_rows_are_sorted_by_what_a_column_means(logbook, column):
    at = COLUMNS.index(column)
    shown = [row[at] for row in texts(sorted_lines(found(logbook), column))]
    key = (lambda t: float(t.split()[0]) if t else -1.0) if column == "peak" else str.lower
    assert [key(text) for text in shown] == sorted(key(text) for text in shown)
    falling = texts(sorted_lines(found(logbook), column, falling=True))
    assert [key(row[at]) for row in falling] == sorted(map(key, shown), reverse=True)


def test_the_list_is_a_table_for_others(logbook):
    rows = found(logbook, lot_id="lot R8")
    headings, cells = list_table(rows, UNITS)
    assert headings[COLUMNS.index("peak")] == "peak (kN)"
    loads = [line[COLUMNS.index("peak")] for line in cells]
    assert [f"{load:.2f} kN" for load in loads if load is not None] == [
        row[5] for row in texts(rows) if row[5]
    ]
    spoilt = [replace(rows[0], code="=1+1")]
    text = table_bytes(".csv", *list_table(spoilt, UNITS)).decode()
    assert list(csv.reader(io.StringIO(text)))[1][0] == "'=1+1"


@pytest.mark.parametrize("falling", [False, True])
@pytest.mark.parametrize("column", COLUMNS)
@pytest.mark.parametrize(
    "wanted",
    [
        ListFilter(),
        ListFilter(words="nylon"),
        ListFilter(technician="OQ", state=State.PULLED.value),
        ListFilter(outcome=Gave.CAME_OUT.value),
        ListFilter(state=State.CHECKED.value),
        ListFilter(state=State.VOID.value),
    ],
)
def test_a_list_by_pages_is_the_list_that_is_read_whole(demo_logbook, wanted, column, falling):
    paged = find_lines(demo_logbook, wanted, column, UNITS, falling=falling)
    whole = sorted_lines(listed(demo_logbook.lines, wanted, UNITS), column, falling=falling)
    assert list(paged) == whole
    assert list(ids_of(paged)) == [line.specimen_id for line in whole]


def test_only_the_pages_looked_at_are_read(demo_logbook, monkeypatch):
    read = []
    lines_of = type(demo_logbook).lines_of
    monkeypatch.setattr(
        type(demo_logbook),
        "lines_of",
        lambda self, ids: read.append(len(ids)) or lines_of(self, ids),
    )
    paged = find_lines(demo_logbook, ListFilter(), "day", UNITS)
    assert isinstance(paged, PagedList)
    assert len(paged) > 3 * PAGE
    assert read == []
    assert paged[-1] == paged[len(paged) - 1] == paged[-2:][1]
    assert paged[0].started_at == "" < paged[PAGE].started_at
    assert read == [len(paged) % PAGE, PAGE, PAGE]
    with pytest.raises(IndexError):
        paged[len(paged)]


def test_a_specimen_that_cannot_be_read_leaves_its_row(demo_logbook):
    known = demo_logbook.line_ids(LineQuery())[:3]
    lines = PagedList([known[0], "gone", known[1]], demo_logbook.lines_of, unread_line)
    assert [line.specimen_id for line in lines] == [known[0], "gone", known[1]]
    assert "cannot be read" in cells_of(lines[1], UNITS)[2]
