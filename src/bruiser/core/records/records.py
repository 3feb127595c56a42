"""The records of the work: what a lot, a knot, a specimen, a pull and a finding are.

All are frozen; lengths in metre, loads in newton, times in second. `id` fields are UUID texts.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from enum import StrEnum

from bruiser.core.records.bench_book import Fixture
from bruiser.core.records.layouts import End, Layout, lay
from bruiser.core.records.methods import RAMP, STRAIGHT, MethodPlan
from bruiser.core.records.tied_state import PLAIN_STATE, TiedState


class Role(StrEnum):
    """What a specimen is for."""

    BASELINE = "baseline"
    KNOT = "knot"


class Outcome(StrEnum):
    """What a pull is for one group: what is drawn, counted and said of it."""

    BROKE = "broke"
    CAME_OUT = "came_out"
    OUTLASTED = "outlasted"


OUTCOME_WORDS = {
    Outcome.BROKE: "broke",
    Outcome.CAME_OUT: "came out",
    Outcome.OUTLASTED: "outlasted",
}


class Gave(StrEnum):
    """How the pull ended, as found on the specimen afterwards."""

    BROKE = "broke"
    CAME_OUT = "came_out"
    CAPSIZED = "capsized"
    STOPPED = "stopped"
    VOID = "void"


class JamLevel(StrEnum):
    """What it took to untie a knot, from easy to hard."""

    SHAKEN = "shaken"
    HAND = "hand"
    WORKED = "worked"
    TOOL = "tool"
    CUT = "cut"
    FUSED = "fused"
    NOT_TRIED = "not_tried"


JAM_WORDS: dict[JamLevel, str] = {
    JamLevel.SHAKEN: "shaken loose",
    JamLevel.HAND: "opened by hand",
    JamLevel.WORKED: "worked loose",
    JamLevel.TOOL: "needed a tool",
    JamLevel.CUT: "cut",
    JamLevel.FUSED: "fused",
    JamLevel.NOT_TRIED: "not tried",
}


class PullEnd(StrEnum):
    """Why the recording of a pull ended."""

    GAVE = "gave"
    STOPPED = "stopped"
    TRAVEL_LIMIT = "travel_limit"
    LOAD_LIMIT = "load_limit"
    TIME_LIMIT = "time_limit"
    COMPLETED = "completed"
    LINK_LOST = "link_lost"
    INTERRUPTED = "interrupted"


@dataclass(frozen=True, kw_only=True)
class Lot:
    """A lot of cordage, one condition of it.

    Parameters
    ----------
    designation : str
        What the maker calls it, as free text.
    diameter_m, thickness_m : float, float or None
        Diameter in metre, None; of webbing its width, which tails count in, and its thickness.
    diameter_means : str
        ``measured`` at `reference_tension_n`, or ``nominal``.
    mass_per_length_kg_m : float or None
        Mass of a metre in kilogram.
    rating_means : str
        ``minimum``, ``average`` or ``unknown``.
    static_elongation : float or None
        Stretch under the maker's working test load, as a share.
    soak_s, keep_s : float or None
        How long it is conditioned before a pull, and how long after that it may be pulled.
    stock_lot_id : str or None
        The lot whose hanks this condition is cut from; None when it has hanks of its own.
    cord_model : str
        Synthetic cord of the simulated bench, or empty.
    """

    id: str
    name: str
    material: str
    construction: str
    diameter_m: float
    condition: str
    rated_strength_n: float | None = None
    rating_means: str = "unknown"
    cord_model: str = ""
    designation: str = ""
    diameter_means: str = "nominal"
    reference_tension_n: float | None = None
    mass_per_length_kg_m: float | None = None
    static_elongation: float | None = None
    age: str = ""
    history: str = ""
    conditioning: str = ""
    soak_s: float | None = None
    keep_s: float | None = None
    stock_lot_id: str | None = None
    archived: bool = False
    thickness_m: float | None = None

    @property
    def flat(self) -> bool:
        """Whether it is webbing."""
        return self.thickness_m is not None

    @property
    def bend_m(self) -> float:
        """What is bent round a pin or host, in metre: the thickness of webbing, else d."""
        return self.thickness_m or self.diameter_m

    @property
    def round_m(self) -> float:
        """Diameter in metre of the round cord of the same section, sqrt(4 w t / pi) of webbing."""
        if self.thickness_m is None:
            return self.diameter_m
        return math.sqrt(4.0 * self.diameter_m * self.thickness_m / math.pi)

    @property
    def stock_id(self) -> str:
        """The lot whose hanks it is cut from."""
        return self.stock_lot_id or self.id


@dataclass(frozen=True, kw_only=True)
class Knot:
    """A knot variant in play in this campaign; `structure` points into the catalogue.

    `variant` says in words what differs from the plain form; `choices` are the axes and options
    behind those words.
    """

    id: str
    structure: str
    variant: str
    name: str
    family: str
    choices: tuple[tuple[str, str], ...] = ()
    archived: bool = False

    @property
    def title(self) -> str:
        """Name and variant."""
        return self.name if self.variant == "plain" else f"{self.name}, {self.variant}"


@dataclass(frozen=True)
class Tail:
    """A tail as tied: which one (key of the layout) and how long."""

    key: str
    length_m: float


DRESSED, CROSSED = "dressed", "crossed"


@dataclass(frozen=True, kw_only=True)
class Specimen:
    """One piece of cordage prepared for one pull.

    Parameters
    ----------
    method : MethodPlan
        How it is loaded.
    dressing : str
        ``dressed``, or ``crossed`` on purpose.
    fixture : Fixture or None
        Host, edge or plate; pins stand in `pin_diameter_m`.
    lot_b : Lot or None
        The other line of a bend of unlike lines, or the host rope.
    pair : str
        Mark of the specimens cut side by side from one hank to be compared.
    replaces_id : str or None
        The void specimen whose place it takes.
    state : TiedState
        What is done on purpose: tails, eyes, damage, a closed sling.
    """

    id: str
    code: str
    role: Role
    lot: Lot
    layout_key: str
    queue_position: int
    span_m: float
    knot_a: Knot | None = None
    knot_b: Knot | None = None
    tails: tuple[Tail, ...] = ()
    pin_diameter_m: float = 0.0
    set_load_n: float = 0.0
    seed: int = 0
    note: str = ""
    method: MethodPlan = field(default_factory=MethodPlan)
    dressing: str = DRESSED
    fixture: Fixture | None = None
    lot_b: Lot | None = None
    pair: str = ""
    replaces_id: str | None = None
    state: TiedState = PLAIN_STATE

    @property
    def layout(self) -> Layout:
        """The places of this specimen."""
        edge = self.fixture is not None and self.fixture.kind == "edge"
        return lay(self.layout_key, over_edge=edge)

    def knot_at(self, end: End) -> Knot | None:
        """The knot tied at an end."""
        return self.knot_a if end is End.A else self.knot_b

    def tail_length_m(self, key: str) -> float | None:
        """Length of a tail as tied, or None if it was not recorded."""
        return next((tail.length_m for tail in self.tails if tail.key == key), None)

    @property
    def title(self) -> str:
        """What is on the bench, in words."""
        if self.role is Role.BASELINE:
            if self.state.words:
                return f"Plain rope, {self.state.words}"
            over = self.fixture
            return "Plain rope, baseline" if over is None else f"Plain rope over {over.name}"
        names = [knot.title for knot in (self.knot_a, self.knot_b) if knot is not None]
        if len(names) == 2 and names[0] == names[1]:
            names = [f"{names[0]}, both ends"]
        return ", ".join([" and ".join(names), *self.state_words])

    @property
    def stock_ids(self) -> tuple[str, ...]:
        """The lots it is cut from: one, or two for unlike lines."""
        other = () if self.lot_b is None else (self.lot_b.stock_id,)
        return tuple(dict.fromkeys((self.lot.stock_id, *other)))

    @property
    def state_words(self) -> tuple[str, ...]:
        """What sets it apart from a dressed knot in one line that is pulled until it gives."""
        said = [] if self.lot_b is None else [f"to {self.lot_b.name}"]
        if self.dressing != DRESSED:
            said.append(self.dressing)
        if self.fixture is not None:
            said.append(f"on {self.fixture.name}")
        if self.state.words:
            said.append(self.state.words)
        if self.method.key not in (RAMP, STRAIGHT):
            said.append(self.method.direction or self.method.key)
        return tuple(said)


@dataclass(frozen=True, kw_only=True)
class Pull:
    """One pull: when, on what, how it ended. Readings live with the trace."""

    id: str
    specimen_id: str
    started_at: str
    instrument: str
    sample_rate_hz: float
    rate_m_s: float
    capacity_n: float
    resolution_n: float
    technician: str = ""
    ended_at: str | None = None
    end: PullEnd | None = None
    remains: dict[str, object] | None = None
    samples_lost: int = 0


@dataclass(frozen=True, kw_only=True)
class KnotInspection:
    """What was found at one knot afterwards."""

    end: End
    jam_level: JamLevel
    untie_s: float | None = None
    gave_up: bool = False

    @property
    def given_up(self) -> bool:
        """Whether the time is that after which untying was given up."""
        return self.gave_up or self.jam_level in (JamLevel.CUT, JamLevel.FUSED)


@dataclass(frozen=True, kw_only=True)
class TailDraw:
    """How far a tail drew, by the key of the tail.

    Parameters
    ----------
    u_m : float or None
        Standard uncertainty of the reading, where it is known.
    how : str
        ``rule`` or ``photo``.
    """

    key: str
    draw_m: float
    u_m: float | None = None
    how: str = "rule"


@dataclass(frozen=True)
class LengthAfter:
    """A length of the layout after the pull, by its key; a way slid has nothing before it."""

    key: str
    after_m: float
    before_m: float | None = None

    @property
    def change_m(self) -> float | None:
        """How much longer it became, or how far it slid; None without a length before."""
        return None if self.before_m is None else self.after_m - self.before_m


@dataclass(frozen=True)
class FormChange:
    """A knot that changed form on the way and then held on."""

    end: End
    load_n: float


@dataclass(frozen=True, kw_only=True)
class Finding:
    """What the technician found after a pull.

    Parameters
    ----------
    by : str
        Who inspected.
    against_trace : str
        Why the finding was kept although the trace says otherwise.
    supersedes, reason : str
        The finding it corrects, and why.
    """

    id: str
    pull_id: str
    made_at: str
    gave: Gave
    place: str | None
    peak_load_n: float
    draws: tuple[TailDraw, ...] = ()
    inspections: tuple[KnotInspection, ...] = ()
    untied_how: str = ""
    note: str = ""
    void_reason: str = ""
    supersedes: str | None = None
    reason: str = ""
    withdrawn: bool = field(default=False)
    by: str = ""
    lengths: tuple[LengthAfter, ...] = ()
    forms: tuple[FormChange, ...] = ()
    against_trace: str = ""


@dataclass(frozen=True, kw_only=True)
class Exclusion:
    """A pull left out of the results, or taken in again, and why; the last entry holds."""

    id: str
    pull_id: str
    made_at: str
    excluded: bool
    reason: str
    by: str = ""
