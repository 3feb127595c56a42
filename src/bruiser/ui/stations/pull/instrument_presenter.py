"""Decides what the instrument's form shows, and tries its line."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace

from PyQt6.QtCore import pyqtSignal

from bruiser.core.errors import BruiserError, InputError
from bruiser.rig.instrument import Instrument
from bruiser.rig.protocol import rates_borne
from bruiser.rig.serial.line import BAUDS
from bruiser.rig.serial.probe import ProbedPort
from bruiser.ui.runtime.desk import Desk, said_of
from bruiser.ui.runtime.tasks import TaskRunner
from bruiser.workshop.bench.instruments import (
    InstrumentChoice,
    check_known_load,
    choice_texts,
    read_choice,
    try_settings,
    with_cell,
)
from bruiser.workshop.bench.simulation import inject_fault, is_simulated
from bruiser.workshop.desk.form_texts import Typed
from bruiser.workshop.logbook.workshop import Workshop

MOST_LINES = 12


class InstrumentPresenter(Desk):
    """The instrument that pulls are recorded with."""

    chosen = pyqtSignal()

    def __init__(
        self, workshop: Workshop, tasks: TaskRunner, on_bench: Callable[[], Instrument | None]
    ) -> None:
        super().__init__(workshop)
        self._tasks = tasks
        self._on_bench = on_bench
        self.choice = InstrumentChoice()
        self.tried: ProbedPort | None = None
        self.found_baud = ""
        self.last_read = ""
        self._said = ""
        self._checked = ""

    def texts(self) -> dict[str, str]:
        """The choice as its form shows it."""
        return choice_texts(self.choice)

    def cells(self) -> list[tuple[str, str]]:
        """The cells of the bench book, to take capacity and calibration factor from."""
        found = self.logbook.bench_book.benches if self.logbook is not None else ()
        say = self.units.force_text
        return [("", "as typed")] + [
            (
                b.id,
                f"{b.name}: {say(b.capacity_n)}, class {b.accuracy_class or '?'}, × {b.factor:g}",
            )
            for b in found
        ]

    def take_cell(self, bench_id: str) -> None:
        """Take capacity, resolution and factor from a cell of the book."""
        found = self.logbook.bench_book.benches if self.logbook is not None else ()
        bench = next((b for b in found if b.id == bench_id), None)
        no_bench = replace(self.choice, bench_id="")
        self.choice = no_bench if bench is None else with_cell(self.choice, bench)
        self.changed.emit()

    def bears(self, baud: str) -> str:
        """What a baud rate carries."""
        rates = {n: rates_borne(int(baud or 115_200), n) for n in (2, 3)}
        two, three = (str(r[0]) if r else "under 10" for r in rates.values())
        return (
            f"This baud rate bears {two} samples a second with load and travel, {three} with a "
            "third channel."
        )

    def _read(self, texts: Mapping[str, str]) -> tuple[InstrumentChoice, dict[str, str]]:
        return read_choice(texts, self.choice)

    def listen(self, texts: Mapping[str, str]) -> dict[str, str]:
        """Listen to the line at the baud rate typed; returns the fields that are wrong."""
        choice, errors = self._read(texts)
        return errors or self._try(choice, (choice.baud,))

    def try_all(self, texts: Mapping[str, str]) -> dict[str, str]:
        """Listen at every baud rate and keep the one that was understood."""
        choice, errors = self._read(texts)
        return errors or self._try(choice, BAUDS)

    def _try(self, choice: InstrumentChoice, bauds: tuple[int, ...]) -> dict[str, str]:
        if not choice.path:
            return {"path": "Name the line."}
        self.choice = choice
        self._said = "Listening …"
        self.changed.emit()

        def received(found: tuple[list[ProbedPort], ProbedPort | None]) -> None:
            tried, good = found
            self.tried = good or max(tried, key=lambda t: len(t.raw))
            self._take(good, len(bauds) > 1)
            self.changed.emit()

        def failed(error: Exception) -> None:
            self.tried, self._said = None, str(said_of(error))
            self.changed.emit()

        self._tasks.run("listen", lambda: try_settings(choice, bauds), received, failed)
        return {}

    def _take(self, good: ProbedPort | None, several: bool) -> None:
        if self.tried is None or not self.tried.raw:
            self._said = "Nothing came. Check plug, power, and whether it has to be asked."
            return
        self.found_baud = str(good.baud) if good is not None and several else ""
        self._said = (
            f"{100 * self.tried.share:.0f} % of {len(self.tried.raw)} lines understood at "
            f"{self.tried.baud} baud."
        )
        loads = [u.load_n for u in self.tried.understood if u.load_n is not None]
        if loads:
            self.last_read = self.units.force_text(loads[-1])

    def heard(self) -> list[tuple[str, str]]:
        """The last lines as they came, beside what was understood."""
        if self.tried is None:
            return []
        ours = self.tried.protocol_lines > len(self.tried.raw) / 2
        found = []
        for line in self.tried.understood[-MOST_LINES:]:
            said = "not understood" if line.load_n is None else self.units.force_text(line.load_n)
            found.append((line.raw, f"{said}, a bench's own line" if ours else said))
        return found

    def heard_words(self) -> str:
        """How much was understood."""
        return self._said

    def check(self, texts: Mapping[str, str]) -> dict[str, str]:
        """Keep a check with a known load; returns the fields that are wrong."""
        typed = Typed(texts)
        known = typed.quantity("known", "force", self.units.force, missing="What hangs on it?")
        reads = typed.quantity("reads", "force", self.units.force, missing="What does it read?")
        if typed.errors or known is None or reads is None:
            return typed.errors
        try:
            self.choice = check_known_load(
                self.workshop, self.choice, known, reads, texts.get("by", "")
            )
        except InputError as error:
            return {"reads": str(error)}
        except BruiserError as error:
            self.failed.emit(error)
            return {}
        self._checked = f"Kept: off by {100 * (reads / known - 1):+.1f} %."
        self.changed.emit()
        return {}

    def checked_words(self) -> str:
        """What the last check said."""
        return self._checked or (
            "A wrong decimal mark reads −1,5 as −15 without a word: hang a known load on it first."
        )

    def use(self, texts: Mapping[str, str]) -> dict[str, str]:
        """Use the instrument typed from the next pull on; returns the fields that are wrong."""
        choice, errors = self._read(texts)
        if not errors:
            self.choice = choice
            self.changed.emit()
            self.chosen.emit()
        return errors

    @property
    def may_inject(self) -> bool:
        """Whether a simulated bench is under way, which faults can be put into."""
        return is_simulated(self._on_bench())

    def inject(self, key: str) -> None:
        """Put a fault into the simulated bench that is being pulled."""
        bench = self._on_bench()
        if bench is not None:
            inject_fault(bench, key)
