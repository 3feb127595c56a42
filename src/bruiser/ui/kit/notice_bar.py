"""The line above a station: what was just stored or went wrong, and what can be done about it."""

from __future__ import annotations

from PyQt6.QtWidgets import QFrame, QHBoxLayout

from bruiser.ui.kit.parts import Words, button
from bruiser.ui.theme.tokens import SPACE


class NoticeBar(QFrame):
    """Says something; hidden while there is nothing to say."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("window.bar")
        self.notice = Words("", "strong-small", "ochre", elide=True)
        self.notice.setObjectName("window.notice")
        self.undo = button("Undo", "window.undo", "chip")
        self.rescue = button("Save under a new name …", "window.rescue", "chip")
        row = QHBoxLayout(self)
        row.setContentsMargins(SPACE["l"], SPACE["xs"], SPACE["l"], 0)
        row.addWidget(self.notice, 1)
        row.addWidget(self.undo)
        row.addWidget(self.rescue)
        self.hide()

    def say(self, text: str, *, undo: bool = False, rescue: bool = False) -> None:
        """Say something, and offer to undo it or to save the campaign elsewhere."""
        self.notice.say(text)
        self.undo.setVisible(undo)
        self.rescue.setVisible(rescue)
        self.setVisible(bool(text))
