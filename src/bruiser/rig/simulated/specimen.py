"""A simulated specimen: cord, knots and machine in series, until something gives."""

from __future__ import annotations

import math

import numpy as np

from bruiser.core.records.layouts import End, PlaceKind
from bruiser.rig.instrument import Remains
from bruiser.rig.simulated import aftermath
from bruiser.rig.simulated.archetypes import ARCHETYPES, Kind, advantage, kept_share
from bruiser.rig.simulated.collapse import AT_ONCE, Collapse, CollapseStage, strands
from bruiser.rig.simulated.cords import CORDS, Cord
from bruiser.rig.simulated.knot import KnotState, stub_grip
from bruiser.rig.simulated.setup import SpecimenSetup, ways
from bruiser.rig.simulated.stretch import Stretch, virgin_curve
from bruiser.rig.simulated.variants import Tying
from bruiser.rig.simulated.weak_places import weak_places

_SLIP_SPEED_MM_S = 1500.0
_LAST_HOLD = 0.25
_CREEP_S = (0.5, 5.0, 50.0, 500.0)
_DAMAGE = 0.035
_SHAKEN_OUT = 6
_QUICK_MM_S = 20.0
_UNDER_LOAD = 0.3
"""Share of the loosening that is left where a shake does not go slack."""


class SimulatedSpecimen:
    """Gives a load for every crosshead position, and says what is left afterwards.

    Notes
    -----
    x = C_m F + L [eps(F) + eps_c] + sum over knots [s_k(F) - lag_k + delta_k], solved for F at each
    step: what creeps, seats late or slips is taken off the travel before the branch of the
    hysteresis is looked up. Creep: d eps_i / dt = (A f - eps_i) / tau_i for 0.5, 5, 50 and 500 s.
    Sustained load wears out the weakest place at e^((F/F_fail - 1) / 0.035) a second.
    """

    def __init__(self, setup: SpecimenSetup) -> None:
        self.setup = setup
        self.cord = self._lies_as(CORDS[setup.cord])
        self._rng = np.random.default_rng(setup.seed)
        self.lot_strength_n, self.strength_n = self._strengths(
            self.cord, setup.diameter_mm, setup.lot_seed
        )
        self.other_n = self._other_strength()
        # What legs share is pulled by the load of them all: two legs are a cord twice as strong.
        self.strength_n *= setup.lies.shares
        self.other_n *= setup.lies.shares
        self._knots = [self._make_knot(end, tied) for end, tied in sorted(setup.knots.items())]
        self._weakest = min(weak_places(setup, self.cord, self.strength_n, self.other_n, self._rng))
        self._stretch = self._make_stretch()
        rng = np.random.default_rng([setup.seed, 11])
        self._resonance = (float(rng.uniform(60, 400)), float(rng.uniform(0.02, 0.1)))
        self._creeping = [0.0] * len(_CREEP_S)
        self._released_mm = 0.0
        self._lag_mm = 0.0
        self._tick_mm = 0.0
        self._damage = 0.0
        self._locked = False
        self._slack = False
        self._dipped = False
        self._travel_mm = 0.0
        self._collapse: Collapse | None = None
        self._fallen_n = 0.0
        self._since_s = 0.0
        self.time_s = 0.0
        self.load_n = 0.0
        self.highest_n = 0.0
        self._top_n = 0.0
        self.snatches = 0
        self.gave: tuple[str, str] | None = None
        self.gave_s = math.nan
        self.first_slip_n = math.nan
        self.capsized_n = math.nan
        self.by_strands = False

    def _lies_as(self, cord: Cord) -> Cord:
        """A cord in the condition of the specimen."""
        return cord.soaked(frozen=self.setup.iced) if self.setup.wet else cord

    def _strengths(self, cord: Cord, d_mm: float, lot_seed: int) -> tuple[float, float]:
        lot = np.random.default_rng(lot_seed)
        lot_factor = math.exp(cord.lot_cv * lot.standard_normal())
        own_factor = math.exp(cord.specimen_cv * self._rng.standard_normal())
        rated = cord.strength_n_per_mm2 * d_mm**2 * self.setup.wear
        return rated * lot_factor, rated * lot_factor * own_factor

    def _other_strength(self) -> float:
        """Strength of the other line of a bend; infinite where there is none."""
        s = self.setup
        if not s.other_cord or s.layout != "bend":
            return math.inf
        cord = self._lies_as(CORDS[s.other_cord])
        return self._strengths(cord, s.other_mm, s.lot_seed + 1)[1]

    def _make_knot(self, end: End, tied: Tying) -> KnotState:
        a, rng, setup = tied.archetype, self._rng, self.setup
        layout = setup.lies
        place = next(p.key for p in layout.places if p.owner is end and p.kind is PlaceKind.KNOT)
        way = ways(setup, tied)
        cord_n = min(self.strength_n, self.other_n)
        spread = a.cv * (1.3 if setup.crossed else 1.0)
        strength = cord_n * a.efficiency * way.strength
        strength *= math.exp(spread * rng.standard_normal())
        fitness = math.exp(0.10 * rng.standard_normal()) * way.grip
        capsizes = rng.random() < min(0.9, a.capsize_chance * way.capsize)
        capsize = strength * rng.uniform(0.3, 0.75) if capsizes else math.inf
        tails = {
            tail.key: setup.tails_mm.get(tail.key, 12 * setup.diameter_mm)
            for tail in layout.tails
            if tail.end is end
        }
        # A closed cord has no tail, and says so with a length of nothing.
        shortest = min((x for x in tails.values() if x > 0), default=math.inf)
        fitness *= stub_grip(shortest / setup.diameter_mm)
        host = setup.other_mm or setup.diameter_mm / 0.7
        state = KnotState(
            end=end,
            place=place,
            archetype=a,
            cord=self.cord,
            cord_n=cord_n,
            diameter_mm=setup.diameter_mm,
            strength_n=strength,
            fitness=fitness,
            capsize_n=capsize,
            tails=tails,
            drawn=dict.fromkeys(tails, 0.0),
            ratio=setup.diameter_mm / host,
            seat_d=setup.seat_d if a.kind is Kind.STOPPER else 0.0,
            backup_n=tied.backup_share * cord_n * math.exp(0.1 * rng.standard_normal()),
        )
        state.slip_n = state.slip_load()
        return state

    def _make_stretch(self) -> Stretch:
        setup, cord, strength = self.setup, self.cord, self.strength_n
        d = setup.diameter_mm
        seats = [(k.archetype.seating_d * d, k.archetype.seating_share) for k in self._knots]
        terminations = [
            (ARCHETYPES["drum-termination"].seating_d * d, 0.05)
            for p in setup.lies.places
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
        self.time_s += dt_s
        if self.gave is not None:
            self._fall(dt_s)
            return self.load_n
        before = self.load_n
        self._creep(dt_s)
        self._settle(travel_mm)
        load = self._stretch.load_at(travel_mm - self._released_mm)
        for knot in self._knots:
            load = self._work_knot(knot, load, travel_mm, dt_s)
        self.load_n = load
        self._top_n, self.highest_n = self.highest_n, max(self.highest_n, load)
        speed = (travel_mm - self._travel_mm) / dt_s
        self._travel_mm = travel_mm
        self._shake(load, speed)
        if self.gave is None:
            self._break_if_due(before, load, dt_s)
        elif math.isnan(self.gave_s):
            self.gave_s = self.time_s
            self._fallen_n = load
        return self.load_n

    def lock_off(self) -> None:
        """The hand line of a tensioning system is made fast: it runs back until its turns hold.

        The load falls to :func:`kept_share` of what it was, scattering by 4 %.
        """
        for knot in self._knots:
            if knot.archetype.kind is Kind.TENSIONING and not self._locked:
                self._locked = True
                share = kept_share(knot.archetype, self.cord) * aftermath.own(self, 0.04)
                knot.running, knot.target_n = "slide", min(share, 0.99) * self.load_n

    def _fall(self, dt_s: float) -> None:
        start = self._since_s
        self._since_s += dt_s
        if self._collapse is not None:
            self.load_n = self._collapse.mean_n(start, self._since_s)
        else:
            self.load_n *= math.exp(-dt_s / 0.02)

    def _creep(self, dt_s: float) -> None:
        if self.load_n == 0.0 and self.highest_n == 0.0:
            return
        wanted = self.cord.creep * self.load_n / self.strength_n
        grown = 0.0
        for n, tau in enumerate(_CREEP_S):
            step = (wanted - self._creeping[n]) * min(1.0, dt_s / tau)
            self._creeping[n] += step
            grown += step
        self._released_mm += 0.25 * self.setup.span_mm * grown

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

    def _shake(self, load: float, speed_mm_s: float) -> None:
        """Each return from slack, or quick one from a dip under load, may leave a knot looser."""
        from_slack = self._slack and load > 0.05 * self.strength_n
        quick = self._dipped and load > 0.85 * self.highest_n and speed_mm_s > _QUICK_MM_S
        if from_slack or quick:
            share = 1.0 if from_slack else _UNDER_LOAD
            self._slack = self._dipped = False
            self.snatches += 1
            for knot in self._knots:
                if self._rng.random() < share * knot.archetype.loosen:
                    knot.loosened += 1
                    knot.fitness *= 0.90
                    for tail in knot.drawn:
                        knot.drawn[tail] += 0.8 * self.setup.diameter_mm
                    knot.slip_n = knot.slip_load()
                    if knot.loosened >= _SHAKEN_OUT and self.gave is None:
                        self.gave = ("came_out", knot.place)
        elif load < 0.01 * self.strength_n and self.highest_n > 0.05 * self.strength_n:
            self._slack, self._dipped = True, False
        elif load < 0.6 * self.highest_n and speed_mm_s < -_QUICK_MM_S and not self._slack:
            self._dipped = True

    def _work_knot(self, knot: KnotState, load: float, travel_mm: float, dt_s: float) -> float:
        if not knot.running and load >= knot.capsize_n and not knot.capsized:
            self._capsize(knot, load)
        elif not knot.running and load >= knot.slip_n:
            knot.overcome(load)
            self._start_slip(knot, load)
        if not knot.running:
            return load
        load = self._run_down(knot, load, travel_mm, _SLIP_SPEED_MM_S * dt_s)
        if load <= knot.target_n:
            knot.running = ""
        self._after_slip(knot, load)
        return load

    def _capsize(self, knot: KnotState, load: float) -> None:
        knot.capsized, knot.capsized_n = True, load
        holds_on = self._rng.random() < 0.6
        knot.fitness *= 0.85 if holds_on else 0.30
        knot.strength_n *= 0.92
        knot.running = next(iter(knot.tails), "slide")
        knot.target_n = load * float(self._rng.uniform(0.55, 0.75))
        self.capsized_n = load if math.isnan(self.capsized_n) else self.capsized_n
        knot.slip_n = knot.slip_load()

    def _start_slip(self, knot: KnotState, load: float) -> None:
        # Both tails of a bend take turns; the one that slips is drawn at random.
        knot.running = str(self._rng.choice(list(knot.tails))) if knot.tails else "slide"
        size = self.cord.stick * float(np.exp(0.4 * self._rng.standard_normal()))
        through = knot.archetype.kind is Kind.STOPPER
        knot.target_n = 0.03 * load if through else load * (1 - min(size, 0.3))
        knot.slips += 1
        if math.isnan(self.first_slip_n):
            self.first_slip_n = load

    def _run_down(self, knot: KnotState, load: float, travel_mm: float, most_mm: float) -> float:
        """Slip down the unloading curve until the kinetic grip holds, at most so far."""
        moved, bit = 0.0, 0.02 * knot.diameter_mm
        while moved < most_mm and load > knot.target_n:
            step = min(most_mm - moved, bit)
            moved += step
            self._released_mm += step
            load = self._stretch.load_at(travel_mm - self._released_mm)
        knot.slide(moved, load)
        return load

    def _after_slip(self, knot: KnotState, load: float) -> None:
        if knot.slides or knot.engaged() >= 1.0:
            if knot.gone() and not knot.running:
                self.gave = ("capsized" if knot.capsized else "came_out", knot.place)
            elif not knot.running:
                knot.slip_n = knot.slip_load() * math.exp(0.03 * self._rng.standard_normal())
            return
        knot.overcome(load)
        knot.slip_n = knot.slip_load()
        knot.target_n = 0.97 * knot.slip_n
        if knot.slip_n < _LAST_HOLD * self.highest_n and load < _LAST_HOLD * self.highest_n:
            self.gave = ("capsized" if knot.capsized else "came_out", knot.place)
        elif load > knot.slip_n and not knot.running:
            knot.running = next(iter(knot.tails), "slide")

    def _break_if_due(self, before: float, load: float, dt_s: float) -> None:
        weakest = self._weakest
        limit = weakest[0]
        for knot in self._knots:
            limit = min(limit, knot.strength_n)
        if load > 0.8 * limit:
            self._damage += dt_s * math.exp((load / limit - 1) / _DAMAGE)
        if load < limit and self._damage < 1.0:
            return
        knot_that = min(self._knots, key=lambda k: k.strength_n, default=None)
        if knot_that is not None and knot_that.strength_n <= weakest[0]:
            at_nip = self._rng.random() < 0.8
            place = self._nip_of(knot_that) if at_nip else knot_that.place
        else:
            place = weakest[1]
        self._part(place, before, load, limit, dt_s)

    def _part(self, place: str, before: float, load: float, limit: float, dt_s: float) -> None:
        """Break at a place, part way through the sample interval where the limit was crossed."""
        share = 1.0
        if load > limit > before:
            share = (limit - before) / (load - before)
        broke = min(load, limit) if share < 1.0 else load
        self.gave = ("broke", place)
        self.gave_s = self.time_s - (1 - share) * dt_s
        stages: tuple[CollapseStage, ...] = AT_ONCE
        if self.cord.laid and self._rng.random() < 0.25:
            gaps = self._rng.uniform(0.02, 0.12, 2)
            stages = strands(float(self._rng.random()), (float(gaps[0]), float(gaps[1])))
            self.by_strands = True
        self._collapse = Collapse(broke, stages, *self._resonance)
        self._since_s = (1 - share) * dt_s
        self.highest_n = max(self._top_n, broke)
        rest = self._collapse.mean_n(0.0, self._since_s) if self._since_s > 0 else 0.0
        self.load_n = share * 0.5 * (before + broke) + (1 - share) * rest

    def _nip_of(self, knot: KnotState) -> str:
        places = self.setup.lies.places
        nips = [p.key for p in places if p.owner is knot.end and p.kind is PlaceKind.NIP]
        return str(self._rng.choice(nips)) if nips else knot.place

    @property
    def hand_n(self) -> float:
        """Load in the hand line of a tensioning system; the load itself elsewhere."""
        for knot in self._knots:
            if knot.archetype.kind is Kind.TENSIONING:
                return self.load_n / advantage(knot.archetype, self.cord)[1]
        return self.load_n

    @property
    def tail_mm(self) -> float:
        """How far the first tail has drawn, as a tail gauge would show."""
        for knot in self._knots:
            if knot.drawn:
                tail, drawn = next(iter(knot.drawn.items()))
                return min(drawn + aftermath.seated_mm(self, knot), knot.tails[tail])
            return knot.slid_mm
        return 0.0

    @property
    def knots(self) -> list[KnotState]:
        """Its knots, with what has happened to them."""
        return self._knots

    def try_untying(self, end: End, attempt: int) -> tuple[str, float]:
        """What untying a knot takes now, and the seconds; repeats exactly for an attempt."""
        return aftermath.try_untying(self, end, attempt)

    def remains(self, attempt: int = 0) -> Remains:
        """What somebody with hands would find now; the seeded inspection repeats exactly."""
        return aftermath.remains_of(self, attempt)
