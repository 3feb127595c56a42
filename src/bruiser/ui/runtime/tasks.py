"""Runs work off the interface thread and brings the result back by queued signal."""

from __future__ import annotations

import logging
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

log = logging.getLogger(__name__)


class TaskRunner(QObject):
    """Owns every worker. A newer task with the same key replaces older ones, begun or waiting."""

    _finished = pyqtSignal(str, int, object, object)

    def __init__(self) -> None:
        super().__init__()
        self._pool = ThreadPoolExecutor(max_workers=1, thread_name_prefix="work")
        self._newest: dict[str, int] = {}
        self._receivers: dict[tuple[str, int], Callable[[Any], None]] = {}
        self._finished.connect(self._on_finished)

    def run(self, key: str, work: Callable[[], Any], receive: Callable[[Any], None]) -> None:
        """Run `work` on a worker, then `receive` its result on the interface thread."""
        number = self._newest.get(key, 0) + 1
        self._newest[key] = number
        self._receivers[key, number] = receive

        def job() -> None:
            try:
                stale = self._newest[key] != number
                self._finished.emit(key, number, None if stale else work(), None)
            except Exception as error:  # noqa: BLE001  (re-raised on the interface thread)
                self._finished.emit(key, number, None, error)

        self._pool.submit(job)

    @property
    def busy(self) -> bool:
        """Whether something is still being worked on."""
        return bool(self._receivers)

    def close(self) -> None:
        """Wait for what runs and start nothing more."""
        self._receivers.clear()
        self._pool.shutdown(wait=True, cancel_futures=True)

    def _on_finished(self, key: str, number: int, result: Any, error: Exception | None) -> None:
        receive = self._receivers.pop((key, number), None)
        if receive is None or self._newest[key] != number:
            return
        if error is not None:
            raise error
        receive(result)
