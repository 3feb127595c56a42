"""Rows of pulls, their samples and analyses, and the findings, as records and back."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import asdict, dataclass
from typing import Any, NamedTuple

import numpy as np
import sqlalchemy as sa
from sqlalchemy.engine import Connection

from bruiser.core.errors import Damaged, StoreError
from bruiser.core.json_records import read_record, write_record
from bruiser.core.records.layouts import End
from bruiser.core.records.records import (
    Finding,
    FormChange,
    Gave,
    JamLevel,
    KnotInspection,
    LengthAfter,
    Pull,
    PullEnd,
    TailDraw,
)
from bruiser.core.trace import CHANNELS, Trace, TraceResult, TraceSettings
from bruiser.store import schema
from bruiser.store.checked_rows import each, only
from bruiser.store.traces import ALWAYS_STORED, decode_trace, encode_trace

ANALYSIS_METHOD = "trace-2"
_AT_ONCE = 500
LONGEST_GAP = 10_000_000


def insert_pull(connection: Connection, pull: Pull) -> None:
    """Store the start of a pull."""
    insert_pulls(connection, [pull])


def insert_pulls(connection: Connection, made: Sequence[Pull]) -> None:
    """Store pulls, all at once."""
    rows = [
        {**p.__dict__, "remains": None if p.remains is None else write_record(p.remains)}
        for p in made
    ]
    if rows:
        connection.execute(sa.insert(schema.pull), rows)


def end_pull(
    connection: Connection,
    pull_id: str,
    ended_at: str,
    end: PullEnd,
    remains: dict[str, object] | None,
    samples_lost: int,
    sample_rate_hz: float,
) -> None:
    """Store how a pull ended; ``ValueError`` if it had ended before."""
    done = connection.execute(
        sa.update(schema.pull)
        .where(schema.pull.c.id == pull_id, schema.pull.c.ended_at.is_(None))
        .values(
            ended_at=ended_at,
            end=end.value,
            remains=None if remains is None else write_record(remains),
            samples_lost=samples_lost,
            sample_rate_hz=sample_rate_hz,
        )
    )
    if done.rowcount != 1:
        raise ValueError(f"pull {pull_id} is not running")


def set_sample_rate(connection: Connection, pull_id: str, sample_rate_hz: float) -> None:
    """Store at what rate a pull is sampled, as far as its samples have told."""
    table = schema.pull
    connection.execute(
        sa.update(table).where(table.c.id == pull_id).values(sample_rate_hz=sample_rate_hz)
    )


def load_pulls(connection: Connection, of: Collection[str] | None = None) -> list[Pull]:
    """Pulls, oldest first; of some specimens, or all."""
    table = schema.pull
    query = only(sa.select(table), table.c.specimen_id, of).order_by(table.c.started_at, table.c.id)
    return list(each(connection, "pull", query, _pull))


def load_unended(connection: Connection) -> list[Pull]:
    """Pulls that have not ended, oldest first."""
    table = schema.pull
    query = sa.select(table).where(table.c.ended_at.is_(None)).order_by(table.c.started_at)
    return list(each(connection, "pull", query, _pull))


def load_pull(connection: Connection, pull_id: str) -> Pull:
    """One pull by its id."""
    query = sa.select(schema.pull).where(schema.pull.c.id == pull_id)
    return _pull(dict(connection.execute(query).mappings().one()))


def _pull(row: dict[str, Any]) -> Pull:
    return Pull(
        **{
            **row,
            "end": None if row["end"] is None else PullEnd(row["end"]),
            "remains": None
            if row["remains"] is None
            else read_record(dict[str, Any], row["remains"]),
        }
    )


def append_samples(connection: Connection, pull_id: str, trace: Trace) -> None:
    """Add a chunk of samples to a pull's trace, at its place."""
    data, extra = encode_trace(trace)
    connection.execute(
        sa.insert(schema.trace_chunk).values(
            pull_id=pull_id, first_seq=trace.first, count=len(trace), data=data, extra=extra
        )
    )
    table = schema.trace_chunk
    mine = (table.c.pull_id == pull_id, table.c.first_seq == trace.first)
    stored = connection.execute(sa.select(table.c.count).where(*mine)).scalar()
    if stored != len(trace):
        raise StoreError(
            f"Of {len(trace)} samples {stored or 0} are in the campaign after they were stored.",
            "The samples are kept in memory: save them elsewhere, and look for damage.",
        )


def load_samples(connection: Connection, pull_id: str, rate_hz: float = 0.0) -> Trace:
    """All samples of a pull, each at its place; NaN where a chunk is missing.

    Raises
    ------
    Damaged
        If a chunk cannot be read, or stands where no pull can have got to.
    """
    table = schema.trace_chunk
    query = sa.select(table).where(table.c.pull_id == pull_id).order_by(table.c.first_seq)
    rows = connection.execute(query).mappings().all()
    length = max((row["first_seq"] + row["count"] for row in rows), default=0)
    if length > sum(row["count"] for row in rows) + LONGEST_GAP:
        raise Damaged("A stored trace has a gap of hours.", "The other pulls are unharmed.")
    found = {channel: np.full(length, np.nan) for channel in CHANNELS}
    for row in rows:
        stretch = slice(row["first_seq"], row["first_seq"] + row["count"])
        for channel, values in decode_trace(row["data"], row["extra"], row["count"]).items():
            found[channel][stretch] = values
    kept = {c: v for c, v in found.items() if c in ALWAYS_STORED or not np.isnan(v).all()}
    return Trace(channels=kept, rate_hz=rate_hz)


def seal_trace(connection: Connection, pull_id: str, trace: Trace) -> None:
    """Put all samples of a finished pull into one chunk in the place of those they came in."""
    if len(trace):
        connection.execute(
            sa.delete(schema.trace_chunk).where(schema.trace_chunk.c.pull_id == pull_id)
        )
        append_samples(connection, pull_id, trace)


def insert_analysis(
    connection: Connection,
    analysis_id: str,
    pull_id: str,
    made_at: str,
    result: TraceResult,
    settings: TraceSettings | None = None,
) -> None:
    """Store what the analysis read off a trace, with what it went by; earlier ones stay."""
    said = write_record(settings or TraceSettings())
    connection.execute(
        sa.insert(schema.trace_analysis).values(
            id=analysis_id,
            pull_id=pull_id,
            made_at=made_at,
            method=f"{ANALYSIS_METHOD} {said}",
            result=write_record(result),
        )
    )


def load_analyses(
    connection: Connection, of: Collection[str] | None = None
) -> dict[str, TraceResult]:
    """The newest analysis of every pull, by pull id; of some pulls, or of all."""
    table = schema.trace_analysis
    kept: dict[str, TraceResult] = {}
    pairs = only(sa.select(table.c.pull_id, table.c.id), table.c.pull_id, of)
    rows = connection.execute(pairs.order_by(sa.text("rowid")))
    newest: dict[str, str] = {pull_id: key for pull_id, key in rows}
    wanted = list(newest.values())
    for start in range(0, len(wanted), _AT_ONCE):
        part = wanted[start : start + _AT_ONCE]
        query = sa.select(table.c.id, table.c.result).where(table.c.id.in_(part))
        kept.update(each(connection, "trace_analysis", query, _analysis))
    return {pull_id: kept[key] for pull_id, key in newest.items() if key in kept}


def _analysis(row: dict[str, Any]) -> tuple[str, TraceResult]:
    return row["id"], read_record(TraceResult, row["result"])


@dataclass(frozen=True)
class StoredAnalysis:
    """One analysis of a pull's trace: when, by which settings, and what it said."""

    made_at: str
    settings: TraceSettings
    result: TraceResult


def load_analysis_history(connection: Connection, pull_id: str) -> list[StoredAnalysis]:
    """Every analysis ever made of a pull, oldest first."""
    query = (
        sa.select(schema.trace_analysis)
        .where(schema.trace_analysis.c.pull_id == pull_id)
        .order_by(sa.literal_column("rowid"))
    )
    return list(each(connection, "trace_analysis", query, _stored_analysis))


def _stored_analysis(row: dict[str, Any]) -> StoredAnalysis:
    _, _, said = row["method"].partition(" ")
    settings = read_record(TraceSettings, said or "{}")
    return StoredAnalysis(row["made_at"], settings, read_record(TraceResult, row["result"]))


def insert_finding(connection: Connection, finding: Finding) -> None:
    """Store a finding with its draws and inspections."""
    query = sa.select(sa.func.max(schema.finding.c.entry)).where(
        schema.finding.c.pull_id == finding.pull_id
    )
    entry = (connection.execute(query).scalar() or 0) + 1
    _insert_findings(connection, [(entry, finding)])


def insert_first_findings(connection: Connection, findings: Sequence[Finding]) -> None:
    """Store the first finding of pulls that have none, all at once."""
    _insert_findings(connection, [(1, finding) for finding in findings])


def _insert_findings(connection: Connection, findings: Sequence[tuple[int, Finding]]) -> None:
    rows, draws, seen = [], [], []
    for entry, finding in findings:
        values = {k: v for k, v in finding.__dict__.items() if k not in ("draws", "inspections")}
        values |= {
            "entry": entry,
            "withdrawn": int(finding.withdrawn),
            "lengths": write_record([asdict(x) for x in finding.lengths]),
            "forms": write_record([asdict(x) for x in finding.forms]),
        }
        rows.append(values)
        draws += [{"finding_id": finding.id, **d.__dict__} for d in finding.draws]
        seen += [
            {
                "finding_id": finding.id,
                "end": x.end.value,
                "jam_level": x.jam_level.value,
                "untie_s": x.untie_s,
                "gave_up": int(x.gave_up),
            }
            for x in finding.inspections
        ]
    for table, made in (
        (schema.finding, rows),
        (schema.tail_draw, draws),
        (schema.knot_inspection, seen),
    ):
        if made:
            connection.execute(sa.insert(table), made)


def load_findings(
    connection: Connection, of: Collection[str] | None = None
) -> dict[str, list[Finding]]:
    """Every finding ever made, by pull id, oldest first; of some pulls, or of all."""
    draws: dict[str, list[TailDraw]] = {}
    mine = only(sa.select(schema.finding.c.id), schema.finding.c.pull_id, of)
    by_key = sa.select(schema.tail_draw).order_by(schema.tail_draw.c.key)
    if of is not None:
        by_key = by_key.where(schema.tail_draw.c.finding_id.in_(mine))
    for key, draw in each(connection, "tail_draw", by_key, _tail_draw):
        draws.setdefault(key, []).append(draw)
    seen: dict[str, list[KnotInspection]] = {}
    query = sa.select(schema.knot_inspection).order_by(schema.knot_inspection.c.end)
    if of is not None:
        query = query.where(schema.knot_inspection.c.finding_id.in_(mine))
    for key, inspection in each(connection, "knot_inspection", query, _inspection):
        seen.setdefault(key, []).append(inspection)

    def made(row: dict[str, Any]) -> Finding:
        key = row["id"]
        values = {k: v for k, v in row.items() if k != "entry"}
        values["gave"] = Gave(row["gave"])
        values["withdrawn"] = bool(row["withdrawn"])
        values["lengths"] = read_record(tuple[LengthAfter, ...], row["lengths"])
        values["forms"] = read_record(tuple[FormChange, ...], row["forms"])
        return Finding(
            **values, draws=tuple(draws.get(key, ())), inspections=tuple(seen.get(key, ()))
        )

    found: dict[str, list[Finding]] = {}
    by_entry = only(sa.select(schema.finding), schema.finding.c.pull_id, of)
    by_entry = by_entry.order_by(schema.finding.c.entry)
    for finding in each(connection, "finding", by_entry, made):
        found.setdefault(finding.pull_id, []).append(finding)
    return found


def has_finding(connection: Connection, finding_id: str) -> bool:
    """Whether a finding is there, whatever corrected it since."""
    query = sa.select(sa.literal(1)).where(schema.finding.c.id == finding_id)
    return connection.execute(query).first() is not None


class Unsettled(NamedTuple):
    """A pull whose newest finding was not made from the one before it."""

    made_at: str
    finding_id: str
    pull_id: str


def load_unsettled(
    connection: Connection, of: Collection[str] | None = None
) -> dict[str, Unsettled]:
    """Pulls whose findings stand against one another, by specimen; of some specimens, or of all."""
    f, later, before = schema.finding, schema.finding.alias(), schema.finding.alias()
    newest = ~sa.exists().where(later.c.pull_id == f.c.pull_id, later.c.entry > f.c.entry)
    query = (
        sa.select(schema.pull.c.specimen_id, f.c.made_at, f.c.id, f.c.pull_id)
        .join(schema.pull, schema.pull.c.id == f.c.pull_id)
        .join(before, sa.and_(before.c.pull_id == f.c.pull_id, before.c.entry == f.c.entry - 1))
        .where(f.c.entry > 1, newest, before.c.id.is_distinct_from(f.c.supersedes))
        .order_by(f.c.made_at, f.c.id)
    )
    found = connection.execute(only(query, schema.pull.c.specimen_id, of))
    return {specimen_id: Unsettled(*row) for specimen_id, *row in found}


def _tail_draw(row: dict[str, Any]) -> tuple[str, TailDraw]:
    return row["finding_id"], TailDraw(
        key=row["key"], draw_m=row["draw_m"], u_m=row["u_m"], how=row["how"]
    )


def _inspection(row: dict[str, Any]) -> tuple[str, KnotInspection]:
    return row["finding_id"], KnotInspection(
        end=End(row["end"]),
        jam_level=JamLevel(row["jam_level"]),
        untie_s=row["untie_s"],
        gave_up=bool(row["gave_up"]),
    )
