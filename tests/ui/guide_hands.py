"""What the tests of the guide station do to it."""

from PyQt6.QtWidgets import QLineEdit, QPushButton

from bruiser.ui.kit.parts import Words


def settle(qtbot, tasks):
    qtbot.waitUntil(lambda: not tasks.busy, timeout=20_000)


def words(view, name):
    found = view.findChild(Words, name)
    assert found is not None, name
    return found.words


def press(view, name):
    button = view.findChild(QPushButton, name)
    assert button is not None, name
    assert button.isEnabled(), name
    button.click()


def typed(view, name, text):
    line = view.findChild(QLineEdit, name)
    assert line is not None, name
    line.setText(text)
    return line


def lot_id(desk, name):
    return next(lot.id for lot in desk.logbook.lots if lot.name == name)
