"""The order of pulls: shuffled in blocks, so that lot, day and technician do not follow a knot."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np


@dataclass(frozen=True)
class Candidate:
    """A specimen to put into the order.

    Parameters
    ----------
    key : str
    group : str
        What is compared: knot, lot and condition.
    fixture : str
        What must be mounted for it: pins, host, drums.
    """

    key: str
    group: str
    fixture: str = ""


@dataclass(frozen=True, kw_only=True)
class Placed:
    """A specimen with its place, its block, and who pulls it."""

    key: str
    position: int
    block: int
    technician: str


def order_pulls(
    candidates: Sequence[Candidate], technicians: Sequence[str], rng: np.random.Generator
) -> list[Placed]:
    """Put specimens in an order.

    Parameters
    ----------
    candidates : sequence of Candidate
    technicians : sequence of str
        Who pulls; empty names nobody.
    rng : numpy.random.Generator
        The same generator state gives the same order.

    Returns
    -------
    list of Placed
        First to last.

    Notes
    -----
    The largest group sets the number of blocks. Members of a group are spread over the blocks as
    evenly as they go, a group with fewer members starting at a random block. Inside a block the
    fixtures come in random order and the specimens of a fixture in random order, beginning with the
    fixture that is mounted: changes are few, and no knot keeps a place. Inside a group the
    technicians take turns, begun at random.
    """
    groups: dict[str, list[Candidate]] = {}
    for candidate in candidates:
        groups.setdefault(candidate.group, []).append(candidate)
    if not groups:
        return []
    count = max(len(g) for g in groups.values())
    blocks: list[list[Candidate]] = [[] for _ in range(count)]
    turn: dict[str, str] = {}
    for name in sorted(groups):
        members = [groups[name][k] for k in rng.permutation(len(groups[name]))]
        start = float(rng.uniform(0, count / len(members)))
        people = list(technicians)
        first = int(rng.integers(len(people))) if people else 0
        for k, member in enumerate(members):
            blocks[min(count - 1, math.floor(start + k * count / len(members)))].append(member)
            turn[member.key] = people[(first + k) % len(people)] if people else ""
    placed: list[Placed] = []
    mounted = ""
    for number, block in enumerate(blocks, start=1):
        names = sorted({c.fixture for c in block})
        order = [names[k] for k in rng.permutation(len(names))]
        order.sort(key=lambda f: f != mounted)
        for fixture in order:
            same = [c for c in block if c.fixture == fixture]
            for k in rng.permutation(len(same)):
                key = same[k].key
                placed.append(
                    Placed(key=key, position=len(placed) + 1, block=number, technician=turn[key])
                )
            mounted = fixture
    return placed


def insert_later(
    order: Sequence[str], key: str, after: int, rng: np.random.Generator
) -> tuple[str, ...]:
    """The order with one more specimen at a random place after the first `after`."""
    at = int(rng.integers(after, len(order) + 1))
    return (*order[:at], key, *order[at:])


def fixture_changes(order: Sequence[Placed], candidates: Sequence[Candidate]) -> int:
    """How often something else must be mounted, the first mounting not counted."""
    fixture = {c.key: c.fixture for c in candidates}
    row = [fixture[p.key] for p in order]
    return sum(a != b for a, b in pairwise(row))


def group_imbalance(order: Sequence[Placed], candidates: Sequence[Candidate]) -> float:
    """How far the mean place of any group lies from the middle, as a share of the whole order.

    0 is perfect balance; a group pulled all at one end of a long order is near a half.
    """
    group = {c.key: c.group for c in candidates}
    places: dict[str, list[int]] = {}
    for p in order:
        places.setdefault(group[p.key], []).append(p.position)
    middle = (len(order) + 1) / 2
    return max((abs(sum(x) / len(x) - middle) / len(order) for x in places.values()), default=0.0)
