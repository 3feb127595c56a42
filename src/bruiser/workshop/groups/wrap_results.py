"""How many wraps grip: slide tests of one cord on one host by the number of wraps."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from bruiser.core.behaviour.wraps import (
    WrapCertificate,
    WrapFit,
    WrapSample,
    certify_wraps,
    fewest_wraps,
    fit_wraps,
)
from bruiser.core.errors import TooFewPulls
from bruiser.core.records.method_kinds import Tells
from bruiser.core.records.methods import tells
from bruiser.core.records.records import Knot, Lot
from bruiser.workshop.groups.gathering import Gathered, Tried
from bruiser.workshop.groups.work_pulls import slide_of
from bruiser.workshop.logbook.logbook import Logbook


@dataclass(frozen=True, kw_only=True)
class WrapMark:
    """One slide test: wraps, the load, and whether it slid there or held at least that."""

    pull_id: str
    code: str
    wraps: int
    load_n: float
    slid: bool


@dataclass(frozen=True, kw_only=True)
class WrapRow:
    """One hitch of one cord on one host rope.

    Parameters
    ----------
    certificates : tuple of WrapCertificate
        Every number of wraps from the fewest tested to one more than the most.
    fewest, fewest_nine : WrapCertificate or None
        The fewest wraps that typically hold the load, and with which nine of ten do.
    refused : str
        Why the wraps cannot be judged; empty where they can.
    """

    knot: Knot
    cord: Lot
    host: Lot
    marks: tuple[WrapMark, ...]
    target_n: float
    fit: WrapFit | None
    certificates: tuple[WrapCertificate, ...]
    fewest: WrapCertificate | None
    fewest_nine: WrapCertificate | None
    refused: str

    @property
    def most_tested(self) -> int:
        """Most wraps that were tested."""
        return max(m.wraps for m in self.marks)


def wrap_sample(marks: tuple[WrapMark, ...]) -> WrapSample:
    """Slide tests as the fit takes them: a test that held is a floor."""
    return WrapSample(
        wraps=np.array([m.wraps for m in marks], dtype=np.float64),
        ln_grip=np.log(np.array([m.load_n for m in marks], dtype=np.float64)),
        held=np.array([not m.slid for m in marks], dtype=np.bool_),
        pull_ids=tuple(m.pull_id for m in marks),
    )


def wrap_tests(gathered: Gathered, lot_id: str) -> dict[tuple[str, str], tuple[WrapMark, ...]]:
    """Slide tests of a lot by (knot id, host lot id).

    Variants that differ in their wraps alone are one hitch, under the first of them.
    """
    found: dict[tuple[str, str], list[WrapMark]] = {}
    first: dict[tuple[object, ...], str] = {}
    for group in gathered.tied[lot_id].values():
        if not tells(group.method, Tells.WRAPS) or group.knot is None:
            continue
        for t in group.tried:
            mark = _mark(t)
            host = t.entry.specimen.lot_b
            if mark is not None and host is not None:
                alike = first.setdefault(_but_for_wraps(group.knot), group.knot.id)
                found.setdefault((alike, host.id), []).append(mark)
    return {k: tuple(sorted(m, key=lambda x: (x.wraps, x.load_n))) for k, m in found.items()}


def _but_for_wraps(knot: Knot) -> tuple[object, ...]:
    return (knot.structure, *sorted(c for c in knot.choices if c[0] != "wraps"))


def _mark(t: Tried) -> WrapMark | None:
    s, slid = t.entry.specimen, slide_of(t)
    if slid is None:
        return None
    return WrapMark(
        pull_id=slid.pull_id,
        code=s.code,
        wraps=round(s.method.value("wraps")),
        load_n=slid.load_n,
        slid=slid.gave,
    )


def wrap_row(
    logbook: Logbook,
    lot_id: str,
    key: tuple[str, str],
    marks: tuple[WrapMark, ...],
    target_n: float,
) -> WrapRow:
    """Fit the wraps of one hitch and judge every number of them against a load.

    One more than was tested is judged; more are refused.
    """
    knot_id, host_id = key
    knot, cord, host = logbook.knot(knot_id), logbook.lot(lot_id), logbook.lot(host_id)
    fitted, certificates, fewest, fewest_nine, refused = _judged(marks, target_n)
    return WrapRow(
        knot=knot,
        cord=cord,
        host=host,
        marks=marks,
        target_n=target_n,
        fit=fitted,
        certificates=certificates,
        fewest=fewest,
        fewest_nine=fewest_nine,
        refused=refused,
    )


Judged = tuple[
    WrapFit | None,
    tuple[WrapCertificate, ...],
    WrapCertificate | None,
    WrapCertificate | None,
    str,
]


@lru_cache(maxsize=256)
def _judged(marks: tuple[WrapMark, ...], target_n: float) -> Judged:
    """Fit, certificates, the fewest typically and for nine of ten, and why it was refused.

    A likelihood bound takes a third of a second, and the same tests are asked about again and
    again: by the sheet of wraps and by every claim.
    """
    sample = wrap_sample(marks)
    fit = fit_wraps(sample)
    try:
        numbers = range(int(sample.wraps.min()), int(sample.wraps.max()) + 2)
        certificates = tuple(certify_wraps(sample, wraps, target_n) for wraps in numbers)
        fewest = next((c for c in certificates if c.holds), None)
        return fit, certificates, fewest, fewest_wraps(sample, target_n, nine_of_ten=True), ""
    except TooFewPulls as error:
        return fit, (), None, None, f"{error.headline} {error.remedy}"


def default_target_n(gathered: Gathered, lot_id: str, logbook: Logbook) -> float:
    """The load of the claim on wraps in the brief, else half the highest grip seen."""
    for claim in logbook.brief.claims_in_force:
        if claim.load_n is not None and claim.lot_id in (None, lot_id):
            return claim.load_n
    loads = [m.load_n for marks in wrap_tests(gathered, lot_id).values() for m in marks]
    return 0.5 * max(loads) if loads else math.nan
