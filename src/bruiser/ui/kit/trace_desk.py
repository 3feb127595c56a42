"""Decides what the trace bench shows: one pull's trace, its reading, and others beside it."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from PyQt6.QtCore import pyqtSignal

from bruiser.core.trace import (
    NOTHING_YET,
    TRACE_END_WORDS,
    Floats,
    Trace,
    TraceResult,
    TraceSettings,
)
from bruiser.core.units import si_factor
from bruiser.ui.runtime.desk import Desk
from bruiser.workshop.findings.tracing import (
    analyses_of,
    comparable,
    first_load_index,
    keep_analysis,
    read_anew,
    read_settings,
    settings_texts,
    stored_trace,
)
from bruiser.workshop.logbook.entries import Entry
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop

MOST_SLIPS = 200


class TraceDesk(Desk):
    """One stored trace, read by settings that can be changed."""

    reading_changed = pyqtSignal()

    def __init__(self, workshop: Workshop, logbook: Logbook, pull_id: str) -> None:
        super().__init__(workshop)
        self.logbook = logbook
        self.entry: Entry = logbook.by_pull[pull_id]
        self.trace = stored_trace(workshop, self.entry) or NOTHING_YET
        kept = analyses_of(workshop, pull_id)
        self.count = len(kept)
        base = TraceSettings(diameter_m=self.entry.specimen.lot.diameter_m)
        self.kept = kept[-1].result if kept else None
        self.settings = kept[-1].settings if kept else base
        self.result: TraceResult | None = kept[-1].result if kept else None
        self.against = "travel"
        self.beside: tuple[str, ...] = ()

    def title(self) -> str:
        """Which pull it is."""
        s = self.entry.specimen
        return f"{s.code} · {s.title}, {s.lot.name}"

    def axis(self) -> tuple[str, str]:
        """Names of the axes."""
        x = "time (s)" if self.against == "time" else f"travel ({self.units.length})"
        return x, f"load ({self.units.force})"

    def _xy(self, trace: Trace, seen: TraceResult | None, align: bool) -> tuple[Floats, Floats]:
        zero = 0.0 if seen is None else seen.zero_n
        x = trace.time_s
        if self.against == "travel":
            x = trace.travel_m / si_factor(self.units.length, "length")
        if align and seen is not None and len(x):
            x = x - x[first_load_index(trace, seen)]
        return x, (trace.load_n - zero) / si_factor(self.units.force, "force")

    def curve(self) -> tuple[Floats, Floats]:
        """The trace, in the units shown; aligned at first load while others lie beside it."""
        return self._xy(self.trace, self.result, bool(self.beside))

    def others(self) -> list[tuple[str, str]]:
        """Pulls that may be laid beside it."""
        if self.logbook is None:
            return []
        return [
            (e.pull.id, e.specimen.code) for e in comparable(self.logbook, self.entry) if e.pull
        ]

    def beside_curves(self) -> list[tuple[Floats, Floats]]:
        """The traces laid beside it, aligned at first load."""
        found = []
        for pull_id in self.beside:
            entry = self.logbook.by_pull[pull_id] if self.logbook is not None else None
            trace = None if entry is None else stored_trace(self.workshop, entry)
            if entry is not None and trace is not None:
                found.append(self._xy(trace, entry.analysis, align=True))
        return found

    def show_against(self, key: str) -> None:
        """Show the load against ``travel`` or ``time``."""
        self.against = key
        self.changed.emit()

    def lay_beside(self, pull_ids: tuple[str, ...]) -> None:
        """Lay other pulls' traces beside it."""
        self.beside = pull_ids
        self.changed.emit()

    def texts(self) -> dict[str, str]:
        """The settings as their form shows them."""
        return settings_texts(self.settings, self.units)

    def read(self, texts: Mapping[str, str]) -> dict[str, str]:
        """Read the trace by the settings typed; returns the fields that are wrong."""
        settings, errors = read_settings(texts, self.settings, self.units)
        pull = self.entry.pull
        if errors or pull is None or len(self.trace.load_n) < 10:
            return errors
        self.settings = settings
        self.result = read_anew(self.trace, pull, settings)
        self.reading_changed.emit()
        return {}

    @property
    def may_keep(self) -> bool:
        """Whether what is shown differs from what is kept."""
        changed = self.kept is None or self.result != self.kept
        return changed and self.result is not None and not self.workshop.read_only

    def keep(self) -> None:
        """Keep the reading shown; the earlier one stays in the file."""
        pull, result = self.entry.pull, self.result
        if pull is None or result is None:
            return
        if self.attempt(lambda: keep_analysis(self.workshop, pull.id, self.settings)):
            self.kept = result
            self.count += 1
            self.reading_changed.emit()

    def marks(self) -> list[tuple[int, str, str]]:
        """Samples the analysis names: index, words, tone."""
        r = self.result
        if r is None:
            return []
        say = self.units.force_text
        found = [(s.index, "", "ochre") for s in r.slips[:MOST_SLIPS]]
        found.append((r.start_index, "pull begins", "muted"))
        seated = [s for s in r.slips if s.load_n == r.preload_n]
        found += [(s.index, "seated", "muted") for s in seated[:1]]
        first = next((s for s in r.slips if s.load_n == r.first_slip_n), None)
        if first is not None:
            found.append((first.index, f"slips from {say(first.load_n)}", "ochre"))
        shape = next((s for s in r.slips if s.load_n == r.capsize_n), None)
        if shape is not None:
            found.append((shape.index, "changed form", "storm"))
        found.append((r.peak_index, f"peak {say(r.peak_n)}", "plum"))
        if r.end_index != r.peak_index:
            found.append((r.end_index, TRACE_END_WORDS[r.end].split(",")[0], "brick"))
        return found

    def summary(self) -> str:
        """What the analysis says, in words."""
        r = self.result
        if r is None:
            return "No reading: the trace is too short."
        u = self.units
        slip = (
            "no slip seen"
            if r.first_slip_n is None
            else f"slips from {u.force_text(r.first_slip_n)}"
        )
        words = [
            f"It {TRACE_END_WORDS[r.end]} at {r.end_time_s:.3f} s",
            f"peak {u.force_text(r.peak_n)}",
            f"{slip}, {len(r.slips)} drops",
            f"zero {u.force_text(r.zero_n)}, noise {r.noise_n:.1f} N",
        ]
        if r.stiffness_n_per_m > 0:
            words.append(f"stiffness {r.stiffness_n_per_m / 1000:.1f} N/mm")
            words.append(f"energy {r.energy_j:.0f} J, {1000 * r.rate_m_s:.2f} mm/s")
        if r.capsized:
            words.append("the knot changed form")
        if r.advantage is not None:
            words.append(f"advantage {r.advantage:.2f}")
        return "; ".join(words) + "."

    def doubts(self) -> str:
        """The doubts, in words."""
        r = self.result
        return "" if r is None or not r.doubts else "Doubt: " + "; ".join(r.doubts) + "."

    def kept_words(self) -> str:
        """How many readings are on file."""
        return f"{self.count} readings on file; the last one holds." if self.count > 1 else ""

    def sample_words(self, index: int) -> str:
        """One sample, exactly."""
        if not 0 <= index < len(self.trace.load_n):
            return ""
        u, t = self.units, self.trace
        zero = 0.0 if self.result is None else self.result.zero_n
        load, travel = float(t.load_n[index]), float(t.travel_m[index])
        if not np.isfinite(load):
            return f"sample {index}: missing"
        return (
            f"sample {index}: {t.time_s[index]:.4f} s, {load - zero:.1f} N "
            f"({u.force_text(load - zero)}), {1000 * travel:.2f} mm"
        )
