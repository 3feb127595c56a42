"""The rows of a pull table gathered into groups, ready for the statistics."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from bruiser.core.behaviour.duties import AdvantagePull, BulkPull, ReleasePull, RetentionPull
from bruiser.core.behaviour.holding import HoldPull
from bruiser.core.behaviour.work import WorkPulls
from bruiser.core.behaviour.wraps import WrapSample
from bruiser.core.performance.evidence import (
    GroupData,
    PullSays,
    knot_evidence,
    plain_evidence,
)
from bruiser.core.records.outcomes import Says, knot_says
from bruiser.core.records.records import Gave, JamLevel, Outcome
from bruiser.formats.pull_table import (
    KNOT_FINDINGS,
    PullRow,
    PullTable,
    TableMethod,
)


@dataclass(frozen=True, kw_only=True)
class _Share:
    """What one row says of one knot."""

    row: PullRow
    events: int
    floors: int
    breaks: int
    kind: Outcome
    inspected: bool


def _shares(row: PullRow) -> list[tuple[str, _Share]]:
    """What a knot pull says of each knot tied in it."""
    gave = KNOT_FINDINGS[row.finding]
    at_knot = row.gave_here
    kind = Outcome.BROKE if gave is Gave.BROKE else Outcome.CAME_OUT
    if row.knot_b:
        found = []
        for knot, end in ((row.knot, "A"), (row.knot_b, "B")):
            here = at_knot and row.failed_end == end
            says, breaking = knot_says(gave, here)
            # The inspected knot is the one that held.
            share = _Share(
                row=row,
                events=int(says is Says.EVENT),
                floors=int(says is Says.FLOOR),
                breaks=int(breaking is Says.EVENT),
                kind=kind if here else Outcome.OUTLASTED,
                inspected=not here,
            )
            found.append((knot, share))
        return found
    says, breaking = knot_says(gave, at_knot)
    events = int(says is Says.EVENT)
    floors = 0 if says is Says.NOTHING else row.ends - events
    breaks = int(breaking is Says.EVENT)
    how = kind if at_knot else Outcome.OUTLASTED
    return [
        (
            row.knot,
            _Share(row=row, events=events, floors=floors, breaks=breaks, kind=how, inspected=True),
        )
    ]


def group_pulls(table: PullTable) -> list[GroupData]:
    """Gather the rows of a table into groups: baselines first, then knots as they come."""
    baselines: dict[tuple[str, str], list[PullRow]] = {}
    knots: dict[tuple[str, str, str, str], list[_Share]] = {}
    for row in table.rows:
        if row.baseline:
            baselines.setdefault((row.cordage, row.condition), []).append(row)
            continue
        for knot, share in _shares(row):
            key = (row.cordage, row.cordage_b, row.condition, knot)
            knots.setdefault(key, []).append(share)
    found = [_baseline(key, rows) for key, rows in baselines.items()]
    return found + [_knot(key, shares) for key, shares in knots.items()]


def _baseline(key: tuple[str, str], rows: list[PullRow]) -> GroupData:
    used = [r for r in rows if not r.void]
    says = [_plain_says(r, r.finding == "broke_clear") for r in used]
    return plain_evidence(*key, says, len(rows) - len(used))


def _plain_says(row: PullRow, clear: bool) -> PullSays:
    return PullSays(
        pull_id=row.pull,
        load_n=row.peak_n,
        events=int(clear),
        floors=int(not clear),
        breaks=int(clear),
        kind=Outcome.BROKE if clear else Outcome.OUTLASTED,
        context=row.context,
    )


def _knot_says(share: _Share) -> PullSays:
    row = share.row
    jammed = share.inspected and row.jam_level is not None and row.jam_load_n > 0
    timed = share.inspected and row.untie_s is not None
    return PullSays(
        pull_id=row.pull,
        load_n=row.peak_n,
        events=share.events,
        floors=share.floors,
        breaks=share.breaks,
        kind=share.kind,
        context=row.context,
        jams=((row.jam_load_n, row.jam_level or JamLevel.NOT_TRIED),) if jammed else (),
        untied=((row.untie_s or 0.0, row.gave_up),) if timed else (),
    )


def _knot(key: tuple[str, str, str, str], shares: list[_Share]) -> GroupData:
    cordage, cordage_b, condition, knot = key
    used = [s for s in shares if not s.row.void]
    ramp = [s for s in used if s.row.method is TableMethod.RAMP]
    others = [s for s in used if s.row.method is not TableMethod.RAMP]
    cycled = _counted(used, TableMethod.RAMP, TableMethod.CYCLES)
    shaken = _counted(used, TableMethod.SHAKING)
    grips = (TableMethod.RAMP, TableMethod.SLIDE)
    wrapped = [s for s in used if s.row.wraps is not None and s.row.method in grips]
    wraps = None
    if wrapped:
        wraps = WrapSample(
            wraps=np.array([float(s.row.wraps or 0) for s in wrapped]),
            ln_grip=np.log([s.row.peak_n for s in wrapped]),
            held=np.array([not _slid(s) for s in wrapped]),
            pull_ids=tuple(s.row.pull for s in wrapped),
        )
    return replace(
        knot_evidence(
            knot,
            cordage,
            condition,
            [_knot_says(s) for s in ramp],
            len(shares) - len(used),
            [_knot_says(s) for s in others],
        ),
        cordage_b=cordage_b,
        cycles=np.array([r.cycles for r in cycled], dtype=np.float64),
        cycles_failed=np.array([r.cycles_failed for r in cycled], dtype=np.float64),
        shakes=np.array([r.cycles for r in shaken], dtype=np.float64),
        shakes_failed=np.array([r.cycles_failed for r in shaken], dtype=np.float64),
        work=_work(used),
        wraps=wraps,
    )


def _counted(shares: list[_Share], *methods: TableMethod) -> list[PullRow]:
    return [s.row for s in shares if s.row.cycles is not None and s.row.method in methods]


def _slid(share: _Share) -> bool:
    """Whether it lost its grip; a break and a stop say that it held at least that."""
    return share.events > 0 and share.row.finding != "broke_at_knot"


def _work(shares: list[_Share]) -> WorkPulls:
    """What the rows of one group say of the work that it is for."""

    def of(method: TableMethod) -> list[_Share]:
        return [s for s in shares if s.row.method is method]

    return WorkPulls(
        slides=tuple(_hold(s, _slid(s)) for s in of(TableMethod.SLIDE)),
        seats=tuple(
            _hold(s, s.events > 0 and s.row.finding == "came_out") for s in of(TableMethod.SEAT)
        ),
        releases=tuple(
            ReleasePull(
                pull_id=s.row.pull,
                held_n=s.row.peak_n,
                force_n=s.row.loads_n.get("release_force"),
                freed=s.row.answers.get("freed"),
                freed_itself=s.row.answers.get("freed_itself"),
            )
            for s in of(TableMethod.RELEASE)
        ),
        advantages=tuple(
            AdvantagePull(
                pull_id=s.row.pull,
                hand_n=s.row.loads_n["hand_load"],
                applied_n=s.row.loads_n["applied_load"],
                kept_n=s.row.loads_n.get("kept_load"),
            )
            for s in of(TableMethod.ADVANTAGE)
        ),
        retentions=tuple(
            RetentionPull(
                pull_id=s.row.pull,
                before_n=s.row.loads_n["before_load"],
                after_n=s.row.loads_n["after_load"],
                cycles=s.row.cycles_done,
                cut=_was_cut(s.row.jam_level),
            )
            for s in of(TableMethod.RETENTION)
        ),
        bulks=tuple(
            BulkPull(
                pull_id=s.row.pull,
                width_d=s.row.width_d or 0.0,
                force_n=s.row.loads_n.get("ledge_force"),
                passed=s.row.answers.get("passed", True),
            )
            for s in of(TableMethod.BULK)
        ),
    )


def _hold(share: _Share, gave: bool) -> HoldPull:
    row = share.row
    return HoldPull(
        pull_id=row.pull,
        load_n=row.peak_n,
        gave=gave,
        others=max(share.events + share.floors - 1, 0),
        slides_by_hand=row.answers.get("slides_by_hand"),
        frees_by_hand=row.answers.get("frees_by_hand"),
        sheath=row.sheath,
    )


def _was_cut(level: JamLevel | None) -> bool | None:
    if level is None or level is JamLevel.NOT_TRIED:
        return None
    return level in (JamLevel.CUT, JamLevel.FUSED)
