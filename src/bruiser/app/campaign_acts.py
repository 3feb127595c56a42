"""What the menu does to the campaign that is open: copies, names, lists, and leads anywhere."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtWidgets import QFileDialog, QInputDialog

from bruiser.app.actions import ACTIONS, key_list
from bruiser.app.frame import CampaignFrame
from bruiser.app.look import fill_screen, turn_theme
from bruiser.app.stations import PAGE_NAMES
from bruiser.core.errors import BruiserError
from bruiser.core.words import count
from bruiser.ui.kit.parts import StationPage
from bruiser.ui.runtime.desk import said_of
from bruiser.workshop.course.finder import FoundKind, FoundPlace, FoundPlaces, campaign_places
from bruiser.workshop.course.new_campaign import copy_campaign, rename_campaign
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.plan.plan_cells import PlanDraft
from bruiser.workshop.plan.planning import queue_plan

MOST_RECENT = 30
OWN_ACTS = (
    *("copy", "rename", "history", "goto", "logbook", "series", "bring", "traces"),
    *("theme", "fullscreen", "help", "keys", "tour"),
)
"""The actions of the menu that are done here; all others are asked of whoever opened the window."""


class CampaignActs:
    """The acts, over a window."""

    def __init__(self, window: CampaignFrame) -> None:
        self._window = window
        self._recent: list[str] = []
        self._found_in: Logbook | None = None
        self._found = FoundPlaces(())

    def plan_straight(self, lot_id: str) -> None:
        """Put straight pulls of a lot into the queue, and go to the bench."""
        window = self._window
        if window.logbook is None:
            return
        try:
            made = queue_plan(window.workshop, window.logbook, PlanDraft(lot_ids=(lot_id,)))
        except BruiserError as error:
            window.show_error(error)
            return
        window.go_to("pull")
        window.say(f"{count(len(made), 'straight pull')} in the queue.", undo=True)

    def choose_instrument(self) -> None:
        """Go to the bench, and ask what measures the load there."""
        from bruiser.ui.stations.pull.view import PullView

        self._window.go_to("pull")
        page = self._window.pages["pull"]
        if isinstance(page, PullView):
            page.choose_instrument()

    def copy(self) -> None:
        """Write a copy of the campaign where the person says."""
        window = self._window
        file = window.workshop.file
        folder = Path.home() if file.shared else file.path.parent
        start = str(folder / f"copy of {file.path.name}")
        name, _ = QFileDialog.getSaveFileName(
            window, "Save a copy", start, "Campaign (*.bruiser)",
            options=QFileDialog.Option.DontConfirmOverwrite,
        )  # fmt: skip
        if not name:
            return
        try:
            target = copy_campaign(window.workshop, Path(name))
        except BruiserError as error:
            window.show_error(error)
            return
        window.say(f"A copy was saved as {target.name}; you go on in {file.name}.")

    def rename(self) -> None:
        """Ask for another title."""
        window = self._window
        title, said = QInputDialog.getText(
            window, "Rename", "Title of the campaign", text=window.workshop.campaign.title
        )
        if not said:
            return
        try:
            rename_campaign(window.workshop, title)
        except BruiserError as error:
            window.show_error(error)

    def history(self) -> None:
        """List what can be undone, and go back to one of them."""
        from bruiser.ui.opening.undo_dialog import UndoDialog

        window = self._window
        dialog = UndoDialog(window.workshop.undo_titles, window.workshop.redo_titles, window)
        dialog.back_to.connect(self._go_back)
        dialog.open()

    def _go_back(self, steps: int) -> None:
        act = self._window.undo if steps > 0 else self._window.redo
        for _ in range(abs(steps)):
            act()

    def series(self) -> None:
        """Type a finished series."""
        from bruiser.ui.opening.series_dialog import SeriesDialog

        window = self._window
        if window.logbook is None or not window.logbook.lots_in_use:
            window.go_to("cordage")
            window.say("A series belongs to a lot: enter one first.")
            return
        if window.workshop.read_only:
            window.say("Read-only: nothing can be stored here.")
            return
        dialog = SeriesDialog(window.workshop, window.logbook, window)
        dialog.stored.connect(
            lambda n: window.say(f"{count(n, 'pull')} stored. They are in Results (F7).", undo=True)
        )
        dialog.open()

    def logbook(self) -> None:
        """Show every specimen."""
        self._window.go_to("logbook")

    def bring(self) -> None:
        """Bring in a table of pulls."""
        if self._window.workshop.read_only:
            self._window.say("Read-only: nothing can be stored here.")
            return
        self._window.go_to("bring")

    def bring_page(self) -> StationPage:
        """The page that brings tables in, made when it is first shown."""
        from bruiser.ui.opening.bring_desk import BringDesk
        from bruiser.ui.opening.bring_page import BringPage

        window = self._window
        desk = window.bring_desk = BringDesk(window.workshop, window.tasks)
        desk.failed.connect(window.show_error)
        desk.brought.connect(self._on_brought)
        if window.logbook is not None:
            desk.take_up(window.logbook)
        return BringPage(desk)

    def _on_brought(self, pulls: int) -> None:
        """A table came in: show its pulls."""
        self._window.go_to("results")
        said = f"{count(pulls, 'pull')} came in; a copy from before is kept."
        self._window.say(said, undo=True)

    def bring_file(self, path: Path) -> None:
        """Bring in a table that was dropped on the window."""
        self.bring()
        if self._window.bring_desk is not None and not self._window.workshop.read_only:
            self._window.bring_desk.read_file(path)

    def traces(self) -> None:
        """Bring in records of a logger."""
        from bruiser.ui.opening.traces_dialog import TracesDialog

        window = self._window
        if window.logbook is None or window.workshop.read_only or window.pull_under_way:
            window.say("Nothing can be stored here now.")
            return
        dialog = TracesDialog(window.workshop, window.logbook, window.tasks, window)
        dialog.stored.connect(
            lambda n: window.say(f"{count(n, 'record')} came in. Look at them in Findings (F6).")
        )
        dialog.open()

    def theme(self) -> None:
        """Light or dark."""
        turn_theme()

    def fullscreen(self) -> None:
        """Fill the screen, or not."""
        fill_screen(self._window)

    def goto(self) -> None:
        """Go to anything by any part of its name."""
        from bruiser.ui.opening.goto import GoToDialog

        dialog = GoToDialog(self.places(), self._recent, self._window, self._everything)
        dialog.chosen.connect(self.go)
        dialog.open()

    def places(self) -> FoundPlaces:
        """The stations, sheets, actions, preferences and pages one can go to."""
        from bruiser.ui.opening.preferences_dialog import PREFERENCE_WORDS
        from bruiser.ui.opening.user_guide import guide_pages
        from bruiser.ui.stations.results.sheets import SHEETS

        found = [
            FoundPlace(kind=FoundKind.STATION, key=key, words=name)
            for key, name in PAGE_NAMES.items()
        ]
        found += [
            FoundPlace(kind=FoundKind.ACTION, key=a.key, words=a.words.rstrip(" …"), also=a.keys)
            for a in ACTIONS
        ]
        found += [
            FoundPlace(kind=FoundKind.PREFERENCE, key=key, words=words)
            for key, words in PREFERENCE_WORDS.items()
        ]
        found += [
            FoundPlace(kind=FoundKind.SHEET, key=s.key, words=s.name, also=s.question)
            for s in SHEETS.values()
        ]
        found += [
            FoundPlace(kind=FoundKind.HELP, key=page.key, words=page.title, also=page.words)
            for page in guide_pages()
        ]
        return FoundPlaces(found)

    def _everything(self, take: Callable[[FoundPlaces], None]) -> None:
        """Those, and what the campaign holds; made once for each state of it, and handed over."""
        logbook, places = self._window.logbook, self.places()
        if logbook is None:
            take(places)
        elif self._found_in is logbook:
            take(self._found)
        else:

            def made(found: FoundPlaces) -> None:
                self._found_in, self._found = logbook, found
                take(found)

            self._window.tasks.run(
                "go to",
                lambda: FoundPlaces([*places.places, *campaign_places(logbook)]),
                made,
                lambda error: self._window.show_error(said_of(error)),
            )

    def go(self, place: FoundPlace) -> None:
        """Go where a place is."""
        window = self._window
        name = f"{place.kind}|{place.key}"
        self._recent = [name, *(r for r in self._recent if r != name)][:MOST_RECENT]
        match place.kind:
            case FoundKind.STATION:
                window.go_to(place.key)
            case FoundKind.ACTION:
                window.act(place.key)
            case FoundKind.PREFERENCE:
                window.act(f"preferences#{place.key}")
            case FoundKind.SHEET:
                window.go_to("results")
                window.results.show_sheet(place.key)
            case FoundKind.LOT:
                window.go_to("cordage")
                window.cordage.show_lot(place.key)
            case FoundKind.KNOT:
                window.go_to("knots")
                window.knots.show(place.key)
            case FoundKind.SPECIMEN:
                self._go_to_specimen(place)
            case FoundKind.HELP:
                self.help(place.key)

    def _go_to_specimen(self, place: FoundPlace) -> None:
        self._window.go_to("logbook")
        self._window.logbook_page.list_with(place.words.split(",")[0])

    def help(self, page: str = "") -> None:
        """The page of the user guide on what is shown, or one by its key."""
        from bruiser.ui.opening.help_dialog import HelpDialog

        HelpDialog(page or self._window.station, self._window).open()

    def keys(self) -> None:
        """The keys, in a list."""
        from bruiser.ui.kit.keys_dialog import KeysDialog

        KeysDialog(key_list(self._window.preferences.keys), self._window).open()

    def tour(self) -> None:
        """Six stops on the real controls."""
        from bruiser.ui.opening.tour import Tour

        Tour(self._window).begin()
