"""A thread that hears what others store on the server, and whether the server is there."""

from __future__ import annotations

import logging
import threading
import time

import psycopg

from bruiser.core.errors import StoreError
from bruiser.store.holds import RENEW, RENEW_EVERY_S
from bruiser.store.server.connecting import Connect

log = logging.getLogger(__name__)

CHANNEL = "bruiser"
_LOOK_S = 0.5
_AGAIN_S = 1.0


class Listener:
    """Listens on a connection of its own, and opens another whenever that is lost.

    Parameters
    ----------
    connect : callable
        Opens a connection.
    token : str
        Of this window: what it stores itself is no news, and its claims are kept alive.
    """

    def __init__(self, connect: Connect, token: str) -> None:
        self._connect = connect
        self._token = token
        self._news = threading.Event()
        self._lost = threading.Event()
        self._ended = threading.Event()
        self._thread: threading.Thread | None = None

    @property
    def online(self) -> bool:
        """Whether the server was there when last heard of; taken to be before anybody listens."""
        return not self._lost.is_set()

    def begin(self) -> None:
        """Start to listen."""
        self._news.set()
        self._thread = threading.Thread(target=self._run, name="listener", daemon=True)
        self._thread.start()

    def end(self) -> None:
        """Stop listening; the thread ends within a second."""
        self._ended.set()
        if self._thread is not None:
            self._thread.join(2.0)

    def take_news(self) -> bool:
        """Whether anybody else stored something since this was last asked."""
        if self._thread is None:
            return True
        news = self._news.is_set() and self.online
        if news:
            self._news.clear()
        return news

    def was_lost(self) -> None:
        """Somebody met a lost connection: the server counts as away until this thread reaches it.

        Where nobody listens it stays as it is: the next who asks finds out.
        """
        if self._thread is not None:
            self._lost.set()

    def _run(self) -> None:
        while not self._ended.is_set():
            try:
                with self._connect() as line:
                    line.autocommit = True
                    line.execute(f"LISTEN {CHANNEL}")
                    self._hear(line)
            except (psycopg.Error, StoreError) as error:
                if not self._lost.is_set():
                    log.warning("the server is away: %s", type(error).__name__)
                self._lost.set()
                self._ended.wait(_AGAIN_S)

    def _hear(self, line: psycopg.Connection[tuple[object, ...]]) -> None:
        # Anything may have been stored while nobody listened.
        self._lost.clear()
        self._news.set()
        renewed = 0.0
        while not self._ended.is_set():
            if self._lost.is_set():
                line.execute("SELECT 1")
                self._lost.clear()
                self._news.set()
            if time.monotonic() - renewed > RENEW_EVERY_S:
                line.execute(RENEW, {"token": self._token})
                renewed = time.monotonic()
            for heard in line.notifies(timeout=_LOOK_S, stop_after=1):
                if not heard.payload.endswith(self._token):
                    self._news.set()
