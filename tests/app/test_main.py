import sys

import pytest
from PyQt6.QtWidgets import QApplication, QMessageBox

from bruiser.app import main as app_main
from bruiser.app.crash import install_crash_hook
from bruiser.app.window import MainWindow


@pytest.fixture
def hook(monkeypatch):
    """Puts the hook for unexpected errors back afterwards."""
    monkeypatch.setattr(sys, "excepthook", sys.excepthook)


def test_naming_no_file_says_what_to_do(capsys, monkeypatch, tmp_path):
    monkeypatch.setattr(app_main, "log_path", lambda: tmp_path / "log")
    assert app_main.main([]) == 2
    assert "--demo" in capsys.readouterr().err


@pytest.mark.parametrize(
    ("content", "says"), [("no campaign", "not a campaign"), (None, "no file")]
)
def test_a_bad_file_is_refused_in_words(qapp, monkeypatch, tmp_path, content, says):
    path = tmp_path / "bad.bruiser"
    if content is not None:
        path.write_text(content, encoding="utf-8")
    seen = []
    monkeypatch.setattr(QMessageBox, "warning", lambda *a: seen.append(a[2]))
    assert app_main.show_window(qapp, app_main.parse([str(path)])) == 1
    assert says in seen[0]


def test_a_good_file_opens_its_window_in_the_theme_asked_for(qapp, monkeypatch, hook, demo_file):
    titles = []

    def run():
        for window in QApplication.topLevelWidgets():
            if isinstance(window, MainWindow) and window.isVisible():
                titles.append(window.windowTitle())
                window.close()
        return 0

    monkeypatch.setattr(qapp, "exec", run)
    assert app_main.show_window(qapp, app_main.parse([str(demo_file), "--dark"])) == 0
    assert titles == ["Fennock Ridge tethers – Bruiser"]


def test_a_bug_is_reported_once_and_the_person_told(monkeypatch, hook, tmp_path):
    monkeypatch.setattr("bruiser.app.crash.report_path", lambda: tmp_path)
    told = []
    install_crash_hook(told.append)
    sys.excepthook(ValueError, ValueError("odd"), None)
    assert "odd" in told[0].read_text(encoding="utf-8")
