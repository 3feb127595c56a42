"""Reads a knot's recipe: ropes as paths of points with over and under words, hosts, cuts and joins.

A path is a row of tokens. ``x,y`` is a point in cord diameters; a word of ``o`` and ``u`` between
two points lists, in order, every crossing met on that span, ``o`` where this pass goes over.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bruiser.core.errors import InputError

Floats = NDArray[np.float64]

_POINT = re.compile(r"^-?\d+(?:\.\d+)?,-?\d+(?:\.\d+)?$")
_WORD = re.compile(r"^[ou]+$")
MAPS = ("rot180", "turnx", "turny", "invert", "mirrorx", "mirrory")
_SIGNS = {
    "rot180": (-1, -1, False),
    "turnx": (1, -1, True),
    "turny": (-1, 1, True),
    "invert": (-1, -1, True),
    "mirrorx": (1, -1, False),
    "mirrory": (-1, 1, False),
}
"""What a map does to x and y, and whether it swaps over and under."""


@dataclass(frozen=True)
class Path:
    """Points and, for the span after each point, its word.

    Attributes
    ----------
    points : ndarray, shape (n, 2)
        In cord diameters.
    words : tuple of str, length n - 1
        Letters of the crossings on each span, in order.
    """

    points: Floats
    words: tuple[str, ...]

    def mapped(self, how: str) -> Path:
        """The same path turned, inverted or mirrored; turns and inversion swap over and under."""
        sx, sy, swaps = _SIGNS[how]
        table = str.maketrans("ou", "uo") if swaps else {}
        words = tuple(w.translate(table) for w in self.words)
        return Path(self.points * np.array([sx, sy], dtype=float), words)


@dataclass(frozen=True, kw_only=True)
class Rope:
    """One line: its path, its ends, and for a doubled line the way round its loop.

    Parameters
    ----------
    ends : tuple of (str, str)
        ``standing`` or ``tail`` at the start and at the end.
    offset : float
        How far it lies to the left of the path that was written, in cord diameters: strands that
        follow one another share a path and lie on either side of it. 0 for a line by itself.
    loop : ndarray, shape (m, 2), or None
        Of a doubled line: points round the bight, from the left strand to the right one.
    backwards : bool
        Whether it runs along the path from its end to its start.
    """

    key: str
    path: Path
    ends: tuple[str, str] = ("standing", "tail")
    offset: float = 0.0
    loop: Floats | None = None
    backwards: bool = False

    @property
    def follows(self) -> bool:
        """Whether its words are those of a path that it lies beside."""
        return self.offset != 0


@dataclass(frozen=True, kw_only=True)
class HostShape:
    """What a knot is tied round: ``post``, ``ring`` or ``rope``, its width and its middle line."""

    key: str
    kind: str
    width: float
    points: Floats


@dataclass(frozen=True, kw_only=True)
class Recipe:
    """A knot as it is drawn.

    Parameters
    ----------
    cuts : dict
        Where a loop is cut to look at its parts: a point by rope.
    joins : dict
        How ends are joined for a check: by name, closed curves as rope keys and directions.
    expect : dict
        What is asserted of it, by name of the curve: polynomials, ``bight``, ``mirror``.
    note : str
        What it rests on, or why it is drawn so.
    cues : dict
        The crossings that a recognition cue speaks of, by face (``front``, ``back``), as points.
    """

    key: str
    ropes: tuple[Rope, ...]
    hosts: tuple[HostShape, ...] = ()
    cuts: Mapping[str, tuple[float, float]]
    joins: Mapping[str, tuple[tuple[tuple[str, int], ...], ...]]
    expect: Mapping[str, Any]
    note: str = ""
    cues: Mapping[str, tuple[tuple[float, float], ...]] = field(default_factory=dict)


_FARTHEST = 10_000.0


def read_path(text: str, where: str) -> Path:
    """Read a row of points and words.

    Raises
    ------
    InputError
        If a token is neither, two words follow one another, or a word stands at an end.
    """
    points: list[tuple[float, float]] = []
    words: list[str] = []
    for number, token in enumerate(text.split(), start=1):
        if _POINT.match(token):
            x, y = token.split(",")
            if points and len(words) < len(points):
                words.append("")
            if max(abs(float(x)), abs(float(y))) > _FARTHEST:
                raise InputError(f"{where}: {token[:40]} lies beyond any drawing.", where=where)
            points.append((float(x), float(y)))
        elif _WORD.match(token):
            if not points or len(words) == len(points):
                raise InputError(
                    f"{where}: the word “{token}” stands between no two points.", where=where
                )
            words.append(token)
        else:
            what = "is neither a point x,y nor a word of o and u."
            raise InputError(f"{where}: token {number}, “{token}”, {what}", where=where)
    if len(points) < 2:
        raise InputError(f"{where}: a line needs two points at the least.", where=where)
    if len(words) >= len(points):
        raise InputError(f"{where}: it ends with a word, not at a point.", where=where)
    return Path(np.array(points, dtype=float), tuple(words))


def _points(text: str, where: str) -> Floats:
    path = read_path(text, where)
    if any(path.words):
        raise InputError(f"{where}: points alone, without words.", where=where)
    return path.points


def _rope(key: str, data: Mapping[str, Any], known: Mapping[str, Rope]) -> Rope:
    name = str(data["id"])
    where = f"{key}, rope {name}"
    if "copy" in data:
        source, how = known.get(data["copy"]), data.get("map", "")
        if source is None:
            raise InputError(f"{where}: there is no rope {data['copy']} to copy.", where=where)
        if how not in MAPS:
            raise InputError(f"{where}: “{how}” is none of {', '.join(MAPS)}.", where=where)
        own = tuple(data.get("ends", source.ends))
        return Rope(key=name, path=source.path.mapped(how), ends=(own[0], own[1]))
    ends = tuple(data.get("ends", ("standing", "tail")))
    if len(ends) != 2:
        raise InputError(f"{where}: a line has two ends.", where=where)
    if "beside" in data:
        return Rope(
            key=name,
            path=read_path(data["beside"], where),
            ends=(ends[0], ends[1]),
            offset=float(data["offset"]),
            backwards=bool(data.get("backwards", False)),
        )
    if "double" in data:
        return Rope(
            key=name,
            path=read_path(data["double"], where),
            ends=(ends[0], ends[1]),
            offset=float(data["offset"]),
            loop=_points(data["loop"], f"{where}, loop"),
        )
    return Rope(key=name, path=read_path(data["path"], where), ends=(ends[0], ends[1]))


MOST_POINTS = 1_000


def read_recipe(key: str, data: Mapping[str, Any]) -> Recipe:
    """A recipe from the tables of its file.

    Raises
    ------
    InputError
        If it is not well formed; the crossings are checked when it is laid out.
    """
    try:
        return _recipe(key, data)
    except (KeyError, TypeError, ValueError, AttributeError, IndexError, RecursionError) as error:
        said = f"{error.args[0] if error.args else error}"
        why = f"{said} is missing" if isinstance(error, KeyError) else f"{said[:80]}"
        raise InputError(f"{key}: a field is not as it must be: {why}.", where=key) from error


def _recipe(key: str, data: Mapping[str, Any]) -> Recipe:
    ropes: dict[str, Rope] = {}
    for row in data.get("ropes", ()):
        made = _rope(key, row, ropes)
        ropes[made.key] = made
    if not ropes:
        raise InputError(f"{key}: it has no rope.", where=key)
    if sum(len(rope.path.points) for rope in ropes.values()) > MOST_POINTS:
        raise InputError(f"{key}: more than {MOST_POINTS} points are no drawing.", where=key)
    strange = set(data.get("cut", {})) - set(ropes)
    if strange:
        raise InputError(f"{key}: it cuts “{min(strange)[:40]}”, which is no rope.", where=key)
    hosts = tuple(
        HostShape(
            key=str(h["id"]),
            kind=str(h["kind"]),
            width=float(h["width"]),
            points=_points(h["path"], f"{key}, host {h['id']}"),
        )
        for h in data.get("hosts", ())
    )
    return Recipe(
        key=key,
        ropes=tuple(ropes.values()),
        hosts=hosts,
        cuts={k: (float(v[0]), float(v[1])) for k, v in data.get("cut", {}).items()},
        joins={k: _loops(key, ropes, v) for k, v in data.get("joins", {}).items()},
        expect=dict(data.get("expect", {})),
        note=str(data.get("note", "")),
        cues={
            face: tuple((float(x), float(y)) for x, y in points)
            for face, points in data.get("cues", {}).items()
        },
    )


def _loops(
    key: str, ropes: Mapping[str, Rope], loops: Sequence[Sequence[str]]
) -> tuple[tuple[tuple[str, int], ...], ...]:
    """Closed curves written as rope keys, a minus where one is run through backwards."""
    found = []
    for loop in loops:
        steps = [(name.lstrip("-"), -1 if name.startswith("-") else 1) for name in loop]
        for name, _ in steps:
            if name not in ropes:
                raise InputError(f"{key}: it joins a rope {name} that is not there.", where=key)
        found.append(tuple(steps))
    return tuple(found)
