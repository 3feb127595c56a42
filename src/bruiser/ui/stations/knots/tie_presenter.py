"""Decides what "Check my tie" shows: a tie as it lies on the bench, and inspection practice."""

from __future__ import annotations

import secrets

from PyQt6.QtCore import QObject, pyqtSignal

from bruiser.catalogue.drawings import drawn
from bruiser.catalogue.recognition import Recognised, recognise, turned_by_word, word_of
from bruiser.catalogue.trainer import PracticeTie, Trainer, can_be_asked
from bruiser.core.errors import InputError
from bruiser.core.topology.changes import turned_over
from bruiser.figures.display import Figure
from bruiser.figures.drawn_knots import NO_DRAWING
from bruiser.figures.knot_drawing import Facing, knot_figure
from bruiser.ui.stations.knots.presenter import KnotsPresenter

TOO_MANY = "This one has too many crossings to be checked one by one."


class TiePresenter(QObject):
    """One tie at a time: the structure shown with some crossings the other way, or a question."""

    changed = pyqtSignal()

    def __init__(self, knots: KnotsPresenter) -> None:
        super().__init__()
        self._knots = knots
        self._shown = ""
        self.turned: frozenset[int] = frozenset()
        self.trainer: Trainer | None = None
        self.answered: tuple[PracticeTie, bool] | None = None
        knots.shown_changed.connect(self._on_shown)

    @property
    def question(self) -> PracticeTie | None:
        """What waits for an answer."""
        return None if self.trainer is None else self.trainer.question

    @property
    def _asked(self) -> PracticeTie | None:
        return self.question or (self.answered[0] if self.answered else None)

    @property
    def key(self) -> str:
        """The structure whose drawing is shown: the one asked about, or the station's."""
        return self._asked.key if self._asked else self._knots.key

    @property
    def can_check(self) -> bool:
        """Whether the structure shown can be checked crossing by crossing."""
        return can_be_asked(self.key)

    def _on_shown(self) -> None:
        if self._knots.key != self._shown:
            self._shown = self._knots.key
            self.leave()
        else:
            self.changed.emit()

    def leave(self) -> None:
        """Show the station's structure as drawn, and ask nothing."""
        self.turned, self.answered = frozenset(), None
        if self.trainer is not None:
            self.trainer.question = None
        self.changed.emit()

    def turn(self, number: int) -> None:
        """Lay a crossing the other way."""
        if self._asked is None:
            self.turned = self.turned ^ {number}
            self.changed.emit()

    def spell(self, word: str) -> str:
        """Take a tie as it was followed by hand; returns what is wrong with it, or nothing."""
        found = drawn(self.key)
        if found is None or self._asked is not None:
            return ""
        try:
            self.turned = turned_by_word(found.layout, word)
        except InputError as error:
            return str(error)
        self.changed.emit()
        return ""

    def word(self) -> str:
        """Over and under as the rope is followed; nothing while it would give an answer away."""
        found = drawn(self.key)
        if found is None or self.question is not None:
            return ""
        return word_of(turned_over(found.layout, self._laid))

    @property
    def _laid(self) -> frozenset[int]:
        return self._asked.turned if self._asked else self.turned

    def figure(self, page: tuple[float, float]) -> Figure | None:
        """The tie drawn; crossings that lie the other way are ringed, unless one is asked."""
        found = drawn(self.key)
        if found is None or not self.can_check:
            return None
        asked = self._asked
        ringed = () if self.question is not None else tuple(sorted(self._laid))
        look = Facing(mirrored=asked is not None and asked.mirrored, ringed=ringed)
        return knot_figure(turned_over(found.layout, self._laid), *page, self._name(self.key), look)

    def _name(self, key: str) -> str:
        return self._knots.name_of(key)

    def verdict(self) -> tuple[str, str]:
        """What the tie is, and the tone it is said in."""
        if drawn(self.key) is None:
            return NO_DRAWING, "muted"
        if not self.can_check:
            return TOO_MANY, "muted"
        if self.question is not None:
            return f"Is this a right {self._name(self.key)}? Either hand would be.", "ink"
        told, tone = self._told()
        if self.answered is not None:
            good = self.answered[1]
            return f"{'You saw it' if good else 'Not so'}. {told}", "moss" if good else "brick"
        return told, tone

    def _told(self) -> tuple[str, str]:
        name, laid = self._name(self.key), self._laid
        off = _crossings(laid)
        if not laid:
            alike = [self._name(k) for k in recognise(self.key, laid).keys if k != self.key]
            same = f" Tied the same: {', '.join(alike)}." if alike else ""
            return f"As drawn: {name}.{same}", "moss"
        seen = recognise(self.key, laid)
        if self.key in seen.keys or self.key in seen.mirrored:
            return self._not_told_apart(seen, name, off)
        if seen.keys or seen.mirrored:
            others = ", or ".join(dict.fromkeys(map(self._name, seen.keys or seen.mirrored)))
            hand = "" if seen.keys else ", of the other hand"
            return f"Here lies: {others}{hand}, not {name}. {off}.", "brick"
        if seen.loose:
            return f"Nothing holds it: no knot is left when it is pulled. {off}.", "brick"
        return f"This is none of the knots that have a drawing. {off}.", "brick"

    def _not_told_apart(self, seen: Recognised, name: str, off: str) -> tuple[str, str]:
        found = drawn(self.key)
        whole = found is not None and len(self._laid) == len(found.layout.crossings)
        if whole:
            hand = "either hand is alike" if self.key in seen.keys else "tied with the other hand"
            return f"{name}: {hand}.", "moss"
        return (
            f"{off}; by computation it cannot be told from: {name}. Look at it by hand.",
            "ochre",
        )

    def ask(self) -> None:
        """Put a question about a structure in play, or of the catalogue where none can be asked."""
        if self.trainer is None:
            log = self._knots.logbook
            played = {k.structure for k in log.knots_in_play} if log is not None else set()
            keys = sorted(k for k in played if can_be_asked(k))
            keys = keys or sorted(filter(can_be_asked, self._knots.catalogue))
            self.trainer = Trainer(keys, secrets.randbits(32))
        self.answered = None
        self.trainer.ask()
        self.changed.emit()

    def answer(self, right: bool) -> None:
        """Judge what was asked."""
        if self.trainer is None or self.trainer.question is None:
            return
        question = self.trainer.question
        self.answered = question, self.trainer.answer(right)
        self.changed.emit()

    def score(self) -> str:
        """How often one saw it, by structure."""
        if self.trainer is None or not self.trainer.score:
            return "Nothing asked yet. What you answer here is kept nowhere."
        rows = self.trainer.score.items()
        had, of = (sum(s[k] for _, s in rows) for k in (0, 1))
        lines = [f"{self._name(k)}: {a} of {b}" for k, (a, b) in sorted(rows)]
        return "\n".join([f"Seen rightly: {had} of {of}", *lines])


def _crossings(numbers: frozenset[int]) -> str:
    said = ", ".join(str(n + 1) for n in sorted(numbers))
    return f"Crossing {said} is off" if len(numbers) == 1 else f"Crossings {said} are off"
