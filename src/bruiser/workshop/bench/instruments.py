"""Which instrument a pull is recorded with, and checking it with a known load."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum

from bruiser.core.errors import InputError
from bruiser.core.records.bench_book import BenchBook, BenchRecord, LoadCheck
from bruiser.core.records.records import Specimen
from bruiser.rig.instrument import Instrument, InstrumentInfo
from bruiser.rig.protocol import rates_borne
from bruiser.rig.serial.bench import SerialBench
from bruiser.rig.serial.line import SerialLine
from bruiser.rig.serial.passive import PassiveIndicator, PassiveSettings, scale_from
from bruiser.rig.serial.probe import ProbedPort, best, listen
from bruiser.store import bench_books
from bruiser.store.open_campaign import Connection
from bruiser.workshop.bench.simulation import SIMULATED_BENCH, TRAVEL_RATE_M_S
from bruiser.workshop.desk.form_texts import Typed
from bruiser.workshop.logbook.commands import Changes, Command
from bruiser.workshop.logbook.workshop import Workshop


class InstrumentKind(StrEnum):
    """What the load comes from."""

    SIMULATED = "simulated"
    CONTROLLED = "controlled"
    PASSIVE = "passive"
    BY_HAND = "by_hand"
    LOGGER = "logger"


OFF_LINE = (InstrumentKind.BY_HAND, InstrumentKind.LOGGER)
"""What records nothing while the pull goes on."""


KIND_WORDS = {
    InstrumentKind.SIMULATED: "simulated bench",
    InstrumentKind.CONTROLLED: "bench on a serial line",
    InstrumentKind.PASSIVE: "indicator on a serial line",
    InstrumentKind.BY_HAND: "no instrument: I read the peak off a display",
    InstrumentKind.LOGGER: "from a logger file afterwards",
}


@dataclass(frozen=True, kw_only=True)
class InstrumentChoice:
    """The instrument chosen, with what it needs to be opened.

    Parameters
    ----------
    path : str
        Device path of the serial line.
    sample_rate_hz : float
        Wanted from a controlled bench.
    bench_id : str
        The bench of the bench book it belongs to; empty where that follows from its name.
    """

    kind: InstrumentKind = InstrumentKind.SIMULATED
    path: str = ""
    baud: int = 115_200
    sample_rate_hz: float = 200.0
    passive: PassiveSettings = field(default_factory=PassiveSettings)
    bench_id: str = ""

    @property
    def is_simulated(self) -> bool:
        """Whether it is the simulated bench."""
        return self.kind is InstrumentKind.SIMULATED


@dataclass(frozen=True)
class BenchRules:
    """What counts at the bench a pull is made on: the bench book before what the bench says.

    Parameters
    ----------
    rate_m_s : float
        Travel rate it is commanded with; 0 where nobody has written it down.
    stroke_m : float
        0 where it is not known.
    """

    rate_m_s: float
    capacity_n: float
    stroke_m: float


def bench_of(
    choice: InstrumentChoice, book: BenchBook | None, name: str = ""
) -> BenchRecord | None:
    """The bench of the book an instrument belongs to: the one chosen, or the one of its name."""
    benches = () if book is None else book.benches
    if choice.bench_id:
        return next((b for b in benches if b.id == choice.bench_id), None)
    return next((b for b in benches if b.name == name), None)


def bench_rules(
    choice: InstrumentChoice, book: BenchBook | None, info: InstrumentInfo | None = None
) -> BenchRules:
    """Rate, capacity and stroke a pull goes by.

    Notes
    -----
    The bench book's rate is commanded; the smaller of the two capacities and strokes is the limit.
    The simulated bench has a rate of its own where the book says nothing of it.
    """
    simulated = choice.is_simulated
    info = info or (SIMULATED_BENCH if simulated else None)
    bench = bench_of(choice, book, "" if info is None else info.name)
    own_n = choice.passive.capacity_n if info is None else info.capacity_n
    own_m = 0.0 if info is None else info.stroke_m
    if bench is None:
        return BenchRules(TRAVEL_RATE_M_S if simulated else 0.0, own_n, own_m)
    stroke_m = min(own_m, bench.stroke_m) if own_m else bench.stroke_m
    return BenchRules(bench.rate_m_s, min(own_n, bench.capacity_n), stroke_m)


def open_instrument(
    choice: InstrumentChoice, specimen: Specimen, simulated: Callable[[Specimen], Instrument]
) -> Instrument:
    """The instrument a specimen is pulled with.

    Raises
    ------
    RigError
        If it cannot be opened or does not answer.
    InputError
        If no line was named.
    """
    if choice.kind is InstrumentKind.SIMULATED:
        return simulated(specimen)
    if not choice.path:
        raise InputError("Name the line, like /dev/ttyUSB0.", where="path")
    line = SerialLine(choice.path, choice.baud)
    if choice.kind is InstrumentKind.PASSIVE:
        return PassiveIndicator(line, choice.passive)
    try:
        return SerialBench(line, choice.sample_rate_hz)
    except BaseException:
        line.close()
        raise


def with_cell(choice: InstrumentChoice, bench: BenchRecord) -> InstrumentChoice:
    """A choice with the capacity, resolution and calibration factor of a cell in the book."""
    passive = replace(
        choice.passive,
        scale=bench.factor,
        capacity_n=bench.capacity_n,
        resolution_n=bench.resolution_n,
    )
    return replace(choice, passive=passive, bench_id=bench.id)


def choice_texts(choice: InstrumentChoice) -> dict[str, str]:
    """A choice as its form shows it."""
    return {
        "kind": choice.kind.value,
        "path": choice.path,
        "baud": str(choice.baud),
        "rate": f"{choice.sample_rate_hz:g}",
        "pattern": choice.passive.pattern,
        "unit": choice.passive.unit,
        "mark": choice.passive.decimal_mark,
        "capacity": f"{choice.passive.capacity_n / 1000:g} kN",
    }


def read_choice(
    texts: Mapping[str, str], before: InstrumentChoice
) -> tuple[InstrumentChoice, dict[str, str]]:
    """A choice from its form, and the fields that are wrong."""
    typed = Typed(texts)
    kind = InstrumentKind(texts["kind"])
    lines = (InstrumentKind.CONTROLLED, InstrumentKind.PASSIVE)
    path = typed.text("path", "Name the line." if kind in lines else "")
    rate = typed.number("rate", least=1.0, missing="Samples a second.")
    capacity = typed.quantity("capacity", "force", "kN", missing="The cell's capacity.")
    baud = int(texts.get("baud", "115200"))
    passive = replace(
        before.passive,
        pattern=texts["pattern"],
        unit=texts["unit"],
        decimal_mark=texts["mark"],
        capacity_n=capacity or before.passive.capacity_n,
    )
    try:
        passive.compiled()
    except InputError as error:
        typed.errors["pattern"] = str(error)
    borne = rates_borne(baud, 2)
    if kind is InstrumentKind.CONTROLLED and rate is not None and (not borne or rate > borne[0]):
        most = borne[0] if borne else 0
        typed.errors["rate"] = f"{baud} baud bears {most} samples a second at most."
    if typed.errors:
        return before, typed.errors
    rate = rate or before.sample_rate_hz
    return InstrumentChoice(
        kind=kind,
        path=path,
        baud=baud,
        sample_rate_hz=rate,
        passive=passive,
        bench_id=before.bench_id,
    ), {}


def try_settings(
    choice: InstrumentChoice, bauds: tuple[int, ...], seconds: float = 0.4
) -> tuple[list[ProbedPort], ProbedPort | None]:
    """Listen to the line at each baud rate; what came, and the setting that understood most."""
    if not choice.path:
        raise InputError("Name the line, like /dev/ttyUSB0.", where="path")
    tried = [listen(choice.path, baud, choice.passive, seconds) for baud in bauds]
    return tried, best(tried)


@dataclass(frozen=True)
class RecordCheck(Command):
    """Keep a check with a known load; it stands in the book for good."""

    check: LoadCheck
    title: str = "keep the check with a known load"

    def apply(self, connection: Connection) -> Changes:
        bench_books.insert_load_check(connection, self.check)
        return Changes(frozenset({"load_check"}), (self.check.id,))

    @property
    def undoable(self) -> bool:
        return False


def check_known_load(
    workshop: Workshop, choice: InstrumentChoice, known_n: float, read_n: float, by: str
) -> InstrumentChoice:
    """Keep what a known load read, and correct an indicator's scale by it.

    Raises
    ------
    InputError
        If the reading is so far off that the unit or the decimal mark must be wrong; the check is
        not kept then.
    """
    scale = scale_from(known_n, read_n, choice.passive.scale)
    name = choice.path or KIND_WORDS[choice.kind]
    check = LoadCheck(
        id=workshop.new_id(),
        made_at=workshop.now(),
        bench=name,
        known_n=known_n,
        read_n=read_n,
        by=by.strip(),
    )
    workshop.do(RecordCheck(check))
    if choice.kind is InstrumentKind.PASSIVE:
        return replace(choice, passive=replace(choice.passive, scale=scale))
    return choice
