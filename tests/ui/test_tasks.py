import pytest

from bruiser.core.errors import Refused
from bruiser.ui.runtime.tasks import TaskRunner


def test_only_the_newest_result_of_a_key_arrives(qtbot):
    runner, got = TaskRunner(), []
    for n in range(5):
        runner.run("sum", lambda n=n: n, got.append, got.append)
    qtbot.waitUntil(lambda: not runner.busy)
    runner.close()
    assert got == [4]


def test_a_bug_in_a_task_is_not_swallowed(qtbot):
    runner, failed = TaskRunner(), []
    with qtbot.captureExceptions() as caught:
        runner.run("bad", lambda: 1 / 0, print, failed.append)
        qtbot.waitUntil(lambda: bool(caught))
    runner.close()
    assert caught[0][0] is ZeroDivisionError
    assert [type(e) for e in failed] == [ZeroDivisionError]


def test_what_a_person_can_mend_goes_to_who_waits_and_is_no_bug(qtbot):
    runner, failed = TaskRunner(), []

    def refuse(_=None):
        raise Refused("No.")

    runner.run("work", refuse, print, failed.append)
    runner.run("receive", lambda: 1, refuse, failed.append)
    qtbot.waitUntil(lambda: len(failed) == 2)
    assert not runner.busy
    runner.close()


def test_nothing_arrives_after_closing(qtbot):
    runner, got = TaskRunner(), []
    runner.run("late", lambda: 1, got.append, got.append)
    runner.close()
    qtbot.wait(20)
    assert got == []


@pytest.mark.parametrize("value", [None, 3])
def test_results_arrive_on_the_interface_thread(qtbot, value):
    import threading

    runner, seen = TaskRunner(), []
    runner.run(
        "x", lambda: value, lambda v: seen.append((v, threading.current_thread())), seen.append
    )
    qtbot.waitUntil(lambda: bool(seen))
    runner.close()
    assert seen == [(value, threading.main_thread())]


def test_what_waits_for_another_program_holds_nothing_up(qtbot):
    import threading

    runner, got, gate = TaskRunner(), [], threading.Event()

    def wait(progress):
        while not gate.is_set():
            progress(0, 2)
            gate.wait(0.01)
        return "printed"

    runner.run_watched("print", wait, got.append, got.append, lambda *_: None, aside=True)
    runner.run("sum", lambda: "worked out", got.append, got.append)
    qtbot.waitUntil(lambda: bool(got))
    assert got == ["worked out"]
    assert runner.busy
    gate.set()
    qtbot.waitUntil(lambda: not runner.busy)
    runner.close()
    assert got == ["worked out", "printed"]


def test_closing_ends_long_work_at_its_next_step(qtbot):
    import time

    runner = TaskRunner()

    ended = []

    def forever(progress):
        try:
            while True:
                progress(0, 2)
                time.sleep(0.005)
        finally:
            ended.append(True)

    for key, aside in (("print", True), ("work", False)):
        runner.run_watched(key, forever, print, print, lambda *_: None, aside=aside)
    qtbot.wait(30)
    runner.close()
    assert ended == [True, True]


def test_what_is_asked_after_closing_is_not_begun(qtbot):
    runner, begun = TaskRunner(), []
    runner.close()
    runner.run("late", lambda: begun.append(True), print, print)
    assert not runner.busy
    assert begun == []
