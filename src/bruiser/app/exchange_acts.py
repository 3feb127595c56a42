"""What the menu does with the campaign as a whole: out, merged, copied, looked through."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import TYPE_CHECKING, Protocol

from PyQt6.QtCore import QObject, Qt, QTimer
from PyQt6.QtWidgets import QFileDialog, QMainWindow, QMessageBox

from bruiser.core.errors import BruiserError
from bruiser.store.backups import (
    BackupSchedule,
    BackupWhy,
    is_due,
    keep_backup,
    list_backups,
    read_schedule,
    write_schedule,
)
from bruiser.ui.runtime.desk import said_of
from bruiser.ui.runtime.tasks import TaskRunner

if TYPE_CHECKING:
    from bruiser.app.window import MainWindow
    from bruiser.workshop.exchange.merging import Choices, Merged
    from bruiser.workshop.exchange.rescuing import CheckUp


NOT_PUT_BACK = (
    "A copy is not put into the place of a campaign on a server, where others work. Open the copy "
    "as a file, or have whoever keeps the server restore a dump."
)


def _folder(window: MainWindow) -> Path:
    """The folder to begin with where a file is asked for."""
    file = window.workshop.file
    return Path.home() if file.shared else file.path.parent


class Holder(Protocol):
    """Who holds the one window there is, and can open another campaign in it."""

    window: MainWindow | None
    refused: str

    @property
    def shown(self) -> QMainWindow | None:
        """The window that is there."""

    def say(self, text: str) -> None:
        """Say something in the window that is there."""

    def leave(self) -> bool:
        """Close the campaign that is open; False where it has to stay."""

    def open(self, path: Path) -> bool:
        """Open a campaign."""

    def reopen(self, place: str) -> None:
        """Open anew what is open."""

    def show_start(self, words: str = "") -> None:
        """Show the start page."""


HOUR_MS = 3_600_000
_CAMPAIGNS = "Campaign (*.bruiser);;Data Package (datapackage.json)"


class ExchangeActs(QObject):
    """The acts, over the opener, which closes and opens the window where the file changes."""

    def __init__(self, holder: Holder, tasks: TaskRunner, parent: QObject) -> None:
        super().__init__(parent)
        self._opener, self._tasks = holder, tasks
        self._hourly = QTimer(self)
        self._hourly.setInterval(HOUR_MS)
        self._hourly.timeout.connect(self.copy_if_due)
        self._hourly.start()

    @property
    def _window(self) -> MainWindow | None:
        return self._opener.window

    def _run(self, key: str, work: Callable[[], object], receive: Callable[..., None]) -> None:
        tasks = self._tasks if self._window is None else self._window.tasks
        tasks.run(key, work, receive, self._failed)

    def _failed(self, error: Exception) -> None:
        self._opener.say(str(said_of(error)))

    def _idle(self, window: MainWindow) -> bool:
        """Whether no pull is under way, which nothing may get between."""
        if window.pull_under_way:
            window.say("A pull is under way: end it first.")
            return False
        return True

    def copy_if_due(self) -> None:
        """Keep a copy where the schedule asks for one."""
        window = self._window
        if window is None or window.workshop.read_only or window.pull_under_way:
            return
        file = window.workshop.file
        if file.shared:
            return  # Whoever keeps the server keeps its dumps.
        if is_due(file.path, datetime.now(UTC)):
            self._run(
                "copy",
                lambda: keep_backup(file.path, BackupWhy.SCHEDULED, file.copy_to),
                lambda _: None,
            )

    def export(self) -> None:
        """Write the whole campaign as a Data Package into a new folder."""
        from bruiser.workshop.exchange.packages import export_package

        window = self._window
        if window is None:
            return
        now = _folder(window) / window.workshop.file.path.stem
        name, _ = QFileDialog.getSaveFileName(
            window, "Export everything: name a new folder", str(now), "",
            options=QFileDialog.Option.DontConfirmOverwrite,
        )  # fmt: skip
        if not name:
            return
        window.say(f"Writing {Path(name).name} …")
        self._run(
            "export",
            lambda: export_package(window.workshop.file, Path(name)),
            lambda count: window.say(f"{Path(name).name}: {count} files, all that is here."),
        )

    def merge(self) -> None:
        """Ask which campaign to merge, and show what would come of it."""
        window = self._window
        if window is None or not self._idle(window):
            return
        if window.workshop.read_only:
            window.say("Read-only: nothing can be stored here.")
            return
        name, _ = QFileDialog.getOpenFileName(
            window, "Merge another campaign", str(_folder(window)), _CAMPAIGNS
        )
        if name:
            self.look_at(Path(name))

    def look_at(self, path: Path) -> None:
        """Show what merging a campaign, or the package of one, would bring."""
        from bruiser.ui.opening.merge_dialog import MergeDialog
        from bruiser.workshop.exchange.merge_files import look_at_merge, opened_other

        window = self._window
        if window is None:
            return
        source = path.parent if path.name == "datapackage.json" else path

        def look() -> Merged:
            with opened_other(source) as other:
                return look_at_merge(window.workshop.file, other)

        def show(merged: Merged) -> None:
            dialog = MergeDialog(merged, path.name, window)
            dialog.wanted.connect(lambda choices, apart: self._merge(source, choices, apart))
            dialog.open()

        window.say(f"Looking at {path.name} …")
        self._run("merge", look, show)

    def _merge(self, source: Path, choices: Choices, apart: tuple[str, ...]) -> None:
        from bruiser.workshop.exchange.merge_files import merge_into, opened_other

        window = self._window
        if window is None:
            return

        def merge() -> Merged:
            with opened_other(source) as other:
                return merge_into(window.workshop.file, other, choices, apart)

        def show(merged: Merged) -> None:
            self._opener.reopen(window.workshop.file.place)
            self._opener.say(f"Merged: {merged.words}. A copy from before is kept.")

        window.say("Merging …")
        self._run("merge", merge, show)

    def copies(self) -> None:
        """List the copies that are kept."""
        from bruiser.ui.opening.copies_dialog import CopiesDialog

        window = self._window
        if window is None:
            return
        file = window.workshop.file
        dialog = CopiesDialog(
            list_backups(file.path),
            read_schedule(file.path),
            self._compare,
            read_only=window.workshop.read_only,
            parent=window,
        )

        def keep() -> None:
            self._run(
                "copy",
                lambda: keep_backup(file.path, BackupWhy.ASKED, file.copy_to),
                lambda _: dialog.show_backups(list_backups(file.path)),
            )

        dialog.keep_wanted.connect(keep)
        dialog.restore_wanted.connect(lambda key: self._restore(Path(key)))
        dialog.schedule_chosen.connect(self._schedule)
        dialog.open()

    def _schedule(self, days: int) -> None:
        window = self._window
        if window is None:
            return
        try:
            write_schedule(window.workshop.file.path, BackupSchedule(every_days=days))
        except BruiserError as error:
            window.show_error(error)

    def _compare(self, backup: Path, say: Callable[[str], None]) -> None:
        from bruiser.store.opening import open_campaign
        from bruiser.workshop.exchange.comparing_files import compare_files, difference_words

        window = self._window
        if window is None:
            return

        def work() -> str:
            with open_campaign(backup, read_only=True) as there:
                return difference_words(compare_files(window.workshop.file, there))

        self._run("compare", work, say)

    def _restore(self, backup: Path) -> None:
        window = self._window
        if window is None or not self._idle(window):
            return
        if window.workshop.file.shared:
            window.say(NOT_PUT_BACK)
            return
        said = QMessageBox.question(
            window,
            "Put a copy back",
            f"The campaign becomes what it was in {backup.name}.\n"
            "What is there now is kept as a copy.",
        )
        if said == QMessageBox.StandardButton.Yes:
            self.restore(backup)

    def restore(self, backup: Path) -> None:
        """Put a copy in the place of the campaign, and open it."""
        from bruiser.store.restoring import put_back

        window = self._window
        if window is None:
            return
        path = window.workshop.file.path
        if not self._opener.leave():
            return
        try:
            kept = put_back(path, backup)
            said = f"It is as it was in {backup.name}. What was there is kept as {kept.name}."
        except BruiserError as error:
            said = str(error)
        if not self._opener.open(path):
            self._opener.show_start(self._opener.refused)
        self._opener.say(said)

    def check(self) -> None:
        """Look through the campaign for damage."""
        from bruiser.ui.opening.check_dialog import CheckDialog
        from bruiser.workshop.exchange.rescuing import check_campaign

        window = self._window
        if window is None:
            return
        file = window.workshop.file

        def show(found: CheckUp) -> None:
            window.say("")
            dialog = CheckDialog(found, window)
            dialog.rescue_wanted.connect(lambda: self._rescue(file.path))
            dialog.open()

        def look() -> CheckUp:
            if not file.shared:
                return check_campaign(file.path)
            with TemporaryDirectory(prefix="bruiser-checking-") as folder:
                copy = Path(folder, file.path.name)
                file.copy_to(copy)
                return check_campaign(copy)

        window.say("Looking through every row and trace …")
        self._run("check", look, show)

    def offer_rescue(self, path: Path) -> None:
        """A campaign whose tables were changed by other means: offer a clean copy of its rows."""
        box = QMessageBox(self._opener.shown)
        box.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        box.setObjectName("rescue.offer")
        box.setWindowTitle("Bruiser")
        box.setText(f"{path.name} was changed by other means and is not opened.")
        box.setInformativeText(
            "Its rows can be put into a new, clean campaign; the file itself stays as it is."
        )
        copy = box.addButton("Put them into a new campaign …", QMessageBox.ButtonRole.AcceptRole)
        box.setDefaultButton(box.addButton("Not now", QMessageBox.ButtonRole.RejectRole))
        if copy is not None:
            copy.clicked.connect(lambda: self._rescue(path))
        box.open()

    def _rescue(self, path: Path) -> None:
        from bruiser.workshop.exchange.rescuing import rescue_campaign

        window = self._window
        name, _ = QFileDialog.getSaveFileName(
            window, "Rescue into a new campaign", str(path.with_name(f"rescued {path.name}")),
            "Campaign (*.bruiser)", options=QFileDialog.Option.DontConfirmOverwrite,
        )  # fmt: skip
        if name:
            self._run(
                "check",
                lambda: rescue_campaign(path, Path(name)),
                lambda found: self._opener.say(
                    f"{Path(name).name}: {sum(found.kept.values())} rows kept, "
                    f"{sum(max(0, n) for n in found.lost.values())} lost."
                ),
            )
