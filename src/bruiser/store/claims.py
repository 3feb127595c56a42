"""Specimens that benches have in hand: a bench takes one, others are handed the next free one."""

from __future__ import annotations

import logging
import math
import time
from collections.abc import Mapping
from types import MappingProxyType

from bruiser.core.errors import Unreachable
from bruiser.store.holds import RENEW_EVERY_S, Hold, held_by_others, release_holds, take_hold
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
        self._taken_at: dict[str, float] = {}

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
        if self._server is None or self._surely_mine(specimen_id, purpose):
            return True
        began = _now_s()
        try:
            with self._server.claiming() as connection:
                token = self._server.token
                taken = take_hold(connection, specimen_id, token, self._server.worker)
                if taken:
                    self._mine[purpose], self._taken_at[purpose] = specimen_id, began
                    release_holds(connection, token, but=self._mine.values())
                else:
                    self.others = held_by_others(connection, token)
        except Unreachable:
            log.warning("a specimen was taken while the server was away")
            return True
        return taken

    def _surely_mine(self, specimen_id: str, purpose: str) -> bool:
        """Whether it was taken so lately that nobody can have it yet."""
        lately = _now_s() - self._taken_at.get(purpose, -math.inf) < RENEW_EVERY_S
        return lately and self._mine.get(purpose) == specimen_id

    def release(self) -> None:
        """Let go of what this window has in hand."""
        if self._server is None:
            return
        try:
            self._taken_at.clear()
            with self._server.claiming() as connection:
                release_holds(connection, self._server.token)
        except Unreachable:
            log.warning("claims run out by themselves: the server is away")


def _now_s() -> float:
    """Seconds on a clock that goes on while the machine sleeps."""
    return time.clock_gettime(time.CLOCK_BOOTTIME)
