"""What the demo pulls by every method: which knot in which lot, how often, and on what."""

from __future__ import annotations

from dataclasses import KW_ONLY, dataclass

from bruiser.app.demo_plan import KnotPick
from bruiser.core.records.legs import BACKWARDS, STANDING, say_legs
from bruiser.core.records.methods import RAMP, STRAIGHT, MethodPlan
from bruiser.core.records.records import CROSSED, DRESSED
from bruiser.core.records.tied_state import PLAIN_STATE, TiedState


@dataclass(frozen=True)
class MethodCell:
    """Specimens that are alike: a knot in a lot by a method, and how many."""

    lot: str
    knot: KnotPick | None
    method: MethodPlan
    _: KW_ONLY
    count: int
    fixture: str = ""
    lot_b: str = ""
    dressing: str = DRESSED
    trial: bool = False
    state: TiedState = PLAIN_STATE


def _plan(key: str, direction: str = "", **values: float) -> MethodPlan:
    return MethodPlan(key, tuple(values.items()), direction)


EIGHT, _BOWLINE = KnotPick("figure-eight-loop"), KnotPick("bowline")
_BUTTERFLY, _ARTILLERY = KnotPick("alpine-butterfly"), KnotPick("artillery-loop")
PRUSIK = KnotPick("prusik")
_STOPPED = _plan("stopper through a plate")
_SQUEEZED = _plan("retention test", count=15)
_LEDGE = _plan("bulk and snag")
_LADDER = _plan("stepped load", first=0.15, step=0.15, last=0.60, hold=5.0)
CELLS = (
    *(MethodCell(lot, None, _plan(STRAIGHT), count=5) for lot in ("N7-T", "N5-T")),
    MethodCell("N7-T", EIGHT, _LADDER, count=4, trial=True),
    MethodCell("N7-T", _BOWLINE, _LADDER, count=4, trial=True),
    MethodCell("N7-T", KnotPick("sheet-bend"), _plan("cycles", high=0.30, count=30), count=3),
    MethodCell("N7-T", KnotPick("zeppelin-bend"), _plan("cycles", high=0.30, count=30), count=3),
    MethodCell("N7-T", _BOWLINE, _plan("slack and snatch", count=30), count=4),
    MethodCell("N7-T", EIGHT, _plan("slack and snatch", count=30), count=3),
    *(
        MethodCell("N7-T", knot, _plan("cross and reverse", direction), count=3)
        for knot, direction in (
            (_BUTTERFLY, "end to end"),
            (_BUTTERFLY, "eye against one end"),
            (_BUTTERFLY, "eye against both ends"),
            (_ARTILLERY, "eye against one end"),
            (_ARTILLERY, "end to end"),
        )
    ),
    *(
        MethodCell(
            lot, PRUSIK, _plan("cord on rope", wraps=wraps, most=0.85), count=3, lot_b="K10-H"
        )
        for lot in ("N5-T", "N7-T")
        for wraps in (1, 2, 3)
    ),
    MethodCell("N7-T", EIGHT, _plan(RAMP), count=4),
    MethodCell("N7-T", EIGHT, _plan(RAMP), count=4, dressing=CROSSED),
    MethodCell("N7-T", KnotPick("double-sheet-bend"), _plan(RAMP), count=4, lot_b="N5-T"),
    MethodCell("N7-T", _BOWLINE, _plan("ring load"), count=3),
    MethodCell("N7-T", EIGHT, _plan("over an edge"), count=3, fixture="edge"),
    MethodCell("N7-T", EIGHT, _plan("sustained hold", level=0.55, hold=60.0), count=2),
    MethodCell("N7-T", KnotPick("bowline-on-the-bight"), _plan(RAMP), count=2, trial=True),
    MethodCell("N5-T", KnotPick("taut-line-hitch"), _plan("slide test"), count=3),
    MethodCell(
        "N7-T", KnotPick("truckers-hitch"), _plan("advantage test"), count=3, fixture="host"
    ),
    MethodCell("N5-T", KnotPick("constrictor"), _SQUEEZED, count=3, fixture="host"),
    MethodCell(
        "N7-T", KnotPick("round-turn-two-half-hitches"), _plan("on a host"), count=3, fixture="host"
    ),
    MethodCell("N5-T", KnotPick("figure-eight-stopper"), _STOPPED, count=3, fixture="plate"),
    MethodCell(
        "N7-T",
        KnotPick("slipped-half-hitch"),
        _plan("release test", count=10),
        count=3,
        fixture="host",
        trial=True,
    ),
)
GUIDE_CELLS = (
    MethodCell("P8-B", _BUTTERFLY, _plan("cross and reverse", "end to end"), count=4),
    MethodCell("P8-B", _BUTTERFLY, _plan("cross and reverse", "eye against one end"), count=4),
    MethodCell("P8-B", _BUTTERFLY, _LADDER, count=4),
    MethodCell("P8-B", KnotPick("zeppelin-bend"), _plan(RAMP), count=5),
    MethodCell("P8-B", KnotPick("flat-overhand"), _plan(RAMP), count=3),
    MethodCell("N7-T", KnotPick("round-turn-two-half-hitches"), _LADDER, count=4, fixture="host"),
    MethodCell("N7-T", KnotPick("clove-hitch"), _plan("on a host"), count=4, fixture="host"),
)
WORK_CELLS = (
    MethodCell("N5-T", KnotPick("clove-binding"), _SQUEEZED, count=4, fixture="host"),
    *(
        MethodCell(
            "N5-T",
            KnotPick(name),
            _plan("cord on rope", wraps=3, most=0.85),
            count=3,
            lot_b="K10-H",
        )
        for name in ("klemheist", "autoblock")
    ),
    MethodCell("N5-T", KnotPick("farrimond"), _plan("slide test"), count=3),
    MethodCell("N5-T", KnotPick("double-overhand-stopper"), _STOPPED, count=3, fixture="plate"),
    MethodCell(
        "N7-T",
        KnotPick("halter-hitch"),
        _plan("release test", count=8),
        count=4,
        fixture="host",
    ),
    *(
        MethodCell("N7-T", KnotPick(name), _LEDGE, count=3)
        for name in ("zeppelin-bend", "flat-overhand")
    ),
)
_CUT = TiedState(cut_share=0.4)
_RING = KnotPick("ring-bend")
STATE_CELLS = (
    MethodCell("W25-T", None, _plan(STRAIGHT), count=5),
    MethodCell("W25-T", _RING, _plan(RAMP), count=3),
    MethodCell("W25-T", _RING, _plan(RAMP), count=2, state=TiedState(around_m=0.9, joint_m=0.225)),
    MethodCell(
        "N7-T",
        KnotPick("double-fishermans"),
        _plan(RAMP),
        count=3,
        state=TiedState(around_m=0.8, joint_m=0.2),
    ),
    *(
        MethodCell(
            "N7-T", KnotPick("double-sheet-bend"), _plan(RAMP), count=4, state=TiedState(tail_d=d)
        )
        for d in (0.0, 4.0, 1.5)
    ),
    MethodCell("N7-T", None, _plan(STRAIGHT), count=3, state=_CUT),
    MethodCell("N7-T", _BUTTERFLY, _plan("cross and reverse", "end to end"), count=3, state=_CUT),
    MethodCell("N7-T", KnotPick("double-figure-eight-loop"), _plan(RAMP), count=2),
    MethodCell(
        "N7-T",
        KnotPick("double-figure-eight-loop"),
        _plan(RAMP),
        count=2,
        state=TiedState(longer_eye=0.3),
    ),
    MethodCell("N7-T", KnotPick("zeppelin-bend"), _plan("shaking under load"), count=3),
    MethodCell(
        "N5-T",
        KnotPick("klemheist"),
        _plan("cord on rope", say_legs(frozenset({STANDING, BACKWARDS})), wraps=3, most=0.85),
        count=3,
        lot_b="K10-H",
    ),
)
WAITING_CELLS = (
    MethodCell("N7-T", EIGHT, _LADDER, count=1),
    MethodCell("N7-T", _BUTTERFLY, _plan("cross and reverse", "eye against both ends"), count=1),
)
