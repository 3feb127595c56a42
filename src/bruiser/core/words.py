"""Numbers with their nouns."""

from __future__ import annotations


def count(number: int, noun: str, plural: str = "") -> str:
    """A number with its noun in the right form: ``1 pull``, ``3 pulls``, ``2 losses``."""
    return f"{number} {noun}" if number == 1 else f"{number} {plural or f'{noun}s'}"


def tail_words(usual_d: float, floor_d: float) -> str:
    """A tail in diameters, as a reader is told: its usual length and its floor, or that none is."""
    if not usual_d:
        return "no tail, both parts go on"
    return f"tail {usual_d:g} d, never under {floor_d:g} d"
