"""Campaigns of years: the demo's rows over and over, with their traces, under new ids.

Every third copy of the specimens gets new cordage, so that a lot has about a hundred pulls. All of
them were pulled and inspected; those that wait are the demo's own few, or copies of them.
"""

from __future__ import annotations

import json
import os
import shutil
import sqlite3
import subprocess
import sys
import tempfile
from collections.abc import Iterator, Sequence
from contextlib import closing
from importlib.resources import as_file, files
from pathlib import Path

from benchmarks.timing import Timing

from bruiser.store.opening import open_campaign
from bruiser.store.places import Place
from bruiser.store.progress import settle_all

COPIES_OF_A_LOT = 3
LONG_QUEUE = 3_000
"""So many specimens wait in the campaign with a long queue."""
_WITH_LOT = {"lot": ("id", "name", "stock_lot_id"), "hank": ("id", "lot_id")}
_WITH_SPECIMEN = {
    "specimen": ("id", "code", "replaces_id"),
    "tail": ("specimen_id",),
    "preparation": ("id", "specimen_id"),
    "stock_entry": ("id", "specimen_id"),
    "pull": ("id", "specimen_id"),
    "trace_chunk": ("pull_id",),
    "trace_analysis": ("id", "pull_id"),
    "finding": ("id", "pull_id", "supersedes"),
    "tail_draw": ("finding_id",),
    "knot_inspection": ("finding_id",),
    "reading": ("id", "pull_id"),
    "exclusion": ("id", "pull_id"),
}
_OF_LOT = frozenset({("specimen", "lot_id"), ("specimen", "lot_b_id"), ("stock_entry", "hank_id")})
_STAGES = {True: "'planned'", False: "'inspected', 'void'"}


def _only(table: str, *, waiting: bool) -> str:
    """Which of the demo's rows of a table are copied: of what was pulled, or of what waits."""
    own = f"(SELECT specimen_id FROM demo.progress WHERE stage IN ({_STAGES[waiting]}))"
    pulls = f"(SELECT id FROM demo.pull WHERE specimen_id IN {own})"
    match table:
        case "lot" | "hank":
            return "1"
        case "specimen":
            return f"id IN {own}"
        case "pull" | "tail" | "preparation":
            return f"specimen_id IN {own}"
        case "stock_entry":
            return f"specimen_id IN {own} OR (? <> '' AND specimen_id IS NULL)"
        case "tail_draw" | "knot_inspection":
            return f"finding_id IN (SELECT id FROM demo.finding WHERE pull_id IN {pulls})"
        case _:
            return f"pull_id IN {pulls}"


def demo_file() -> Path:
    """The demo as it is shipped."""
    with as_file(files("bruiser.app") / "demo" / "fennock-ridge.bruiser") as path:
        return path


def build(path: Path, pulls: int, waiting: int = 0) -> int:
    """Make a campaign of at least so many pulls; returns how many it has.

    Parameters
    ----------
    waiting : int
        At least so many specimens wait in its queue.
    """
    shutil.copy(demo_file(), path)
    with closing(sqlite3.connect(path, isolation_level=None)) as raw:
        raw.execute("PRAGMA journal_mode = OFF")
        raw.execute("PRAGMA synchronous = OFF")
        raw.execute("ATTACH ? AS demo", (str(demo_file()),))
        columns = {
            table: [row[1] for row in raw.execute(f"PRAGMA table_info({table})")]
            for table in (*_WITH_LOT, *_WITH_SPECIMEN)
        }
        whose = _only("pull", waiting=False)
        one = raw.execute(f"SELECT count(*) FROM demo.pull WHERE {whose}").fetchone()[0]
        have = raw.execute("SELECT count(*) FROM pull").fetchone()[0]
        raw.execute("BEGIN")
        copy = 0
        while have < pulls:
            copy += 1
            lots = f"~{copy // COPIES_OF_A_LOT}" if copy >= COPIES_OF_A_LOT else ""
            if lots and copy % COPIES_OF_A_LOT == 0:
                for table, marked in _WITH_LOT.items():
                    _copy(raw, table, columns[table], marked, "", lots, lots)
            for table, marked in _WITH_SPECIMEN.items():
                new = lots if copy % COPIES_OF_A_LOT == 0 else ""
                _copy(raw, table, columns[table], marked, f"~{copy}", lots, new)
            have += one
        there = raw.execute("SELECT count(*) FROM progress WHERE stage = 'planned'").fetchone()[0]
        for number in range(1, -(-waiting // there)):
            for table, marked in _WITH_SPECIMEN.items():
                _copy(raw, table, columns[table], marked, f"~w{number}", "", "", waiting=True)
        raw.execute("COMMIT")
    with open_campaign(path) as file, file.writing() as connection:
        settle_all(connection)
    return have


def _copy(
    raw: sqlite3.Connection,
    table: str,
    columns: list[str],
    marked: tuple[str, ...],
    mark: str,
    lots: str,
    new_lots: str,
    *,
    waiting: bool = False,
) -> None:
    """Copy a table's rows of the demo, with a mark behind the ids that stand for the copy."""
    own = mark or lots
    ends = {name: own for name in marked} | {name: lots for t, name in _OF_LOT if t == table}
    if table == "stock_entry":
        ends["id"] = own
    asked = [f"{name} || '{ends[name]}'" if ends.get(name) else name for name in columns]
    only = _only(table, waiting=waiting)
    raw.execute(
        f"INSERT INTO {table} ({', '.join(columns)}) SELECT {', '.join(asked)} "
        f"FROM demo.{table} WHERE {only}",
        (new_lots,) if "?" in only else (),
    )


def timings(sizes: Sequence[int]) -> Iterator[Timing]:
    """A window at work on the demo and on campaigns of so many pulls.

    Opening and memory stand beside the demo's of the same run; what holds the interface thread
    (95 of 100 times less) beside what was promised: 50 ms for a finding, 100 ms for a station.
    """
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder, "demo.bruiser")
        shutil.copy(demo_file(), path)
        demo = _at_work(path, folder)
        yield from _held("the demo", demo)
        for size, waiting in (*((size, 0) for size in sizes), (sizes[0], LONG_QUEUE)):
            path = Path(folder, f"{size}.bruiser")
            name = f"{build(path, size, waiting):,} pulls"
            if waiting:
                name += f", {waiting:,} waiting"
            found = _at_work(path, folder)
            path.unlink()
            yield from _beside(name, found, demo)


def on_server(sizes: Sequence[int]) -> Iterator[Timing]:
    """The same on a PostgreSQL server of this machine, beside the demo on it."""
    from tests.servers import ThrowawayServer

    server = ThrowawayServer()
    server.start()
    try:
        with tempfile.TemporaryDirectory() as folder:
            demo: dict[str, float] = {}
            for size in (0, *sizes):
                path = Path(folder, "campaign.bruiser")
                name = f"{build(path, size):,} pulls on a server"
                address = server.filled_with(path)
                path.unlink()
                server.run_sql("ANALYZE", database=address.database)
                found = _at_work(address, folder)
                server.forget(address)
                demo = demo or found
                yield from _beside(name, found, demo)
    finally:
        server.remove()


def _beside(name: str, found: dict[str, float], demo: dict[str, float]) -> Iterator[Timing]:
    yield Timing(
        name=f"{name}: opened",
        took_s=found["open_s"],
        beside_s=demo["open_s"],
        beside="of the demo",
    )
    yield Timing(
        name=f"{name}: memory after a look at every station",
        took_s=found["memory_mb"],
        beside_s=demo["memory_mb"],
        beside="of the demo",
        memory=True,
    )
    yield from _held(name, found)


def _held(name: str, found: dict[str, float]) -> Iterator[Timing]:
    for key, what, most in (
        ("finding_s", "a finding stored", 0.05),
        ("switch_s", "another station", 0.1),
    ):
        yield Timing(
            name=f"{name}: {what}", took_s=found[key], beside_s=most, beside="of what was promised"
        )


def _at_work(place: Place, home: str) -> dict[str, float]:
    """What :mod:`benchmarks.at_work` measures, in a program of its own."""
    done = subprocess.run(
        [sys.executable, "-m", "benchmarks.at_work", str(place)],
        env={**os.environ, "HOME": home, "QT_QPA_PLATFORM": "offscreen"},
        check=True,
        capture_output=True,
        text=True,
    )
    found: dict[str, float] = json.loads(done.stdout.splitlines()[-1])
    return found
