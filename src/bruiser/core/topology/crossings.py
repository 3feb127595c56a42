"""Where lines cross in the drawing, and which goes over: geometry against the words."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from bruiser.core.errors import InputError
from bruiser.core.topology.curve import SampledLine, path_curve, rope_curve
from bruiser.core.topology.recipe import Floats, Path, Recipe, Rope

MOST_CROSSINGS = 250
FLAT_DEGREES, NEAR_D = 25.0, 0.8


@dataclass(frozen=True)
class Pass:
    """A line through a crossing: which line, and where along it (samples and a share of one)."""

    line: str
    at: float


@dataclass(frozen=True)
class Crossing:
    """Two passes at one point; `over` goes over `under`."""

    over: Pass
    under: Pass
    x: float
    y: float
    angle: float


@dataclass(frozen=True)
class Diagram:
    """A knot laid out: the curve of every line, hosts among them, and every crossing.

    `doubts` are what may be meant but looks like a slip: flat crossings, crossings too near.
    `known_heights` are those of every pass, line after line, where they were solved before.
    """

    recipe: Recipe
    curves: Mapping[str, SampledLine]
    crossings: tuple[Crossing, ...]
    doubts: tuple[str, ...]
    known_heights: tuple[float, ...] | None = None


def pointed_at(layout: Diagram, face: str) -> tuple[int, ...]:
    """The crossings that a face's recognition cue speaks of, by number.

    Raises
    ------
    InputError
        If the recipe points where no crossing is.
    """
    found, hosts = [], {host.key for host in layout.recipe.hosts}
    for x, y in layout.recipe.cues.get(face, ()):
        away = [
            np.inf if hosts & {c.over.line, c.under.line} else float(np.hypot(c.x - x, c.y - y))
            for c in layout.crossings
        ]
        if min(away) > NEAR_D:
            key = layout.recipe.key
            raise InputError(f"{key}: its {face} cue points at {x:g},{y:g}, where no crossing is.")
        found.append(int(np.argmin(away)))
    return tuple(found)


def meetings(a: SampledLine, b: SampledLine, *, same: bool) -> list[tuple[float, float]]:
    """Where two curves cross, by samples and shares along each; of one curve with itself once.

    Notes
    -----
    Straight pieces p + s r and q + t v meet where s = (q - p) x v / (r x v) and
    t = (q - p) x r / (r x v) both lie in [0, 1).
    """
    p, r = a.points[:-1], np.diff(a.points, axis=0)
    q, v = b.points[:-1], np.diff(b.points, axis=0)
    i, j = _close_by(p, r, q, v, same=same)
    if not len(i):
        return []
    pr, qv = r[i], v[j]
    gap = q[j] - p[i]
    cross = pr[:, 0] * qv[:, 1] - pr[:, 1] * qv[:, 0]
    with np.errstate(divide="ignore", invalid="ignore"):
        s = (gap[:, 0] * qv[:, 1] - gap[:, 1] * qv[:, 0]) / cross
        t = (gap[:, 0] * pr[:, 1] - gap[:, 1] * pr[:, 0]) / cross
    hit = (np.abs(cross) > 1e-12) & (s >= 0) & (s < 1) & (t >= 0) & (t < 1)
    return sorted(zip((i + s)[hit].tolist(), (j + t)[hit].tolist(), strict=True))


def _close_by(
    p: Floats, r: Floats, q: Floats, v: Floats, *, same: bool
) -> tuple[np.ndarray, np.ndarray]:
    """Pairs of pieces whose boxes overlap; of one curve each pair once, neighbours left out."""
    low_a, high_a = np.minimum(p, p + r), np.maximum(p, p + r)
    low_b, high_b = np.minimum(q, q + v), np.maximum(q, q + v)
    near = np.ones((len(p), len(q)), dtype=bool)
    for k in (0, 1):
        near &= low_a[:, None, k] <= high_b[None, :, k]
        near &= low_b[None, :, k] <= high_a[:, None, k]
    i, j = np.nonzero(near)
    if same:
        keep = j > i + 1
        i, j = i[keep], j[keep]
    return i, j


def lay_out(recipe: Recipe) -> Diagram:
    """Lay a recipe out and read over and under from its words.

    Raises
    ------
    InputError
        If a word is longer or shorter than the crossings on its span, if a crossing is not called
        over by one pass and under by the other, or if there is none at all, or too many.
    """
    curves = {rope.key: rope_curve(rope) for rope in recipe.ropes}
    for host in recipe.hosts:
        curves[host.key] = path_curve(Path(host.points, ("",) * (len(host.points) - 1)))
    met = _all_meetings(recipe, curves)
    if not met:
        raise InputError(f"{recipe.key}: no line crosses another.", where=recipe.key)
    if len(met) > MOST_CROSSINGS:
        raise InputError(
            f"{recipe.key}: {len(met)} crossings, and {MOST_CROSSINGS} are the most that are read.",
            where=recipe.key,
        )
    over: dict[int, list[tuple[int, str]]] = {}
    for rope in recipe.ropes:
        if not rope.follows:
            _read_words(recipe.key, rope, curves, met, over)
    _read_beside(recipe, curves, met, over)
    made = [_settle(recipe.key, curves, met[k], over.get(k, [])) for k in range(len(met))]
    hosts = {host.key for host in recipe.hosts}
    between = [c for c in made if not hosts & {c.over.line, c.under.line}]
    return Diagram(recipe, curves, tuple(made), tuple(_doubts(between)))


_Met = tuple[Pass, Pass]


def _all_meetings(recipe: Recipe, curves: Mapping[str, SampledLine]) -> list[_Met]:
    keys, ropes = list(curves), {rope.key for rope in recipe.ropes}
    found: list[_Met] = []
    for n, one in enumerate(keys):
        for two in keys[n:]:
            if one not in ropes and two not in ropes:
                continue
            found += [
                (Pass(one, s), Pass(two, t))
                for s, t in meetings(curves[one], curves[two], same=one == two)
            ]
    return found


def _read_words(
    key: str,
    rope: Rope,
    curves: Mapping[str, SampledLine],
    met: list[_Met],
    over: dict[int, list[tuple[int, str]]],
) -> None:
    """Write down, for every crossing of a rope, what each of its passes is called."""
    curve = curves[rope.key]
    passes = sorted(
        (p.at, k, side) for k, pair in enumerate(met) for side, p in enumerate(pair)
        if p.line == rope.key
    )  # fmt: skip
    at = 0
    per = (len(curve.points) - 1) // len(rope.path.words)
    for span, word in enumerate(rope.path.words):
        here = []
        while at < len(passes) and passes[at][0] < (span + 1) * per:
            here.append(passes[at])
            at += 1
        if len(here) != len(word):
            a, b = rope.path.points[span], rope.path.points[span + 1]
            raise InputError(
                f"{key}, rope {rope.key}, from {_point(a)} to {_point(b)}: the word is "
                f"“{word or '(none)'}”, and the line crosses {len(here)} times there.",
                where=f"{key}: {rope.key}",
            )
        for letter, (_, k, side) in zip(word, here, strict=True):
            over.setdefault(k, []).append((side, letter))


def _read_beside(
    recipe: Recipe,
    curves: Mapping[str, SampledLine],
    met: list[_Met],
    over: dict[int, list[tuple[int, str]]],
) -> None:
    """Strands that lie beside one path do at a crossing what that path does there."""
    beside = {rope.key: rope for rope in recipe.ropes if rope.follows}
    read: dict[str, list[Crossing]] = {}
    for k, (one, two) in enumerate(met):
        a, b = beside.get(one.line), beside.get(two.line)
        if a is None and b is None:
            continue
        host = a is None or b is None or not _one_path(a, b)
        if host or a is None or b is None:
            raise InputError(
                f"{recipe.key}: a line that lies beside a path crosses {one.line} or {two.line}, "
                "which does not.",
                where=recipe.key,
            )
        if a.key not in read:
            read[a.key] = _of_path(recipe.key, a)
        per = (len(path_curve(a.path).points) - 1) / len(a.path.words)
        s, t = (_mark(curves[p.line], p.at) * per for p in (one, two))
        if not np.isfinite(s + t):
            raise InputError(
                f"{recipe.key}, rope {a.key}: its loop crosses the knot.", where=recipe.key
            )
        far = [
            (abs(s - c.over.at) + abs(t - c.under.at), "o")
            if abs(s - c.over.at) + abs(t - c.under.at) <= abs(t - c.over.at) + abs(s - c.under.at)
            else (abs(t - c.over.at) + abs(s - c.under.at), "u")
            for c in read[a.key]
        ]
        letter = min(far)[1]
        over.setdefault(k, []).extend([(0, letter), (1, "u" if letter == "o" else "o")])


def _one_path(a: Rope, b: Rope) -> bool:
    return a.path.words == b.path.words and np.array_equal(a.path.points, b.path.points)


def _mark(curve: SampledLine, at: float) -> float:
    """Place along the path that was written; not a number round a loop."""
    k = min(int(at), len(curve.at) - 2)
    return float(curve.at[k] + (at - k) * (curve.at[k + 1] - curve.at[k]))


def _of_path(key: str, rope: Rope) -> list[Crossing]:
    """The crossings of a path with itself, read from its own words."""
    middle = path_curve(rope.path)
    own: list[_Met] = [
        (Pass(rope.key, s), Pass(rope.key, t)) for s, t in meetings(middle, middle, same=True)
    ]
    called: dict[int, list[tuple[int, str]]] = {}
    _read_words(key, Rope(key=rope.key, path=rope.path), {rope.key: middle}, own, called)
    return [_settle(key, {rope.key: middle}, own[k], called.get(k, [])) for k in range(len(own))]


def _point(p: Floats) -> str:
    return f"{p[0]:g},{p[1]:g}"


def _settle(
    key: str, curves: Mapping[str, SampledLine], pair: _Met, called: list[tuple[int, str]]
) -> Crossing:
    """A crossing with who goes over, as its passes call it; a host says nothing."""
    said = dict(called)
    one, two = pair
    x, y = _at(curves[one.line], one.at)
    if len(said) == 1:
        side, letter = next(iter(said.items()))
        said[1 - side] = "u" if letter == "o" else "o"
    if sorted(said.values()) != ["o", "u"]:
        how = {"o": "over", "u": "under"}
        words = " and ".join(
            f"{how[said[side]]} by rope {pair[side].line}" for side in (0, 1) if side in said
        )
        raise InputError(
            f"{key}: the crossing at {x:.2f},{y:.2f} is called {words or 'nothing'}.",
            where=key,
        )
    u, v = (_along(curves[p.line], p.at) for p in pair)
    cross, dot = u[0] * v[1] - u[1] * v[0], float(u @ v)
    angle = float(np.degrees(np.arctan2(abs(cross), abs(dot))))
    if said[0] == "o":
        return Crossing(one, two, x, y, angle)
    return Crossing(two, one, x, y, angle)


def _at(curve: SampledLine, at: float) -> tuple[float, float]:
    k = min(int(at), curve.segments - 1)
    p = curve.points[k] + (at - k) * (curve.points[k + 1] - curve.points[k])
    return float(p[0]), float(p[1])


def _along(curve: SampledLine, at: float) -> Floats:
    k = min(int(at), curve.segments - 1)
    along: Floats = curve.points[k + 1] - curve.points[k]
    return along


def _doubts(crossings: list[Crossing]) -> list[str]:
    found = [
        f"the crossing at {c.x:.1f},{c.y:.1f} is flat: {c.angle:.0f} degrees"
        for c in crossings
        if c.angle < FLAT_DEGREES
    ]
    for n, a in enumerate(crossings):
        found += [
            f"two crossings at {a.x:.1f},{a.y:.1f} are {np.hypot(a.x - b.x, a.y - b.y):.1f} d apart"
            for b in crossings[n + 1 :]
            if np.hypot(a.x - b.x, a.y - b.y) < NEAR_D
        ]
    return found
