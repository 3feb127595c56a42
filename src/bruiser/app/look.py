"""Puts the look that is preferred on the application."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QWidget

from bruiser.ui.runtime.preferences import Preferences
from bruiser.ui.theme.theme import theme

MOVEMENTS = (
    Qt.UIEffect.UI_AnimateMenu,
    Qt.UIEffect.UI_FadeMenu,
    Qt.UIEffect.UI_AnimateCombo,
    Qt.UIEffect.UI_AnimateTooltip,
    Qt.UIEffect.UI_FadeTooltip,
)
"""What moves by itself on the screen; the trace of a pull is no movement but a reading."""


def dress_as(preferences: Preferences) -> None:
    """Put the look that is preferred on the application."""
    app = QApplication.instance()
    if not isinstance(app, QApplication):
        return
    name = preferences.theme
    if name == "desktop":
        hints = app.styleHints()
        dark = hints is not None and hints.colorScheme() is Qt.ColorScheme.Dark
        name = "pitch" if dark else "chalk"
    for effect in MOVEMENTS:
        QApplication.setEffectEnabled(effect, not preferences.still)
    theme().prefer(float(preferences.size))
    theme().apply(app, name)


def turn_theme() -> None:
    """Light instead of dark, or the other way round, until the next start."""
    app = QApplication.instance()
    if isinstance(app, QApplication):
        theme().apply(app, "pitch" if theme().name == "chalk" else "chalk")


def fill_screen(window: QWidget | None) -> None:
    """Fill the screen with a window, or no longer."""
    if window is not None:
        window.showNormal() if window.isFullScreen() else window.showFullScreen()
