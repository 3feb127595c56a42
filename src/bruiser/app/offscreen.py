"""The application without a monitor: one complete pull, and a picture of every station."""

from __future__ import annotations

import sys
import time
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

from PyQt6 import QtTest
from PyQt6.QtCore import QEventLoop, Qt
from PyQt6.QtWidgets import QApplication, QCheckBox, QLineEdit, QPushButton, QWidget

from bruiser.app.stations import BY_KEY
from bruiser.app.window import MainWindow
from bruiser.core.choice.next_block import OPENING_BLOCKS
from bruiser.core.choice.rating import Rating
from bruiser.core.errors import BruiserError
from bruiser.ui.kit.strip_view import StripView
from bruiser.ui.kit.trace_bench import TraceBench
from bruiser.ui.stations.guide.view import GuideView
from bruiser.ui.stations.plan.view import PlanView
from bruiser.ui.stations.pull.view import PullView
from bruiser.ui.stations.results.sheets import SHEETS
from bruiser.workshop.bench.live_pull import Phase
from bruiser.workshop.bench.simulation import bench_with
from bruiser.workshop.logbook.workshop import open_workshop

_PATIENCE_S = 60.0
SHOWN_PAGE = 4
STOP_AT = 0.42
"""At this share of the rated strength the pull is pictured."""
PULLED_MOST = "P8-B, new"
"""The demo's cordage in which most knots for one use were pulled."""
OF_ANOTHER_KIND = "H4-W"
"""The demo's cordage that the others do not predict."""
# The stubs of QTest declare its static methods as methods.
QTest: Any = QtTest.QTest
Widget = TypeVar("Widget", bound=QWidget)


def settle(app: QApplication, seconds: float = 0.05) -> None:
    """Let the application work for a moment."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        app.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 20)
        time.sleep(0.002)


def wait_until(app: QApplication, done: Callable[[], bool], what: str) -> None:
    """Let the application work until something is so; ``BruiserError`` if it never is."""
    end = time.monotonic() + _PATIENCE_S
    while not done():
        if time.monotonic() > end:
            raise BruiserError(f"Waited in vain for {what}.")
        settle(app, 0.01)


def _child(window: MainWindow, kind: type[Widget], name: str) -> Widget:
    found = window.findChild(kind, name)
    if found is None:
        raise ValueError(f"no widget {name}")
    return found


def picture(window: MainWindow, path: Path) -> None:
    """Write a picture of the window."""
    path.parent.mkdir(parents=True, exist_ok=True)
    window.grab().save(str(path))


def pull_one(
    app: QApplication, window: MainWindow, *, stop_at: Callable[[], None] | None = None
) -> None:
    """One pull through the real controls, up to the findings station.

    `stop_at` is called once, under way, or at the end where nothing was seen under way.
    """
    window.go_to("pull")
    for name in ("pull.lane", "pull.eyes"):
        _child(window, QCheckBox, name).setChecked(True)
    QTest.mouseClick(_child(window, QPushButton, "pull.arm"), Qt.MouseButton.LeftButton)
    run = _child(window, QPushButton, "pull.run")
    wait_until(app, run.isEnabled, "the zero")
    QTest.mousePress(run, Qt.MouseButton.LeftButton)
    while window.pull.session is not None and window.pull.session.phase is Phase.PULLING:
        settle(app, 0.01)
        live = window.pull.live
        if stop_at is not None and live is not None:
            entry = window.pull.entry
            rated = None if entry is None else entry.specimen.lot.rated_strength_n
            if live.highest_n / (rated or 1.0) > STOP_AT:
                stop_at()
                stop_at = None
    if stop_at is not None:
        # A machine that stood still for seconds saw no load between the first and the last.
        stop_at()
    QTest.mouseRelease(run, Qt.MouseButton.LeftButton)
    wait_until(app, lambda: window.station == "findings", "the end of the pull")


def fill_findings(window: MainWindow) -> None:
    """Write down what lies on the simulated bench, through the real controls."""
    entry = window.findings.entry
    if entry is None or entry.pull is None or entry.pull.remains is None:
        raise ValueError("nothing to inspect")
    remains = entry.pull.remains
    if remains["place"] is not None:
        strip = _child(window, StripView, "findings.strip")
        spot = strip.spot_centre(str(remains["place"])).toPoint()
        QTest.mouseClick(strip, Qt.MouseButton.LeftButton, pos=spot)
    QTest.mouseClick(
        _child(window, QPushButton, f"findings.gave.{remains['gave']}"), Qt.MouseButton.LeftButton
    )
    draws = remains["draws_m"]
    for key, drawn in draws.items() if isinstance(draws, dict) else ():
        QTest.keyClicks(_child(window, QLineEdit, f"findings.draw.{key}"), f"{1000 * drawn:.0f} mm")
    knots = remains["knots"]
    for knot in knots if isinstance(knots, list) else ():
        name = f"findings.jam.{knot['end']}.{knot['jam_level']}"
        QTest.mouseClick(_child(window, QPushButton, name), Qt.MouseButton.LeftButton)
        if knot["untie_s"] is not None:
            entry_field = _child(window, QLineEdit, f"findings.untie.{knot['end']}")
            QTest.keyClicks(entry_field, f"{knot['untie_s']:.0f} s")


def fill_plan(window: MainWindow) -> None:
    """Pick the lots that were pulled most and every knot in play, and look at one cell."""
    logbook = window.logbook
    if logbook is None or not logbook.knots_in_play:
        return
    pulled = Counter(e.specimen.lot.id for e in logbook.entries if e.finding is not None)
    most = {lot_id for lot_id, _ in pulled.most_common(3)}
    lots = tuple(lot.id for lot in logbook.lots_in_use if lot.id in most)
    window.plan.pick(lots, tuple(knot.id for knot in logbook.knots_in_play))
    if lots:
        window.plan.toggle(window.plan.matrix()[1][0].cells[-1].key)


def pictures_of_pull(app: QApplication, window: MainWindow, names: dict[str, Path]) -> None:
    """The parts of the pull station beside the bench."""
    window.go_to("pull")
    page, logbook = window.pages["pull"], window.logbook
    if not isinstance(page, PullView) or logbook is None:
        return
    page.panels.pick("prepare")
    settle(app, 0.1)
    picture(window, names["prepare"])
    page.panels.pick("directions")
    for knot in logbook.knots_in_play:
        if knot.family == "midline loop":
            window.pull.directions.pick(knot.id)
            break
    settle(app, 0.1)
    picture(window, names["directions"])
    page.panels.pick("bench")


def pictures_of_results(
    app: QApplication, window: MainWindow, folder: Path, names: dict[str, Path]
) -> None:
    """A picture of every sheet of results."""
    window.go_to("results")
    desk, logbook = window.results, window.logbook
    lots = {lot.name: lot.id for lot in logbook.lots} if logbook else {}
    told_by = {"wraps": "N7-T", "grip": "N5-T", "work": "N7-T"}
    for n, sheet in enumerate(SHEETS, start=12):
        desk.show_sheet(sheet)
        wait_until(app, lambda: not window.tasks.busy, "the results")
        if told_by.get(sheet) in lots:
            desk.show_lot(lots[told_by[sheet]])
            wait_until(app, lambda: not window.tasks.busy, "the results")
        apart = sheet == "across" and _of_another_kind(window)
        if apart:
            desk.leave_out_lot(lots[OF_ANOTHER_KIND])
            wait_until(app, lambda: not window.tasks.busy, "the results")
        settle(app, 0.1)
        names[sheet] = folder / f"{n}-{sheet}.png"
        picture(window, names[sheet])
        if apart:
            window.workshop.undo()
            wait_until(app, lambda: not window.tasks.busy, "the results")


def _of_another_kind(window: MainWindow) -> bool:
    """Whether the demo's odd cordage takes all predictions back."""
    lots = dict(window.results.lots_across())
    return any(name.startswith(OF_ANOTHER_KIND) for name in lots.values())


def _not_opened(window: MainWindow) -> set[str]:
    """Knots that were pulled too seldom to be ranked, in what is asked now."""
    return {row.name for row in window.plan.next.rows() if row.events < OPENING_BLOCKS}


def picture_of_next(app: QApplication, window: MainWindow, path: Path) -> None:
    """What to pull next, of the knots that were pulled most."""
    window.go_to("plan")
    page = window.pages["plan"]
    if not isinstance(page, PlanView):
        return
    page.panels.pick("next")
    wait_until(app, lambda: not window.tasks.busy, "what to pull next")
    desk = window.plan.next
    for lot_id, name in desk.lots():
        if name.startswith(PULLED_MOST):
            desk.pick(lot_id=lot_id)
            wait_until(app, lambda: not window.tasks.busy, "what to pull next")
    new = [key for key, name in desk.knots() if name in _not_opened(window)]
    desk.pick(aside=frozenset(new))
    wait_until(app, lambda: not window.tasks.busy, "what to pull next")
    settle(app, 0.1)
    picture(window, path)
    page.panels.pick("matrix")


def pictures_of_guide(
    app: QApplication, window: MainWindow, folder: Path, names: dict[str, Path]
) -> None:
    """The guide: a short list with a gauge opened, the ranking, and a page of the document."""
    window.go_to("guide")
    page = window.pages["guide"]
    if not isinstance(page, GuideView):
        return
    wait_until(app, lambda: not window.tasks.busy, "the short list")
    choice = window.guide.choice
    if choice is not None and choice.listed:
        window.guide.tap(f"gauge:{choice.listed[0].rated.key}:{Rating.SECURITY}")
    for n, (key, part) in enumerate((("choosing", "choose"), ("rank", "rank")), start=25):
        page.show_part(part)
        settle(app, 0.1)
        names[key] = folder / f"{n}-{key}.png"
        picture(window, names[key])
    page.show_part("publish")
    page.publishing.want((window.guide.wish.use,), (window.guide.wish.lot_id,), "")
    page.publishing.preview()
    wait_until(app, lambda: not window.tasks.busy, "the pages")
    page.printing.pages.go_to(SHOWN_PAGE)
    settle(app, 1.0)
    names["publish"] = folder / "27-publish.png"
    picture(window, names["publish"])


def picture_of_trace(app: QApplication, window: MainWindow, path: Path) -> None:
    """Open the trace bench on the pull with the most slips, another one beside it."""
    logbook = window.logbook
    entries = [] if logbook is None else [e for e in logbook.entries if e.analysis and e.pull]
    if not entries or logbook is None:
        return
    most = max(entries, key=lambda e: len(e.analysis.slips) if e.analysis else 0)
    if most.pull is None:
        return
    window.look_into(most.pull.id)
    bench = window.findChild(TraceBench)
    if bench is None:
        return
    bench.resize(1280, 800)
    if bench.others.list.count():
        bench.others.list.item(0).setCheckState(Qt.CheckState.Checked)  # type: ignore[union-attr]
    settle(app, 0.2)
    bench.grab().save(str(path))
    bench.accept()


def run_offscreen(app: QApplication, file: Path, folder: Path, *, speed: float = 8.0) -> list[Path]:
    """One complete pull in the real window, with a picture of each station.

    Parameters
    ----------
    file : Path
        A campaign with a specimen waiting.
    folder : Path
        Where the pictures go.
    speed : float
        How much faster than real time the simulated bench runs.

    Returns
    -------
    list of Path
        The pictures, in the order of the stations.

    Raises
    ------
    BruiserError
        If the application waited in vain, or a picture could not be made.
    """
    faults: list[BaseException] = []
    sys.excepthook = lambda _kind, error, _trace: faults.append(error)
    workshop = open_workshop(file)
    window = MainWindow(
        workshop, lambda specimen: bench_with(specimen, speed=speed, watchdog_s=_PATIENCE_S)
    )
    window.show()
    settle(app, 0.2)
    names = {key: folder / f"{n}-{key}.png" for n, key in enumerate(BY_KEY, start=1)}
    pull_one(app, window, stop_at=lambda: picture(window, names["pull"]))
    fill_findings(window)
    settle(app, 0.1)
    picture(window, names["findings"])
    pulled = window.findings.entry
    QTest.mouseClick(_child(window, QPushButton, "findings.accept"), Qt.MouseButton.LeftButton)
    wait_until(app, lambda: not window.tasks.busy, "the results")
    if pulled is not None and pulled.pull is not None:
        window.results.select(pulled.pull.id)
    for key in BY_KEY:
        if key not in ("pull", "findings"):
            window.say("")
            window.go_to(key)
            if key == "plan":
                fill_plan(window)
            settle(app, 0.05)
            wait_until(app, lambda: not window.tasks.busy, "the figures")
            settle(app, 0.1)
            picture(window, names[key])
    pictures_of_results(app, window, folder, names)
    pictures_of_guide(app, window, folder, names)
    names["next"] = folder / "28-next.png"
    picture_of_next(app, window, names["next"])
    names["prepare"], names["directions"] = folder / "10-prepare.png", folder / "11-directions.png"
    pictures_of_pull(app, window, names)
    names["trace"] = folder / "9-trace.png"
    picture_of_trace(app, window, names["trace"])
    window.close()
    sys.excepthook = sys.__excepthook__
    if faults:
        raise faults[0]
    missing = [path.name for path in names.values() if not path.exists()]
    if missing:
        raise BruiserError(f"These pictures could not be made: {', '.join(missing)}.")
    return list(names.values())
