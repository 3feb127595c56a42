"""The tour of the demo: six stops on the real controls, skippable, shown once."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

from PyQt6.QtCore import QPoint, Qt, QTimer
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QVBoxLayout, QWidget

from bruiser.ui.kit.parts import Words, button
from bruiser.ui.theme.tokens import SPACE

_WIDTH, _LOOK_MS = 330, 150


@dataclass(frozen=True, kw_only=True)
class TourStop:
    """One stop: the station, the control it stands at, and what is said there."""

    station: str
    control: str
    heading: str
    words: str


STOPS = (
    TourStop(
        station="brief",
        control="brief.question",
        heading="A question first",
        words="A campaign is one file with one question. What would pass is written down before "
        "the pulls, and every change of it stays on record.",
    ),
    TourStop(
        station="plan",
        control="plan.queue",
        heading="Straight pulls, then knots",
        words="Every share is of the plain rope of the same lot, so five straight pulls come "
        "first. The order is shuffled, and what a plan costs in cord and hours stands beside it.",
    ),
    TourStop(
        station="pull",
        control="pull.arm",
        heading="At the bench",
        words="Confirm the lane, arm, and hold Space to pull; letting go stops the travel with the "
        "load on. Esc stops from anywhere.",
    ),
    TourStop(
        station="findings",
        control="findings",
        heading="What lay on the bench",
        words="Tap where it gave, type what the tails drew and what untying took. A knot that did "
        "not give counts as at least what it held.",
    ),
    TourStop(
        station="results",
        control="results.chart",
        heading="What the pulls say",
        words="A bar is what these pulls leave open, a tick the typical value, and every mark one "
        "pull: press it and its trace opens.",
    ),
    TourStop(
        station="guide",
        control="guide",
        heading="For others to use",
        words="Knots are chosen for a use; what was not measured is not ranked. A revision is "
        "frozen, checked by a second person, and printed.",
    ),
)


class Toured(Protocol):
    """The window that is shown."""

    def go_to(self, key: str) -> None:
        """Show a station."""


class Tour(QFrame):
    """A small card that stands at one control after another."""

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self.setObjectName("tour")
        self.setProperty("card", "true")
        self.setFixedWidth(_WIDTH)
        self._window, self.at = window, 0
        self.heading, self.words = Words("", "strong"), Words("", "body", "muted")
        self.skip = button("Skip", "tour.skip", "chip")
        self.next = button("Next", "tour.next", "primary")
        column = QVBoxLayout(self)
        column.setSpacing(SPACE["s"])
        column.addWidget(self.heading)
        column.addWidget(self.words)
        row = QHBoxLayout()
        row.addWidget(self.skip)
        row.addStretch(1)
        row.addWidget(self.next)
        column.addLayout(row)
        self.skip.clicked.connect(self.end)
        self.next.clicked.connect(self._on_next)

    def begin(self) -> None:
        """Stand at the first stop."""
        self.at = 0
        self.show()
        self._stand()
        self.raise_()
        self.next.setFocus(Qt.FocusReason.OtherFocusReason)

    def _stand(self) -> None:
        stop = STOPS[self.at]
        window = self._window
        getattr(window, "go_to")(stop.station)  # noqa: B009  (the window is any that can go)
        self.heading.say(f"{self.at + 1} of {len(STOPS)} · {stop.heading}")
        self.words.say(stop.words)
        self.next.setText("Done" if self.at == len(STOPS) - 1 else "Next")
        self.adjustSize()
        self._place()

    def _place(self) -> None:
        """Stand below the control, in the middle until it is there."""
        if not self.isVisibleTo(self._window):
            return
        stop, window = STOPS[self.at], self._window
        control = window.findChild(QWidget, stop.control)
        if control is None or not control.isVisible():
            # What is drawn from results comes when they are worked out.
            QTimer.singleShot(_LOOK_MS, self._place)
        place = QPoint(window.width() // 2, window.height() // 3)
        if control is not None and control.isVisible():
            below = control.mapTo(window, QPoint(0, control.height() + SPACE["s"]))
            place = QPoint(below.x(), below.y())
        x = max(0, min(place.x(), window.width() - self.width() - SPACE["l"]))
        y = max(0, min(place.y(), window.height() - self.height() - SPACE["l"]))
        self.move(x, y)

    def _on_next(self) -> None:
        if self.at == len(STOPS) - 1:
            self.end()
            return
        self.at += 1
        self._stand()
        self.raise_()
        self.next.setFocus(Qt.FocusReason.OtherFocusReason)

    def end(self) -> None:
        """Take it away."""
        self.hide()
        self.deleteLater()
