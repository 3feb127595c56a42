"""Campaigns on servers: opened, begun, and put there from a file."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QMainWindow

from bruiser.app.beginning import BeginActs
from bruiser.app.window import MainWindow
from bruiser.core.errors import BruiserError, NoCampaign, PasswordWanted, StoreError
from bruiser.core.progress import no_progress
from bruiser.store.places import Place, create_at
from bruiser.store.server.address import ServerAddress
from bruiser.store.server.connecting import knock
from bruiser.store.server.passwords import forget_password, keep_password, say_password
from bruiser.ui.opening.server_dialog import ABOUT, PUT, ServerDialog
from bruiser.ui.runtime.desk import said_of
from bruiser.ui.runtime.tasks import TaskRunner

EMPTY = "This database holds no campaign yet. Give it a title to begin one there."
PUT_WORDS = (
    "All of this campaign is copied into an empty database; its file stays as it is. From then on "
    "work there: what is stored in the file later does not follow by itself."
)
_KNOCK = "knock"
NO_KEYRING = "There is no keyring here that takes it: the password is forgotten when Bruiser ends."


def asking_words(address: ServerAddress) -> str:
    """What is said while a server is asked."""
    return f"Asking {address.name} …"


class ServerHolder(Protocol):
    """Who has the window."""

    window: MainWindow | None
    refused: str
    begin: BeginActs

    @property
    def shown(self) -> QMainWindow | None:
        """The window that is there."""

    def say(self, text: str) -> None:
        """Say something in it."""

    def open(self, place: Place, *, lead: str = "") -> bool:
        """Open a campaign."""

    def open_named(self, words: str) -> bool:
        """Open a campaign by its path or its address."""

    def refuse(self, place: Place | None, error: Exception) -> None:
        """Say why nothing was opened."""


class ServerActs(QObject):
    """Asks for an address and a password, and does what is wanted there.

    Parameters
    ----------
    holder : ServerHolder
        Whoever holds the window.
    tasks : TaskRunner
        What a server is asked on: where none answers, it takes seconds to know.
    """

    def __init__(self, holder: ServerHolder, tasks: TaskRunner, parent: QObject) -> None:
        super().__init__(parent)
        self._holder, self._tasks = holder, tasks

    def knock(
        self,
        address: ServerAddress,
        then: Callable[[], None],
        refused: Callable[[Exception], None],
    ) -> None:
        """Ask a server whether it lets this user in, and go on once it has answered."""
        self._tasks.run_watched(
            _KNOCK, lambda _: knock(address), lambda _: then(), refused, no_progress, aside=True
        )

    def open_listed(self, address: ServerAddress) -> None:
        """Open a campaign of the start page's list, once its server has answered."""
        holder = self._holder
        holder.say(asking_words(address))

        def answered() -> None:
            holder.say("")
            holder.open_named(str(address))

        self.knock(address, answered, lambda error: holder.refuse(address, error))

    def ask(self, address: str = "", words: str = ABOUT) -> None:
        """Ask which campaign to open."""
        self._show(ServerDialog(address, words, parent=self._holder.shown), self._open)

    def ask_password(self, address: ServerAddress, why: PasswordWanted) -> None:
        """Ask for the password of a campaign that was to be opened."""
        dialog = ServerDialog(str(address), parent=self._holder.shown)
        self._show(dialog, self._open)
        dialog.say(str(why), password=True)

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
            self._holder.begin.ask_at(address)

    def _show(self, dialog: ServerDialog, deed: Callable[[ServerAddress], None]) -> None:
        def wanted(address: ServerAddress, password: str, keep: bool) -> None:
            if password:
                say_password(address, password)

            def refused(error: Exception) -> None:
                by_password = isinstance(error, PasswordWanted)
                if by_password:
                    forget_password(address)
                dialog.say(str(said_of(error)), password=by_password)

            def go_on() -> None:
                try:
                    deed(address)
                except BruiserError as error:
                    refused(error)
                    return
                dialog.accept()
                if password and keep and not keep_password(address, password):
                    self._holder.say(NO_KEYRING)

            dialog.wait(asking_words(address))
            self.knock(address, go_on, refused)

        dialog.wanted.connect(wanted)
        dialog.finished.connect(lambda _: self._tasks.cancel(_KNOCK))
        dialog.open()
