"""TOML that somebody else wrote, as plain data: of bounded length, depth and breadth."""

from __future__ import annotations

import re
import tomllib
from typing import Any

from bruiser.core.errors import InputError

LONGEST = 200_000
DEEPEST = 40
_DOTS = re.compile(rf"(?:[\w-]+\s*\.\s*){{{DEEPEST}}}")


def read_toml(text: str, where: str) -> dict[str, Any]:
    """Plain data of a TOML text.

    Raises
    ------
    InputError
        If it is none, or longer or deeper than any file of ours; `where` names the file.
    """
    if len(text) > LONGEST:
        raise InputError(f"{where} is longer than any of its kind.", where=where)
    depth = deepest = 0
    for sign in re.findall(r"[\[{\]}]", text):
        depth += 1 if sign in "[{" else -1
        deepest = max(deepest, depth)
    if deepest > DEEPEST or _DOTS.search(text):
        raise InputError(f"{where} is nested deeper than any of its kind.", where=where)
    try:
        return tomllib.loads(text)
    except (tomllib.TOMLDecodeError, RecursionError) as error:
        raise InputError(f"{where} cannot be read: {error}.", where=where) from error
