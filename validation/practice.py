"""What practice insists on, as orderings and bounds of the simulated bench, over many seeds.

Each statement is one :class:`Ordering`: the simulated quantity for every seed, and whether it holds
in that seed. A statement holds when it does on the medians; the share of seeds is told beside it.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from bruiser.catalogue import load_catalogue
from bruiser.core.records.layouts import End, lay
from bruiser.core.words import count
from bruiser.rig.simulated.archetypes import kept_share
from bruiser.rig.simulated.cords import CORDS
from bruiser.rig.simulated.setup import SpecimenSetup
from bruiser.rig.simulated.specimen import SimulatedSpecimen
from bruiser.rig.simulated.variants import tying

NYLON, SLICK = "nylon kernmantle", "HMPE hollow braid"
OTHER_WAY = "standing part the other way along the host"
_HOST_MM, _CORD_MM = 10.0, 7.0
_BREAKS = 9.0


@dataclass(frozen=True)
class Ordering:
    """A statement of practice with what the bench says of it.

    Parameters
    ----------
    medians : tuple of (str, float)
        What is compared, by name, with its median.
    holds : bool
        Whether it holds on the medians.
    share : float
        Share of the seeds in which it holds.
    argument : str
        Why practice insists on it.
    unit : str
        Of the medians; empty for shares of the dry rope and for numbers.
    """

    name: str
    medians: tuple[tuple[str, float], ...]
    holds: bool
    share: float
    seeds: int
    argument: str
    unit: str = ""


def setup_of(
    structure: str | None,
    *,
    cord: str = NYLON,
    d_mm: float = _CORD_MM,
    choices: dict[str, str] | None = None,
    wraps: int = 0,
    **more: object,
) -> SpecimenSetup:
    """One knot on the simulated bench, as it lies by the catalogue."""
    layout, knots = "baseline", {}
    if structure is not None:
        tied = tying(structure, choices)
        if tied is None:
            raise ValueError(f"{structure} has no synthetic knot")
        if wraps:
            tied = replace(tied, archetype=replace(tied.archetype, wraps=float(wraps)))
        knots = {End.A: tied}
        layout = load_catalogue()[structure].layout
        layout = "loop_single" if layout == "loop_pair" else layout
    given: dict[str, object] = {
        "cord": cord,
        "diameter_mm": d_mm,
        "span_mm": 300.0,
        "layout": layout,
        "knots": knots,
        "tails_mm": {t.key: 14 * d_mm for t in lay(layout).tails},
    }
    return SpecimenSetup(**(given | more))  # type: ignore[arg-type]


def grips(made: SpecimenSetup, seeds: int) -> np.ndarray:
    """Load share at which the knot first slides, seed by seed; :data:`_BREAKS` where it never does.

    Of the rope as it would be dry and whole, so that water shows.
    """
    found = []
    for seed in range(seeds):
        lies = SimulatedSpecimen(replace(made, seed=seed, lot_seed=seed))
        knot = lies.knots[0]
        whole = SimulatedSpecimen(
            replace(made, seed=seed, lot_seed=seed, wet=False, iced=False, muddy=False)
        )
        found.append(min(knot.slip_n, _BREAKS * whole.strength_n) / whole.strength_n)
    return np.array(found)


def pulled(made: SpecimenSetup, seed: int, to_share: float = 9.0) -> SimulatedSpecimen:
    """A specimen pulled until it gives, or to a share of its strength."""
    lies, at = SimulatedSpecimen(replace(made, seed=seed, lot_seed=seed)), 0.0
    while lies.gave is None and lies.load_n < to_share * lies.strength_n and at < 4_000.0:
        at += 0.16
        lies.advance(at, 0.02)
    return lies


def untied(made: SpecimenSetup, seeds: int, share: float) -> list[str]:
    """What untying took after a load, seed by seed, where the knot did not give before."""
    found = []
    for seed in range(seeds):
        lies = pulled(made, seed, share)
        if lies.gave is None:
            found.append(lies.try_untying(End.A, 0)[0])
    return found


def _ordered(
    name: str, argument: str, named: Sequence[tuple[str, np.ndarray]], factor: float = 1.0
) -> Ordering:
    """Each is at least so many times the next, seed by seed and on the medians."""
    medians = [float(np.median(x)) for _, x in named]
    pairs = list(itertools.pairwise(named))
    each = np.ones(len(named[0][1]), dtype=bool)
    for (_, more), (_, less) in pairs:
        each &= more > factor * less
    holds = all(a > factor * b for a, b in itertools.pairwise(medians))
    return Ordering(
        name=name,
        medians=tuple(zip((n for n, _ in named), medians, strict=True)),
        holds=holds,
        share=float(each.mean()),
        seeds=len(each),
        argument=argument,
    )


def _between(
    name: str, argument: str, named: Sequence[tuple[str, np.ndarray]], low: float, high: float
) -> Ordering:
    """Every one lies between two bounds."""
    medians = [float(np.median(x)) for _, x in named]
    each = np.all([(x >= low) & (x <= high) for _, x in named], axis=0)
    return Ordering(
        name=name,
        medians=tuple(zip((n for n, _ in named), medians, strict=True)),
        holds=all(low <= m <= high for m in medians),
        share=float(each.mean()),
        seeds=len(each),
        argument=argument,
    )


def _on_rope(structure: str, wraps: int = 3, **more: object) -> SpecimenSetup:
    return setup_of(structure, wraps=wraps, other_cord=NYLON, other_mm=_HOST_MM, **more)


def friction_order(seeds: int) -> Ordering:
    """Two-way wrapped, one-way with a ring, braided through its own bight, plain wrap."""
    names = ("prusik", "bachmann", "klemheist", "autoblock")
    return _ordered(
        "Friction hitches of three wraps on one pair of ropes",
        "What crosses the host on both sides of a bridge is squeezed by its own eye; wraps that "
        "run one way are squeezed from one end only; a plain wrap has nothing that closes it.",
        [(n, grips(_on_rope(n), seeds)) for n in names],
    )


def frees_easiest(seeds: int) -> Ordering:
    """The plain wrap is shifted by hand with the least force."""
    names = ("prusik", "bachmann", "klemheist", "autoblock")
    forces = []
    for n in names:
        lies = [pulled(_on_rope(n), s, 0.10) for s in range(seeds)]
        forces.append((n, np.array([x.remains().truth["by_hand_n"] for x in lies])))
    least = forces[-1]
    others = np.min([x for _, x in forces[:-1]], axis=0)
    found = _ordered(
        "The plain wrap frees easiest after a load",
        "It is tied to be let go: nothing of it has to be opened first.",
        [("least of the others", others), least],
    )
    return replace(found, unit=" N")


def wrong_way(structure: str, seeds: int) -> Ordering:
    """A one-way hitch keeps under a fifth the other way."""
    if structure == "rolling-hitch":
        host = {"host_mm": 60.0, "host_finish": "smooth"}
        right = grips(setup_of(structure, **host), seeds)
        wrong = grips(setup_of(structure, direction=OTHER_WAY, **host), seeds)
    else:
        right = grips(_on_rope(structure), seeds)
        wrong = grips(_on_rope(structure, direction=OTHER_WAY), seeds)
    return _ordered(
        f"{structure} pulled the wrong way",
        "The turns that the load would tighten are the ones it now opens.",
        [("its way, a fifth of it", 0.2 * right), ("the other way", wrong)],
    )


def cord_as_thick(seeds: int, cord: str) -> Ordering:
    """Cord as thick as its host grips under a third of cord at 0.6 to 0.8 of it."""
    thin = [
        grips(
            setup_of("prusik", cord=cord, wraps=3, d_mm=r * 10.0, other_cord=cord, other_mm=10.0),
            seeds,
        )
        for r in (0.6, 0.7, 0.8)
    ]
    thick = grips(
        setup_of("prusik", cord=cord, wraps=3, d_mm=10.0, other_cord=cord, other_mm=10.0), seeds
    )
    return _ordered(
        f"Cord as thick as its host, {cord}",
        "It cannot bend closely round a host of its own thickness, and takes the host with it.",
        [("a third of the thin cord", np.min(thin, axis=0) / 3), ("as thick as the host", thick)],
    )


def conditions(seeds: int) -> list[Ordering]:
    """Ice, mud and water."""
    dry = grips(_on_rope("prusik"), seeds)
    iced = grips(_on_rope("prusik", iced=True, wet=True), seeds) / dry
    muddy = grips(_on_rope("prusik", muddy=True), seeds) / dry
    loads = []
    for wet in (False, True):
        made = setup_of(None, wet=wet)
        loads.append(
            np.array(
                [
                    SimulatedSpecimen(replace(made, seed=s, lot_seed=s)).strength_n
                    for s in range(seeds)
                ]
            )
        )
    why = "Ice melts to a film under the wraps, and mud fills what the strands would bite into."
    return [
        _between("Iced wraps grip about half", why, [("iced over dry", iced)], 0.35, 0.60),
        _between("Muddy wraps grip about three quarters", why, [("muddy", muddy)], 0.65, 0.85),
        _between(
            "Wet nylon is a tenth weaker",
            "Nylon takes up water, which loosens the bonds between its chains.",
            [("wet over dry", loads[1] / loads[0])],
            0.85,
            0.95,
        ),
    ]


def tent_lines(seeds: int) -> list[Ordering]:
    """The tent-line hitch, its wrong finish and its sibling with the crossed turn."""
    right = grips(setup_of("taut-line-hitch"), seeds)
    wrong = grips(setup_of("taut-line-hitch", choices={"finish": "cow"}), seeds)
    crossed = grips(setup_of("midshipmans-hitch"), seeds)
    thick = {"cord": SLICK, "d_mm": 12.0}
    gains = [
        (
            "thick and slick",
            grips(setup_of("midshipmans-hitch", **thick), seeds)
            / grips(setup_of("taut-line-hitch", **thick), seeds),
        ),
        (
            "thin nylon",
            grips(setup_of("midshipmans-hitch", d_mm=5.0), seeds)
            / grips(setup_of("taut-line-hitch", d_mm=5.0), seeds),
        ),
    ]
    return [
        _ordered(
            "The crossed second turn, the right finish, the wrong finish",
            "A turn that rides on the one before it bites by itself; a finish of the other hand "
            "lets the grip tilt.",
            [("crossed turn", crossed), ("right finish", right), ("wrong finish", wrong)],
        ),
        _ordered(
            "The crossed turn gains most in thick slick line",
            "Stiff slick turns stand off where nothing rides on them.",
            gains,
        ),
    ]


def further_wraps(seeds: int) -> list[Ordering]:
    """Every further wrap grips more, and the four-wrap form leads in slick braid."""
    found = [
        _ordered(
            f"Further wraps of {structure}",
            "Each wrap multiplies the tension it can hold: friction goes by the angle.",
            [(count(w, "wrap"), grips(_on_rope(structure, w), seeds)) for w in (5, 4, 3, 2, 1)],
        )
        for structure in ("prusik", "bachmann", "klemheist", "autoblock")
    ]
    found.append(
        _ordered(
            "Further wraps of the Farrimond, hollow slick braid",
            "The same, on its own line.",
            [
                (w, grips(setup_of("farrimond", cord=SLICK, choices={"wraps": w}), seeds))
                for w in ("five", "four", "three", "two")
            ],
        )
    )
    four = grips(setup_of("farrimond", cord=SLICK, choices={"wraps": "four"}), seeds)
    others = {
        s.key: grips(setup_of(s.key, cord=SLICK), seeds)
        for s in load_catalogue().values()
        if s.family == "adjustable loop" and s.key != "farrimond"
    }
    best = max(others, key=lambda k: float(np.median(others[k])))
    found.append(
        _ordered(
            "No adjustable loop in hollow slick braid grips more than four wraps do",
            "Where the line is slick only the angle is left, and four wraps have most of it.",
            [("Farrimond, four wraps", four), (f"best other: {best}", others[best])],
        )
    )
    return found


def backed_up_clove(seeds: int) -> Ordering:
    """A clove backed up on a slick pipe slips first and is then caught."""
    made = setup_of(
        "clove-hitch", choices={"backup": "half-hitches"}, host_mm=60.0, host_finish="polished pipe"
    )
    lies = [pulled(made, s) for s in range(seeds)]
    first = np.array([np.nan_to_num(x.first_slip_n, nan=np.inf) for x in lies])
    most = np.array([x.highest_n for x in lies])
    found = _ordered(
        "A clove backed up on a slick pipe slips and is caught",
        "The half hitches bear only when the clove has fed them its slack.",
        [("highest load, over 1.3", most / 1.3), ("load of its first slip", first)],
    )
    return replace(found, unit=" N")


def untying(seeds: int) -> list[Ordering]:
    """What jams, what falls open, and what need not be cut."""
    hard = untied(setup_of("buntline-hitch", host_mm=20.0), seeds, 0.45)
    easy = untied(setup_of("timber-hitch", host_mm=120.0, host_finish="bark"), seeds, 0.20)
    stoppers = {
        s.key: untied(setup_of(s.key, seat_d=1.2), seeds, 1 / 3)
        for s in load_catalogue().values()
        if s.family == "stopper"
    }
    cut = [level in ("cut", "fused") for levels in stoppers.values() for level in levels]

    def share(name: str, argument: str, levels: Sequence[bool], least: float) -> Ordering:
        part = float(np.mean(levels)) if levels else 0.0
        return Ordering(name, (("share", part),), part >= least, part, len(levels), argument)

    return [
        share(
            "A buntline jams",
            "Its tail is trapped between hitches and ring, and every load draws it tighter.",
            [level in ("tool", "cut", "fused") for level in hard],
            0.5,
        ),
        share(
            "A timber hitch falls open when slack",
            "Nothing but the load pinches its twists to the log.",
            [level in ("shaken", "hand") for level in easy],
            0.9,
        ),
        share(
            "A stopper is not cut after a third of the rope",
            "It bears on its plate and is not bent round anything.",
            [not c for c in cut],
            0.95,
        ),
    ]


def lock_offs(seeds: int) -> list[Ordering]:
    """What a trucker's hitch keeps and gains."""

    def kept(choices: dict[str, str], cord: str) -> np.ndarray:
        tied = tying("truckers-hitch", choices)
        assert tied is not None
        rng = np.random.default_rng(3)
        share = kept_share(tied.archetype, CORDS[cord])
        return np.minimum(share * np.exp(0.04 * rng.standard_normal(seeds)), 0.99)

    plain, locking = kept({}, NYLON), kept({"turn": "self-locking"}, NYLON)
    real = np.array(
        [
            SimulatedSpecimen(setup_of("truckers-hitch", seed=s)).remains().truth["advantage_real"]
            for s in range(seeds)
        ]
    )
    why = "The line runs back through its loop until friction there holds it."
    return [
        _between(
            "A trucker's hitch keeps 60 to 90 %",
            why,
            [("plain", plain), ("self-locking", locking)],
            0.6,
            0.9,
        ),
        _ordered(
            "The self-locking turn keeps more", why, [("self-locking", locking), ("plain", plain)]
        ),
        _between(
            "Friction takes of its advantage",
            "Every half turn of rope on rope passes on less than it is given: well under 3.",
            [("times the hand", real)],
            1.2,
            2.6,
        ),
    ]


def same_structure(seeds: int) -> list[Ordering]:
    """The same structure under two names behaves the same."""
    halter = grips(setup_of("neck-halter"), seeds)
    slip = grips(setup_of("slip-knot", choices={"stop": "figure-eight"}), seeds)
    noose, coil = tying("barrel-noose"), tying("double-overhand-sliding-loop")
    assert noose is not None
    assert coil is not None
    a, b = noose.archetype, coil.archetype
    apart = max(
        abs(a.efficiency - b.efficiency),
        abs(a.jam_base - b.jam_base),
        abs(a.jam_slope - b.jam_slope),
    )
    why = "A name is a label on a structure."
    return [
        Ordering(
            "The neck halter is the slip loop stopped by a figure eight",
            (("largest difference", float(np.max(np.abs(halter - slip)))),),
            bool(np.allclose(halter, slip)),
            float(np.isclose(halter, slip).mean()),
            seeds,
            why,
        ),
        Ordering(
            "The barrel noose is the double-overhand sliding loop, drawn down on a ring",
            (("largest difference of strength kept and jamming", apart),),
            apart < 1e-9,
            float(apart < 1e-9),
            seeds,
            why,
        ),
    ]


ONE_WAY = ("klemheist", "bachmann", "rolling-hitch-on-rope", "rolling-hitch")
STATEMENTS: tuple[Callable[[int], Ordering | list[Ordering]], ...] = (
    friction_order,
    frees_easiest,
    lambda n: [wrong_way(s, n) for s in ONE_WAY],
    lambda n: [cord_as_thick(n, cord) for cord in (NYLON, SLICK)],
    conditions,
    tent_lines,
    further_wraps,
    backed_up_clove,
    untying,
    lock_offs,
    same_structure,
)


def all_orderings(seeds: int) -> list[Ordering]:
    """Every statement, looked at over some seeds."""
    found: list[Ordering] = []
    for statement in STATEMENTS:
        made = statement(seeds)
        found += made if isinstance(made, list) else [made]
    return found
