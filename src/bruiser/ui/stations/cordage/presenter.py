"""Decides what the cordage station shows, and stores lots, hanks and cuts."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from PyQt6.QtCore import pyqtSignal

from bruiser.core.choice.working_load import ENOUGH_EVENTS, School
from bruiser.core.planning.cord_on_host import cord_ranges
from bruiser.core.records.records import Lot, Outcome, Role
from bruiser.core.records.stock import HankKind, StockMove
from bruiser.core.units import UnitChoice
from bruiser.core.words import count
from bruiser.figures.cord_scale import cord_scale_figure
from bruiser.figures.display import Figure
from bruiser.figures.load_scale import BaselineMark, BaselineScale, SchoolRow
from bruiser.figures.shelf import ShelfHank, ShelfLot
from bruiser.ui.runtime.desk import Desk
from bruiser.ui.runtime.tasks import TaskRunner
from bruiser.workshop.desk import brief_entry, cutting, lot_entry
from bruiser.workshop.desk.lot_commands import DropLot, EditLot
from bruiser.workshop.desk.lot_entry import Checked
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop
from bruiser.workshop.results.lot_facts import BaselineFacts, KnotLoads, baseline_facts, knot_loads
from bruiser.workshop.results.lot_results import LotResults, lot_results

SCHOOLS = {
    School.HALVE: "Halve it",
    School.THIRD: "A third",
    School.TYPICAL: "Measured typical",
    School.FLOOR: "Measured floor",
}
_KINDS = {HankKind.HANK: "hank", HankKind.SPOOL: "spool", HankKind.OFFCUT: "offcut"}


class CordagePresenter(Desk):
    """One lot at a time; `lot` is None while a new one is entered."""

    lot_changed = pyqtSignal()
    results_ready = pyqtSignal()

    def __init__(self, workshop: Workshop, tasks: TaskRunner) -> None:
        super().__init__(workshop)
        self._tasks = tasks
        self.lot_id: str | None = None
        self.results: LotResults | None = None
        self._shown: tuple[Lot | None, UnitChoice] | None = None

    @property
    def lot(self) -> Lot | None:
        """The lot shown; None while a new one is entered."""
        lots = self.logbook.lots if self.logbook is not None else ()
        return next((lot for lot in lots if lot.id == self.lot_id), None)

    def take_up(self, logbook: Logbook) -> None:
        """Show the logbook as it stands."""
        shown = self._shown
        self.logbook = logbook
        if self.lot is None and logbook.lots and self.lot_id != "":
            self.lot_id = next(iter(logbook.lots_in_use or logbook.lots)).id
        self._shown = (self.lot, self.units)
        if self._shown != shown:
            self.lot_changed.emit()
        self.changed.emit()
        self._compute()

    def show_lot(self, lot_id: str) -> None:
        """Show a lot."""
        self.lot_id = lot_id
        self.results = None
        self.lot_changed.emit()
        self.changed.emit()
        self._compute()

    def begin_lot(self) -> None:
        """Begin a new lot."""
        self.lot_id = ""
        self.results = None
        self.lot_changed.emit()
        self.changed.emit()

    def _compute(self) -> None:
        logbook, lot = self.logbook, self.lot
        if logbook is None or lot is None:
            self.results = None
            self.results_ready.emit()
            return

        def received(results: LotResults) -> None:
            if results.baseline.lot.id == self.lot_id:
                self.results = results
                self.results_ready.emit()

        def failed(error: Exception) -> None:
            self.results = None
            self.results_ready.emit()
            self.work_failed(error)

        self._tasks.run("cordage", lambda: lot_results(logbook, lot), received, failed)

    def shelf(self) -> list[ShelfLot]:
        """Every lot with what is on hand; archived ones last."""
        logbook = self.logbook
        if logbook is None:
            return []
        lots = sorted(logbook.lots, key=lambda lot: lot.archived)
        return [self._shelf_lot(logbook, lot) for lot in lots]

    def _shelf_lot(self, logbook: Logbook, lot: Lot) -> ShelfLot:
        done, missing = self._straight(logbook, lot)
        state = count(done, "straight pull")
        tone = "muted"
        if missing and logbook.tally.count(lot_id=lot.id):
            state, tone = "no baseline yet", "ochre"
        elif missing:
            state = "not pulled"
        if lot.archived:
            state, tone = "archived", "muted"
        on_hand = logbook.stock.on_hand_m(lot.stock_id)
        state += f"  ·  {self.units.cord_text(on_hand)} on hand"
        size = self.units.section_text(lot.diameter_m, lot.thickness_m)
        words = f"{size} {lot.material}, {lot.condition}"
        thickness = min(2.2, max(0.7, 130.0 * lot.diameter_m))
        return ShelfLot(
            key=lot.id,
            name=lot.name,
            words=words,
            state=state,
            on_hand_m=on_hand,
            thickness=thickness,
            tone=tone,
        )

    @staticmethod
    def _straight(logbook: Logbook, lot: Lot) -> tuple[int, bool]:
        done = logbook.tally.count(Stage.INSPECTED, lot_id=lot.id, role=Role.BASELINE)
        return done, done == 0

    def texts(self) -> dict[str, str]:
        """The lot's form; empty for a new lot."""
        lot = self.lot
        if lot is None:
            return {"diameter_means": "nominal", "rating_means": "unknown", "stock": ""}
        return lot_entry.lot_texts(lot, self.units)

    def stock_choices(self) -> list[tuple[str, str]]:
        """Where a lot is cut from."""
        lots = self.logbook.lots_in_use if self.logbook is not None else ()
        own = [("", "its own hanks")]
        return own + [
            (x.id, f"the hanks of {x.name}")
            for x in lots
            if x.id != self.lot_id and x.stock_lot_id is None
        ]

    def store_lot(self, texts: Mapping[str, str], *, anyway: bool) -> Checked:
        """Store the lot's form."""
        logbook = self.logbook
        if logbook is None:
            return Checked()
        before = self.lot
        checked = self.store_form(
            lambda: lot_entry.store_lot(self.workshop, logbook, texts, before, anyway=anyway)
        )
        if checked.stored:
            self.show_lot(checked.stored)
        return checked

    def archive(self) -> None:
        """Archive the lot, or bring it back."""
        lot = self.lot
        if lot is not None:
            title = "bring the lot back" if lot.archived else "archive the lot"
            after = replace(lot, archived=not lot.archived)
            self.attempt(lambda: self.workshop.do(EditLot(after, title)))

    def delete(self) -> None:
        """Delete the lot, if nothing depends on it."""
        lot = self.lot
        if lot is not None:
            self.attempt(lambda: self.workshop.do(DropLot(lot)))

    def hanks(self) -> list[ShelfHank]:
        """The hanks the lot is cut from."""
        logbook, lot = self.logbook, self.lot
        if logbook is None or lot is None:
            return []
        stock, say = logbook.stock, self.units.cord_text
        ledger = logbook.ledger([h.id for h in stock.of_lot(lot.stock_id)])
        found = []
        for hank in stock.of_lot(lot.stock_id):
            received, left = stock.received_m(hank.id), stock.left_m(hank.id)
            cuts = tuple(
                -e.change_m for e in ledger if e.hank_id == hank.id and e.move is StockMove.CUT
            )
            words = f"{say(left)} of {say(received)}"
            kind = _KINDS[hank.kind]
            found.append(
                ShelfHank(
                    key=hank.id,
                    label=hank.label,
                    kind=kind,
                    received_m=received,
                    cuts_m=cuts,
                    left_m=left,
                    left_words=words,
                )
            )
        return found

    def ledger(self) -> list[tuple[str, ...]]:
        """The ledger of the lot's hanks, newest first: day, hank, what, length, for."""
        logbook, lot = self.logbook, self.lot
        if logbook is None or lot is None:
            return []
        labels = {h.id: h.label for h in logbook.stock.of_lot(lot.stock_id)}
        lines = logbook.ledger(tuple(labels))
        cut = {e.specimen_id for e in lines if e.specimen_id is not None}
        codes = {e.specimen.id: e.specimen.code for e in logbook.with_ids(cut)}
        return [
            (
                e.made_at[:10],
                labels[e.hank_id],
                e.move.value,
                ("+" if e.change_m > 0 else "−") + self.units.cord_text(abs(e.change_m)),
                codes.get(e.specimen_id or "", e.note),
            )
            for e in reversed(lines)
            if e.hank_id in labels
        ]

    def to_cut(self) -> list[tuple[str, str]]:
        """Planned specimens that are not cut: id and words."""
        logbook, lot = self.logbook, self.lot
        if logbook is None or lot is None:
            return []
        say = self.units.cord_text
        return [(i, f"{code}, {say(m)}") for i, code, m in cutting.to_cut(logbook, lot)]

    def cut_unloaded(self) -> list[tuple[str, str]]:
        """Specimens that are cut and not loaded: id and code."""
        logbook, lot = self.logbook, self.lot
        return [] if logbook is None or lot is None else cutting.cut_unloaded(logbook, lot)

    def store_hank(self, texts: Mapping[str, str], *, anyway: bool) -> Checked:
        """Take in a hank."""
        logbook, lot = self.logbook, self.lot
        if logbook is None or lot is None:
            return Checked()
        return self.store_form(
            lambda: lot_entry.store_hank(self.workshop, logbook, lot, texts, anyway=anyway)
        )

    def cut(self, specimen_id: str, hank_id: str) -> None:
        """Cut a planned specimen from a hank."""
        logbook, lot = self.logbook, self.lot
        if logbook is None or lot is None:
            return
        length = next((m for i, _, m in cutting.to_cut(logbook, lot) if i == specimen_id), None)
        if length is not None:
            self.attempt(lambda: lot_entry.cut(self.workshop, specimen_id, hank_id, length))

    def put_back(self, texts: Mapping[str, str]) -> Checked:
        """Put back what is left of a cut, unloaded piece."""
        logbook, lot = self.logbook, self.lot
        if logbook is None or lot is None:
            return Checked()
        return self.store_form(lambda: lot_entry.put_back(self.workshop, logbook, lot, texts))

    def baseline(self) -> BaselineFacts | None:
        """The straight pulls of the lot in words and numbers."""
        if self.logbook is None or self.results is None:
            return None
        return baseline_facts(self.logbook, self.results, self.units)

    def baseline_scale(self, facts: BaselineFacts) -> BaselineScale:
        """The straight pulls as a figure shows them."""
        words = {
            Outcome.BROKE: "broke clear",
            Outcome.CAME_OUT: "came out",
            Outcome.OUTLASTED: "at least",
        }
        marks = tuple(
            BaselineMark(
                key=m.pull_id,
                kind=m.kind,
                load_n=m.load_n,
                label=f"{m.code}: {words[m.kind]}, {self.units.force_text(m.load_n)}",
            )
            for m in facts.marks
        )
        i = facts.interval
        rating = None if self.lot is None else self.lot.rated_strength_n
        if i is None:
            return BaselineScale(marks=marks, rated_n=rating)
        return BaselineScale(
            marks=marks, typical_n=i.value, low_n=i.low, high_n=i.high, rated_n=rating
        )

    def knot_choices(self) -> list[tuple[str, str]]:
        """Knots pulled in this lot, then those in play that were not."""
        rows = self.results.knots if self.results is not None else ()
        pulled = [(row.name, row.name) for row in rows]
        names = {row.knot.id for row in rows}
        rest = self.logbook.knots_in_play if self.logbook is not None else ()
        return pulled + [(k.id, f"{k.title} (not pulled)") for k in rest if k.id not in names]

    def loads(self, key: str) -> KnotLoads | None:
        """Working loads of a knot by its key among the choices."""
        logbook, lot, results = self.logbook, self.lot, self.results
        if logbook is None or lot is None or results is None:
            return None
        row = next((r for r in results.knots if r.name == key), None)
        return knot_loads(logbook, lot, row, self.units)

    @staticmethod
    def school_rows(loads: KnotLoads) -> list[SchoolRow]:
        """The schools as the figure shows them."""
        found = loads.loads
        if found is None:
            return []
        return [
            SchoolRow(
                name=SCHOOLS[w.school], load_n=w.load_n, steps=w.steps, default=w is found.default
            )
            for w in found.schools
        ]

    def factor_texts(self) -> dict[str, str]:
        """The design factor in force as its form shows it."""
        entry = self.logbook.brief.factor if self.logbook is not None else None
        if entry is None:
            return {}
        return {"factor": f"{entry.value:g}", "source": entry.source}

    def store_factor(self, texts: Mapping[str, str]) -> Checked:
        """Enter the design factor."""
        return self.store_form(lambda: brief_entry.store_factor(self.workshop, texts))

    def default_rule(self) -> str:
        """Which school is taken by default, and why."""
        return (
            f"Taken by default: the measured floor from {ENOUGH_EVENTS} observed failures on, "
            "else the most cautious of the others."
        )

    def hosts(self) -> list[tuple[str, str]]:
        """Lots that can be the host: id and words."""
        lots = self.logbook.lots_in_use if self.logbook is not None else ()
        say = self.units.diameter_text
        return [(x.id, f"{x.name}, {say(x.diameter_m)}") for x in lots if x.id != self.lot_id]

    def cord_figure(self, host_id: str, size: tuple[float, float]) -> Figure | None:
        """The lot as cord on a host lot, by the three schools."""
        lot = self.lot
        if self.logbook is None or lot is None or not host_id:
            return None
        host_m, cord_m = self.logbook.lot(host_id).diameter_m, lot.diameter_m
        ranges = cord_ranges(host_m, cord_m)
        return cord_scale_figure(ranges, host_m, cord_m, size, self.units.diameter_text)
