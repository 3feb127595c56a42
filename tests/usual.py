"""The usual campaign of the tests: small, built pull by pull, with something of every kind in it.

R8 is a new dry cord with loops and bends, R8 wet the same cord soaked, T6 a worn thin one, N7 a
nylon one pulled by many methods, and R10 a rope that was never pulled. Figures are round, so that
what a test expects can be worked out by hand.
"""

from dataclasses import replace
from pathlib import Path

from bruiser.core.choice.brief import Brief, Claim, Criterion, DesignFactorEntry
from bruiser.core.choice.criteria import Measure, PassCriterion
from bruiser.core.performance.claims import ClaimKind
from bruiser.core.records.bench_book import BenchRecord, Fixture
from bruiser.core.records.layouts import End
from bruiser.core.records.methods import METHODS, RAMP, MethodPlan
from bruiser.core.records.preparation import TyingVerdict
from bruiser.core.records.readings import Takes
from bruiser.core.records.records import (
    CROSSED,
    DRESSED,
    Exclusion,
    Gave,
    JamLevel,
    Role,
    Tail,
)
from bruiser.core.records.stock import Hank, HankKind, StockEntry, StockMove
from bruiser.store import bench_books, briefs, campaigns, preparations, pulls, readings, stock
from bruiser.workshop.logbook.workshop import create_workshop
from tests.build import ROW, Situation, post

EYE = "eye against one end"
LOOSE = "end to end, with loss"
BOWLINE, EIGHT, OVERHAND, SHEET = "bowline", "figure-eight-loop", "overhand-loop", "sheet-bend"
CORD, WET, WORN, NYLON, HOST = (f"lot {name}" for name in ("R8", "R8 wet", "T6", "N7", "R10"))
ROUND_TURN = {"variant": "round turn (double)", "choices": (("turns", "round-turn"),)}
GAUGE_M = tuple(0.0005 * n for n in range(1, 21))


def knot_id(structure):
    """The id of a plain knot of the usual campaign."""
    return f"knot {structure} plain"


def usual():
    """All of it, as a situation to add to."""
    s = Situation()
    new = {"condition": "new, dry"}
    braid = {"construction": "double braid", "cord_model": "polyester double braid"}
    cord = s.lot("R8", mass_per_length_kg_m=0.05, **braid, **new)
    wet = s.lot(
        "R8 wet",
        **braid,
        condition="wet",
        stock_lot_id=cord.id,
        plain=(8_800.0, 9_000.0, 9_100.0),
        soak_s=7200.0,
        keep_s=1200.0,
    )
    kernmantle = {"construction": "kernmantle", "cord_model": "nylon kernmantle"}
    worn = s.lot(
        "T6",
        material="nylon",
        **kernmantle,
        condition="worn",
        diameter_m=0.006,
        plain=(5_900.0, 6_000.0, 6_200.0),
        rated_strength_n=None,
        rating_means="unknown",
    )
    nylon = s.lot("N7", material="nylon", diameter_m=0.007, **kernmantle, **new)
    host = s.lot("R10", diameter_m=0.010, plain=(), construction="kernmantle", **new)
    _loops_and_bends(s, cord)
    s.pull(BOWLINE, wet, 5_000.0, 5_200.0, 5_100.0)
    s.pull(BOWLINE, worn, 4_000.0, 4_100.0, jam=JamLevel.HAND)
    s.pull(BOWLINE, worn, 3_000.0, 3_100.0, gave=Gave.CAME_OUT)
    s.pull(EIGHT, worn, 4_000.0, 4_200.0, 4_500.0, 4_600.0, jam=JamLevel.TOOL)
    _by_many_methods(s, nylon, host)
    s.knot("artillery-loop")
    for entry in s.entries[::2]:
        s.change(entry.specimen.id, pull=replace(entry.pull, technician="OQ"))
    eights = [e for e in s.entries if e.specimen.title.startswith("Figure-eight loop")]
    left_out = next(e for e in eights if e.specimen.lot is worn)
    gone = Exclusion(
        id="x1",
        pull_id=left_out.pull.id,
        made_at="2026-03-05T09:00:00Z",
        excluded=True,
        reason="one tail was 40 mm short",
        by="TV",
    )
    s.change(left_out.specimen.id, exclusions=(gone,))
    return s


def _loops_and_bends(s, cord):
    by_hand = {"jam": JamLevel.HAND, "slip_n": 6_000.0, "drawn_m": GAUGE_M, "drew_m": 0.010}
    for loop, first, tied in ((BOWLINE, 7_300.0, 8.0), (EIGHT, 6_700.0, 6.0)):
        s.pull(loop, cord, *(first + 70 * n for n in range(5)), **by_hand)
        s.trial(loop, cord, tied, tied + 1.0, tied + 3.0, inspected=TyingVerdict.RIGHT)
    s.pull(BOWLINE, cord, 6_900.0, 7_000.0, 7_200.0, jam=JamLevel.WORKED, **ROUND_TURN)
    s.trial(BOWLINE, cord, 12.0, 13.0, inspected=TyingVerdict.RIGHT, **ROUND_TURN)
    s.pull(OVERHAND, cord, 5_900.0, 6_000.0, 6_200.0)
    s.trial(OVERHAND, cord, 5.0, 5.5, inspected=TyingVerdict.RIGHT)
    against = {"method": "cross and reverse", "direction": EYE}
    s.pull("alpine-butterfly", cord, 6_500.0, 6_600.0, 6_700.0, 6_800.0, **against)
    ends = {"jam": JamLevel.HAND, "slip_n": 6_000.0}
    s.pull("alpine-butterfly", cord, 7_000.0, 7_100.0, 7_250.0, 7_300.0, **ends)
    s.trial("alpine-butterfly", cord, 14.0, 16.0, inspected=TyingVerdict.RIGHT)
    s.pull(SHEET, cord, 3_900.0, 4_200.0, 4_400.0, 4_600.0, gave=Gave.CAME_OUT, drew_m=0.1)
    s.pull(SHEET, cord, 2_000.0, gave=Gave.VOID)
    s.pull("double-fishermans", cord, 7_900.0, 8_000.0, 8_100.0, 8_200.0)


def _by_many_methods(s, nylon, host):
    early = {"gave": Gave.STOPPED, "jam": JamLevel.HAND}
    s.pull(EIGHT, nylon, 2_100.0, 2_200.0, **early)
    s.pull(BOWLINE, nylon, 6_000.0, 6_100.0, method="ring load")
    hitch = {"gave": Gave.CAME_OUT, "fixture": post(name="post 1")}
    s.pull("clove-hitch", nylon, 2_000.0, 2_300.0, 2_500.0, 2_700.0, **hitch)
    gone = {"method": "cross and reverse", "gave": Gave.CAME_OUT}
    s.pull("artillery-loop", nylon, 2_000.0, 2_100.0, 2_300.0, direction=LOOSE, **gone)
    levels = (7_000.0, 7_200.0, 7_350.0, 7_550.0)
    for number, load in enumerate(levels):
        for dressing, share in ((DRESSED, 1.0), (CROSSED, 0.975 + 0.002 * number)):
            s.pull(
                "double-overhand-loop", nylon, share * load, pair=f"h{number}", dressing=dressing
            )
    cycles = {
        "method": "cycles",
        "gave": Gave.STOPPED,
        "readings": lambda entry: [s.reading(entry, Takes.CYCLE, n, 3_000.0) for n in range(1, 31)],
    }
    s.pull("zeppelin-bend", nylon, 3_000.0, 3_000.0, 3_000.0, **cycles)
    steps = ("hand", "hand", "tool")
    stepped = {
        "method": "stepped load",
        "gave": Gave.STOPPED,
        "readings": lambda entry: [
            s.reading(entry, Takes.UNTYING, n, 2_000.0 * n, 4.0, end=End.A, level=JamLevel(level))
            for n, level in enumerate(steps, start=1)
        ],
    }
    s.pull(BOWLINE, nylon, 6_000.0, 6_100.0, **stepped)
    for wraps in (1, 2, 3):
        loads = (1_500.0 * wraps, 1_600.0 * wraps, 1_700.0 * wraps)
        grip = {"method": "cord on rope", "values": (("wraps", wraps),), "lot_b": host}
        s.pull("prusik", nylon, *loads, gave=Gave.CAME_OUT, **grip)


def usual_brief(s):
    """Two criteria, one of them changed after two of its pulls, and three claims."""
    made_at = [e for e in s.entries if e.specimen.title.startswith("Overhand")][1].pull.ended_at
    holds = PassCriterion(measure=Measure.HOLDS_SHARE, threshold=0.60, need=4, of=4)
    at_knot = PassCriterion(measure=Measure.BREAKS_AT_KNOT, threshold=0.55, need=2, of=4)
    first = Criterion(
        id="c1",
        made_at="2026-02-01T08:00:00Z",
        rule=holds,
        lot_ids=(CORD,),
        knot_ids=(knot_id(BOWLINE), knot_id(EIGHT)),
    )
    loose = Criterion(
        id="c2",
        made_at="2026-02-01T08:01:00Z",
        rule=at_knot,
        lot_ids=(CORD,),
        knot_ids=(knot_id(OVERHAND),),
    )
    changed = replace(
        loose,
        id="c3",
        made_at=made_at,
        rule=replace(at_knot, need=3),
        supersedes="c2",
        comment="two were too few",
    )
    claims = (
        Claim(
            id="m1",
            made_at="2026-02-01T08:02:00Z",
            kind=ClaimKind.KEEPS_AT_LEAST,
            knot_id=knot_id(BOWLINE),
            lot_id=CORD,
            share=0.6,
        ),
        Claim(
            id="m2",
            made_at="2026-02-01T08:03:00Z",
            kind=ClaimKind.NEVER_COMES_OUT,
            knot_id=knot_id(SHEET),
            lot_id=CORD,
        ),
        Claim(
            id="m3",
            made_at="2026-02-01T08:04:00Z",
            kind=ClaimKind.WRAPS_HOLD,
            knot_id=knot_id("prusik"),
            lot_id=NYLON,
            wraps=3,
            load_n=3_000.0,
        ),
    )
    factor = DesignFactorEntry(
        id="d1", made_at="2026-02-01T08:05:00Z", value=10.0, source="house rule"
    )
    return Brief(
        uses=("tether-loop", "line-joined", "post"),
        criteria=(first, loose, changed),
        claims=claims,
        factors=(factor,),
    )


BENCH = BenchRecord(
    id="bench",
    name="simulated bench",
    stroke_m=1.2,
    rate_m_s=0.005,
    capacity_n=25_000.0,
    resolution_n=2.0,
    sample_rate_hz=200.0,
    keep_away="nobody in the lane",
    guard="steel cage",
    guard_energy_j=4_000.0,
    methods=METHODS,
)
PIN = Fixture(
    id="f pin 3", kind="pin", name="pin 3", material="steel", finish="turned", diameter_m=0.012
)


def usual_queue(s):
    """What waits: a figure-eight, a bowline and an overhand loop in R8, straight pulls of T6."""
    cord, _, worn, *_ = s.lots
    at = len(s.entries)
    made = []
    for number, (structure, lot) in enumerate(
        ((EIGHT, cord), (BOWLINE, cord), (OVERHAND, cord), (None, worn), (None, worn))
    ):
        common = {
            "id": f"q{number}",
            "code": f"S-{900 + number}",
            "queue_position": at + number,
            "seed": 5 + number,
        }
        if structure is None:
            planned = s.specimen(lot, MethodPlan("straight pull"), role=Role.BASELINE, **common)
        else:
            knot = s.knot(structure)
            planned = s.specimen(
                lot,
                MethodPlan(RAMP),
                role=Role.KNOT,
                layout_key="loop_pair",
                knot_a=knot,
                knot_b=knot,
                tails=(Tail("tail_a", 0.1), Tail("tail_b", 0.1)),
                pin_diameter_m=0.012,
                **common,
            )
        made.append(planned)
    return made


def store(s, path: Path, *, brief=None, queue=(), hanks=((CORD, 60.0), (CORD, 60.0), (HOST, 30.0))):
    """Put a situation into a campaign file; pulls without their traces."""
    workshop = create_workshop(path, ROW)
    with workshop.file.writing() as c:
        for lot in s.lots:
            campaigns.insert_lot(c, lot)
        for number, (lot_id, length_m) in enumerate(hanks, start=1):
            label = f"{lot_id.removeprefix('lot ')}/{number}"
            hank = Hank(id=f"h{number}", lot_id=lot_id, label=label, kind=HankKind.SPOOL)
            stock.insert_hank(c, hank)
            came = StockEntry(
                id=f"e{number}",
                hank_id=hank.id,
                made_at="2026-02-01T07:00:00Z",
                move=StockMove.RECEIVED,
                change_m=length_m,
            )
            stock.insert_entry(c, came)
        for knot in s.knots.values():
            campaigns.insert_knot(c, knot)
        bench_books.put_bench(c, BENCH)
        fixtures = {
            e.specimen.fixture.id: e.specimen.fixture for e in s.entries if e.specimen.fixture
        }
        for fixture in (PIN, *fixtures.values()):
            bench_books.insert_fixture(c, fixture)
        for entry in s.entries:
            _put(c, entry)
        for specimen in queue:
            campaigns.insert_specimen(c, specimen)
        for specimen in queue[:1]:
            stock.insert_entry(c, _cut(specimen))
        written = brief or Brief()
        briefs.replace_uses(c, written.uses)
        for criterion in written.criteria:
            briefs.insert_criterion(c, criterion)
        for claim in written.claims:
            briefs.insert_claim(c, claim)
        for factor in written.factors:
            briefs.insert_factor(c, factor)
    workshop.close()
    return path


def _cut(specimen):
    """The piece a specimen is made of, cut from the first hank."""
    return StockEntry(
        id=f"e {specimen.id}",
        hank_id="h1",
        made_at="2026-02-01T07:30:00Z",
        move=StockMove.CUT,
        change_m=-2.0,
        specimen_id=specimen.id,
    )


def _put(c, entry):
    campaigns.insert_specimen(c, entry.specimen)
    for step in entry.prepared:
        preparations.insert_preparation(c, step)
    pull = entry.pull
    if pull is None:
        return
    pulls.insert_pull(c, pull)
    pulls.insert_analysis(c, f"a {pull.id}", pull.id, pull.ended_at, entry.analysis)
    for reading in entry.readings:
        readings.insert_reading(c, reading)
    if entry.finding is not None:
        pulls.insert_finding(c, entry.finding)
    for exclusion in entry.exclusions:
        readings.insert_exclusion(c, exclusion)
