import pytest

from bruiser.core.records.records import Knot, Lot, Role, Specimen, Tail
from bruiser.core.records.stock import Hank, HankKind, Move, StockEntry
from bruiser.store.campaigns import CampaignRow
from bruiser.workshop.desk.knot_commands import AddKnot
from bruiser.workshop.desk.lot_commands import AddLot, ReceiveHank
from bruiser.workshop.logbook.commands import PlanSpecimen
from bruiser.workshop.logbook.entries import read_logbook
from bruiser.workshop.logbook.workshop import create_workshop, open_workshop
from bruiser.workshop.results.gathering import gather

ROW = CampaignRow(
    id="c",
    title="Trial",
    station="Bench",
    question="Which?",
    synthetic=False,
    force_unit="kN",
    length_unit="mm",
    created_at="2026-01-01T00:00:00Z",
)
LOT = Lot(
    id="l1",
    name="P8",
    material="polyester",
    construction="braid",
    diameter_m=0.008,
    condition="dry",
    rated_strength_n=13_000.0,
    rating_means="minimum",
)
KNOT = Knot(id="k1", structure="bowline", variant="plain", name="Bowline", family="end loop")
SPECIMEN = Specimen(
    id="s1",
    code="S-001",
    role=Role.KNOT,
    lot=LOT,
    layout_key="loop_pair",
    queue_position=1,
    span_m=0.4,
    knot_a=KNOT,
    knot_b=KNOT,
    tails=(Tail("tail_a", 0.1), Tail("tail_b", 0.11)),
    pin_diameter_m=0.012,
    set_load_n=600.0,
    seed=5,
    note="first",
)
HANK = Hank(id="h1", lot_id="l1", label="P8/1", kind=HankKind.HANK)


class Ticking:
    """A clock that moves a minute at every look, and ids that count up."""

    def __init__(self):
        self.minute = 0
        self.number = 0

    def now(self):
        self.minute += 1
        hour, minute = divmod(self.minute, 60)
        return f"2026-02-01T{hour:02}:{minute:02}:00Z"

    def new_id(self):
        self.number += 1
        return f"id{self.number}"


@pytest.fixture
def fresh(tmp_path):
    ticking = Ticking()
    made = create_workshop(tmp_path / "new.bruiser", ROW, now=ticking.now, new_id=ticking.new_id)
    yield made
    made.close()


@pytest.fixture
def stocked(fresh):
    """A lot with a hank of 20 m, a knot, and one planned specimen."""
    entry = StockEntry(
        id="e1", hank_id="h1", made_at=fresh.now(), move=Move.RECEIVED, change_m=20.0
    )
    for command in (
        AddLot(LOT),
        ReceiveHank(HANK, entry),
        AddKnot(KNOT),
        PlanSpecimen(SPECIMEN),
    ):
        fresh.do(command)
    return fresh


@pytest.fixture(scope="package")
def logbook(shipped_demo):
    """The demo's logbook, read once; whoever changes a campaign reads its own."""
    opened = open_workshop(shipped_demo, read_only=True)
    found = read_logbook(opened)
    opened.close()
    return found


@pytest.fixture(scope="package")
def gathered(logbook):
    return gather(logbook)
