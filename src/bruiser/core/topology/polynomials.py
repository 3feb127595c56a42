"""The polynomials that tell knots apart: Alexander, exact, and Jones, which sees mirror images.

Polynomials are written as coefficients from the lowest power up, with that lowest power.
"""

from __future__ import annotations

from dataclasses import dataclass

from bruiser.core.topology.codes import Closed, Code


@dataclass(frozen=True)
class Polynomial:
    """Coefficients from `lowest` up, by steps of one power (Jones of two curves: of a half)."""

    coefficients: tuple[int, ...]
    lowest: int = 0

    @property
    def is_one(self) -> bool:
        """Whether it is 1."""
        return self.coefficients == (1,) and self.lowest == 0

    def __str__(self) -> str:
        """As it is written: highest power first, e.g. ``t^2-t+1``."""
        said = ""
        for power in range(len(self.coefficients) - 1, -1, -1):
            c, p = self.coefficients[power], power + self.lowest
            if not c:
                continue
            sign = "-" if c < 0 else "+" if said else ""
            size = "" if abs(c) == 1 and p else str(abs(c))
            said += sign + size + ("" if p == 0 else "t" if p == 1 else f"t^{p}")
        return said or "0"


ZERO = Polynomial((), 0)


def _trimmed(by_power: dict[int, int]) -> Polynomial:
    powers = [p for p, c in by_power.items() if c]
    if not powers:
        return ZERO
    low, high = min(powers), max(powers)
    return Polynomial(tuple(by_power.get(p, 0) for p in range(low, high + 1)), low)


def _over_arcs(code: Code) -> dict[int, int]:
    """Arcs that are one strand from an underpass to the next, by arc."""
    parent: dict[int, int] = {}

    def root(a: int) -> int:
        while parent.setdefault(a, a) != a:
            a = parent[a]
        return a

    for a, b, c, d in code:
        for arc in (a, c):
            root(arc)
        parent[root(b)] = root(d)
    return {arc: root(arc) for arc in parent}


def alexander(closed: Closed) -> Polynomial:
    """Alexander polynomial, exact, written from its constant term with a positive leading sign.

    Notes
    -----
    A row of the Alexander matrix for every crossing: 1 - t for the strand that goes over, t and -1
    for the two below, by its sign (Fox calculus on Wirtinger's presentation). One minor of it is
    the polynomial up to a power of t and its sign. It is worked out at the single whole number
    t = 2^(2 n + 4), where every coefficient fits between powers of t, by Bareiss' division-free
    elimination on whole numbers, and read back as balanced digits. Curves that do not meet, and
    links that come apart, have 0.
    """
    code = closed.code
    if not code:
        return Polynomial((1,)) if closed.components == 1 else ZERO
    if closed.loose:
        return ZERO
    strand = _over_arcs(code)
    index = {s: k for k, s in enumerate(sorted(set(strand.values())))}
    n = len(code)
    t = 1 << (2 * n + 4)
    rows = []
    for (a, b, c, _), sign in zip(code, closed.signs, strict=True):
        row = [0] * len(index)
        row[index[strand[b]]] += 1 - t
        first, second = (t, -1) if sign > 0 else (-1, t)
        row[index[strand[a]]] += first
        row[index[strand[c]]] += second
        rows.append(row)
    size = len(index)
    if size <= 1:
        return Polynomial((1,))
    value = _determinant([row[: size - 1] for row in rows[: size - 1]])
    found = _trimmed(dict(enumerate(_balanced(abs(value), t))))
    coefficients = found.coefficients
    if coefficients and coefficients[-1] < 0:
        coefficients = tuple(-c for c in coefficients)
    return Polynomial(coefficients, 0)


def _determinant(rows: list[list[int]]) -> int:
    """Bareiss' fraction-free elimination."""
    m, n, sign, last = [list(r) for r in rows], len(rows), 1, 1
    for k in range(n - 1):
        if m[k][k] == 0:
            swap = next((i for i in range(k + 1, n) if m[i][k]), None)
            if swap is None:
                return 0
            m[k], m[swap], sign = m[swap], m[k], -sign
        pivot = m[k]
        for i in range(k + 1, n):
            row, factor = m[i], m[i][k]
            if factor or pivot[k] != last:
                for j in range(k + 1, n):
                    row[j] = (row[j] * pivot[k] - factor * pivot[j]) // last
        last = pivot[k]
    return sign * m[-1][-1]


def _balanced(value: int, base: int) -> list[int]:
    """Digits of a number between minus and plus half of its base, lowest first."""
    found = []
    while value:
        digit = value % base
        if digit > base // 2:
            digit -= base
        found.append(digit)
        value = (value - digit) // base
    return found


_State = tuple[tuple[int, int], ...]
_BITS = 128
_Packed = tuple[int, int]
"""A polynomial in A as one whole number, `_BITS` bits a coefficient, and its lowest power."""


def jones(closed: Closed) -> Polynomial:
    """Jones polynomial in t; of an even number of curves its powers are halves, counted in halves.

    Notes
    -----
    Kauffman's bracket by a state sum over a moving front: <X[a,b,c,d]> = A <ab|cd> + 1/A <ad|bc>,
    a closed loop is -A^2 - A^-2. V = (-A^3)^(-w) <D> / (-A^2 - A^-2), t = A^-4. Crossings are taken
    in an order that keeps the front short; states are pairings of the arcs that stick out.
    """
    bracket: _Packed = _bracket(closed.code) if closed.code else (1, 0)
    for _ in range(closed.loose if closed.code else closed.components):
        bracket = _times_loop(bracket)
    whole = _over_loop(_unpacked(bracket))
    w = closed.writhe
    sign = -1 if w % 2 else 1
    step = 4 if closed.components % 2 else 2
    return _trimmed({-(p - 3 * w) // step: sign * c for p, c in whole.items() if c})


def _plus(one: _Packed, two: _Packed) -> _Packed:
    (a, low), (b, other) = one, two
    if low > other:
        a, low, b, other = b, other, a, low
    return a + (b << (_BITS * (other - low))), low


def _times_loop(poly: _Packed) -> _Packed:
    value, low = poly
    return -(value + (value << (_BITS * 4))), low - 2


def _unpacked(poly: _Packed) -> dict[int, int]:
    value, low = poly
    sign = -1 if value < 0 else 1
    digits = _balanced(abs(value), 1 << _BITS)
    return {low + k: sign * c for k, c in enumerate(digits) if c}


def _over_loop(left: dict[int, int]) -> dict[int, int]:
    """Divide by -A^2 - A^-2; what is divided is a multiple of it."""
    found: dict[int, int] = {}
    while left:
        top = max(left)
        c = -left[top]
        found[top - 2] = c
        for p in (top, top - 4):
            left[p] = left.get(p, 0) + c
            if not left[p]:
                del left[p]
    return found


def _bracket(code: Code) -> _Packed:
    states: dict[_State, _Packed] = {(): (1, 0)}
    left = list(code)
    front: set[int] = set()
    while left:
        at = max(range(len(left)), key=lambda k: (len(front & set(left[k])), -k))
        a, b, c, d = left.pop(at)
        made: dict[_State, _Packed] = {}
        for state, poly in states.items():
            for pairs, power in ((((a, b), (c, d)), 1), (((a, d), (b, c)), -1)):
                into, loops = _joined(state, pairs)
                added = (poly[0], poly[1] + power)
                for _ in range(loops):
                    added = _times_loop(added)
                made[into] = _plus(made[into], added) if into in made else added
        states = made
        for arc in {a, b, c, d}:
            front ^= {arc} if (a, b, c, d).count(arc) == 1 else set()
    return states.get((), (0, 0))


def _joined(state: _State, pairs: tuple[tuple[int, int], ...]) -> tuple[_State, int]:
    """A pairing of loose arcs with two more connections; how many loops that closed."""
    link: dict[int, int] = {}
    for x, y in state:
        link[x], link[y] = y, x
    loops = 0
    for x, y in pairs:
        if x == y:
            loops += 1
            continue
        end_x, end_y = link.pop(x, None), link.pop(y, None)
        if end_x == y:
            loops += 1
            continue
        x2, y2 = x if end_x is None else end_x, y if end_y is None else end_y
        link[x2], link[y2] = y2, x2
    return tuple(sorted((x, y) for x, y in link.items() if x < y)), loops
