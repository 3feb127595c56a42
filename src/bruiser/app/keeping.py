"""Nothing is closed over what is not stored: the questions asked, and what the answers do."""

from __future__ import annotations

from collections.abc import Callable
from enum import Enum
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QFileDialog, QMessageBox, QWidget

from bruiser.core.errors import BruiserError, Gone
from bruiser.core.progress import no_progress
from bruiser.core.words import count
from bruiser.ui.runtime.tasks import TaskRunner
from bruiser.workshop.bench.pull_end import close_interrupted_pulls
from bruiser.workshop.logbook.workshop import Workshop

if TYPE_CHECKING:
    from bruiser.ui.stations.pull.presenter import PullPresenter


class KeepAnswer(Enum):
    """What the person wants done with what is not stored."""

    STAY = "Stay"
    AGAIN = "Try again"
    SAMPLES = "Save the samples in a file …"
    CAMPAIGN = "Save the campaign under a new name …"
    CLOSE = "Close all the same"


def ask(parent: QWidget, title: str, text: str, answers: tuple[KeepAnswer, ...]) -> KeepAnswer:
    """Ask; Esc and the first answer stay."""
    box = QMessageBox(QMessageBox.Icon.Warning, title, text, parent=parent)
    box.setObjectName("window.unsaved")
    buttons = [box.addButton(a.value, QMessageBox.ButtonRole.ActionRole) for a in answers]
    box.setDefaultButton(buttons[0])
    box.setEscapeButton(buttons[0])
    box.exec()
    pressed = box.clickedButton()
    return next((a for a, b in zip(answers, buttons, strict=True) if b is pressed), KeepAnswer.STAY)


def may_leave_the_pull(parent: QWidget, pull: PullPresenter) -> bool:
    """Ask before leaving a pull that is under way.

    Its travel is halted meanwhile; only Yes disarms the bench, and after No the pull goes on from
    where it stands.
    """
    if not pull.loaded:
        return True
    pull.interrupt()
    if pull.unsaved:
        return True
    answer = QMessageBox.question(
        parent,
        "A pull is under way",
        "The travel is halted; the load may still be on.\n"
        "Yes disarms the bench and closes Bruiser: what was recorded is kept and waits in "
        "Findings. No goes on with the pull.",
        QMessageBox.StandardButton.Yes | QMessageBox.StandardButton.No,
        QMessageBox.StandardButton.No,
    )
    return answer == QMessageBox.StandardButton.Yes


def let_go_of_the_bench(parent: QWidget, pull: PullPresenter, workshop: Workshop) -> bool:
    """End the pull under way before the window closes; False where the window has to stay."""
    while True:
        try:
            pull.abandon()
        except BruiserError as error:
            other = (KeepAnswer.CAMPAIGN,) if isinstance(error, Gone) else ()
            text = (
                f"{error}\n\n{pull.unsaved or 'The'} samples of this pull are in memory only. "
                "Bruiser stays open until they are stored or saved in a file."
            )
            answers = (KeepAnswer.STAY, KeepAnswer.AGAIN, KeepAnswer.SAMPLES, *other)
            answer = ask(parent, "Not stored yet", text, answers)
            if answer is KeepAnswer.SAMPLES:
                if save_samples(parent, pull):
                    pull.drop()
                    return True
            elif answer is KeepAnswer.CAMPAIGN:
                save_campaign(parent, workshop)
            elif answer is not KeepAnswer.AGAIN:
                return False
        else:
            return True


def may_leave_the_file(parent: QWidget, workshop: Workshop) -> bool:
    """Ask before closing over a file that was deleted or replaced."""
    try:
        workshop.file.look()
    except Gone as error:
        answers = (KeepAnswer.STAY, KeepAnswer.CAMPAIGN, KeepAnswer.CLOSE)
        answer = ask(parent, "The file is gone", str(error), answers)
        if answer is KeepAnswer.CAMPAIGN:
            return save_campaign(parent, workshop) is not None
        return answer is KeepAnswer.CLOSE
    return True


def save_samples(parent: QWidget, pull: PullPresenter) -> bool:
    """Write the samples in memory to a file that the person names."""
    name, _ = QFileDialog.getSaveFileName(
        parent, "Save the samples", "trace.csv", "Trace file (*.csv)"
    )
    return bool(name) and pull.save_elsewhere(Path(name))


def save_campaign(parent: QWidget, workshop: Workshop) -> Path | None:
    """Write the open campaign to a file that the person names, and go on there."""
    name, _ = QFileDialog.getSaveFileName(
        parent, "Save the campaign under a new name", "", "Campaign (*.bruiser)"
    )
    if not name:
        return None
    target = Path(name)
    if not target.suffix:
        target = target.with_suffix(".bruiser")
    workshop.file.save_as(target)
    return target


def end_interrupted_pulls(workshop: Workshop) -> tuple[tuple[str, ...], list[str]]:
    """End pulls that were cut off: their ids, and what could not be ended, in words."""
    try:
        return close_interrupted_pulls(workshop), []
    except BruiserError as error:
        return (), [f"A pull that was cut off could not be ended: {error}"]


def look_through_pages(tasks: TaskRunner, workshop: Workshop, say: Callable[[str], None]) -> None:
    """Look through the pages of a large file beside the work; what is wrong with it is said."""
    file = workshop.file

    def looked(wrong: str) -> None:
        if wrong:
            say(
                f"{file.path.name} is damaged: {wrong}. What can be read is shown; store nothing "
                "more in it. See “Look for damage”."
            )

    def failed(error: Exception) -> None:
        say(f"{file.path.name} could not be looked through: {error}")

    if file.unchecked:
        tasks.run_watched("pages", file.look_through_pages, looked, failed, no_progress, aside=True)


def set_aside_words(workshop: Workshop) -> list[str]:
    """What could not be read, in one line; “Look for damage” in the menu shows all of it."""
    found = list(workshop.file.set_aside.values())
    if not found:
        return []
    rows = count(len(found), "row")
    return [f"{rows} could not be read and set aside: {found[0]} See “Look for damage”."]
