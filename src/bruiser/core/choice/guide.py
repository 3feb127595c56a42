"""A selection guide as one record: all that is printed, told or drawn, frozen when it is made.

Every output (page, card, chart, table, JSON) is made from this record alone, so that an old
revision can be printed again without the pulls. Loads are in newton and lengths in metre; what
ends in ``text`` is written in the campaign's units.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from bruiser.core.behaviour.security import SecurityLimits
from bruiser.core.choice.rating import Bands, Rating
from bruiser.core.records.records import Outcome

FORMAT = "bruiser-guide-1"


@dataclass(frozen=True, kw_only=True)
class GaugeFacts:
    """One rating of one knot in one cordage; without `value` it was not measured, `why` says so.

    `at` counts the bands from the worst, 0; -1 where it was not measured.
    """

    rating: Rating
    value: float | None = None
    low: float | None = None
    high: float | None = None
    text: str = ""
    range_text: str = ""
    band: str = ""
    at: int = -1
    could_be: str = ""
    n: int = 0
    basis: str = ""
    caveat: str = ""
    why: str = ""


@dataclass(frozen=True, kw_only=True)
class MarkFacts:
    """One pull in a ladder: its specimen, outcome, share of the plain rope, and why it is out."""

    code: str
    kind: Outcome
    share: float
    left_out: str = ""


@dataclass(frozen=True, kw_only=True)
class SchoolFacts:
    """The working load of one school, with its steps; `load_n` None where it cannot be given."""

    school: str
    load_n: float | None
    text: str
    steps: tuple[str, ...]
    default: bool = False


@dataclass(frozen=True, kw_only=True)
class StrengthFacts:
    """One way in which a knot was pulled until it gave, in one cordage.

    Shares are of the plain rope; the floor is the share that 95 of 100 such knots exceed, said
    with 95 % confidence.
    """

    way: str
    share: float | None
    low: float | None
    high: float | None
    floor: float | None
    floor_n: float | None
    broke: int
    came_out: int
    outlasted: int
    marks: tuple[MarkFacts, ...]
    letters: str = ""
    caveats: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class ResultFacts:
    """One knot in one cordage and condition."""

    knot: str
    lot: str
    name: str
    gauges: tuple[GaugeFacts, ...]
    strengths: tuple[StrengthFacts, ...]
    loads: tuple[SchoolFacts, ...]
    loads_basis: str
    loads_warning: str
    slip: str
    jam: str
    pulls: tuple[str, ...]

    @property
    def key(self) -> str:
        """What tells it from others."""
        return f"{self.lot}|{self.name}"


@dataclass(frozen=True)
class NameFacts:
    """A name and the trade that uses it."""

    name: str
    trade: str


@dataclass(frozen=True)
class LookAlikeFacts:
    """Another knot it can be taken for, when, and how to tell."""

    name: str
    when: str
    tell: str


@dataclass(frozen=True, kw_only=True)
class KnotFacts:
    """A knot variant: how it is known, tied and dressed, and what it is not for."""

    key: str
    name: str
    variant: str
    family: str
    names: tuple[NameFacts, ...]
    front: str
    back: str
    look_alikes: tuple[LookAlikeFacts, ...]
    dressing: tuple[str, ...]
    setting: tuple[str, ...]
    tail_floor_d: float
    tail_usual_d: float
    cord_d: float
    opening: str
    weaknesses: tuple[str, ...]
    never: tuple[str, ...]
    opinions: tuple[str, ...]
    grip: tuple[str, ...] = ()
    tying: tuple[str, ...] = ()
    structure: str = ""
    choices: tuple[tuple[str, str], ...] = ()


@dataclass(frozen=True, kw_only=True)
class LotFacts:
    """A cordage in one condition, and its plain rope."""

    key: str
    name: str
    material: str
    construction: str
    diameter_m: float
    diameter_text: str
    condition: str
    rating_text: str
    baseline_n: float | None
    baseline_text: str
    baseline_pulls: int
    caveats: tuple[str, ...]


@dataclass(frozen=True, kw_only=True)
class RankedFacts:
    """A knot on a short list; `parts` are mean points by rating, the score their weighted mean.

    Its gauges are those under the conditions of the use. The first one is confirmed where fresh
    pulls, made after it was chosen, are among its own.
    """

    result: str
    knot: str
    name: str
    score: float
    low: float
    high: float
    parts: Mapping[Rating, float]
    chances: tuple[float, ...]
    likely: tuple[int, int]
    letters: str
    tied_with: tuple[str, ...]
    why: str
    gauges: tuple[GaugeFacts, ...]
    load_text: str = ""
    load_school: str = ""
    confirmed: bool = True


@dataclass(frozen=True, kw_only=True)
class TurnedFacts:
    """A knot that is not on a short list, and why.

    Parameters
    ----------
    pulled : bool
        Whether it was pulled in this cordage.
    by_pulls : bool
        Whether pulls are among the reasons.
    """

    name: str
    why: str
    pulled: bool = True
    by_pulls: bool = True


@dataclass(frozen=True, kw_only=True)
class ListFacts:
    """The short list of a use in one cordage."""

    lot: str
    rows: tuple[RankedFacts, ...]
    not_ranked: tuple[TurnedFacts, ...]
    excluded: tuple[TurnedFacts, ...]
    other_kinds: int
    leaders: tuple[str, ...] = ()
    near: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class UseFacts:
    """A use: what it asks, how it weighs, and its short lists."""

    key: str
    name: str
    needs: tuple[str, ...]
    weights: Mapping[Rating, float]
    anchors: Mapping[Rating, tuple[tuple[float, float], ...]]
    conditions: str
    caution: str
    lists: tuple[ListFacts, ...]


@dataclass(frozen=True, kw_only=True)
class PullFacts:
    """One pull behind the guide."""

    code: str
    day: str
    lot: str
    knot: str
    method: str
    host: str
    outcome: str
    load_n: float | None
    load_text: str
    technician: str
    counts: bool
    note: str = ""


@dataclass(frozen=True)
class Blocking:
    """What stands in the way of a release, and the reason given for releasing all the same."""

    key: str
    words: str
    reason: str = ""


@dataclass(frozen=True, kw_only=True)
class Moved:
    """A number that moved beyond its interval since the last revision."""

    knot: str
    lot: str
    rating: Rating
    before: str
    now: str


@dataclass(frozen=True, kw_only=True)
class ChangesSince:
    """What changed since an earlier revision."""

    revision: int
    moved: tuple[Moved, ...] = ()
    new: tuple[str, ...] = ()
    gone: tuple[str, ...] = ()
    lines: tuple[str, ...] = ()


@dataclass(frozen=True)
class LimitFacts:
    """The limits a guide was rated by, with their version."""

    version: int
    bands: Mapping[Rating, Bands]
    security: SecurityLimits


@dataclass(frozen=True)
class Definition:
    """A figure and how it is worked out."""

    term: str
    words: str


@dataclass(frozen=True, kw_only=True)
class ReachFacts:
    """What a knot keeps in a cordage: measured there, or predicted from the others."""

    cordage: str
    measured: bool
    value: float
    low: float
    high: float


@dataclass(frozen=True, kw_only=True)
class ReachRow:
    """A knot across cordages; `new` is a cordage nobody pulled, always predicted."""

    name: str
    cells: tuple[ReachFacts, ...]
    new: ReachFacts | None = None

    def cell(self, cordage: str) -> ReachFacts | None:
        """The cell of a cordage; None where nothing is said."""
        return next((c for c in self.cells if c.cordage == cordage), None)


@dataclass(frozen=True, kw_only=True)
class AcrossFacts:
    """Knots across cordages, of one set of groups that compare, with what they rest on."""

    alike: str
    cordages: tuple[str, ...]
    rows: tuple[ReachRow, ...]
    spread: str
    check: str
    notes: tuple[str, ...]
    withdrawn: bool


@dataclass(frozen=True, kw_only=True)
class Guide:
    """The whole guide."""

    title: str
    station: str
    question: str
    scope: str
    synthetic: bool
    revision: int
    made_at: str
    state: str
    checked_by: str
    data_revision: str
    pull_count: int
    first_day: str
    last_day: str
    technicians: tuple[str, ...]
    benches: tuple[str, ...]
    methods: tuple[str, ...]
    factor_text: str
    limits: LimitFacts
    uses: tuple[UseFacts, ...]
    lots: tuple[LotFacts, ...]
    knots: tuple[KnotFacts, ...]
    results: tuple[ResultFacts, ...]
    pulls: tuple[PullFacts, ...]
    definitions: tuple[Definition, ...]
    cautions: tuple[str, ...]
    blocking: tuple[Blocking, ...] = ()
    changes: ChangesSince | None = None
    across: tuple[AcrossFacts, ...] = ()
    hands: tuple[str, ...] = ()
    format: str = field(default=FORMAT)

    def result(self, key: str) -> ResultFacts | None:
        """A knot in a cordage by its key."""
        return next((r for r in self.results if r.key == key), None)

    def lot(self, key: str) -> LotFacts:
        """A cordage by its key."""
        return next(lot for lot in self.lots if lot.key == key)

    def knot(self, key: str) -> KnotFacts:
        """A knot by its key."""
        return next(knot for knot in self.knots if knot.key == key)
