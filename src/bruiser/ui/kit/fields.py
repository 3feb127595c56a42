"""Things to type in or choose from, each with its name above and what is wrong below, and forms."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QButtonGroup,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPlainTextEdit,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)
from typing_extensions import override

from bruiser.ui.kit.parts import Words, button
from bruiser.ui.kit.steady import ChoiceBox
from bruiser.ui.theme.tokens import SPACE


class Labelled(QWidget):
    """A control with its name above it and what is wrong or odd with it below.

    `read` and `write` are how a text comes out of the control and goes into it.
    """

    def __init__(
        self,
        label: str,
        control: QWidget,
        name: str,
        read: Callable[[], str],
        write: Callable[[str], None],
    ) -> None:
        super().__init__()
        self._control, self._read, self._write = control, read, write
        control.setObjectName(name)
        control.setAccessibleName(label)
        self.label = Words(label, "small", "muted", elide=True)
        self._wrong = Words("", "small", "brick")
        self._wrong.setObjectName(f"{name}.wrong")
        self._wrong.hide()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        for part in (self.label, control, self._wrong):
            column.addWidget(part)
        if not isinstance(control, QListWidget):
            column.addStretch(1)
        stretchy = isinstance(control, QListWidget)
        across = QSizePolicy.Policy.Preferred
        down = QSizePolicy.Policy.Preferred if stretchy else QSizePolicy.Policy.Minimum
        self.setSizePolicy(across, down)

    def rename(self, label: str) -> None:
        """Ask for something else."""
        self._control.setAccessibleName(label)
        self.label.say(label)

    @property
    def text(self) -> str:
        """What is typed or chosen."""
        return self._read()

    def fill(self, text: str) -> None:
        """Put a text in."""
        self._write(text)

    def complain(self, message: str, tone: str = "brick") -> None:
        """Say what is wrong next to the field; empty takes it back."""
        self._wrong.say(message, tone)
        self._wrong.setVisible(bool(message))
        mark = "true" if tone == "brick" else "odd"
        self._control.setProperty("wrong", mark if message else "false")
        style = self._control.style()
        if style is not None:
            style.polish(self._control)

    def focus(self) -> None:
        """Put the keyboard here."""
        self._control.setFocus()

    @property
    def complaint(self) -> str:
        """What is said to be wrong."""
        return self._wrong.words


class Field(Labelled):
    """A line to type in."""

    def __init__(self, label: str, name: str, *, hint: str = "") -> None:
        self.entry = QLineEdit()
        super().__init__(label, self.entry, name, self.entry.text, self._put)
        self.entry.setPlaceholderText(hint)

    def _put(self, text: str) -> None:
        self.entry.setText(text)
        self.entry.setCursorPosition(0)


class TextBox(QPlainTextEdit):
    """Several lines; Tab moves on instead of indenting, and leaving it says so."""

    left = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setTabChangesFocus(True)

    @override
    def focusOutEvent(self, e):  # type: ignore[no-untyped-def]
        super().focusOutEvent(e)
        self.left.emit()

    @override
    def keyPressEvent(self, e: QKeyEvent | None) -> None:
        if e is not None and e.key() == Qt.Key.Key_Escape:
            e.ignore()
            return
        super().keyPressEvent(e)


class LongField(Labelled):
    """Several lines to type in."""

    def __init__(self, label: str, name: str, *, lines: int = 3) -> None:
        self.entry = TextBox()
        super().__init__(label, self.entry, name, self.entry.toPlainText, self._put)
        self.entry.setFixedHeight(round(self.entry.fontMetrics().lineSpacing() * lines + 26))

    def _put(self, text: str) -> None:
        if text != self.entry.toPlainText():
            self.entry.setPlainText(text)


class ChoiceField(Labelled):
    """One of several, by key; `chosen` is only said when the person chose."""

    chosen = pyqtSignal(str)

    def __init__(
        self, label: str, name: str, options: Sequence[tuple[str, str]] | Mapping[str, str] = ()
    ) -> None:
        self.box = ChoiceBox()
        super().__init__(label, self.box, name, self._key, self._put)
        self.box.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.box.activated.connect(lambda _: self.chosen.emit(self.text))
        self._options: tuple[tuple[str, str], ...] = ()
        self.offer(options)

    def offer(self, options: Sequence[tuple[str, str]] | Mapping[str, str]) -> None:
        """Offer keys with their words; what was chosen stays chosen where it still can."""
        given = options.items() if isinstance(options, Mapping) else options
        pairs = tuple((f"{key}", words) for key, words in given)
        if pairs == self._options:
            return
        kept = self.text
        self._options = pairs
        self.box.clear()
        for key, words in pairs:
            self.box.addItem(words, key)
            self.box.setItemData(self.box.count() - 1, words, Qt.ItemDataRole.ToolTipRole)
        self.fill(kept)

    def _key(self) -> str:
        return str(self.box.currentData() or "")

    def _put(self, text: str) -> None:
        at = self.box.findData(f"{text}")
        if at >= 0:
            self.box.setCurrentIndex(at)

    def pick(self, key: str) -> None:
        """Choose as a person does."""
        self.fill(key)
        self.chosen.emit(self.text)


class Ticks(Labelled):
    """Any of several, by key; none ticked stands for all."""

    def __init__(self, label: str, name: str) -> None:
        self.list = QListWidget()
        super().__init__(label, self.list, name, lambda: " ".join(self.keys), lambda _: None)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)

    def offer(self, options: Sequence[tuple[str, str]], ticked: Sequence[str] = ()) -> None:
        """Offer keys with their words, some of them ticked."""
        self.list.clear()
        for key, words in options:
            item = QListWidgetItem(words)
            item.setData(Qt.ItemDataRole.UserRole, key)
            item.setToolTip(words)
            state = Qt.CheckState.Checked if key in ticked else Qt.CheckState.Unchecked
            item.setCheckState(state)
            self.list.addItem(item)

    @property
    def keys(self) -> tuple[str, ...]:
        """What is ticked."""
        items = [self.list.item(n) for n in range(self.list.count())]
        return tuple(
            str(i.data(Qt.ItemDataRole.UserRole))
            for i in items
            if i is not None and i.checkState() is Qt.CheckState.Checked
        )


class Form:
    """Fields by name, filled and read as texts."""

    def __init__(self, fields: Mapping[str, Labelled]) -> None:
        self.fields = dict(fields)

    def texts(self) -> dict[str, str]:
        """What is typed and chosen."""
        return {name: field.text for name, field in self.fields.items()}

    def fill(self, texts: Mapping[str, str]) -> None:
        """Put texts in; a field without one is emptied."""
        for name, field in self.fields.items():
            field.fill(texts.get(name, ""))
        self.complain({})

    def complain(self, errors: Mapping[str, str], asks: Mapping[str, str] | None = None) -> None:
        """Say what is wrong, or odd, next to its field, and go to the first one."""
        odd = {} if asks is None else asks
        for name, field in self.fields.items():
            if name in errors:
                field.complain(errors[name])
            else:
                field.complain(odd.get(name, ""), "ochre")
        first = next((f for n, f in self.fields.items() if n in errors or n in odd), None)
        if first is not None:
            first.focus()


class Chips(QWidget):
    """A row of words of which one is chosen; `tight` where there are many."""

    chosen = pyqtSignal(str)

    def __init__(self, name: str, options: Mapping[str, str], *, tight: bool = False) -> None:
        super().__init__()
        self.setObjectName(name)
        self._group = QButtonGroup(self)
        self._buttons: dict[str, QPushButton] = {}
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(SPACE["xs"])
        for key, words in options.items():
            chip = button(words, f"{name}.{key}", "chip")
            chip.setCheckable(True)
            if tight:
                chip.setProperty("reach", "tight")
            chip.clicked.connect(lambda _=False, k=key: self.pick(k))
            self._group.addButton(chip)
            self._buttons[key] = chip
            row.addWidget(chip)
        row.addStretch(1)
        self.key = next(iter(options))
        self._buttons[self.key].setChecked(True)

    def pick(self, key: str) -> None:
        """Choose one."""
        self.key = key
        self._buttons[key].setChecked(True)
        self.chosen.emit(key)

    def show_none(self) -> None:
        """Mark none of them, while something else than what they stand for is shown."""
        self._group.setExclusive(False)
        for chip in self._buttons.values():
            chip.setChecked(False)
        self._group.setExclusive(True)

    def chip(self, key: str) -> QPushButton:
        """The button of a key."""
        return self._buttons[key]
