"""Limits, uses and revisions of a campaign as they stand, and the commands that change them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TypeVar

from bruiser.core.choice.rating import RatingLimits
from bruiser.core.choice.use_profile import UseProfile, shipped_profiles
from bruiser.core.errors import InputError
from bruiser.core.json_records import read_record, write_record
from bruiser.store import guides
from bruiser.store.checked_rows import leave_out
from bruiser.store.guides import LimitsRow, ProfileRow, Revision
from bruiser.store.open_campaign import Connection
from bruiser.workshop.logbook.commands import Changes, Command
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import Workshop
from bruiser.workshop.results.across_sets import read_beside

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


def leave_out_lot(workshop: Workshop, lot_id: str) -> None:
    """Leave a lot out of what is predicted across cordages, or take it in again."""
    limits = read_limits(workshop)
    out = tuple(sorted(set(limits.across.left_out) ^ {lot_id}))
    name = next((lot.name for lot in read_logbook(workshop).lots if lot.id == lot_id), lot_id)
    did = "left out of" if lot_id in out else "taken into"
    changed = replace(limits, across=replace(limits.across, left_out=out))
    set_limits(workshop, changed, f"{name} {did} what is predicted across cordages")


def lay_beside(workshop: Workshop, path: Path) -> None:
    """Lay a campaign file beside for what is predicted, or take it away again.

    Raises
    ------
    BruiserError
        If it is no campaign that can be read, or this one itself.
    """
    limits, text = read_limits(workshop), str(path.resolve())
    if not workshop.file.shared and path.resolve() == workshop.file.path.resolve():
        raise InputError("That is this campaign: choose another one.")
    there = text in limits.across.beside
    if not there:
        read_beside(path)
    beside = tuple(sorted(set(limits.across.beside) ^ {text}))
    did = "no longer laid beside" if there else "laid beside, read-only, as further lots"
    changed = replace(limits, across=replace(limits.across, beside=beside))
    set_limits(workshop, changed, f"{path.name} {did}")


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
