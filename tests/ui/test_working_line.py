"""The line under a sheet: a caution that stays, a notice, and progress only where it takes long."""

import pytest

from bruiser.ui.kit.working_line import NO_APPROVAL, PATIENCE_MS, WorkingLine


@pytest.fixture
def line(dressed, qtbot):
    made = WorkingLine("sheet")
    qtbot.addWidget(made)
    made.resize(900, 40)
    made.show()
    return made


def test_it_is_quiet_at_first_but_for_the_caution(line):
    assert "No approval for lifting" in NO_APPROVAL
    assert not line.progress.isVisible()
    assert not line.cancel.isVisible()
    assert not line.notice.isVisible()


def test_short_work_shows_nothing_and_long_work_how_far_it_is(line, qtbot):
    line.work(0, 4)
    line.work(1, 1)
    qtbot.wait(PATIENCE_MS + 100)
    assert not line.progress.isVisible()
    line.work(0, 4)
    qtbot.waitUntil(line.progress.isVisible, timeout=5 * PATIENCE_MS)
    line.work(3, 4)
    assert (line.progress.value(), line.progress.maximum()) == (3, 4)
    with qtbot.waitSignal(line.stopped):
        line.cancel.click()
    line.work(4, 4)
    assert not line.progress.isVisible()
    assert not line.cancel.isVisible()


def test_a_notice_is_shown_until_it_is_taken_back(line):
    line.tell("Written: guide.pdf.")
    assert line.notice.isVisible()
    assert line.notice.words == "Written: guide.pdf."
    line.tell("")
    assert not line.notice.isVisible()
