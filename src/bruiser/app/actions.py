"""What can be done to the window and its campaign, each said once: menu, keys, and Go to."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from PyQt6.QtGui import QKeySequence


@dataclass(frozen=True, kw_only=True)
class Action:
    """One action.

    Parameters
    ----------
    keys : str
        Its keys as shipped; a person may have others.
    campaign : bool
        Whether it needs an open campaign.
    after_line : bool
        Whether a line stands above it in the menu.
    """

    key: str
    words: str
    keys: str = ""
    campaign: bool = True
    after_line: bool = False


ACTIONS: tuple[Action, ...] = (
    Action(key="new", words="New campaign …", keys="Ctrl+N", campaign=False),
    Action(key="open", words="Open …", keys="Ctrl+O", campaign=False),
    Action(key="server", words="Open on a server …", campaign=False),
    Action(key="copy", words="Save a copy …", keys="Ctrl+Shift+S"),
    Action(key="copies", words="Copies kept …"),
    Action(key="rename", words="Rename …"),
    Action(key="next", words="Start the next campaign from this one …"),
    Action(key="close", words="Close the campaign", keys="Ctrl+W"),
    Action(key="undo", words="Undo", keys="Ctrl+Z", after_line=True),
    Action(key="redo", words="Redo", keys="Ctrl+Shift+Z"),
    Action(key="history", words="What can be undone …"),
    Action(key="step", words="Do what comes next", keys="F9", after_line=True),
    Action(key="goto", words="Go to …", keys="Ctrl+K"),
    Action(key="logbook", words="Logbook: every pull", keys="Ctrl+L"),
    Action(key="series", words="Type a series from a notebook …", keys="Ctrl+Shift+T"),
    Action(key="bring", words="Bring in pulls from a table …", keys="Ctrl+I"),
    Action(key="traces", words="Bring in records of a logger …"),
    Action(key="merge", words="Merge another campaign …", after_line=True),
    Action(key="export", words="Export everything …"),
    Action(key="put", words="Put on a server …"),
    Action(key="check", words="Look for damage"),
    Action(
        key="preferences",
        words="Preferences …",
        keys="Ctrl+,",
        campaign=False,
        after_line=True,
    ),
    Action(key="theme", words="Light or dark", keys="Ctrl+T", campaign=False),
    Action(key="fullscreen", words="Full screen", keys="F11", campaign=False),
    Action(key="help", words="Help on this page", keys="?", campaign=False, after_line=True),
    Action(key="keys", words="Keys", campaign=False),
    Action(key="tour", words="Tour of the demo"),
    Action(key="about", words="About Bruiser", campaign=False),
    Action(key="quit", words="Quit", keys="Ctrl+Q", campaign=False, after_line=True),
)
ACTION_OF = {action.key: action for action in ACTIONS}
FIXED = {
    **{f"F{n}": "a station" for n in range(1, 9)},
    "Space": "pulling",
    "Esc": "STOP",
    "Ctrl+Return": "accepting findings",
}
"""Keys that belong to the bench and the rail, and what they are for; no action may take them."""


def keys_of(action: Action, chosen: Mapping[str, str]) -> str:
    """The keys of an action: those chosen, else as shipped."""
    return chosen.get(action.key, action.keys)


def clash(key: str, keys: str, chosen: Mapping[str, str]) -> str:
    """What already has some keys, in words; empty where nothing has."""
    wanted = QKeySequence(keys)
    if wanted.isEmpty():
        return "" if not keys else "These are no keys."
    for fixed, what in FIXED.items():
        if QKeySequence(fixed) == wanted:
            return f"{fixed} belongs to {what}."
    for action in ACTIONS:
        if action.key != key and QKeySequence(keys_of(action, chosen)) == wanted:
            return f"“{action.words}” has these keys."
    return ""


BENCH_KEYS = (
    ("F1 to F8", "go to a station"),
    ("Space, held", "pull while the bench is armed"),
    ("Esc", "STOP, from anywhere while armed"),
    ("Ctrl+Enter", "accept findings"),
    ("digits, S H W T C F N", "in Findings: the place that gave, and what untying took"),
    ("M, U, Alt+T", "no mark moved; the untying clock; the tying clock"),
    ("arrow keys, Enter", "walk and tap a strip or a chart"),
)
"""Keys of the bench, the rail and the stations, and what they do."""


def key_list(chosen: Mapping[str, str]) -> tuple[tuple[str, str], ...]:
    """Every key, and what it does."""
    mine = ((keys_of(a, chosen), a.words.rstrip(" …").lower()) for a in ACTIONS)
    return (*BENCH_KEYS, *((keys, words) for keys, words in mine if keys))
