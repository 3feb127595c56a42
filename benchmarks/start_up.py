"""Processor time of opening a window with the demo, beside a bare window of the same packages."""

from __future__ import annotations

import os
import resource
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from statistics import median

from benchmarks.timing import Timing

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


def timings(rounds: int = 7) -> Iterator[Timing]:
    """Run the three in turn, so that a busy moment meets each; the first round is not counted."""
    commands = (
        [sys.executable, "-c", BARE],
        [sys.executable, "-m", "bruiser.app.main", "--demo", "--exit-when-shown"],
        [sys.executable, "-m", "bruiser.app.cli", "--help"],
    )
    with tempfile.TemporaryDirectory() as home:
        taken = [[processor_s(c, home) for c in commands] for _ in range(rounds + 1)][1:]
    bare = median(row[0] for row in taken)
    for column, name in ((1, "a window with the demo"), (2, "bruiser-cli --help")):
        ratio = median(row[column] / row[0] for row in taken)
        yield Timing(name=name, took_s=ratio * bare, beside_s=bare, beside="of a bare window")
