"""Go to, and the list of every specimen."""

import csv
import io
from dataclasses import replace

import pytest

from bruiser.core.records.records import Gave
from bruiser.core.units import UnitChoice
from bruiser.formats.table_files import table_bytes
from bruiser.workshop.course.finder import FoundKind, FoundPlace, FoundPlaces, campaign_places
from bruiser.workshop.course.pull_list import (
    COLUMNS,
    ListFilter,
    cells_of,
    list_table,
    listed,
    sorted_lines,
    technicians,
)
from bruiser.workshop.logbook.entries import State

UNITS = UnitChoice("kN", "mm")


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
