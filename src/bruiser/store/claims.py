"""Specimens that benches have in hand: a bench takes one, others are handed the next free one."""

from __future__ import annotations

import logging
from collections.abc import Mapping
from types import MappingProxyType

from bruiser.core.errors import Unreachable
from bruiser.store.holds import Hold, held_by_others, release_holds, take_hold
from bruiser.store.open_campaign import OpenCampaign

log = logging.getLogger(__name__)

NONE: Mapping[str, Hold] = MappingProxyType({})


class Claims:
    """What this window has in hand, and what others have.

    On a file nobody else writes: everything is free.

    Parameters
    ----------
    file : OpenCampaign
        The open campaign.
    """

    def __init__(self, file: OpenCampaign) -> None:
        self._server = file if file.shared and not file.read_only else None
        self.others: Mapping[str, Hold] = NONE
        self._mine: dict[str, str] = {}

    def look(self) -> bool:
        """See what others have in hand; says whether that changed."""
        if self._server is None:
            return False
        before = self.others
        try:
            with self._server.reading() as connection:
                self.others = held_by_others(connection, self._server.token)
        except Unreachable:
            return False
        return dict(before) != dict(self.others)

    def take(self, specimen_id: str, purpose: str = "pull") -> bool:
        """Take a specimen in hand and let go of the last one; False where another bench has it.

        One is in hand for each purpose: to be pulled, to be inspected.
        While the server is away it is taken to be free: who has it in hand has it in hand.
        """
        if self._server is None:
            return True
        try:
            with self._server.claiming() as connection:
                token = self._server.token
                taken = take_hold(connection, specimen_id, token, self._server.worker)
                if taken:
                    self._mine[purpose] = specimen_id
                    release_holds(connection, token, but=self._mine.values())
        except Unreachable:
            log.warning("a specimen was taken while the server was away")
            return True
        if not taken:
            self.look()
        return taken

    def release(self) -> None:
        """Let go of what this window has in hand."""
        if self._server is None:
            return
        try:
            with self._server.claiming() as connection:
                release_holds(connection, self._server.token)
        except Unreachable:
            log.warning("claims run out by themselves: the server is away")
