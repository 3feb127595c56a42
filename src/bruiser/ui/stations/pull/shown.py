"""What the pull station shows at one moment."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Readings:
    """The large numbers, as texts with units."""

    load: str
    highest: str
    force_unit: str
    travel: str
    length_unit: str
    share: str


@dataclass(frozen=True)
class Controls:
    """What can be done now, and what the bench says."""

    words: str
    tone: str
    may_arm: bool = False
    may_pull: bool = False
    may_slack: bool = False
    may_end: bool = False
    may_stop: bool = False
    done: bool = False
