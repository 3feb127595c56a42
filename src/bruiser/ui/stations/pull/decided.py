"""The line at the bench that says when a criterion is decided, and puts the rest back."""

from __future__ import annotations

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from bruiser.core.memory import Memory
from bruiser.core.words import count
from bruiser.ui.kit.parts import Words, button
from bruiser.ui.runtime.desk import Desk
from bruiser.ui.runtime.tasks import TaskRunner
from bruiser.ui.stations.pull.ladder import LadderDesk
from bruiser.workshop.course.decided import Decided, decided_early, put_back
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop

FIRST_LOOK_MS, LOOK_MS = 1500, 250


class DecidedDesk(Desk):
    """What is decided, looked for away from the interface after each stored finding."""

    def __init__(self, workshop: Workshop, tasks: TaskRunner, memory: Memory | None = None) -> None:
        super().__init__(workshop)
        self._tasks = tasks
        self._memory = Memory() if memory is None else memory
        self.ladder = LadderDesk(workshop, tasks, memory)
        self.ladder.failed.connect(self.failed)
        self._due = QTimer(self)
        self._due.setSingleShot(True)
        self._due.timeout.connect(self._look)
        self.decided: Decided | None = None
        self._kept: frozenset[str] = frozenset()

    def take_up(self, logbook: Logbook) -> None:
        """The logbook changed: look again a little later, when the work itself is done."""
        first, self.logbook = self.logbook is None, logbook
        self._due.start(FIRST_LOOK_MS if first or self._due.isActive() else LOOK_MS)

    def _look(self) -> None:
        logbook = self.logbook
        if logbook is None:
            return
        self.ladder.take_up(logbook)
        if not logbook.brief.criteria_in_force:
            self._show(())
            return
        self._tasks.run(
            "decided", lambda: decided_early(logbook, self._memory), self._show, self.look_failed
        )

    def _show(self, found: tuple[Decided, ...]) -> None:
        told = [d for d in found if d.sentence not in self._kept]
        decided = told[0] if told else None
        if decided != self.decided:
            self.decided = decided
            self.changed.emit()

    def put_back(self) -> None:
        """Take the rest out of the queue."""
        logbook, decided = self.logbook, self.decided
        if logbook is not None and decided is not None:
            self.attempt(lambda: put_back(self.workshop, logbook, decided))

    def keep(self) -> None:
        """Pull them all the same; it is not said again."""
        if self.decided is not None:
            self._kept |= {self.decided.sentence}
            self.decided = None
            self.changed.emit()


class DecidedLine(QWidget):
    """Says it, with a button for the rest and one to go on all the same."""

    def __init__(self, desk: DecidedDesk) -> None:
        super().__init__()
        self._desk = desk
        self.words = Words("", "body")
        self.words.setObjectName("pull.decided.words")
        self.back = button("Put the rest back to stock", "pull.decided.back")
        self.keep = button("Pull them all the same", "pull.decided.keep", "chip")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.words, 1)
        row.addWidget(self.back)
        row.addWidget(self.keep)
        self.back.clicked.connect(desk.put_back)
        self.keep.clicked.connect(desk.keep)
        desk.changed.connect(self._on_changed)
        self.hide()

    def _on_changed(self) -> None:
        decided = self._desk.decided
        self.setVisible(decided is not None)
        if decided is None:
            return
        self.words.say(decided.sentence)
        rest = len(decided.rest)
        self.back.setVisible(rest > 0)
        self.back.setText(f"Put {count(rest, 'specimen')} back to stock")
