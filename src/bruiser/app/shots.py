"""Refreshes docs/screenshots and docs/sample-guide from the demo campaign: ``./run shots``."""

from __future__ import annotations

import os
import sys
import tempfile
from importlib.resources import as_file, files
from pathlib import Path
from shutil import copyfile
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from PyQt6.QtWidgets import QApplication

    from bruiser.app.window import MainWindow

KEPT = (
    "brief", "cordage", "plan", "prepare", "pull", "findings", "strength",
    "jamming", "across", "trace", "choosing", "next", "publish",
)  # fmt: skip


def main(arguments: list[str] | None = None) -> int:
    """Make the pictures and copy those of the built stations."""
    (target,) = sys.argv[1:] if arguments is None else arguments
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from PyQt6.QtWidgets import QApplication

    from bruiser.app.offscreen import run_offscreen
    from bruiser.app.paths import DEMO_NAME
    from bruiser.app.sample_guide import write_sample
    from bruiser.ui.theme.theme import dress

    app = QApplication(sys.argv[:1])
    dress(app)
    folder = Path(target)
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as scratch:
        for kept in ("XDG_STATE_HOME", "XDG_CONFIG_HOME"):
            os.environ[kept] = scratch
        copy = Path(scratch) / DEMO_NAME
        with as_file(files("bruiser.app").joinpath("demo", DEMO_NAME)) as shipped:
            copyfile(shipped, copy)
        for picture in run_offscreen(app, copy, Path(scratch)):
            key = picture.stem.split("-")[1]
            if key in KEPT:
                copyfile(picture, folder / f"{key}.png")
        with as_file(files("bruiser.app").joinpath("demo", DEMO_NAME)) as shipped:
            copyfile(shipped, copy)
        pictures_of_opening(app, copy, Path(scratch), folder)
        with as_file(files("bruiser.app").joinpath("demo", DEMO_NAME)) as shipped:
            copyfile(shipped, copy)
        write_sample(copy, folder.parent / "sample-guide")
    return 0


def pictures_of_opening(app: QApplication, demo: Path, scratch: Path, folder: Path) -> None:
    """The start page, the logbook of the demo, and knots."""
    from bruiser.app.offscreen import settle
    from bruiser.app.opener import Opener
    from bruiser.ui.runtime.preferences import Preferences
    from bruiser.workshop.course.new_campaign import NewCampaign, make_campaign

    opener = Opener(Preferences(toured=True, folder=str(scratch)))
    own = make_campaign(NewCampaign(title="Tether loops", path=scratch / "tether-loops"))
    opener.open(own, lead="plan")
    settle(app, 0.3)
    opener.open(demo, lead="logbook")
    settle(app, 0.5)
    if opener.window is not None:
        opener.window.grab().save(str(folder / "logbook.png"))
    if opener.window is not None:
        _picture_of_a_table(app, opener.window, scratch, folder)
        _pictures_of_a_knot(app, opener.window, folder)
    opener.close_campaign()
    settle(app, 0.3)
    if opener.start is not None:
        opener.start.grab().save(str(folder / "start.png"))
        opener.start.close()


TABLE = """Yard tests;;;;;;;;;
No;Rope;Dia (mm);Knot;Ends;Max load [kN];Result;Untied;By;Date
1;yard line;10;-;;31,4;broke mid;;TV;13.3.2024
2;yard line;10;plain;;30,9;clear;;TV;13.3.2024
3;yard line;10;Bowline;2;21,2;snapped;by hand;TV;14.3.2024
4;yard line;10;Bowline;2;20,9;went ping;spike;TV;14.3.2024
5;yard line;10;Pig tail loop;1;14,25;slipped;spike;OQ;14.3.2024
6;P8-B, new;;Figure of eight loop;2;11,4;broke at knot;spike;OQ;14.3.2024
7;P8-B, new;;Sheet bend;1;8,1;slipped;;OQ;15.3.2024
"""
"""An invented table, as a yard might keep it."""


def _picture_of_a_table(app: QApplication, window: MainWindow, scratch: Path, folder: Path) -> None:
    """A spreadsheet looked at before it comes in."""
    from bruiser.app.offscreen import settle

    table = scratch / "yard-tests.csv"
    table.write_text(TABLE, encoding="utf-8")
    window.acts.bring_file(table)
    settle(app, 1.5)
    window.grab().save(str(folder / "bring.png"))


def _pictures_of_a_knot(app: QApplication, window: MainWindow, folder: Path) -> None:
    """A knot known by its drawing, and one tied wrongly."""
    from bruiser.app.offscreen import settle
    from bruiser.ui.stations.knots.view import KnotsView

    window.go_to("knots")
    page = window.pages["knots"]
    assert isinstance(page, KnotsView)
    window.knots.show("alpine-butterfly")
    page.sheets.pick("know")
    settle(app, 0.3)
    window.grab().save(str(folder / "knots.png"))
    page.as_sheet.click()
    settle(app, 4.0)
    window.grab().save(str(folder / "sheet.png"))
    window.knots.show("constrictor")
    page.sheets.pick("tie")
    settle(app, 0.2)
    page.tie.view.spot_tapped.emit("crossing:0")
    while window.tasks.busy:
        settle(app, 0.2)
    window.grab().save(str(folder / "tie.png"))


if __name__ == "__main__":
    sys.exit(main())
