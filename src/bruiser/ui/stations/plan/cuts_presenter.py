"""Decides what each lot's cuts look like, cuts them, and writes the sheet."""

from __future__ import annotations

from pathlib import Path

from bruiser.core.errors import StoreError
from bruiser.figures.plan_charts import CutHank, cuts_figure
from bruiser.formats.cut_sheet import SheetHank, SheetLine, SheetLot, write_cut_sheet
from bruiser.formats.svg import write_svg
from bruiser.ui.runtime.desk import Desk
from bruiser.ui.runtime.tasks import TaskRunner
from bruiser.ui.theme.tokens import CHALK, TEXT_MM
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop
from bruiser.workshop.plan.bench_entry import bench_words, room_words
from bruiser.workshop.plan.cut_sheet import LotCuts, cut_all, lots_to_cut, plan_lot

SHEET_MM = 180.0


class CutsPresenter(Desk):
    """The cut plan of one lot at a time; `cuts` is None while it is being worked out."""

    def __init__(self, workshop: Workshop, tasks: TaskRunner) -> None:
        super().__init__(workshop)
        self._tasks = tasks
        self.cuts: LotCuts | None = None
        self.lot_id = ""
        self._stop = False
        self.progress = 0.0

    def take_up(self, logbook: Logbook) -> None:
        """Plan the cuts over the logbook as it stands."""
        self.logbook = logbook
        self.plan(self.lot_id)

    def lots(self) -> list[tuple[str, str]]:
        """Lots with specimens to cut."""
        lots = lots_to_cut(self.logbook) if self.logbook is not None else []
        return [(x.id, x.name) for x in lots]

    def plan(self, lot_id: str) -> None:
        """Plan the cuts of a lot off the interface thread; a running plan is stopped first."""
        logbook = self.logbook
        lots = lots_to_cut(logbook) if logbook is not None else []
        lot = next((x for x in lots if x.id == lot_id), lots[0] if lots else None)
        self.lot_id = "" if lot is None else lot.id
        self.cuts = None
        self._stop = False
        self.progress = 0.0
        self.changed.emit()
        if logbook is None or lot is None:
            return
        minimum = self.workshop.campaign.offcut_minimum_m

        def tell(share: float) -> None:
            self.progress = share

        def work() -> LotCuts:
            return plan_lot(logbook, lot, minimum, progress=tell, cancelled=lambda: self._stop)

        def received(found: LotCuts) -> None:
            self.cuts = found
            self.changed.emit()

        def failed(error: Exception) -> None:
            self.progress = 1.0
            self.work_failed(error)
            self.changed.emit()

        self._tasks.run("cuts", work, received, failed)

    def stop(self) -> None:
        """Stop planning and take the best so far."""
        self._stop = True

    def hanks(self) -> list[CutHank]:
        """The plan as the figure shows it."""
        if self.cuts is None:
            return []
        say = self.units.cord_text
        return [
            CutHank(
                key=h.hank_id,
                label=h.label,
                before_m=h.before_m,
                cuts=tuple((c.code, c.length_m) for c in h.cuts),
                left_m=h.left_m,
                kept=h.kept,
                words=f"{say(h.left_m)} left" if h.kept else f"{say(h.left_m)} lost",
            )
            for h in self.cuts.hanks
        ]

    def words(self) -> tuple[str, str]:
        """How good the plan is, or what is missing."""
        c, say = self.cuts, self.units.cord_text
        if c is None:
            return ("Planning the cuts …" if self.lot_id else "Nothing waits to be cut.", "")
        if c.plan is None:
            return "", f"{c.trouble} {c.drop}"
        p = c.plan
        known = (
            "proven: none is better" if p.optimal else f"within {100 * p.gap:.1f} % of the bound"
        )
        words = (
            f"{sum(len(h.cuts) for h in c.hanks)} specimens from {len(c.hanks)} hanks: "
            f"{say(p.used_up_m)} used up, {say(p.written_off_m)} of it lost as rests. "
            f"{p.method[0].upper()}{p.method[1:]}; {known}."
        )
        return words, ""

    def cut_all(self) -> None:
        """Cut everything of the plan shown."""
        cuts = self.cuts
        if cuts is not None and cuts.plan is not None:
            self.attempt(lambda: cut_all(self.workshop, cuts))

    def sheet(self) -> str:
        """The cut sheet of the plan shown, as a page."""
        c, logbook = self.cuts, self.logbook
        if c is None or c.plan is None or logbook is None:
            return ""
        shown = [line.specimen_id for h in c.hanks for line in h.cuts]
        specimens = {e.specimen.id: e.specimen for e in logbook.with_ids(shown)}
        say = self.units
        hanks = []
        for h in c.hanks:
            lines = []
            for cut in h.cuts:
                s = specimens[cut.specimen_id]
                tails = sorted({say.length_text(t.length_m) for t in s.tails})
                words = f"tails {', '.join(tails)}" if tails else ""
                lines.append(
                    SheetLine(
                        code=cut.code,
                        title=s.title,
                        length=say.cord_text(cut.length_m),
                        tails=words,
                    )
                )
            after = say.cord_text(h.left_m) + (" left" if h.kept else " lost")
            hanks.append(
                SheetHank(
                    label=h.label, before=say.cord_text(h.before_m), after=after, lines=tuple(lines)
                )
            )
        picture = write_svg(cuts_figure(self.hanks(), SHEET_MM), CHALK, TEXT_MM)
        lot = SheetLot(name=c.lot.name, about=self.words()[0], picture=picture, hanks=tuple(hanks))
        today = self.workshop.now()[:10]
        about = ", ".join(x for x in (bench_words(logbook), room_words(logbook, today)) if x)
        return write_cut_sheet(self.workshop.campaign.title, today, about, (lot,), CHALK)

    def write_sheet(self, path: Path) -> None:
        """Write the cut sheet to a file."""

        def write() -> None:
            try:
                path.write_text(self.sheet(), encoding="utf-8")
            except OSError as error:
                raise StoreError(f"{path.name} cannot be written: {error.strerror}.") from error

        self.attempt(write)
