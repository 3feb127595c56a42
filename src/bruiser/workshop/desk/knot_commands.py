"""Commands on knots in play, measured cord, and structures of the campaign's own."""

from __future__ import annotations

from dataclasses import dataclass

from bruiser.core.errors import Refused
from bruiser.core.planning.cord_use import CordReading
from bruiser.core.records.records import Knot
from bruiser.store import briefs, campaigns, stock
from bruiser.store.briefs import OwnStructure
from bruiser.store.open_campaign import Connection
from bruiser.workshop.logbook.commands import Changes, Command


@dataclass(frozen=True)
class AddKnot(Command):
    """Bring a knot variant into play."""

    knot: Knot
    title: str = "bring the knot into play"

    def apply(self, connection: Connection) -> Changes:
        campaigns.insert_knot(connection, self.knot)
        return Changes(frozenset({"knot"}), (self.knot.id,))


@dataclass(frozen=True)
class DropKnot(Command):
    """Take a knot variant that nothing depends on out of play."""

    knot: Knot
    title: str = "take the knot out of play"

    def apply(self, connection: Connection) -> Changes:
        dependents = campaigns.knot_dependents(connection, self.knot.id)
        if dependents:
            raise Refused(
                f"{self.knot.title} cannot be deleted: {', '.join(dependents)} depend on it.",
                "Archive it instead; it then stays on record and out of the way.",
            )
        campaigns.delete_knot(connection, self.knot.id)
        return Changes(frozenset({"knot"}), (self.knot.id,))


@dataclass(frozen=True)
class ArchiveKnot(Command):
    """Archive a knot in play, or bring it back."""

    knot_id: str
    archived: bool = True
    title: str = "archive the knot"

    def apply(self, connection: Connection) -> Changes:
        campaigns.archive_knot(connection, self.knot_id, self.archived)
        return Changes(frozenset({"knot"}), (self.knot_id,))


@dataclass(frozen=True)
class RecordCord(Command):
    """Note the cord that one tied knot took."""

    reading: CordReading
    title: str = "note the cord used"

    def apply(self, connection: Connection) -> Changes:
        stock.insert_cord_reading(connection, self.reading)
        return Changes(frozenset({"cord_reading"}), (self.reading.id,))


@dataclass(frozen=True)
class DropCord(Command):
    """Take back a cord length entered by mistake."""

    reading: CordReading
    title: str = "take back the cord used"

    def apply(self, connection: Connection) -> Changes:
        stock.delete_cord_reading(connection, self.reading.id)
        return Changes(frozenset({"cord_reading"}), (self.reading.id,))


@dataclass(frozen=True)
class KeepStructure(Command):
    """Store a structure of the campaign's own, new or adapted."""

    own: OwnStructure
    title: str = "keep the structure"

    def apply(self, connection: Connection) -> Changes:
        briefs.put_structure(connection, self.own)
        return Changes(frozenset({"own_structure"}), (self.own.key,))


@dataclass(frozen=True)
class DropStructure(Command):
    """Remove a structure of the campaign's own that no knot in play is made of."""

    own: OwnStructure
    title: str = "remove the structure"

    def apply(self, connection: Connection) -> Changes:
        used = [k.title for k in campaigns.load_knots(connection) if k.structure == self.own.key]
        if used and not self.own.based_on:
            raise Refused(f"It cannot be removed: {', '.join(used)} in play is made of it.")
        briefs.drop_structure(connection, self.own.key)
        return Changes(frozenset({"own_structure"}), (self.own.key,))
