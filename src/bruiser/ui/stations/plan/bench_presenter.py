"""Decides what the bench book shows and checks what is planned against it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from PyQt6.QtCore import pyqtSignal

from bruiser.core.planning.bench_checks import CheckVerdict, Say, worst
from bruiser.core.records.bench_book import BenchRecord
from bruiser.ui.runtime.desk import Desk
from bruiser.ui.runtime.tasks import TaskRunner
from bruiser.workshop.desk.lot_entry import Checked
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop
from bruiser.workshop.plan import bench_entry
from bruiser.workshop.plan.bench_queue import CheckGroup, check_queue


class BenchPresenter(Desk):
    """One bench of the book, and the queue checked on it."""

    checks_changed = pyqtSignal()

    def __init__(self, workshop: Workshop, tasks: TaskRunner) -> None:
        super().__init__(workshop)
        self._tasks = tasks
        self.bench_id = ""
        self.groups: list[CheckGroup] = []

    @property
    def bench(self) -> BenchRecord | None:
        """The bench shown; None while a new one is written."""
        benches = self.logbook.bench_book.benches if self.logbook is not None else ()
        return next((b for b in benches if b.id == self.bench_id), None)

    def take_up(self, logbook: Logbook) -> None:
        """Show the book as it stands and check the queue."""
        self.logbook = logbook
        if self.bench is None and logbook.bench_book.benches:
            self.bench_id = logbook.bench_book.benches[0].id
        self.changed.emit()
        self._check()

    def show_bench(self, bench_id: str) -> None:
        """Show a bench; empty begins a new one."""
        self.bench_id = bench_id
        self.changed.emit()
        self._check()

    def benches(self) -> list[tuple[str, str]]:
        """Benches to choose from."""
        benches = self.logbook.bench_book.benches if self.logbook is not None else ()
        new = [("", "a new bench")] if self.bench is None else []
        return new + [(b.id, b.name) for b in benches]

    def texts(self) -> dict[str, str]:
        """The bench as its form shows it."""
        return {} if self.bench is None else bench_entry.bench_texts(self.bench, self.units)

    def store(self, texts: Mapping[str, str], methods: Sequence[str]) -> Checked:
        """Write the bench into the book."""
        logbook, before = self.logbook, self.bench
        if logbook is None:
            return Checked()
        checked = self.store_form(
            lambda: bench_entry.store_bench(self.workshop, logbook, texts, methods, before)
        )
        if checked.stored and before is None:
            self.show_bench(checked.stored)
        return checked

    def drop(self) -> None:
        """Take the bench out of the book."""
        bench = self.bench
        if bench is not None:
            self.attempt(lambda: self.workshop.do(bench_entry.DropBench(bench)))

    def add_fixture(self, texts: Mapping[str, str]) -> Checked:
        """Write a fixture down."""
        return self.store_form(lambda: bench_entry.store_fixture(self.workshop, texts))

    def note_room(self, texts: Mapping[str, str]) -> Checked:
        """Note today's room."""
        return self.store_form(lambda: bench_entry.note_room(self.workshop, texts))

    def fixtures(self) -> list[tuple[str, ...]]:
        """The fixtures: kind, mark, material, finish, diameter."""
        found = self.logbook.bench_book.fixtures if self.logbook is not None else ()
        say = self.units.diameter_text
        return [(f.kind, f.name, f.material, f.finish, say(f.diameter_m)) for f in found]

    def rooms(self) -> list[tuple[str, ...]]:
        """The room by day, newest first."""
        days = self.logbook.bench_book.days if self.logbook is not None else ()
        newest = sorted(days, key=lambda d: d.day, reverse=True)
        return [(d.day, f"{d.temperature_c:g} °C", f"{100 * d.humidity:.0f} %") for d in newest]

    def _check(self) -> None:
        logbook, bench = self.logbook, self.bench
        self.groups = []
        if logbook is None or bench is None:
            self.checks_changed.emit()
            return
        say = Say(self.units.force_text, self.units.length_text)
        today = self.workshop.now()[:10]

        def work() -> list[CheckGroup]:
            return check_queue(logbook, bench, say, today)

        def received(groups: list[CheckGroup]) -> None:
            self.groups = groups
            self.checks_changed.emit()

        self._tasks.run("bench", work, received, self.work_failed)

    def verdict(self) -> tuple[CheckVerdict, str]:
        """The worst of all checks, in words."""
        if self.bench is None:
            return (
                CheckVerdict.CAUTION,
                "Write a bench into the book; what is planned is checked on it.",
            )
        if not self.groups:
            return CheckVerdict.PASS, "Nothing waits to be pulled."
        verdict = worst([c for g in self.groups for c in g.checks])
        words = {
            CheckVerdict.PASS: "It bears everything in the queue.",
            CheckVerdict.CAUTION: "It bears the queue, with the cautions below.",
            CheckVerdict.STOP: "It does not bear everything in the queue. "
            "Mend this before cutting.",
        }[verdict]
        return verdict, words
