"""Looks after the open campaign beside the work: moved files, what others stored, a lost server."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, QTimer

from bruiser.app.keeping import set_aside_words
from bruiser.core.errors import BruiserError, Unreachable
from bruiser.workshop.bench.delivering import Delivered, deliver_waiting, files_waiting

if TYPE_CHECKING:
    from bruiser.app.frame import CampaignFrame

FILE_LOOK_MS = 1000
SERVER_LOOK_MS = 300
AWAY = (
    "The server is away: nothing is stored there now, and what is shown may be old. A pull under "
    "way goes on and is kept on this machine until the server is back."
)


class FileWatch(QObject):
    """A look every second at a file, three times a second at what was heard from a server.

    Parameters
    ----------
    window : CampaignFrame
        What it looks after.
    """

    def __init__(self, window: CampaignFrame) -> None:
        super().__init__(window)
        self._window = window
        self._known_aside = len(window.workshop.file.set_aside)
        self._was_online = True
        self._told = ""
        self._differ: set[str] = set()
        self._timer = QTimer(self)
        self._timer.setInterval(SERVER_LOOK_MS if window.workshop.file.shared else FILE_LOOK_MS)
        self._timer.timeout.connect(self.look)
        self._timer.start()

    def stop(self) -> None:
        """Look no more."""
        self._timer.stop()

    def start(self) -> None:
        """Look again, as after the campaign was saved under another name."""
        self._timer.start()

    def look(self) -> None:
        """Notice a file that was moved, what others stored, rows without sense, a lost server."""
        window, workshop = self._window, self._window.workshop
        file = workshop.file
        try:
            file.look()
            if len(file.set_aside) > self._known_aside:
                self._known_aside = len(file.set_aside)
                window.say(" ".join(set_aside_words(workshop)))
            if file.shared:
                self._look_at_server()
            elif workshop.read_only and workshop.catch_up():
                window.refresh()
        except Unreachable:
            return  # Said by the next look.
        except BruiserError as error:
            self.stop()
            window.show_error(error)

    def _look_at_server(self) -> None:
        window, workshop = self._window, self._window.workshop
        online = workshop.file.online
        if online != self._was_online:
            self._was_online = online
            window.say("The server is back." if online else AWAY)
        if not online:
            return
        said = "" if window.pull_under_way else self._deliver()
        if workshop.catch_up() or said:
            window.refresh()
            said = " ".join(filter(None, (said, self._differences())))
        if said:
            window.say(said)

    def _differences(self) -> str:
        """Pulls that two benches found differently, said once."""
        logbook = self._window.logbook
        found = () if logbook is None else logbook.unsettled
        fresh = [key for key in found if key not in self._differ]
        self._differ = set(found)
        if not fresh or logbook is None:
            return ""
        codes = ", ".join(e.specimen.code for key in fresh if (e := logbook.by_pull.get(key)))
        return f"{codes}: found differently on two benches. Say in Findings (F6) which holds."

    def _deliver(self) -> str:
        """Bring what waited here to the server; what came of it, in words, said once."""
        workshop = self._window.workshop
        if not files_waiting(workshop):
            return ""
        done = deliver_waiting(workshop)
        said = delivered_words(done)
        if said == self._told and not done.codes:
            return ""
        self._told = said
        return said


def delivered_words(done: Delivered) -> str:
    """What was delivered and what waits on, in a line."""
    came = f"Delivered to the server: {', '.join(done.codes)}. " if done.codes else ""
    left = f"Waits on this machine: {' '.join(done.left)}" if done.left else ""
    twice = (
        f"{', '.join(done.twice)}: pulled on another bench as well; the later pull counts. "
        if done.twice
        else ""
    )
    return f"{came}{twice}{left}".strip()
