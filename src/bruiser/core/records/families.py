"""The families a knot may belong to, and the trades whose names for it are known."""

from __future__ import annotations

FAMILIES = (
    "end loop",
    "midline loop",
    "double loop",
    "adjustable loop",
    "bend",
    "hitch on a host",
    "friction hitch",
    "tensioning system",
    "binding",
    "stopper",
    "quick release",
)
GENERAL = "general"
TRADES = (
    GENERAL,
    "sailing",
    "climbing",
    "rescue",
    "caving",
    "tree work",
    "rigging",
    "fishing",
    "farming",
    "camping",
    "weaving",
)
