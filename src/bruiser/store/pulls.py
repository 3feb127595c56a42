"""Rows of pulls, their samples and analyses, and the findings, as records and back."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass
from typing import Any

import numpy as np
import sqlalchemy as sa
from sqlalchemy.engine import Connection

from bruiser.core.errors import Damaged
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
from bruiser.core.trace import Slip, TraceEnd, TraceResult, TraceSettings
from bruiser.store import schema
from bruiser.store.traces import Floats, decode_samples, encode_extra, encode_samples

ANALYSIS_METHOD = "trace-2"
_AT_ONCE = 500
LONGEST_GAP = 10_000_000


def insert_pull(connection: Connection, pull: Pull) -> None:
    """Store the start of a pull."""
    values = asdict(pull)
    values["remains"] = None if pull.remains is None else json.dumps(pull.remains)
    connection.execute(sa.insert(schema.pull).values(values))


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
            remains=None if remains is None else json.dumps(remains, sort_keys=True),
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


def load_pulls(connection: Connection) -> list[Pull]:
    """All pulls, oldest first."""
    rows = connection.execute(
        sa.select(schema.pull).order_by(schema.pull.c.started_at, schema.pull.c.id)
    ).mappings()
    return [
        Pull(
            **{
                **row,
                "end": None if row["end"] is None else PullEnd(row["end"]),
                "remains": None if row["remains"] is None else json.loads(row["remains"]),
            }
        )
        for row in rows
    ]


@dataclass(frozen=True, kw_only=True)
class Samples:
    """A stored trace: equally long arrays, NaN where a reading is missing."""

    load_n: Floats
    travel_m: Floats
    load2_n: Floats | None = None
    tail_m: Floats | None = None

    def __len__(self) -> int:
        return len(self.load_n)

    @property
    def lost(self) -> int:
        """Places at which neither load nor travel was read."""
        return int(np.count_nonzero(np.isnan(self.load_n) & np.isnan(self.travel_m)))


def append_samples(connection: Connection, pull_id: str, first_seq: int, s: Samples) -> None:
    """Add a chunk of samples to a pull's trace."""
    connection.execute(
        sa.insert(schema.trace_chunk).values(
            pull_id=pull_id,
            first_seq=first_seq,
            count=len(s),
            data=encode_samples(s.load_n, s.travel_m),
            extra=encode_extra(s.load2_n, s.tail_m, len(s)),
        )
    )


def load_samples(connection: Connection, pull_id: str) -> Samples:
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
    found = np.full((4, length), np.nan)
    for row in rows:
        stretch = slice(row["first_seq"], row["first_seq"] + row["count"])
        found[:2, stretch] = decode_samples(row["data"], row["count"])
        if row["extra"] is not None:
            found[2:, stretch] = decode_samples(row["extra"], row["count"])
    load, travel, load2, tail = found
    return Samples(
        load_n=load,
        travel_m=travel,
        load2_n=None if np.isnan(load2).all() else load2,
        tail_m=None if np.isnan(tail).all() else tail,
    )


def seal_trace(connection: Connection, pull_id: str, samples: Samples) -> None:
    """Put all samples of a finished pull into one chunk in the place of those they came in."""
    if len(samples):
        connection.execute(
            sa.delete(schema.trace_chunk).where(schema.trace_chunk.c.pull_id == pull_id)
        )
        append_samples(connection, pull_id, 0, samples)


def insert_analysis(
    connection: Connection,
    analysis_id: str,
    pull_id: str,
    made_at: str,
    result: TraceResult,
    settings: TraceSettings | None = None,
) -> None:
    """Store what the analysis read off a trace, with what it went by; earlier ones stay."""
    said = json.dumps(asdict(settings or TraceSettings()), sort_keys=True)
    connection.execute(
        sa.insert(schema.trace_analysis).values(
            id=analysis_id,
            pull_id=pull_id,
            made_at=made_at,
            method=f"{ANALYSIS_METHOD} {said}",
            result=json.dumps(asdict(result)),
        )
    )


def load_analyses(
    connection: Connection, read_before: dict[str, TraceResult] | None = None
) -> dict[str, TraceResult]:
    """The newest analysis of every pull, by pull id.

    An analysis never changes: those in `read_before`, by their own id, are not read again, and the
    ones read now are added to it.
    """
    table, kept = schema.trace_analysis, {} if read_before is None else read_before
    pairs = connection.execute(sa.select(table.c.pull_id, table.c.id).order_by(sa.text("rowid")))
    newest = {pull_id: key for pull_id, key in pairs}
    wanted = [key for key in newest.values() if key not in kept]
    for start in range(0, len(wanted), _AT_ONCE):
        part = wanted[start : start + _AT_ONCE]
        rows = connection.execute(sa.select(table.c.id, table.c.result).where(table.c.id.in_(part)))
        kept.update((row.id, _trace_result(json.loads(row.result))) for row in rows)
    return {pull_id: kept[key] for pull_id, key in newest.items()}


@dataclass(frozen=True)
class StoredAnalysis:
    """One analysis of a pull's trace: when, by which settings, and what it said."""

    made_at: str
    settings: TraceSettings
    result: TraceResult


def load_analysis_history(connection: Connection, pull_id: str) -> list[StoredAnalysis]:
    """Every analysis ever made of a pull, oldest first."""
    rows = connection.execute(
        sa.select(schema.trace_analysis)
        .where(schema.trace_analysis.c.pull_id == pull_id)
        .order_by(sa.literal_column("rowid"))
    )
    found = []
    for row in rows:
        _, _, said = row.method.partition(" ")
        settings = TraceSettings(**json.loads(said)) if said else TraceSettings()
        found.append(StoredAnalysis(row.made_at, settings, _trace_result(json.loads(row.result))))
    return found


def _trace_result(data: dict[str, Any]) -> TraceResult:
    return TraceResult(
        **{
            **data,
            "end": TraceEnd(data["end"]),
            "slips": tuple(Slip(**slip) for slip in data["slips"]),
            "flags": tuple(data["flags"]),
            "draw_by_load_m": tuple(data.get("draw_by_load_m", ())),
        }
    )


def insert_finding(connection: Connection, finding: Finding) -> None:
    """Store a finding with its draws and inspections."""
    query = sa.select(sa.func.max(schema.finding.c.entry)).where(
        schema.finding.c.pull_id == finding.pull_id
    )
    entry = (connection.execute(query).scalar() or 0) + 1
    values = asdict(finding)
    del values["draws"], values["inspections"]
    values["withdrawn"] = int(finding.withdrawn)
    for name in ("lengths", "forms"):
        values[name] = json.dumps(values[name], sort_keys=True)
    connection.execute(sa.insert(schema.finding).values(entry=entry, **values))
    for draw in finding.draws:
        connection.execute(
            sa.insert(schema.tail_draw).values(
                finding_id=finding.id, key=draw.key, draw_m=draw.draw_m, u_m=draw.u_m, how=draw.how
            )
        )
    for seen in finding.inspections:
        connection.execute(
            sa.insert(schema.knot_inspection).values(
                finding_id=finding.id,
                end=seen.end.value,
                jam_level=seen.jam_level.value,
                untie_s=seen.untie_s,
                gave_up=int(seen.gave_up),
            )
        )


def load_findings(connection: Connection) -> dict[str, list[Finding]]:
    """Every finding ever made, by pull id, oldest first."""
    draws: dict[str, list[TailDraw]] = {}
    by_key = sa.select(schema.tail_draw).order_by(schema.tail_draw.c.key)
    for row in connection.execute(by_key).mappings():
        draw = TailDraw(key=row["key"], draw_m=row["draw_m"], u_m=row["u_m"], how=row["how"])
        draws.setdefault(row["finding_id"], []).append(draw)
    seen: dict[str, list[KnotInspection]] = {}
    query = sa.select(schema.knot_inspection).order_by(schema.knot_inspection.c.end)
    for row in connection.execute(query).mappings():
        seen.setdefault(row["finding_id"], []).append(
            KnotInspection(
                end=End(row["end"]),
                jam_level=JamLevel(row["jam_level"]),
                untie_s=row["untie_s"],
                gave_up=bool(row["gave_up"]),
            )
        )
    found: dict[str, list[Finding]] = {}
    for row in connection.execute(
        sa.select(schema.finding).order_by(schema.finding.c.entry)
    ).mappings():
        values = {k: v for k, v in row.items() if k != "entry"}
        values["gave"] = Gave(row["gave"])
        values["withdrawn"] = bool(row["withdrawn"])
        values["lengths"] = tuple(LengthAfter(**v) for v in json.loads(row["lengths"]))
        values["forms"] = tuple(
            FormChange(End(v["end"]), v["load_n"]) for v in json.loads(row["forms"])
        )
        key = row["id"]
        found.setdefault(row["pull_id"], []).append(
            Finding(**values, draws=tuple(draws.get(key, ())), inspections=tuple(seen.get(key, ())))
        )
    return found
