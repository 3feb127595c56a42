"""Decides what "Check my tie" shows: a tie as it lies on the bench, and inspection practice."""

from __future__ import annotations

import secrets

from typing_extensions import override

from bruiser.catalogue.trainer import PracticeTie, Trainer, can_be_asked
from bruiser.figures.display import Figure
from bruiser.figures.knot_drawing import Facing
from bruiser.ui.kit.tie_desk import TieDesk
from bruiser.ui.stations.knots.presenter import KnotsPresenter


class TiePresenter(TieDesk):
    """The station's structure with some crossings the other way, or a question."""

    def __init__(self, knots: KnotsPresenter) -> None:
        super().__init__(knots.name_of, knots.tasks)
        self._knots = knots
        self._shown = ""
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
    @override
    def key(self) -> str:
        return self._asked.key if self._asked else self._knots.key

    @property
    @override
    def laid(self) -> frozenset[int]:
        return self._asked.turned if self._asked else self.turned

    @property
    @override
    def may_spell(self) -> bool:
        return self.can_check and self._asked is None

    @property
    @override
    def changed_by_hand(self) -> bool:
        return self._asked is not None or bool(self.turned)

    def _on_shown(self) -> None:
        if self._knots.key != self._shown:
            self._shown = self._knots.key
            self.leave()
        else:
            self.changed.emit()

    @override
    def leave(self) -> None:
        self.answered = None
        if self.trainer is not None:
            self.trainer.question = None
        super().leave()

    @override
    def turn(self, number: int) -> None:
        if self._asked is None:
            super().turn(number)

    @override
    def spell(self, word: str) -> str:
        return super().spell(word) if self._asked is None else ""

    @override
    def word(self) -> str:
        return super().word() if self.question is None else ""

    @override
    def figure(self, page: tuple[float, float]) -> Figure | None:
        asked = self._asked
        ringed = () if self.question is not None else tuple(sorted(self.laid))
        look = Facing(mirrored=asked is not None and asked.mirrored, ringed=ringed)
        return self.drawn_tie(page, look)

    @override
    def verdict(self) -> tuple[str, str]:
        if self.question is not None:
            return f"Is this a right {self._name(self.key)}? Either hand would be.", "ink"
        told, tone = super().verdict()
        if self.answered is not None:
            good = self.answered[1]
            return f"{'You saw it' if good else 'Not so'}. {told}", "moss" if good else "brick"
        return told, tone

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
