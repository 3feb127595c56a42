"""Decides what the guide station shows of publishing: drafts, checks, releases, files."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path
from typing import TypeVar

from PyQt6.QtCore import pyqtSignal

from bruiser.core.choice.guide import Blocking, Guide
from bruiser.core.errors import BruiserError, InputError, StoreError
from bruiser.core.progress import Progress
from bruiser.formats.guide_figures import PrintStyle
from bruiser.formats.guide_files import FILES, as_bytes
from bruiser.formats.guide_pages import guide_html
from bruiser.formats.pdf import html_to_pdf_watched
from bruiser.store.guides import Revision
from bruiser.ui.runtime.desk import Desk
from bruiser.ui.stations.guide.presenter import GuidePresenter
from bruiser.ui.theme.tokens import CHALK, TEXT_MM
from bruiser.workshop.guide.choosing import fill_shelf, lots_tested
from bruiser.workshop.guide.content import Wanted, data_revision
from bruiser.workshop.guide.publishing import (
    check_guide,
    draft_guide,
    keep_draft,
    keep_release,
    read_guide,
    release_ready,
    released_pages,
)
from bruiser.workshop.logbook.logbook import Logbook

TASK = "publish"
STYLE = PrintStyle(CHALK, TEXT_MM)
LIVE = "live"
T = TypeVar("T")


class PublishPresenter(Desk):
    """Revisions of the guide, what stands in their way, and their files."""

    pages_ready = pyqtSignal()
    working = pyqtSignal(int, int)
    told = pyqtSignal(str)

    def __init__(self, choosing: GuidePresenter) -> None:
        super().__init__(choosing.workshop)
        self.choosing = choosing
        self._tasks = choosing.tasks
        self.wanted = Wanted()
        self.selected = LIVE
        self.guide: Guide | None = None
        self.pdf: bytes | None = None
        self.busy = False
        self._state: tuple[Logbook, str] | None = None

    @property
    def revisions(self) -> tuple[Revision, ...]:
        """Every revision, oldest first."""
        return self.choosing.book.revisions

    @property
    def revision(self) -> Revision | None:
        """The revision looked at; None for the guide as it would be now."""
        return next((r for r in self.revisions if r.row.id == self.selected), None)

    def rows(self) -> list[tuple[str, str, str, str]]:
        """Revisions as a list: key, name, line under it, mark; what would be next comes first."""
        found = [(LIVE, "As it is now", "not frozen yet", "")]
        now = self._state_of_the_data()
        for r in reversed(self.revisions):
            who = "" if r.checked is None else f", checked by {r.checked.by}"
            same = "" if now in ("", r.row.data_revision) else ", pulls came since"
            under = f"{r.row.made_at[:10]}{who}{same}"
            found.append((r.row.id, f"Revision {r.row.revision}", under, r.state))
        return found

    def _state_of_the_data(self) -> str:
        """Its name, once it is known: every pull is looked at for it, off the interface thread."""
        logbook = self.choosing.logbook
        if logbook is None or not self.revisions:
            return ""
        if self._state is None or self._state[0] is not logbook:
            self._state = logbook, ""

            def known(name: str) -> None:
                if self._state is not None and self._state[0] is logbook:
                    self._state = logbook, name
                    self.changed.emit()

            self._tasks.run("data", lambda: data_revision(logbook), known, self.work_failed)
        return self._state[1]

    def uses(self) -> list[tuple[str, str]]:
        """Uses that can be written about."""
        return self.choosing.uses()

    def lots(self) -> list[tuple[str, str]]:
        """Cordages in which something was pulled."""
        shelf = self.choosing.shelf
        rows = () if shelf is None else lots_tested(shelf)
        return [(lot.id, f"{lot.name}, {lot.condition}") for lot in rows]

    def want(self, uses: tuple[str, ...], lots: tuple[str, ...], scope: str) -> None:
        """Say what the guide is to hold."""
        self.wanted = Wanted(
            uses=uses, lot_ids=lots, scope=scope.strip(), school=self.choosing.school
        )

    def select(self, key: str) -> None:
        """Look at another revision."""
        self.selected = key
        self.guide, self.pdf = None, None
        revision = self.revision
        if revision is not None:
            self.attempt(lambda: self._take_up(revision))
        self.changed.emit()

    def _take_up(self, revision: Revision) -> None:
        self.guide = read_guide(self.workshop, revision)
        pages = released_pages(self.workshop, revision)
        if pages is not None:
            self.pdf = pages[1]
            self.pages_ready.emit()

    def blocking(self) -> tuple[Blocking, ...]:
        """What stands in the way of releasing the revision looked at."""
        return () if self.guide is None else self.guide.blocking

    def changes_words(self) -> str:
        """What changed since the revision before the one looked at."""
        since = None if self.guide is None else self.guide.changes
        if since is None:
            return ""
        lines = [f"Since revision {since.revision}: {' '.join(since.lines)}"]
        lines += [f"{m.knot} in {m.lot}: {m.before} before, {m.now} now." for m in since.moved]
        if not since.moved:
            lines.append("No number moved beyond its interval.")
        if since.new:
            lines.append(f"New: {len(since.new)} ratings.")
        if since.gone:
            lines.append(f"No longer there: {len(since.gone)} ratings.")
        return "\n".join(lines)

    def _draft(self, progress: Progress) -> Guide:
        """The guide as it would be now."""
        p = self.choosing
        if p.logbook is None:
            raise InputError("Nothing to write about yet.")
        shelf = fill_shelf(p.logbook, self.wanted.lot_ids, p.memory, progress)
        return draft_guide(self.workshop, shelf, p.book, self.wanted, progress)

    def _run(
        self,
        work: Callable[[Progress], T],
        receive: Callable[[T], None],
        *,
        aside: bool = False,
    ) -> None:
        """Do long work; whatever goes wrong ends it and is shown."""

        def ended() -> None:
            self.busy = False
            self.working.emit(1, 1)

        def received(result: T) -> None:
            ended()
            receive(result)
            self.changed.emit()

        def failed(error: Exception) -> None:
            ended()
            self.work_failed(error)
            self.changed.emit()

        self.busy = True
        self.working.emit(0, 1)
        self.changed.emit()
        self._tasks.run_watched(TASK, work, received, failed, self.working.emit, aside=aside)

    def _print(self, html: str, receive: Callable[[bytes], None]) -> None:
        """Have a page printed by a process of its own, while other work goes on."""
        self._run(lambda progress: html_to_pdf_watched(html, progress), receive, aside=True)

    def cancel(self) -> None:
        """Stop what is under way; nothing of it is kept."""
        self._tasks.cancel(TASK)
        self.busy = False
        self.working.emit(1, 1)
        self.told.emit("Stopped; nothing was written.")
        self.changed.emit()

    def preview(self) -> None:
        """Make the pages of what is looked at, to be seen here."""
        known = self._frozen()

        def work(progress: Progress) -> tuple[Guide, str]:
            guide = known or self._draft(progress)
            return guide, guide_html(guide, STYLE)

        def made(found: tuple[Guide, str]) -> None:
            guide, html = found

            def printed(pdf: bytes) -> None:
                self.guide, self.pdf = guide, pdf
                self.pages_ready.emit()

            self._print(html, printed)

        self._run(work, made)

    def make_revision(self) -> None:
        """Freeze the guide as it is now as the next revision."""

        def receive(made: Guide) -> None:
            revision = keep_draft(self.workshop, made)
            self.select(revision.row.id)
            self.told.emit(f"Revision {made.revision} is frozen as a draft.")

        self._run(self._draft, receive)

    def check(self, initials: str) -> str:
        """Say who read the revision looked at; returns what is wrong with the initials."""
        revision = self.revision
        if revision is None:
            return ""
        try:
            check_guide(self.workshop, revision, initials)
        except InputError as error:
            return str(error)
        except BruiserError as error:
            self.failed.emit(error)
        self.select(self.selected)
        return ""

    def release(self, reasons: Mapping[str, str]) -> dict[str, str]:
        """Release the revision looked at; returns what is wrong, by what stands in the way."""
        revision = self.revision
        if revision is None:
            return {}
        try:
            made, row = release_ready(self.workshop, revision, reasons, "")
        except InputError as error:
            return {error.where: "Give the reason that is printed in the guide."}
        except BruiserError as error:
            self.failed.emit(error)
            return {}

        def print_it(html: str) -> None:
            def printed(pdf: bytes) -> None:
                keep_release(self.workshop, row, html, pdf)
                self.select(self.selected)
                self.told.emit(f"Revision {made.revision} is released; its pages are kept.")

            self._print(html, printed)

        self._run(lambda _: guide_html(made, STYLE), print_it)
        return {}

    def export(self, kind: str, path: Path) -> None:
        """Write a file of what is looked at."""
        file = FILES[kind]
        path = path if path.suffix else path.with_suffix(file.suffix)
        known, pages = self._frozen(), self._released()
        if kind in ("pdf", "html") and pages is not None:
            self._write(path, as_bytes(pages[1] if file.printed else pages[0]))
            return

        def work(progress: Progress) -> str | bytes:
            return file.make(known or self._draft(progress), STYLE)

        def made(content: str | bytes) -> None:
            if file.printed:
                self._print(str(content), lambda pdf: self._write(path, pdf))
            else:
                self._write(path, as_bytes(content))

        self._run(work, made)

    def _frozen(self) -> Guide | None:
        """The revision looked at; None for the guide as it is now, which is made anew each time."""
        return None if self.revision is None else self.guide

    def _write(self, path: Path, content: bytes) -> None:
        try:
            path.write_bytes(content)
        except OSError as error:
            self.failed.emit(StoreError(f"{path.name} was not written: {error.strerror}."))
            return
        self.told.emit(f"Written: {path.name}.")

    def _released(self) -> tuple[str, bytes] | None:
        revision = self.revision
        return None if revision is None else released_pages(self.workshop, revision)
