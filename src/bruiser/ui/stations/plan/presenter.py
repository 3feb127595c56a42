"""Decides what the plan shows, queues specimens, plans their cuts."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from datetime import datetime
from pathlib import Path

from PyQt6.QtCore import pyqtSignal

from bruiser.core.errors import StoreError
from bruiser.core.records import Role, Specimen
from bruiser.figures.plan_charts import (
    CutHank,
    MatrixCell,
    MatrixRow,
    PrecisionLine,
    cuts_figure,
)
from bruiser.formats.cut_sheet import SheetHank, SheetLine, SheetLot, write_cut_sheet
from bruiser.formats.svg import write_svg
from bruiser.ui.runtime.desk import Desk
from bruiser.ui.runtime.tasks import TaskRunner
from bruiser.ui.stations.plan.bench_presenter import BenchPresenter
from bruiser.ui.theme.tokens import CHALK, PX_PER_MM, TEXT
from bruiser.workshop.cut_sheet import LotCuts, cut_all, lots_to_cut, plan_lot
from bruiser.workshop.journal import Journal, Stage
from bruiser.workshop.planning import (
    Curve,
    Outlook,
    PlanDraft,
    outlook,
    precision_curve,
    prices,
    queue_plan,
)
from bruiser.workshop.results import LotResults, lot_results
from bruiser.workshop.typed import Typed
from bruiser.workshop.workshop import Workshop

SHEET_MM = 180.0
MANY_PULLS = 30


class PlanPresenter(Desk):
    """One draft, and the cuts of what is queued."""

    curve_changed = pyqtSignal()
    cuts_changed = pyqtSignal()

    def __init__(self, workshop: Workshop, tasks: TaskRunner) -> None:
        super().__init__(workshop)
        self._tasks = tasks
        self.bench = BenchPresenter(workshop, tasks)
        self.bench.failed.connect(self.failed)
        self.panel = "matrix"
        self.draft = PlanDraft()
        self.selected: tuple[str, str] | None = None
        self.curve: Curve | None = None
        self.cuts: LotCuts | None = None
        self.cut_lot_id = ""
        self._stop_cuts = False
        self.cut_progress = 0.0

    def take_up(self, journal: Journal) -> None:
        """Show the plan over the logbook as it stands."""
        self.journal = journal
        lots = {x.id for x in journal.lots_in_use}
        knots = {x.id for x in journal.knots_in_play}
        self.draft = replace(
            self.draft,
            lot_ids=tuple(x for x in self.draft.lot_ids if x in lots),
            knot_ids=tuple(x for x in self.draft.knot_ids if x in knots),
        )
        self.changed.emit()
        self.show_panel(self.panel)

    def show_panel(self, panel: str) -> None:
        """Show a panel; cuts and checks are worked out when they are seen, not before."""
        self.panel = panel
        if panel == "cuts":
            self.plan_cuts(self.cut_lot_id)
        elif panel == "bench" and self.journal is not None:
            self.bench.take_up(self.journal)

    def pick(self, lot_ids: tuple[str, ...], knot_ids: tuple[str, ...]) -> None:
        """Pick on the axes of the matrix."""
        self.draft = replace(self.draft, lot_ids=lot_ids, knot_ids=knot_ids)
        self.changed.emit()

    def read(self, texts: Mapping[str, str]) -> dict[str, str]:
        """Take in the numbers of the draft; returns the fields that are wrong."""
        typed = Typed(texts)
        pulls = typed.whole("pulls", most=200, missing="How many pulls each?")
        pin = typed.quantity("pin", "length", self.units.length, missing="The pin's diameter.")
        span = typed.quantity("span", "length", self.units.length, missing="Between the nips.")
        seed = typed.whole("seed", least=0, most=10**6, missing="Any number; it is recorded.")
        wanted = typed.share("wanted", missing="Points either way, as 3.")
        tell = typed.share("tell", missing="Points between two knots, as 5.")
        for name, value in (("wanted", wanted), ("tell", tell)):
            if value == 0:
                typed.errors[name] = "Must be above zero."
        hours = typed.number("hours", least=0.5, missing="Hours at the bench a day.")
        if not typed.errors:
            people = tuple(x.strip() for x in texts["technicians"].split(",") if x.strip())
            self.draft = replace(
                self.draft,
                pulls=pulls or 1,
                pin_m=pin or 0.0,
                span_m=span or 0.0,
                seed=seed or 0,
                hours_a_day=hours or 1.0,
                both_ends=texts["ends"] == "both",
                wanted=wanted or 0.03,
                tell=tell or 0.05,
                technicians=people,
            )
            self.changed.emit()
            self._draw_curve()
        return typed.errors

    def texts(self) -> dict[str, str]:
        """The numbers of the draft as their form shows them."""
        d = self.draft
        return {
            "pulls": str(d.pulls),
            "pin": self.units.length_text(d.pin_m),
            "span": self.units.length_text(d.span_m),
            "seed": str(d.seed),
            "hours": f"{d.hours_a_day:g}",
            "ends": "both" if d.both_ends else "one",
            "technicians": ", ".join(d.technicians),
            "wanted": f"{100 * d.wanted:g}",
            "tell": f"{100 * d.tell:g}",
        }

    def toggle(self, key: str) -> None:
        """Switch a cell off or on again, and show its curve."""
        lot_id, knot_id = key.split("|")
        cell = (lot_id, knot_id)
        off = self.draft.off ^ {cell} if self.selected == cell else self.draft.off
        self.selected = cell
        self.draft = replace(self.draft, off=frozenset(off))
        self.changed.emit()
        self._draw_curve()

    def _draw_curve(self) -> None:
        journal = self.journal
        if journal is None or self.selected is None:
            return
        lot_id, knot_id = self.selected
        lot, knot = journal.lot(lot_id), journal.knot(knot_id)

        def received(results: LotResults) -> None:
            self.curve = precision_curve(results, knot)
            self.curve_changed.emit()

        self._tasks.run("plan", lambda: lot_results(journal, lot), received)

    def matrix(self) -> tuple[tuple[str, ...], list[MatrixRow]]:
        """Lots across, knots down."""
        journal, draft = self.journal, self.draft
        if journal is None:
            return (), []
        planned = {(c.lot_id, c.knot_id): c.pulls for c in draft.cells(journal)}
        rows = []
        for knot_id in draft.knot_ids:
            cells = []
            for lot_id in draft.lot_ids:
                done = sum(
                    e.specimen.lot.id == lot_id
                    and e.stage is not Stage.VOID
                    and knot_id
                    in {k.id for k in (e.specimen.knot_a, e.specimen.knot_b) if k is not None}
                    for e in journal.entries
                )
                off = (lot_id, knot_id) in draft.off
                added = planned.get((lot_id, knot_id), 0)
                cells.append(MatrixCell(f"{lot_id}|{knot_id}", done, added, off))
            rows.append(MatrixRow(journal.knot(knot_id).title, tuple(cells)))
        return tuple(journal.lot(x).name for x in draft.lot_ids), rows

    def lines(self) -> list[PrecisionLine]:
        """The curve of the selected cell, with the knot at one end and at both."""
        c = self.curve
        if c is None:
            return []
        return [
            PrecisionLine("one knot", tuple(zip(c.pulls, c.one_knot, strict=True)), "storm"),
            PrecisionLine("both ends", tuple(zip(c.pulls, c.two_knots, strict=True)), "plum"),
        ]

    def curve_words(self) -> str:
        """What the curve says of the planned number, and what it rests on."""
        c, journal = self.curve, self.journal
        if c is None or journal is None or self.selected is None:
            return "Tap a cell to see what its pulls would buy; tap it again to switch it off."
        lot_id, knot_id = self.selected
        n = min(max(self.draft.pulls, c.pulls[0]), c.pulls[-1])
        at = c.pulls.index(n)
        return (
            f"{journal.knot(knot_id).title} in {journal.lot(lot_id).name}: after {n} pulls about "
            f"±{100 * c.one_knot[at]:.1f} points with one knot a specimen, "
            f"±{100 * c.two_knots[at]:.1f} with the knot at both ends. Spread: {c.source}.\n"
            f"{self._price_words(journal, c, lot_id, knot_id)}"
        )

    def _price_words(self, journal: Journal, c: Curve, lot_id: str, knot_id: str) -> str:
        """What the wanted half-width costs, and how many pulls tell two knots apart."""
        d, say = self.draft, self.units.cord_text
        lot, knot = journal.lot(lot_id), journal.knot(knot_id)
        ends = {1: "one knot a specimen", 2: "both ends"}
        found = prices(journal, d, lot, knot, c, d.wanted)
        costs = [
            f"{p.pulls} pulls with {ends[p.knots]} ({say(p.cord_m)}, {p.seconds / 3600:.1f} h)"
            for p in found
        ]
        text = f"±{100 * d.wanted:g} points takes {' or '.join(costs)}."
        if any(p.pulls > MANY_PULLS for p in found):
            text += " More straight pulls would make it cheaper."
        if not found:
            text = f"±{100 * d.wanted:g} points needs more straight pulls first."
        n = c.pulls_to_tell(d.tell)
        far = "more than 500" if n is None else str(n)
        weaker = f"{100 * d.tell:g} points weaker"
        return f"{text} To tell it from a knot {weaker} (80 % power): {far} of each."

    def outlook(self) -> Outlook | None:
        """What the draft costs."""
        if self.journal is None or not self.draft.lot_ids:
            return None
        begin = datetime.fromisoformat(self.workshop.now()[:10]).replace(hour=8)
        return outlook(self.journal, self.draft, begin)

    def outlook_words(self, found: Outlook) -> tuple[str, str]:
        """What the draft costs in words, and what is missing for it."""
        say = self.units.cord_text
        cord = "; ".join(f"{n.name} {say(n.needed_m)} of {say(n.on_hand_m)}" for n in found.needs)
        end = "" if found.ends is None else f", done by {found.ends:%d %B}"
        learned = f", from {found.learned} recorded times" if found.learned else ""
        words = (
            f"{found.specimens} specimens, {found.baselines} of them straight pulls.  "
            f"Cord: {cord}.  "
            f"About {found.seconds / 3600:.1f} h at the bench{end}{learned}."
        )
        short = "; ".join(f"{n.name} is short by {say(n.short_m)}" for n in found.short)
        return words, f"{short}. Take in cord, or plan less." if short else ""

    def queue(self) -> int:
        """Put the draft into the queue; returns how many."""
        journal = self.journal
        if journal is None:
            return 0
        made: list[Specimen] = []
        if not self.attempt(lambda: made.extend(queue_plan(self.workshop, journal, self.draft))):
            return 0
        self.draft = replace(self.draft, knot_ids=(), seed=self.draft.seed + 1)
        self.selected, self.curve = None, None
        self.changed.emit()
        return len(made)

    def queued_words(self) -> str:
        """What waits in the queue, and how much of it is cut."""
        journal = self.journal
        if journal is None:
            return ""
        waiting = [e.specimen for e in journal.at(Stage.PLANNED)]
        cut = sum(journal.stock.cut_for(s.id) is not None for s in waiting)
        plain = sum(s.role is Role.BASELINE for s in waiting)
        return f"{len(waiting)} wait in the queue, {plain} of them straight pulls; {cut} are cut."

    def cut_lots(self) -> list[tuple[str, str]]:
        """Lots with specimens to cut."""
        lots = lots_to_cut(self.journal) if self.journal is not None else []
        return [(x.id, x.name) for x in lots]

    def plan_cuts(self, lot_id: str) -> None:
        """Plan the cuts of a lot off the interface thread; a running plan is stopped first."""
        journal = self.journal
        lots = lots_to_cut(journal) if journal is not None else []
        lot = next((x for x in lots if x.id == lot_id), lots[0] if lots else None)
        self.cut_lot_id = "" if lot is None else lot.id
        self.cuts = None
        self._stop_cuts = False
        self.cut_progress = 0.0
        self.cuts_changed.emit()
        if journal is None or lot is None:
            return
        minimum = self.workshop.campaign.offcut_minimum_m

        def tell(share: float) -> None:
            self.cut_progress = share

        def work() -> LotCuts:
            return plan_lot(journal, lot, minimum, progress=tell, cancelled=lambda: self._stop_cuts)

        def received(found: LotCuts) -> None:
            self.cuts = found
            self.cuts_changed.emit()

        self._tasks.run("cuts", work, received)

    def stop_cuts(self) -> None:
        """Stop planning and take the best so far."""
        self._stop_cuts = True

    def cut_hanks(self) -> list[CutHank]:
        """The plan as the figure shows it."""
        if self.cuts is None:
            return []
        say = self.units.cord_text
        return [
            CutHank(
                h.hank_id,
                h.label,
                h.before_m,
                tuple((c.code, c.length_m) for c in h.cuts),
                h.left_m,
                h.kept,
                f"{say(h.left_m)} left" if h.kept else f"{say(h.left_m)} lost",
            )
            for h in self.cuts.hanks
        ]

    def cut_words(self) -> tuple[str, str]:
        """How good the plan is, or what is missing."""
        c, say = self.cuts, self.units.cord_text
        if c is None:
            return ("Planning the cuts …" if self.cut_lot_id else "Nothing waits to be cut.", "")
        if c.plan is None:
            return "", f"{c.trouble} {c.drop}"
        p = c.plan
        known = (
            "proven: none is better" if p.optimal else f"within {100 * p.gap:.1f} % of the bound"
        )
        words = (
            f"{sum(len(h.cuts) for h in c.hanks)} specimens from {len(c.hanks)} hanks: "
            f"{say(p.used_up_m)} used up, {say(p.written_off_m)} of it lost as rests. "
            f"{p.method[0].upper()}{p.method[1:]}; {known}."
        )
        return words, ""

    def cut_all(self) -> None:
        """Cut everything of the plan shown."""
        cuts = self.cuts
        if cuts is not None and cuts.plan is not None:
            self.attempt(lambda: cut_all(self.workshop, cuts))

    def sheet(self) -> str:
        """The cut sheet of the plan shown, as a page."""
        c, journal = self.cuts, self.journal
        if c is None or c.plan is None or journal is None:
            return ""
        specimens = {e.specimen.id: e.specimen for e in journal.entries}
        say = self.units
        hanks = []
        for h in c.hanks:
            lines = []
            for cut in h.cuts:
                s = specimens[cut.specimen_id]
                tails = sorted({say.length_text(t.length_m) for t in s.tails})
                words = f"tails {', '.join(tails)}" if tails else ""
                lines.append(SheetLine(cut.code, s.title, say.cord_text(cut.length_m), words))
            after = say.cord_text(h.left_m) + (" left" if h.kept else " lost")
            hanks.append(SheetHank(h.label, say.cord_text(h.before_m), after, tuple(lines)))
        sizes = {name: (t.pixels / PX_PER_MM, t.weight) for name, t in TEXT.items()}
        picture = write_svg(cuts_figure(self.cut_hanks(), SHEET_MM), CHALK, sizes)
        lot = SheetLot(c.lot.name, self.cut_words()[0], picture, tuple(hanks))
        return write_cut_sheet(
            self.workshop.campaign.title, self.workshop.now()[:10], (lot,), CHALK
        )

    def write_sheet(self, path: Path) -> None:
        """Write the cut sheet to a file."""

        def write() -> None:
            try:
                path.write_text(self.sheet(), encoding="utf-8")
            except OSError as error:
                raise StoreError(f"{path.name} cannot be written: {error.strerror}.") from error

        self.attempt(write)
