"""The line under load: 2 kHz and three channels into a window that is being resized.

``python -m benchmarks.link [seconds]`` prints samples lost, and the time from the moment a sample
is taken to the moment the plot that shows it has been painted.
"""

from __future__ import annotations

import os
import subprocess
import sys
import time

import numpy as np

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QEvent, QObject
from PyQt6.QtWidgets import QApplication
from typing_extensions import override

from bruiser.rig.recorder import Recorder
from bruiser.rig.serial.bench import SerialBench
from bruiser.rig.serial.line import SerialLine
from bruiser.ui.kit.live_plot import LivePlot
from bruiser.ui.theme.theme import dress

RATE_HZ = 2_000.0
SHOWN = 40_000


def main(seconds: float) -> int:
    """Run it; 0 when nothing was lost and the screen kept up."""
    device = subprocess.Popen(
        [sys.executable, "-m", "bruiser.app.cli", "rig", "--simulate", "--rate", str(RATE_HZ),
         "--channels", "3", "--knot", "none"],
        stdout=subprocess.PIPE, text=True,
    )  # fmt: skip
    path = device.stdout.readline().strip() if device.stdout else ""
    app = QApplication([])
    dress(app)
    plot = LivePlot("bench.plot")
    plot.prepare("sample", "load (N)", (100.0, 100.0))
    plot.resize(1000, 600)
    plot.show()
    bench = SerialBench(SerialLine(path), RATE_HZ)
    stored, painted = [0], [0]

    class Painted(QObject):
        """Counts what the plot has painted."""

        @override
        def eventFilter(self, a0: QObject | None, a1: QEvent | None) -> bool:
            del a0
            if a1 is not None and a1.type() is QEvent.Type.Paint:
                painted[0] += 1
            return False

    watch = Painted()
    port = plot._plot.viewport()
    port.installEventFilter(watch)

    def sink(block) -> None:
        stored[0] += len(block)

    recorder = Recorder(bench, sink)
    recorder.start()
    delays: list[float] = []
    began, frame = time.monotonic(), 0
    while time.monotonic() - began < seconds:
        due = time.monotonic() + 1 / 30
        arrived, count = recorder.arrived_at, recorder.count
        load, _ = recorder.latest(max(0, count - SHOWN))
        plot.show_trace(np.arange(len(load), dtype=float), load)
        plot.resize(700 + 10 * (frame % 40), 420 + 5 * (frame % 40))
        before = painted[0]
        while painted[0] == before:
            app.processEvents()
        if arrived:
            # The newest of the samples shown came then; up to one block was taken before it.
            delays.append(time.monotonic() - arrived)
        frame += 1
        while time.monotonic() < due:
            app.processEvents()
            time.sleep(0.001)
    recorder.finish()
    took = time.monotonic() - began
    bench.close()
    device.terminate()
    device.wait(5)
    p50, p99 = np.quantile(delays, [0.5, 0.99])
    print(
        f"{took:.0f} s at {RATE_HZ:g} Hz, 3 channels: {recorder.count} samples taken "
        f"({recorder.count / took:.0f} a second), {stored[0]} stored, "
        f"{recorder.samples_lost} lost, {bench.counts.bad_lines} bad lines; "
        f"input to screen median {1000 * p50:.0f} ms, "
        f"p99 {1000 * p99:.0f} ms over {frame} frames"
    )
    ok = recorder.samples_lost == 0 and stored[0] == recorder.count and p99 < 0.1
    return 0 if ok else 1


if __name__ == "__main__":
    sys.exit(main(float(sys.argv[1]) if len(sys.argv) > 1 else 60.0))
