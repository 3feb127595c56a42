"""Campaigns begun: a new one, one in an empty database, and one that goes on from another."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QMainWindow

from bruiser.app.window import MainWindow
from bruiser.core.errors import BruiserError
from bruiser.store.places import Place
from bruiser.store.server.address import ServerAddress
from bruiser.ui.opening.new_dialog import NewDialog
from bruiser.ui.runtime.preferences import Preferences
from bruiser.workshop.course.new_campaign import NewCampaign, continue_campaign, make_campaign


class BeginHolder(Protocol):
    """Who has the window."""

    window: MainWindow | None
    preferences: Preferences

    @property
    def shown(self) -> QMainWindow | None:
        """The window that is there."""

    def say(self, text: str) -> None:
        """Say something in it."""

    def open(self, path: Place, *, lead: str = "") -> bool:
        """Open a campaign."""


class BeginActs(QObject):
    """Asks what a campaign is to be called, makes it and opens it at its brief.

    Parameters
    ----------
    holder : BeginHolder
        Whoever holds the window.
    """

    def __init__(self, holder: BeginHolder, parent: QObject) -> None:
        super().__init__(parent)
        self._holder = holder

    def ask(self) -> None:
        """Ask for a new campaign."""
        self._ask("New campaign", make_campaign)

    def ask_at(self, address: ServerAddress) -> None:
        """Ask for the title of a campaign to begin in an empty database."""
        self._ask("New campaign on a server", make_campaign, address=address)

    def ask_next(self) -> None:
        """Ask for a campaign that goes on from the one that is open."""
        window = self._holder.window
        if window is not None:
            self._ask(
                "The next campaign",
                lambda draft: continue_campaign(window.workshop, draft),
                (window.workshop.units.force, window.workshop.units.length),
                window.workshop.campaign.trade,
            )

    def _ask(
        self,
        heading: str,
        make: Callable[[NewCampaign], Place],
        units: tuple[str, str] | None = None,
        trade: str = "",
        address: ServerAddress | None = None,
    ) -> None:
        holder, prefer = self._holder, self._holder.preferences
        dialog = NewDialog(
            prefer.campaigns,
            units or (prefer.force, prefer.length),
            trade or prefer.trade,
            heading=heading,
            address=address,
            parent=holder.shown,
        )

        def wanted(draft: NewCampaign) -> None:
            try:
                path = make(draft)
            except BruiserError as error:
                holder.say(str(error))
                return
            holder.open(path, lead="brief")

        dialog.wanted.connect(wanted)
        dialog.open()
