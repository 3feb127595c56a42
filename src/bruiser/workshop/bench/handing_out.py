"""Which specimen comes to this bench: the one wanted, or the next that no other bench has."""

from __future__ import annotations

from collections.abc import Collection

from bruiser.core.errors import Unreachable
from bruiser.workshop.logbook.entries import Entry, Stage
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop


def hand_out(
    workshop: Workshop, logbook: Logbook, wanted: str, kept_here: Collection[str]
) -> tuple[Entry | None, str]:
    """A specimen to pull, taken in hand here, and why not the one wanted.

    Parameters
    ----------
    wanted : str
        The id of a specimen to have before its turn; empty for the next.
    kept_here : collection of str
        Ids of specimens whose pulls wait on this machine: they are pulled.

    Returns
    -------
    entry : Entry or None
        None where nothing is free.
    refused : str
        Who has the one wanted, in words; empty where it was not refused.
    """
    claims, refused = workshop.claims, ""
    while True:
        taken = {*claims.others, *kept_here}
        chosen = logbook.entry(wanted) if wanted else None
        if chosen is not None and chosen.stage is not Stage.PLANNED:
            chosen = None
        if chosen is not None and wanted in taken:
            holder = claims.others.get(wanted)
            refused = f"{chosen.specimen.code} is in hand elsewhere: {holder or 'pulled here'}."
            chosen = None
        entry = chosen or logbook.next_to_pull(workshop.now(), taken)
        if entry is None or claims.take(entry.specimen.id):
            return entry, refused


def hand_out_pulled(workshop: Workshop, logbook: Logbook) -> Entry | None:
    """The pulled specimen to be inspected here, taken in hand; None where none is free."""
    claims = workshop.claims
    while True:
        entry = logbook.next_to_inspect(tuple(claims.others))
        if entry is None or claims.take(entry.specimen.id, "inspect"):
            return entry


def kept_here(code: str) -> Unreachable:
    """What is said of a pull that ended while the server is away."""
    return Unreachable(
        f"The pull of {code} is kept on this machine: the server is away.",
        "It is delivered when the server is back; then its findings can be entered.",
    )
