"""``bruiser-cli simulate``: traces of the simulated bench, and what was true of each."""

from __future__ import annotations

import argparse
import json
from dataclasses import asdict
from pathlib import Path

from bruiser.core.errors import InputError, StoreError
from bruiser.formats.package_traces import TraceKind, write_samples
from bruiser.workshop.bench.simulated_series import SimulatedSeries, pull_series

TRUTH = "truth.json"


def simulate_command(options: argparse.Namespace) -> str:
    """Pull and write; returns what is printed.

    Raises
    ------
    InputError
        If there is no such cord or knot, or the folder is not empty.
    StoreError
        If it cannot be written.
    """
    folder: Path = options.out
    if folder.exists() and (not folder.is_dir() or any(folder.iterdir())):
        raise InputError(f"{folder.name} is not empty.", "Name a new folder.", where="out")
    series = SimulatedSeries(
        seed=options.seed,
        count=options.count,
        cord=options.cord,
        knot=None if options.knot == "none" else options.knot,
        diameter_mm=options.diameter_mm,
    )
    made = pull_series(series)
    truth = {
        "format": "bruiser-truth-1",
        "synthetic": True,
        "seed": series.seed,
        "pulls": [asdict(t) for _, t in made],
    }
    try:
        folder.mkdir(parents=True, exist_ok=True)
        for trace, true in made:
            (folder / true.file).write_bytes(write_samples(trace, TraceKind.CSV)[0])
        (folder / TRUTH).write_text(json.dumps(truth, ensure_ascii=False, indent=1) + "\n", "utf-8")
    except OSError as error:
        raise StoreError(f"{folder} cannot be written: {error.strerror}.") from error
    if options.json:
        return json.dumps(truth, ensure_ascii=False)
    return f"{folder}: {len(made)} traces of a simulated {series.knot or 'plain rope'}, and {TRUTH}"
