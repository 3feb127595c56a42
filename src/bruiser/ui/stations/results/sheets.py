"""The sheets of Results, each declared once: what it asks, how it is built, what it offers."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from bruiser.core.units import UnitChoice
from bruiser.ui.stations.results.across import across_sheet
from bruiser.ui.stations.results.claims import claims_sheet
from bruiser.ui.stations.results.compare import compare_sheet
from bruiser.ui.stations.results.drift import drift_sheet
from bruiser.ui.stations.results.grip import grip_sheet
from bruiser.ui.stations.results.hands import hands_sheet
from bruiser.ui.stations.results.jamming import jam_sheet
from bruiser.ui.stations.results.loads import load_sheet
from bruiser.ui.stations.results.sheet import Sheet
from bruiser.ui.stations.results.slip import slip_sheet
from bruiser.ui.stations.results.strength import LadderChoice, strength_sheet
from bruiser.ui.stations.results.tying import tying_sheet
from bruiser.ui.stations.results.work import work_sheet
from bruiser.ui.stations.results.wraps import wraps_sheet
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.results.overview import (
    ACROSS,
    CLAIMS,
    COMPARED,
    HANDS,
    JAMMING,
    SLIPPING,
    STRENGTHS,
    TYING,
    WORKED,
    WRAPS,
    Overview,
    Work,
)


@dataclass(frozen=True, kw_only=True)
class Chosen:
    """How the sheets are shown: choices that need nothing worked out again."""

    sort: str = "strength"
    way: str = "pairs"
    by: str = "order"
    alike: str = ""
    rows: tuple[tuple[str, str], ...] = ()

    def row(self, sheet: str) -> str:
        """The row chosen on a sheet."""
        return dict(self.rows).get(sheet, "")


@dataclass(frozen=True, kw_only=True)
class Material:
    """What a sheet is built from; `row` is the key of the row looked at."""

    found: Overview
    logbook: Logbook
    row: str
    chosen: Chosen
    units: UnitChoice


@dataclass(frozen=True, kw_only=True)
class SheetKind:
    """One sheet.

    Parameters
    ----------
    work : Work
        What it works out of the pulls, beyond their strengths.
    controls : tuple of str
        Which of the controls above the chart it needs.
    by_lot : bool
        Whether it is about the lot chosen, not about all of them.
    """

    key: str
    name: str
    question: str
    build: Callable[[Material], Sheet]
    work: Work = STRENGTHS
    controls: tuple[str, ...] = ()
    by_lot: bool = True


def _strength(m: Material) -> Sheet:
    if len(m.found.shown) == 1 and m.found.shown[0].baseline.median_n is None:
        return load_sheet(m.found, m.units)
    return strength_sheet(m.found, m.logbook, LadderChoice(m.chosen.sort, m.row), m.units)


_LIST = (
    SheetKind(
        key="strength",
        name="Strength",
        question="How much of the rope is left in the knot",
        build=_strength,
        controls=("sort", "against", "floor", "sure", "filter"),
    ),
    SheetKind(
        key="slip",
        name="Security",
        question="Will it stay tied",
        build=lambda m: slip_sheet(m.found, m.logbook, m.row, m.units),
        work=SLIPPING,
    ),
    SheetKind(
        key="jamming",
        name="Jamming",
        question="Will it come undone afterwards",
        build=lambda m: jam_sheet(m.found, m.row, m.units),
        work=JAMMING,
    ),
    SheetKind(
        key="wraps",
        name="Wraps",
        question="How many wraps are enough",
        build=lambda m: wraps_sheet(m.found, m.row, m.units),
        work=WRAPS,
        controls=("target",),
    ),
    SheetKind(
        key="grip",
        name="Grip",
        question="At which load does it begin to slide",
        build=lambda m: grip_sheet(m.found, m.row, m.units),
        work=WORKED,
    ),
    SheetKind(
        key="work",
        name="Work",
        question="Does it do what it is for",
        build=lambda m: work_sheet(m.found, m.logbook, m.row, m.units),
        work=WORKED,
    ),
    SheetKind(
        key="tying",
        name="Tying",
        question="Is it tied right, and how fast",
        build=lambda m: tying_sheet(m.found, m.logbook, m.row, m.units),
        work=TYING,
    ),
    SheetKind(
        key="compare",
        name="Compare",
        question="Which can these pulls tell apart",
        build=lambda m: compare_sheet(m.found, m.chosen.way, m.units),
        work=COMPARED,
        controls=("way", "compared"),
    ),
    SheetKind(
        key="across",
        name="Across cordages",
        question="What may it keep where nobody pulled it",
        build=lambda m: across_sheet(m.found, m.chosen.alike),
        work=ACROSS,
        controls=("alike", "without"),
        by_lot=False,
    ),
    SheetKind(
        key="drift",
        name="Drift",
        question="Did the bench, the days or the hands drift",
        build=lambda m: drift_sheet(m.found, m.chosen.by, m.units),
        controls=("by",),
    ),
    SheetKind(
        key="hands",
        name="Hands",
        question="Does it depend on who tied it, or on which bench",
        build=lambda m: hands_sheet(m.found),
        work=HANDS,
        by_lot=False,
    ),
    SheetKind(
        key="claims",
        name="Claims",
        question="What holds of what is said",
        build=lambda m: claims_sheet(m.found, m.logbook, m.row, m.units),
        work=CLAIMS,
        by_lot=False,
    ),
)
SHEETS = {kind.key: kind for kind in _LIST}
