"""A knot's drawing: either face, the other hand, and the path followed up to a point."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QCheckBox, QHBoxLayout, QVBoxLayout, QWidget
from typing_extensions import override

from bruiser.catalogue.drawings import drawn, other_hand, variant_drawn
from bruiser.core.topology.crossings import pointed_at
from bruiser.figures.drawn_knots import drawing_words
from bruiser.figures.knot_drawing import Facing, knot_figure
from bruiser.ui.canvas.figure_view import FigureView
from bruiser.ui.kit.fields import Chips
from bruiser.ui.kit.parts import Words
from bruiser.ui.kit.steady import SteadySlider
from bruiser.ui.theme.tokens import SPACE

FACES = {"front": "Front", "back": "Back"}
_STEPS = 200


class KnotPanel(QWidget):
    """Shows the drawing of one structure; nothing but its reason where it has none.

    Parameters
    ----------
    only : str
        The one face that is shown, without controls; empty for both with them.
    """

    def __init__(self, name: str, height: int, *, only: str = "") -> None:
        super().__init__()
        self.view = FigureView(f"{name}.drawing")
        self.view.setFixedHeight(height)
        self.face = Chips(f"{name}.face", FACES)
        self.other_hand = QCheckBox("Other hand")
        self.other_hand.setObjectName(f"{name}.hand")
        self.other_hand.setAccessibleName("Drawn for the other hand")
        self.follow = SteadySlider()
        self.follow.setObjectName(f"{name}.follow")
        self.follow.setAccessibleName("Follow the rope")
        self.follow.setToolTip("Follow the rope from its start: drag, or use the arrow keys")
        self.follow.setRange(1, _STEPS)
        self.follow.setValue(_STEPS)
        self.words = Words("", "small", "muted")
        self.words.setObjectName(f"{name}.words")
        self._key, self._title, self._face = "", "", only or "front"
        self._only = only
        self._choices: dict[str, str] = {}
        self._ringed: tuple[int, ...] = ()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(SPACE["xs"])
        column.addWidget(self.view)
        self.controls = QWidget()
        across = QHBoxLayout(self.controls)
        across.setContentsMargins(0, 0, 0, 0)
        across.setSpacing(SPACE["s"])
        across.addWidget(self.face)
        across.addWidget(self.follow, 1)
        across.addWidget(self.other_hand)
        column.addWidget(self.controls)
        column.addWidget(self.words)
        self.view.resized.connect(self._draw)
        self.face.chosen.connect(self._on_face)
        self.other_hand.toggled.connect(lambda _: self._draw())
        self.follow.valueChanged.connect(lambda _: self._draw())

    def show_knot(
        self, key: str, choices: Mapping[str, str], title: str, ringed: Sequence[int] = ()
    ) -> None:
        """Show a variant of a structure, whole, with some crossings ringed."""
        self._ringed = tuple(ringed)
        self._key, self._choices, self._title = key, dict(choices), title
        there = drawn(key) is not None
        self.view.setVisible(there)
        self.controls.setVisible(there and not self._only)
        self.words.say(drawing_words(key, self._choices))
        self.follow.blockSignals(True)
        self.follow.setValue(_STEPS)
        self.follow.blockSignals(False)
        self._draw()

    def point_at(self, face: str) -> None:
        """Turn to a face and ring what its recognition cue speaks of; once more: ring nothing."""
        found = variant_drawn(self._key, self._choices)
        if found is None:
            return
        wanted = pointed_at(found.drawn.layout, face)
        again = self._face == face and self._ringed == wanted
        self._ringed = () if again else wanted
        self.face.pick(face)

    def _on_face(self, key: str) -> None:
        self._face = key
        self._draw()

    @override
    def showEvent(self, a0: QShowEvent | None) -> None:
        super().showEvent(a0)
        self._draw()

    def _draw(self) -> None:
        """Draw it where it can be seen."""
        found = variant_drawn(self._key, self._choices) if self.isVisible() else None
        if found is None:
            return
        mirrored = other_hand(self._choices) != self.other_hand.isChecked()
        look = Facing(
            back=self._face == "back",
            mirrored=mirrored,
            upto=self.follow.value() / _STEPS,
            ringed=self._ringed,
        )
        width, height = self.view.page_mm()
        self.view.show_figure(knot_figure(found.drawn.layout, width, height, self._title, look))
