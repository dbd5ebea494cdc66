"""Laws of motion: a value as a function of time (or of an angle), in pieces that are exact.

A piece is a polynomial of degree 7 and one sinusoid, s(x) = Σ cₖ xᵏ + A sin(ω x + φ) with x counted from its own start.
All laws of the handbooks are made of such pieces, so that value, rate and acceleration are those of the formula. What
is known only by its values (a table, an expression) is fitted by pieces that miss it by less than `FITTED`.

Peak velocity and acceleration of the standard laws, for a rise of one over a range of one, are the coefficients C_v and
C_a of the handbooks of cams (R. L. Norton, Cam Design and Manufacturing Handbook, table of peak factors).
"""

import math
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from .arrays import Array

DEGREE = 7
FITTED, JUMP = 1e-11, 1e-9
"""Share of the whole range by which a fitted piece may miss what it stands for."""
SOONEST = 1e-9
"""What is shorter (s, or rad of a cam) is no motion: its rates would be beyond all numbers."""
LATEST = 1e12
"""What is longer (s) is none either, and its higher powers are beyond all numbers."""
MOST_PIECES = 20_000


@dataclass(frozen=True)
class LawPiece:
    """A law from `start` to `stop`: `terms` (8,) of the polynomial in x − start, then amplitude, frequency (rad a unit
    of x) and phase (rad) of the sinusoid."""

    start: float
    stop: float
    terms: tuple[float, ...]
    amplitude: float = 0.0
    frequency: float = 0.0
    phase: float = 0.0

    def at(self, x: float, order: int = 0) -> float:
        """The value at x, or its derivative of an order."""
        u, found = x - self.start, 0.0
        for power in range(len(self.terms) - 1, order - 1, -1):
            found = found * u + self.terms[power] * math.perm(power, order)
        if self.amplitude:
            turned = self.frequency * u + self.phase + order * math.pi / 2
            found += self.amplitude * self.frequency**order * math.sin(turned)
        return found

    def part(self, start: float, stop: float) -> "LawPiece":
        """The same function, from one place to another."""
        u = start - self.start
        terms = tuple(self.at_polynomial(u, order) / math.factorial(order) for order in range(len(self.terms)))
        return replace(self, start=start, stop=stop, terms=terms, phase=self.phase + self.frequency * u)

    def turned_back(self, whole: float) -> "LawPiece":
        """The same law run backwards, where x was is now `whole` − x."""
        length = self.stop - self.start
        ahead = self.part(self.stop, self.stop)
        terms = tuple(term * (-1.0) ** power for power, term in enumerate(ahead.terms))
        start = whole - self.stop
        return LawPiece(start, start + length, terms, -self.amplitude, self.frequency, -ahead.phase)

    def at_polynomial(self, u: float, order: int) -> float:
        """The polynomial's derivative of an order, u behind the start."""
        return sum(
            term * math.perm(power, order) * u ** (power - order)
            for power, term in enumerate(self.terms) if power >= order
        )  # fmt: skip

    def scaled(self, along: float = 1.0, by: float = 1.0, start: float = 0.0, offset: float = 0.0) -> "LawPiece":
        """Stretched `along` the axis from zero, its values times `by` and with an `offset`, then moved by `start`."""
        terms = [term * by / along**power for power, term in enumerate(self.terms)]
        terms[0] += offset
        return LawPiece(
            self.start * along + start, self.stop * along + start, tuple(terms),
            self.amplitude * by, self.frequency / along, self.phase,
        )  # fmt: skip


def polynomial(start: float, stop: float, *terms: float) -> LawPiece:
    """A piece without a sinusoid."""
    return LawPiece(start, stop, (*map(float, terms), *(0.0,) * (DEGREE + 1 - len(terms))))


@dataclass(frozen=True)
class StandardLaw:
    """A rise of one over a range of one, from rest to rest where the law has rests."""

    name: str
    title: str
    description: str
    pieces: tuple[LawPiece, ...]

    def peak(self, order: int) -> float:
        """The greatest size of a derivative: C_v of the first, C_a of the second."""
        x = np.linspace(0.0, 1.0, 4001)
        return float(np.abs(sampled(self.pieces, x, order)).max())


def from_accelerations(*given: tuple[float, float, float, float, float]) -> tuple[LawPiece, ...]:
    """A rise of one over a range of one from the shape of its acceleration, in pieces (stop, constant, amplitude,
    frequency, phase): integrated twice from rest, scaled to a rise of one."""
    pieces, start, value, rate = [], 0.0, 0.0, 0.0
    for stop, constant, amplitude, frequency, phase in given:
        # The sinusoid a sin(ωx + φ) comes from −a/ω² sin(ωx + φ); the polynomial makes value and rate carry on.
        swing = -amplitude / frequency**2 if frequency else 0.0
        terms = (value - swing * math.sin(phase), rate - swing * frequency * math.cos(phase), constant / 2)
        piece = replace(polynomial(start, stop, *terms), amplitude=swing, frequency=frequency, phase=phase)
        pieces.append(piece)
        start, value, rate = stop, piece.at(stop), piece.at(stop, 1)
    return tuple(piece.scaled(by=1.0 / value) for piece in pieces)


PI = math.pi
STANDARD: dict[str, StandardLaw] = {
    law.name: law
    for law in (
        StandardLaw("uniform", "Uniform", "constant velocity: it starts and ends with a jolt",
                    (polynomial(0, 1, 0, 1),)),
        StandardLaw("parabolic", "Parabolic", "constant acceleration, then constant deceleration",
                    from_accelerations((0.5, 1, 0, 0, 0), (1, -1, 0, 0, 0))),
        StandardLaw("harmonic", "Harmonic", "half a cosine: acceleration jumps at both ends",
                    from_accelerations((1, 0, 1, PI, PI / 2))),
        StandardLaw("cycloidal", "Cycloidal", "a whole sine of acceleration, none at the ends",
                    from_accelerations((1, 0, 1, 2 * PI, 0))),
        StandardLaw("modified-trapezoid", "Modified trapezoid", "least peak acceleration of those without jumps",
                    from_accelerations((1 / 8, 0, 1, 4 * PI, 0), (3 / 8, 1, 0, 0, 0), (5 / 8, 0, 1, 4 * PI, PI / 2),
                                       (7 / 8, -1, 0, 0, 0), (1, 0, 1, 4 * PI, 3 * PI / 2))),
        StandardLaw("modified-sine", "Modified sine", "low peak velocity and torque",
                    from_accelerations((1 / 8, 0, 1, 4 * PI, 0), (7 / 8, 0, 1, 4 * PI / 3, PI / 2),
                                       (1, 0, 1, 4 * PI, 3 * PI / 2))),
        StandardLaw("345", "Polynomial 3-4-5", "no acceleration at the ends",
                    (polynomial(0, 1, 0, 0, 0, 10, -15, 6),)),
        StandardLaw("4567", "Polynomial 4-5-6-7", "no acceleration and no jerk at the ends",
                    (polynomial(0, 1, 0, 0, 0, 0, 35, -84, 70, -20),)),
    )
}  # fmt: skip
"""By the name that a document writes."""


def risen(law: str, start: float, stop: float, low: float, high: float) -> list[LawPiece]:
    """The pieces of a standard law from a value to another, over a range."""
    if low == high:
        return [polynomial(start, stop, low)]
    return [piece.scaled(stop - start, high - low, start, low) for piece in STANDARD[law].pieces]


def sampled(pieces: Sequence[LawPiece], x: Array, order: int = 0) -> Array:
    """(S,) values, or derivatives of an order, at x (S,); beyond the ends the end's value."""
    starts = np.array([piece.start for piece in pieces])
    within = np.clip(x, pieces[0].start, pieces[-1].stop)
    number = np.clip(np.searchsorted(starts, within, side="right") - 1, 0, len(pieces) - 1)
    return np.array([pieces[n].at(at, order) for n, at in zip(number.tolist(), within.tolist(), strict=True)])


def cut_at_rests(pieces: Iterable[LawPiece]) -> list[LawPiece]:
    """The same law, cut wherever its rate changes sign within a piece: a motion that is followed turns only at an
    end."""
    from scipy.optimize import brentq

    found = []
    for piece in pieces:
        x = np.linspace(piece.start, piece.stop, 4 * DEGREE + 1)
        rates = np.array([piece.at(at, 1) for at in x.tolist()])
        size = np.abs(rates).max()
        rates[np.abs(rates) <= 1e-9 * size] = 0.0  # a sign there is that of rounding
        cuts = [piece.start]
        for k in np.flatnonzero(rates[:-1] * rates[1:] < 0):
            at = float(brentq(piece.at, x[k], x[k + 1], args=(1,), xtol=1e-15 * max(1.0, abs(piece.stop))))
            cuts.append(at)
        inside = np.flatnonzero((np.abs(rates[1:-1]) <= 1e-14 * size) & (size > 0)) + 1
        cuts = sorted({*cuts, *x[inside].tolist(), piece.stop})
        found += [piece.part(a, b) for a, b in pairwise(cuts)] if len(cuts) > 2 else [piece]
    return found


def through(x: Sequence[float], values: Sequence[float], smooth: bool) -> list[LawPiece]:
    """The law through a table of values: straight between them, or smooth in acceleration (cubic spline, no
    acceleration at its ends unless it comes back to its first value, where it runs on periodically)."""
    if not smooth or len(x) < 3:
        return [
            polynomial(a, b, low, (high - low) / (b - a))
            for (a, low), (b, high) in pairwise(zip(x, values, strict=True))
        ]
    from scipy.interpolate import CubicSpline

    ends = "periodic" if values[0] == values[-1] else "natural"
    spline = CubicSpline(np.array(x), np.array(values), bc_type=ends)
    columns = spline.c.T.tolist()
    return [polynomial(a, b, *reversed(column)) for (a, b), column in zip(pairwise(x), columns, strict=True)]


def fitted(
    function: Callable[[float], float], start: float, stop: float, knots: Iterable[float] = ()
) -> list[LawPiece]:
    """Pieces that miss a function by less than `FITTED` of its size, cut at the `knots` where it may have a kink, and
    where one is found.

    Interpolation at the roots of Chebyshev's T₈, looked at between them, halved until it holds. What is fitted is how
    the function differs from its value at the start of the piece, so that rounding is that of the difference: rates and
    accelerations of the pieces count too. Raises ValueError where it never holds: the function jumps.
    """
    cuts = sorted({start, stop, *(knot for knot in knots if start < knot < stop)})
    count = DEGREE + 1
    turns = (2 * np.arange(count) + 1) * np.pi / (2 * count)
    roots = (1 + np.cos(turns)) / 2
    series = np.cos(np.outer(np.arange(count), turns)) * (2 / count)  # from values to Chebyshev's coefficients
    series[0] /= 2
    powers = _chebyshev_powers(count)
    between = (1 - np.cos(np.arange(1, count) * np.pi / count)) / 2
    scale = max((abs(function(at)) for at in np.linspace(start, stop, 33).tolist()), default=1.0) or 1.0
    found: list[LawPiece] = []
    parted: set[tuple[float, float]] = set()
    open_ = list(reversed(list(pairwise(cuts))))
    while open_:
        a, b = open_.pop()
        first, size = function(a), b - a
        values = np.array([function(a + size * share) - first for share in roots.tolist()])
        terms = (series @ values) @ powers
        terms[0] += first
        off = max(
            abs(float(share ** np.arange(count) @ terms) - function(a + size * share)) for share in between.tolist()
        )
        smallest = size < 1e-4 * (stop - start)
        if off <= (100 if smallest else 1) * FITTED * scale:
            found.append(polynomial(0.0, 1.0, *terms.tolist()).scaled(size, start=a))
        elif smallest:
            kink = _kink(function, a, b)
            if abs(function(kink[1]) - function(kink[0])) > JUMP * scale or (a, b) in parted:
                raise ValueError(f"jumps near {(a + b) / 2:g}")
            middle = (kink[0] + kink[1]) / 2
            parted |= {(a, middle), (middle, b)}
            open_ += [(middle, b), (a, middle)]
        else:
            if len(found) + len(open_) > MOST_PIECES:
                raise ValueError("can't be followed: it changes too fast")
            open_ += [((a + b) / 2, b), (a, (a + b) / 2)]
    return found


def _kink(function: Callable[[float], float], low: float, high: float) -> tuple[float, float]:
    """The narrowest interval within which a function bends most."""
    for _ in range(60):
        at = [low + (high - low) * k / 4 for k in range(5)]
        values = [function(t) for t in at]
        bends = [abs(values[k] - 2 * values[k + 1] + values[k + 2]) for k in range(3)]
        k = max(range(3), key=bends.__getitem__)
        if not low < at[k + 1] < high or max(bends) <= 8e-16 * max(map(abs, values)):
            break
        low, high = at[k], at[k + 2]
    return low, high


def _chebyshev_powers(count: int) -> Array:
    """(K, K) the powers of u in each T_k(2u − 1), from 0 to 1."""
    found = np.zeros((count, count))
    found[0, 0] = 1.0
    found[1, :2] = -1.0, 2.0
    for k in range(2, count):  # T_k = 2 (2u − 1) T_{k−1} − T_{k−2}
        found[k] = -2.0 * found[k - 1] - found[k - 2]
        found[k, 1:] += 4.0 * found[k - 1, :-1]
    return found
