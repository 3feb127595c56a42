"""What the bench book holds: benches with their load cell, guard and rules, and the day's room."""

from __future__ import annotations

from dataclasses import dataclass, field

from bruiser.core.records.methods import METHODS


@dataclass(frozen=True, kw_only=True)
class BenchRecord:
    """One bench with the cell mounted on it; lengths in metre, loads in newton.

    Parameters
    ----------
    accuracy_class : str
        Of the load cell, as on its certificate.
    guard_energy_j : float or None
        Energy the guard is rated for.
    factor : float
        What its readings are multiplied with, from the cell's calibration.
    methods : tuple of str
        Load modes it can do, of :data:`bruiser.core.records.methods.METHODS`.
    """

    id: str
    name: str
    stroke_m: float
    rate_m_s: float
    capacity_n: float
    resolution_n: float
    sample_rate_hz: float
    compliance_m_per_n: float = 0.0
    accuracy_class: str = ""
    calibrated_on: str = ""
    calibration_due: str = ""
    keep_away: str = ""
    guard: str = ""
    guard_energy_j: float | None = None
    estop_checked_on: str = ""
    methods: tuple[str, ...] = METHODS[:2]
    factor: float = 1.0


@dataclass(frozen=True, kw_only=True)
class LoadCheck:
    """A known load hung on a bench's cell, and what it read, in newton."""

    id: str
    made_at: str
    bench: str
    known_n: float
    read_n: float
    by: str = ""

    @property
    def off(self) -> float:
        """How far the reading is off, as a share of the known load."""
        return self.read_n / self.known_n - 1.0


@dataclass(frozen=True, kw_only=True)
class Fixture:
    """A pin, host, plate or edge: what a specimen is held by or pulled round."""

    id: str
    kind: str
    name: str
    material: str
    finish: str
    diameter_m: float


@dataclass(frozen=True)
class RoomDay:
    """Temperature in degree Celsius and relative humidity as a share, of one day."""

    day: str
    temperature_c: float
    humidity: float


FIXTURE_KINDS = ("pin", "host", "plate", "edge")


@dataclass(frozen=True, kw_only=True)
class BenchBook:
    """All benches, fixtures and days, in the order entered."""

    benches: tuple[BenchRecord, ...] = ()
    fixtures: tuple[Fixture, ...] = ()
    days: tuple[RoomDay, ...] = field(default=())
    checks: tuple[LoadCheck, ...] = ()


def arming_words(bench: BenchRecord | None, today: str) -> str:
    """What is said before a bench is armed: its own keep-away rule, and the dates that matter."""
    if bench is None or not bench.keep_away:
        return "The bench book has no keep-away rule for this bench: write it down first."
    said = [f"Keep-away rule: {bench.keep_away}."]
    if not bench.calibration_due or bench.calibration_due < today:
        said.append("The load cell's calibration is out of date.")
    if bench.estop_checked_on != today:
        said.append("The emergency stop was not tried today.")
    return " ".join(said)
