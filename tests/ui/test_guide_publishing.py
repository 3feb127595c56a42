"""Publishing through the station: revisions, what stands in their way, files, stopping."""

import json
import subprocess
import sys
import time
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from tests.ui.guide_hands import lot_id, press, settle, typed, words

from bruiser.formats.guide_files import FILES
from bruiser.ui.stations.guide import publish_presenter as publishing
from bruiser.ui.stations.guide.publish_presenter import LIVE, PublishPresenter
from bruiser.workshop.findings.excluding import exclude_pull


@pytest.fixture
def desk(guide_desk):
    return guide_desk


@pytest.fixture
def view(guide_view):
    return guide_view


def test_a_revision_is_frozen_checked_and_released(desk, view, qtbot, tasks, quick_print):
    view.show_part("publish")
    q = view.publishing
    assert q.rows() == [(LIVE, "As it is now", "not frozen yet", "")]
    assert not view.printing.check.isEnabled()
    lots = view.printing.lots.list
    item = next(lots.item(n) for n in range(lots.count()) if "R8, new" in lots.item(n).text())
    item.setCheckState(Qt.CheckState.Checked)
    typed(view, "guide.scope", "tethers")
    press(view, "guide.make")
    settle(qtbot, tasks)
    assert [r[3] for r in q.rows()] == ["", "draft"]
    assert q.guide.scope == "tethers"
    assert [lot.name for lot in q.guide.lots] == ["R8"]
    assert not view.printing.release.isEnabled()
    press(view, "guide.check")
    assert view.printing.initials.complaint
    typed(view, "guide.initials", "OQ")
    press(view, "guide.check")
    settle(qtbot, tasks)
    assert q.rows()[1][3] == "checked"
    press(view, "guide.release")
    settle(qtbot, tasks)
    assert q.rows()[1][3] == "released"
    assert "is released" in words(view, "guide.notice")
    assert q.pdf.startswith(b"%PDF")
    entry = next(e for e in desk.logbook.entries if e.finding and e.excluded is None)
    exclude_pull(desk.workshop, entry, "to see")
    settle(qtbot, tasks)
    q.select(q.rows()[1][0])
    assert "pulls came since" in q.rows()[1][2]
    assert q.pdf.startswith(b"%PDF")
    press(view, "guide.make")
    settle(qtbot, tasks)
    assert "Since revision 1" in q.changes_words()


def test_what_stands_in_the_way_asks_for_its_reason(desk, view, qtbot, tasks, quick_print):
    plain = [e for e in desk.logbook.entries if e.specimen.lot.name == "T6" and e.finding
             and e.specimen.knot_a is None]  # fmt: skip
    for entry in plain:
        exclude_pull(desk.workshop, entry, "to have none")
    settle(qtbot, tasks)
    view.show_part("publish")
    q = view.publishing
    q.want((), (lot_id(desk, "T6"),), "")
    q.make_revision()
    settle(qtbot, tasks)
    q.check("OQ")
    settle(qtbot, tasks)
    assert "no measured baseline" in q.blocking()[0].words
    press(view, "guide.release")
    settle(qtbot, tasks)
    (field,) = view.printing.reasons.values()
    assert "printed in the guide" in field.complaint
    assert q.revision.state == "checked"
    typed(view, "guide.reason.0", "The rope was used up.")
    press(view, "guide.release")
    settle(qtbot, tasks)
    assert q.revision.state == "released"
    assert q.blocking()[0].reason == "The rope was used up."


@pytest.mark.parametrize("kind", FILES)
def test_every_kind_of_file_is_written(desk, view, qtbot, tasks, quick_print, tmp_path, kind):
    q = view.publishing
    q.want(("tether-loop",), (lot_id(desk, "R8"),), "")
    out = tmp_path / "out"
    out.mkdir()
    q.export(kind, out / "guide")
    settle(qtbot, tasks)
    (made,) = out.iterdir()
    assert made.suffix == FILES[kind].suffix
    assert made.stat().st_size > 8
    assert made.name in words(view, "guide.notice")
    with qtbot.waitSignal(desk.failed) as failed:
        q.export(kind, Path("/nowhere/guide"))
        settle(qtbot, tasks)
    assert "was not written" in str(failed.args[0])


def test_long_work_can_be_stopped_and_nothing_of_it_is_kept(desk, view, qtbot, tasks, monkeypatch):
    def forever(html, progress):
        while True:
            progress(0, 30)
            time.sleep(0.01)

    monkeypatch.setattr(publishing, "html_to_pdf_watched", forever)
    q = view.publishing
    q.want(("tether-loop",), (lot_id(desk, "R8"),), "")
    view.show_part("publish")
    press(view, "guide.preview")
    qtbot.waitUntil(lambda: view.line.cancel.isVisible(), timeout=5_000)
    press(view, "guide.cancel")
    settle(qtbot, tasks)
    assert q.pdf is None
    assert "Stopped" in words(view, "guide.notice")
    assert not view.line.cancel.isVisible()


def test_the_publisher_has_nothing_to_say_of_a_guide_not_made(desk):
    q = PublishPresenter(desk)
    assert q.blocking() == ()
    assert q.changes_words() == ""
    assert q.check("OQ") == ""
    assert q.release({}) == {}


def test_the_guide_as_it_is_now_is_made_anew_for_every_file(
    desk, view, qtbot, tasks, quick_print, tmp_path
):
    q = view.publishing
    q.want(("tether-loop",), (lot_id(desk, "R8"),), "first")
    q.preview()
    qtbot.waitUntil(lambda: q.pdf is not None and not q.busy, timeout=20_000)
    q.want(("line-joined",), (lot_id(desk, "T6"),), "second")
    q.export("json", tmp_path / "now.json")
    settle(qtbot, tasks)
    made = json.loads((tmp_path / "now.json").read_text(encoding="utf-8"))
    assert made["scope"] == "second"
    assert [use["key"] for use in made["uses"]] == ["line-joined"]


def test_nothing_of_the_printing_is_loaded_before_something_is_written():
    code = "import sys, bruiser.app.window; print(sorted({n.split('.')[0] for n in sys.modules}))"
    done = subprocess.run(
        [sys.executable, "-c", code], capture_output=True, text=True, timeout=120, check=True
    )
    loaded = set(done.stdout.strip("[]\n").replace("'", "").split(", "))
    assert "numpy" in loaded
    assert not loaded & {"openpyxl", "jinja2", "weasyprint", "pydantic", "fontTools"}
