"""Runs work off the interface thread; a timer of the interface thread brings the results back."""

from __future__ import annotations

import logging
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from queue import Empty, SimpleQueue
from typing import Any

from PyQt6.QtCore import QObject, QTimer

log = logging.getLogger(__name__)

LOOK_MS = 8


@dataclass(frozen=True)
class _Done:
    """What a worker has to say: which task it was, its result or its error."""

    key: str
    number: int
    result: Any = None
    error: Exception | None = None


class TaskRunner(QObject):
    """Owns every worker. A newer task with the same key replaces older ones, begun or waiting.

    Workers never touch Qt: they put what they found into a queue, and a timer that runs while
    something is under way takes it out again. A signal from a worker would be a posted event, and
    those were seen to wait for a minute behind a nested event loop.
    """

    def __init__(self) -> None:
        super().__init__()
        self._pool = ThreadPoolExecutor(max_workers=1, thread_name_prefix="work")
        self._newest: dict[str, int] = {}
        self._receivers: dict[tuple[str, int], Callable[[Any], None]] = {}
        self._found: SimpleQueue[_Done] = SimpleQueue()
        self._look = QTimer(self)
        self._look.setInterval(LOOK_MS)
        self._look.timeout.connect(self._take_found)

    def run(self, key: str, work: Callable[[], Any], receive: Callable[[Any], None]) -> None:
        """Run `work` on a worker, then `receive` its result on the interface thread."""
        number = self._newest.get(key, 0) + 1
        self._newest[key] = number
        self._receivers[key, number] = receive

        def job() -> None:
            try:
                stale = self._newest[key] != number
                self._found.put(_Done(key, number, None if stale else work()))
            except Exception as error:  # noqa: BLE001  (re-raised on the interface thread)
                self._found.put(_Done(key, number, error=error))

        self._pool.submit(job)
        self._look.start()

    @property
    def busy(self) -> bool:
        """Whether something is still being worked on."""
        return bool(self._receivers)

    def close(self) -> None:
        """Wait for what runs and start nothing more."""
        self._look.stop()
        self._receivers.clear()
        self._pool.shutdown(wait=True, cancel_futures=True)

    def _take_found(self) -> None:
        while self._receivers:
            try:
                done = self._found.get_nowait()
            except Empty:
                return
            self._hand_over(done)
        self._look.stop()

    def _hand_over(self, done: _Done) -> None:
        receive = self._receivers.pop((done.key, done.number), None)
        if receive is None or self._newest[done.key] != done.number:
            return
        if done.error is not None:
            raise done.error
        receive(done.result)
