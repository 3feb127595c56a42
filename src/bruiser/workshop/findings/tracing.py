"""Stored traces read anew: other settings, what they say, and the reading that is kept."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from bruiser.core.records.records import Pull
from bruiser.core.trace import Trace, TraceResult, TraceSettings, analyse_trace
from bruiser.core.units import UnitChoice
from bruiser.store import pulls
from bruiser.store.open_campaign import Connection
from bruiser.workshop.desk.form_texts import Typed
from bruiser.workshop.logbook.commands import Changes, Command
from bruiser.workshop.logbook.entries import Entry
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.traces import AnalysisKey, analyse_and_store, read_trace
from bruiser.workshop.logbook.workshop import Workshop


@dataclass(frozen=True)
class Reanalyse(Command):
    """Read a stored trace by other settings and keep that; the earlier analyses stay."""

    key: AnalysisKey
    settings: TraceSettings
    title: str = "keep the new reading of the trace"

    def apply(self, connection: Connection) -> Changes:
        pull = pulls.load_pull(connection, self.key.pull_id)
        trace = pulls.load_samples(connection, pull.id, pull.sample_rate_hz)
        analyse_and_store(connection, self.key, trace, pull.capacity_n, self.settings)
        return Changes(frozenset({"trace_analysis"}), (pull.id,))


def analyses_of(workshop: Workshop, pull_id: str) -> list[pulls.StoredAnalysis]:
    """Every analysis ever kept of a pull, oldest first."""
    with workshop.file.reading() as connection:
        return pulls.load_analysis_history(connection, pull_id)


def read_anew(trace: Trace, pull: Pull, settings: TraceSettings) -> TraceResult:
    """What a stored trace says by some settings."""
    return analyse_trace(trace, capacity_n=pull.capacity_n, settings=settings)


def settings_texts(settings: TraceSettings, units: UnitChoice) -> dict[str, str]:
    """Settings as their form shows them."""
    return {
        "onset": units.length_text(settings.onset_m),
        "slip": f"{100 * settings.slip_share:g}",
        "break": f"{100 * settings.break_share:g}",
        "mean": f"{1000 * settings.mean_s:g}",
        "bedding": f"{100 * settings.bedding_share:g}",
        "capsize": f"{100 * settings.capsize_share:g}",
    }


def read_settings(
    texts: Mapping[str, str], base: TraceSettings, units: UnitChoice
) -> tuple[TraceSettings, dict[str, str]]:
    """Settings from their form, and the fields that are wrong; mean in millisecond."""
    typed = Typed(texts)
    onset = typed.quantity("onset", "length", units.length, missing="Travel without a new record.")
    shares = {
        name: typed.share(name, missing="A percentage.")
        for name in ("slip", "break", "bedding", "capsize")
    }
    mean = typed.number("mean", least=0.0, missing="Milliseconds.")
    for name in ("slip", "break", "capsize"):
        if shares[name] == 0:
            typed.errors[name] = "Must be above zero."
    if typed.errors:
        return base, typed.errors
    return (
        replace(
            base,
            onset_travel_m=onset,
            slip_share=shares["slip"] or base.slip_share,
            break_share=shares["break"] or base.break_share,
            bedding_share=shares["bedding"] or 0.0,
            capsize_share=shares["capsize"] or base.capsize_share,
            mean_s=(mean or 0.0) / 1000.0,
        ),
        {},
    )


def keep_analysis(workshop: Workshop, pull_id: str, settings: TraceSettings) -> None:
    """Store another analysis of a pull's trace, by some settings, as the one that holds."""
    key = AnalysisKey(id=workshop.new_id(), pull_id=pull_id, made_at=workshop.now())
    workshop.do(Reanalyse(key, settings))


def first_load_index(trace: Trace, seen: TraceResult) -> int:
    """The sample at which the load is first a fiftieth of the peak: where traces are aligned."""
    above = trace.load_n - seen.zero_n > 0.02 * seen.peak_n
    first = int(np.argmax(above))
    return first if len(above) and above[first] else 0


def comparable(logbook: Logbook, entry: Entry) -> list[Entry]:
    """Other pulls of the same knots in the same lot that have a trace."""
    others = logbook.siblings(entry.specimen)
    return [e for e in others if e.pull is not None and e.analysis is not None and e is not entry]


def stored_trace(workshop: Workshop, entry: Entry) -> Trace | None:
    """A specimen's trace; None where it was not pulled."""
    return None if entry.pull is None else read_trace(workshop, entry.pull)
