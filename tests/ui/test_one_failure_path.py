"""Whatever fails ends on the screen: every signal that reports it has somebody who listens."""

import pytest
from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QApplication
from tests.specimens import patient_bench

from bruiser.app.stations import STATIONS
from bruiser.app.window import MainWindow
from bruiser.core.errors import Damaged, DataError, StoreError
from bruiser.ui.runtime.desk import Desk
from bruiser.ui.stations.results import presenter as results_presenter
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.workshop import open_workshop


@pytest.fixture
def window(dressed, qtbot, usual_file):
    made = MainWindow(open_workshop(usual_file), patient_bench(25.0))
    qtbot.addWidget(made)
    qtbot.waitUntil(lambda: not made.tasks.busy)
    yield made
    made.close()


def presenters(root):
    """Every presenter that can be reached from the window, by the way to it."""
    found, waiting, seen = {}, [("window", root)], set()
    while waiting:
        name, here = waiting.pop()
        if id(here) in seen:
            continue
        seen.add(id(here))
        if isinstance(here, QObject) and hasattr(here, "failed"):
            found[name] = here
        if here is root or isinstance(here, QObject):
            waiting += list(getattr(here, "_desks", {}).items())
            waiting += [
                (f"{name}.{key}", value)
                for key, value in vars(here).items()
                if isinstance(value, QObject)
            ]
    return found


def test_every_presenter_is_a_desk_and_its_failures_reach_the_window(window):
    for station in STATIONS:
        window.go_to(station.key)
    found = presenters(window)
    assert {p.split(".")[0] for p in found} >= {
        "brief", "cordage", "knots", "plan", "pull", "findings", "results", "guide"
    }  # fmt: skip
    assert len(found) > 12
    for name, presenter in found.items():
        assert isinstance(presenter, Desk), name
        assert presenter.receivers(presenter.failed) > 0, name
        presenter.failed.emit(StoreError(f"{name} failed."))
        assert window.notice.words == f"{name} failed."


def test_no_class_reports_failure_by_a_signal_of_its_own():
    own = [
        kind.__name__
        for kind in QObject.__subclasses__()
        if kind.__module__.startswith("bruiser.") and "failed" in vars(kind)
    ]
    assert own == ["Desk"]


def test_leaving_a_pull_out_that_cannot_be_stored_says_so(qtbot, window, file_size_limit):
    entry = next(e for e in window.logbook.at(Stage.INSPECTED) if e.excluded is None)
    window.go_to("results")
    window.results.point_out(entry.pull.id)
    qtbot.waitUntil(lambda: not window.tasks.busy)
    file_size_limit(4_096)
    assert window.results.exclude("why") == "Not stored."
    assert "disk" in window.notice.words
    file_size_limit(None)
    assert window.results.exclude("why") == ""


@pytest.mark.parametrize("error", [DataError("Not these readings."), ZeroDivisionError("odd")])
@pytest.mark.parametrize("station", ["results", "guide", "cordage"])
def test_a_page_that_waits_ends_waiting(qtbot, window, monkeypatch, error, station):
    def fail(*_, **__):
        raise error

    monkeypatch.setattr(results_presenter, "overview", fail)
    monkeypatch.setattr("bruiser.ui.stations.guide.presenter.choose", fail)
    monkeypatch.setattr("bruiser.ui.stations.cordage.presenter.lot_results", fail)
    with qtbot.captureExceptions() as bugs:
        window.refresh()
        window.go_to(station)
        qtbot.waitUntil(lambda: not window.tasks.busy)
    said = "Not these" if isinstance(error, DataError) else "failed unexpectedly (ZeroDivision"
    assert said in window.notice.words
    assert bool(bugs) == isinstance(error, ZeroDivisionError)
    with qtbot.captureExceptions():
        window.go_to("results")
        window.results.show_sheet("slip")
        qtbot.waitUntil(lambda: not window.tasks.busy)
    assert window.results.sheet().empty == "Not worked out."


def test_an_error_that_nobody_caught_is_said_if_it_can_be_acted_on(qapp, monkeypatch, tmp_path):
    import sys
    import threading

    from bruiser.app.crash import install_crash_hook

    monkeypatch.setattr(sys, "excepthook", sys.excepthook)
    monkeypatch.setattr(threading, "excepthook", threading.excepthook)
    monkeypatch.setattr("bruiser.app.crash.report_path", lambda: tmp_path)
    reports, said = [], []
    install_crash_hook(reports.append, said.append)
    sys.excepthook(Damaged, Damaged("A trace."), None)
    assert (len(reports), [str(e) for e in said]) == (0, ["A trace."])

    def die():
        raise ZeroDivisionError("in a thread")

    thread = threading.Thread(target=die)
    thread.start()
    thread.join()
    QApplication.processEvents()
    assert "in a thread" in reports[0].read_text(encoding="utf-8")
