import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QComboBox, QLineEdit, QPushButton, QWidget

from bruiser.app import keeping
from bruiser.app.window import MainWindow
from bruiser.ui.kit.parts import Words
from bruiser.workshop.logbook.workshop import open_workshop
from tests.specimens import patient_bench


class Hands:
    """What a person does to the window: clicks, types, chooses, reads."""

    def __init__(self, qtbot, window):
        self.qtbot, self.window = qtbot, window

    def find(self, kind, name):
        found = self.window.findChild(kind, name)
        assert found is not None, name
        return found

    def click(self, name):
        button = self.find(QPushButton, name)
        assert button.isVisible(), name
        assert button.isEnabled(), name
        self.qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
        self.settle()

    def type(self, name, text):
        line = self.find(QLineEdit, name)
        assert line.isVisible(), name
        line.clear()
        self.qtbot.keyClicks(line, text)

    def leave(self, name):
        self.qtbot.keyClick(self.find(QLineEdit, name), Qt.Key.Key_Return)

    def choose(self, name, words):
        """Choose by the beginning of the words shown, with the keyboard."""
        box = self.find(QComboBox, name)
        at = next(n for n in range(box.count()) if box.itemText(n).startswith(words))
        box.setFocus()
        while box.currentIndex() != at:
            down = box.currentIndex() < at
            self.qtbot.keyClick(box, Qt.Key.Key_Down if down else Qt.Key.Key_Up)
        self.settle()

    def words(self, name):
        return self.find(Words, name).words

    def wrong(self, name):
        return self.words(f"{name}.wrong")

    def tap(self, name, key):
        figure = self.find(QWidget, name)
        spot = figure.spot_centre(key).toPoint()
        self.qtbot.mouseClick(figure, Qt.MouseButton.LeftButton, pos=spot)
        self.settle()

    def go(self, key):
        self.window.go_to(key)
        self.settle()

    def settle(self):
        self.qtbot.waitUntil(lambda: not self.window.tasks.busy, timeout=20_000)
        self.qtbot.wait(5)


@pytest.fixture
def hands(dressed, qtbot, demo_file):
    made = MainWindow(open_workshop(demo_file), patient_bench(25.0))
    qtbot.addWidget(made, before_close_func=lambda w: w.pull.abandon())
    made.resize(1280, 800)
    made.show()
    qtbot.waitExposed(made)
    yield Hands(qtbot, made)
    made.close()


def child(window, kind, name):
    """The widget of that kind and name, which must be there."""
    found = window.findChild(kind, name)
    assert found is not None, name
    return found


def press(qtbot, window, key):
    """A key to whatever has the focus."""
    qtbot.keyClick(window.focusWidget() or window, key)


@pytest.fixture
def speed():
    """How much faster than real time the bench runs."""
    return 25.0


@pytest.fixture
def window(dressed, qtbot, demo_place, speed):
    made = MainWindow(open_workshop(demo_place), patient_bench(speed))
    made.workshop.file.listen()
    qtbot.addWidget(made, before_close_func=lambda w: w.pull.abandon())
    made.resize(1280, 800)
    made.show()
    qtbot.waitExposed(made)
    made.activateWindow()
    qtbot.waitUntil(made.isActiveWindow)
    qtbot.waitUntil(lambda: not made.tasks.busy)
    yield made
    made.close()


@pytest.fixture(autouse=True)
def nobody_to_ask(monkeypatch):
    """A question that no test answers ends at once, instead of waiting for a person for ever."""
    monkeypatch.setattr(keeping, "ask", lambda *_: keeping.KeepAnswer.CLOSE)
