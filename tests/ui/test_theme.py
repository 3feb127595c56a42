import pytest
from PyQt6.QtGui import QColor, QFontInfo, QIcon

from bruiser.ui.theme import tokens
from bruiser.ui.theme.theme import application_icon, icon_path, load_fonts, theme


def luminance(colour):
    c = QColor(colour)
    parts = [v / 255 for v in (c.red(), c.green(), c.blue())]
    lin = [v / 12.92 if v <= 0.04045 else ((v + 0.055) / 1.055) ** 2.4 for v in parts]
    return 0.2126 * lin[0] + 0.7152 * lin[1] + 0.0722 * lin[2]


@pytest.mark.parametrize("name", tokens.THEMES)
@pytest.mark.parametrize("pair", tokens.TEXT_PAIRS, ids="-on-".join)
def test_text_keeps_its_contrast(name, pair):
    colours = tokens.THEMES[name]
    high, low = sorted((luminance(colours[p]) for p in pair), reverse=True)
    assert (high + 0.05) / (low + 0.05) >= 4.5


def test_the_shipped_fonts_are_used(dressed):
    assert {"Karla", "B612"} <= set(load_fonts())
    for style in tokens.TEXT.values():
        assert QFontInfo(theme().font("body")).family() == "Karla"
        assert style.family in ("Karla", "B612")


def test_icons_are_there_and_draw(dressed):
    assert not application_icon().pixmap(64, 64).isNull()
    for name in tokens.THEMES:
        assert not QIcon(icon_path(f"tick-{name}.svg")).pixmap(18, 18).isNull()


def test_the_theme_turns_and_turns_back(dressed):
    light = theme().colour("ground")
    theme().apply(dressed, "pitch")
    assert theme().colour("ground") != light
    theme().apply(dressed, "chalk")
    assert theme().colour("ground") == light
