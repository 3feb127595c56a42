"""A pull that was cut off: the load may still be on, until somebody says that they looked."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QWidget

from bruiser.ui.kit.parts import Card, Words, button


class LoadMayBeOn(Card):
    """Stands above everything else in Findings until it is confirmed."""

    def __init__(self) -> None:
        super().__init__("THE LOAD MAY STILL BE ON: LOOK", caution=True)
        self.setObjectName("findings.loaded")
        self.column.addWidget(
            Words(
                "The recording of this pull was cut off; nobody took the load off from here. "
                "Look at the bench from beside the lane, take the load off by its own means, then "
                "go on.",
                "body",
            )
        )
        self.looked = button("I looked: the load is off", "findings.looked", bench=True)
        self.wrong = Words("", "small", "brick")
        self.wrong.setObjectName("findings.loaded.wrong")
        self.column.addWidget(self.looked, 0, Qt.AlignmentFlag.AlignLeft)
        self.column.addWidget(self.wrong)

    def come_first(self, looks: bool, rest: QWidget) -> None:
        """Stand before the rest while somebody has to look."""
        self.setVisible(looks)
        rest.setVisible(not looks)
