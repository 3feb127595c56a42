"""Limits, uses and revisions of a campaign as they stand, and the commands that change them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import TypeVar

from bruiser.core.choice.rating import RatingLimits
from bruiser.core.choice.use_profile import UseProfile, shipped_profiles
from bruiser.core.errors import InputError
from bruiser.core.json_records import read_record, write_record
from bruiser.store import guides
from bruiser.store.checked_rows import leave_out
from bruiser.store.guides import LimitsRow, ProfileRow
from bruiser.store.open_campaign import Connection
from bruiser.workshop.guide.revisions import Revision
from bruiser.workshop.logbook.commands import Changes, Command
from bruiser.workshop.logbook.workshop import Workshop

R = TypeVar("R", LimitsRow, ProfileRow)


@dataclass(frozen=True, kw_only=True)
class GuideBook:
    """What the guide of a campaign is made by, and what was made of it."""

    limits: RatingLimits
    profiles: Mapping[str, UseProfile]
    own_profiles: frozenset[str]
    revisions: tuple[Revision, ...]
    limits_history: tuple[LimitsRow, ...] = ()

    def profile(self, name: str) -> UseProfile:
        """A use by its key or its name.

        Raises
        ------
        InputError
            If there is none; the remedy lists those there are.
        """
        wanted = name.strip().lower()
        for key, profile in self.profiles.items():
            if wanted in (key.lower(), profile.name.lower()):
                return profile
        raise InputError(f"There is no use “{name}”.", f"There are: {', '.join(self.profiles)}.")


def limits_of(rows: Sequence[LimitsRow]) -> RatingLimits:
    """The limits that hold: the newest version, or those shipped."""
    if not rows:
        return RatingLimits()
    return replace(read_record(RatingLimits, rows[-1].body), version=rows[-1].version)


def read_limits(workshop: Workshop) -> RatingLimits:
    """The limits a campaign rates by."""
    with workshop.file.reading() as connection:
        return limits_of(guides.load_limits(connection))


def read_guide_book(workshop: Workshop) -> GuideBook:
    """Read limits, uses and revisions in one look."""
    with workshop.file.reading() as connection:
        return load_guide_book(connection)


def _whose_body_reads(
    connection: Connection, table: str, rows: Sequence[R], kind: type[object]
) -> list[R]:
    """The rows whose JSON can be read; the others are set aside."""
    kept = []
    for row in rows:
        try:
            read_record(kind, row.body)
        except InputError as error:
            leave_out(connection, table, {"id": row.id}, error)
        else:
            kept.append(row)
    return kept


def load_guide_book(connection: Connection) -> GuideBook:
    """The same over a connection."""
    limit_rows = _whose_body_reads(
        connection, "rating_limits", guides.load_limits(connection), RatingLimits
    )
    profile_rows = _whose_body_reads(
        connection, "use_profile", guides.load_profiles(connection), UseProfile
    )
    rows = guides.load_guides(connection)
    steps = guides.load_steps(connection)
    limits = limits_of(limit_rows)
    profiles = shipped_profiles()
    own = {row.key: row for row in profile_rows}
    for key, row in own.items():
        if row.withdrawn:
            profiles.pop(key, None)
        else:
            profiles[key] = read_record(UseProfile, row.body)
    revisions = tuple(
        Revision(row, tuple(s for s in steps if s.guide_id == row.id)) for row in rows
    )
    return GuideBook(
        limits=limits,
        profiles=profiles,
        own_profiles=frozenset(own),
        revisions=revisions,
        limits_history=tuple(limit_rows),
    )


@dataclass(frozen=True)
class SetLimits(Command):
    """Set the rating limits, as a new version."""

    row: LimitsRow
    title: str = "set the limits"

    def apply(self, connection: Connection) -> Changes:
        version = guides.next_limits_version(connection)
        guides.insert_limits(connection, replace(self.row, version=version))
        return Changes(frozenset({"rating_limits"}), (self.row.id,))


def set_limits(workshop: Workshop, limits: RatingLimits, comment: str = "", by: str = "") -> None:
    """Set the limits a guide rates by, as a new version."""
    row = LimitsRow(
        id=workshop.new_id(),
        made_at=workshop.now(),
        version=0,
        body=write_record(limits),
        comment=comment,
        by=by,
    )
    workshop.do(SetLimits(row))


@dataclass(frozen=True)
class WriteProfile(Command):
    """Write a use, or withdraw it."""

    row: ProfileRow
    title: str = "change the use"

    def apply(self, connection: Connection) -> Changes:
        guides.insert_profile(connection, self.row)
        return Changes(frozenset({"use_profile"}), (self.row.key,))


def _profile_row(workshop: Workshop, profile: UseProfile, *, withdrawn: bool = False) -> ProfileRow:
    body = write_record(profile)
    return ProfileRow(
        id=workshop.new_id(),
        key=profile.key,
        made_at=workshop.now(),
        body=body,
        withdrawn=withdrawn,
    )


def write_profile(workshop: Workshop, profile: UseProfile) -> None:
    """Keep a use as it is now; one of a new key is added."""
    workshop.do(WriteProfile(_profile_row(workshop, profile)))


def withdraw_profile(workshop: Workshop, profile: UseProfile) -> None:
    """Take a use out of the list."""
    row = _profile_row(workshop, profile, withdrawn=True)
    workshop.do(WriteProfile(row, "withdraw the use"))
