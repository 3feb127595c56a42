"""What the presenters of the desk stations share: the campaign's units, and telling what failed."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

from bruiser.core.errors import BruiserError, Unreachable
from bruiser.core.units import UnitChoice
from bruiser.workshop.desk.lot_entry import Checked
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop


def said_of(error: Exception) -> BruiserError:
    """An error as it is shown; one that is a bug goes into a report besides."""
    if isinstance(error, BruiserError):
        return error
    return BruiserError(
        f"This failed unexpectedly ({type(error).__name__}).",
        "What was stored is safe; a report is kept.",
    )


class Desk(QObject):
    """A presenter over the open campaign; `failed` hands an error to the window.

    Every presenter is one, so that there is one way for a failure to the screen.
    """

    changed = pyqtSignal()
    failed = pyqtSignal(object)

    def __init__(self, workshop: Workshop) -> None:
        super().__init__()
        self.workshop = workshop
        self.logbook: Logbook | None = None

    @property
    def units(self) -> UnitChoice:
        """The units the campaign shows."""
        return self.workshop.units

    def work_failed(self, error: Exception) -> None:
        """Work off the interface thread has failed: say so, whatever it was."""
        self.failed.emit(said_of(error))

    def look_failed(self, error: Exception) -> None:
        """A look that nobody asked for has failed: that the server is away is said elsewhere."""
        if not isinstance(error, Unreachable):
            self.work_failed(error)

    def attempt(self, act: Callable[[], object]) -> bool:
        """Do something that may be refused; says whether it was done."""
        try:
            act()
        except BruiserError as error:
            self.failed.emit(error)
            return False
        return True

    def store_form(self, act: Callable[[], Checked]) -> Checked:
        """Store a form; an error of the store counts as nothing stored."""
        try:
            return act()
        except BruiserError as error:
            self.failed.emit(error)
            return Checked({"": str(error)})
