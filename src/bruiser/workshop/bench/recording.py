"""Pulls without an instrument on a line: a peak read off a display, or a logger's file."""

from __future__ import annotations

from pathlib import Path

from bruiser.core.decimal_sign import loads_about
from bruiser.core.records.records import Pull, PullEnd, Specimen
from bruiser.core.trace import Trace, TraceSettings
from bruiser.core.trace.even import even_trace
from bruiser.formats.logger_file import LoggerHints, read_logger_file
from bruiser.store import pulls
from bruiser.workshop.bench.pull_end import close_pull
from bruiser.workshop.logbook.commands import Changes
from bruiser.workshop.logbook.workshop import Workshop

HAND_SCALE = "hand scale, peak read off its display"
LOGGER = "logger file"


def record_by_hand(
    workshop: Workshop, specimen: Specimen, rate_m_s: float, capacity_n: float, technician: str = ""
) -> str:
    """Note that a specimen was pulled with nothing recording; its peak is typed in Findings."""
    pull = _begin(workshop, specimen, HAND_SCALE, 1.0, rate_m_s, capacity_n, technician)
    close_pull(workshop, pull.id, PullEnd.GAVE, None, 1.0, capacity_n)
    workshop.announce(Changes(frozenset({"pull"}), (pull.id,)))
    return pull.id


def record_from_file(
    workshop: Workshop,
    specimen: Specimen,
    path: Path,
    rate_m_s: float,
    capacity_n: float,
    technician: str = "",
) -> str:
    """Store a logger's file as the pull of a specimen, with its analysis.

    Raises
    ------
    InputError
        If the file cannot be read, holds no trace, or its times do not rise evenly.
    """
    rated_n = specimen.lot.rated_strength_n
    hints = LoggerHints(loads_n=loads_about(rated_n) if rated_n else None)
    trace, rate_hz = even_trace(read_logger_file(path, hints).trace, path.name)
    return record_trace(workshop, specimen, trace, rate_hz, rate_m_s, capacity_n, technician)


def record_trace(
    workshop: Workshop,
    specimen: Specimen,
    trace: Trace,
    rate_hz: float,
    rate_m_s: float,
    capacity_n: float,
    technician: str = "",
) -> str:
    """Store a trace at a constant rate as the pull of a specimen, with its analysis."""
    pull = _begin(workshop, specimen, LOGGER, rate_hz, rate_m_s, capacity_n, technician)
    with workshop.file.writing() as connection:
        pulls.append_samples(connection, pull.id, trace)
    close_pull(
        workshop,
        pull.id,
        PullEnd.GAVE,
        None,
        rate_hz,
        capacity_n,
        settings=TraceSettings(diameter_m=specimen.lot.diameter_m),
    )
    workshop.announce(Changes(frozenset({"pull"}), (pull.id,)))
    return pull.id


def _begin(
    workshop: Workshop,
    specimen: Specimen,
    instrument: str,
    rate_hz: float,
    rate_m_s: float,
    capacity_n: float,
    technician: str,
) -> Pull:
    pull = Pull(
        id=workshop.new_id(),
        specimen_id=specimen.id,
        started_at=workshop.now(),
        instrument=instrument,
        sample_rate_hz=rate_hz,
        rate_m_s=rate_m_s,
        capacity_n=capacity_n,
        resolution_n=1.0,
        technician=technician,
    )
    with workshop.file.writing() as connection:
        pulls.insert_pull(connection, pull)
    return pull
