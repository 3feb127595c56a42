"""Applies tokens to the application: fonts, palette, stylesheet."""

from __future__ import annotations

from importlib.resources import files

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QFontInfo, QIcon, QPalette
from PyQt6.QtWidgets import QApplication

from bruiser.figures.typefaces import FACES
from bruiser.ui.theme import tokens
from bruiser.ui.theme.stylesheet import stylesheet

_NORMAL_FONT_PIXELS = 12.0


def icon_path(name: str) -> str:
    """Path of a shipped picture."""
    return str(files("bruiser.ui.theme").joinpath("icons", name))


class Theme(QObject):
    """The look in force. One object for the application, reached through :func:`theme`."""

    changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.name = "chalk"
        self.scale = 1.0
        self._desktop = 1.0

    def colour(self, token: str) -> QColor:
        """The colour of a token in the theme in force."""
        return QColor(tokens.THEMES[self.name][token])

    def font(self, style: str) -> QFont:
        """The font of a text style at the desktop's text size."""
        spec = tokens.TEXT[style]
        font = QFont(spec.family)
        font.setPixelSize(max(8, round(spec.pixels * self.scale)))
        font.setWeight(QFont.Weight(spec.weight))
        return font

    def px(self, millimetre: float) -> float:
        """Pixels of a length on a figure."""
        return millimetre * tokens.PX_PER_MM * self.scale

    def prefer(self, times: float) -> None:
        """Text and controls so many times the desktop's size, from the next :meth:`apply` on."""
        self.scale = min(2.4, self._desktop * times)

    def take_desktop(self, scale: float) -> None:
        """The desktop's own text size, as a factor of the normal one."""
        self._desktop = self.scale = scale

    def apply(self, app: QApplication, name: str | None = None) -> None:
        """Set a theme on the application."""
        if name is not None:
            self.name = name
        sheet = stylesheet(
            tokens.THEMES[self.name],
            self.scale,
            {name: icon_path(f"{name}-{self.name}.svg") for name in ("tick", "down")},
        )
        if sheet == app.styleSheet():
            return
        app.setPalette(self._palette())
        app.setFont(self.font("body"))
        app.setStyleSheet(sheet)
        self.changed.emit()

    def _palette(self) -> QPalette:
        palette = QPalette()
        roles = {
            QPalette.ColorRole.Window: "ground",
            QPalette.ColorRole.WindowText: "ink",
            QPalette.ColorRole.Base: "surface",
            QPalette.ColorRole.AlternateBase: "sunk",
            QPalette.ColorRole.Text: "ink",
            QPalette.ColorRole.Button: "surface",
            QPalette.ColorRole.ButtonText: "ink",
            QPalette.ColorRole.Highlight: "plum",
            QPalette.ColorRole.HighlightedText: "on-plum",
            QPalette.ColorRole.ToolTipBase: "surface",
            QPalette.ColorRole.ToolTipText: "ink",
            QPalette.ColorRole.PlaceholderText: "muted",
        }
        for role, token in roles.items():
            palette.setColor(role, self.colour(token))
        return palette


_theme = Theme()


def theme() -> Theme:
    """The theme in force."""
    return _theme


def load_fonts() -> list[str]:
    """Register the shipped fonts; returns the families."""
    families: list[str] = []
    for face in FACES:
        number = QFontDatabase.addApplicationFontFromData(face.read())
        families += QFontDatabase.applicationFontFamilies(number)
    return families


def application_icon() -> QIcon:
    """The application's own icon."""
    return QIcon(icon_path("bruiser.svg"))


def dress(app: QApplication, name: str = "chalk") -> None:
    """Load fonts, take up the desktop's text size, and apply a theme."""
    if not app.property("bruiser.dressed"):
        pixels = QFontInfo(app.font()).pixelSize()
        _theme.take_desktop(min(1.6, max(1.0, pixels / _NORMAL_FONT_PIXELS)))
        app.setProperty("bruiser.dressed", True)
        load_fonts()
        app.setStyle("Fusion")
        app.setWindowIcon(application_icon())
    _theme.apply(app, name)
