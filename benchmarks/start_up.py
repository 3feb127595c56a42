"""Processor time of opening a window with the demo, beside a bare window of the same packages."""

from __future__ import annotations

import os
import resource
import subprocess
import sys
import tempfile
from statistics import median

BARE = """
import numpy, pyqtgraph, scipy.special, scipy.stats
from PyQt6.QtWidgets import QApplication, QMainWindow
app = QApplication([])
window = QMainWindow()
plot = pyqtgraph.PlotWidget()
plot.plot([1, 2, 3])
window.setCentralWidget(plot)
window.resize(1280, 800)
window.show()
window.repaint()
app.processEvents()
"""


def processor_s(command: list[str], home: str) -> float:
    """Processor time of one run of a command, in second."""
    env = {**os.environ, "HOME": home, "QT_QPA_PLATFORM": "offscreen"}
    before = resource.getrusage(resource.RUSAGE_CHILDREN)
    subprocess.run(
        command, env=env, check=True, stderr=subprocess.DEVNULL, stdout=subprocess.DEVNULL
    )
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    return after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime


def main(rounds: int = 7) -> None:
    """Run the three in turn, so that a busy moment meets each; the first round is not counted."""
    commands = (
        [sys.executable, "-c", BARE],
        [sys.executable, "-m", "bruiser.app.main", "--demo", "--exit-when-shown"],
        [sys.executable, "-m", "bruiser.app.cli", "--help"],
    )
    with tempfile.TemporaryDirectory() as home:
        taken = [[processor_s(c, home) for c in commands] for _ in range(rounds + 1)][1:]
    bare = median(row[0] for row in taken)
    window = median(row[1] / row[0] for row in taken)
    command_line = median(row[2] / row[0] for row in taken)
    print(f"{window:9.2f} x   window with the demo beside a bare one ({bare:.2f} s)")
    print(f"{command_line:9.2f} x   bruiser-cli --help beside the bare window")


if __name__ == "__main__":
    main()
