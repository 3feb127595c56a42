"""A tie laid as it lies on the bench: crossings the other way, the word, and what knot that is."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

from bruiser.catalogue.drawings import drawn
from bruiser.catalogue.recognition import Recognised, recognise, turned_by_word, word_of
from bruiser.catalogue.trainer import can_be_asked
from bruiser.core.errors import InputError
from bruiser.core.topology.changes import turned_over
from bruiser.figures.display import Figure
from bruiser.figures.drawn_knots import NO_DRAWING
from bruiser.figures.knot_drawing import Facing, knot_figure
from bruiser.ui.runtime.tasks import TaskRunner

TOO_MANY = "This one has too many crossings to be checked one by one."
LOOKING = "Looking up which knot that is."
_TASK = "tie"


class TieDesk(QObject):
    """One tie at a time: a structure's drawing with some of its crossings the other way.

    What knot it is takes up to a second to reckon: that is done on a worker where there is one.

    Parameters
    ----------
    name_of : callable
        The name of a structure by its key.
    tasks : TaskRunner or None
        Without one it is reckoned at once.
    """

    changed = pyqtSignal()

    def __init__(self, name_of: Callable[[str], str], tasks: TaskRunner | None) -> None:
        super().__init__()
        self._name = name_of
        self._tasks = tasks
        self._key = ""
        self._seen: dict[tuple[str, frozenset[int]], Recognised] = {}
        self.turned: frozenset[int] = frozenset()

    @property
    def key(self) -> str:
        """The structure whose drawing is shown."""
        return self._key

    @property
    def laid(self) -> frozenset[int]:
        """The crossings that lie the other way, by number."""
        return self.turned

    @property
    def can_check(self) -> bool:
        """Whether the structure shown can be checked crossing by crossing."""
        return can_be_asked(self.key)

    @property
    def may_spell(self) -> bool:
        """Whether a tie may be typed."""
        return self.can_check

    @property
    def changed_by_hand(self) -> bool:
        """Whether there is anything to be laid as drawn again."""
        return bool(self.laid)

    def show(self, key: str) -> None:
        """Show a structure, or a variant with a path of its own, as drawn."""
        self._key = key
        self.leave()

    def leave(self) -> None:
        """Lay everything as drawn."""
        self.turned = frozenset()
        self.changed.emit()

    def turn(self, number: int) -> None:
        """Lay a crossing the other way."""
        self.turned = self.turned ^ {number}
        self.changed.emit()

    def spell(self, word: str) -> str:
        """Take a tie as it was followed by hand; returns what is wrong with it, or nothing."""
        found = drawn(self.key)
        if found is None:
            return ""
        try:
            self.turned = turned_by_word(found.layout, word)
        except InputError as error:
            return str(error)
        self.changed.emit()
        return ""

    def word(self) -> str:
        """Over and under as the rope is followed."""
        found = drawn(self.key)
        return "" if found is None else word_of(turned_over(found.layout, self.laid))

    def figure(self, page: tuple[float, float]) -> Figure | None:
        """The tie drawn; crossings that lie the other way are ringed."""
        return self.drawn_tie(page, Facing(ringed=tuple(sorted(self.laid))))

    def drawn_tie(self, page: tuple[float, float], look: Facing) -> Figure | None:
        """The tie drawn in some way, without a name where it is not to be told."""
        found = drawn(self.key)
        if found is None or not self.can_check:
            return None
        return knot_figure(turned_over(found.layout, self.laid), *page, "A tie", look)

    def verdict(self) -> tuple[str, str]:
        """What the tie is, and the tone it is said in."""
        if drawn(self.key) is None:
            return NO_DRAWING, "muted"
        if not self.can_check:
            return TOO_MANY, "muted"
        return self.told()

    def _recognised(self) -> Recognised | None:
        """What the tie is; None while a worker looks it up."""
        wanted = self.key, self.laid
        if wanted not in self._seen and self._tasks is None:
            self._seen[wanted] = recognise(*wanted)
        elif wanted not in self._seen and self._tasks is not None:

            def received(found: Recognised) -> None:
                self._seen[wanted] = found
                self.changed.emit()

            self._tasks.run(_TASK, lambda: recognise(*wanted), received, lambda _: None)
        return self._seen.get(wanted)

    def told(self) -> tuple[str, str]:
        """What is laid, recognised."""
        seen = self._recognised()
        if seen is None:
            return LOOKING, "muted"
        name, off = self._name(self.key), crossings_off(self.laid)
        if not self.laid:
            alike = [self._name(k) for k in seen.keys if k != self.key]
            same = f" Tied the same: {', '.join(alike)}." if alike else ""
            return f"As drawn: {name}.{same}", "moss"
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
        whole = found is not None and len(self.laid) == len(found.layout.crossings)
        if whole:
            hand = "either hand is alike" if self.key in seen.keys else "tied with the other hand"
            return f"{name}: {hand}.", "moss"
        return (
            f"{off}; by computation it cannot be told from: {name}. Look at it by hand.",
            "ochre",
        )

    @property
    def is_right(self) -> bool:
        """Whether what is laid is the structure, of either hand."""
        return self.told()[1] == "moss"


def crossings_off(numbers: frozenset[int]) -> str:
    """Which crossings lie the other way, in words."""
    said = ", ".join(str(n + 1) for n in sorted(numbers))
    return f"Crossing {said} is off" if len(numbers) == 1 else f"Crossings {said} are off"
