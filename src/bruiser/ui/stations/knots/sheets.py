"""Reading a structure: how to know, tie and check it, and two of them side by side."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget
from typing_extensions import override

from bruiser.catalogue.drawings import WRONG, drawn, own_paths, split_key
from bruiser.catalogue.recognition import makes
from bruiser.catalogue.trainer import can_be_asked
from bruiser.core.topology.crossings import pointed_at
from bruiser.ui.kit.fields import ChoiceField
from bruiser.ui.kit.knot_panel import KnotPanel
from bruiser.ui.kit.parts import Card, Words, button
from bruiser.ui.kit.scrolled import Scrolled
from bruiser.ui.stations.knots.presenter import KnotsPresenter
from bruiser.ui.theme.tokens import SPACE

DRAWN_HEIGHT, BESIDE_HEIGHT = 190, 170
_RINGED = "Laid the other way at the ringed crossings, the one is the other."
_LIMB = "A constricting knot never goes round a limb or any body part; it may have to be cut off."
_RELEASE = "A quick-release tie is not for persons."


def _headed(heading: str, *parts: QWidget, caution: bool = False) -> Card:
    card = Card(heading, caution=caution)
    for part in parts:
        card.column.addWidget(part)
    return card


def _lines(texts: tuple[str, ...] | list[str], *, numbered: bool = False) -> list[QWidget]:
    made: list[QWidget] = []
    for number, text in enumerate(texts, start=1):
        row = QWidget()
        across = QHBoxLayout(row)
        across.setContentsMargins(0, 0, 0, 0)
        across.setSpacing(SPACE["s"])
        mark = Words(f"{number}" if numbered else "–", "strong", "plum")
        mark.setFixedWidth(14)
        across.addWidget(mark, 0, Qt.AlignmentFlag.AlignTop)
        across.addWidget(Words(text), 1)
        made.append(row)
    return made


class KnowSheet(QWidget):
    """Names, cues for each face, what a wrong tie becomes; how it is tied, opened, and not used."""

    compare_wanted = pyqtSignal(str)

    def __init__(self, presenter: KnotsPresenter) -> None:
        super().__init__()
        self._presenter = presenter
        self.names = Words("", "body")
        self.names.setObjectName("knots.names")
        self.clashes = Words("", "body", "ochre")
        self.clashes.setObjectName("knots.clashes")
        self.facts = Words("", "small", "muted")
        self.facts.setObjectName("knots.facts")
        self.left, self.right = Scrolled("knots.know"), Scrolled("knots.tie")
        self.drawing = KnotPanel("knots", DRAWN_HEIGHT)
        called = Card()
        words = QVBoxLayout()
        words.setSpacing(SPACE["xs"])
        words.addWidget(Words("CALLED", "label", "muted"))
        for part in (self.names, self.clashes, self.facts):
            words.addWidget(part)
        words.addStretch(1)
        led = QHBoxLayout()
        led.setSpacing(SPACE["m"])
        led.addWidget(self.drawing, 5)
        led.addLayout(words, 4)
        called.column.addLayout(led)
        across = QHBoxLayout()
        across.setSpacing(SPACE["s"])
        across.addWidget(self.left, 1)
        across.addWidget(self.right, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(SPACE["s"])
        column.addWidget(called)
        column.addLayout(across, 1)
        presenter.shown_changed.connect(self._on_shown)

    def _on_shown(self) -> None:
        p, s = self._presenter, self._presenter.structure
        if s is None:
            return
        self.drawing.show_knot(s.key, s.differing(p.choices), s.name)
        self.names.say(p.names_by_trade())
        self.clashes.say(p.clashes())
        self.clashes.setVisible(bool(p.clashes()))
        self.facts.say("  ·  ".join(f"{what}: {answer}" for what, answer in p.facts()))
        alike = [self._look_alike(n) for n in range(len(s.look_alikes))]
        alike += [self._mis_tie(n) for n in range(len(s.mis_ties))]
        self.left.replace(
            [
                _headed("DRESSED, ONE FACE", self._cue("front", s.front)),
                _headed("THE OTHER FACE", self._cue("back", s.back)),
                _headed("TIED WRONGLY IT BECOMES", *(alike or _none_known())),
                _headed("WEAK WHERE", *_lines(s.weaknesses)),
            ]
        )
        never = _headed("NEVER", *_lines(s.never), caution=True)
        if "binding" in s.families:
            never.column.addWidget(Words(_LIMB, "strong-small"))
        if "quick release" in s.families:
            never.column.addWidget(Words(_RELEASE, "strong-small"))
        opinions = [_headed("OPINIONS DIFFER", *_lines(s.opinions))] if s.opinions else []
        self.right.replace(
            [
                _headed("DRESSED WHEN", *_lines(s.dressing)),
                _headed("SET, LEG BY LEG", *_lines(s.setting, numbered=True)),
                _headed("OPENED AFTER LOAD", Words(s.opening)),
                *opinions,
                never,
            ]
        )

    def _cue(self, face: str, words: str) -> QWidget:
        """A recognition cue, with a chip that rings what it speaks of in the drawing."""
        row = QWidget()
        across = QHBoxLayout(row)
        across.setContentsMargins(0, 0, 0, 0)
        across.addWidget(Words(words), 1)
        found = drawn(self._presenter.key)
        if found is not None and pointed_at(found.layout, face):
            point = button("Where", f"knots.where.{face}", "chip")
            point.setAccessibleName(f"Ring what the cue of the {face} speaks of")
            point.clicked.connect(lambda: self.drawing.point_at(face))
            across.addWidget(point, 0, Qt.AlignmentFlag.AlignTop)
        return row

    def _look_alike(self, number: int) -> QWidget:
        p, s = self._presenter, self._presenter.structure
        assert s is not None
        other = s.look_alikes[number]
        row = QWidget()
        across = QHBoxLayout(row)
        across.setContentsMargins(0, 0, 0, SPACE["xs"])
        column = QVBoxLayout()
        column.setSpacing(1)
        name = p.name_of(other.structure)
        column.addWidget(Words(name, "strong"))
        column.addWidget(Words(f"when {other.when}.", "small", "muted"))
        column.addWidget(Words(f"To tell: {other.tell}", "small"))
        across.addLayout(column, 1)
        across.addWidget(self._compare(other.structure, name))
        return row

    def _mis_tie(self, number: int) -> QWidget:
        """A wrong tie that is no other structure; beside this one where it is drawn."""
        p, s = self._presenter, self._presenter.structure
        assert s is not None
        wrong = s.mis_ties[number]
        row = QWidget()
        across = QHBoxLayout(row)
        across.setContentsMargins(0, 0, 0, SPACE["xs"])
        words = f"{wrong.when[:1].upper()}{wrong.when[1:]}: {wrong.tell}"
        across.addWidget(Words(words, "small"), 1)
        key = f"{s.key}@{WRONG}={number + 1}"
        if key in own_paths(s.key):
            across.addWidget(self._compare(key, p.name_of(key)))
        return row

    def _compare(self, key: str, name: str) -> QPushButton:
        beside = button("Compare", f"knots.beside.{key}", "chip")
        beside.setAccessibleName(f"Compare with {name}")
        beside.clicked.connect(lambda: self.compare_wanted.emit(key))
        return beside


def _none_known() -> list[QWidget]:
    return [Words("No look-alike recorded.", "body", "muted")]


class BesideSheet(Card):
    """Two structures side by side, line by line."""

    def __init__(self, presenter: KnotsPresenter) -> None:
        super().__init__()
        self._presenter = presenter
        self._off: dict[tuple[str, str], tuple[int, ...]] = {}
        self.other = ChoiceField("Beside it", "knots.other")
        self.lines = Scrolled("knots.pairs", spacing="xs")
        row = QHBoxLayout()
        row.addStretch(3)
        row.addWidget(self.other, 4)
        self.column.addLayout(row)
        self.drawings = [
            KnotPanel(f"knots.beside.{n}", BESIDE_HEIGHT, only="front") for n in (1, 2)
        ]
        self.ringed = Words(_RINGED, "small", "brick")
        self.ringed.setContentsMargins(84, 0, 0, 0)
        drawn = QHBoxLayout()
        drawn.setContentsMargins(84, 0, 0, 0)
        drawn.setSpacing(SPACE["m"])
        for panel in self.drawings:
            drawn.addWidget(panel, 1, Qt.AlignmentFlag.AlignTop)
        self.column.addLayout(drawn)
        self.column.addWidget(self.ringed)
        self.column.addWidget(self.lines, 1)
        presenter.shown_changed.connect(self._on_shown)
        presenter.variant_changed.connect(self._show)
        self.other.chosen.connect(presenter.compare_with)

    def _on_shown(self) -> None:
        p = self._presenter
        self.other.offer(p.others())
        if not p.other and self.other.text:
            p.other = self.other.text
        self._show()

    @override
    def showEvent(self, a0: QShowEvent | None) -> None:
        super().showEvent(a0)
        self._show()

    def _look_up(self, key: str, other: str) -> None:
        """Which crossings differ, reckoned once for a pair, on a worker where there is one."""
        pair, turned = (key, other), (other, key)
        if not self.isVisible() or pair in self._off:
            return
        if not (can_be_asked(key) and can_be_asked(other)):
            return

        def work() -> tuple[tuple[int, ...], tuple[int, ...]]:
            return makes(key, other), makes(other, key)

        def received(found: tuple[tuple[int, ...], tuple[int, ...]]) -> None:
            self._off[pair], self._off[turned] = found
            if self._presenter.key == key and self._presenter.other == other:
                self._show()

        tasks = self._presenter.tasks
        if tasks is None:
            self._off[pair], self._off[turned] = work()
        else:
            tasks.run("beside", work, received, self._presenter.work_failed)

    def _show(self) -> None:
        p = self._presenter
        self.other.fill(p.other)
        self._look_up(p.key, p.other)
        ringed = False
        for panel, key, beside in zip(
            self.drawings, (p.key, p.other), (p.other, p.key), strict=True
        ):
            if key:
                off = self._off.get((key, beside), ())
                base, choices = split_key(key)
                panel.show_knot(base, choices, p.name_of(key), off)
                ringed = ringed or bool(off)
        self.ringed.setVisible(ringed)
        made: list[QWidget] = []
        for pair in p.pairs():
            row = QWidget()
            across = QHBoxLayout(row)
            across.setContentsMargins(0, SPACE["xs"], 0, SPACE["xs"])
            across.setSpacing(SPACE["m"])
            what = Words(pair.what, "small", "muted")
            what.setFixedWidth(84)
            across.addWidget(what)
            same = pair.left == pair.right
            style = "body" if pair.what else "strong"
            for text in (pair.left, pair.right):
                across.addWidget(Words(text, style, "muted" if same else "ink"), 1)
            made.append(row)
        self.lines.replace(made)
