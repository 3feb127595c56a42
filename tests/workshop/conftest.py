from shutil import copyfile

import pytest

from bruiser.core.records.stock import StockEntry, StockMove
from bruiser.workshop.desk.knot_commands import AddKnot
from bruiser.workshop.desk.lot_commands import AddLot, ReceiveHank
from bruiser.workshop.groups.gathering import gather
from bruiser.workshop.logbook.commands import PlanSpecimen
from bruiser.workshop.logbook.entries import read_logbook
from bruiser.workshop.logbook.workshop import create_workshop, open_workshop
from tests.build import HANK, KNOT, LOT, ROW, SPECIMEN, Ticking


@pytest.fixture(scope="session")
def blank(tmp_path_factory):
    """A campaign without anything in it, made once: making one takes four times opening it."""
    path = tmp_path_factory.mktemp("blank") / "new.bruiser"
    create_workshop(path, ROW).close()
    return path


@pytest.fixture
def fresh(tmp_path, blank):
    ticking, path = Ticking(), tmp_path / "new.bruiser"
    made = open_workshop(copyfile(blank, path), now=ticking.now, new_id=ticking.new_id)
    yield made
    made.close()


@pytest.fixture
def stocked(fresh):
    """A lot with a hank of 20 m, a knot, and one planned specimen."""
    entry = StockEntry(
        id="e1", hank_id="h1", made_at=fresh.now(), move=StockMove.RECEIVED, change_m=20.0
    )
    for command in (
        AddLot(LOT),
        ReceiveHank(HANK, entry),
        AddKnot(KNOT),
        PlanSpecimen(SPECIMEN),
    ):
        fresh.do(command)
    return fresh


@pytest.fixture
def workshop(usual_file):
    opened = open_workshop(usual_file)
    yield opened
    opened.close()


@pytest.fixture(scope="package")
def logbook(usual_campaign):
    """The usual campaign, read once; whoever changes a campaign reads its own."""
    opened = open_workshop(usual_campaign, read_only=True)
    found = read_logbook(opened)
    opened.close()
    return found


@pytest.fixture(scope="package")
def gathered(logbook):
    return gather(logbook)
