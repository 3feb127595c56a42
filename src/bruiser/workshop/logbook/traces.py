"""Stored traces: read with their time, and analysed for keeps in one way."""

from __future__ import annotations

from dataclasses import dataclass

from bruiser.core.records.records import Pull
from bruiser.core.trace import Trace, TraceSettings, analyse_trace
from bruiser.store import pulls
from bruiser.store.open_campaign import Connection
from bruiser.workshop.logbook.workshop import Workshop

FEWEST_SAMPLES = 10


def read_trace(workshop: Workshop, pull: Pull) -> Trace:
    """Read a pull's samples."""
    with workshop.file.reading() as connection:
        return pulls.load_samples(connection, pull.id, pull.sample_rate_hz)


@dataclass(frozen=True, kw_only=True)
class AnalysisKey:
    """Under which id an analysis is stored, for which pull, and when it was made."""

    id: str
    pull_id: str
    made_at: str


def analyse_and_store(
    connection: Connection,
    key: AnalysisKey,
    trace: Trace,
    capacity_n: float,
    settings: TraceSettings | None = None,
) -> None:
    """Store what the analysis reads off a trace; too few samples say nothing."""
    if len(trace) < FEWEST_SAMPLES:
        return
    result = analyse_trace(trace, capacity_n=capacity_n, settings=settings)
    pulls.insert_analysis(connection, key.id, key.pull_id, key.made_at, result, settings)
