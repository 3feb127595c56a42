"""The bench a pull is made on: opened, held to the rules of the bench book, and put in words."""

from __future__ import annotations

from collections.abc import Callable

from bruiser.core.errors import InputError
from bruiser.core.records.bench_book import BenchBook, BenchRecord, arming_words
from bruiser.core.records.records import Specimen
from bruiser.rig.instrument import Instrument, InstrumentInfo
from bruiser.ui.stations.pull.driver import BenchDriver
from bruiser.ui.stations.pull.instrument_presenter import InstrumentPresenter
from bruiser.workshop.bench.instruments import (
    KIND_WORDS,
    OFF_LINE,
    BenchRules,
    InstrumentKind,
    bench_of,
    bench_rules,
    open_instrument,
)
from bruiser.workshop.bench.running import acts_for
from bruiser.workshop.bench.simulation import SIMULATED_BENCH
from bruiser.workshop.logbook.workshop import Workshop
from bruiser.workshop.plan.bench_entry import energy_words

BenchFor = Callable[[Specimen], Instrument]


class BenchAtHand:
    """The instrument chosen, with the bench of the bench book it belongs to."""

    def __init__(
        self,
        workshop: Workshop,
        instrument: InstrumentPresenter,
        driver: BenchDriver,
        bench_for: BenchFor,
    ) -> None:
        self._workshop = workshop
        self._instrument = instrument
        self._driver = driver
        self._bench_for = bench_for

    @property
    def _book(self) -> BenchBook | None:
        logbook = self._instrument.logbook
        return None if logbook is None else logbook.bench_book

    @property
    def _info(self) -> InstrumentInfo | None:
        session = self._driver.session
        return None if session is None else session.instrument_info

    @property
    def record(self) -> BenchRecord | None:
        """The bench of the book that the instrument belongs to."""
        name = (self._info or SIMULATED_BENCH).name
        return bench_of(self._instrument.choice, self._book, name)

    def rules(self, info: InstrumentInfo | None = None) -> BenchRules:
        """Rate, capacity and stroke that count, by the bench book."""
        return bench_rules(self._instrument.choice, self._book, info)

    def open(self, specimen: Specimen, reference: float, technician: str) -> None:
        """Open the instrument and put a specimen on it; nothing stays open where that fails.

        Raises
        ------
        BruiserError
            If it does not answer, the method cannot be commanded, or nobody knows the bench's rate.
        """
        acts = acts_for(specimen, reference)
        instrument = open_instrument(self._instrument.choice, specimen, self._bench_for)
        try:
            rules = self.rules(instrument.info)
            if not rules.rate_m_s and instrument.info.stroke_m:
                raise InputError(
                    f"The bench book does not know “{instrument.info.name}”, nor its rate.",
                    "Write it down in Plan, or choose its bench under Instrument.",
                )
            self._driver.begin(specimen, instrument, acts, rules, technician)
        except BaseException:
            instrument.close()
            raise

    def method_words(self, specimen: Specimen) -> str:
        """What will be done to a specimen, and how fast."""
        rate = self.rules(self._info).rate_m_s
        words = specimen.method.words
        return f"{words}, {1000 * rate:g} mm/s" if rate else words

    def words(self) -> str:
        """What the bench is, and whether samples were lost."""
        choice, info, live = self._instrument.choice, self._info, self._driver.live
        if info is None and choice.kind is not InstrumentKind.SIMULATED:
            at = f", {choice.path}" if choice.path and choice.kind not in OFF_LINE else ""
            words = KIND_WORDS[choice.kind]
            return f"{words[0].upper()}{words[1:]}{at}."
        info = info or SIMULATED_BENCH
        lost = 0 if live is None else live.samples_lost
        words = "none lost" if not lost else f"{lost} lost"
        synthetic = " Synthetic data." if info.simulated else ""
        name = info.name.capitalize()
        said = f"{name}, {info.sample_rate_hz:g} samples a second, {words}.{synthetic}"
        if live is not None and live.rate_m_s:
            said = f"{1000 * live.rate_m_s:.1f} mm/s applied. {said}"
        return said

    def energy_words(self, specimen: Specimen) -> str:
        """What a specimen stores when it parts; by the rating where there are no pulls to go by."""
        bench = self.record
        found = energy_words(specimen, None, 0.0 if bench is None else bench.compliance_m_per_n)
        return "" if found is None else str(found)

    def rule_words(self) -> str:
        """The keep-away rule of the bench book, and the dates that matter before arming."""
        return arming_words(self.record, self._workshop.now()[:10])
