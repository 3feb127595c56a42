"""The line at the bench with the running J50 of a jam ladder, and the next fresh specimen."""

from __future__ import annotations

from PyQt6.QtWidgets import QHBoxLayout, QWidget

from bruiser.core.memory import Memory
from bruiser.ui.kit.parts import Words, button
from bruiser.ui.runtime.desk import Desk
from bruiser.ui.runtime.tasks import TaskRunner
from bruiser.workshop.course.jam_tests import (
    JamLadder,
    a_try_waits,
    ladder_words,
    ladders_begun,
    queue_try,
)
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop


class LadderDesk(Desk):
    """The ladder worked on last, looked up away from the interface."""

    def __init__(self, workshop: Workshop, tasks: TaskRunner, memory: Memory | None = None) -> None:
        super().__init__(workshop)
        self._tasks = tasks
        self._memory = Memory() if memory is None else memory
        self.at: JamLadder | None = None
        self._put_away = ""
        self._begun = False

    def take_up(self, logbook: Logbook) -> None:
        """The logbook changed: look again, where a ladder was begun."""
        begun = self._begun or self.logbook is None
        self.logbook = logbook

        def look() -> tuple[JamLadder, ...]:
            return ladders_begun(logbook, self._memory) if begun or a_try_waits(logbook) else ()

        self._tasks.run("jam ladder", look, self._show, self.look_failed)

    def _show(self, found: tuple[JamLadder, ...]) -> None:
        self._begun = bool(found)
        at = found[0] if found else None
        if at is not None and ladder_words(at) == self._put_away:
            at = None
        if at != self.at:
            self.at = at
            self.changed.emit()

    @property
    def may_go_on(self) -> bool:
        """Whether a fresh specimen is due."""
        at = self.at
        return at is not None and not at.waiting and at.ladder.next_share is not None

    def go_on(self) -> None:
        """Put the next fresh specimen at the head of the queue."""
        at, logbook = self.at, self.logbook
        if at is not None and logbook is not None and self.may_go_on:
            self.attempt(lambda: queue_try(self.workshop, logbook, at))

    def put_away(self) -> None:
        """Say it no more until it changes."""
        if self.at is not None:
            self._put_away = ladder_words(self.at)
            self.at = None
            self.changed.emit()


class LadderLine(QWidget):
    """Says where the ladder stands, with a button for the next try."""

    def __init__(self, desk: LadderDesk) -> None:
        super().__init__()
        self._desk = desk
        self.words = Words("", "body")
        self.words.setObjectName("pull.ladder.words")
        self.go_on = button("Put a fresh one on", "pull.ladder.next")
        self.away = button("Put away", "pull.ladder.away", "chip")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.words, 1)
        row.addWidget(self.go_on)
        row.addWidget(self.away)
        self.go_on.clicked.connect(desk.go_on)
        self.away.clicked.connect(desk.put_away)
        desk.changed.connect(self._on_changed)
        self.hide()

    def _on_changed(self) -> None:
        at = self._desk.at
        self.setVisible(at is not None)
        if at is not None:
            self.words.say(ladder_words(at))
            self.go_on.setVisible(self._desk.may_go_on)
