"""``bruiser-cli next``: what to pull next for a use in a cordage, without a window."""

from __future__ import annotations

import argparse
from typing import Any

from bruiser.core.errors import InputError
from bruiser.core.json_records import write_document
from bruiser.workshop.course.next_pulls import Allowance, NextUp, next_up
from bruiser.workshop.course.next_words import (
    aside_words,
    block_words,
    doubt_words,
    pick_words,
    room_words,
    stage_words,
)
from bruiser.workshop.guide.book import read_guide_book
from bruiser.workshop.guide.choosing import fill_shelf
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import open_workshop

FORMAT = "bruiser-next-1"


def next_command(options: argparse.Namespace) -> str:
    """What to pull next, in words or as JSON.

    Raises
    ------
    BruiserError
        If there is no such campaign, use or cordage.
    """
    workshop = open_workshop(options.file, read_only=True)
    try:
        logbook, book = read_logbook(workshop), read_guide_book(workshop)
        profile = book.profile(options.use)
        wanted = options.cordage.strip().lower()
        lots = [x for x in logbook.lots if wanted in (x.name.lower(), f"{x.name}, {x.condition}")]
        if not lots:
            known = ", ".join(dict.fromkeys(lot.name for lot in logbook.lots)) or "none yet"
            raise InputError(f"There is no cordage “{options.cordage}”.", f"There are: {known}.")
        lot = lots[0]
        aside = _knot_ids(logbook.knots, options.without)
        shelf = fill_shelf(logbook, (lot.id,))
        allowed = Allowance(
            budget=options.budget, hours=options.hours, usual=options.budget is None
        )
        up = next_up(shelf, lot.id, profile, book.limits, allowed, options.seed, aside)
    finally:
        workshop.close()
    if options.json:
        return write_document(_document(up, profile.name))
    return "\n".join(_lines(up))


def _knot_ids(knots: Any, names: list[str]) -> frozenset[str]:
    found = set()
    for name in names:
        mine = {k.id for k in knots if name.strip().lower() in (k.title.lower(), k.id)}
        if not mine:
            raise InputError(f"There is no knot “{name}” in the campaign.", where="without")
        found |= mine
    return frozenset(found)


def _lines(up: NextUp) -> list[str]:
    said = [stage_words(up)]
    if not up.waiting:
        said += [f"{n}. {what}: {why}" for n, (what, why) in enumerate(_picks(up), start=1)]
    said += [doubt_words(up), room_words(up), *aside_words(up)]
    return [line for line in said if line]


def _picks(up: NextUp) -> list[tuple[str, str]]:
    return [pick_words(up, pick) for pick in up.found.picks]


def _document(up: NextUp, use: str) -> dict[str, Any]:
    """Bars are shares of the longest: their points would promise more than is known."""
    most = max((w.per_hour for w in up.found.worths), default=0.0)
    return {
        "format": FORMAT,
        "use": use,
        "cordage": up.lot.name,
        "condition": up.lot.condition,
        "stage": up.found.stage.value,
        "lacks": None if up.found.lacks is None else up.found.lacks.value,
        "leader": None if not up.found.leader else up.knots[up.found.leader].title,
        "block": [
            {"knot": None if not p.key else up.knots[p.key].title, "why": p.why.value}
            for p in (() if up.waiting else up.found.picks)
        ],
        "worth": [
            {
                "knot": up.knots[w.key].title,
                "pulls": w.pulls,
                "bar": w.per_hour / most if most else 0.0,
            }
            for w in up.found.worths
        ],
        "events": {up.knots[r.key].title: r.events for r in up.runners},
        "loss_about": round(2.0 * up.found.loss) / 2.0,
        "rests_on": None if up.found.rests_on is None else up.found.rests_on.value,
        "budget": up.budget,
        "left": up.found.left,
        "allowed": {"by_cord": up.by_cord, "by_hours": up.by_hours},
        "waiting": up.waiting,
        "aside": [{"knot": name, "why": why} for name, why in up.aside],
        "words": [w for w in (stage_words(up), block_words(up), doubt_words(up)) if w],
    }
