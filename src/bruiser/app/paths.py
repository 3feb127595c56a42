"""Where things are kept on this machine."""

from __future__ import annotations

from importlib.resources import as_file, files
from pathlib import Path
from shutil import copyfile

from platformdirs import user_cache_path, user_data_path, user_log_path, user_state_path

from bruiser.core.errors import StoreError
from bruiser.store.setting_aside import set_aside

DEMO_NAME = "fennock-ridge.bruiser"


def demo_copy() -> Path:
    """The user's own copy of the demo campaign (which may not exist yet)."""
    return user_data_path("bruiser") / DEMO_NAME


def fetch_demo(*, fresh: bool = False) -> Path:
    """Make the user's copy of the shipped demo if there is none; the shipped file is only read.

    Parameters
    ----------
    fresh : bool
        Start over: every earlier copy is kept beside it, with what its logbook holds, as a
        campaign that can be opened.

    Raises
    ------
    Busy
        If it is to start over while a window has it open.
    StoreError
        If the copy cannot be made.
    """
    target = demo_copy()
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
        if fresh and target.exists():
            set_aside(target)
        if not target.exists():
            part = target.with_name(f"{target.name}.part")
            with as_file(files("bruiser.app").joinpath("demo", DEMO_NAME)) as shipped:
                copyfile(shipped, part)
            part.replace(target)
    except OSError as error:
        raise StoreError(
            f"The demo cannot be copied to {target.parent}: {error.strerror}.",
            "Make room, or open a campaign of your own.",
        ) from error
    return target


def results_path() -> Path:
    """Where results are kept from one start to the next; it may go at any time."""
    return user_cache_path("bruiser") / "results.sqlite"


def log_path() -> Path:
    """Where the log is written."""
    path = user_log_path("bruiser")
    path.mkdir(parents=True, exist_ok=True)
    return path / "bruiser.log"


def report_path() -> Path:
    """Where crash reports are written."""
    path = user_state_path("bruiser") / "reports"
    path.mkdir(parents=True, exist_ok=True)
    return path
