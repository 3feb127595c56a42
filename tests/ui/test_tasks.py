import pytest

from bruiser.ui.runtime.tasks import TaskRunner


def test_only_the_newest_result_of_a_key_arrives(qtbot):
    runner, got = TaskRunner(), []
    for n in range(5):
        runner.run("sum", lambda n=n: n, got.append)
    qtbot.waitUntil(lambda: not runner.busy)
    runner.close()
    assert got == [4]


def test_a_bug_in_a_task_is_not_swallowed(qtbot):
    runner = TaskRunner()
    with qtbot.captureExceptions() as caught:
        runner.run("bad", lambda: 1 / 0, print)
        qtbot.waitUntil(lambda: bool(caught))
    runner.close()
    assert caught[0][0] is ZeroDivisionError


def test_nothing_arrives_after_closing(qtbot):
    runner, got = TaskRunner(), []
    runner.run("late", lambda: 1, got.append)
    runner.close()
    qtbot.wait(20)
    assert got == []


@pytest.mark.parametrize("value", [None, 3])
def test_results_arrive_on_the_interface_thread(qtbot, value):
    import threading

    runner, seen = TaskRunner(), []
    runner.run("x", lambda: value, lambda v: seen.append((v, threading.current_thread())))
    qtbot.waitUntil(lambda: bool(seen))
    runner.close()
    assert seen == [(value, threading.main_thread())]
