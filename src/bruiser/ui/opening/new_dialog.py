"""A new campaign: title, where it is kept, units and trade; nothing else."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QDialog, QFileDialog, QHBoxLayout, QVBoxLayout, QWidget

from bruiser.core.records.families import TRADES
from bruiser.store.server.address import ServerAddress
from bruiser.ui.kit.fields import ChoiceField, Field
from bruiser.ui.kit.parts import Words, button
from bruiser.ui.theme.tokens import SPACE
from bruiser.workshop.course.new_campaign import (
    FORCES,
    LENGTHS,
    NewCampaign,
    check,
    file_name,
    with_suffix,
)

UNITS = {f"{f} {m}": f"{f} and {m}" for f in FORCES for m in LENGTHS}
_WIDTH = 520


class NewDialog(QDialog):
    """Emits a draft that was found right; the file name follows the title until it is typed."""

    wanted = pyqtSignal(object)

    def __init__(
        self,
        folder: Path,
        units: tuple[str, str],
        trade: str,
        *,
        heading: str = "New campaign",
        address: ServerAddress | None = None,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.setObjectName("new")
        self.setWindowTitle(heading)
        self.setMinimumWidth(_WIDTH)
        self._folder, self._named, self._replace = folder, False, False
        self.title = Field("Title", "new.title", hint="Tether loops in 8 mm cord")
        self.place = Field("Kept in", "new.place")
        self.units = ChoiceField("Units", "new.units", UNITS)
        self.trade = ChoiceField("Knot names as in", "new.trade", {t: t for t in TRADES})
        self.browse = button("Choose …", "new.browse", "chip")
        self.make = button("Make it", "new.make", "primary")
        self.cancel = button("Cancel", "new.cancel")
        self.units.fill(" ".join(units))
        self.trade.fill(trade)
        self.place.fill(str(address or folder / file_name("campaign")))
        self._address = address
        if address is not None:
            self._named = True
            self.place.entry.setReadOnly(True)
            self.browse.hide()
        self._build(heading)

    def _build(self, heading: str) -> None:
        column = QVBoxLayout(self)
        column.setSpacing(SPACE["s"])
        column.addWidget(Words(heading, "title"))
        column.addWidget(self.title)
        place = QHBoxLayout()
        place.addWidget(self.place, 1)
        place.addWidget(self.browse)
        column.addLayout(place)
        pair = QHBoxLayout()
        pair.addWidget(self.units)
        pair.addWidget(self.trade)
        column.addLayout(pair)
        buttons = QHBoxLayout()
        buttons.addStretch(1)
        buttons.addWidget(self.cancel)
        buttons.addWidget(self.make)
        column.addLayout(buttons)
        self.make.setDefault(True)
        self.cancel.setAutoDefault(False)
        self.browse.setAutoDefault(False)
        self.make.clicked.connect(self._on_make)
        self.cancel.clicked.connect(self.reject)
        self.browse.clicked.connect(self._on_browse)
        self.title.entry.textEdited.connect(self._follow)
        self.place.entry.textEdited.connect(self._on_named)

    def _follow(self, title: str) -> None:
        if not self._named:
            self.place.fill(str(self._folder / file_name(title)))
        self._forget_asking()

    def _on_named(self) -> None:
        self._named = True
        self._forget_asking()

    def _forget_asking(self) -> None:
        self._replace = False
        self.make.setText("Make it")

    def _on_browse(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self,
            "Where the campaign is kept",
            self.place.text,
            "Campaign (*.bruiser)",
            options=QFileDialog.Option.DontConfirmOverwrite,
        )
        if name:
            self.place.fill(name)
            self._on_named()

    @property
    def draft(self) -> NewCampaign:
        """What is typed."""
        force, length = self.units.text.split()
        return NewCampaign(
            title=self.title.text,
            path=Path(self.place.text.strip()).expanduser(),
            force=force,
            length=length,
            trade=self.trade.text,
            replace=self._replace,
            address=self._address,
        )

    def _on_make(self) -> None:
        self._look()

    def _look(self) -> None:
        draft = self.draft
        errors = check(draft)
        for field, widget in (("title", self.title), ("path", self.place)):
            widget.complain(errors.get(field, ""))
        path = with_suffix(draft.path)
        if set(errors) == {"path"} and path.is_file():
            # Never overwritten without asking: the second press says yes.
            self.place.complain(f"{errors['path']} It would be kept as an earlier one.", "ochre")
            self._replace = True
            self.make.setText("Set it aside and make this one")
            return
        if not errors:
            self.accept()
            self.wanted.emit(draft)
