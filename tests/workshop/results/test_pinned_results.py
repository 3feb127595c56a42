"""The demo's results, pinned: what is computed now equals what was stored, and holds the truth.

``python -m tests.workshop.results.test_pinned_results`` writes the stored figures anew; look at the
difference before committing it.
"""

import json
import math
from importlib.resources import files
from pathlib import Path

import pytest

from bruiser.core.performance.efficiency import Against
from bruiser.workshop.groups.gathering import gather
from bruiser.workshop.groups.jam_results import jam_row
from bruiser.workshop.groups.knot_cases import knot_cases
from bruiser.workshop.groups.slipping import slip_row
from bruiser.workshop.groups.work_results import work_rows
from bruiser.workshop.groups.wrap_results import default_target_n, wrap_row, wrap_tests
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import open_workshop
from bruiser.workshop.results.claiming import judge_claims
from bruiser.workshop.results.comparing import compare_rows, partners
from bruiser.workshop.results.lot_results import Look, all_results


@pytest.fixture(scope="module")
def logbook(demo_shelf):
    return demo_shelf[0].logbook


@pytest.fixture(scope="module")
def gathered(logbook):
    return gather(logbook)


STORED = Path(__file__).parents[2] / "data" / "demo-results.json"


def numbers(interval):
    if interval is None:
        return None
    sides = (interval.value, interval.low, interval.high)
    return [round(v, 6) if math.isfinite(v) else None for v in sides]


def figures(logbook):
    """Every headline figure of the campaign, by what it is of."""
    gathered = gather(logbook)
    results = all_results(gathered)
    found = {}
    for lot_id, r in results.items():
        lot, base = r.baseline.lot.name, r.baseline.median_n
        found[f"{lot}: plain rope"] = None if base is None else round(base, 3)
        for row in r.knots:
            name = f"{lot}: {row.name}"
            found[f"{name}: share"] = numbers(row.efficiency.interval)
            found[f"{name}: letters"] = row.letters
            bound = row.rated.tolerance.get(0.95)
            found[f"{name}: floor"] = None if bound is None else round(bound.load_n, 3)
            if row.whole is not None:
                found[f"{name}: with it"] = numbers(row.whole.efficiency.interval)
        for case in knot_cases(gathered, lot_id):
            name = f"{lot}: {case.name}"
            slip, jam = slip_row(case, base), jam_row(case, base)
            weakest = slip.verdict.weakest
            found[f"{name}: onset"] = numbers(slip.slip.onset)
            found[f"{name}: came out"] = numbers(slip.came_out)
            found[f"{name}: cycles"] = numbers(slip.cycles.last)
            found[f"{name}: shakes"] = numbers(slip.shakes.last)
            found[f"{name}: weakest"] = None if weakest is None else weakest.name
            found[f"{name}: half jam"] = None if jam.jam is None else numbers(jam.jam.j50)
            found[f"{name}: untying"] = numbers(jam.untie_s)
        for row in work_rows(gathered, lot_id):
            name, work = f"{lot}: {row.key.knot} {row.key.wraps or ''} {row.key.on}", row.result
            for what, hold in (("grip", work.grip), ("seat", work.seat)):
                if hold is not None:
                    found[f"{name}: {what}"] = numbers(hold.interval)
                    found[f"{name}: {what}, share"] = numbers(hold.share)
                    found[f"{name}: {what}, counted"] = [hold.gave, hold.held]
            if work.release is not None:
                found[f"{name}: freed"] = numbers(work.release.freed)
                found[f"{name}: freed itself"] = numbers(work.release.freed_itself)
                found[f"{name}: release"] = numbers(work.release.force_share)
            if work.advantage is not None:
                found[f"{name}: advantage"] = numbers(work.advantage.advantage)
                found[f"{name}: kept"] = numbers(work.advantage.kept)
            if work.retention is not None:
                found[f"{name}: retained"] = numbers(work.retention.kept)
                found[f"{name}: slack"] = work.retention.slack
            if work.bulk is not None:
                found[f"{name}: width"] = numbers(work.bulk.width_d)
                found[f"{name}: ledge"] = numbers(work.bulk.force_n)
        for pair in partners(r):
            found[f"{lot}: {pair.first} – {pair.second}"] = [round(v, 6) for v in pair.points]
        for key, marks in wrap_tests(gathered, lot_id).items():
            target = default_target_n(gathered, lot_id, logbook)
            wraps = wrap_row(logbook, lot_id, key, marks, target)
            said = [wraps.fewest, wraps.fewest_nine]
            found[f"{lot}: wraps"] = [None if c is None else c.wraps for c in said]
    p8 = next(r for r in results.values() if r.baseline.lot.name == "P8-B")
    for c in compare_rows(p8.knots[:4], results).contrasts:
        found[f"P8-B: {c.a} – {c.b}"] = [*numbers(c.points), round(c.p_adjusted, 6)]
    for n, judged in enumerate(judge_claims(logbook, gathered, results)):
        verdict = None if judged.judgement is None else judged.judgement.verdict.value
        found[f"claim {n} in {judged.lot_name}"] = verdict
    return found


def demo_journal(path):
    workshop = open_workshop(path, read_only=True)
    try:
        return read_logbook(workshop)
    finally:
        workshop.close()


@pytest.fixture(scope="module")
def results(logbook):
    return all_results(gather(logbook))


@pytest.mark.long
def test_the_demos_figures_are_the_stored_ones(logbook):
    stored, now = json.loads(STORED.read_text()), figures(logbook)
    assert now.keys() == stored.keys()
    for key, value in now.items():
        kept = stored[key]
        if isinstance(value, list) and all(v is not None for v in value):
            assert value == pytest.approx(kept, rel=1e-4, abs=2e-6), key
        elif isinstance(value, float):
            assert value == pytest.approx(kept, rel=1e-4), key
        else:
            assert value == kept, key


def test_the_plain_ropes_hold_the_simulators_truth(logbook, results):
    for r in results.values():
        truths = {
            e.pull.remains["truth"]["lot_strength_n"]
            for e in logbook.entries
            if e.pull is not None and e.specimen.lot.id == r.baseline.lot.id
        }
        if r.baseline.median_n is None:
            continue
        (truth,) = truths
        spread = r.baseline.estimate.sigma / math.sqrt(r.baseline.counts.broke)
        assert abs(math.log(r.baseline.median_n / truth)) < 4 * max(spread, 0.01)


def test_knots_hold_the_simulators_truth_as_often_as_they_should(logbook, results):
    """The true share of a knot that breaks is the mean ln strength of the knots as simulated."""
    hits, judged = 0, 0
    for r in results.values():
        for row in r.knots:
            interval = row.efficiency.interval
            if (
                interval is None
                or row.efficiency.counts.came_out
                or row.group.method != "ramp to failure"
            ):
                continue
            shares = [
                t.entry.pull.remains["truth"][f"knot_{end.value}_n"]
                / t.shares
                / t.entry.pull.remains["truth"]["lot_strength_n"]
                for t in row.group.tried
                for end in t.ends
                if f"knot_{end.value}_n" in t.entry.pull.remains["truth"]
            ]
            truth = math.exp(sum(map(math.log, shares)) / len(shares))
            judged += 1
            hits += interval.low <= truth <= interval.high
    assert judged >= 12
    assert hits >= judged - 1


def test_every_number_names_pulls_that_are_there(logbook, results):
    for r in results.values():
        for row in r.knots:
            counted = [m for m in row.marks if not m.left_out]
            assert tuple(m.pull_id for m in counted) == row.efficiency.pull_ids
            assert {m.pull_id for m in row.marks} <= logbook.by_pull.keys()


@pytest.mark.parametrize("against", list(Against))
def test_every_definition_has_its_own_hundred_percent(logbook, against):
    found = all_results(gather(logbook), Look(against))
    p8 = next(r for r in found.values() if r.baseline.lot.name == "P8-B")
    row = next(r for r in p8.knots if r.name == "Bowline")
    mark = row.marks[0]
    seen = [m.load_n for m in p8.baseline.marks if m.kind == "broke"]
    hundred = {
        Against.TYPICAL: p8.baseline.median_n,
        Against.LOWEST: min(seen),
        Against.RATING: p8.baseline.lot.rated_strength_n,
    }[against]
    assert mark.load_n / mark.share == pytest.approx(hundred)
    assert row.efficiency.against is against


def test_two_unlike_lines_are_measured_against_the_weaker(results):
    lots = {r.baseline.lot.name: r for r in results.values()}
    row = next(
        r for r in lots["N7-T"].knots if r.key.cordage_b and r.key.knot == "Double sheet bend"
    )
    assert row.result.reference == "N5-T"
    assert row.result.reference_n == pytest.approx(lots["N5-T"].baseline.median_n)
    other, own = row.result.other.efficiency.interval, row.efficiency.interval
    assert other.value == pytest.approx(
        own.value * lots["N5-T"].baseline.median_n / lots["N7-T"].baseline.median_n, rel=0.01
    )


if __name__ == "__main__":
    demo = Path(str(files("bruiser.app").joinpath("demo", "fennock-ridge.bruiser")))
    made = figures(demo_journal(demo))
    STORED.write_text(json.dumps(made, indent=1, ensure_ascii=False) + "\n")
    print(f"{len(made)} figures")
