"""Trace files as loggers write them: ``time_s,load_N,travel_mm``, and more channels."""

from __future__ import annotations

import csv
import io
import math
from dataclasses import dataclass

import numpy as np

from bruiser.core.decimal_sign import LOADS_ANYWHERE_N, DecimalMark, reads_as, signs_of_columns
from bruiser.core.errors import InputError
from bruiser.core.trace import CHANNELS, Channel, Floats, Trace
from bruiser.formats.table_rows import read_number, table_rows

TIME = "time_s"
SLOWEST_HZ, FASTEST_HZ = 0.01, 200_000.0
NEEDED = CHANNELS[Channel.LOAD].column
COLUMNS = (TIME, *(kind.column for kind in CHANNELS.values()))


@dataclass(frozen=True)
class TraceFile:
    """A trace as a file holds it, with the names of the columns that were passed over."""

    trace: Trace
    unknown_columns: tuple[str, ...] = ()


def _number(text: str, sign: DecimalMark, line: int, column: str) -> float:
    cell = text.strip()
    if not cell or cell.lower() in ("nan", "na", "-"):
        return math.nan
    try:
        if sign is DecimalMark.ASK or reads_as(cell, sign) is None:
            return read_number(cell)
        return reads_as(cell, sign) or 0.0
    except ValueError as error:
        raise InputError(
            f"Row {line}, column {column}: {error}.", where=f"{line}:{column}"
        ) from None


def read_trace_file(text: str, rate_hz: float | None = None) -> TraceFile:
    """Read a trace file.

    Parameters
    ----------
    text : str
        The CSV, with its header row; comma, semicolon or tab between the columns.
    rate_hz : float, optional
        Sample rate, where the file has no time.

    Returns
    -------
    TraceFile

    Raises
    ------
    InputError
        If it has no header with a load, no time and no rate, a cell that is no number, or fewer
        than two rows; names row and column.
    """
    if rate_hz is not None and not SLOWEST_HZ <= rate_hz <= FASTEST_HZ:
        raise InputError(
            f"A rate of {rate_hz:g} a second is none of a logger.",
            f"Say one from {SLOWEST_HZ:g} to {FASTEST_HZ:g}.",
        )
    if not text.removeprefix("\ufeff").strip():
        raise InputError("The file is empty.", where="1")
    first = text.removeprefix("\ufeff").lstrip().splitlines()[0]
    mark = max(",;\t", key=first.count)
    lines = table_rows(text, mark)
    _, header = next(lines, (1, []))
    if NEEDED not in header:
        raise InputError(
            f"Row 1: column {NEEDED} is missing.", "Its header is time_s,load_N,travel_mm.",
            where=f"1:{NEEDED}",
        )  # fmt: skip
    known = {name: header.index(name) for name in COLUMNS if name in header}
    rows = list(lines)
    signs = [DecimalMark.POINT] * len(known)
    if mark != ",":
        columns = [[row[at].strip() for _, row in rows] for at in known.values()]
        signs = signs_of_columns(columns, {list(known).index(NEEDED): LOADS_ANYWHERE_N})
    arrays = {
        name: np.array([_number(row[at], sign, line, name) for line, row in rows])
        for (name, at), sign in zip(known.items(), signs, strict=True)
    }
    count = len(arrays[NEEDED])
    if count < 2:
        raise InputError("The file has no readings below its header.", where="2")
    time = arrays.get(TIME)
    if rate_hz is not None:
        time = np.arange(count) / rate_hz
    if time is None:
        raise InputError(
            "Row 1: column time_s is missing.", "Say the rate with --rate.", where="1:time_s"
        )
    if np.isnan(time).any():
        at = int(np.argmax(np.isnan(time)))
        raise InputError(f"Row {at + 2}, column time_s: is empty.", where=f"{at + 2}:time_s")
    channels = {
        channel: arrays[kind.column] / kind.in_column
        for channel, kind in CHANNELS.items()
        if kind.column in arrays
    }
    unknown = tuple(n for n in header if n and n not in COLUMNS)
    return TraceFile(Trace(channels=channels, stamps_s=time), unknown)


def write_trace_file(trace: Trace) -> str:
    """A trace as the same file, every channel it has."""
    columns: list[tuple[str, Floats]] = [(TIME, trace.time_s)]
    for channel, kind in CHANNELS.items():
        values = trace.get(channel)
        if values is not None:
            columns.append((kind.column, values * kind.in_column))
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow([name for name, _ in columns])
    for row in zip(*(values for _, values in columns), strict=True):
        writer.writerow(["" if math.isnan(v) else f"{v:.10g}" for v in row])
    return out.getvalue()
