"""Every number that can be pressed on Results and the guide says in a sentence what it is."""

import pytest
from PyQt6.QtWidgets import QWidget

from bruiser.app.window import MainWindow
from bruiser.ui.stations.results.sheets import SHEETS
from bruiser.workshop.logbook.workshop import open_workshop

NUMBERS = ("n:", "gauge:", "load:")


@pytest.fixture
def window(dressed, qtbot, usual_file):
    made = MainWindow(open_workshop(usual_file))
    qtbot.addWidget(made)
    made.show()
    qtbot.waitUntil(lambda: not made.tasks.busy)
    yield made
    made.close()


def test_every_number_says_what_it_is(qtbot, window):
    said = {}
    window.go_to("results")
    for sheet in SHEETS:
        window.results.show_sheet(sheet)
        qtbot.waitUntil(lambda: not window.tasks.busy)
        for spot in window.findChild(QWidget, "results.chart").figure.spots:
            if spot.key.startswith(NUMBERS):
                said[f"{sheet} {spot.key}"] = spot.label
    window.go_to("guide")
    qtbot.waitUntil(lambda: not window.tasks.busy)
    for spot in window.findChild(QWidget, "guide.board").figure.spots:
        if spot.key.startswith(NUMBERS):
            said[spot.key] = spot.label
    assert {key.split()[0].split(":")[0] for key in said} >= {
        "strength", "slip", "jamming", "tying", "compare", "gauge", "load"
    }  # fmt: skip
    bare = {k: v for k, v in said.items() if not v.endswith(".") or len(v.split()) < 8}
    assert bare == {}
