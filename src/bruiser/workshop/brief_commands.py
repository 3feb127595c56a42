"""Commands on what is asked: settings, uses, criteria, claims, the design factor.

Criteria, claims and factors are append-only: taking one back writes another line.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

from bruiser.core.brief import Claim, Criterion, DesignFactorEntry
from bruiser.store import briefs, campaigns
from bruiser.store.campaign_file import Connection
from bruiser.store.campaigns import CampaignRow
from bruiser.workshop.commands import Changes, Command


@dataclass(frozen=True)
class EditCampaign(Command):
    """Change the question, the units, or the trade whose names come first."""

    before: CampaignRow
    after: CampaignRow
    title: str = "change the brief"

    def apply(self, connection: Connection) -> Changes:
        campaigns.update_campaign(connection, self.after)
        return Changes(frozenset({"campaign"}), (self.after.id,))

    def inverse(self) -> Command | None:
        return EditCampaign(self.after, self.before)


@dataclass(frozen=True)
class ChooseUses(Command):
    """Say which uses the campaign serves."""

    before: tuple[str, ...]
    after: tuple[str, ...]
    title: str = "change the uses"

    def apply(self, connection: Connection) -> Changes:
        briefs.replace_uses(connection, self.after)
        return Changes(frozenset({"campaign_use"}), self.after)

    def inverse(self) -> Command | None:
        return ChooseUses(self.after, self.before)


@dataclass(frozen=True)
class WriteCriterion(Command):
    """Write a pass criterion, or a new version of one; the old one stays on record."""

    criterion: Criterion
    undo_id: str
    earlier: Criterion | None = None
    title: str = "write the pass criterion"

    def apply(self, connection: Connection) -> Changes:
        briefs.insert_criterion(connection, self.criterion)
        return Changes(frozenset({"criterion"}), (self.criterion.id,))

    def inverse(self) -> Command | None:
        back = replace(
            self.earlier or self.criterion,
            id=self.undo_id,
            made_at=self.criterion.made_at,
            supersedes=self.criterion.id,
            withdrawn=self.earlier is None or self.earlier.withdrawn,
            comment="undone",
        )
        return WriteCriterion(back, f"{self.undo_id}-again", self.criterion)

    def renewed(self, new_id: str) -> Command:
        again = replace(self.criterion, id=new_id, supersedes=self.undo_id)
        return replace(self, criterion=again, undo_id=f"{new_id}-undone")


@dataclass(frozen=True)
class EnterClaim(Command):
    """Enter a claim to test, or withdraw one."""

    claim: Claim
    undo_id: str
    title: str = "enter the claim"

    def apply(self, connection: Connection) -> Changes:
        briefs.insert_claim(connection, self.claim)
        return Changes(frozenset({"claim"}), (self.claim.id,))

    def inverse(self) -> Command | None:
        turned = replace(
            self.claim,
            id=self.undo_id,
            supersedes=self.claim.id,
            withdrawn=not self.claim.withdrawn,
        )
        return EnterClaim(turned, f"{self.undo_id}-again")

    def renewed(self, new_id: str) -> Command:
        again = replace(self.claim, id=new_id, supersedes=self.undo_id)
        return replace(self, claim=again, undo_id=f"{new_id}-undone")


@dataclass(frozen=True)
class SetFactor(Command):
    """Enter the design factor with its source."""

    factor: DesignFactorEntry
    undo_id: str
    earlier: DesignFactorEntry | None = None
    title: str = "enter the design factor"

    def apply(self, connection: Connection) -> Changes:
        briefs.insert_factor(connection, self.factor)
        return Changes(frozenset({"design_factor"}), (self.factor.id,))

    def inverse(self) -> Command | None:
        if self.earlier is None:
            back = replace(self.factor, id=self.undo_id, withdrawn=not self.factor.withdrawn)
        else:
            back = replace(self.earlier, id=self.undo_id, made_at=self.factor.made_at)
        return SetFactor(back, f"{self.undo_id}-again", self.factor)

    def renewed(self, new_id: str) -> Command:
        return replace(self, factor=replace(self.factor, id=new_id), undo_id=f"{new_id}-undone")
