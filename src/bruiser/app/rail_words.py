"""What stands under every name on the rail."""

from __future__ import annotations

from bruiser.core.words import count
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.logbook import Logbook


def rail_words(logbook: Logbook) -> dict[str, tuple[str, bool]]:
    """What waits at each station, and whether the campaign has got there."""
    whole = logbook.tally.count()
    planned = logbook.tally.count(Stage.PLANNED)
    pulled = logbook.tally.count(Stage.PULLED)
    inspected = logbook.tally.count(Stage.INSPECTED)
    done = whole - planned
    claims = len(logbook.brief.claims_in_force)
    lots, knots = len(logbook.lots_in_use), len(logbook.knots_in_play)
    return {
        "brief": (count(claims, "claim") + " to test" if claims else "what we ask", True),
        "cordage": (count(lots, "lot"), lots > 0),
        "knots": (f"{knots} in play", knots > 0),
        "plan": (f"{planned} of {whole} left", whole > 0),
        "pull": (f"{planned} to pull" if planned else "queue empty", done > 0 or planned > 0),
        "findings": (f"{pulled} to inspect" if pulled else "none waiting", done > 0),
        "results": (count(inspected, "pull") + " in", inspected > 0),
        "guide": _guide_words(logbook),
    }


def _guide_words(logbook: Logbook) -> tuple[str, bool]:
    """What waits in the guide: the newest revision and how far it has got."""
    newest = logbook.guide
    if newest is None:
        return "no revision yet", False
    return f"no. {newest.row.revision}, {newest.state}", True
