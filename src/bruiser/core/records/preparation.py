"""What was done to a specimen before its pull, and when it may be pulled because of it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum


class PrepStep(StrEnum):
    """One step of the preparation."""

    TIED = "tied"
    CHECKED = "checked"
    SOAKING = "soaking"
    TRIAL = "trial"


class Hands(StrEnum):
    """In which state of the hands a knot was tied."""

    BARE = "bare hands"
    GLOVES = "gloves"
    COLD = "cold and wet"


class TyingVerdict(StrEnum):
    """What an inspector said of a tied knot before being told what it is."""

    RIGHT = "tied right"
    WRONG = "tied wrong"
    UNSURE = "cannot tell"


@dataclass(frozen=True, kw_only=True)
class TyingSheet:
    """A specimen as it was tied; what was not ticked was not done.

    Parameters
    ----------
    ticked, not_done : tuple of str
        Points of the check list.
    marked : bool
        Whether ink marks stand at every nip and tail.
    tails, eyes : tuple of (str, float)
        Length as tied by the layout's key, in metre.
    cord_m : float or None
        Cord that went into the specimen's knots.
    set_load_n : float or None
        Load it was set by, before marking.
    tie, tie_seen : str
        Over and under as the tie was laid out and checked, and which knot that was found to be.
    """

    ticked: tuple[str, ...] = ()
    not_done: tuple[str, ...] = ()
    marked: bool = False
    tails: tuple[tuple[str, float], ...] = ()
    eyes: tuple[tuple[str, float], ...] = ()
    cord_m: float | None = None
    set_load_n: float | None = None
    tie: str = ""
    tie_seen: str = ""

    def length_m(self, key: str) -> float | None:
        """A tail or eye as tied."""
        return dict((*self.tails, *self.eyes)).get(key)


@dataclass(frozen=True, kw_only=True)
class TyingTrial:
    """How tying went: seconds, attempts and wrong ties, and what an inspector made of it.

    Where only an inspector looked at it, nothing was timed: no seconds and no attempts.

    Parameters
    ----------
    named : str
        The structure the inspector took it for; empty if none was named.
    """

    seconds: float
    attempts: int = 1
    wrong: int = 0
    hands: Hands = Hands.BARE
    verdict: TyingVerdict | None = None
    named: str = ""
    inspector: str = ""


@dataclass(frozen=True, kw_only=True)
class Preparation:
    """One step done, by whom; a withdrawn one says that the step before it no longer holds.

    A tied or checked specimen carries its sheet, a trial its figures.
    """

    id: str
    specimen_id: str
    made_at: str
    step: PrepStep
    by: str = ""
    note: str = ""
    withdrawn: bool = False
    sheet: TyingSheet | None = None
    trial: TyingTrial | None = None


def in_force(done: Sequence[Preparation]) -> dict[PrepStep, Preparation]:
    """The newest entry of every step that was not withdrawn; `done` is oldest first."""
    found: dict[PrepStep, Preparation] = {}
    for step in done:
        if step.withdrawn:
            found.pop(step.step, None)
        else:
            found[step.step] = step
    return found


@dataclass(frozen=True)
class Window:
    """When a conditioned specimen may be pulled, in second on one clock; None for no bound."""

    started_s: float
    ready_s: float
    too_old_s: float | None

    def says(self, now_s: float) -> str:
        """``soaking``, ``ready`` or ``too old``."""
        if now_s < self.ready_s:
            return "soaking"
        if self.too_old_s is not None and now_s > self.too_old_s:
            return "too old"
        return "ready"


def window_of(started_s: float, soak_s: float, keep_s: float | None) -> Window:
    """The window of a specimen whose soak has started."""
    ready = started_s + soak_s
    return Window(started_s, ready, None if keep_s is None else ready + keep_s)


def next_ready(
    order: Sequence[str],
    needs_soak: Mapping[str, bool],
    windows: Mapping[str, Window],
    now_s: float,
) -> str | None:
    """Which specimen is pulled next.

    Parameters
    ----------
    order : sequence of str
        Keys in the shuffled order.
    needs_soak : mapping
        Whether a specimen must be conditioned first.
    windows : mapping
        Windows of the specimens whose soak has started.
    now_s : float
        The time on the clock of the windows.

    Returns
    -------
    str or None
        The ready one that grows too old soonest, if there is such a deadline; else the first of
        the order that needs no conditioning or is ready; None when all have to wait. One that is
        too old never comes: it is soaked again, or set aside.
    """
    ready = {k for k in order if k in windows and windows[k].says(now_s) == "ready"}
    dated = [(old, k) for k in order if k in ready and (old := windows[k].too_old_s) is not None]
    if dated:
        return min(dated, key=lambda pair: pair[0])[1]
    return next((k for k in order if k in ready or not needs_soak.get(k, False)), None)
