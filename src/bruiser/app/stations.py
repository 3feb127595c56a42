"""The stations of the work, each declared in one place; none is loaded before it is needed.

A presenter or a view may ask something of the window by a signal of one of the names in
:data:`bruiser.app.window.ASKS`; nothing else is wired by hand.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Protocol

from bruiser.core.memory import Memory
from bruiser.core.records.records import Specimen
from bruiser.rig.instrument import Instrument
from bruiser.ui.kit.parts import StationPage
from bruiser.ui.runtime.tasks import TaskRunner
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop


class StationDesk(Protocol):
    """The presenter of a station: it hears of every change, and says what failed."""

    failed: Any

    def take_up(self, logbook: Logbook) -> None:
        """The logbook was read again."""


BenchFor = Callable[[Specimen], Instrument]


@dataclass(frozen=True)
class Means:
    """What presenters are made from."""

    workshop: Workshop
    tasks: TaskRunner
    bench_for: BenchFor
    memory: Memory = field(default_factory=Memory)


@dataclass(frozen=True, kw_only=True)
class Station:
    """One station.

    Parameters
    ----------
    key, name : str
        What it is called inside and on the rail; its function key follows from its place.
    presenter, view : callable
        Make its presenter, and the view over that.
    at_once : bool
        Whether its presenter hears of every change at once, also while it is not seen.
    """

    key: str
    name: str
    presenter: Callable[[Means], StationDesk]
    view: Callable[[Any], StationPage]
    at_once: bool = False


def _brief(m: Means) -> StationDesk:
    from bruiser.ui.stations.brief.presenter import BriefPresenter

    return BriefPresenter(m.workshop)


def _brief_view(presenter: Any) -> StationPage:
    from bruiser.ui.stations.brief.view import BriefView

    return BriefView(presenter)


def _cordage(m: Means) -> StationDesk:
    from bruiser.ui.stations.cordage.presenter import CordagePresenter

    return CordagePresenter(m.workshop, m.tasks)


def _cordage_view(presenter: Any) -> StationPage:
    from bruiser.ui.stations.cordage.view import CordageView

    return CordageView(presenter)


def _knots(m: Means) -> StationDesk:
    from bruiser.ui.stations.knots.presenter import KnotsPresenter

    return KnotsPresenter(m.workshop, m.tasks)


def _knots_view(presenter: Any) -> StationPage:
    from bruiser.ui.stations.knots.view import KnotsView

    return KnotsView(presenter)


def _plan(m: Means) -> StationDesk:
    from bruiser.ui.stations.plan.presenter import PlanPresenter

    return PlanPresenter(m.workshop, m.tasks, m.memory)


def _plan_view(presenter: Any) -> StationPage:
    from bruiser.ui.stations.plan.view import PlanView

    return PlanView(presenter)


def _pull(m: Means) -> StationDesk:
    from bruiser.ui.stations.pull.presenter import PullPresenter

    return PullPresenter(m.workshop, m.bench_for, m.tasks)


def _pull_view(presenter: Any) -> StationPage:
    from bruiser.ui.stations.pull.view import PullView

    return PullView(presenter)


def _findings(m: Means) -> StationDesk:
    from bruiser.ui.stations.findings.presenter import FindingsPresenter

    return FindingsPresenter(m.workshop)


def _findings_view(presenter: Any) -> StationPage:
    from bruiser.ui.stations.findings.view import FindingsView

    return FindingsView(presenter)


def _results(m: Means) -> StationDesk:
    from bruiser.ui.stations.results.presenter import ResultsPresenter

    return ResultsPresenter(m.workshop, m.tasks, m.memory)


def _results_view(presenter: Any) -> StationPage:
    from bruiser.ui.stations.results.view import ResultsView

    return ResultsView(presenter)


def _guide(m: Means) -> StationDesk:
    from bruiser.ui.stations.guide.presenter import GuidePresenter

    return GuidePresenter(m.workshop, m.tasks, m.memory)


def _guide_view(presenter: Any) -> StationPage:
    from bruiser.ui.stations.guide.view import GuideView

    return GuideView(presenter)


STATIONS: tuple[Station, ...] = (
    Station(key="brief", name="Brief", presenter=_brief, view=_brief_view),
    Station(key="cordage", name="Cordage", presenter=_cordage, view=_cordage_view),
    Station(key="knots", name="Knots", presenter=_knots, view=_knots_view),
    Station(key="plan", name="Plan", presenter=_plan, view=_plan_view),
    Station(key="pull", name="Pull", presenter=_pull, view=_pull_view, at_once=True),
    Station(
        key="findings", name="Findings", presenter=_findings, view=_findings_view, at_once=True
    ),
    Station(key="results", name="Results", presenter=_results, view=_results_view),
    Station(key="guide", name="Guide", presenter=_guide, view=_guide_view),
)
BY_KEY = {station.key: station for station in STATIONS}
PAGE_NAMES = {station.key: station.name for station in STATIONS} | {
    "logbook": "Logbook",
    "bring": "Pulls from a table",
}
"""Everything the window can show in its middle."""
