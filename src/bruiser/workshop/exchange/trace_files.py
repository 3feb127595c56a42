"""Loggers' records given to the specimens they are of, by the code in their name or by hand."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from bruiser.core.decimal_sign import loads_about
from bruiser.core.errors import BruiserError, InputError
from bruiser.core.trace import Trace, TraceSettings, analyse_trace
from bruiser.core.trace.even import even_trace
from bruiser.formats.logger_file import LoggerHints, LoggerRecord, read_logger_file
from bruiser.store import pulls
from bruiser.store.tables import sample_count
from bruiser.workshop.bench.recording import record_trace
from bruiser.workshop.logbook.commands import Changes
from bruiser.workshop.logbook.entries import Entry
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.traces import AnalysisKey, analyse_and_store
from bruiser.workshop.logbook.workshop import Workshop

SUFFIXES = (".csv", ".tsv", ".txt", ".dat", ".asc", ".log")
MOST_FILES = 2_000
_USUAL_RATE_M_S = 0.008


@dataclass(frozen=True, kw_only=True)
class TraceMatch:
    """A record, what it says, and whose it is; `wrong` where it cannot be read."""

    path: Path
    specimen_id: str = ""
    record: LoggerRecord | None = None
    peak_n: float = 0.0
    end: str = ""
    wrong: str = ""
    asks: str = ""
    """``unit``, ``travel``, ``decimal`` or ``rate`` where a hint would do."""


def files_in(folder: Path) -> list[Path]:
    """The records in a folder, by name; links that lead out of it are passed over.

    Raises
    ------
    InputError
        If it cannot be read or holds none.
    """
    try:
        found = sorted(
            p
            for p in folder.iterdir()
            if p.suffix.lower() in SUFFIXES and p.is_file() and not p.is_symlink()
        )
    except OSError as error:
        raise InputError(f"{folder.name} cannot be read: {error.strerror}.") from error
    if not found:
        raise InputError(f"{folder.name} holds no records ({', '.join(SUFFIXES)}).")
    return found[:MOST_FILES]


def specimen_named(name: str, codes: Mapping[str, str]) -> str:
    """The specimen whose code stands in a file's name, by its id; empty for none or several."""
    plain = f"|{re.sub(r'[^a-z0-9]+', '|', name.lower())}|"
    hits = [
        (len(code), key)
        for code, key in codes.items()
        if (bare := re.sub(r"[^a-z0-9]+", "|", code.lower()).strip("|")) and f"|{bare}|" in plain
    ]
    longest = max((n for n, _ in hits), default=0)
    best = [key for n, key in hits if n == longest]
    return best[0] if len(best) == 1 else ""


def match_files(
    logbook: Logbook, paths: Sequence[Path], hints: LoggerHints | None = None
) -> list[TraceMatch]:
    """Read records and find whose they are; what cannot be read says why."""
    codes = logbook.codes()
    said = hints or LoggerHints()
    taken: set[str] = set()
    found = []
    for path in paths:
        key = specimen_named(path.stem, codes)
        if key in taken:
            key = ""
        taken.add(key)
        try:
            record = read_logger_file(path, replace(said, loads_n=_loads_of(logbook, key)))
            result = analyse_trace(record.trace)
        except BruiserError as error:
            asks = error.where if isinstance(error, InputError) else ""
            found.append(TraceMatch(path=path, specimen_id=key, wrong=str(error), asks=asks))
            continue
        except ValueError:
            found.append(TraceMatch(path=path, specimen_id=key, wrong="It is no trace of a pull."))
            continue
        found.append(
            TraceMatch(
                path=path,
                specimen_id=key,
                record=record,
                peak_n=result.peak_n,
                end=result.end.value,
            )
        )
    return found


def _loads_of(logbook: Logbook, specimen_id: str) -> tuple[float, float] | None:
    """Where the loads of a specimen lie, by the rating of its lot."""
    for entry in logbook.with_ids({specimen_id} if specimen_id else ()):
        rated_n = entry.specimen.lot.rated_strength_n
        return loads_about(rated_n) if rated_n else None
    return None


def store_traces(workshop: Workshop, logbook: Logbook, matches: Sequence[TraceMatch]) -> int:
    """Store every record with a specimen, and analyse it as a live one; returns how many.

    A specimen that waits is pulled by it; one whose pull came in without a trace gets it.

    Raises
    ------
    InputError
        If a specimen has a trace already, or the times of a record do not rise evenly; what stood
        before it in the list is stored.
    """
    named = {m.specimen_id for m in matches if m.specimen_id}
    entries = {e.specimen.id: e for e in logbook.with_ids(named)}
    done = 0
    for match in matches:
        if not match.specimen_id or match.record is None:
            continue
        entry = entries[match.specimen_id]
        trace, rate_hz = even_trace(match.record.trace, match.path.name)
        capacity = 2.0 * max(match.peak_n, 1.0)
        if entry.pull is None:
            record_trace(workshop, entry.specimen, trace, rate_hz, _USUAL_RATE_M_S, capacity)
        else:
            _add_samples(workshop, entry, trace, rate_hz, match.path.name)
        done += 1
    return done


def _add_samples(workshop: Workshop, entry: Entry, trace: Trace, rate_hz: float, name: str) -> None:
    pull = entry.pull
    if pull is None:
        raise ValueError("a specimen that waits has no pull")
    with workshop.file.writing() as connection:
        if sample_count(connection, pull.id):
            said = f"{name}: {entry.specimen.code} has a trace already."
            raise InputError(said, "Choose another.")
        pulls.append_samples(connection, pull.id, trace)
        pulls.set_sample_rate(connection, pull.id, rate_hz)
        key = AnalysisKey(id=workshop.new_id(), pull_id=pull.id, made_at=workshop.now())
        settings = TraceSettings(diameter_m=entry.specimen.lot.diameter_m)
        analyse_and_store(connection, key, trace, pull.capacity_n, settings)
    workshop.announce(Changes(frozenset({"pull"}), (pull.id,)))
