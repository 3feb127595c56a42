"""Runs work off the interface thread; a timer of the interface thread brings the results back."""

from __future__ import annotations

import logging
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from queue import Empty, SimpleQueue
from typing import Any

from PyQt6.QtCore import QObject, QTimer

from bruiser.core.errors import BruiserError
from bruiser.core.progress import Cancelled, Progress, no_progress

log = logging.getLogger(__name__)

LOOK_MS = 8

_Ends = tuple[Callable[[Any], None], Callable[[Exception], None]]


@dataclass(frozen=True, kw_only=True)
class _Done:
    """What a worker has to say: which task it was, its result or its error."""

    key: str
    number: int
    result: Any = None
    error: Exception | None = None


@dataclass(frozen=True, kw_only=True)
class _Step:
    """How far a task is."""

    key: str
    number: int
    done: int
    whole: int


class TaskRunner(QObject):
    """Owns every worker. A newer task with the same key replaces older ones, begun or waiting.

    Workers never touch Qt: they put what they found into a queue, and a timer that runs while
    something is under way takes it out again. A signal from a worker would be a posted event, and
    those were seen to wait for a minute behind a nested event loop.
    """

    def __init__(self) -> None:
        super().__init__()
        self._pool = ThreadPoolExecutor(max_workers=1, thread_name_prefix="work")
        self._aside = ThreadPoolExecutor(max_workers=1, thread_name_prefix="aside")
        self._drawing = ThreadPoolExecutor(max_workers=1, thread_name_prefix="drawing")
        self._closed = False
        self._newest: dict[str, int] = {}
        self._receivers: dict[tuple[str, int], _Ends] = {}
        self._watchers: dict[tuple[str, int], Callable[[int, int], None]] = {}
        self._found: SimpleQueue[_Done | _Step] = SimpleQueue()
        self._look = QTimer(self)
        self._look.setInterval(LOOK_MS)
        self._look.timeout.connect(self._take_found)

    def run(
        self,
        key: str,
        work: Callable[[], Any],
        receive: Callable[[Any], None],
        fail: Callable[[Exception], None],
    ) -> None:
        """Run `work` on a worker, then `receive` its result on the interface thread.

        Whatever `work` or `receive` raises goes to `fail`, on the interface thread, so that who
        waits ends waiting; an error that is a bug is raised there as well.
        """
        self.run_watched(key, lambda _: work(), receive, fail, no_progress)

    def run_watched(
        self,
        key: str,
        work: Callable[[Progress], Any],
        receive: Callable[[Any], None],
        fail: Callable[[Exception], None],
        watch: Callable[[int, int], None],
        *,
        aside: bool = False,
        drawing: bool = False,
    ) -> None:
        """The same for long work, which is handed a call to tell how far it is.

        That call ends the work when it was cancelled or a newer task took its place; `watch` is
        told on the interface thread. What waits for another program runs `aside`, so that no
        computation waits for it; it must not share anything with one. Nor does a `drawing` wait.
        """
        if self._closed:
            return  # The window is gone: a timer of it may still ask.
        number = self._newest.get(key, 0) + 1
        self._newest[key] = number
        self._receivers[key, number] = receive, fail
        self._watchers[key, number] = watch

        def tell(done: int, whole: int) -> None:
            if self._newest[key] != number:
                raise Cancelled
            self._found.put(_Step(key=key, number=number, done=done, whole=whole))

        def job() -> None:
            try:
                stale = self._newest[key] != number
                self._found.put(_Done(key=key, number=number, result=None if stale else work(tell)))
            except Cancelled:
                self._found.put(_Done(key=key, number=number))
            except Exception as error:  # noqa: BLE001  (handed over to the interface thread)
                self._found.put(_Done(key=key, number=number, error=error))

        pool = self._drawing if drawing else self._aside if aside else self._pool
        pool.submit(job)
        self._look.start()

    def cancel(self, key: str) -> None:
        """Let go of the tasks of a key: what is under way ends at its next step, and says nothing.

        A task that is nearly done may still finish its work; its result is thrown away.
        """
        self._newest[key] = self._newest.get(key, 0) + 1

    @property
    def busy(self) -> bool:
        """Whether something is still being worked on."""
        return bool(self._receivers)

    def close(self) -> None:
        """Wait for what runs and start nothing more."""
        self._closed = True
        self._look.stop()
        self._receivers.clear()
        for key in self._newest:
            self._newest[key] += 1
        for pool in (self._pool, self._aside, self._drawing):
            pool.shutdown(wait=True, cancel_futures=True)

    def _take_found(self) -> None:
        while self._receivers:
            try:
                done = self._found.get_nowait()
            except Empty:
                return
            if isinstance(done, _Step):
                watch = self._watchers.get((done.key, done.number))
                if watch is not None and self._newest[done.key] == done.number:
                    watch(done.done, done.whole)
            else:
                self._hand_over(done)
        self._look.stop()

    def _hand_over(self, done: _Done) -> None:
        ends = self._receivers.pop((done.key, done.number), None)
        self._watchers.pop((done.key, done.number), None)
        if ends is None or self._newest[done.key] != done.number:
            return
        receive, fail = ends
        try:
            if done.error is not None:
                raise done.error
            receive(done.result)
        except BruiserError as error:
            fail(error)
        except Exception as error:
            fail(error)
            raise
