"""A station that is not built yet: one line that says what will live there."""

from __future__ import annotations

from bruiser.ui.kit.parts import Card, StationPage, Words


class WaitingRoom(StationPage):
    """Stands in for a station until it is built."""

    def __init__(self, key: str, name: str, line: str) -> None:
        super().__init__(key)
        self.title.say(name)
        self.subtitle.say("not built yet")
        card = Card()
        card.column.addWidget(Words(line, "body", "muted"))
        self.body.addWidget(card)
        self.body.addStretch(1)
