"""The end of a pull as it is stored: joined, analysed, also when the program was cut off."""

from __future__ import annotations

from bruiser.core.records.records import PullEnd
from bruiser.core.trace import TraceSettings
from bruiser.store import campaigns, pulls
from bruiser.workshop.logbook.traces import AnalysisKey, analyse_and_store
from bruiser.workshop.logbook.workshop import Workshop


def close_pull(
    workshop: Workshop,
    pull_id: str,
    end: PullEnd,
    remains: dict[str, object] | None,
    sample_rate_hz: float,
    capacity_n: float,
    *,
    samples_lost: int = 0,
    settings: TraceSettings | None = None,
) -> None:
    """Mark a pull as ended, join its trace, and store what the analysis reads off it.

    The sample rate is what the samples said by the end; places without a sample are counted as
    lost.
    """
    with workshop.file.writing() as connection:
        trace = pulls.load_samples(connection, pull_id, sample_rate_hz)
        lost = max(samples_lost, trace.lost)
        pulls.end_pull(connection, pull_id, workshop.now(), end, remains, lost, sample_rate_hz)
        pulls.seal_trace(connection, pull_id, trace)
        key = AnalysisKey(id=workshop.new_id(), pull_id=pull_id, made_at=workshop.now())
        analyse_and_store(connection, key, trace, capacity_n, settings)


def close_interrupted_pulls(workshop: Workshop) -> tuple[str, ...]:
    """End pulls that were cut off when the program was; returns their ids."""
    if workshop.read_only:
        return ()
    with workshop.file.reading() as connection:
        cut_off = [p for p in pulls.load_pulls(connection) if p.ended_at is None]
        diameters = campaigns.load_diameters(connection)
    for pull in cut_off:
        if pull.specimen_id not in diameters:
            continue
        close_pull(
            workshop,
            pull.id,
            PullEnd.INTERRUPTED,
            None,
            pull.sample_rate_hz,
            pull.capacity_n,
            settings=TraceSettings(diameter_m=diameters[pull.specimen_id]),
        )
    return tuple(p.id for p in cut_off)
