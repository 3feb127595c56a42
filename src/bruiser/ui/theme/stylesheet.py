"""The stylesheet, made from tokens."""

from __future__ import annotations

from bruiser.ui.theme.tokens import RADIUS, TEXT, TOUCH

_SHEET = """
QWidget { color: @ink; }
QMainWindow, QWidget#window { background: @ground; }
QFrame[card="true"] { background: @surface; border: 1px solid @line; border-radius: @radius; }
QFrame[card="caution"] { background: @ochre-wash; border: 1px solid @ochre; border-radius: @radius; }
QLabel { background: transparent; border: none; }
QLabel[tone="muted"] { color: @muted; }
QLabel[tone="plum"] { color: @plum; }
QLabel[tone="moss"] { color: @moss; }
QLabel[tone="ochre"] { color: @ochre; }
QLabel[tone="brick"] { color: @brick; }
QLabel[tone="storm"] { color: @storm; }
QPushButton {
  background: @surface; border: 1px solid @line; border-radius: @radius;
  padding: 6px 14px; min-height: @button;
}
QPushButton:hover { border-color: @plum; }
QPushButton:focus { border: 2px solid @plum; padding: 5px 13px; }
QPushButton:disabled { color: @muted; background: @sunk; }
QPushButton:checked { background: @plum; color: @on-plum; border-color: @plum; }
QPushButton[role="primary"] { background: @plum; color: @on-plum; border-color: @plum; font-weight: 700; }
QPushButton[role="primary"]:disabled { background: @sunk; color: @muted; border-color: @line; }
QPushButton[role="primary"]:focus { border: 2px solid @ink; }
QPushButton[role="stop"] { background: @brick; color: @on-brick; border-color: @brick; font-weight: 700; }
QPushButton[role="stop"]:disabled { background: @sunk; color: @muted; border-color: @line; }
QPushButton[role="chip"] { padding: 4px 8px; min-height: @chip; }
QPushButton[reach="bench"] { min-height: @touch; }
QPushButton[role="chip"][reach="bench"] { min-height: @tall; }
QPushButton[role="chip"]:focus { padding: 3px 7px; }
QPushButton[role="chip"][reach="tight"] { padding: 4px 5px; }
QPushButton[role="chip"][reach="tight"]:focus { padding: 3px 4px; }
QLineEdit, QComboBox, QPlainTextEdit {
  background: @surface; border: 1px solid @line; border-radius: @radius; padding: 5px 8px;
  min-height: @chip; selection-background-color: @plum; selection-color: @on-plum;
}
QLineEdit:focus, QComboBox:focus, QPlainTextEdit:focus { border: 2px solid @plum; padding: 4px 7px; }
QLineEdit[wrong="true"] { border: 2px solid @brick; padding: 4px 7px; }
QLineEdit[wrong="odd"] { border: 2px solid @ochre; padding: 4px 7px; }
QComboBox QAbstractItemView { background: @surface; selection-background-color: @plum-wash; selection-color: @ink; }
QComboBox::drop-down { border: none; width: 24px; }
QComboBox::down-arrow { image: url(@down); width: 14px; height: 14px; }
QPlainTextEdit[wrong="true"], QComboBox[wrong="true"] { border: 2px solid @brick; padding: 4px 7px; }
QCheckBox { spacing: 8px; background: transparent; min-height: @chip; }
QCheckBox::indicator { width: 18px; height: 18px; border: 2px solid @muted; border-radius: 4px; background: @surface; }
QCheckBox::indicator:checked { background: @plum; border-color: @plum; image: url(@tick); }
QCheckBox::indicator:focus { border-color: @ink; }
QCheckBox:focus { color: @plum; }
QCheckBox[role="primary"] { font-weight: 600; }
QCheckBox[role="primary"]::indicator { border-color: @plum; }
QMenu { background: @surface; border: 1px solid @line; padding: 4px; }
QMenu::item { padding: 5px 24px 5px 16px; border-radius: 4px; }
QMenu::item:selected { background: @plum-wash; color: @ink; }
QMenu::item:disabled { color: @muted; }
QMenu::separator { height: 1px; background: @line; margin: 4px 8px; }
QToolTip { background: @surface; color: @ink; border: 1px solid @line; padding: 4px; }
QListWidget { background: @surface; border: none; outline: none; }
QListWidget::item { padding: 4px; border-radius: 4px; }
QListWidget::item:selected { background: @plum-wash; color: @ink; }
QListWidget::indicator { width: 14px; height: 14px; border: 2px solid @muted; border-radius: 3px; background: @surface; }
QListWidget::indicator:checked { background: @plum; border-color: @plum; image: url(@tick); }
QTableView { background: @surface; border: none; gridline-color: transparent;
  selection-background-color: @plum-wash; selection-color: @ink; }
QTableView::item { padding: 2px 6px; border-bottom: 1px solid @line; }
QTableView::item:selected { background: @plum-wash; color: @ink; }
QProgressBar { background: @sunk; border: none; border-radius: 4px; max-height: 8px; color: transparent; }
QProgressBar::chunk { background: @plum; border-radius: 4px; }
QSlider::groove:horizontal { height: 4px; background: @line; border-radius: 2px; }
QSlider::sub-page:horizontal { background: @plum; border-radius: 2px; }
QSlider::handle:horizontal {
  background: @surface; border: 2px solid @plum; width: 12px; margin: -6px 0; border-radius: 8px;
}
QSlider { border: 1px solid transparent; border-radius: 4px; min-height: 18px; background: transparent; }
QSlider:focus { border: 1px solid @plum; }
QHeaderView { background: @surface; border: none; }
QHeaderView::section {
  background: @surface; color: @muted; border: none; border-bottom: 1px solid @muted; padding: 2px 6px;
}
QWidget#scrolled { background: transparent; }
QScrollArea { border: none; background: transparent; }
QScrollBar:vertical { width: 10px; background: transparent; }
QScrollBar::handle:vertical { background: @line; border-radius: 5px; min-height: 24px; }
QScrollBar:horizontal { height: 10px; background: transparent; }
QScrollBar::handle:horizontal { background: @line; border-radius: 5px; min-width: 24px; }
QScrollBar::add-line, QScrollBar::sub-line { height: 0; width: 0; }
QDialog { background: @ground; }
QMessageBox { background: @ground; }
"""


def stylesheet(colours: dict[str, str], scale: float, pictures: dict[str, str]) -> str:
    """Fill the sheet with a theme's colours, the desktop's text scale and the paths of its pictures."""
    values = {
        **colours,
        "radius": f"{RADIUS}px",
        "button": f"{round(22 * scale)}px",
        "chip": f"{round(20 * scale)}px",
        "touch": f"{TOUCH - 14}px",
        "tall": f"{TOUCH - 10}px",
        **pictures,
        "body": f"{round(TEXT['body'].pixels * scale)}px",
    }
    sheet = _SHEET
    for name in sorted(values, key=len, reverse=True):
        sheet = sheet.replace(f"@{name}", values[name])
    return sheet
