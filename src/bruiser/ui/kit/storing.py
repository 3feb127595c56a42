"""Buttons that store something: in a window that may not, none of them can be pressed."""

from __future__ import annotations

from fnmatch import fnmatchcase
from weakref import WeakSet

from PyQt6 import sip
from PyQt6.QtWidgets import QPushButton
from typing_extensions import override

RELEASING = ("guide.check", "guide.release")
"""Buttons of who may check and release a guide."""
STORING = (
    *RELEASING, "*.store", "*.store_anyway", "*.anyway", "*.withdraw", "*.withdraw.*", "*.add",
    "brief.use.*", "cordage.new", "cordage.archive", "cordage.delete", "trace.keep",
    "findings.accept", "findings.holds.*", "findings.photos.*", "findings.rule.*",
    "findings.gave.*", "findings.marks", "findings.clock.*", "findings.same", "findings.jam.*",
    "guide.make", "guide.weights.keep", "guide.use.*", "guide.limits.*",
    "knots.own.*", "knots.play", "knots.archive", "knots.delete", "knots.tie.ask",
    "knots.tie.right", "knots.tie.wrong", "plan.bench.*", "plan.cuts.cut", "plan.queue",
    "plan.queue.*", "pull.instrument", "instrument.check", "results.exclude", "results.restore",
    "results.without", "pull.decided.back", "pull.ladder.next", "plan.next.*",
    "pull.tie.keep", "pull.tie.ask", "pull.inspector.keep", "pull.watch", "pull.same",
)  # fmt: skip
"""The names of buttons that store, or begin something that is only of use where it is stored."""


class _Lock:
    """Why the window that is there may not store, and not release; empty where it may."""

    def __init__(self) -> None:
        self.why = self.why_no_release = ""
        self.buttons: WeakSet[StoringButton] = WeakSet()


_lock = _Lock()


def lock_storing(why: str, why_no_release: str = "") -> None:
    """Say why nothing can be stored, or no guide released, in the window that is there."""
    _lock.why, _lock.why_no_release = why, why_no_release or why
    for made in list(_lock.buttons):
        if not sip.isdeleted(made):
            made.look()


def stores(name: str) -> bool:
    """Whether a button of this name stores something."""
    return any(fnmatchcase(name, pattern) for pattern in STORING)


class StoringButton(QPushButton):
    """Can be pressed only where what it does may be done; says why not where it may not."""

    def __init__(self, text: str, name: str) -> None:
        super().__init__(text)
        self.setObjectName(name)
        self._wanted = True
        self._tip = ""
        _lock.buttons.add(self)
        self.look()

    @override
    def setEnabled(self, a0: bool) -> None:
        """Let it be pressed, where it may."""
        self._wanted = a0
        self.look()

    def look(self) -> None:
        """Go by what may be done now."""
        why = _lock.why_no_release if self.objectName() in RELEASING else _lock.why
        super().setEnabled(self._wanted and not why)
        self.setAccessibleDescription(why)
        if why != self._tip:
            self._tip = why
            self.setToolTip(why)
