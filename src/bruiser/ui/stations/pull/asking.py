"""What a method asks between two acts: untying each knot, or a load that was read."""

from __future__ import annotations

import time

from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton

from bruiser.core.records.layouts import End
from bruiser.core.records.readings import Sheath
from bruiser.core.records.records import JAM_WORDS, JamLevel
from bruiser.ui.kit.fields import Field
from bruiser.ui.kit.parts import Card, Words, button
from bruiser.ui.stations.pull.asked import Question
from bruiser.ui.stations.pull.presenter import PullPresenter
from bruiser.ui.theme.tokens import SPACE


class _KnotRow:
    """One knot to try: its levels and the seconds it took."""

    def __init__(self, end: End) -> None:
        self.end = end
        self.name = Words("", "strong-small", elide=True)
        self.levels = QButtonGroup()
        self.buttons: dict[JamLevel, QPushButton] = {}
        for level in JamLevel:
            chip = button(JAM_WORDS[level], f"pull.ask.{end}.{level}", "chip", bench=True)
            chip.setAccessibleName(f"Knot {end}: {JAM_WORDS[level]}")
            chip.setCheckable(True)
            self.levels.addButton(chip)
            self.buttons[level] = chip
        self.seconds = Field("", f"pull.ask.{end}.seconds", hint="seconds")
        self.seconds.entry.setAccessibleName(f"Knot {end}: seconds to untie")
        self.seconds.label.hide()

    @property
    def level(self) -> JamLevel | None:
        """The level chosen."""
        return next((lv for lv, chip in self.buttons.items() if chip.isChecked()), None)

    def clear(self) -> None:
        """Nothing is chosen any more."""
        self.levels.setExclusive(False)
        for chip in self.buttons.values():
            chip.setChecked(False)
        self.levels.setExclusive(True)
        self.seconds.fill("")
        self.seconds.complain("")


class AskCard(Card):
    """Takes the reading a method waits for; hidden while it waits for none."""

    def __init__(self, presenter: PullPresenter) -> None:
        super().__init__("THE METHOD ASKS")
        self._presenter = presenter
        self._asked: Question | None = None
        self._began = 0.0
        self._doubted = ""
        self.words = Words("", "body")
        self.words.setObjectName("pull.ask.words")
        self.felt = Words("", "small", "storm")
        self.felt.setObjectName("pull.ask.felt")
        self.rows = {end: _KnotRow(end) for end in End}
        self.load = Field("Load read", "pull.ask.load", hint="120 N")
        self.would_not = button("It would not", "pull.ask.would_not", bench=True)
        self.looks = [
            button(look.value.capitalize(), f"pull.ask.{look}", bench=True) for look in Sheath
        ]
        self.keep = button("Keep and go on", "pull.ask.keep", "primary", bench=True)
        self.column.addWidget(self.words)
        for row in self.rows.values():
            self.column.addWidget(row.name)
            line = QHBoxLayout()
            line.setSpacing(SPACE["xs"])
            for chip in row.buttons.values():
                line.addWidget(chip)
                chip.clicked.connect(lambda _=False, r=row: self._on_level(r))
            line.addWidget(row.seconds, 1)
            self.column.addLayout(line)
        below = QHBoxLayout()
        below.addWidget(self.felt, 3)
        below.addWidget(self.load, 2)
        below.addWidget(self.would_not)
        for chip in self.looks:
            below.addWidget(chip)
        below.addWidget(self.keep)
        self.column.addLayout(below)
        self.keep.clicked.connect(self._on_keep)
        self.would_not.clicked.connect(self._on_would_not)
        for look, chip in zip(Sheath, self.looks, strict=True):
            chip.clicked.connect(lambda _=False, seen=look: self._presenter.answer_look(seen))
        self.hide()

    def show_asked(self, asked: Question | None) -> None:
        """Show what is asked, or nothing; what is typed already stays."""
        if asked == self._asked:
            return
        self._asked = asked
        self.setVisible(asked is not None)
        if asked is None:
            return
        self._began = time.monotonic()
        self._doubted = ""
        self.words.say(asked.words)
        felt = self._presenter.felt_words()
        self.felt.say(felt)
        names = dict(asked.ends)
        for end, row in self.rows.items():
            row.clear()
            there = end in names
            for part in (row.name, row.seconds, *row.buttons.values()):
                part.setVisible(there)
            row.name.say(names.get(end, ""))
        self.load.setVisible(not asked.ends and not asked.choices)
        self.keep.setVisible(not asked.choices)
        for chip in self.looks:
            chip.setVisible(bool(asked.choices))
        self.load.label.setText(asked.label)
        self.load.entry.setPlaceholderText(asked.hint)
        self.would_not.setText(asked.would_not)
        self.would_not.setVisible(bool(asked.would_not))
        self.load.fill("")
        self.load.complain("")
        if asked.ends:
            first = self.rows[asked.ends[0][0]]
            first.buttons[JamLevel.SHAKEN].setFocus()
        elif asked.choices:
            self.looks[0].setFocus()
        else:
            self.load.focus()

    def _on_would_not(self) -> None:
        self.load.complain(self._presenter.answer_refused(self.load.text))

    def _on_level(self, row: _KnotRow) -> None:
        """A level stops the clock of the attempt, unless seconds were typed."""
        tried = row.level not in (None, JamLevel.NOT_TRIED)
        if tried and not row.seconds.text:
            row.seconds.fill(f"{time.monotonic() - self._began:.0f} s")

    def _on_keep(self) -> None:
        asked = self._asked
        if asked is None:
            return
        if not asked.ends:
            sure = self.load.text == self._doubted
            self._doubted = self.load.text
            self.load.complain(self._presenter.answer_load(self.load.text, sure=sure))
            return
        levels = {end: row.level for end, row in self.rows.items()}
        chosen = {end: level for end, level in levels.items() if level is not None}
        seconds = {end: row.seconds.text for end, row in self.rows.items()}
        wrong = self._presenter.answer_untying(chosen, seconds)
        for end, row in self.rows.items():
            row.seconds.complain(wrong.get(end, ""))
