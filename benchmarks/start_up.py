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


def processor_s(command: list[str], runs: int = 5) -> float:
    """Median processor time of a command in second, after one run that is not counted."""
    taken = []
    with tempfile.TemporaryDirectory() as home:
        env = {**os.environ, "HOME": home, "QT_QPA_PLATFORM": "offscreen"}
        for _ in range(runs + 1):
            before = resource.getrusage(resource.RUSAGE_CHILDREN)
            subprocess.run(command, env=env, check=True, stderr=subprocess.DEVNULL, stdout=-3)
            after = resource.getrusage(resource.RUSAGE_CHILDREN)
            taken.append(after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime)
    return median(taken[1:])


def main() -> None:
    bare = processor_s([sys.executable, "-c", BARE])
    window = processor_s([sys.executable, "-m", "bruiser.app.main", "--demo", "--exit-when-shown"])
    command_line = processor_s([sys.executable, "-m", "bruiser.app.cli", "--help"])
    print(f"{window / bare:9.2f} x   window with the demo beside a bare one ({bare:.2f} s)")
    print(f"{command_line / bare:9.2f} x   bruiser-cli --help beside the bare window")


if __name__ == "__main__":
    main()
