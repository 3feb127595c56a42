"""Preferences: look, new campaigns, the bench, and keys."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from socket import gethostname

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QDialog,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QKeySequenceEdit,
    QScrollArea,
    QTabWidget,
    QVBoxLayout,
    QWidget,
)

from bruiser.core.records.families import TRADES
from bruiser.ui.kit.fields import ChoiceField, Field
from bruiser.ui.kit.parts import Words, button
from bruiser.ui.opening.new_dialog import UNITS
from bruiser.ui.runtime.preferences import SIZES, THEMES, Preferences
from bruiser.ui.theme.tokens import SPACE

_SIZE = (600, 560)
PREFERENCE_WORDS = {
    "theme": "Look",
    "size": "Text and controls",
    "still": "No movement on the screen",
    "beep": "A sound when a specimen gave",
    "simulated": "Offer the simulated bench",
    "bench": "This bench is called, where several share a campaign",
    "units": "Units of new campaigns",
    "trade": "Knot names as in",
    "folder": "New campaigns are kept in",
}
"""What each is called, in the dialog and in Go to."""


@dataclass(frozen=True)
class KeyLine:
    """An action whose keys may be changed."""

    key: str
    words: str
    shipped: str


Clash = Callable[[str, str, Mapping[str, str]], str]


class PreferencesDialog(QDialog):
    """Emits the preferences when they are to be kept.

    Parameters
    ----------
    clash : callable
        What already has some keys, in words: of an action, the keys wanted, and all chosen.
    """

    kept = pyqtSignal(object)

    def __init__(
        self,
        now: Preferences,
        lines: tuple[KeyLine, ...],
        clash: Clash,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.setObjectName("preferences")
        self.setWindowTitle("Preferences")
        self.resize(*_SIZE)
        self._now, self._lines, self._clash = now, lines, clash
        words = PREFERENCE_WORDS
        self.look = ChoiceField(words["theme"], "preferences.theme", THEMES)
        self.size_of = ChoiceField(words["size"], "preferences.size", SIZES)
        self.still = _tick(words["still"], "preferences.still", now.still)
        self.beep = _tick(words["beep"], "preferences.beep", now.beep)
        self.simulated = _tick(words["simulated"], "preferences.simulated", now.simulated)
        self.bench = Field(words["bench"], "preferences.bench", hint=gethostname())
        self.units = ChoiceField(words["units"], "preferences.units", UNITS)
        self.trade = ChoiceField(words["trade"], "preferences.trade", {t: t for t in TRADES})
        self.folder = Field(words["folder"], "preferences.folder")
        self.browse = button("Choose …", "preferences.browse", "chip")
        self.keys = {line.key: QKeySequenceEdit() for line in lines}
        self.wrong = Words("", "small", "brick")
        self.wrong.setObjectName("preferences.wrong")
        self.keep = button("Keep these", "preferences.keep", "primary")
        self.cancel = button("Cancel", "preferences.cancel")
        self.tabs = QTabWidget()
        self._fill(now)
        self._build()

    def _fill(self, now: Preferences) -> None:
        self.look.fill(now.theme)
        self.size_of.fill(now.size)
        self.units.fill(f"{now.force} {now.length}")
        self.trade.fill(now.trade)
        self.bench.fill(now.bench)
        self.folder.fill(now.folder or str(now.campaigns))
        for line in self._lines:
            edit = self.keys[line.key]
            edit.setObjectName(f"preferences.keys.{line.key}")
            edit.setAccessibleName(f"Keys for: {line.words}")
            edit.setKeySequence(now.keys.get(line.key, line.shipped))
            edit.keySequenceChanged.connect(self._look_at_keys)

    def _build(self) -> None:
        self.tabs.setObjectName("preferences.tabs")
        self.tabs.addTab(_column(self.look, self.size_of, self.still), "Look")
        place = QWidget()
        across = QHBoxLayout(place)
        across.setContentsMargins(0, 0, 0, 0)
        across.addWidget(self.folder, 1)
        across.addWidget(self.browse)
        self.tabs.addTab(_column(self.units, self.trade, place), "New campaigns")
        self.tabs.addTab(_column(self.simulated, self.beep, self.bench), "Bench")
        self.tabs.addTab(self._keys_tab(), "Keys")
        column = QVBoxLayout(self)
        column.addWidget(self.tabs, 1)
        column.addWidget(self.wrong)
        buttons = QHBoxLayout()
        buttons.addStretch(1)
        buttons.addWidget(self.cancel)
        buttons.addWidget(self.keep)
        column.addLayout(buttons)
        self.wrong.hide()
        self.keep.clicked.connect(self._on_keep)
        self.cancel.clicked.connect(self.reject)
        self.browse.clicked.connect(self._on_browse)

    def stand_at(self, key: str) -> None:
        """Show one preference and put the keyboard there; an unknown one changes nothing."""
        control = self.findChild(QWidget, f"preferences.{key}") if key else None
        for n in range(self.tabs.count()):
            tab = self.tabs.widget(n)
            if control is not None and tab is not None and tab.isAncestorOf(control):
                self.tabs.setCurrentIndex(n)
                control.setFocus(Qt.FocusReason.OtherFocusReason)

    def _keys_tab(self) -> QWidget:
        inner = QWidget()
        form = QFormLayout(inner)
        for line in self._lines:
            form.addRow(line.words, self.keys[line.key])
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(inner)
        return area

    def _chosen(self) -> dict[str, str]:
        return {
            line.key: said
            for line in self._lines
            if (said := self.keys[line.key].keySequence().toString()) != line.shipped
        }

    def _look_at_keys(self) -> bool:
        chosen = self._chosen()
        for line in self._lines:
            said = self._clash(line.key, chosen.get(line.key, line.shipped), chosen)
            if said:
                self.wrong.say(f"{line.words}: {said}")
                self.wrong.show()
                return False
        self.wrong.hide()
        return True

    def _on_browse(self) -> None:
        name = QFileDialog.getExistingDirectory(self, "New campaigns are kept in", self.folder.text)
        if name:
            self.folder.fill(name)

    def _on_keep(self) -> None:
        if not self._look_at_keys():
            return
        force, length = self.units.text.split()
        wanted = replace(
            self._now,
            theme=self.look.text,
            size=self.size_of.text,
            still=self.still.isChecked(),
            beep=self.beep.isChecked(),
            simulated=self.simulated.isChecked(),
            bench=self.bench.text.strip(),
            force=force,
            length=length,
            trade=self.trade.text,
            folder=self.folder.text.strip(),
            keys=self._chosen(),
        )
        self.accept()
        self.kept.emit(wanted)


def _tick(words: str, name: str, on: bool) -> QCheckBox:
    made = QCheckBox(words)
    made.setObjectName(name)
    made.setAccessibleName(words)
    made.setChecked(on)
    return made


def _column(*parts: QWidget) -> QWidget:
    made = QWidget()
    column = QVBoxLayout(made)
    column.setSpacing(SPACE["m"])
    for part in parts:
        column.addWidget(part)
    column.addStretch(1)
    return made
