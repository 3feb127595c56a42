"""What a campaign asks: uses, pass criteria with their history, and claims to test."""

from __future__ import annotations

from dataclasses import dataclass

from bruiser.core.choice.criteria import Measure, PassCriterion
from bruiser.core.performance.claims import ClaimKind


@dataclass(frozen=True, kw_only=True)
class Criterion:
    """A pass criterion for some groups; an empty scope means every lot, or every knot.

    A changed criterion is a new one that names the old in `supersedes`; the old one stays.
    """

    id: str
    made_at: str
    rule: PassCriterion
    lot_ids: tuple[str, ...] = ()
    knot_ids: tuple[str, ...] = ()
    comment: str = ""
    supersedes: str | None = None
    withdrawn: bool = False

    def covers(self, lot_id: str, knot_id: str) -> bool:
        """Whether a group falls under it."""
        return (not self.lot_ids or lot_id in self.lot_ids) and (
            not self.knot_ids or knot_id in self.knot_ids
        )


@dataclass(frozen=True, kw_only=True)
class Claim:
    """A piece of folklore to test, as one of the patterns filled in.

    `share` is a share of the baseline, or a margin in shares (0.05 = 5 points); `load_n` and
    `wraps` belong to the wraps pattern. Without a lot the claim is about every lot.
    """

    id: str
    made_at: str
    kind: ClaimKind
    knot_id: str | None
    other_knot_id: str | None = None
    lot_id: str | None = None
    share: float | None = None
    wraps: int | None = None
    load_n: float | None = None
    supersedes: str | None = None
    withdrawn: bool = False


@dataclass(frozen=True, kw_only=True)
class DesignFactorEntry:
    """A design factor as entered, with its source; a later entry takes its place.

    A withdrawn entry says that none is in force from then on.
    """

    id: str
    made_at: str
    value: float
    source: str
    withdrawn: bool = False


@dataclass(frozen=True, kw_only=True)
class Brief:
    """All that was asked, with everything that was ever written."""

    uses: tuple[str, ...] = ()
    criteria: tuple[Criterion, ...] = ()
    claims: tuple[Claim, ...] = ()
    factors: tuple[DesignFactorEntry, ...] = ()

    @property
    def criteria_in_force(self) -> tuple[Criterion, ...]:
        """Criteria that were neither changed nor withdrawn."""
        replaced = {c.supersedes for c in self.criteria}
        return tuple(c for c in self.criteria if c.id not in replaced and not c.withdrawn)

    @property
    def claims_in_force(self) -> tuple[Claim, ...]:
        """Claims that were not withdrawn."""
        replaced = {c.supersedes for c in self.claims}
        return tuple(c for c in self.claims if c.id not in replaced and not c.withdrawn)

    def earlier(self, criterion: Criterion) -> tuple[Criterion, ...]:
        """The versions a criterion took the place of, newest first."""
        by_id = {c.id: c for c in self.criteria}
        found = []
        at = criterion.supersedes
        while at is not None and at in by_id:
            found.append(by_id[at])
            at = by_id[at].supersedes
        return tuple(found)

    @property
    def factor(self) -> DesignFactorEntry | None:
        """The design factor in force."""
        if not self.factors or self.factors[-1].withdrawn:
            return None
        return self.factors[-1]


@dataclass(frozen=True)
class Pattern:
    """A claim pattern: its words with gaps, and which gaps it has."""

    kind: ClaimKind
    words: str
    gaps: tuple[str, ...]


PATTERNS: tuple[Pattern, ...] = (
    Pattern(ClaimKind.KEEPS_AT_LEAST, "X keeps at least P % of the rope", ("knot", "share", "lot")),
    Pattern(
        ClaimKind.STRONGER_BY,
        "X is stronger than Y by at least P points",
        ("knot", "other", "share", "lot"),
    ),
    Pattern(ClaimKind.DOES_NOT_WEAKEN, "X does not weaken the rope", ("knot", "share", "lot")),
    Pattern(
        ClaimKind.NEVER_JAMS_BELOW,
        "X never jams below P % of baseline",
        ("knot", "share", "lot"),
    ),
    Pattern(ClaimKind.NEVER_COMES_OUT, "X never comes out in cordage C", ("knot", "lot")),
    Pattern(
        ClaimKind.CHANGES_LESS_THAN,
        "dressing changes the strength of X by less than P points",
        ("knot", "share", "lot"),
    ),
    Pattern(
        ClaimKind.WRAPS_HOLD,
        "W wraps of X hold a load in cordage C",
        ("knot", "wraps", "load", "lot"),
    ),
    Pattern(
        ClaimKind.GRIPS_MORE,
        "X grips at least P % more than Y",
        ("knot", "other", "share", "lot"),
    ),
    Pattern(ClaimKind.NEVER_SHAKES_LOOSE, "X never shakes loose", ("knot", "lot")),
    Pattern(
        ClaimKind.HAULS,
        "X hauls with at least P % of its theoretical advantage",
        ("knot", "share", "lot"),
    ),
    Pattern(
        ClaimKind.OPENS_EASIER,
        "X opens without a tool more often than Y, by P points",
        ("knot", "other", "share", "lot"),
    ),
    Pattern(
        ClaimKind.EDGE_TAKES,
        "an edge takes at least P points of the rope from X",
        ("knot", "share", "lot"),
    ),
    Pattern(
        ClaimKind.RETAINS,
        "X retains at least P % of its grip",
        ("knot", "share", "lot"),
    ),
)


def pattern_of(kind: ClaimKind) -> Pattern:
    """The pattern of a claim."""
    return next(p for p in PATTERNS if p.kind is kind)


@dataclass(frozen=True, kw_only=True)
class ClaimNames:
    """The names a claim is said with."""

    knot: str
    other: str = ""
    lot: str = ""
    load: str = ""


def _points(share: float) -> str:
    return f"{100 * share:g} point" + ("" if abs(100 * share - 1) < 1e-9 else "s")


def say_claim(claim: Claim, names: ClaimNames) -> str:
    """A claim in words."""
    p = 0.0 if claim.share is None else claim.share
    where = f" in {names.lot}" if names.lot else ""
    x = names.knot
    return {
        ClaimKind.KEEPS_AT_LEAST: f"{x} keeps at least {100 * p:g} % of the rope{where}",
        ClaimKind.STRONGER_BY: f"{x} is stronger than {names.other} by at least "
        f"{_points(p)}{where}",
        ClaimKind.DOES_NOT_WEAKEN: f"{x} does not weaken the rope by more than {_points(p)}{where}",
        ClaimKind.NEVER_JAMS_BELOW: f"{x} never jams below {100 * p:g} % of baseline{where}",
        ClaimKind.NEVER_COMES_OUT: f"{x} never comes out{where or ' in any cordage'}",
        ClaimKind.CHANGES_LESS_THAN: f"Dressing changes the strength of {x} by less than "
        f"{_points(p)}{where}",
        ClaimKind.WRAPS_HOLD: f"{claim.wraps} wraps of {x} hold {names.load}{where}",
        ClaimKind.GRIPS_MORE: f"{x} grips at least {100 * p:g} % more than {names.other}{where}",
        ClaimKind.NEVER_SHAKES_LOOSE: f"{x} never shakes loose{where}",
        ClaimKind.HAULS: f"{x} hauls with at least {100 * p:g} % of its theoretical "
        f"advantage{where}",
        ClaimKind.OPENS_EASIER: f"{x} opens without a tool more often than {names.other}, by "
        f"{_points(p)}{where}",
        ClaimKind.EDGE_TAKES: f"An edge takes at least {_points(p)} of the rope from {x}{where}",
        ClaimKind.RETAINS: f"{x} retains at least {100 * p:g} % of its grip{where}",
    }[claim.kind]


def say_deciders(claim: Claim) -> tuple[str, str]:
    """What would support a claim and what would contradict it, in terms of intervals."""
    p = 0.0 if claim.share is None else claim.share
    percent, less = f"{100 * p:g} %", f"{100 * (1 - p):g} %"
    points = _points(p)
    never = "a 95 % upper bound of the rate of 10 % or less, without one occurrence (29 pulls)"
    return {
        ClaimKind.KEEPS_AT_LEAST: (
            f"the whole 95 % interval of its efficiency at {percent} or above",
            f"the whole interval below {percent}",
        ),
        ClaimKind.STRONGER_BY: (
            f"the whole 95 % interval of the difference at {points} or above",
            f"the whole interval of the difference below {points}",
        ),
        ClaimKind.DOES_NOT_WEAKEN: (
            f"the whole 95 % interval of its efficiency at {less} or above",
            f"the whole interval below {less}",
        ),
        ClaimKind.NEVER_JAMS_BELOW: (
            f"among knots that saw at most {percent}: {never}",
            "one knot that needed a tool, was cut or fused below that load",
        ),
        ClaimKind.NEVER_COMES_OUT: (never, "one pull in which it came out or capsized"),
        ClaimKind.CHANGES_LESS_THAN: (
            f"the whole 95 % interval of dressed minus crossed within {points} either way",
            f"the whole interval beyond {points} on one side",
        ),
        ClaimKind.WRAPS_HOLD: (
            "both lower bounds of the grip fit clear the load",
            "the whole interval of the typical grip below the load",
        ),
        ClaimKind.GRIPS_MORE: (
            f"the whole 95 % interval of the ratio at {100 + 100 * p:g} % or above, equal wraps",
            f"the whole interval below {100 + 100 * p:g} %",
        ),
        ClaimKind.NEVER_SHAKES_LOOSE: (never, "one specimen that was shaken and came loose"),
        ClaimKind.HAULS: (
            f"the whole 95 % interval of real over theoretical advantage at {percent} or above",
            f"the whole interval below {percent}",
        ),
        ClaimKind.OPENS_EASIER: (
            f"the whole 95 % interval of the difference at {points} or above",
            f"the whole interval of the difference below {points}",
        ),
        ClaimKind.EDGE_TAKES: (
            f"the whole 95 % interval of the loss at {points} or above",
            f"the whole interval of the loss below {points}",
        ),
        ClaimKind.RETAINS: (
            f"the whole 95 % interval of the grip kept at {percent} or above, and none slack",
            f"the whole interval below {percent}, or one that came slack",
        ),
    }[claim.kind]


def say_criterion(rule: PassCriterion) -> str:
    """A pass criterion in words."""
    percent = f"{100 * rule.threshold:g} %"
    if rule.measure is Measure.INTERVAL:
        return (
            f"the whole interval lies above {percent} of baseline, at {rule.of} pulls with 95 % or "
            "from the third on with 99.5 %"
        )
    if rule.need == rule.of == 1:
        times = "in its one pull"
    elif rule.need == rule.of:
        times = f"in all of {rule.of} pulls"
    else:
        times = f"in {rule.need} of {rule.of} pulls"
    what = {
        Measure.BREAKS_AT_KNOT: f"breaks at the test knot at {percent} of baseline or more",
        Measure.HOLDS_SHARE: f"holds {percent} of baseline or more",
        Measure.DRAW_D: f"tails draw {rule.threshold:g} d or less",
        Measure.OPENS: "opens without a tool",
        Measure.CYCLES: f"survives {rule.threshold:g} cycles",
    }[rule.measure]
    return f"{what}, {times}"
