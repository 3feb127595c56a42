"""Decides what the plan shows, and queues specimens."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from datetime import datetime

from PyQt6.QtCore import pyqtSignal

from bruiser.core.memory import Memory
from bruiser.core.records.method_kinds import Parameter, Unit
from bruiser.core.records.methods import MethodPlan, wrong_order
from bruiser.core.records.records import DRESSED, Role, Specimen
from bruiser.figures.plan_charts import (
    MatrixRow,
    PlannedCell,
    PrecisionLine,
)
from bruiser.ui.runtime.desk import Desk
from bruiser.ui.runtime.tasks import TaskRunner
from bruiser.ui.stations.plan.bench_presenter import BenchPresenter
from bruiser.ui.stations.plan.cuts_presenter import CutsPresenter
from bruiser.ui.stations.plan.next_presenter import NextPresenter
from bruiser.ui.stations.plan.queue_presenter import QueuePresenter
from bruiser.workshop.desk.form_texts import Typed
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop
from bruiser.workshop.plan.cell_specimens import row_words
from bruiser.workshop.plan.plan_cells import (
    PlanDraft,
    count_there,
    legs_to_pick,
    takes_second_line,
)
from bruiser.workshop.plan.plan_refusals import missing_fixtures, refusals, thin_hosts
from bruiser.workshop.plan.planning import Outlook, outlook, queue_plan
from bruiser.workshop.plan.pricing import Curve, precision_curve, prices
from bruiser.workshop.plan.state_entry import on_purpose_texts, read_on_purpose
from bruiser.workshop.results.lot_results import LotResults, lot_results

MANY_PULLS = 30


class PlanPresenter(Desk):
    """One draft: what is picked, what it buys and costs."""

    curve_changed = pyqtSignal()

    def __init__(self, workshop: Workshop, tasks: TaskRunner, memory: Memory | None = None) -> None:
        super().__init__(workshop)
        self._tasks = tasks
        self.bench = BenchPresenter(workshop, tasks)
        self.cutting = CutsPresenter(workshop, tasks)
        self.cutting.failed.connect(self.failed)
        self.bench.failed.connect(self.failed)
        self.queue_desk = QueuePresenter(workshop)
        self.queue_desk.failed.connect(self.failed)
        self.next = NextPresenter(workshop, tasks, memory)
        self.next.failed.connect(self.failed)
        self.panel = "matrix"
        self.draft = PlanDraft()
        self.selected = ""
        self.curve: Curve | None = None

    def take_up(self, logbook: Logbook) -> None:
        """Show the plan over the logbook as it stands."""
        self.logbook = logbook
        lots = {x.id for x in logbook.lots_in_use}
        knots = {x.id for x in logbook.knots_in_play}
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
        if panel == "cuts" and self.logbook is not None:
            self.cutting.take_up(self.logbook)
        elif panel == "bench" and self.logbook is not None:
            self.bench.take_up(self.logbook)
        elif panel == "next" and self.logbook is not None:
            self.next.take_up(self.logbook)
        elif panel == "queue" and self.logbook is not None:
            self.queue_desk.take_up(self.logbook, self.draft.hours_a_day)

    def pick_states(
        self,
        methods: tuple[str, ...],
        dressings: tuple[str, ...],
        fixture_ids: tuple[str, ...],
        others: tuple[str, ...],
        lot_b_ids: tuple[str, ...],
        pair: bool,
    ) -> None:
        """Pick how knots are tied and loaded; nothing picked stands for the plain way."""
        kept = {plan.key: plan for plan in self.draft.methods}
        self.draft = replace(
            self.draft,
            methods=tuple(kept.get(k, MethodPlan(k)) for k in methods) or (MethodPlan(),),
            dressings=dressings or (DRESSED,),
            fixture_ids=fixture_ids,
            others=others,
            lot_b_ids=lot_b_ids,
            pair=pair,
        )
        self.changed.emit()

    def method_parameters(self, key: str) -> list[tuple[Parameter, str]]:
        """Numbers of a picked method, each with its value as typed."""
        plan = next((m for m in self.draft.methods if m.key == key), None)
        if plan is None:
            return []
        found = []
        for p in plan.method.parameters:
            value = plan.value(p.key)
            found.append((p, f"{100 * value if p.unit is Unit.SHARE else value:g}"))
        return found

    def read_parameters(self, key: str, texts: Mapping[str, str]) -> dict[str, str]:
        """Take in the numbers of a method; returns the fields that are wrong."""
        plan = next((m for m in self.draft.methods if m.key == key), None)
        if plan is None:
            return {}
        typed = Typed(texts)
        values = []
        for p in plan.method.parameters:
            missing = "A number is needed."
            if p.unit is Unit.SHARE:
                value = typed.share(p.key, missing=missing)
            elif p.unit is Unit.COUNT:
                value = typed.whole(p.key, most=100_000, missing=missing)
            else:
                value = typed.number(p.key, least=0.1, missing=missing)
            values.append((p.key, float(value or 0.0)))
        if typed.errors:
            return typed.errors
        made = replace(plan, values=tuple(sorted(values)))
        wrong = wrong_order(made)
        if not wrong:
            methods = tuple(made if m.key == key else m for m in self.draft.methods)
            self.draft = replace(self.draft, methods=methods)
            self.changed.emit()
        return wrong

    def legs(self) -> list[str]:
        """The sets of legs that the knots picked can be loaded by."""
        logbook = self.logbook
        if logbook is None:
            return []
        picked = [logbook.catalogue.get(logbook.knot(k).structure) for k in self.draft.knot_ids]
        return legs_to_pick(s for s in picked if s is not None)

    def pick_legs(self, legs: tuple[str, ...]) -> None:
        """Pick the sets of legs to load, by name."""
        self.draft = replace(self.draft, legs=legs)
        self.changed.emit()

    def on_purpose_texts(self) -> dict[str, str]:
        """What is done on purpose, as its form shows it."""
        return on_purpose_texts(self.draft.on_purpose, self.units)

    def read_on_purpose(self, texts: Mapping[str, str]) -> dict[str, str]:
        """Take in what is done on purpose; returns the fields that are wrong."""
        asked, errors = read_on_purpose(texts, self.units)
        if asked is not None and asked != self.draft.on_purpose:
            self.draft = replace(self.draft, on_purpose=asked)
            self.changed.emit()
        return errors

    def fixtures(self) -> list[tuple[str, str]]:
        """Hosts, edges and plates to plan on."""
        found = self.logbook.bench_book.fixtures if self.logbook is not None else ()
        say = self.units.diameter_text
        return [
            (f.id, f"{f.kind} {f.name}, {say(f.diameter_m)} {f.material}")
            for f in found
            if f.kind != "pin"
        ]

    def second_lines(self) -> list[tuple[str, str]]:
        """Lots that could be the other line; none while no bend or rope grip is picked."""
        logbook = self.logbook
        if logbook is None:
            return []
        structures = [logbook.catalogue.get(logbook.knot(k).structure) for k in self.draft.knot_ids]
        if not any(s is not None and takes_second_line(s) for s in structures):
            return []
        return [(x.id, x.name) for x in logbook.lots_in_use]

    def refused(self) -> list[str]:
        """Why the draft cannot be queued as it stands."""
        logbook = self.logbook
        if logbook is None:
            return []
        benches = logbook.bench_book.benches
        bench = self.bench.bench or (benches[0] if benches else None)
        found = refusals(logbook, self.draft, bench, self.units)
        return found + missing_fixtures(logbook, self.draft)

    def doubts(self) -> list[str]:
        """What is odd of the draft and asked about; it may be queued all the same."""
        return [] if self.logbook is None else thin_hosts(self.logbook, self.draft)

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
                round=texts.get("sharing") == "round",
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
            "sharing": "round" if d.round else "turns",
            "wanted": f"{100 * d.wanted:g}",
            "tell": f"{100 * d.tell:g}",
        }

    def toggle(self, key: str) -> None:
        """Switch a cell off or on again, and show its curve."""
        off = self.draft.off ^ {key} if self.selected == key else self.draft.off
        self.selected = key
        self.draft = replace(self.draft, off=frozenset(off))
        self.changed.emit()
        self._draw_curve()

    def _draw_curve(self) -> None:
        logbook = self.logbook
        if logbook is None or not self.selected:
            return
        lot_id, knot_id = self.selected.split("|")[:2]
        lot, knot = logbook.lot(lot_id), logbook.knot(knot_id)

        def received(results: LotResults) -> None:
            self.curve = precision_curve(results, knot)
            self.curve_changed.emit()

        self._tasks.run("plan", lambda: lot_results(logbook, lot), received, self.work_failed)

    def matrix(self) -> tuple[tuple[str, ...], list[MatrixRow]]:
        """Lots across, knots down."""
        logbook, draft = self.logbook, self.draft
        if logbook is None:
            return (), []
        there = count_there(logbook, draft.lot_ids)
        rows: dict[str, list[PlannedCell]] = {}
        names: dict[str, str] = {}
        for cell in draft.all_cells(logbook):
            off = cell.key in draft.off
            shown = PlannedCell(
                key=cell.key, done=there.get(cell.key, 0), added=0 if off else cell.pulls, off=off
            )
            rows.setdefault(cell.row, []).append(shown)
            names[cell.row] = row_words(logbook, cell)
        made = []
        for row, cells in rows.items():
            by_lot = {c.key.split("|", 1)[0]: c for c in cells}
            gap = PlannedCell(key="", done=0, added=0)
            made.append(MatrixRow(names[row], tuple(by_lot.get(x, gap) for x in draft.lot_ids)))
        return tuple(logbook.lot(x).name for x in draft.lot_ids), made

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
        c, logbook = self.curve, self.logbook
        if c is None or logbook is None or not self.selected:
            return "Tap a cell to see what its pulls would buy; tap it again to switch it off."
        lot_id, knot_id = self.selected.split("|")[:2]
        n = min(max(self.draft.pulls, c.pulls[0]), c.pulls[-1])
        at = c.pulls.index(n)
        return (
            f"{logbook.knot(knot_id).title} in {logbook.lot(lot_id).name}: after {n} pulls about "
            f"±{100 * c.one_knot[at]:.1f} points with one knot a specimen, "
            f"±{100 * c.two_knots[at]:.1f} with the knot at both ends. Spread: {c.source}.\n"
            f"{self._price_words(logbook, c, lot_id, knot_id)}"
        )

    def _price_words(self, logbook: Logbook, c: Curve, lot_id: str, knot_id: str) -> str:
        """What the wanted half-width costs, and how many pulls tell two knots apart."""
        d, say = self.draft, self.units.cord_text
        lot, knot = logbook.lot(lot_id), logbook.knot(knot_id)
        ends = {1: "one knot a specimen", 2: "both ends"}
        found = prices(logbook, d, lot, knot, c, d.wanted)
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
        if self.logbook is None or not self.draft.lot_ids:
            return None
        begin = datetime.fromisoformat(self.workshop.now()[:10]).replace(hour=8)
        return outlook(self.logbook, self.draft, begin)

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
        logbook = self.logbook
        if logbook is None:
            return 0
        made: list[Specimen] = []
        if not self.attempt(lambda: made.extend(queue_plan(self.workshop, logbook, self.draft))):
            return 0
        self.draft = replace(self.draft, knot_ids=(), seed=self.draft.seed + 1)
        self.selected, self.curve = "", None
        self.changed.emit()
        return len(made)

    def queued_words(self) -> str:
        """What waits in the queue, and how much of it is cut."""
        logbook = self.logbook
        if logbook is None:
            return ""
        waiting = logbook.waiting
        cut = sum(w.is_cut for w in waiting)
        plain = sum(w.kind.role is Role.BASELINE for w in waiting)
        return f"{len(waiting)} wait in the queue, {plain} of them straight pulls; {cut} are cut."
