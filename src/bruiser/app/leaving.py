"""What is kept of a campaign when it is left: how it stood, and its picture for the start page."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from bruiser.app.layout import keep_layout
from bruiser.app.recent import (
    RecentCampaign,
    busiest_lot,
    note_rungs,
    read_recent,
    remember,
    row_of,
    with_rungs,
)
from bruiser.app.window import MainWindow
from bruiser.core.errors import Unreachable
from bruiser.ui.runtime.tasks import TaskRunner
from bruiser.workshop.groups.gathering import entries_for
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.whole import read_now
from bruiser.workshop.logbook.workshop import Workshop

SMALL = 800
"""Up to so many specimens of its lot the picture of the start page is worked out on leaving."""


class Leaving:
    """Keeps what is wanted of a campaign the next time; its picture takes results, so it follows.

    Parameters
    ----------
    drawn : callable
        Called when a picture was worked out while the application goes on.
    """

    def __init__(self, drawn: Callable[[], None]) -> None:
        self.tasks = TaskRunner()
        self._drawn = drawn
        self._left: tuple[RecentCampaign, Logbook] | None = None

    def opened(self, workshop: Workshop, logbook: Logbook) -> None:
        """Put a campaign at the head of the list, with the picture it had."""
        remember(_as_drawn(row_of(workshop, logbook)))

    def note(self, window: MainWindow) -> None:
        """Keep how a campaign is left, and how far it has got."""
        logbook = window.logbook
        if logbook is None:
            return
        keep_layout(window.workshop.campaign.id, window.layout_now())
        try:
            self._note(window.workshop, logbook)
        except Unreachable:
            return  # The server is away: it stays listed as it was when it was opened.

    def _note(self, workshop: Workshop, logbook: Logbook) -> None:
        row = _as_drawn(row_of(workshop, logbook))
        remember(row)
        lot_id = busiest_lot(logbook)
        small = bool(lot_id) and logbook.tally.count(lot_id=lot_id) <= SMALL
        # The file is closed by the time that it is drawn.
        self._left = (row, read_now(logbook, entries_for(logbook, (lot_id,)))) if small else None

    def draw(self) -> None:
        """Work out the picture of the campaign just left, while the application goes on."""
        if self._left is None:
            return
        row, logbook = self._left

        def received(found: RecentCampaign) -> None:
            self._left = None
            note_rungs(found)
            self._drawn()

        # Without its picture a campaign is listed as well as with one.
        self.tasks.run("rungs", lambda: with_rungs(row, logbook), received, lambda _: None)

    def finish(self) -> None:
        """Work out what is left to be, now that nobody looks, and start nothing more."""
        self.tasks.close()
        if self._left is not None:
            (row, logbook), self._left = self._left, None
            note_rungs(with_rungs(row, logbook))


def _as_drawn(row: RecentCampaign) -> RecentCampaign:
    """A row with the picture it had before."""
    before = next((r for r in read_recent() if r.path == row.path), None)
    return row if before is None else replace(row, rungs=before.rungs)
