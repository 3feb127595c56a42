"""Commands on what is asked: settings, uses, criteria, claims, the design factor.

Criteria, claims and factors are append-only: taking one back writes another line.
"""

from __future__ import annotations

from dataclasses import dataclass

from bruiser.core.choice.brief import Claim, Criterion, DesignFactorEntry
from bruiser.store import briefs, campaigns
from bruiser.store.campaigns import CampaignRow
from bruiser.store.open_campaign import Connection
from bruiser.workshop.logbook.commands import Changes, Command


@dataclass(frozen=True)
class EditCampaign(Command):
    """Change the question, the units, or the trade whose names come first."""

    after: CampaignRow
    title: str = "change the brief"

    def apply(self, connection: Connection) -> Changes:
        campaigns.update_campaign(connection, self.after)
        return Changes(frozenset({"campaign"}), (self.after.id,))


@dataclass(frozen=True)
class ChooseUses(Command):
    """Say which uses the campaign serves."""

    uses: tuple[str, ...]
    title: str = "change the uses"

    def apply(self, connection: Connection) -> Changes:
        briefs.replace_uses(connection, self.uses)
        return Changes(frozenset({"campaign_use"}), self.uses)


@dataclass(frozen=True)
class WriteCriterion(Command):
    """Write a pass criterion, or a new version of one; the old one stays on record."""

    criterion: Criterion
    title: str = "write the pass criterion"

    def apply(self, connection: Connection) -> Changes:
        briefs.insert_criterion(connection, self.criterion)
        return Changes(frozenset({"criterion"}), (self.criterion.id,))


@dataclass(frozen=True)
class EnterClaim(Command):
    """Enter a claim to test, or withdraw one."""

    claim: Claim
    title: str = "enter the claim"

    def apply(self, connection: Connection) -> Changes:
        briefs.insert_claim(connection, self.claim)
        return Changes(frozenset({"claim"}), (self.claim.id,))


@dataclass(frozen=True)
class SetFactor(Command):
    """Enter the design factor with its source."""

    factor: DesignFactorEntry
    title: str = "enter the design factor"

    def apply(self, connection: Connection) -> Changes:
        briefs.insert_factor(connection, self.factor)
        return Changes(frozenset({"design_factor"}), (self.factor.id,))
