"""The errors a person can act on.

Wrong arguments from our own code raise ``ValueError`` and bugs stay bare: both reach the crash
report. Everything here is meant to be read by the technician, next to the field or file it
belongs to.
"""

from __future__ import annotations


class BruiserError(Exception):
    """Something a person can act on.

    Parameters
    ----------
    headline : str
        What happened, in a short plain sentence.
    remedy : str
        What to do about it; may be empty.
    """

    def __init__(self, headline: str, remedy: str = "") -> None:
        super().__init__(headline)
        self.headline = headline
        self.remedy = remedy

    def __str__(self) -> str:
        return f"{self.headline} {self.remedy}".strip()


class InputError(BruiserError):
    """A bad value or file; `where` names the field, or file and line, it belongs to."""

    def __init__(self, headline: str, remedy: str = "", *, where: str = "") -> None:
        super().__init__(headline, remedy)
        self.where = where


class Refused(BruiserError):
    """A step that the records forbid; nothing was changed."""


class DataError(BruiserError):
    """The readings do not allow what was asked of them."""


class TooFewPulls(DataError):
    """Fewer observed failures than the method needs."""


class RigError(BruiserError):
    """The bench, real or simulated, cannot do what was asked."""


class LinkLost(RigError):
    """The line to the bench is gone: unplugged, or its port closed."""


class Silent(RigError):
    """The bench is connected and says nothing."""


class Overrange(RigError):
    """The load cell is at its limit: what it reads is a floor."""


class StoreError(BruiserError):
    """The campaign file could not be read or written."""


class Busy(StoreError):
    """Another window holds the campaign file for writing."""


class Full(StoreError):
    """The disk refuses more data."""


class Damaged(StoreError):
    """The file is no campaign, or is one that cannot be read."""


class AlteredSchema(Damaged):
    """A campaign's tables were changed by other means; its rows can be read into a new one."""


class TooNew(StoreError):
    """The file was written by a newer Bruiser."""


class ReadOnly(StoreError):
    """The campaign is open for reading only."""


class Gone(StoreError):
    """The open file was moved, deleted or replaced: writing would go elsewhere."""


class Unreachable(StoreError):
    """The server does not answer; what was being stored may or may not be."""


class PasswordWanted(StoreError):
    """The server wants a password, or another one."""


class NoCampaign(StoreError):
    """A database on a server that holds no campaign yet."""
