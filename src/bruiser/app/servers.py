"""Campaigns on servers: opened, begun, and put there from a file."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QMainWindow

from bruiser.app.window import MainWindow
from bruiser.core.errors import BruiserError, NoCampaign, PasswordWanted, StoreError
from bruiser.store.places import Place, create_at
from bruiser.store.server.address import ServerAddress
from bruiser.store.server.passwords import forget_password, keep_password, say_password
from bruiser.ui.opening.server_dialog import ABOUT, PUT, ServerDialog

EMPTY = "This database holds no campaign yet. Give it a title to begin one there."
PUT_WORDS = (
    "All of this campaign is copied into an empty database; its file stays as it is. From then on "
    "work there: what is stored in the file later does not follow by itself."
)
NO_KEYRING = "There is no keyring here that takes it: the password is forgotten when Bruiser ends."


class ServerHolder(Protocol):
    """Who has the window."""

    window: MainWindow | None
    refused: str

    @property
    def shown(self) -> QMainWindow | None:
        """The window that is there."""

    def say(self, text: str) -> None:
        """Say something in it."""

    def open(self, place: Place, *, lead: str = "") -> bool:
        """Open a campaign."""

    def ask_new_at(self, address: ServerAddress) -> None:
        """Ask for the title of a campaign to begin on a server."""


class ServerActs(QObject):
    """Asks for an address and a password, and does what is wanted there.

    Parameters
    ----------
    holder : ServerHolder
        Whoever holds the window.
    """

    def __init__(self, holder: ServerHolder, parent: QObject) -> None:
        super().__init__(parent)
        self._holder = holder

    def ask(self, address: str = "", words: str = ABOUT) -> None:
        """Ask which campaign to open."""
        self._show(ServerDialog(address, words, parent=self._holder.shown), self._open)

    def ask_password(self, address: ServerAddress, why: PasswordWanted) -> None:
        """Ask for the password of a campaign that was to be opened."""
        dialog = ServerDialog(str(address), parent=self._holder.shown)
        self._show(dialog, self._open)
        dialog.say(str(why))

    def put(self) -> None:
        """Put the open campaign into an empty database."""
        window = self._holder.window
        if window is None or window.pull_under_way:
            self._holder.say("A pull is under way: end it first.")
            return
        file = window.workshop.file

        def put(address: ServerAddress) -> None:
            create_at(address, file)
            self._open(address)

        self._show(ServerDialog("", PUT_WORDS, PUT, self._holder.shown), put)

    def _open(self, address: ServerAddress) -> None:
        try:
            if not self._holder.open(address) and self._holder.refused:
                raise StoreError(self._holder.refused)
        except NoCampaign:
            self._holder.ask_new_at(address)

    def _show(self, dialog: ServerDialog, deed: Callable[[ServerAddress], None]) -> None:
        def wanted(address: ServerAddress, password: str, keep: bool) -> None:
            if password:
                say_password(address, password)
            try:
                deed(address)
            except PasswordWanted as error:
                forget_password(address)
                dialog.say(str(error))
                return
            except BruiserError as error:
                dialog.say(str(error))
                return
            dialog.accept()
            if password and keep and not keep_password(address, password):
                self._holder.say(NO_KEYRING)

        dialog.wanted.connect(wanted)
        dialog.open()
