"""Which sign stands before the tenths: by a whole column, by its size and neighbours, or asked."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from enum import StrEnum
from itertools import pairwise
from statistics import median

_BETWEEN = re.compile(r"(?<=\d)[\s\u00a0\u202f'’](?=\d{3}(?!\d))")
_UNIT = re.compile(r"\s*[A-Za-z\"]+$")
_READ_AS = {
    ".": re.compile(r"[+-]?(?:[1-9]\d{0,2}(?:,\d{3})+|\d+)?(?:\.\d*)?(?:[eE][+-]?\d{1,3})?"),
    ",": re.compile(r"[+-]?(?:[1-9]\d{0,2}(?:\.\d{3})+|\d+)?(?:,\d*)?(?:[eE][+-]?\d{1,3})?"),
}
_GROUPED_EXPONENT = re.compile(r"\d[.,]\d{3}[eE]")
_FAR, _NEAR = 30.0, 5.0

_ABOUT = (0.002, 2.5)
Range = tuple[float, float]
LOADS_ANYWHERE_N: Range = (1.0, 1e6)
"""Where loads of pulls lie when nothing is known of the cordage, in newton."""


def loads_about(strength_n: float) -> Range:
    """Where loads of pulls on a cordage of that strength lie: from slipping early to well above."""
    return _ABOUT[0] * strength_n, _ABOUT[1] * strength_n


class DecimalMark(StrEnum):
    """What stands before the tenths; ``ask`` where the cells leave it open."""

    POINT = "."
    COMMA = ","
    ASK = "ask"


def without_groups(text: str) -> str:
    """A number without the blanks or apostrophes between its thousands."""
    return _BETWEEN.sub("", text)


def reads_as(text: str, mark: DecimalMark) -> float | None:
    """What a number means with a decimal sign, the other grouping thousands; None for no number."""
    plain = without_groups(text.strip())
    if not any(map(str.isdigit, plain)) or not _READ_AS[mark].fullmatch(plain):
        return None
    if _GROUPED_EXPONENT.search(plain) and mark not in plain:
        return None
    other = "," if mark is DecimalMark.POINT else "."
    return float(plain.replace(other, "").replace(mark, "."))


def may_be_two(text: str) -> tuple[float, float] | None:
    """Both values of a number that can be read with either sign, the smaller first."""
    pair = reads_as(text, DecimalMark.POINT), reads_as(text, DecimalMark.COMMA)
    if pair[0] is None or pair[1] is None or pair[0] == pair[1]:
        return None
    return min(pair[0], pair[1], key=abs), max(pair[0], pair[1], key=abs)


def sign_by_size(text: str, within: Range | None) -> DecimalMark:
    """The sign with which alone a number lies where it should."""
    if within is None:
        return DecimalMark.ASK
    low, high = within
    fits = [
        mark
        for mark in (DecimalMark.POINT, DecimalMark.COMMA)
        if (value := reads_as(text, mark)) is not None and low <= abs(value) <= high
    ]
    return fits[0] if len(fits) == 1 else DecimalMark.ASK


def decimal_sign_of(
    cells: Iterable[str], *, within: Range | None = None, in_order: bool = False
) -> DecimalMark:
    """The decimal sign of a column.

    Parameters
    ----------
    cells : iterable of str
        Numbers as they stand there, also with a unit behind; what is no number is passed over.
    within : (float, float), optional
        Where its values lie, in the unit of the column, as far as that is known: about a rating.
    in_order : bool
        Whether each is the neighbour in time of the next, as in a record.

    Returns
    -------
    DecimalMark
        ``ask`` where every number could be read both ways and nothing tells, or where some can
        only be read with one sign and others only with the other.

    Notes
    -----
    A number with one sign and three digits behind it can be two. In turn tell: a number of the
    column that can only be one; size, where only one reading lies `within`; and whole numbers
    below a thousand beside it, which a column of three decimal places does not have, unless
    that would part neighbours by a thousand.
    """
    order = [_UNIT.sub("", text.strip()) for text in cells]
    marks = _marks_alone(order)
    if marks is not None:
        return marks
    either = [text for text in order if may_be_two(text) is not None]
    signs = {sign for text in either for sign in ".," if sign in text}
    if len(signs) > 1:
        return DecimalMark.ASK
    if in_order:
        # A record begins at nothing; its highest lies where loads lie.
        told = {sign_by_size(max(set(either), key=_as_larger), within)}
    else:
        told = {sign_by_size(text, within) for text in set(either)}
    if len(told) == 1 and DecimalMark.ASK not in told:
        return told.pop()
    if told != {DecimalMark.ASK}:
        return DecimalMark.ASK
    return _by_whole_numbers(order, either, DecimalMark(signs.pop()), in_order=in_order)


def signs_of_columns(
    columns: Sequence[Sequence[str]],
    sizes: Mapping[int, Range],
    said: DecimalMark = DecimalMark.ASK,
) -> list[DecimalMark]:
    """The decimal sign of each column of a record.

    Parameters
    ----------
    sizes : mapping
        Where the highest of a column lies, by its place.
    said : DecimalMark
        What a person says where nothing tells; else a column that leaves it open has the sign of
        the others.
    """
    found = [
        decimal_sign_of(column, within=sizes.get(at), in_order=True)
        for at, column in enumerate(columns)
    ]
    with_sign = {
        sign
        for sign, column in zip(found, columns, strict=True)
        if sign is not DecimalMark.ASK and any("." in c or "," in c for c in column)
    }
    if said is DecimalMark.ASK and len(with_sign) == 1:
        said = next(iter(with_sign))
    return [said if sign is DecimalMark.ASK else sign for sign in found]


def _as_larger(text: str) -> float:
    both = may_be_two(text)
    return 0.0 if both is None else abs(both[1])


def _marks_alone(cells: Sequence[str]) -> DecimalMark | None:
    """What numbers that can only be read one way say; None where all can be read both ways."""
    joined = "".join(cells)
    has = {sign: sign in joined for sign in ".,"}
    if not has["."] and not has[","]:
        return DecimalMark.POINT
    only: set[DecimalMark] = set()
    open_ = False
    for text in dict.fromkeys(cells):
        if "." not in text and "," not in text:
            continue
        fits = [m for m in (DecimalMark.POINT, DecimalMark.COMMA) if reads_as(text, m) is not None]
        if len(fits) == 1:
            only.add(fits[0])
            if not all(has.values()):
                break
        open_ |= len(fits) == 2
    if len(only) == 2:
        return DecimalMark.ASK
    if only:
        return only.pop()
    return None if open_ else DecimalMark.POINT


def _by_whole_numbers(
    order: Sequence[str], either: Sequence[str], sign: DecimalMark, *, in_order: bool
) -> DecimalMark:
    """What whole numbers without a sign tell of those beside them that may be two."""
    grouped = DecimalMark.COMMA if sign is DecimalMark.POINT else DecimalMark.POINT
    whole = [float(c) for c in map(without_groups, order) if re.fullmatch(r"[+-]?\d+", c)]
    whole = [abs(value) for value in whole if value]
    if not whole or max(whole) >= 1000:
        return DecimalMark.ASK
    if in_order:
        rough = {mark: _roughness(order, mark) for mark in (sign, grouped)}
        return grouped if 3.0 * rough[grouped] < rough[sign] else DecimalMark.ASK
    beside = median(whole)
    apart = {
        mark: _apart(median(abs(reads_as(c, mark) or 0.0) for c in either), beside)
        for mark in (sign, grouped)
    }
    if apart[grouped] > _FAR and apart[sign] < _NEAR:
        return DecimalMark.ASK
    return grouped


def _apart(one: float, other: float) -> float:
    small, large = sorted((one, other))
    return large / small if small > 0 else float("inf")


def _roughness(order: Sequence[str], mark: DecimalMark) -> float:
    """How far neighbours lie apart: the largest step as a share of all the way there is."""
    values = [v for c in order if c and (v := reads_as(c, mark)) is not None]
    steps = [abs(b - a) for a, b in pairwise(values)]
    whole = max(values) - min(values)
    ordered = sorted(steps)[-max(1, len(steps) // 100) :]
    return ordered[0] / whole if whole > 0 and ordered else 0.0
