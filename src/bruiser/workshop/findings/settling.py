"""Findings of one pull that were made on two benches without knowledge of one another.

Every correction says which finding it was made from. Where the newest was made from an earlier one
than the finding before it, both stand until somebody who has seen both says which holds; the newest
counts meanwhile. Saying so is one more finding, and corrects the newest: nothing is lost.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from bruiser.core.errors import Refused
from bruiser.core.records.records import Finding
from bruiser.core.units import UnitChoice
from bruiser.workshop.findings.history import GAVE_WORDS
from bruiser.workshop.logbook.commands import AcceptFinding
from bruiser.workshop.logbook.entries import Entry, are_unsettled
from bruiser.workshop.logbook.workshop import Workshop


def unsettled(history: Sequence[Finding]) -> tuple[Finding, ...]:
    """Findings that stand against one another, the newest last; none where all is settled.

    Parameters
    ----------
    history : sequence of Finding
        Every finding of a pull, oldest first.
    """
    if not are_unsettled(history):
        return ()
    ids = [finding.id for finding in history]
    known = history[-1].supersedes
    after = ids.index(known) + 1 if known in ids else 0
    return tuple(history[after:])


def settle(workshop: Workshop, entry: Entry, finding_id: str, by: str = "") -> None:
    """Say which of the findings that stand against one another holds.

    Raises
    ------
    Refused
        If it is none of them, or they were settled meanwhile.
    """
    open_ones = unsettled(entry.history)
    chosen = next((f for f in open_ones if f.id == finding_id), None)
    if chosen is None:
        raise Refused(f"{entry.specimen.code} was settled meanwhile.", "Look at it again.")
    made = replace(
        chosen,
        id=workshop.new_id(),
        made_at=workshop.now(),
        supersedes=open_ones[-1].id,
        reason=f"settled: the finding of {chosen.made_at[:16].replace('T', ' ')} holds",
        by=by or chosen.by,
    )
    workshop.do(AcceptFinding(made, f"settle the findings of {entry.specimen.code}"))


def version_words(finding: Finding, entry: Entry, units: UnitChoice) -> str:
    """One of the findings in a line: what gave, where, at what load, by whom and when."""
    at = "" if finding.place is None else f" at {entry.specimen.layout.place(finding.place).label}"
    what = "taken back" if finding.withdrawn else f"{GAVE_WORDS[finding.gave]}{at}"
    who = f", by {finding.by}" if finding.by else ""
    note = f" ({finding.reason})" if finding.reason else ""
    when = finding.made_at[:16].replace("T", " ")
    return f"{what}, peak {units.force_text(finding.peak_load_n)}{who}, {when}{note}"
