"""Decides what the results station shows."""

from __future__ import annotations

import math
from dataclasses import dataclass

from PyQt6.QtCore import QObject, pyqtSignal

from bruiser.core.records import JAM_WORDS, Gave, JamLevel
from bruiser.core.units import UnitChoice
from bruiser.figures.ladder import Ladder, LadderMark, LadderRow
from bruiser.ui.runtime.tasks import TaskRunner
from bruiser.workshop.brief_entry import criterion_words
from bruiser.workshop.journal import Entry, Journal, TraceRecord, read_trace
from bruiser.workshop.judging import Judged, judge_lot
from bruiser.workshop.results import KnotResult, LotResults, lot_results, say_result
from bruiser.workshop.workshop import Workshop

_GAVE = {
    Gave.BROKE: "broke at",
    Gave.CAME_OUT: "came out at",
    Gave.CAPSIZED: "capsized at",
}


@dataclass(frozen=True)
class AskedLine:
    """A judged criterion in words, its tone, and the pulls behind it."""

    text: str
    tone: str
    pulls: str


class ResultsPresenter(QObject):
    """Results of one lot at a time."""

    results_ready = pyqtSignal()
    selection_changed = pyqtSignal()

    def __init__(self, workshop: Workshop, tasks: TaskRunner) -> None:
        super().__init__()
        self._workshop = workshop
        self._tasks = tasks
        self.journal: Journal | None = None
        self.lot_id: str | None = None
        self.results: LotResults | None = None
        self.selected: str | None = None
        self._newest: str | None = None

    @property
    def units(self) -> UnitChoice:
        """The units the campaign shows."""
        return self._workshop.units

    def take_up(self, journal: Journal) -> None:
        """Compute the lot shown anew, off the interface thread."""
        self.journal = journal
        if self.lot_id is None and journal.lots:
            busiest = max(
                journal.lots,
                key=lambda lot: sum(e.specimen.lot.id == lot.id for e in journal.entries),
            )
            self.lot_id = busiest.id
        self._compute()

    def show_lot(self, lot_id: str) -> None:
        """Show another lot."""
        self.lot_id = lot_id
        self.selected = None
        self._compute()

    def point_out(self, pull_id: str) -> None:
        """Show the lot of a pull and select it."""
        self._newest = pull_id
        entry = self.journal.by_pull.get(pull_id) if self.journal is not None else None
        if entry is not None:
            self.lot_id = entry.specimen.lot.id
            self.selected = pull_id
            self._compute()

    def select(self, pull_id: str) -> None:
        """Open the pull behind a mark."""
        self.selected = pull_id
        self.selection_changed.emit()

    def _compute(self) -> None:
        journal = self.journal
        lot = next((x for x in journal.lots if x.id == self.lot_id), None) if journal else None
        if journal is None or lot is None:
            self.results = None
            self.results_ready.emit()
            return

        def received(results: LotResults) -> None:
            self.results = results
            self.results_ready.emit()

        self._tasks.run("results", lambda: lot_results(journal, lot), received)

    def title(self) -> tuple[str, str]:
        """Heading and what the baseline rests on."""
        if self.results is None:
            return "How much of the rope is left in the knot", "No lots yet."
        base = self.results.baseline
        lot, counts = base.lot, base.counts
        about = (
            f"{1000 * lot.diameter_m:g} mm {lot.material} {lot.construction}, lot {lot.name}, "
            f"{lot.condition}"
        )
        if base.median_n is None:
            return "How much of the rope is left in the knot", f"{about}  ·  no measured baseline"
        clear = counts.broke
        about += (
            f"  ·  plain rope {self.units.force_text(base.median_n)}, "
            f"{counts.specimens} straight pulls, {clear} broke clear of the drums"
        )
        return "How much of the rope is left in the knot", about

    def ladder(self) -> Ladder | None:
        """The chart."""
        if self.results is None:
            return None
        base = self.results.baseline
        rows = tuple(self._row(row) for row in self.results.knots)
        rows += (self._baseline_row(),) if base.marks else ()
        band = None
        if base.estimate is not None:
            spread = base.estimate.sigma
            band = math.exp(-spread), math.exp(spread)
        return Ladder("Share of the plain rope's strength kept", rows, band, self.selected)

    def _row(self, row: KnotResult) -> LadderRow:
        eff, n = row.efficiency, row.efficiency.counts
        words = f"{n.broke} broke, {n.came_out} came out, {n.outlasted} outlasted"
        if n.void:
            words += f", {n.void} void"
        marks = tuple(
            LadderMark(m.pull_id, m.kind, m.share, self._label(m.code, m.kind, m.load_n))
            for m in row.marks
            if m.share is not None
        )
        interval = eff.interval
        if interval is None:
            text = "" if eff.at_least is None else f"≥ {100 * eff.at_least:.0f} %"
            return LadderRow(row.name, row.name, words, marks, value_text=text)
        return LadderRow(
            row.name,
            row.name,
            words,
            marks,
            interval.value,
            interval.low,
            interval.high,
            f"{100 * interval.value:.0f} %",
            f"{100 * interval.low:.0f} to {100 * interval.high:.0f}",
            row.letters,
        )

    def _baseline_row(self) -> LadderRow:
        assert self.results is not None
        base = self.results.baseline
        marks = tuple(
            LadderMark(m.pull_id, m.kind, m.share, self._label(m.code, m.kind, m.load_n))
            for m in base.marks
            if m.share is not None
        )
        n = base.counts
        words = f"{n.broke} broke clear, {n.outlasted} at a drum or stopped"
        text = "" if base.median_n is None else self.units.force_text(base.median_n)
        return LadderRow("baseline", "Plain rope", words, marks, value_text=text)

    def _label(self, code: str, kind: str, load_n: float) -> str:
        words = {"broke": "broke", "came_out": "came out", "outlasted": "outlasted"}[kind]
        return f"{code}: {words}, {self.units.force_text(load_n)}"

    def sentence(self) -> str:
        """What can be said, in words."""
        if self.results is None or self.journal is None:
            return ""
        entry = self.journal.by_pull.get(self.selected or "")
        chosen = None
        if entry is not None:
            knots = (entry.specimen.knot_a, entry.specimen.knot_b)
            chosen = next((r for r in self.results.knots if r.knot in knots), None)
        rows = [chosen] if chosen else list(self.results.knots[:2])
        return " ".join(say_result(r) for r in rows)

    def asked(self) -> list[AskedLine]:
        """The pass criteria on this lot, judged, with the pulls that passed, failed or say nothing.

        A wording written after the first pull of its group says so, and what it was before.
        """
        if self.results is None or self.journal is None:
            return []
        judged = judge_lot(self.journal, self.results)
        lines = []
        for criterion in dict.fromkeys(j.criterion for j in judged):
            same = [j for j in judged if j.criterion is criterion]
            verdicts = "  ·  ".join(f"{j.name}: {self._verdict(j)}" for j in same)
            text = f"{criterion_words(criterion)}.  {verdicts}."
            late = max(j.late for j in same)
            earlier = [e for e in same[0].earlier if not e.withdrawn]
            if late:
                text += f" Written after {late} of these pulls."
            if earlier:
                was = criterion_words(earlier[0]).lower()
                text += f" Changed {criterion.made_at[:10]}; it was: {was}."
            pulls = "\n".join(f"{j.name}: {self._pulls(j)}" for j in same)
            tone = "ochre" if late or earlier else "ink"
            lines.append(AskedLine(text, tone, pulls))
        return lines

    @staticmethod
    def _verdict(judged: Judged) -> str:
        r = judged.result
        parts = [f"{len(r.passed)} passed"] if r.passed else []
        parts += [f"{len(r.failed)} failed"] if r.failed else []
        parts += [f"{len(r.cannot_say)} cannot say"] if r.cannot_say else []
        return f"{r.met} ({', '.join(parts)})" if parts else str(r.met)

    def _pulls(self, judged: Judged) -> str:
        r = judged.result
        groups = (("passed", r.passed), ("failed", r.failed), ("cannot say", r.cannot_say))
        return "; ".join(
            f"{word} {', '.join(self._code(pull) for pull in pulls)}"
            for word, pulls in groups
            if pulls
        )

    def _code(self, pull_id: str) -> str:
        assert self.journal is not None
        return self.journal.by_pull[pull_id].specimen.code

    def caveats(self) -> str:
        """What weakens the numbers shown."""
        if self.results is None:
            return ""
        found = dict.fromkeys(
            str(c) if "baseline" in c.kind else f"{r.name}: {c}"
            for r in self.results.knots
            for c in r.efficiency.caveats
        )
        return "  ·  ".join(found)

    def selected_entry(self) -> Entry | None:
        """The pull whose trace is open."""
        if self.journal is None or self.selected is None:
            return None
        return self.journal.by_pull.get(self.selected)

    def entry_words(self) -> str:
        """The open pull in words."""
        entry = self.selected_entry()
        if entry is None or entry.pull is None or entry.finding is None:
            return ""
        f, s = entry.finding, entry.specimen
        what = "nothing gave"
        if f.gave is Gave.VOID:
            what = f"void: {f.void_reason}"
        elif f.place is not None:
            what = f"{_GAVE[f.gave]} {s.layout.place(f.place).label}"
        parts = [
            f"{s.code} · {s.title}",
            f"{what}, {self.units.force_text(f.peak_load_n)}",
        ]
        for draw in f.draws:
            label = next(t.label for t in s.layout.tails if t.key == draw.key)
            ratio = draw.draw_m / s.lot.diameter_m
            parts.append(f"{label} drew {self.units.length_text(draw.draw_m)} ({ratio:.1f} d)")
        for seen in f.inspections:
            if seen.jam_level is not JamLevel.NOT_TRIED:
                took = "" if seen.untie_s is None else f" in {seen.untie_s:.0f} s"
                parts.append(f"knot {seen.end}: {JAM_WORDS[seen.jam_level]}{took}")
        parts.append(f"pulled {entry.pull.started_at[:10]} on the {entry.pull.instrument}")
        return "\n".join(parts)

    def trace(self) -> TraceRecord | None:
        """Samples of the open pull."""
        entry = self.selected_entry()
        if entry is None or entry.pull is None:
            return None
        return read_trace(self._workshop, entry.pull)
