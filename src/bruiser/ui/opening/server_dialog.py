"""A campaign on a server: its address, and a password where one is wanted."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QDialog, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from bruiser.core.errors import InputError
from bruiser.store.server.address import read_address
from bruiser.ui.kit.fields import ChoiceField, Field
from bruiser.ui.kit.parts import Words, button
from bruiser.ui.theme.tokens import SPACE

_WIDTH = 560
ABOUT = (
    "A laboratory keeps a campaign in a PostgreSQL database, and several benches record into it at "
    "once. Whoever keeps the server says its address and what your role may do."
)
LINES = {
    "": "as the address says",
    "verify-full": "encrypted, and the server proves who it is (verify-full)",
    "require": "encrypted (require)",
}
BEGIN, PUT = "Begin one there", "Put this campaign there"


class ServerDialog(QDialog):
    """Emits the address and a password (empty for none) when it is to be tried.

    Parameters
    ----------
    address : str
        As known so far.
    words : str
        What the dialog is for.
    deed : str
        What the button says.
    """

    wanted = pyqtSignal(object, str, bool)

    def __init__(
        self,
        address: str = "",
        words: str = ABOUT,
        deed: str = "Open",
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.setObjectName("server")
        self.setWindowTitle("A campaign on a server")
        self.setMinimumWidth(_WIDTH)
        self.address = Field("Address", "server.address", hint="postgresql://mara@lab/ridge")
        self.line = ChoiceField("The line to it", "server.line", LINES)
        self.password = Field("Password, where one is wanted", "server.password")
        self.password.entry.setEchoMode(QLineEdit.EchoMode.Password)
        self.keep = QCheckBox("Keep the password in this system's keyring")
        self.keep.setObjectName("server.keep")
        self.keep.setAccessibleName(self.keep.text())
        self.said = Words("", "small", "brick")
        self.said.setObjectName("server.said")
        self.go = button(deed, "server.go", "primary")
        self.cancel = button("Cancel", "server.cancel")
        self.address.fill(address)
        self._build(words)
        (self.password if address else self.address).focus()

    def _build(self, words: str) -> None:
        column = QVBoxLayout(self)
        column.setSpacing(SPACE["s"])
        column.addWidget(Words("A campaign on a server", "title"))
        column.addWidget(Words(words, "body", "muted"))
        for part in (self.address, self.line, self.password, self.keep, self.said):
            column.addWidget(part)
        buttons = QHBoxLayout()
        buttons.addStretch(1)
        buttons.addWidget(self.cancel)
        buttons.addWidget(self.go)
        column.addLayout(buttons)
        self.go.setDefault(True)
        self.cancel.setAutoDefault(False)
        self.go.clicked.connect(self._on_go)
        self.cancel.clicked.connect(self.reject)

    def _on_go(self) -> None:
        self.say("")
        try:
            address = read_address(self.address.text)
            if self.line.text:
                address = address.with_option("sslmode", self.line.text)
        except InputError as error:
            self.address.complain(str(error))
            return
        self.address.complain("")
        self.wanted.emit(address, self.password.text, self.keep.isChecked())

    def wait(self, words: str) -> None:
        """Say what is waited for; it can be cancelled."""
        self.say("")
        self.said.say(words, "muted")
        self.said.setVisible(True)
        self.go.setEnabled(False)

    def say(self, text: str, *, password: bool = False) -> None:
        """Say what went wrong, with the password or with what was asked; and stay."""
        self.go.setEnabled(True)
        self.said.say(text, "brick")
        self.said.setVisible(bool(text))
        if text:
            (self.password if password else self.address).focus()
