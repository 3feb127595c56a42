"""The end of a pull as it is stored: joined, analysed, also when the program was cut off."""

from __future__ import annotations

from bruiser.core.records.records import Pull, PullEnd
from bruiser.core.trace import TraceSettings
from bruiser.store import campaigns, pulls
from bruiser.store.acts import load_acts
from bruiser.store.holds import held_by_others
from bruiser.store.open_campaign import Connection
from bruiser.workshop.logbook.entries import seconds_of
from bruiser.workshop.logbook.traces import AnalysisKey, analyse_and_store
from bruiser.workshop.logbook.workshop import Workshop

FORGOTTEN_S = 12 * 3600.0
"""After so long without an end another bench's pull counts as interrupted."""


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
        workshop.note(connection, f"end a pull: {end.value.replace('_', ' ')}", (pull_id,))


def close_interrupted_pulls(workshop: Workshop) -> tuple[str, ...]:
    """End pulls that were cut off when the program was; returns their ids.

    Of a campaign on a server only those that this bench began, and those of other benches that
    nobody has heard of for :data:`FORGOTTEN_S`; never one that a window has in hand.
    """
    if workshop.read_only:
        return ()
    with workshop.file.reading() as connection:
        cut_off = [p for p in pulls.load_unended(connection) if _is_ours(workshop, connection, p)]
        diameters = campaigns.load_diameters(connection, [p.specimen_id for p in cut_off])
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


def _is_ours(workshop: Workshop, connection: Connection, pull: Pull) -> bool:
    """Whether a pull that has not ended was cut off, and is this bench's to end."""
    file = workshop.file
    if not file.shared:
        return True
    if pull.specimen_id in held_by_others(connection, file.token):
        return False
    begun_at = {act.bench for act in load_acts(connection, pull.id)}
    if file.worker.bench in begun_at:
        return True
    return seconds_of(workshop.now()) - seconds_of(pull.started_at) > FORGOTTEN_S
