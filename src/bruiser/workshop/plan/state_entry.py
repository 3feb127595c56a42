"""From what was typed about tails, eyes, damage and slings to the states that a plan asks for."""

from __future__ import annotations

import re
from collections.abc import Mapping

from bruiser.core.units import UnitChoice
from bruiser.workshop.desk.form_texts import Typed
from bruiser.workshop.plan.plan_cells import OnPurpose

BENDS = {"ends": "end to end", "sling": "closed to a sling", "both": "both ways"}
USUAL = "usual"
MOST_TAIL_D, MOST_LONGER, MOST_CUT = 200.0, 100.0, 95.0


def on_purpose_texts(asked: OnPurpose, units: UnitChoice) -> dict[str, str]:
    """What a plan asks for, as its form shows it."""
    return {
        "tails": ", ".join(f"{d:g}" if d else USUAL for d in asked.tails_d),
        "longer": ", ".join(f"{100 * x:g}" for x in asked.longer_eyes),
        "cut": ", ".join(f"{100 * x:g}" for x in asked.cut_shares),
        "bends": asked.bends,
        "around": units.length_text(asked.around_m) if asked.around_m else "",
        "joint": units.length_text(asked.joint_m) if asked.joint_m else "",
    }


def read_on_purpose(
    texts: Mapping[str, str], units: UnitChoice
) -> tuple[OnPurpose | None, dict[str, str]]:
    """Read the form of what is done on purpose.

    Parameters
    ----------
    texts : mapping
        ``tails`` (diameters, or ``usual``), ``longer`` and ``cut`` (per cent), each a list of
        numbers; ``bends``, one of :data:`BENDS`; ``around`` and ``joint``, lengths.

    Returns
    -------
    asked : OnPurpose or None
        None when a field is wrong.
    errors : dict
        The fields that are wrong.
    """
    typed = Typed(texts)
    tails = _list(typed, "tails", most=MOST_TAIL_D, example="usual, 6, 10")
    longer = _list(typed, "longer", most=MOST_LONGER, example="0, 20")
    cut = _list(typed, "cut", most=MOST_CUT, example="0, 50")
    around = typed.quantity("around", "length", units.length)
    joint = typed.quantity("joint", "length", units.length)
    bends = texts.get("bends", "ends")
    if bends != "ends" and around is None and "around" not in typed.errors:
        typed.errors["around"] = "How long is the sling all the way round?"
    if around is not None and joint is not None and joint > around / 2:
        typed.errors["joint"] = "A leg is only half as long as the sling is round."
    if typed.errors:
        return None, typed.errors
    return (
        OnPurpose(
            tails_d=tails,
            longer_eyes=tuple(x / 100 for x in longer),
            cut_shares=tuple(x / 100 for x in cut),
            bends=bends,
            around_m=around or 0.0,
            joint_m=joint or 0.0,
        ),
        {},
    )


def _list(typed: Typed, name: str, *, most: float, example: str) -> tuple[float, ...]:
    """Numbers typed one after the other; nothing, 0 and ``usual`` stand for the plain way."""
    found: dict[float, None] = {}
    for part in re.split(r"[;\s]+|,\s", typed.text(name)):
        word = part.strip(" ,%").replace(",", ".")
        if not word:
            continue
        try:
            value = 0.0 if word.lower() == USUAL else float(word)
        except ValueError:
            value = -1.0
        if not 0 <= value <= most:
            typed.errors[name] = f"Numbers from 0 to {most:g}, like: {example}."
            return (0.0,)
        found[value] = None
    return tuple(found) or (0.0,)
