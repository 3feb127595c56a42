"""How high every line runs at every crossing: the flattest rope that keeps over over under."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from bruiser.core.topology.crossings import Diagram, Pass
from bruiser.core.topology.recipe import Floats

THICK = 1.0
"""Least height between two lines that cross: a cord's diameter."""


def pass_heights(layout: Diagram) -> dict[str, list[tuple[float, float]]]:
    """Height of every line at its passes, in cord diameters.

    Returns
    -------
    dict of list of (float, float)
        By line, hosts among them: where along it, and how high.

    Notes
    -----
    A linear program (HiGHS): heights at the passes, least sum of |dz| from pass to pass along every
    line, z_over - z_under at least a diameter at every crossing; between passes it goes straight.
    A host is stiff: it has one height, and what lies within its outline is before or behind it.
    """
    if layout.known_heights is not None:
        return _as_known(layout, layout.known_heights)
    from scipy.optimize import Bounds, LinearConstraint, milp  # slow to load
    from scipy.sparse import lil_array

    passes: dict[str, list[tuple[float, int]]] = {key: [] for key in layout.curves}
    stiff = {host.key: n for n, host in enumerate(layout.recipe.hosts)}
    number = len(stiff)
    pairs: list[tuple[int, int]] = []
    for crossing in layout.crossings:
        pair = []
        for line in (crossing.over, crossing.under):
            pair.append(stiff.get(line.line, number))
            number += line.line not in stiff
            passes[line.line].append((line.at, pair[-1]))
        pairs.append((pair[0], pair[1]))
    pairs += [
        (k, stiff[host]) if side > 0 else (stiff[host], k)
        for key, line in passes.items()
        if key not in stiff
        for at, k in line
        for host, side in _beside_hosts(layout, key, at)
    ]
    steps = [
        (a, b)
        for key, line in passes.items()
        if key not in stiff
        for (_, a), (_, b) in zip(sorted(line), sorted(line)[1:], strict=False)
    ]
    rows = lil_array((len(pairs) + 2 * len(steps), number + len(steps)))
    limit = np.zeros(len(pairs) + 2 * len(steps))
    for k, (over, under) in enumerate(pairs):
        rows[k, over], rows[k, under], limit[k] = -1.0, 1.0, -THICK
    for k, (a, b) in enumerate(steps):
        for side, sign in enumerate((1.0, -1.0)):
            row = len(pairs) + 2 * k + side
            rows[row, a], rows[row, b], rows[row, number + k] = sign, -sign, -1.0
    cost = np.concatenate([np.full(number, 1e-6), np.ones(len(steps))])
    low = np.concatenate([np.full(number, -50.0), np.zeros(len(steps))])
    high = np.concatenate([np.full(number, 50.0), np.full(len(steps), np.inf)])
    rule = LinearConstraint(rows.tocsr(), np.full(len(limit), -np.inf), limit)
    solved = milp(cost, constraints=rule, bounds=Bounds(low, high))
    z = np.zeros(number) if solved.x is None else solved.x[:number]
    middle = float(np.mean(z)) if number else 0.0
    return {
        key: [(at, float(z[k] - middle)) for at, k in sorted(line)] for key, line in passes.items()
    }


def _as_known(layout: Diagram, known: Sequence[float]) -> dict[str, list[tuple[float, float]]]:
    """Heights that were solved before, put beside the passes that they belong to."""
    passes: dict[str, list[float]] = {key: [] for key in layout.curves}
    for crossing in layout.crossings:
        for line in (crossing.over, crossing.under):
            passes[line.line].append(line.at)
    heights = iter(known)
    return {key: [(at, next(heights)) for at in sorted(line)] for key, line in passes.items()}


def _beside_hosts(layout: Diagram, line: str, at: float) -> list[tuple[str, int]]:
    """The hosts within whose outline a pass lies, and whether it is before (1) or behind (-1).

    It is where the line crosses the host's middle close by; away from there it lies in front.
    """
    points = layout.curves[line].points
    far = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))])
    index = np.arange(len(points))
    here = np.array([np.interp(at, index, points[:, k]) for k in (0, 1)])
    found = []
    for host in layout.recipe.hosts:
        middle = layout.curves[host.key].points
        if float(np.min(np.linalg.norm(middle - here, axis=1))) >= host.width / 2:
            continue
        near = [
            (abs(float(np.interp(mine.at, index, far) - np.interp(at, index, far))), side)
            for c in layout.crossings
            for mine, other, side in ((c.over, c.under, 1), (c.under, c.over, -1))
            if mine.line == line and other.line == host.key
        ]
        away, side = min(near, default=(np.inf, 1))
        found.append((host.key, side if away <= host.width else 1))
    return found


def heights(layout: Diagram) -> dict[str, Floats]:
    """Height of every sample of every line, by line, in cord diameters: straight between passes."""
    found = {}
    for key, line in pass_heights(layout).items():
        count = len(layout.curves[key].points)
        at, z = [a for a, _ in line], [h for _, h in line]
        found[key] = np.interp(np.arange(count), at, z) if line else np.zeros(count)
    return found


def in_space(layout: Diagram) -> dict[str, Floats]:
    """Every line as a curve in space, shape (samples, 3), in cord diameters."""
    found = heights(layout)
    return {
        key: np.column_stack([curve.points, found[key]]) for key, curve in layout.curves.items()
    }


def height_at(found: dict[str, list[tuple[float, float]]], line: Pass) -> float:
    """Height of a pass."""
    return next(z for at, z in found[line.line] if at == line.at)
