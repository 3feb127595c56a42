"""A simulated specimen: cord, knots and machine in series, until something gives."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np

from bruiser.core.layouts import LAYOUTS, End, PlaceKind
from bruiser.rig.instrument import KnotRemains, Remains
from bruiser.rig.simulated.archetypes import ARCHETYPES, Archetype, slip_share
from bruiser.rig.simulated.cords import CORDS, Cord
from bruiser.rig.simulated.stretch import Stretch, virgin_curve

_SLIP_SPEED_MM_S = 1500.0
_LAST_HOLD = 0.25
_JAM_CUTS = (0.0, 2.5, 5.0)
_JAM_NAMES = ("hand", "worked", "tool", "cut")


@dataclass(frozen=True)
class SpecimenSetup:
    """What is put on the simulated bench.

    Parameters
    ----------
    cord : str
        Key of the synthetic cord.
    diameter_mm, span_mm : float
        Cord diameter and free length.
    layout : str
        Key of the layout.
    knots : dict
        Structure of the knot at each end; empty for a baseline.
    tails_mm : dict
        Tail length by the key of the layout's tail.
    pin_mm : float
        Pin diameter.
    lot_seed, seed : int
        Seeds of the lot's and the specimen's own randomness.
    machine_mm_per_n : float
        Compliance of frame and cell.
    flaw_chance : float
        Chance of a hidden flaw in the span.
    wet : bool
        Soaked: the cord's wet factors apply to strength and friction.
    wear : float
        Strength left in a worn cord, as a share.
    """

    cord: str
    diameter_mm: float
    span_mm: float
    layout: str
    knots: dict[End, str]
    tails_mm: dict[str, float] = field(default_factory=dict)
    pin_mm: float = 12.0
    lot_seed: int = 0
    seed: int = 0
    machine_mm_per_n: float = 2e-4
    flaw_chance: float = 0.0
    wet: bool = False
    wear: float = 1.0


@dataclass
class _KnotState:
    """One knot while it is loaded."""

    end: End
    place: str
    archetype: Archetype
    strength_n: float
    fitness: float
    slip_n: float
    capsize_n: float
    tails: dict[str, float]
    drawn: dict[str, float]
    running: str | None = None
    target_n: float = 0.0
    capsized: bool = False

    def engaged(self, diameter_mm: float) -> float:
        """Share of the engaged length still held, given the tail that has drawn furthest."""
        left = min(self.tails[k] - self.drawn[k] for k in self.tails)
        length = self.archetype.engaged_d * diameter_mm
        return min(1.0, max(0.0, (left + length) / length))


class SimulatedSpecimen:
    """Gives a load for every crosshead position, and says what is left afterwards."""

    def __init__(self, setup: SpecimenSetup) -> None:
        self.setup = setup
        self.cord: Cord = CORDS[setup.cord].soaked() if setup.wet else CORDS[setup.cord]
        self._rng = np.random.default_rng(setup.seed)
        lot = np.random.default_rng(setup.lot_seed)
        lot_factor = math.exp(self.cord.lot_cv * lot.standard_normal())
        own_factor = math.exp(self.cord.specimen_cv * self._rng.standard_normal())
        rated = self.cord.strength_n_per_mm2 * setup.diameter_mm**2 * setup.wear
        self.lot_strength_n = rated * lot_factor
        self.strength_n = self.lot_strength_n * own_factor
        self._knots = [self._make_knot(end, name) for end, name in sorted(setup.knots.items())]
        self._limits = self._other_limits()
        self._stretch = self._make_stretch()
        self._released_mm = 0.0
        self._lag_mm = 0.0
        self._tick_mm = 0.0
        self.load_n = 0.0
        self.highest_n = 0.0
        self.gave: tuple[str, str] | None = None

    def _make_knot(self, end: End, structure: str) -> _KnotState:
        archetype, rng, setup = ARCHETYPES[structure], self._rng, self.setup
        layout = LAYOUTS[setup.layout]
        place = next(p.key for p in layout.places if p.owner is end and p.kind is PlaceKind.KNOT)
        strength = self.strength_n * archetype.efficiency
        strength *= math.exp(archetype.cv * rng.standard_normal())
        fitness = math.exp(0.10 * rng.standard_normal())
        slip = slip_share(archetype, self.cord, fitness) * self.strength_n
        capsizes = rng.random() < archetype.capsize_chance
        capsize = strength * rng.uniform(0.3, 0.75) if capsizes else math.inf
        tails = {
            tail.key: setup.tails_mm.get(tail.key, 12 * setup.diameter_mm)
            for tail in layout.tails
            if tail.end is end
        }
        drawn = dict.fromkeys(tails, 0.0)
        return _KnotState(end, place, archetype, strength, fitness, slip, capsize, tails, drawn)

    def _other_limits(self) -> list[tuple[float, str]]:
        """Strength of everything that is no knot, with the place that would give."""
        setup, rng = self.setup, self._rng
        limits: list[tuple[float, str]] = []
        for place in LAYOUTS[setup.layout].places:
            if place.kind is PlaceKind.TERMINATION:
                drum = ARCHETYPES["drum-termination"]
                factor = drum.efficiency * math.exp(drum.cv * rng.standard_normal())
                worn = 0.96 if rng.random() < 0.06 else 1.10
                limits.append((self.strength_n * factor * worn, place.key))
            elif place.kind is PlaceKind.PIN:
                ratio = setup.pin_mm / setup.diameter_mm
                factor = 2 / (1 + self.cord.bend_loss / (1 + ratio))
                limits.append((self.strength_n * factor, place.key))
            elif place.kind is PlaceKind.SPAN:
                flawed = bool(setup.knots) and rng.random() < setup.flaw_chance
                factor = rng.uniform(0.5, 0.72) if flawed else 1.0
                limits.append((self.strength_n * factor, place.key))
        return limits

    def _make_stretch(self) -> Stretch:
        setup, cord, strength = self.setup, self.cord, self.strength_n
        d = setup.diameter_mm
        seats = [(k.archetype.seating_d * d, k.archetype.seating_share) for k in self._knots]
        terminations = [
            (ARCHETYPES["drum-termination"].seating_d * d, 0.05)
            for p in LAYOUTS[setup.layout].places
            if p.kind is PlaceKind.TERMINATION
        ]

        def extension(load: float) -> float:
            share = load / strength
            seated = sum(s * (1 - math.exp(-share / f)) for s, f in (*seats, *terminations))
            return setup.machine_mm_per_n * load + setup.span_mm * cord.strain(share) + 0.8 * seated

        y, f = virgin_curve(extension, 1.5 * strength)
        return Stretch(y, f, cord.set_share, cord.unload_bend, cord.reload_bend)

    def advance(self, travel_mm: float, dt_s: float) -> float:
        """Load after the crosshead reached `travel_mm`; call once a sample interval."""
        if self.gave is not None:
            self.load_n *= math.exp(-dt_s / 0.002)
            return self.load_n
        self._settle(travel_mm)
        load = self._stretch.load_at(travel_mm - self._released_mm)
        for knot in self._knots:
            load = self._work_knot(knot, load, travel_mm, dt_s)
        self.load_n = load
        self.highest_n = max(self.highest_n, load)
        self._break_if_due(load)
        return self.load_n

    def _settle(self, travel_mm: float) -> None:
        """Seating that lags behind and lets go in ticks."""
        share = self.highest_n / self.strength_n
        wanted = 0.0
        for knot in self._knots:
            a = knot.archetype
            seated = a.seating_d * self.setup.diameter_mm
            wanted += 0.2 * seated * (1 - math.exp(-share / a.seating_share))
        if wanted - self._lag_mm > self._tick_mm and travel_mm > 0:
            self._released_mm += self._tick_mm
            self._lag_mm += self._tick_mm
            self._tick_mm = 0.06 * self.setup.diameter_mm * float(self._rng.exponential())

    def _work_knot(self, knot: _KnotState, load: float, travel_mm: float, dt_s: float) -> float:
        d = self.setup.diameter_mm
        if knot.running is None and load >= knot.capsize_n and not knot.capsized:
            knot.capsized = True
            holds_on = self._rng.random() < 0.6
            knot.fitness *= 0.85 if holds_on else 0.30
            knot.strength_n *= 0.92
            knot.running, knot.target_n = "capsize", load * float(self._rng.uniform(0.55, 0.75))
            knot.slip_n = self._slip_load(knot)
        elif knot.running is None and load >= knot.slip_n:
            # Both tails of a bend take turns; the one that slips is drawn at random.
            knot.running = str(self._rng.choice(list(knot.tails)))
            size = self.cord.stick * float(np.exp(0.4 * self._rng.standard_normal()))
            knot.target_n = load * (1 - min(size, 0.3))
        if knot.running is None:
            return load
        step = _SLIP_SPEED_MM_S * dt_s
        tail = knot.running if knot.running != "capsize" else next(iter(knot.tails))
        moved = 0.0
        while moved < step and load > knot.target_n:
            bit = min(step - moved, 0.02 * d)
            moved += bit
            self._released_mm += bit
            load = self._stretch.load_at(travel_mm - self._released_mm)
        knot.drawn[tail] += moved
        if load <= knot.target_n:
            knot.running = None
        if knot.engaged(d) < 1.0:
            knot.slip_n = self._slip_load(knot)
            knot.target_n = 0.97 * knot.slip_n
            if knot.slip_n < _LAST_HOLD * self.highest_n and load < _LAST_HOLD * self.highest_n:
                self.gave = ("capsized" if knot.capsized else "came_out", knot.place)
            elif load > knot.slip_n:
                knot.running = tail
        elif knot.running is None:
            knot.slip_n = self._slip_load(knot) * math.exp(0.03 * self._rng.standard_normal())
        return load

    def _slip_load(self, knot: _KnotState) -> float:
        engaged = knot.engaged(self.setup.diameter_mm)
        return slip_share(knot.archetype, self.cord, knot.fitness, engaged) * self.strength_n

    def _break_if_due(self, load: float) -> None:
        if self.gave is not None:
            return
        weakest = min(self._limits)
        for knot in self._knots:
            if load >= knot.strength_n:
                at_nip = self._rng.random() < 0.8
                place = self._nip_of(knot) if at_nip else knot.place
                weakest = min(weakest, (knot.strength_n, place))
        if load >= weakest[0]:
            self.gave = ("broke", weakest[1])
            self.load_n = 0.12 * load

    def _nip_of(self, knot: _KnotState) -> str:
        places = LAYOUTS[self.setup.layout].places
        nips = [p.key for p in places if p.owner is knot.end and p.kind is PlaceKind.NIP]
        return str(self._rng.choice(nips))

    def remains(self) -> Remains:
        """What somebody with hands would find now; the seeded inspection repeats exactly."""
        rng = np.random.default_rng([self.setup.seed, 77])
        gave, place = self.gave if self.gave is not None else ("stopped", None)
        share = self.highest_n / self.strength_n
        draws: dict[str, float] = {}
        knots: list[KnotRemains] = []
        for knot in self._knots:
            for tail, drawn in knot.drawn.items():
                seating = 0.10 * knot.archetype.seating_d * self.setup.diameter_mm
                seating *= 1 - math.exp(-share / knot.archetype.seating_share)
                measured = drawn + seating + float(rng.normal(0.0, 0.7))
                draws[tail] = min(max(0.0, round(measured)), knot.tails[tail]) / 1000.0
            own = place is not None and LAYOUTS[self.setup.layout].place(place).owner is knot.end
            if own:
                knots.append(KnotRemains(knot.end.value, "not_tried", None))
                continue
            score = knot.archetype.jam_base + knot.archetype.jam_slope * share
            score += float(rng.logistic())
            level = _JAM_NAMES[int(np.searchsorted(_JAM_CUTS, score))]
            if score < -2.5:
                level = "shaken"
            seconds = max(1.0, 4.0 * math.exp(0.55 * score) * float(np.exp(0.2 * rng.normal())))
            knots.append(KnotRemains(knot.end.value, level, round(min(seconds, 900.0), 1)))
        truth = {
            "strength_n": self.strength_n,
            "lot_strength_n": self.lot_strength_n,
            "highest_n": self.highest_n,
            **{f"knot_{k.end.value}_n": k.strength_n for k in self._knots},
        }
        return Remains(gave, place, draws, tuple(knots), truth)
