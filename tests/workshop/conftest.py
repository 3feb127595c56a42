from pathlib import Path
from shutil import copyfile

import pytest

from bruiser.core.records.stock import StockEntry, StockMove
from bruiser.workshop.desk.knot_commands import AddKnot
from bruiser.workshop.desk.lot_commands import AddLot, ReceiveHank
from bruiser.workshop.groups.gathering import gather
from bruiser.workshop.logbook.commands import PlanSpecimen
from bruiser.workshop.logbook.workshop import create_workshop, open_workshop
from tests.alike import whole
from tests.build import HANK, KNOT, LOT, ROW, SPECIMEN, Ticking


@pytest.fixture(scope="session")
def blank(tmp_path_factory):
    """A campaign without anything in it, made once: making one takes four times opening it."""
    path = tmp_path_factory.mktemp("blank") / "new.bruiser"
    create_workshop(path, ROW).close()
    return path


@pytest.fixture(scope="session")
def blank_on_server(server, blank):
    return server.filled_with(blank)


@pytest.fixture
def fresh_place(tmp_path, home, request):
    """A campaign without anything in it, in a file or on a server."""
    if home is None:
        yield Path(copyfile(request.getfixturevalue("blank"), tmp_path / "new.bruiser"))
        return
    made = home.copy_of(request.getfixturevalue("blank_on_server"))
    yield made
    home.forget(made)


@pytest.fixture
def fresh(fresh_place):
    ticking = Ticking()
    made = open_workshop(fresh_place, now=ticking.now, new_id=ticking.new_id)
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
def workshop(usual_place):
    opened = open_workshop(usual_place)
    yield opened
    opened.close()


@pytest.fixture(scope="package")
def logbook(usual_campaign):
    """The usual campaign, read once; whoever changes a campaign reads its own."""
    opened = open_workshop(usual_campaign, read_only=True)
    found = whole(opened)
    opened.close()
    return found


@pytest.fixture(scope="package")
def gathered(logbook):
    return gather(logbook)
