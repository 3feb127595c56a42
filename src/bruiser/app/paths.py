"""Where things are kept on this machine."""

from __future__ import annotations

from importlib.resources import as_file, files
from pathlib import Path
from shutil import copyfile

from platformdirs import user_data_path, user_log_path, user_state_path

DEMO_NAME = "fennock-ridge.bruiser"


def demo_copy() -> Path:
    """The user's own copy of the demo campaign (which may not exist yet)."""
    return user_data_path("bruiser") / DEMO_NAME


def fetch_demo(*, fresh: bool = False) -> Path:
    """Make the user's copy of the shipped demo if there is none; the shipped file is only read.

    Parameters
    ----------
    fresh : bool
        Start over: the earlier copy is kept beside it as ``….earlier``.
    """
    target = demo_copy()
    target.parent.mkdir(parents=True, exist_ok=True)
    if fresh and target.exists():
        target.replace(target.with_suffix(".bruiser.earlier"))
        for tail in ("-wal", "-shm"):
            Path(f"{target}{tail}").unlink(missing_ok=True)
    if not target.exists():
        with as_file(files("bruiser.app").joinpath("demo", DEMO_NAME)) as shipped:
            copyfile(shipped, target)
    return target


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
