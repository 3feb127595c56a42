"""Records of loggers as they come: a head of any length, any mark, any units, any channels."""

from __future__ import annotations

import csv
import math
import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from bruiser.catalogue.finding import fold
from bruiser.core.decimal_sign import (
    LOADS_ANYWHERE_N,
    DecimalMark,
    Range,
    may_be_two,
    reads_as,
    signs_of_columns,
    without_groups,
)
from bruiser.core.errors import InputError
from bruiser.core.trace import CHANNELS, Channel, Floats, Trace
from bruiser.core.units import si_factor
from bruiser.formats.mapped_table import read_figure
from bruiser.formats.sheets import LARGEST_FILE, decoded
from bruiser.formats.trace_file import FASTEST_HZ, NEEDED, SLOWEST_HZ, read_trace_file

TIME = "time"
LOADS = ("N", "kN", "daN", "kgf", "lbf")
_MOST_HEAD = 500
_FEWEST_ROWS = 4
_BLANKS = re.compile(r"[ \u00a0]{2,}|\t| (?=[+-]?[\d.,])")
_FIGURE = re.compile(r"[+-]?(?:\d[\d.,]*|[.,]\d+)(?:[eE][+-]?\d{1,3})?")
_CLOCK = re.compile(r"(?:(\d+):)?(\d{1,2}):(\d{1,2}(?:[.,]\d+)?)$")
_CALLED: dict[str, tuple[str, ...]] = {
    TIME: ("time", "t", "elapsed", "seconds", "timestamp", "zeit"),
    Channel.LOAD: ("load", "force", "tension", "kraft", "cell", "load 1", "ch1", "f"),
    Channel.TRAVEL: ("travel", "displacement", "position", "extension", "crosshead", "stroke",
                     "weg", "elongation", "x"),
    Channel.LOAD2: ("load2", "load 2", "force2", "force 2", "second load", "ch2"),
    Channel.TAIL: ("tail", "tail gauge", "slip", "draw"),
}  # fmt: skip
_UNITS: dict[str, tuple[str, str]] = {
    "s": ("s", "time"), "sec": ("s", "time"), "ms": ("ms", "time"), "min": ("min", "time"),
    "us": ("us", "time"), "n": ("N", "force"), "kn": ("kN", "force"), "dan": ("daN", "force"),
    "kgf": ("kgf", "force"), "kg": ("kgf", "force"), "lbf": ("lbf", "force"),
    "lb": ("lbf", "force"),
    "lbs": ("lbf", "force"), "mm": ("mm", "length"), "cm": ("cm", "length"), "m": ("m", "length"),
    "in": ("in", "length"), "inch": ("in", "length"),
}  # fmt: skip
_IN_SECONDS = {"s": 1.0, "ms": 1e-3, "us": 1e-6, "min": 60.0}
_DIMENSION = {
    TIME: "time", Channel.LOAD: "force", Channel.LOAD2: "force", Channel.TRAVEL: "length",
    Channel.TAIL: "length",
}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class LoggerRecord:
    """A record as it was understood.

    Parameters
    ----------
    said : dict
        Channel, or ``time``, to the heading it was read from and its unit.
    unused : tuple of str
        Headings of columns that were passed over.
    """

    trace: Trace
    said: dict[str, tuple[str, str]] = field(default_factory=dict)
    unused: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class LoggerHints:
    """What a person says of records that do not say it themselves.

    Parameters
    ----------
    decimal : DecimalMark
        The decimal sign, where it was asked for.
    loads_n : (float, float), optional
        Where loads lie in newton, as far as it is known whose record it is.
    """

    rate_hz: float | None = None
    load_unit: str = ""
    travel_unit: str = ""
    decimal: DecimalMark = DecimalMark.ASK
    loads_n: Range | None = None


def read_logger_file(path: Path, hints: LoggerHints | None = None) -> LoggerRecord:
    """Read a logger's record.

    Raises
    ------
    InputError
        If it holds no block of numbers, no load, no time and no rate, or a unit or a decimal sign
        that has to be said; `where` is ``unit``, ``travel``, ``decimal`` or ``rate`` where a hint
        would do.
    """
    try:
        if path.stat().st_size > LARGEST_FILE:
            raise InputError(f"{path.name} is larger than any record of a pull.")
        content = path.read_bytes()
    except OSError as error:
        raise InputError(f"{path.name} cannot be read: {error.strerror}.") from error
    text, _ = decoded(content, path.name)
    return read_logger_text(text.removeprefix("\ufeff"), path.name, hints or LoggerHints())


def read_logger_text(text: str, name: str, hints: LoggerHints) -> LoggerRecord:
    """The same of its text."""
    lines = text.splitlines()
    start, mark = _block(lines, name, hints.decimal)
    head = lines[max(0, start - _MOST_HEAD) : start]
    if any(NEEDED in _cells(line, mark) for line in head[-1:]):
        whole = read_trace_file("\n".join(lines[start - 1 :]), hints.rate_hz)
        return LoggerRecord(trace=_steady(whole.trace, name), unused=whole.unknown_columns)
    width = len(_cells(lines[start], mark))
    headings, units = _names(head, mark, width)
    numbered = _rows(lines[start:], start, mark, width, name)
    cells = [[row[at] for _, row in numbered] for at in range(width)]
    meant = _meant(headings, cells)
    unit = _load_unit(meant, units, hints)
    sizes = {}
    if unit:
        low, high = (x / si_factor(unit, "force") for x in hints.loads_n or LOADS_ANYWHERE_N)
        sizes = {meant[Channel.LOAD]: (low, high)} if Channel.LOAD in meant else {}
    signs = signs_of_columns(cells, sizes, hints.decimal)
    columns = [
        _values(column, sign, [number for number, _ in numbered], name, at)
        for at, (column, sign) in enumerate(zip(cells, signs, strict=True))
    ]
    if Channel.LOAD not in meant:
        raise InputError(f"{name}: no column is a load.", "Head one of them “load”.")
    clocks = TIME in meant and any(map(_CLOCK.match, cells[meant[TIME]]))
    return _record(name, headings, units, columns, meant, hints, clocks=clocks)


def _cells(line: str, mark: str) -> list[str]:
    if mark == " ":
        parts = _BLANKS.split(line.strip())
    elif '"' in line:
        parts = next(csv.reader([line], delimiter=mark))
    else:
        parts = line.split(mark)
    return [part.strip().strip('"') for part in parts]


def _is_row(cells: Sequence[str]) -> bool:
    said = [c for c in cells if c]
    numeric = sum(bool(_FIGURE.fullmatch(without_groups(c)) or _CLOCK.match(c)) for c in said)
    return bool(said) and numeric == len(said)


def _block(lines: Sequence[str], name: str, said: DecimalMark) -> tuple[int, str]:
    """Where the numbers begin, and what stands between them: the mark that gives most columns."""
    best: tuple[int, int, str] | None = None
    for mark in ("\t", ";", ",", " "):
        for at in range(min(len(lines), _MOST_HEAD)):
            rows = [_cells(line, mark) for line in lines[at : at + _FEWEST_ROWS]]
            width = len(rows[0]) if rows else 0
            even = len(rows) == _FEWEST_ROWS and all(len(r) == width for r in rows)
            if even and all(map(_is_row, rows)):
                # A decimal comma is no mark between columns where another one fits as well.
                rank = width if mark != "," else width - 1 if _by_comma(rows) else width
                if best is None or (rank, -at) > (best[0], -best[1]):
                    best = (rank, at, mark)
                break
    if best is None:
        raise InputError(f"{name} holds no block of numbers.", "Is it a logger's record at all?")
    width, at, mark = best
    return at, _comma_between(lines, at, name, said, mark) if width == 1 else mark


def _comma_between(lines: Sequence[str], at: int, name: str, said: DecimalMark, mark: str) -> str:
    """What stands between columns where “346,12” is one number with a comma, or two whole ones."""
    rows = [_cells(line, ",") for line in lines[at : at + _FEWEST_ROWS]]
    width = len(rows[0])
    if width < 2 or any(len(row) != width or not _is_row(row) for row in rows):
        return mark
    head = _cells(lines[at - 1], ",") if at else []
    if len(head) == width or said is DecimalMark.POINT:
        return ","
    if said is DecimalMark.COMMA:
        return mark
    raise InputError(
        f"{name}: “{lines[at].strip()[:40]}” may be one number with a comma, or {width} columns.",
        "Say which the decimal sign is.",
        where="decimal",
    )


def _by_comma(rows: Sequence[Sequence[str]]) -> bool:
    return all(len(r) % 2 == 0 for r in rows) and not any("." in c for r in rows for c in r)


def _names(head: Sequence[str], mark: str, width: int) -> tuple[list[str], list[str]]:
    """Headings and units: the last lines above the numbers that have as many cells."""
    fitting = [cells for line in head if len(cells := _heading_cells(line, mark, width)) == width]
    headings, units = [""] * width, [""] * width
    for cells in reversed(fitting[-3:]):
        only_units = [_unit(c) for c in cells]
        if 2 * sum(map(bool, only_units)) >= max(1, sum(map(bool, cells))):
            units = only_units
        elif not any(headings):
            headings = list(cells)
    for at, heading in enumerate(headings):
        found = re.search(r"[(\[{/,_ ]\s*([A-Za-zµ]+)\s*[)\]}]?\s*$", heading)
        unit = _unit(found[1]) if found is not None else ""
        units[at] = units[at] or unit
    return headings, units


def _heading_cells(line: str, mark: str, width: int) -> list[str]:
    """Headings of a line; those apart by a blank may end in a unit in brackets."""
    cells = _cells(line, mark)
    if mark == " " and len(cells) != width:
        cells = [part.strip() for part in re.findall(r"[^()\[\]]+[(\[][^)\]]*[)\]]|\S+", line)]
    return cells


def _unit(text: str) -> str:
    return _UNITS.get(text.strip().strip("()[]{}").replace("µ", "u").lower(), ("", ""))[0]


def _rows(
    lines: Sequence[str], start: int, mark: str, width: int, name: str
) -> list[tuple[int, list[str]]]:
    """The cells of every row, with its number."""
    rows = []
    for number, line in enumerate(lines, start + 1):
        if not line.strip():
            continue
        cells = _cells(line, mark)
        if len(cells) < width:
            cells += [""] * (width - len(cells))
        if len(cells) > width and any(cells[width:]):
            said = f"{len(cells)} cells where {width} stand above"
            raise InputError(f"{name}, row {number}: {said}.", where=f"{number}")
        rows.append((number, cells[:width]))
    return rows


def _load_unit(meant: dict[str, int], units: Sequence[str], hints: LoggerHints) -> str:
    """The unit of the load as far as it is said; empty where it is not."""
    said = units[meant[Channel.LOAD]] if Channel.LOAD in meant else ""
    return said if said in LOADS else hints.load_unit


def _values(
    column: Sequence[str], sign: DecimalMark, numbers: Sequence[int], name: str, at: int
) -> Floats:
    """The values of a column, NaN where nothing stands."""
    known: dict[str, float] = {}
    values = np.empty(len(column))
    for k, (cell, number) in enumerate(zip(column, numbers, strict=True)):
        if cell not in known:
            known[cell] = _value(cell, sign, name, number, at)
        values[k] = known[cell]
    return values


def _value(cell: str, sign: DecimalMark, name: str, number: int, at: int) -> float:
    if not cell or cell.lower() in ("nan", "na", "-", "---"):
        return math.nan
    if sign is DecimalMark.ASK and (both := may_be_two(cell)) is not None:
        raise InputError(
            f"{name}, row {number}, column {at + 1}: “{cell}” may be {both[0]:g} or {both[1]:.0f}.",
            "Say which the decimal sign is.",
            where="decimal",
        )
    clock = _CLOCK.match(cell)
    if clock is not None:
        hours, minutes = int(clock[1] or 0), int(clock[2])
        return 3600.0 * hours + 60.0 * minutes + float(clock[3].replace(",", "."))
    try:
        return read_figure(cell, sign)
    except ValueError as error:
        raise InputError(
            f"{name}, row {number}, column {at + 1}: {error}.", where=f"{number}:{at + 1}"
        ) from None


def _meant(headings: Sequence[str], columns: Sequence[Sequence[str]]) -> dict[str, int]:
    """Which column is what: by its heading, else by how its numbers run."""
    found: dict[str, int] = {}
    for exact in (True, False):
        for at, heading in enumerate(headings):
            words = fold(re.sub(r"[(\[{].*", "", heading.replace("_", " ")))
            plain = " ".join(w for w in words.split() if not _unit(w) or w == "t")
            for key, called in _CALLED.items():
                hit = plain in called if exact else any(plain.startswith(c) for c in called[:4])
                if plain and hit and key not in found and at not in found.values():
                    found[key] = at
    free = [at for at in range(len(columns)) if at not in found.values()]
    if TIME not in found and not any(headings):
        clocks = [at for at in free if _runs_evenly(columns[at])]
        if clocks and len(free) > 1:
            found[TIME] = clocks[0]
            free.remove(clocks[0])
    if Channel.LOAD not in found and not any(headings) and free:
        found[Channel.LOAD] = free.pop(0)
        if free:
            found[Channel.TRAVEL] = free[0]
    return found


def _runs_evenly(cells: Sequence[str]) -> bool:
    """Whether numbers rise evenly, read with one decimal sign or the other."""
    for sign in (DecimalMark.POINT, DecimalMark.COMMA):
        read = [reads_as(cell, sign) for cell in cells]
        if all(v is not None for v in read) and _rises(np.array(read, dtype=np.float64)):
            return True
    return all(_CLOCK.match(cell) for cell in cells)


def _rises(values: Floats) -> bool:
    steps = np.diff(values)
    return (
        bool(len(steps))
        and bool(np.all(steps > 0))
        and float(np.ptp(steps)) < 0.2 * float(np.median(steps))
    )


def _record(
    name: str,
    headings: Sequence[str],
    units: Sequence[str],
    columns: Sequence[Floats],
    meant: dict[str, int],
    hints: LoggerHints,
    *,
    clocks: bool,
) -> LoggerRecord:
    channels: dict[Channel, Floats] = {}
    said: dict[str, tuple[str, str]] = {}
    for channel in CHANNELS:
        if channel not in meant:
            continue
        at = meant[channel]
        unit = units[at]
        if not unit or _UNITS[unit.lower()][1] != _DIMENSION[channel]:
            force = _DIMENSION[channel] == "force"
            unit = hints.load_unit if force else hints.travel_unit
            if not unit:
                raise InputError(
                    f"{name}: the {'load' if force else 'travel'} stands in no unit.",
                    "Say in which unit it is.",
                    where="unit" if force else "travel",
                )
        channels[channel] = columns[at] * si_factor(unit, _DIMENSION[channel])
        said[channel] = (headings[at] or f"column {at + 1}", unit)
    count = len(channels[Channel.LOAD])
    if TIME in meant:
        at = meant[TIME]
        unit = units[at] if units[at] in _IN_SECONDS else "s"
        stamps = columns[at] * _IN_SECONDS[unit]
        stamps = stamps - stamps[0]
        if units[at] not in _IN_SECONDS and not clocks and _whole_steps(stamps):
            if hints.rate_hz is None:
                raise InputError(
                    f"{name}: its time stands in no unit, and may be seconds or milliseconds.",
                    "Head it “time (ms)”, or say how many samples a second.",
                    where="rate",
                )
            stamps = stamps / (float(np.median(np.diff(stamps))) * hints.rate_hz)
        said[TIME] = (headings[at] or f"column {at + 1}", unit)
    elif hints.rate_hz is not None:
        if not SLOWEST_HZ <= hints.rate_hz <= FASTEST_HZ:
            raise InputError(f"A rate of {hints.rate_hz:g} a second is none of a logger.")
        stamps = np.arange(count) / hints.rate_hz
    else:
        raise InputError(f"{name} has no time.", "Say how many samples a second.", where="rate")
    trace = Trace(channels=channels, stamps_s=stamps)
    used = set(meant.values())
    unused = tuple(h or f"column {n + 1}" for n, h in enumerate(headings) if n not in used)
    return LoggerRecord(trace=_steady(trace, name), said=said, unused=unused)


def _whole_steps(stamps: Floats) -> bool:
    """Whether times step by whole numbers, which seconds and milliseconds may."""
    steps = np.diff(stamps)
    step = float(np.median(steps)) if len(steps) else 0.0
    return step >= 1.0 and bool(np.all(steps == np.round(steps)))


def _steady(trace: Trace, name: str) -> Trace:
    """The trace, where its times rise."""
    stamps = trace.time_s
    if len(stamps) < 2 or np.isnan(stamps).any() or not np.all(np.diff(stamps) >= 0):
        raise InputError(f"{name}: its times do not rise.", "Is another column the time?")
    return trace
