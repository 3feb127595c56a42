"""Starting with a full disk or in a forbidden folder; freezing a guide that has no room."""

import logging
import shutil
import signal
import sqlite3
import subprocess
import sys
import textwrap
from contextlib import closing

import pytest
from PyQt6.QtWidgets import QMessageBox

from bruiser.app import main as app_main
from bruiser.app import paths
from bruiser.app.cli import main as cli
from bruiser.app.crash import write_report
from bruiser.app.window import MainWindow
from bruiser.core.errors import Busy, StoreError
from bruiser.core.records.records import Pull
from bruiser.core.trace import trace_of
from bruiser.store import pulls
from bruiser.store.opening import open_campaign
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import open_workshop


@pytest.fixture
def home(tmp_path, monkeypatch):
    for name in ("user_data_path", "user_log_path", "user_state_path"):
        monkeypatch.setattr(paths, name, lambda _, n=name: tmp_path / n)
    return tmp_path


@pytest.fixture
def told(monkeypatch):
    said = []
    monkeypatch.setattr(QMessageBox, "warning", lambda *a: said.append(a[2]))
    return said


def test_a_demo_that_finds_no_room_says_so_and_leaves_no_half_copy(
    home, qapp, told, file_size_limit
):
    file_size_limit(100_000)
    assert app_main.show_window(qapp, app_main.parse(["--demo"])) == 1
    file_size_limit(None)
    assert "cannot be copied" in told[0]
    assert not paths.demo_copy().exists()
    with open_campaign(paths.fetch_demo()) as file:
        assert not file.read_only


def test_a_campaign_that_finds_no_room_says_so(home, qapp, told, demo_file, file_size_limit):
    file_size_limit(0)
    assert app_main.show_window(qapp, app_main.parse([str(demo_file)])) == 1
    file_size_limit(None)
    assert len(told) == 1
    assert cli(["results", str(demo_file), "--json"]) == 0


def test_a_log_and_a_report_that_cannot_be_written_stop_nothing(home, file_size_limit):
    (home / "user_log_path").write_text("a file, no folder")
    app_main.keep_log()
    logging.getLogger("bruiser").error("into nothing")
    (home / "user_state_path").write_text("a file, no folder")
    assert write_report(ValueError, ValueError("odd"), None) is None


def test_every_earlier_demo_is_kept_with_what_its_journal_held(home):
    for n in range(3):
        copy = paths.fetch_demo(fresh=True)
        with closing(sqlite3.connect(copy)) as plain:
            plain.execute("UPDATE campaign SET title = ?", (f"demo {n}",))
            plain.commit()
    script = """
        import os, signal, sys
        import sqlalchemy as sa
        from pathlib import Path
        from bruiser.store import schema
        from bruiser.store.opening import open_campaign
        file = open_campaign(Path(sys.argv[1]))
        with file.writing() as connection:
            connection.execute(sa.update(schema.campaign).values(title="killed"))
        os.kill(os.getpid(), signal.SIGKILL)
    """
    done = subprocess.run([sys.executable, "-c", textwrap.dedent(script), str(copy)], check=False)
    assert done.returncode == -signal.SIGKILL
    paths.fetch_demo(fresh=True)
    titles = []
    for path in sorted(copy.parent.glob("*-earlier-*.bruiser")):
        opened = open_workshop(path)
        titles.append(opened.campaign.title)
        opened.close()
    assert titles == ["demo 0", "demo 1", "killed"]


def test_a_demo_that_a_window_has_open_is_not_taken_from_under_it(home):
    opened = open_workshop(paths.fetch_demo())
    with pytest.raises(Busy, match="another window"):
        paths.fetch_demo(fresh=True)
    opened.file.look()
    opened.close()


def test_what_is_no_campaign_any_more_is_set_aside_as_it_is(home):
    copy = paths.fetch_demo()
    copy.write_bytes(b"junk")
    paths.fetch_demo(fresh=True)
    assert (copy.parent / "fennock-ridge-earlier-1.bruiser").read_bytes() == b"junk"


def test_an_interrupted_pull_that_cannot_be_ended_is_said_and_the_window_opens(
    dressed, qtbot, demo_file
):
    pull_id = next(iter(read_first(demo_file)))
    with closing(sqlite3.connect(demo_file)) as plain:
        plain.execute("UPDATE pull SET ended_at = NULL, end = NULL WHERE id = ?", (pull_id,))
        plain.execute("UPDATE trace_chunk SET data = x'00' WHERE pull_id = ?", (pull_id,))
        plain.commit()
    window = MainWindow(open_workshop(demo_file))
    qtbot.addWidget(window)
    assert "could not be ended" in window.notice.words
    window.close()


def test_after_a_kill_findings_begins_with_the_load_that_may_be_on(dressed, qtbot, usual_file):
    opened = open_workshop(usual_file)
    specimen = read_logbook(opened).next_to_pull().specimen
    running = Pull(
        id="cut",
        specimen_id=specimen.id,
        started_at="2026-10-01T10:00:00Z",
        instrument="bench",
        sample_rate_hz=500.0,
        rate_m_s=0.008,
        capacity_n=20_000.0,
        resolution_n=2.0,
    )
    with opened.file.writing() as connection:
        pulls.insert_pull(connection, running)
        pulls.append_samples(connection, "cut", trace_of([0.0, 900.0, 2_000.0], [0.0, 0.1, 0.2]))
    opened.close()
    window = MainWindow(open_workshop(usual_file))
    qtbot.addWidget(window)
    window.show()
    page = window.pages["findings"]
    assert (window.station, window.findings.entry.pull.id) == ("findings", "cut")
    assert page.loaded.isVisible()
    page.accept.click()
    assert "the load is off" in page.loaded.wrong.words
    assert window.findings.entry.finding is None
    page.loaded.looked.click()
    assert not page.loaded.isVisible()
    page.accept.click()
    assert page.place_wrong.words
    window.close()


def read_first(path):
    opened = open_workshop(path, read_only=True)
    found = read_logbook(opened).by_pull
    opened.close()
    return found


@pytest.mark.slow
def test_freezing_and_releasing_a_guide_without_room_is_said(
    dressed, qtbot, demo_file, file_size_limit, tmp_path
):
    window = MainWindow(open_workshop(demo_file))
    qtbot.addWidget(window)
    window.go_to("guide")
    publish = window.pages["guide"].publishing
    qtbot.waitUntil(lambda: not window.tasks.busy, timeout=60_000)
    lots = {lot.name: lot.id for lot in window.logbook.lots}
    publish.want(("tether-loop",), (lots["P8-B"],), "a trial")
    file_size_limit(4_096)
    publish.make_revision()
    qtbot.waitUntil(lambda: not window.tasks.busy, timeout=60_000)
    assert "disk" in window.notice.words
    assert not publish.busy
    file_size_limit(None)
    publish.make_revision()
    qtbot.waitUntil(lambda: not window.tasks.busy, timeout=60_000)
    assert len(publish.revisions) == 1
    assert publish.check("QO") == ""
    file_size_limit(4_096)
    publish.export("html", tmp_path / "guide.html")
    qtbot.waitUntil(lambda: not window.tasks.busy, timeout=60_000)
    file_size_limit(None)
    assert "was not written" in window.notice.words
    file_size_limit(8_192)
    reasons = {b.key: "known" for b in publish.blocking()}
    assert publish.release(reasons) == {}
    qtbot.waitUntil(lambda: not window.tasks.busy, timeout=100_000)
    file_size_limit(None)
    assert not publish.busy
    assert window.notice.words
    assert publish.revisions[0].state == "checked"
    with pytest.raises(StoreError, match="already exists"):
        window.workshop.file.save_as(demo_file)
    window.close()


def test_the_command_line_reads_a_campaign_that_a_window_has_open(demo_file, capsys):
    opened = open_workshop(demo_file)
    assert cli(["results", str(demo_file)]) == 0
    assert "keeps between" in capsys.readouterr().out
    opened.close()
    shutil.rmtree(demo_file.parent, ignore_errors=True)
