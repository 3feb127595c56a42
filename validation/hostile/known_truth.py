"""Tables and records made from numbers, read back and compared: right, asked, or silently wrong."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from bruiser.core.decimal_sign import loads_about
from bruiser.core.errors import InputError
from bruiser.core.units import si_factor
from bruiser.formats.column_mapping import recognise
from bruiser.formats.logger_file import LoggerHints, read_logger_text
from bruiser.formats.mapped_table import read_mapped
from bruiser.formats.sheets import text_sheet

FORCES = ("N", "kN", "daN", "kgf", "lbf")
_GROUPS = ("", "", "other", " ", "\u00a0", "'")
_HEADS = ("Peak ({})", "peak [{}]", "Max load / {}", "Load, {}", "breaking load {}")


@dataclass(kw_only=True)
class Tally:
    """How files of a kind were read."""

    kind: str
    right: int = 0
    asked: int = 0
    wrong: list[str] = field(default_factory=list)

    @property
    def files(self) -> int:
        """How many there were."""
        return self.right + self.asked + len(self.wrong)


@dataclass(frozen=True, kw_only=True)
class Style:
    """How one file writes its numbers."""

    between: str
    decimal: str
    group: str
    shortest: bool

    def write(self, value: float, places: int) -> str:
        """A number as this file writes it."""
        text = f"{abs(value):.{places}f}"
        if self.shortest and "." in text:
            text = text.rstrip("0").rstrip(".")
        whole, _, rest = text.partition(".")
        if self.group:
            other = "," if self.decimal == "." else "."
            mark = other if self.group == "other" else self.group
            whole = f"{int(whole):,}".replace(",", mark)
        sign = "-" if value < 0 and float(text) else ""
        written = sign + (f"{whole}{self.decimal}{rest}" if rest else whole)
        return f'"{written}"' if self.between in written else written


def style_of(rng: np.random.Generator) -> Style:
    """Any way numbers are written between any separators."""
    between = str(rng.choice([",", ";", "\t"]))
    return Style(
        between=between,
        decimal=str(rng.choice([".", ","])),
        group=str(rng.choice(_GROUPS)),
        shortest=bool(rng.random() < 0.4),
    )


def read_table(rng: np.random.Generator, tally: Tally) -> None:
    """Write a table of pulls, read it, and compare."""
    style, unit = style_of(rng), str(rng.choice(FORCES))
    strength = float(np.exp(rng.uniform(np.log(300.0), np.log(400e3))))
    one = si_factor(unit, "force")
    places = int(rng.choice([0, 0, 1, 2, 3, 3]))
    loads = strength * rng.uniform(0.15, 1.1, int(rng.integers(3, 26))) / one
    loads = np.maximum(np.round(loads, places), 10.0**-places)
    how = str(rng.choice(["heading", "heading", "cell", "column", "unsaid"]))
    heading = str(rng.choice(_HEADS)).format(unit) if how == "heading" else "peak load"
    draws = rng.random() < 0.3
    head = ["pull", "rope", "knot", heading, "result"]
    head += ["unit"] if how == "column" else []
    head += ["draw_mm"] if draws else []
    lines = [style.between.join(f'"{h}"' if style.between in h else h for h in head)]
    for n, load in enumerate(loads):
        written = style.write(float(load), places)
        if how == "cell":
            written = f'{written[:-1]} {unit}"' if written.endswith('"') else f"{written} {unit}"
        row = [f"P{n}", "red 8", "bowline", written, "broke at knot"]
        row += [unit] if how == "column" else []
        row += [style.write(float(np.round(rng.uniform(0, 90), 1)), 1)] if draws else []
        lines.append(style.between.join(row))
    text = "\n".join(lines) + "\n"
    ratings = {"red 8": strength} if rng.random() < 0.5 else {}
    try:
        sheet = text_sheet(text, "t")
        mapping = recognise(sheet, lambda c: c == "bowline", lambda c: c == "red 8", ratings)
        table = read_mapped(sheet, mapping)
    except InputError:
        tally.asked += 1
        return
    if table.count or "peak" not in table.values:
        tally.asked += 1
        return
    _judge(tally, text, np.array(table.values["peak"], dtype=float), loads * one)


def read_record(rng: np.random.Generator, tally: Tally) -> None:
    """Write a logger's record, read it, and compare its loads and its length."""
    style, unit = style_of(rng), str(rng.choice(FORCES))
    if rng.random() < 0.2:
        group = "" if style.group in (" ", "\u00a0") else style.group
        style = Style(between="  ", decimal=style.decimal, group=group, shortest=style.shortest)
    strength = float(np.exp(rng.uniform(np.log(500.0), np.log(300e3))))
    one = si_factor(unit, "force")
    places = int(rng.choice([0, 0, 1, 2, 3]))
    count, rate = int(rng.integers(40, 300)), float(rng.choice([10, 50, 100, 500]))
    ramp = np.concatenate([np.linspace(0.0, 1.0, count - 6) ** 1.4, np.zeros(6)])
    loads = strength * rng.uniform(0.3, 1.1) * ramp / one
    loads += rng.normal(0, 0.0005, count) * loads.max()
    loads = np.round(loads, places)
    stamps = np.arange(count) / rate
    in_ms = rng.random() < 0.3
    travels = rng.random() < 0.5
    columns = [("time (ms)" if in_ms else "time (s)", stamps * (1000 if in_ms else 1), 3)]
    headed = rng.random() < 0.8
    columns.append((f"load ({unit})", loads, places))
    if travels:
        columns.append(("travel (mm)", np.round(stamps * 8.0, 2), 2))
    rows = [
        style.between.join(style.write(float(values[k]), p) for _, values, p in columns)
        for k in range(count)
    ]
    said = rng.random() < 0.7
    head = [style.between.join(name for name, _, _ in columns)] if headed else []
    text = "\n".join([*head, *rows]) + "\n"
    hints = LoggerHints(
        load_unit="" if headed else unit,
        travel_unit="" if headed else "mm",
        rate_hz=rate if in_ms and not headed else None,
        loads_n=loads_about(strength) if said else None,
    )
    try:
        trace = read_logger_text(text, "t", hints).trace
    except InputError:
        tally.asked += 1
        return
    if len(trace) != count or abs(float(trace.time_s[-1]) - float(stamps[-1])) > 2.0 / rate:
        tally.wrong.append(text)
        return
    _judge(tally, text, trace.load_n, loads * one)


def _judge(tally: Tally, text: str, read: np.ndarray, truth: np.ndarray) -> None:
    if len(read) == len(truth) and np.allclose(read, truth, rtol=1e-6, atol=1e-6):
        tally.right += 1
    else:
        tally.wrong.append(text)


def run_known_truth(count: int, seed: int) -> list[Tally]:
    """Read `count` files, half of them tables, half records."""
    tallies = [Tally(kind="table"), Tally(kind="record")]
    for n in range(count):
        rng = np.random.default_rng([seed, n])
        if n % 2:
            read_record(rng, tallies[1])
        else:
            read_table(rng, tallies[0])
    return tallies


def main(count: int, seed: int) -> int:
    """Read many files, print how; 1 when any was read wrong without a word."""
    tallies = run_known_truth(count, seed)
    print("| kind | files | read right | asked or refused | silently wrong |")
    print("|---|---|---|---|---|")
    for tally in tallies:
        cells = (tally.kind, tally.files, tally.right, tally.asked, len(tally.wrong))
        print(f"| {' | '.join(map(str, cells))} |")
        for text in tally.wrong[:3]:
            print(text[:400])
    return int(any(tally.wrong for tally in tallies))
