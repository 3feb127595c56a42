"""Which pulls belong together: the key of a group, and groups merged by the user."""

from __future__ import annotations

from dataclasses import dataclass, fields

import numpy as np

from bruiser.core.statistics.censored import Sample
from bruiser.core.statistics.strength import Caveat


@dataclass(frozen=True, kw_only=True)
class TiedOn:
    """What a knot is bent around or tied on: a pin, or a fixture of the bench book by its name.

    Attributes
    ----------
    name
        Of the fixture; empty for a plain pin, and for nothing at all.
    diameter_m, over_cord
        Its diameter in metre, and D/d; 0 for nothing at all. Kept to the micrometre and to four
        decimals, so that a pin given in inches is the one given in millimetres.
    finish, material
        Of the fixture.
    """

    name: str = ""
    diameter_m: float = 0.0
    over_cord: float = 0.0
    finish: str = ""
    material: str = ""

    def __post_init__(self) -> None:
        object.__setattr__(self, "diameter_m", round(self.diameter_m, 6))
        object.__setattr__(self, "over_cord", round(self.over_cord, 4))

    @property
    def called(self) -> str:
        """Its name alone; empty for nothing."""
        pin = f"pin {1000 * self.diameter_m:g} mm" if self.diameter_m else ""
        return self.name or pin

    def __str__(self) -> str:
        """Name, surface and D/d; empty for nothing."""
        surface = f"{self.finish} {self.material}".strip()
        ratio = f"D/d {self.over_cord:.1f}" if self.over_cord else ""
        return ", ".join(part for part in (self.called, surface, ratio) if part)

    def __lt__(self, other: TiedOn) -> bool:
        """Listed as it is read."""
        return str(self) < str(other)


ON_NOTHING = TiedOn()


@dataclass(frozen=True, order=True, kw_only=True)
class GroupKey:
    """All that must be equal for pulls to stand behind one number.

    `state` is what was done on purpose beside the plain way (tails, eyes, damage, a sling), and
    `cordage_b` is the second lot of a bend of unlike lines, or the host of a friction hitch.
    """

    knot: str
    cordage: str
    condition: str
    cordage_b: str = ""
    host: TiedOn = ON_NOTHING
    method: str = "ramp"
    direction: str = ""
    dressing: str = "dressed"
    state: str = ""


def labels(keys: list[GroupKey]) -> dict[GroupKey, str]:
    """A short name for each group of a lot: the knot, and what sets it apart where needed.

    A plain ramp and a dressed knot are not said, and of a pin or host only what it is called;
    where that leaves two names alike, everything is said.
    """
    alike: dict[str, list[GroupKey]] = {}
    for key in keys:
        alike.setdefault(key.knot, []).append(key)
    found: dict[GroupKey, str] = {}
    for own in alike.values():
        differ = [f.name for f in fields(GroupKey) if len({getattr(k, f.name) for k in own}) > 1]
        short = {key: _label(key, differ, _SHORT) for key in own}
        if len(set(short.values())) < len(set(own)):
            short = {key: _label(key, differ, {}) for key in own}
        found |= short
    return {key: found[key] for key in keys}


_SHORT = {
    "method": {"ramp": ""},
    "dressing": {"dressed": ""},
    "direction": {"": ""},
    "state": {"": ""},
}


def _label(key: GroupKey, differ: list[str], short: dict[str, dict[str, str]]) -> str:
    said = [key.knot]
    for name in differ:
        value = getattr(key, name)
        whole = value.called if short and isinstance(value, TiedOn) else str(value)
        said.append(short.get(name, {}).get(whole, whole or f"no {name}"))
    return ", ".join(part for part in said if part)


@dataclass(frozen=True)
class Grouping:
    """A group as shown: one key, or several that the user merged, which its name says."""

    keys: tuple[GroupKey, ...]
    name: str

    @property
    def merged(self) -> bool:
        """Whether unlike pulls stand behind it."""
        return len(self.keys) > 1


def merge(keys: list[GroupKey]) -> Grouping:
    """Merge groups at the user's wish; the name states in what they differ.

    Raises
    ------
    ValueError
        Without a key, or if they differ in the knot or the cordage, which no one may merge.
    """
    unique = tuple(sorted(set(keys)))
    if not unique:
        raise ValueError("nothing to merge")
    first = unique[0]
    if any(
        (k.knot, k.cordage, k.cordage_b) != (first.knot, first.cordage, first.cordage_b)
        for k in unique
    ):
        raise ValueError("different knots or cordages cannot be merged")
    if len(unique) == 1:
        return Grouping(unique, first.knot)
    differ = [f.name for f in fields(GroupKey) if len({getattr(k, f.name) for k in unique}) > 1]
    values = "; ".join(
        f"{n}: {', '.join(sorted({str(getattr(k, n)) for k in unique}))}" for n in differ
    )
    return Grouping(unique, f"{first.knot}, merged over {values}")


def pool(grouping: Grouping, samples: list[Sample]) -> tuple[Sample, tuple[Caveat, ...]]:
    """The samples of a merged group as one, with the caveat that unlike pulls stand behind it."""
    together = Sample(
        ln_load=np.concatenate([s.ln_load for s in samples]),
        events=np.concatenate([s.events for s in samples]),
        floors=np.concatenate([s.floors for s in samples]),
        pull_ids=tuple(pull for s in samples for pull in s.pull_ids),
    )
    if not grouping.merged:
        return together, ()
    return together, (Caveat("unequal conditions", f"unlike pulls together: {grouping.name}"),)
