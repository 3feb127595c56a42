"""One window at work on a campaign, timed from within; ``python -m benchmarks.at_work PLACE``.

Prints one line of JSON: processor time until the window was seen, memory, and how long the
interface thread was held by storing a finding and by each change of station.
"""

from __future__ import annotations

import json
import os
import sys
import time
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QElapsedTimer
from PyQt6.QtWidgets import QApplication

from bruiser.app.opener import Opener
from bruiser.app.stations import STATIONS
from bruiser.app.window import MainWindow
from bruiser.store.places import Place, read_place
from bruiser.ui.runtime.preferences import Preferences
from bruiser.ui.theme.theme import dress
from bruiser.workshop.findings.inspecting import accept_draft, draft_of
from bruiser.workshop.logbook.entries import Entry, Stage
from bruiser.workshop.logbook.live import read_logbook

ROUNDS = 12
PATIENCE_MS = 120_000


def resident_mb() -> float:
    """Memory of this process that is in use, in megabyte."""
    pages = int(Path("/proc/self/statm").read_text(encoding="ascii").split()[1])
    return pages * os.sysconf("SC_PAGESIZE") / 1e6


def settle_down(app: QApplication, window: MainWindow) -> float:
    """Wait until nothing is worked out any more; the longest time one event took, in second."""
    clock, longest = QElapsedTimer(), 0.0
    clock.start()
    while clock.elapsed() < PATIENCE_MS:
        began = time.perf_counter()
        app.processEvents()
        longest = max(longest, time.perf_counter() - began)
        if not window.tasks.busy:
            app.processEvents()
            return longest
        time.sleep(0.002)
    raise SystemExit("the window did not come to rest")


def at_most(taken: list[float]) -> float:
    """The duration that 95 of 100 stay below."""
    return sorted(taken)[min(len(taken) - 1, int(0.95 * len(taken)))]


def correct(window: MainWindow, entry: Entry, number: int) -> None:
    """Store the findings of a pull once more, with another note."""
    workshop = window.workshop
    draft = draft_of(entry, workshop.units)
    draft.note, draft.correction = f"seen again, {number}", "looked at once more"
    wrong = accept_draft(workshop, entry, draft)
    if wrong:
        raise SystemExit(str(wrong))


def at_work(place: Place) -> dict[str, float]:
    """Open a campaign, look around and store findings."""
    app = QApplication.instance() or QApplication(sys.argv[:1])
    assert isinstance(app, QApplication)
    dress(app)
    opener = Opener(Preferences(), remembers=False)
    began, wall = time.process_time(), time.perf_counter()
    if not opener.open(place) or opener.window is None:
        raise SystemExit(f"{place} could not be opened")
    window = opener.window
    window.resize(1280, 800)
    window.repaint()
    app.processEvents()
    found = {
        "open_s": time.perf_counter() - wall,
        "open_cpu_s": time.process_time() - began,
    }
    settle_down(app, window)
    stations = [station.key for station in STATIONS] + ["logbook"]
    for key in stations:
        window.go_to(key)
        settle_down(app, window)
    switches: dict[str, list[float]] = {key: [] for key in stations}
    for _ in range(ROUNDS):
        for key in stations:
            began = time.perf_counter()
            window.go_to(key)
            app.processEvents()
            switches[key].append(max(time.perf_counter() - began, settle_down(app, window)))
    logbook = read_logbook(window.workshop)
    entries = [
        e
        for e in logbook.of_lots([logbook.lots[0].id])
        if e.stage is Stage.INSPECTED and e.specimen.knot_a is None
    ]
    findings: list[float] = []
    window.go_to("findings")
    for number in range(3 * ROUNDS):
        entry = read_logbook(window.workshop).entry(entries[number % len(entries)].specimen.id)
        assert entry is not None
        began = time.perf_counter()
        correct(window, entry, number)
        app.processEvents()
        findings.append(max(time.perf_counter() - began, settle_down(app, window)))
    found |= {"switch_s": at_most([s for own in switches.values() for s in own])}
    found |= {"finding_s": at_most(findings), "memory_mb": resident_mb()}
    found |= {f"switch to {key} s": at_most(own) for key, own in switches.items()}
    window.close()
    return found


def main() -> None:
    """Say what was measured."""
    print(json.dumps(at_work(read_place(sys.argv[1]))))


if __name__ == "__main__":
    main()
