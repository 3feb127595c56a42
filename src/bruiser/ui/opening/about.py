"""What Bruiser is, and whose work it stands on."""

from __future__ import annotations

ABOUT = (
    "Bruiser {version}\n\nFor pulling knots, bends and hitches to pieces and saying honestly what "
    "they keep.\n\nFree software under the GNU General Public License, version 3 or later. Fonts: "
    "Karla and B612, under the SIL Open Font License."
)
