"""The bench station as a technician works it in a journey."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QCheckBox, QLineEdit, QPushButton

from bruiser.ui.kit.parts import Words
from bruiser.workshop.bench.running import RunState


class Bench:
    """The bench as a technician works it, from the keyboard where there is a key."""

    def __init__(self, qtbot, window):
        self.qtbot, self.window = qtbot, window

    @property
    def driver(self):
        return self.window.pull.driver

    def button(self, name):
        return self.window.findChild(QPushButton, name)

    def words(self, name):
        return self.window.findChild(Words, name).words

    def wait(self, so, timeout=40_000):
        self.qtbot.waitUntil(so, timeout=timeout)

    def arm(self):
        for name in ("pull.lane", "pull.eyes"):
            box = self.window.findChild(QCheckBox, name)
            assert not box.isChecked(), "a check is never ticked beforehand"
            box.setFocus()
            self.qtbot.keyClick(box, Qt.Key.Key_Space)
        self.wait(self.button("pull.arm").isEnabled)
        self.qtbot.mouseClick(self.button("pull.arm"), Qt.MouseButton.LeftButton)
        self.wait(self.button("pull.run").isEnabled)

    def run(self):
        """Press once, or twice for a method that runs by itself."""
        button = self.button("pull.run")
        if not self.driver.latched:
            self.qtbot.mousePress(button, Qt.MouseButton.LeftButton)
            return
        self.qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
        assert "once more" in self.words("pull.words")
        assert self.driver.run.state in (RunState.READY, RunState.PAUSED)
        self.qtbot.mouseClick(button, Qt.MouseButton.LeftButton)

    def let_go(self):
        self.qtbot.mouseRelease(self.button("pull.run"), Qt.MouseButton.LeftButton)

    def slack_off(self):
        if not self.driver.armed:
            self.arm()
        slack = self.button("pull.slack")
        self.wait(slack.isEnabled)
        self.qtbot.mousePress(slack, Qt.MouseButton.LeftButton)
        self.wait(lambda: not self.window.pull.live.load_is_on)
        self.qtbot.mouseRelease(slack, Qt.MouseButton.LeftButton)

    def answer_untying(self):
        # What is said follows the next reading of the load.
        self.wait(lambda: "Safe to approach" in self.words("pull.words"))
        assert not self.driver.armed
        lies = self.driver.session.instrument.remains(self.driver.act.number)
        for knot in lies.knots:
            self.click(f"pull.ask.{knot.end}.{knot.jam_level}")
            line = self.window.findChild(QLineEdit, f"pull.ask.{knot.end}.seconds")
            line.clear()
            self.qtbot.keyClicks(line, f"{knot.untie_s} s")
        self.click("pull.ask.keep")

    def click(self, name):
        button = self.button(name)
        assert button.isVisible(), name
        self.qtbot.mouseClick(button, Qt.MouseButton.LeftButton)

    def end(self):
        self.wait(self.button("pull.end").isEnabled)
        self.click("pull.end")
        assert self.window.station == "findings"


def over(bench):
    """Whether the method is done, asks something, or the specimen gave."""
    run = bench.driver.run
    return run is None or run.state in (RunState.DONE, RunState.ASKING)
