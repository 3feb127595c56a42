"""Refreshes docs/screenshots and docs/sample-guide from the demo campaign: ``./run shots``."""

from __future__ import annotations

import os
import sys
import tempfile
from importlib.resources import as_file, files
from pathlib import Path
from shutil import copyfile

KEPT = (
    "brief", "cordage", "knots", "plan", "prepare", "pull", "directions", "findings", "strength",
    "slip", "jamming", "wraps", "compare", "claims", "trace", "choosing", "rank", "publish",
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
        copy = Path(scratch) / DEMO_NAME
        with as_file(files("bruiser.app").joinpath("demo", DEMO_NAME)) as shipped:
            copyfile(shipped, copy)
        for picture in run_offscreen(app, copy, Path(scratch)):
            key = picture.stem.split("-")[1]
            if key in KEPT:
                copyfile(picture, folder / f"{key}.png")
        with as_file(files("bruiser.app").joinpath("demo", DEMO_NAME)) as shipped:
            copyfile(shipped, copy)
        write_sample(copy, folder.parent / "sample-guide")
    return 0


if __name__ == "__main__":
    sys.exit(main())
