"""Numbers with their nouns."""

from __future__ import annotations


def count(number: int, noun: str, plural: str = "") -> str:
    """A number with its noun in the right form: ``1 pull``, ``3 pulls``, ``2 losses``."""
    return f"{number} {noun}" if number == 1 else f"{number} {plural or f'{noun}s'}"
