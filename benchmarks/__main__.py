"""``./run bench [--json FILE]``: what must stay fast, as ratios of one run."""

from __future__ import annotations

import argparse
import json
from collections.abc import Iterator
from dataclasses import asdict
from pathlib import Path

from benchmarks import interface, start_up, sums, tables, years
from benchmarks.timing import Timing


def main(arguments: list[str] | None = None) -> None:
    """Time everything, print each line as it is known, and write the file asked for."""
    parser = argparse.ArgumentParser(prog="./run bench", description=__doc__)
    parser.add_argument("--json", type=Path, metavar="FILE", help="write the figures here as well")
    parser.add_argument(
        "--large", action="store_true", help="100,000 pulls as well: 4 GB of disk, some minutes"
    )
    parser.add_argument(
        "--server", action="store_true", help="only years of pulls on a PostgreSQL server"
    )
    asked = parser.parse_args(arguments)
    sizes = (10_000, 100_000) if asked.large else (10_000,)
    done: list[Timing] = []
    sources: tuple[Iterator[Timing], ...] = (
        start_up.timings(),
        interface.timings(),
        sums.timings(),
        tables.timings(),
        years.timings(sizes),
    )
    if asked.server:
        sources = (years.on_server(sizes),)
    for source in sources:
        for timing in source:
            done.append(timing)
            print(timing.line(), flush=True)
    if asked.json is not None:
        rows = [{**asdict(timing), "ratio": timing.ratio} for timing in done]
        asked.json.write_text(json.dumps({"timings": rows}, indent=2) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
