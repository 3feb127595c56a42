"""Samples of a pull as a file of a package: CSV, or Parquet where `pyarrow` is installed.

Both hold what the campaign stores: loads to the millinewton, lengths to the micrometre. A
sample that was not read is ``nan``.
"""

from __future__ import annotations

import io
import warnings
from enum import Enum
from pathlib import Path
from typing import Any

import numpy as np

from bruiser.core.errors import InputError
from bruiser.core.trace import CHANNELS, Channel, Floats, Trace

TIME = "time_s"
FIELDS: dict[str, dict[str, str]] = {
    TIME: {"name": TIME, "type": "number", "description": "second since the recording began"},
    **{kind.column: {"name": kind.column, "type": "number"} for kind in CHANNELS.values()},
}
_MOST_SAMPLES = 50_000_000
_LONGEST_HEAD = 1000


class TraceKind(Enum):
    """In which form samples are written: its suffix and media type."""

    CSV = ("csv", "text/csv")
    PARQUET = ("parquet", "application/vnd.apache.parquet")

    def __init__(self, suffix: str, mediatype: str) -> None:
        self.suffix, self.mediatype = suffix, mediatype


def _pyarrow() -> Any:
    try:
        import pyarrow
        import pyarrow.parquet
    except ImportError as error:
        raise InputError(
            "Parquet needs pyarrow, which is not installed.",
            "Install bruiser[parquet], or take CSV.",
        ) from error
    return pyarrow


def _columns(trace: Trace) -> list[tuple[str, Floats]]:
    found: list[tuple[str, Floats]] = [(TIME, trace.time_s)]
    for channel, kind in CHANNELS.items():
        values = trace.get(channel)
        if values is not None:
            steps = kind.steps / kind.in_column
            found.append((kind.column, np.rint(values * kind.steps) / steps))
    return found


def write_samples(trace: Trace, kind: TraceKind) -> tuple[bytes, list[str]]:
    """A trace as the bytes of a file, and the names of its columns.

    Raises
    ------
    InputError
        If Parquet is asked for and cannot be written.
    """
    columns = _columns(trace)
    names = [name for name, _ in columns]
    if kind is TraceKind.PARQUET:
        pyarrow = _pyarrow()
        table = pyarrow.table({n: pyarrow.array(v, from_pandas=True) for n, v in columns})
        out = io.BytesIO()
        pyarrow.parquet.write_table(table, out, compression="zstd")
        return out.getvalue(), names
    texts = [list(map(repr, values.tolist())) for _, values in columns]
    lines = [",".join(names), *map(",".join, zip(*texts, strict=True))]
    return ("\n".join(lines) + "\n").encode("ascii"), names


def read_samples(path: Path, said: str) -> Trace:
    """A trace as :func:`write_samples` wrote it.

    Raises
    ------
    InputError
        If the file is none, names a channel that is not known, or holds what is no number.
    """
    try:
        found = _parquet(path) if path.suffix == ".parquet" else _csv(path, said)
    except OSError as error:
        raise InputError(f"{said} cannot be read: {error.strerror}.", where=said) from error
    unknown = [name for name in found if name not in FIELDS]
    load = CHANNELS[Channel.LOAD].column
    if unknown or TIME not in found or load not in found:
        what = f"has a column {unknown[0]!r}" if unknown else f"lacks {TIME} or {load}"
        raise InputError(f"{said} {what}.", where=said)
    if any(np.isinf(values).any() for values in found.values()) or np.isnan(found[TIME]).any():
        raise InputError(f"{said} holds what is no finite number.", where=said)
    channels = {
        channel: found[kind.column] / kind.in_column
        for channel, kind in CHANNELS.items()
        if kind.column in found
    }
    return Trace(channels=channels, stamps_s=found[TIME])


def _csv(path: Path, said: str) -> dict[str, Floats]:
    with path.open(encoding="ascii", errors="replace") as file:
        names = file.readline(_LONGEST_HEAD).strip().split(",")
        if len(set(names)) != len(names):
            raise InputError(f"{said} has a column twice.", where=said)
        try:
            with warnings.catch_warnings():
                warnings.simplefilter("ignore", UserWarning)  # a trace without a sample
                values = np.loadtxt(
                    file, delimiter=",", comments=None, ndmin=2, max_rows=_MOST_SAMPLES
                )
        except ValueError as error:
            raise InputError(f"{said}: {error}.", where=said) from error
    if values.size and values.shape[1] != len(names):
        said_of = f"{values.shape[1]} cells under {len(names)} headings"
        raise InputError(f"{said}: {said_of}.", where=said)
    columns = values.T if values.size else np.empty((len(names), 0))
    return {name: column.copy() for name, column in zip(names, columns, strict=True)}


def _parquet(path: Path) -> dict[str, Floats]:
    pyarrow = _pyarrow()
    try:
        file = pyarrow.parquet.ParquetFile(path)
        if file.metadata.num_rows > _MOST_SAMPLES:
            raise InputError(f"{path.name} holds more samples than any pull.", where=path.name)
        table = file.read()
        return {
            name: np.array(table.column(name).cast(pyarrow.float64()), dtype=np.float64)
            for name in table.column_names
        }
    except (pyarrow.ArrowException, ValueError, KeyError, TypeError) as error:
        raise InputError(f"{path.name} is no Parquet that can be read.", where=path.name) from error
