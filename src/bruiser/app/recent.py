"""The campaigns opened lately, as the start page lists them."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path

from platformdirs import user_state_path

from bruiser.core.errors import InputError
from bruiser.core.json_records import read_record, write_record
from bruiser.core.words import count
from bruiser.store.server.address import is_address
from bruiser.ui.opening.start_page import ListedCampaign
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop, utc_now

MOST = 12
RUNGS = 6


@dataclass(frozen=True, kw_only=True)
class RecentCampaign:
    """A campaign that was open.

    Parameters
    ----------
    rungs : tuple of (float, float, float)
        Typical share, low and high of its strongest knots, for a small picture.
    """

    path: str
    title: str
    question: str = ""
    pulls: int = 0
    used_at: str = ""
    rungs: tuple[tuple[float, float, float], ...] = ()

    @property
    def there(self) -> bool:
        """Whether its file is where it was; a server is asked when it is opened."""
        if is_address(self.path):
            return True
        try:
            return Path(self.path).is_file()
        except (OSError, ValueError):
            return False  # No file can have such a path.


def recent_path() -> Path:
    """Where the list is kept."""
    return user_state_path("bruiser") / "recent.json"


def read_recent() -> tuple[RecentCampaign, ...]:
    """The list, the latest first; a list that cannot be read is empty."""
    try:
        return read_record(tuple[RecentCampaign, ...], recent_path().read_text(encoding="utf-8"))
    except (OSError, InputError, ValueError):
        return ()


def _write(rows: tuple[RecentCampaign, ...]) -> None:
    try:
        recent_path().parent.mkdir(parents=True, exist_ok=True)
        recent_path().write_text(write_record(rows), encoding="utf-8")
    except OSError:
        return


def remember(row: RecentCampaign) -> None:
    """Put a campaign at the head of the list; it stands there once."""
    others = tuple(r for r in read_recent() if r.path != row.path)
    _write((row, *others)[:MOST])


def note_rungs(row: RecentCampaign) -> None:
    """Give a campaign that is listed its picture."""
    _write(tuple(replace(r, rungs=row.rungs) if r.path == row.path else r for r in read_recent()))


def forget(path: str) -> None:
    """Take a campaign off the list; its file stays."""
    _write(tuple(r for r in read_recent() if r.path != path))


def row_of(workshop: Workshop, logbook: Logbook) -> RecentCampaign:
    """How an open campaign is listed."""
    return RecentCampaign(
        path=workshop.file.place,
        title=workshop.campaign.title,
        question=workshop.campaign.question,
        pulls=logbook.tally.count(Stage.INSPECTED),
        used_at=utc_now(),
    )


def busiest_lot(logbook: Logbook) -> str:
    """The lot in which most was pulled and inspected; empty where nothing was."""
    counts = logbook.tally.lots(Stage.INSPECTED)
    return max(counts, key=lambda key: counts[key]) if counts else ""


def with_rungs(row: RecentCampaign, logbook: Logbook) -> RecentCampaign:
    """The same with its picture: the strongest knots of the lot with most pulls."""
    from bruiser.workshop.results.lot_results import lot_results

    busiest = busiest_lot(logbook)
    if not busiest:
        return row
    found = lot_results(logbook, logbook.lot(busiest))
    intervals = [r.efficiency.interval for r in found.knots]
    rungs = [(i.value, i.low, i.high) for i in intervals if i is not None][:RUNGS]
    return replace(row, rungs=tuple(rungs))


def listed(row: RecentCampaign) -> ListedCampaign:
    """A campaign as the start page lists it."""
    words = f"{count(row.pulls, 'pull')} in  ·  last open {row.used_at[:10]}"
    if is_address(row.path):
        words += f"  ·  {row.path}"
    if not row.there:
        words = f"Its file is not at {row.path} any more."
    return ListedCampaign(
        path=row.path,
        title=row.title,
        question=row.question,
        words=words,
        there=row.there,
        rungs=row.rungs,
    )
