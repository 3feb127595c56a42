"""The bench book as typed, and whether a bench can bear what is planned."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from bruiser.core.errors import Refused
from bruiser.core.planning.bench_checks import (
    BenchCheck,
    BenchLimits,
    Say,
    check_capacity,
    check_dates,
    check_energy,
    check_method,
    check_pin,
    check_reading,
    check_stroke,
    check_tail,
)
from bruiser.core.planning.safety import LoadedSpan, break_strain_guess, stored_energy
from bruiser.core.records.bench_book import FIXTURE_KINDS, BenchRecord, Fixture, RoomDay
from bruiser.core.records.layouts import PlaceKind
from bruiser.core.records.records import Role, Specimen
from bruiser.core.units import UnitChoice
from bruiser.store import bench_books
from bruiser.store.dependents import needed_by
from bruiser.store.open_campaign import Connection
from bruiser.workshop.desk.form_texts import Typed
from bruiser.workshop.desk.lot_entry import Checked
from bruiser.workshop.logbook.commands import Changes, Command
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop
from bruiser.workshop.results.lot_results import LotResults

ENOUGH = 3
SEATING_D = 7.0
DRAW_D = 2.5
ROPE_KG_M3 = 650.0
PRIOR_SHARE, PRIOR_CV, PRIOR_PLAIN_CV = 0.8, 0.07, 0.04


@dataclass(frozen=True)
class PutBench(Command):
    """Write a bench into the book, or change it."""

    bench: BenchRecord
    title: str = "write the bench book"

    def apply(self, connection: Connection) -> Changes:
        bench_books.put_bench(connection, self.bench)
        return Changes(frozenset({"bench"}), (self.bench.id,))


@dataclass(frozen=True)
class DropBench(Command):
    """Take a bench out of the book."""

    bench: BenchRecord
    title: str = "take the bench out of the book"

    def apply(self, connection: Connection) -> Changes:
        bench_books.drop_bench(connection, self.bench.id)
        return Changes(frozenset({"bench"}), (self.bench.id,))


@dataclass(frozen=True)
class AddFixture(Command):
    """Write a pin, host, plate or edge into the book."""

    fixture: Fixture
    title: str = "write the fixture down"

    def apply(self, connection: Connection) -> Changes:
        bench_books.insert_fixture(connection, self.fixture)
        return Changes(frozenset({"fixture"}), (self.fixture.id,))


@dataclass(frozen=True)
class DropFixture(Command):
    """Take a fixture out of the book."""

    fixture: Fixture
    title: str = "take the fixture out of the book"

    def apply(self, connection: Connection) -> Changes:
        found = needed_by(connection, "fixture", self.fixture.id)
        if found:
            raise Refused(f"{self.fixture.name} is needed by {', '.join(found)}.", "It stays.")
        bench_books.drop_fixture(connection, self.fixture.id)
        return Changes(frozenset({"fixture"}), (self.fixture.id,))


@dataclass(frozen=True)
class NoteRoom(Command):
    """Note the room of a day."""

    room: RoomDay
    title: str = "note the room"

    def apply(self, connection: Connection) -> Changes:
        bench_books.put_day(connection, self.room)
        return Changes(frozenset({"room_day"}), (self.room.day,))


def bench_texts(bench: BenchRecord, units: UnitChoice) -> dict[str, str]:
    """A bench as its form shows it."""
    energy = bench.guard_energy_j
    return {
        "name": bench.name,
        "stroke": units.length_text(bench.stroke_m),
        "rate": f"{1000 * bench.rate_m_s:g} mm/s",
        "capacity": units.force_text(bench.capacity_n),
        "resolution": f"{bench.resolution_n:g} N",
        "sample_rate": f"{bench.sample_rate_hz:g}",
        "compliance": f"{1e6 * bench.compliance_m_per_n:g}",
        "accuracy_class": bench.accuracy_class,
        "factor": f"{bench.factor:.6g}",
        "calibrated_on": bench.calibrated_on,
        "calibration_due": bench.calibration_due,
        "keep_away": bench.keep_away,
        "guard": bench.guard,
        "guard_energy": "" if energy is None else f"{energy:g}",
        "estop_checked_on": bench.estop_checked_on,
    }


def _date(typed: Typed, name: str) -> str:
    text = typed.text(name)
    if text:
        try:
            date.fromisoformat(text)
        except ValueError:
            typed.errors[name] = "Type it like 2026-03-31."
    return text


def store_bench(
    workshop: Workshop,
    logbook: Logbook,
    texts: Mapping[str, str],
    methods: Sequence[str],
    before: BenchRecord | None,
) -> Checked:
    """Write a bench's form into the book; `compliance` in micrometre a newton, energy in joule."""
    typed, units = Typed(texts), workshop.units
    name = typed.text("name", "Name the bench.")
    others = [b for b in logbook.bench_book.benches if before is None or b.id != before.id]
    if name and any(b.name.lower() == name.lower() for b in others):
        typed.errors["name"] = "Another bench has this name."
    stroke = typed.quantity("stroke", "length", units.length, missing="How far it travels.")
    rate = typed.quantity("rate", "speed", "mm/s", missing="How fast it pulls.")
    capacity = typed.quantity("capacity", "force", units.force, missing="The load cell's capacity.")
    resolution = typed.quantity("resolution", "force", "N", missing="The smallest step it shows.")
    samples = typed.number("sample_rate", least=1.0, missing="Readings a second.")
    compliance = typed.number("compliance") if texts.get("compliance", "").strip() else 0.0
    energy = typed.number("guard_energy") if texts.get("guard_energy", "").strip() else None
    factor = typed.number("factor") if texts.get("factor", "").strip() else 1.0
    if factor is not None and not 0.5 <= factor <= 2.0:
        typed.errors["factor"] = "A calibration factor is near 1: is the unit right?"
    days = [_date(typed, n) for n in ("calibrated_on", "calibration_due", "estop_checked_on")]
    if (
        typed.errors
        or stroke is None
        or rate is None
        or capacity is None
        or resolution is None
        or samples is None
    ):
        return Checked(typed.errors)
    after = BenchRecord(
        id=workshop.new_id() if before is None else before.id,
        name=name,
        stroke_m=stroke,
        rate_m_s=rate,
        capacity_n=capacity,
        resolution_n=resolution,
        sample_rate_hz=samples,
        compliance_m_per_n=1e-6 * (compliance or 0.0),
        accuracy_class=typed.text("accuracy_class"),
        calibrated_on=days[0],
        calibration_due=days[1],
        keep_away=typed.text("keep_away"),
        guard=typed.text("guard"),
        guard_energy_j=energy,
        estop_checked_on=days[2],
        methods=tuple(methods),
        factor=factor or 1.0,
    )
    if after != before:
        workshop.do(PutBench(after))
    return Checked(stored=after.id)


def store_fixture(workshop: Workshop, texts: Mapping[str, str]) -> Checked:
    """Write a fixture down: ``kind``, ``name``, ``material``, ``finish``, ``diameter``."""
    typed = Typed(texts)
    kind = texts.get("kind", "")
    if kind not in FIXTURE_KINDS:
        typed.errors["kind"] = "Choose what it is."
    name = typed.text("name", "Name it, as it is marked.")
    material = typed.text("material", "Say what it is made of.")
    diameter = typed.quantity(
        "diameter",
        "length",
        workshop.units.length,
        missing="Measure its diameter, or radius twice.",
    )
    if typed.errors or diameter is None:
        return Checked(typed.errors)
    fixture = Fixture(
        id=workshop.new_id(),
        kind=kind,
        name=name,
        material=material,
        finish=typed.text("finish"),
        diameter_m=diameter,
    )
    workshop.do(AddFixture(fixture))
    return Checked(stored=fixture.id)


def note_room(workshop: Workshop, texts: Mapping[str, str]) -> Checked:
    """Note today's room: ``temperature`` in degree Celsius, ``humidity`` in percent."""
    typed = Typed(texts)
    text = typed.text("temperature", "Read the thermometer.").replace(",", ".").rstrip(" °C")
    humidity = typed.share("humidity", missing="Read the hygrometer.")
    try:
        temperature = float(text) if text else 0.0
    except ValueError:
        typed.errors["temperature"] = "Type degrees Celsius, like 18."
        temperature = 0.0
    if not -40 <= temperature <= 60:
        typed.errors["temperature"] = "Type degrees Celsius, from −40 to 60."
    if typed.errors or humidity is None:
        return Checked(typed.errors)
    today = workshop.now()[:10]
    workshop.do(NoteRoom(RoomDay(today, temperature, humidity)))
    return Checked(stored=today)


def bench_words(logbook: Logbook, name: str = "") -> str:
    """The bench called so, else the first of the book, with its dates; empty without any."""
    benches = logbook.bench_book.benches
    bench = next((b for b in benches if b.name == name), benches[0] if benches else None)
    if bench is None:
        return ""
    due = f", calibration due {bench.calibration_due}" if bench.calibration_due else ""
    return f"{bench.name.capitalize()}{due}"


@dataclass(frozen=True)
class EnergyWords:
    """What a specimen stores when it parts, for the person at the bench."""

    expected_j: float
    upper_j: float
    recoil_upper_m_s: float

    def __str__(self) -> str:
        return (
            f"When it parts: about {self.expected_j:.0f} J, up to {self.upper_j:.0f} J; an end may "
            f"reach {self.recoil_upper_m_s:.0f} m/s (an upper bound). No distance makes this safe."
        )


def energy_words(
    specimen: Specimen, results: LotResults | None, compliance_m_per_n: float
) -> EnergyWords | None:
    """Stored energy and recoil bound of a specimen; None where no load can be expected."""
    expected = expect(specimen, results)
    if expected is None:
        return None
    found = stored_energy(expected.loaded, compliance_m_per_n)
    return EnergyWords(found.expected_j, found.upper_j, found.recoil_upper_m_s)


def room_words(logbook: Logbook, day: str) -> str:
    """The room of a day, as reports print it."""
    room = next((d for d in logbook.bench_book.days if d.day == day), None)
    if room is None:
        return "room not noted"
    return f"{room.temperature_c:g} °C, {100 * room.humidity:.0f} % humidity"


@dataclass(frozen=True, kw_only=True)
class Expected:
    """What a specimen is expected to do, and where the number comes from."""

    loaded: LoadedSpan
    draw_m: float
    source: str
    plain_n: float


def expect(specimen: Specimen, results: LotResults | None) -> Expected | None:
    """What a specimen will do, from its lot's pulls, else from the rating; None without either."""
    lot = specimen.lot
    base = None if results is None else results.baseline.median_n
    plain_n, source = base, "measured baseline"
    if plain_n is None:
        plain_n, source = lot.rated_strength_n, "rated strength, which is no baseline"
    if plain_n is None:
        return None
    share, cv, plain_cv = 1.0, PRIOR_PLAIN_CV, PRIOR_PLAIN_CV
    if results is not None and base is not None and results.baseline.counts.broke >= ENOUGH:
        fitted = results.baseline.estimate
        plain_cv = PRIOR_PLAIN_CV if fitted is None else max(fitted.sigma, 0.02)
        cv = plain_cv
    if specimen.role is not Role.BASELINE:
        share, cv = PRIOR_SHARE, PRIOR_CV
        rows = results.knots if results is not None else ()
        row = next((r for r in rows if r.knot == specimen.knot_a), None)
        if row is not None and row.efficiency.interval is not None:
            share = row.efficiency.interval.value
            if row.result.estimate is not None:
                cv = max(row.result.estimate.sigma, 0.02)
    # No knot outlasts the plain rope, however widely its own loads scatter.
    cv = min(cv, plain_cv + max(0.0, -math.log(share)) / 3.0)
    knots = sum(k is not None for k in (specimen.knot_a, specimen.knot_b))
    d = lot.round_m
    mass = lot.mass_per_length_kg_m or ROPE_KG_M3 * d * d
    free = specimen.span_m + 0.1 * knots
    seating = knots * (SEATING_D + DRAW_D) * d
    strain = break_strain_guess(lot.material) * share
    loaded = LoadedSpan(
        break_n=plain_n * share,
        break_cv=cv,
        free_length_m=free,
        break_strain=strain,
        mass_per_length_kg_m=mass,
        seating_m=seating,
    )
    return Expected(loaded=loaded, draw_m=DRAW_D * d, source=source, plain_n=plain_n)


def check_specimen(
    bench: BenchRecord,
    specimen: Specimen,
    expected: Expected,
    tail_floor_m: float,
    say: Say,
    today: str,
) -> list[BenchCheck]:
    """Every check of a planned specimen on a bench."""
    limits = BenchLimits(
        stroke_m=bench.stroke_m,
        capacity_n=bench.capacity_n,
        resolution_n=bench.resolution_n,
        sample_rate_hz=bench.sample_rate_hz,
        compliance_m_per_n=bench.compliance_m_per_n,
        guard_energy_j=bench.guard_energy_j,
        keep_away=bench.keep_away,
        estop_checked_on=bench.estop_checked_on,
        calibration_due=bench.calibration_due,
        methods=bench.methods,
    )
    loaded = expected.loaded
    plan = specimen.method
    highest_n = loaded.break_n
    if plan.highest_share is not None:
        highest_n = plan.highest_share * expected.plain_n
    checks = [
        check_stroke(limits, loaded, say),
        check_capacity(limits, loaded, say),
        check_reading(limits, loaded, bench.rate_m_s),
        check_energy(limits, loaded),
        check_method(limits, plan.key, highest_n, say),
        check_dates(limits, today),
    ]
    if any(p.kind is PlaceKind.PIN for p in specimen.layout.places):
        checks.append(check_pin(specimen.pin_diameter_m, specimen.lot.diameter_m))
    elif specimen.fixture is not None and specimen.fixture.kind in ("pin", "host"):
        checks.append(check_pin(specimen.fixture.diameter_m, specimen.lot.diameter_m))
    if specimen.tails:
        shortest = min(t.length_m for t in specimen.tails)
        checks.append(check_tail(shortest, tail_floor_m, expected.draw_m, say))
    return checks
