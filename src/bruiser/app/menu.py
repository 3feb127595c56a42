"""The menu at the head of the rail, and the keys of its actions."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QMenu, QWidget

from bruiser.app.actions import ACTIONS, keys_of

STORING_ACTS = ("rename", "series", "bring", "traces", "merge")
"""Actions that store something in the campaign."""


class CampaignMenu:
    """Every action of a window, with its keys; `act` is called with the key of the one chosen.

    Parameters
    ----------
    open_campaign : bool
        Whether the window has a campaign; without one, what needs it is left out.
    """

    def __init__(
        self, parent: QWidget, act: Callable[[str], None], *, open_campaign: bool = True
    ) -> None:
        self.menu = QMenu(parent)
        self.menu.setObjectName("window.menu")
        self.actions: dict[str, QAction] = {}
        for action in ACTIONS:
            if action.campaign and not open_campaign:
                continue
            if action.after_line:
                self.menu.addSeparator()
            made = QAction(action.words, parent)
            made.setObjectName(f"action.{action.key}")
            made.setShortcutContext(Qt.ShortcutContext.WindowShortcut)
            made.triggered.connect(lambda _=False, key=action.key: act(key))
            self.actions[action.key] = made
            self.menu.addAction(made)
            parent.addAction(made)

    def take_keys(self, chosen: Mapping[str, str]) -> None:
        """Give every action its keys."""
        for action in ACTIONS:
            if action.key in self.actions:
                self.actions[action.key].setShortcut(QKeySequence(keys_of(action, chosen)))

    def name(self, key: str, words: str, *, enabled: bool = True) -> None:
        """Say an action in other words, as what would be undone."""
        if key in self.actions:
            self.actions[key].setText(words)
            self.actions[key].setEnabled(enabled)

    def leave_out(self, keys: Iterable[str]) -> None:
        """Let some actions be neither chosen nor reached by their keys."""
        for key in keys:
            self.actions[key].setEnabled(False)

    def open_at(self, corner: QPoint) -> None:
        """Open it; the first entry is ready for the keyboard."""
        first = self.menu.actions()[0]
        self.menu.setActiveAction(first)
        self.menu.popup(corner)
