"""One Bruiser for a person: a second start hands its file to the window that is there."""

from __future__ import annotations

import hashlib
import os
from collections.abc import Callable

from platformdirs import user_state_path
from PyQt6.QtCore import QObject
from PyQt6.QtNetwork import QLocalServer, QLocalSocket

_WAIT_MS = 700


def _name() -> str:
    """The name of the meeting place: of this person, and this place for what is kept."""
    home = str(user_state_path("bruiser"))
    mark = hashlib.sha256(f"{os.getuid()} {home}".encode()).hexdigest()[:16]
    return f"bruiser-{mark}"


def hand_over(words: str) -> bool:
    """Hand a path, or nothing, to the window that is there; whether there is one."""
    socket = QLocalSocket()
    socket.connectToServer(_name())
    if not socket.waitForConnected(_WAIT_MS):
        return False
    socket.write(words.encode() + b"\n")
    done = socket.waitForBytesWritten(_WAIT_MS)
    socket.disconnectFromServer()
    return done


class Meeting(QObject):
    """Hears what later starts hand over: `came` is called with a path, or with nothing."""

    def __init__(self, came: Callable[[str], None]) -> None:
        super().__init__()
        self._came = came
        self._server = QLocalServer(self)
        self._server.setSocketOptions(QLocalServer.SocketOption.UserAccessOption)
        self._server.newConnection.connect(self._on_connection)
        # Nobody answered there before this was called: what is left is of one that was killed.
        QLocalServer.removeServer(_name())
        self.listening = self._server.listen(_name())

    def _on_connection(self) -> None:
        socket = self._server.nextPendingConnection()
        if socket is None:
            return

        def read() -> None:
            if socket.canReadLine():
                self._came(bytes(socket.readLine().data()).decode("utf-8", "replace").strip())
                socket.deleteLater()

        socket.readyRead.connect(read)
        read()

    def close(self) -> None:
        """Hear nothing more."""
        self._server.close()
