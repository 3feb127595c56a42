"""Inspection practice: a drawing is right or subtly wrong, and one says which."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from bruiser.catalogue.drawings import drawn, layout_of
from bruiser.catalogue.recognition import recognise

_MOST_CROSSINGS = 36


@dataclass(frozen=True)
class PracticeTie:
    """A tie to be judged: a structure's drawing with some crossings the other way, or none."""

    key: str
    turned: frozenset[int]
    mirrored: bool

    @property
    def right(self) -> bool:
        """Whether it is tied as it should be; either hand is right."""
        return not self.turned


def can_be_asked(key: str) -> bool:
    """Whether a structure has a drawing that is small enough to be judged at a glance."""
    found = drawn(key)
    return found is not None and len(found.layout.crossings) <= _MOST_CROSSINGS


class Trainer:
    """Asks one tie after another and keeps the score by structure; nothing of it is data.

    Parameters
    ----------
    keys : sequence of str
        Structures to ask about; those that cannot be asked are passed over.
    seed : int
        Of what is asked, and in which order.

    Raises
    ------
    ValueError
        If none of them can be asked.
    """

    def __init__(self, keys: Sequence[str], seed: int) -> None:
        self._keys = [k for k in keys if can_be_asked(k)]
        if not self._keys:
            raise ValueError("none of these has a drawing to ask about")
        self._draw = np.random.default_rng(seed)
        self.score: dict[str, tuple[int, int]] = {}
        self.question: PracticeTie | None = None

    def ask(self) -> PracticeTie:
        """Put the next question."""
        key = self._keys[int(self._draw.integers(len(self._keys)))]
        hand = bool(self._draw.random() < 0.5)
        wrong = self._draw.random() < 0.5
        turned = self._one_wrong(key) if wrong else frozenset()
        self.question = PracticeTie(key, turned, hand)
        return self.question

    def _one_wrong(self, key: str) -> frozenset[int]:
        """A crossing that makes another knot of it when it lies the other way."""
        for n in self._draw.permutation(len(layout_of(key).crossings)):
            turned = frozenset({int(n)})
            seen = recognise(key, turned)
            if key not in seen.keys and key not in seen.mirrored:
                return turned
        return frozenset()

    def answer(self, right: bool) -> bool:
        """Judge the tie that was asked; returns whether that was true.

        Raises
        ------
        ValueError
            If nothing was asked.
        """
        if self.question is None:
            raise ValueError("nothing was asked")
        q, self.question = self.question, None
        good = right == q.right
        had, of = self.score.get(q.key, (0, 0))
        self.score[q.key] = (had + good, of + 1)
        return good
