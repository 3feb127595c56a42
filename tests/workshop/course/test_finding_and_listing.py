"""Go to, and the list of every specimen."""

import csv
import io

import pytest

from bruiser.core.records.records import Gave
from bruiser.core.units import UnitChoice
from bruiser.formats.table_files import table_bytes
from bruiser.workshop.course.finder import FoundKind, FoundPlace, FoundPlaces, campaign_places
from bruiser.workshop.course.pull_list import (
    COLUMNS,
    ListFilter,
    list_table,
    rows_of,
    sorted_rows,
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


def listed(logbook, **wanted):
    return rows_of(logbook, ListFilter(**wanted), UNITS)


def test_every_specimen_is_listed_and_filters_leave_fewer(logbook):
    whole = listed(logbook)
    assert len(whole) == len(logbook.entries)
    by = {
        "lot": listed(logbook, lot_id="lot R8"),
        "words": listed(logbook, words="sheet bend"),
        "outcome": listed(logbook, outcome=Gave.CAME_OUT.value),
        "technician": listed(logbook, technician="OQ"),
        "state": listed(logbook, state=State.VOID.value),
    }
    for name, rows in by.items():
        assert 0 < len(rows) < len(whole), name
    assert {r.cells[3] for r in by["lot"]} == {"R8"}
    assert all("Sheet bend" in r.cells[2] for r in by["words"])
    assert len(by["state"]) == 1
    assert technicians(logbook) == ("OQ", "TV")
    assert any(r.cells[6].endswith("left out") for r in whole)


def test_rows_are_sorted_by_what_a_column_means(logbook):
    rows = sorted_rows(listed(logbook), COLUMNS.index("peak"), falling=True)
    loads = [float(r.cells[5].split()[0]) for r in rows if r.cells[5]]
    assert loads == sorted(loads, reverse=True)
    assert rows[-1].cells[5] == ""
    by_code = sorted_rows(rows, 0)
    assert by_code[0].cells[0] == "S-000"


def test_the_list_is_a_table_for_others(logbook):
    rows = listed(logbook, lot_id="lot R8")
    headings, cells = list_table(rows, UnitChoice("kN", "mm"))
    assert headings[COLUMNS.index("peak")] == "peak (kN)"
    loads = [line[COLUMNS.index("peak")] for line in cells]
    assert [f"{load:.2f} kN" for load in loads if load is not None] == [
        row.cells[5] for row in rows if row.cells[5]
    ]
    spoilt = [type(rows[0])(**{**rows[0].__dict__, "cells": ("=1+1", *rows[0].cells[1:])})]
    text = table_bytes(".csv", *list_table(spoilt, UnitChoice("kN", "mm"))).decode()
    assert list(csv.reader(io.StringIO(text)))[1][0] == "'=1+1"
