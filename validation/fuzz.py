"""Hostile and spoilt input for every reader: ``./run fuzz [--count N] [--seed S]``.

Each input is a sound one that was changed: bytes flipped, cut or doubled, values of rows replaced,
words of JSON and tables swapped for odd ones. What counts: it is read, or refused in our own words.
An exception of another kind, more than five seconds, or more memory than three gigabytes is a
failure, and its input can be made again from reader, seed and number.
"""

from __future__ import annotations

import argparse
import io
import json
import random
import resource
import shutil
import signal
import sqlite3
import sys
import tempfile
import time
import traceback
from collections import Counter
from collections.abc import Callable
from contextlib import closing
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from bruiser.catalogue import parse_structure, shipped_texts
from bruiser.catalogue.drawings import looked_over
from bruiser.catalogue.finding import fold
from bruiser.core.errors import BruiserError
from bruiser.core.trace import trace_of
from bruiser.formats.column_mapping import TableMapping, mapping_text, read_mapping, recognise
from bruiser.formats.logger_file import LoggerHints, read_logger_file
from bruiser.formats.mapped_table import read_mapped
from bruiser.formats.photo import take_in
from bruiser.formats.pull_groups import group_pulls
from bruiser.formats.pull_table import read_pull_table
from bruiser.formats.sheets import read_sheets
from bruiser.formats.table_files import table_bytes
from bruiser.formats.table_templates import TEMPLATES
from bruiser.formats.trace_file import read_trace_file, write_trace_file
from bruiser.store.opening import open_campaign
from bruiser.workshop.exchange.packages import export_package, package_as_campaign
from bruiser.workshop.exchange.rescuing import check_campaign, rescue_campaign
from bruiser.workshop.guide.book import read_guide_book
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import Workshop

SEED = 20261128
SLOW_S = 5.0
HANGS_S = 20
MOST_BYTES = 3 * 2**30
ODD = (
    "", "-1", "0", "1e999", "nan", "²", "9,250", "=1+1", "'", '"', "\x00", "\u202e", "💥" * 50,
    "A" * 10_000,
    "2026-13-45", "null", "[[[[", "../../x", "\\N", "1" * 400, "true", "{}", "éè", "\r\n",
)  # fmt: skip


class Hangs(Exception):
    """An input that is still being read after twenty seconds."""


@dataclass
class Tally:
    """What became of a reader's inputs."""

    reader: str
    read: int = 0
    refused: int = 0
    failed: Counter[str] = field(default_factory=Counter)
    slowest_s: float = 0.0

    @property
    def count(self) -> int:
        """How many inputs."""
        return self.read + self.refused + self.failed.total()


def spoil(content: bytes, rng: random.Random) -> bytes:
    """Change a few bytes of a sound file."""
    data = bytearray(content)
    for _ in range(rng.choice((1, 1, 2, 4, 16))):
        if not data:
            break
        at = rng.randrange(len(data))
        match rng.randrange(6):
            case 0:
                data[at] ^= 1 << rng.randrange(8)
            case 1:
                data[at] = rng.randrange(256)
            case 2:
                del data[at : at + rng.randrange(1, 64)]
            case 3:
                data[at:at] = data[at : at + rng.randrange(1, 64)]
            case 4:
                data[at:at] = rng.choice(ODD).encode("utf-8", "surrogatepass")
            case _:
                del data[at:]
    return bytes(data)


def spoil_cells(text: str, rng: random.Random, mark: str = ",") -> str:
    """Put odd words in the place of some cells."""
    lines = [line.split(mark) for line in text.splitlines()]
    for _ in range(rng.choice((1, 2, 5))):
        line = rng.choice(lines)
        line[rng.randrange(len(line))] = rng.choice(ODD)
    return "\n".join(mark.join(line) for line in lines) + "\n"


def spoil_rows(path: Path, rng: random.Random) -> None:
    """Put odd values into rows of a campaign, past its checks and guards."""
    with closing(sqlite3.connect(path)) as raw:
        raw.execute("PRAGMA ignore_check_constraints = ON")
        names = "SELECT name FROM sqlite_master WHERE type = 'trigger'"
        for (name,) in raw.execute(names).fetchall():
            raw.execute(f'DROP TRIGGER "{name}"')
        tables = [
            row[0]
            for row in raw.execute(
                "SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite%'"
            )
        ]
        for _ in range(rng.choice((1, 1, 2, 4))):
            table = rng.choice(tables)
            columns = [row[1] for row in raw.execute(f'PRAGMA table_info("{table}")')]
            value = rng.choice((-1, 0, 2**62, 1e308, None, b"\xff", *ODD))
            try:
                raw.execute(
                    f'UPDATE "{table}" SET "{rng.choice(columns)}" = ? WHERE rowid IN '
                    f'(SELECT rowid FROM "{table}" ORDER BY random() LIMIT 1)',
                    (value,),
                )
            except (sqlite3.Error, OverflowError):
                continue
        raw.commit()


class Readers:
    """Every reader with a sound input to start from: a small campaign with a row of every kind."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.campaign = folder / "sound.bruiser"
        with closing(sqlite3.connect(self.campaign)) as raw:
            raw.executescript(_newest_sample().read_text(encoding="utf-8"))
        self.package = folder / "sound-package"
        with open_campaign(self.campaign, read_only=True) as file:
            export_package(file, self.package)
        template = TEMPLATES[0]
        self.table = table_bytes(".csv", template.headings, template.rows).decode()
        self.book = table_bytes(".xlsx", template.headings, template.rows)
        load = np.concatenate([np.zeros(60), np.linspace(0.0, 9000.0, 400), np.zeros(40)])
        self.trace = write_trace_file(trace_of(load, np.linspace(0.0, 0.05, 500), rate_hz=100.0))
        self.mapping = mapping_text(TableMapping(columns={"peak": "x"}, units={"peak": "kN"}))
        self.structure = shipped_texts()["bowline"]
        paths = Path(sys.modules["bruiser.catalogue"].__file__ or "").parent / "paths"
        self.drawing = (paths / "overhand-loop.toml").read_text(encoding="utf-8")
        self.photo = _photo()

    def campaign_bytes(self, rng: random.Random) -> None:
        """A campaign with flipped bytes."""
        self._open(spoil(self.campaign.read_bytes(), rng))

    def campaign_rows(self, rng: random.Random) -> None:
        """A campaign with odd values in its rows; it opens, is checked and rescued."""
        path = self.folder / "rows.bruiser"
        shutil.copyfile(self.campaign, path)
        spoil_rows(path, rng)
        self._open(path.read_bytes(), rescue=True)

    def _open(self, content: bytes, *, rescue: bool = False) -> None:
        path = self.folder / "spoilt.bruiser"
        for tail in ("", "-wal", "-shm", "-open"):
            path.with_name(path.name + tail).unlink(missing_ok=True)
        path.write_bytes(content)
        with open_campaign(path, read_only=True) as file:
            shop = Workshop(file)
            read_logbook(shop)
            read_guide_book(shop)
        check_campaign(path)
        if rescue:
            target = self.folder / "rescued.bruiser"
            target.unlink(missing_ok=True)
            rescue_campaign(path, target)
            if not check_campaign(target).sound:
                raise AssertionError("what was rescued is not sound")

    def pull_table(self, rng: random.Random) -> None:
        """A pull table with odd cells."""
        group_pulls(read_pull_table(spoil_cells(self.table, rng)))

    def table_bytes(self, rng: random.Random) -> None:
        """A table of text with flipped bytes, read as one to bring in."""
        self._sheet(
            "t.csv", spoil(self.table.encode(rng.choice(("utf-8", "utf-16", "cp1252"))), rng)
        )

    def workbook(self, rng: random.Random) -> None:
        """A workbook with flipped bytes."""
        self._sheet("t.xlsx", spoil(self.book, rng))

    def _sheet(self, name: str, content: bytes) -> None:
        path = self.folder / name
        path.write_bytes(content)
        for sheet in read_sheets(path):
            read_mapped(sheet, recognise(sheet, lambda c: fold(c) == "bowline", lambda _: False))

    def mapping_file(self, rng: random.Random) -> None:
        """A mapping with flipped bytes."""
        read_mapping(spoil(self.mapping.encode(), rng).decode("utf-8", "replace"))

    def trace_file(self, rng: random.Random) -> None:
        """A trace with odd cells."""
        read_trace_file(spoil_cells(self.trace, rng))

    def logger_file(self, rng: random.Random) -> None:
        """A logger's record with flipped bytes."""
        path = self.folder / "log.txt"
        path.write_bytes(
            spoil(b"Logger 5\n\n" + self.trace.replace("load_N", "Load").encode(), rng)
        )
        read_logger_file(path, LoggerHints(rate_hz=500.0, load_unit="N"))

    def package_files(self, rng: random.Random) -> None:
        """A Data Package with a spoilt file."""
        folder = self.folder / "package"
        shutil.rmtree(folder, ignore_errors=True)
        shutil.copytree(self.package, folder)
        files = sorted(p for p in folder.rglob("*") if p.is_file())
        path = rng.choice([*files, *[folder / "datapackage.json"] * 20])
        if path.suffix == ".csv" and rng.random() < 0.5:
            path.write_text(spoil_cells(path.read_text(errors="replace"), rng), "utf-8")
        else:
            path.write_bytes(spoil(path.read_bytes(), rng))
        target = self.folder / "made.bruiser"
        target.unlink(missing_ok=True)
        try:
            package_as_campaign(folder, target)
        except BaseException:
            if target.exists():
                raise AssertionError("a half campaign was left") from None
            raise

    def structure_file(self, rng: random.Random) -> None:
        """A structure of one's own."""
        parse_structure("own", spoil(self.structure.encode(), rng).decode("utf-8", "replace"))

    def drawing_file(self, rng: random.Random) -> None:
        """The path of a drawing."""
        looked_over("own", spoil(self.drawing.encode(), rng).decode("utf-8", "replace"))

    def picture(self, rng: random.Random) -> None:
        """A photo with flipped bytes."""
        take_in(spoil(self.photo, rng))

    def all(self) -> dict[str, Callable[[random.Random], None]]:
        """Every reader by its name."""
        return {
            "campaign, bytes": self.campaign_bytes,
            "campaign, rows": self.campaign_rows,
            "pull table": self.pull_table,
            "table to bring in": self.table_bytes,
            "workbook": self.workbook,
            "mapping": self.mapping_file,
            "trace": self.trace_file,
            "logger's record": self.logger_file,
            "Data Package": self.package_files,
            "structure": self.structure_file,
            "drawing": self.drawing_file,
            "photo": self.picture,
        }


def _newest_sample() -> Path:
    return max((Path(__file__).parents[1] / "tests" / "data" / "versions").glob("*.sql"))


def _photo() -> bytes:
    from PIL import Image

    out = io.BytesIO()
    Image.linear_gradient("L").convert("RGB").save(out, "JPEG")
    return out.getvalue()


def _alarm(*_: object) -> None:
    raise Hangs


def attack(readers: Readers, name: str, count: int, seed: int, *, tell: bool = False) -> Tally:
    """Hand a reader spoilt inputs."""
    tally = Tally(name)
    read = readers.all()[name]
    before = signal.signal(signal.SIGALRM, _alarm)
    try:
        for number in range(count):
            rng = random.Random(f"{name} {seed} {number}")
            began = time.monotonic()
            signal.alarm(HANGS_S)
            try:
                read(rng)
                tally.read += 1
            except BruiserError:
                tally.refused += 1
            except Exception as error:  # noqa: BLE001  (whatever it is, it is counted)
                tally.failed[f"{type(error).__name__}: {str(error)[:80]}"] += 1
                if tell:
                    print(f"{name} {number}: ", end="")
                    traceback.print_exc(limit=-4)
            finally:
                signal.alarm(0)
            taken = time.monotonic() - began
            tally.slowest_s = max(tally.slowest_s, taken)
            if taken > SLOW_S:
                tally.failed["slow"] += 1
    finally:
        signal.signal(signal.SIGALRM, before)
    return tally


def main() -> int:
    """Attack every reader and print what became of it."""
    parser = argparse.ArgumentParser(prog="./run fuzz")
    parser.add_argument("--count", type=int, default=1000, help="inputs for each reader")
    parser.add_argument("--seed", type=int, default=SEED)
    parser.add_argument("--reader", help="only this one")
    parser.add_argument("--json", type=Path, help="write the figures here")
    options = parser.parse_args()
    resource.setrlimit(resource.RLIMIT_AS, (MOST_BYTES, MOST_BYTES))
    with tempfile.TemporaryDirectory(prefix="bruiser-fuzz-") as folder:
        readers = Readers(Path(folder))
        names = [options.reader] if options.reader else list(readers.all())
        print("| reader | inputs | read | refused in words | failed | slowest |")
        print("|---|---|---|---|---|---|")
        failed = 0
        figures = []
        for name in names:
            t = attack(readers, name, options.count, options.seed, tell=True)
            failed += t.failed.total()
            print(
                f"| {name} | {t.count} | {t.read} | {t.refused} | {t.failed.total()} | "
                f"{t.slowest_s:.2f} s |",
                flush=True,
            )
            figures.append(
                {"reader": name, "read": t.read, "refused": t.refused, "failed": t.failed}
            )
    if options.json is not None:
        options.json.write_text(json.dumps(figures, indent=1) + "\n", encoding="utf-8")
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
