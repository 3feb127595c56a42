"""What the sheets of Results add: slip, draw, jam ladders, differences and tying, from known truth.

Each function simulates one cell; ``python -m validation.reading`` runs them all and writes
docs/validation-results.md.
"""

from __future__ import annotations

import math
import sys
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

from bruiser.core.behaviour.jamming import jam_load
from bruiser.core.behaviour.slip import OnsetSeen, SlipSeen, TailSeen, measure_slips
from bruiser.core.behaviour.tying import measure_tying
from bruiser.core.records.preparation import TyingTrial
from bruiser.core.statistics.compare import locate
from bruiser.core.statistics.contrast import Side, contrasts
from bruiser.core.statistics.posterior import BASELINE_PRIOR, KNOT_PRIOR, posterior
from bruiser.core.statistics.strength import estimate
from validation.statistics import BASELINE_N, Measured, _baseline, knot_sample

REPORT = Path(__file__).parent.parent / "docs" / "validation-results.md"
SEED = 20261125


def onset_cell(spread: float, pulls: int, knots: int, campaigns: int) -> Measured:
    """Coverage of the typical onset; above 0.9 of the plain rope nothing slips any more."""
    rng = np.random.default_rng([SEED, 1, round(1000 * spread), pulls, knots])
    truth, end, held, decided = 0.4, 0.7 * BASELINE_N, 0, 0
    for _ in range(campaigns):
        x = math.log(truth * BASELINE_N) + spread * rng.standard_normal((pulls, knots))
        first = np.exp(x.min(axis=1))
        seen = [
            OnsetSeen(pull_id=f"{k}", load_n=min(v, end), slipped=v < end, knots=knots)
            for k, v in enumerate(first)
        ]
        found = measure_slips(
            [SlipSeen(onsets=tuple(seen), tails=(), diameter_m=0.008, baseline_n=BASELINE_N)]
        )[0].onset
        if found is not None:
            decided += 1
            held += found.low <= truth <= found.high
    return Measured(held / max(decided, 1), decided, 0.0, campaigns - decided)


def draw_cell(spread: float, tails: int, campaigns: int) -> Measured:
    """Coverage of the typical draw where a tail of 12 d runs out now and then."""
    rng = np.random.default_rng([SEED, 2, round(1000 * spread), tails])
    truth, d, given, held, decided = 4.0, 0.008, 0.096, 0, 0
    for _ in range(campaigns):
        drawn = d * truth * np.exp(spread * rng.standard_normal(tails))
        seen = [
            TailSeen(
                pull_id=f"{k}", load_n=1.0, draw_m=min(v, given), given_m=given, ran_out=v >= given
            )
            for k, v in enumerate(drawn)
        ]
        found = measure_slips(
            [SlipSeen(onsets=(), tails=tuple(seen), diameter_m=d, baseline_n=None)]
        )[0].draw_d
        if found is not None:
            decided += 1
            held += found.low <= truth <= found.high
    return Measured(held / max(decided, 1), decided, 0.0, campaigns - decided)


def ladder_cell(knots: int, steps: int, campaigns: int) -> Measured:
    """Coverage of J50 from knots untied at every step of a stepped load."""
    rng = np.random.default_rng([SEED, 3, knots, steps])
    loads = np.linspace(0.3, 0.9, steps)
    truth, width, held, decided = 0.6, 0.18, 0, 0
    for _ in range(campaigns):
        own = np.exp(math.log(truth) + width * rng.logistic(size=knots))
        below = [max((x for x in loads if x < t), default=0.0) for t in own]
        above = [min((x for x in loads if x >= t), default=math.inf) for t in own]
        brackets = list(zip(below, above, strict=True))
        nothing = np.array([])
        found = jam_load(nothing, nothing, brackets=np.array(brackets))
        if found is not None and found.j50 is not None:
            decided += 1
            held += found.j50.low <= truth <= found.j50.high
    return Measured(held / max(decided, 1), decided, 0.0, campaigns - decided)


def points_cell(cv: float, pulls: int, across: bool, campaigns: int) -> Measured:
    """Coverage of the difference of two knots in points, in one cordage or across two."""
    rng = np.random.default_rng([SEED, 4, round(1000 * cv), pulls, int(across)])
    held, bias = 0, 0.0
    for _ in range(campaigns):
        ropes = [_baseline(rng, False), _baseline(rng, False)]
        first = knot_sample(rng, cv, pulls, 2)
        second = knot_sample(rng, cv, pulls, 2)
        # The second keeps ten points less.
        second = type(second)(second.ln_load + math.log(0.6 / 0.7), second.events, second.floors)
        sides = []
        for n, knot in enumerate((first, second)):
            rope = ropes[n if across else 0]
            sides.append(
                Side(
                    marginal=posterior([knot], KNOT_PRIOR).table(),
                    baseline=posterior([rope], BASELINE_PRIOR).table(),
                    base_key=f"{n if across else 0}",
                    located=locate(knot, estimate(knot)),
                    base_located=locate(rope, estimate(rope)),
                )
            )
        found = contrasts(sides)[0].points
        if found is not None:
            held += found.low <= 0.1 <= found.high
            bias += found.value - 0.1
    return Measured(held / campaigns, campaigns, bias / campaigns)


def tying_cell(trials: int, campaigns: int) -> Measured:
    """Coverage of the typical time to tie."""
    rng = np.random.default_rng([SEED, 5, trials])
    held = 0
    for _ in range(campaigns):
        seconds = 40 * np.exp(0.4 * rng.standard_normal(trials))
        found = measure_tying(
            [(f"{k}", TyingTrial(seconds=float(s))) for k, s in enumerate(seconds)], "x"
        )
        interval = found.by_hands[0].seconds
        held += interval is not None and interval.low <= 40 <= interval.high
    return Measured(held / campaigns, campaigns)


Cell = tuple[str, Callable[[], Measured]]


def cells(campaigns: int) -> dict[str, list[Cell]]:
    """Every cell by the table it stands in."""

    def onset(s: float, n: int, k: int) -> Cell:
        return f"spread {s:g}, {n} pulls, {k} knots", lambda: onset_cell(s, n, k, campaigns)

    def draw(s: float, n: int) -> Cell:
        return f"spread {s:g}, {n} tails", lambda: draw_cell(s, n, campaigns)

    def ladder(n: int, k: int) -> Cell:
        return f"{n} knots, {k} steps", lambda: ladder_cell(n, k, campaigns)

    def points(cv: float, n: int, across: bool) -> Cell:
        where = "two cordages" if across else "one cordage"
        name = f"CV {100 * cv:.0f} %, {n} pulls, {where}"
        return name, lambda: points_cell(cv, n, across, campaigns)

    def tying(n: int) -> Cell:
        return f"{n} trials", lambda: tying_cell(n, campaigns)

    return {
        "First slip as a share of the plain rope": [
            onset(s, n, k) for s in (0.15, 0.3) for n in (3, 6, 10) for k in (1, 2)
        ],
        "Tail draw, tails running out among them": [
            draw(s, n) for s in (0.3, 0.6) for n in (4, 8, 16)
        ],
        "J50 from jam ladders": [ladder(n, k) for n in (4, 8) for k in (4, 7)],
        "Difference of two knots in points": [
            points(cv, n, across) for cv in (0.06, 0.12) for n in (4, 8) for across in (False, True)
        ],
        "Time to tie": [tying(n) for n in (2, 4, 8)],
    }


LEAST = 0.92
HEAD = "| cell | campaigns | coverage | bias | undecided | reached |"


def main() -> int:
    """Run all and write the report; 1 when a cell covers too little."""
    began, failed, lines = time.monotonic(), [], []
    for title, rows in cells(1_000).items():
        lines += ["", f"## {title}", "", HEAD, "| --- | --- | --- | --- | --- | --- |"]
        for name, measure in rows:
            m = measure()
            ok = m.share + 2 * m.error >= LEAST
            failed += [] if ok else [f"{title}: {name}"]
            bias = f"{100 * m.bias:+.2f} points" if m.bias else ""
            lines.append(
                f"| {name} | {m.trials} | {100 * m.share:.1f} % | {bias} | {m.without} | "
                f"{'yes' if ok else 'no'} |"
            )
            print(lines[-1], flush=True)
    minutes = (time.monotonic() - began) / 60
    head = [
        "# What the sheets of Results reach, measured",
        "",
        f"Written by `python -m validation.reading` (seed {SEED}, {minutes:.0f} minutes). "
        "Campaigns are simulated from known truth: plain rope CV 4 %, 5 straight pulls. Wanted: "
        "a 95 % interval that holds the truth in 92 % or more, two standard errors allowed. "
        "“Undecided” campaigns give no interval, and are told so.",
    ]
    REPORT.write_text("\n".join([*head, *lines]) + "\n", encoding="utf-8")
    print(f"not reached: {failed or 'nothing'}")
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
