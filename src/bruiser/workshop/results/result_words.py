"""What can be said and what cannot: lines made from the numbers, never a fixed sentence."""

from __future__ import annotations

import math
from collections.abc import Sequence

from bruiser.core.behaviour.jamming import HARD_PULL
from bruiser.core.behaviour.security import SecurityCriterion
from bruiser.core.behaviour.slip import ran_out_if_shorter, spare_in_steps
from bruiser.core.behaviour.tying import TyingResult
from bruiser.core.performance.claims import ClaimVerdict
from bruiser.core.records.records import JamLevel
from bruiser.core.statistics.drift import Drift, TechnicianDrift
from bruiser.core.statistics.strength import Interval
from bruiser.core.units import UnitChoice
from bruiser.core.words import count
from bruiser.workshop.groups.jam_results import JamRow
from bruiser.workshop.groups.slipping import SlipRow
from bruiser.workshop.groups.wrap_results import WrapRow
from bruiser.workshop.results.claiming import JudgedClaim
from bruiser.workshop.results.comparing import Compared, Partners
from bruiser.workshop.results.lot_results import KnotResult, LotResults

WIDE_POINTS = 0.20


def percent(value: float) -> str:
    """A share in percent; a tenth below one percent."""
    shown = 100 * value
    return f"{shown:.1f}" if 0 < abs(shown) < 1 else f"{shown:.0f}"


OPEN_ABOVE = (
    "“And more” leaves the upper end open: these pulls are too few to close it below the rope "
    "itself, and that a knot keeps no more than its rope is not assumed."
)


def _floor_percent(share: float) -> str:
    """A share that was seen and may not be rounded up beyond what was tried."""
    return percent(math.floor(100 * share + 1e-9) / 100)


def between(interval: Interval) -> str:
    """An interval of shares in words; a side beyond the rope itself is open, and said as such."""
    if interval.high > 1:
        return f"{percent(interval.low)} % and more"
    return f"between {percent(interval.low)} and {percent(interval.high)} %"


def say_strength(row: KnotResult) -> str:
    """What one knot's pulls say of its strength."""
    eff, name, n = row.efficiency, row.name, row.efficiency.counts.specimens
    pulls = count(n, "pull")
    interval = eff.interval
    if interval is not None and math.isfinite(interval.high) and interval.low > 0:
        text = f"{name} keeps {between(interval)} of the plain rope, from {pulls}"
        if eff.counts.came_out:
            text += f"; {eff.counts.came_out} of {n} came out"
        text += "."
        if interval.high > 1:
            text += " Its upper end is open: more pulls would close it."
        elif interval.high - interval.low > WIDE_POINTS:
            text += " That is too wide to build on; more pulls would narrow it."
        return text
    if eff.at_least is not None and eff.at_least > 1:
        return (
            f"Nothing gave at {name} in {pulls}, and at least one held more than the plain rope "
            "was measured to: look whether both are of one lot and condition."
        )
    if eff.at_least is not None:
        return (
            f"Nothing gave at {name} in {pulls}: at least one held "
            f"{_floor_percent(eff.at_least)} % of the plain rope. No upper figure can be given."
        )
    why = "; ".join(str(c) for c in eff.caveats)
    return f"{name}: {pulls}, not enough to give an interval ({why})."


def say_ladder(results: LotResults) -> str:
    """What a lot's ladder says as a whole: the top, and whether it can be told from the next."""
    rated = [r for r in results.knots if r.efficiency.interval is not None]
    if not results.knots:
        return "No knot has been pulled in this lot."
    if results.baseline.median_n is None:
        return (
            "There is no measured plain rope to compare with, so no share can be given: make "
            "straight pulls of this lot first."
        )
    if not rated:
        return " ".join(say_strength(r) for r in results.knots[:2])
    top = rated[0]
    text = say_strength(top)
    alike = [
        r.name for r in rated[1:] if set(r.letters) & set(top.letters) and r.lot.id == top.lot.id
    ]
    if len(rated) > 1:
        if not alike:
            text += f" It is stronger than each of the other {len(rated) - 1}."
        elif len(alike) == len(rated) - 1:
            text += " These pulls cannot tell it from any other here."
        else:
            shown = ", ".join(alike[:3]) + (" and more" if len(alike) > 3 else "")
            text += f" These pulls cannot tell it from {shown}."
    floors = [r.name for r in results.knots if r.efficiency.at_least is not None]
    if floors:
        text += f" Only “at least” is known of {', '.join(floors[:3])}."
    return text


def say_criterion_seen(c: SecurityCriterion) -> str:
    """One measured criterion of staying tied in words."""
    i = c.interval
    if i is None:
        return f"{c.name} not measured"
    if c.name == "draw":
        return f"draws {i.value:.1f} d ({i.low:.1f} to {i.high:.1f}) by 30 % of the plain rope"
    if c.name == "first slip":
        if not math.isfinite(i.high):
            return f"no slip seen up to {percent(i.value)} %"
        if i.value > 1:
            return f"first slips at {percent(i.low)} % or above"
        if i.high > 1:
            return f"first slips at {percent(i.value)} % ({percent(i.low)} and more)"
        return f"first slips at {percent(i.value)} % ({percent(i.low)} to {percent(i.high)})"
    if c.name == "came out":
        return f"{percent(i.value)} % came out ({percent(i.low)} to {percent(i.high)})"
    what = "the cycles" if c.name == "cycles" else "the shaking"
    low, high = percent(i.low), percent(i.high)
    return f"{percent(i.value)} % still tied after {what} ({low} to {high})"


def say_security(row: SlipRow) -> str:
    """The verdict on staying tied: its weakest criterion, and what few pulls leave open."""
    verdict, name = row.verdict, row.case.name
    weakest = verdict.weakest
    if weakest is None:
        return f"Nothing of {name} was measured that says whether it stays tied."
    seen = say_criterion_seen(weakest)
    if (weakest.grade_as_seen or 0.0) >= 1.0 and (weakest.grade or 0.0) < 1.0:
        text = f"No weakness of {name} was seen: {seen}; too few pulls to rule one out."
    elif (weakest.grade or 0.0) >= 1.0:
        text = f"{name} stays tied by all that was measured; the least of it: {seen}."
    else:
        text = f"{name} is judged by its weakest side, {weakest.name}: {seen}."
    if verdict.not_measured:
        text += f" Not measured: {', '.join(verdict.not_measured)}."
    return text


def say_tails(row: SlipRow, units: UnitChoice) -> str:
    """How near the tails came to running out; empty where none was measured."""
    use = row.slip.tails
    if use.tails == 0:
        return ""
    if use.tightest_m is None:
        return f"All {use.tails} tails ran out." if use.ran_out == use.tails else ""
    less = spare_in_steps(use.tightest_m)
    lost = ran_out_if_shorter(list(row.tails), less) - use.ran_out
    text = f"With {units.length_text(less)} less tail {count(lost, 'more knot')} would have run out"
    if use.share_used is not None:
        text += f"; the most any tail used is {percent(use.share_used)} % of it"
    return f"{text}."


def say_jam(row: JamRow) -> str:
    """What one knot's untying says."""
    name, n = row.case.name, len(row.attempts)
    if not n:
        return f"No {name} was untied after a pull."
    fused = row.counts.get(JamLevel.FUSED, 0)
    cut = row.counts.get(JamLevel.CUT, 0)
    lost = [f"{count(fused, 'knot')} fused"] if fused else []
    lost += [f"{count(cut, 'knot')} had to be cut"] if cut else []
    tail = f" {' and '.join(lost)}." if lost else ""
    if row.jam is None:
        easy = sum(row.counts.get(x, 0) for x in (JamLevel.SHAKEN, JamLevel.HAND, JamLevel.WORKED))
        return (
            f"{easy} of {n} {name} opened without a tool; no plain rope to set that against.{tail}"
        )
    if row.jam.above is not None:
        return (
            f"Every {name} opened without a tool, {n} of {n}, up to "
            f"{_floor_percent(row.jam.above)} % of the plain rope, the highest load tried; whether "
            f"and where it jams beyond that was not tried.{tail}"
        )
    if row.jam.below is not None:
        return (
            f"No {name} opened without a tool, 0 of {n}, from {percent(row.jam.below)} % of the "
            f"plain rope on, the lowest load tried.{tail}"
        )
    j50, opens = row.jam.j50, row.opens_after_hard
    assert j50 is not None
    text = (
        f"{name}: half jam {between(j50)} of the plain rope, from {count(n, 'attempt')}"
        if j50.high <= 1
        else f"{name}: half jam somewhere above {percent(j50.low)} % of the plain rope; "
        f"{count(n, 'attempt')} do not say how far"
    )
    if opens is not None:
        text += (
            f"; after a pull to {100 * HARD_PULL:.0f} % {between(opens)} still open without a tool"
        )
    return f"{text}.{tail}"


def say_wraps(row: WrapRow, units: UnitChoice, cord_n: float | None) -> str:
    """How many wraps are enough, and what is refused."""
    target = units.force_text(row.target_n)
    name = f"{row.knot.title} of {row.cord.name} on {row.host.name}"
    if row.refused:
        return f"{name}: {row.refused}"
    beyond = f" More than {row.most_tested + 1} wraps are not judged: too far from what was tested."
    if row.fewest is None:
        return (
            f"No number of wraps up to {row.most_tested + 1} is shown to hold {target} with {name}."
            f"{beyond}"
        )
    wraps = row.fewest.wraps
    text = f"{count(wraps, 'wrap')} typically hold {target} with {name}"
    if row.fewest_nine is None:
        text += "; that nine of ten do is not shown for any"
    elif row.fewest_nine.wraps == wraps:
        text += ", and nine of ten do"
    else:
        text += f"; for nine of ten take {row.fewest_nine.wraps}"
    if wraps > row.most_tested:
        text += ". That is one more than was tested: test it before trusting it"
    if cord_n is not None and row.target_n > cord_n:
        text += f". But the cord itself breaks at {units.force_text(cord_n)}"
    return f"{text}.{beyond}"


def say_tying(name: str, found: TyingResult) -> str:
    """What the tying trials of one knot say."""
    parts = []
    for tied in found.by_hands:
        text = f"{tied.hands}: {count(tied.trials, 'trial')}"
        if tied.seconds is not None:
            i = tied.seconds
            text += f", typically {i.value:.0f} s ({i.low:.0f} to {i.high:.0f})"
        if tied.wrong:
            text += f", {count(tied.wrong, 'wrong tie')} on the way"
        parts.append(text)
    seen = found.inspected
    if not parts:
        return f"No tying trial of {name} yet."
    text = f"{name}, {'; '.join(parts)}."
    if not seen.judged:
        return f"{text} Nobody has judged one without being told."
    own = seen.right - seen.taken_for_another
    text += f" Of {seen.judged} judged blind {own} were known for what they were"
    if seen.wrong:
        text += f", {seen.wrong} were seen to be tied wrong"
    if seen.taken_for_another:
        text += f", {seen.taken_for_another} were taken for another knot"
    if seen.unsure:
        text += f", {seen.unsure} could not be told"
    return f"{text}."


def say_compared(compared: Compared) -> str:
    """What can be told apart, how many pairs were looked at, and what more it would take."""
    pairs = [c for c in compared.contrasts if c.points is not None]
    if not pairs:
        return "Nothing gave in at least two of these, so no difference can be given."
    apart = [c for c in pairs if c.told_apart]
    names = [r.name for r in compared.rows]
    looked = count(len(compared.contrasts), "pair")
    if not apart:
        text = f"Not one of {looked} looked at can be told apart."
    else:
        widest = max(apart, key=lambda c: abs(c.points.value) if c.points else 0.0)
        i = widest.points
        assert i is not None
        a, b = (widest.a, widest.b) if i.value > 0 else (widest.b, widest.a)
        low, high = sorted((abs(i.low), abs(i.high)))
        text = (
            f"{len(apart)} of {looked} can be told apart; most clearly {names[a]} is "
            f"{100 * low:.0f} to {100 * high:.0f} points stronger than {names[b]}."
        )
    open_pairs = [
        (more, c)
        for more, c in zip(compared.more, compared.contrasts, strict=True)
        if more is not None and c in pairs
    ]
    if open_pairs:
        more, c = min(open_pairs, key=lambda pair: pair[0])
        text += (
            f" Nearest to a decision: {names[c.a]} and {names[c.b]}, with about "
            f"{count(more, 'more pull')} of each."
        )
    return text


def say_partners(found: Partners) -> str:
    """What a paired design says."""
    points = found.points
    if found.paired is None or points is None:
        return f"{found.knot}: too few pairs in which both gave."
    value, low, high = (100 * v for v in points)
    way = "apart from zero" if low > 0 or high < 0 else "may be nothing"
    return (
        f"{found.knot}, {found.states[0]} less {found.states[1]}, pair by pair from one hank: "
        f"{value:+.1f} points "
        f"({low:+.1f} to {high:+.1f}) from {count(found.paired.pairs, 'pair')}; {way}."
    )


def say_drift(drifts: Sequence[Drift], people: TechnicianDrift | None) -> str:
    """Whether the pulls drift, and with what."""
    said = []
    for d in drifts:
        low, high = 100 * d.low, 100 * d.high
        if d.warns:
            word = "rise" if d.change > 0 else "fall"
            said.append(
                f"Strengths {word} with the {_by(d)}: {100 * d.change:+.0f} % from first to last "
                f"({low:+.0f} to {high:+.0f}), over {count(d.pulls, 'pull')}. Compare nothing "
                "across that range before the cause is known."
            )
        else:
            said.append(
                f"No drift with the {_by(d)} is seen in {count(d.pulls, 'pull')}; "
                f"one of {low:+.0f} to {high:+.0f} % would fit."
            )
    if people is not None:
        gap = f"{100 * people.difference:+.1f} %"
        if people.warns:
            said.append(f"{people.first} and {people.second} differ by {gap}: look how each sets.")
        else:
            said.append(
                f"{people.first} and {people.second} cannot be told apart ({gap}, "
                f"p {people.p_adjusted:.2f})."
            )
    return " ".join(said) or "Too few pulls to say anything about drift: five that gave are needed."


def _by(drift: Drift) -> str:
    return "test order" if drift.by == "order" else drift.by


def say_claims(judged: Sequence[JudgedClaim]) -> str:
    """How the claims stand as a whole."""
    if not judged:
        return "The brief holds no claim to test."
    verdicts = [None if j.judgement is None else j.judgement.verdict for j in judged]
    parts = [
        f"{n} {word}"
        for verdict, word in (
            (ClaimVerdict.SUPPORTED, "supported"),
            (ClaimVerdict.CONTRADICTED, "contradicted"),
            (ClaimVerdict.UNDECIDED, "not decided"),
            (None, "without pulls that could say anything"),
        )
        if (n := verdicts.count(verdict))
    ]
    text = f"Of {count(len(judged), 'judgement')}: {', '.join(parts)}."
    open_ones = [
        j.judgement.more_pulls for j in judged if j.judgement is not None and j.judgement.more_pulls
    ]
    if open_ones:
        text += f" The nearest would be decided by about {count(min(open_ones), 'more pull')}."
    return text
