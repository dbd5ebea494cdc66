"""True extremes of functions of time, located between samples."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from ..arrays import Array, Index, Mask

FINE, FINEST = 1e-11, 1e-13
"""By how much an extreme may be missed, of the largest value of its function and of the largest of all: less than rates
that are differences can tell."""

SURELY = 4.0
"""How many times as far as it is foreseen a turning point may reach beyond the samples beside it."""

Sampler = Callable[[Array, Index], tuple[Array, Array, Array]]
"""Functions with first and second derivatives, each (S, C), at times (S,) of motions (S,), which are counted from 0."""


@dataclass(frozen=True)
class Extremes:
    """Least and greatest of C functions over B motions, and the times at which they occur; each (B, C), or of one
    motion (C,)."""

    low: Array
    high: Array
    low_t: Array
    high_t: Array

    def of(self, motion: int) -> "Extremes":
        """Those of one motion."""
        return Extremes(self.low[motion], self.high[motion], self.low_t[motion], self.high_t[motion])


def extremes(sample: Sampler, t: Array, sampled: tuple[Array, Array, Array]) -> Extremes:
    """Extremes of functions that come with first and second derivatives, of motions side by side: `sampled` holds them
    (G, B, C) over a dense grid of times (G, B).

    Brackets are sign changes of the first derivative, and turning points that its cubic Hermite interpolation has
    between two samples of one sign. In each the quintic through values and derivatives at both ends foresees the place,
    from which Newton's method sets out, kept inside its bracket.
    """
    shape = sampled[0].shape[1:]
    if not sampled[0].size:
        none = np.zeros(shape)
        return Extremes(none, none, none, none)
    values, first, second = (each.reshape(len(t), -1) for each in sampled)
    t = np.repeat(t, shape[1], axis=1)
    columns = np.arange(values.shape[1])
    low_at, high_at = np.argmin(values, axis=0), np.argmax(values, axis=0)
    best = Extremes(values[low_at, columns], values[high_at, columns], t[low_at, columns], t[high_at, columns])
    row, column, low, high = _brackets(t, first, second)
    if row.size:
        h = t[row + 1, column] - t[row, column]
        rates = _rates(row, column, h, values, first, second)
        foreseen, at_low = _foreseen(rates, low, high)
        sizes = np.abs(values).max(axis=0)
        fine = (FINE * sizes + FINEST * sizes.max())[column]
        # Of many turning points only those matter that can reach beyond what the samples have.
        ends = values[np.stack((row, row + 1)), column]
        rise = foreseen * np.polynomial.polynomial.polyval(foreseen, rates / np.arange(1, 6)[:, None], tensor=False)
        reach = SURELY * np.minimum(np.abs(rise), np.abs(ends[0] + rise - ends[1]))
        # Nor is it faster between samples than at the fastest of all, by much: rates of rates that are differences have
        # rounding in them.
        reach = np.minimum(reach, 2.0 * h * np.abs(first).max(axis=0)[column])
        above = ends.max(axis=0) + reach > best.high[column] + fine
        below = ends.min(axis=0) - reach < best.low[column] - fine
        some = np.flatnonzero(above | below)
        column, start, h, fine = column[some], t[row, column][some], h[some], fine[some]
        brackets = start + h * low[some], start + h * high[some]
        motion, own = np.divmod(column, shape[1])
        at, found = _refined(sample, *brackets, motion, own, start + h * foreseen[some], at_low[some], fine)
        for i, c in enumerate(column.tolist()):
            if found[i] < best.low[c]:
                best.low[c], best.low_t[c] = found[i], at[i]
            if found[i] > best.high[c]:
                best.high[c], best.high_t[c] = found[i], at[i]
    return Extremes(*(each.reshape(shape) for each in (best.low, best.high, best.low_t, best.high_t)))


def _brackets(t: Array, first: Array, second: Array) -> tuple[Index, Index, Array, Array]:
    """Where turning points lie: interval of the grid, column, and from which share of the interval to which."""
    small = 1e-9 * np.abs(first).max(axis=0)
    sign = np.where(np.abs(first) <= small, 0.0, np.sign(first))
    changes = (sign[:-1] * sign[1:] <= 0) & ((sign[:-1] != 0) | (sign[1:] != 0))
    row, column = np.nonzero(changes)
    rows, columns, lows, highs = [row], [column], [np.zeros(row.size)], [np.ones(row.size)]
    # The cubic through both rates: where its own turning point has the other sign, two turning points hide.
    h = np.diff(t, axis=0)
    d0, d1, e0, e1 = first[:-1], first[1:], second[:-1] * h, second[1:] * h
    c3, c2 = 2 * d0 - 2 * d1 + e0 + e1, -3 * d0 + 3 * d1 - 2 * e0 - e1
    under = c2 * c2 - 3 * c3 * e0
    for way in (-1.0, 1.0):
        with np.errstate(divide="ignore", invalid="ignore"):
            s = (-c2 + way * np.sqrt(np.where(under >= 0, under, np.nan))) / (3 * c3)
            turned = ((c3 * s + c2) * s + e0) * s + d0
        hidden = (s > 0) & (s < 1) & (turned * d0 < 0) & (d0 * d1 > 0)
        row, column = np.nonzero(hidden)
        middle = s[row, column]
        rows += [row, row]
        columns += [column, column]
        lows += [np.zeros(row.size), middle]
        highs += [middle, np.ones(row.size)]
    return np.concatenate(rows), np.concatenate(columns), np.concatenate(lows), np.concatenate(highs)


def _rates(row: Index, column: Index, h: Array, values: Array, first: Array, second: Array) -> Array:
    """(5, B) the coefficients, by share of an interval of the grid, of the derivative of the quintic Hermite polynomial
    that has the values and derivatives of a column at both ends."""
    (v0, v1), (d0, d1), (e0, e1) = (each[np.stack((row, row + 1)), column] for each in (values, first, second))
    c1, c2 = d0 * h, e0 * h * h / 2
    rise, slope, bend = v1 - v0 - c1 - c2, d1 * h - c1 - 2 * c2, e1 * h * h - 2 * c2
    c3, c4, c5 = 10 * rise - 4 * slope + bend / 2, 7 * slope - 15 * rise - bend, 6 * rise - 3 * slope + bend / 2
    return np.stack((c1, 2 * c2, 3 * c3, 4 * c4, 5 * c5))


def _foreseen(rates: Array, low: Array, high: Array) -> tuple[Array, Array]:
    """Where in brackets of shares a derivative with coefficients (5, B) is zero, and what it is at the lower ends:
    Newton's method, the middle where it would leave."""
    c0, c1, c2, c3, c4 = rates
    before = (((c4 * low + c3) * low + c2) * low + c1) * low + c0
    s = (low + high) / 2
    for _ in range(8):
        value = (((c4 * s + c3) * s + c2) * s + c1) * s + c0
        bend = ((4 * c4 * s + 3 * c3) * s + 2 * c2) * s + c1
        same = np.sign(value) == np.sign(before)
        low, high = np.where(same, s, low), np.where(same, high, s)
        with np.errstate(divide="ignore", invalid="ignore"):
            ahead = s - value / bend
        ahead = np.where((ahead >= low) & (ahead <= high), ahead, (low + high) / 2)
        near = np.abs(ahead - s).max() < 1e-7
        s = ahead
        if near:
            break
    return s, before


def _refined(
    sample: Sampler, left: Array, right: Array, motion: Index, column: Index, at: Array, at_low: Array, fine: Array
) -> tuple[Array, Array]:
    """The root of the first derivative in each bracket, with the value there: Newton from a place foreseen where it
    stays inside, else the middle; `at_low` has the sign of the derivative at the left ends.

    A turning point's value depends on the square of the error in time, so 1e-8 of the bracket is more than enough; and
    where the rate can't lead further than `fine` (B,) within what is left of the bracket, so is any place in it.
    """
    low, high = left.copy(), right.copy()
    found = np.empty(left.size)
    still = np.arange(left.size)  # the brackets not narrow enough yet: one position may cost as much as all others
    for _ in range(30):
        if not still.size:
            break
        values, first, second = sample(at[still], motion[still])
        own = np.arange(still.size), column[still]
        rate, bend = first[own], second[own]
        found[still] = values[own]
        here, below = at[still], np.sign(rate) == np.sign(at_low[still])
        low[still], high[still] = np.where(below, here, low[still]), np.where(below, high[still], here)
        with np.errstate(divide="ignore", invalid="ignore"):
            newton = here - rate / bend
        inside = (newton >= low[still]) & (newton <= high[still])
        ahead = np.where(inside, newton, (low[still] + high[still]) / 2)
        # One Newton step more would move it by its square: what was found is as good then. So is the vertex of the
        # parabola through here, where that is so near that its error, a share of it, is less than what may be missed.
        off = np.abs(ahead - here) / (right - left)[still]
        with np.errstate(divide="ignore", invalid="ignore"):
            beyond = np.where(inside, -(rate**2) / bend / 2, rate * (high - low)[still])
        open_ = off > np.where(inside, 1e-5, 1e-8)
        open_ &= np.abs(beyond) * np.where(inside, off, 1.0) > fine[still]
        found[still] += np.where(inside & ~open_, beyond, 0.0)
        at[still] = np.where(open_ | inside, ahead, here)
        still = still[open_]
    return at, found


def narrowed(
    evaluate: Callable[[Array, Index], Array],
    left: Array,
    right: Array,
    tolerance: float,
    known: tuple[Array, Array] | None = None,
    rounds: int = 24,
) -> tuple[Array, Array]:
    """The least value of B functions, each within its bracket (B,), and where: rounds of finer and finer sampling.

    For functions without derivatives, kinks included. `evaluate` takes times (b, n) of some of the brackets, by number
    (b,), and gives values (b, n): of those that are not narrow enough yet. A round
    looks at even points, which narrow each bracket to a third, and at some close together where the round before
    foretells the least value, as the vertex of a parabola or as the corner of two lines, which narrow it far more;
    until the values about the least one differ from it by less than the tolerance, or lie on a cubic that goes no
    lower. `known` are five times (5, B) about each least value that was seen before, with the values there.
    """
    best, best_t = np.full(left.size, np.inf), left.copy()
    foretold = np.repeat((left + right)[:, None] / 2, 2, axis=1)
    if known is not None:
        foretold = np.clip(_foretold(*known, known[0][2]), left[:, None], right[:, None])
    still = np.arange(left.size)
    for _ in range(rounds):
        rows = np.arange(still.size)
        low, high = left[:, None], right[:, None]
        close = (foretold[:, :, None] + (high - low)[:, :, None] * CLOSE).reshape(still.size, -1)
        close = np.where(close < low, 2 * low - close, np.where(close > high, 2 * high - close, close))
        t = np.sort(np.concatenate((np.linspace(left, right, EVEN, axis=1), close), axis=1), axis=1)
        values = evaluate(t, still)
        k = np.argmin(values, axis=1)
        least = values[rows, k]
        lower = least < best[still]
        best[still[lower]], best_t[still[lower]] = least[lower], t[rows, k][lower]
        inner = np.clip(k, 1, t.shape[1] - 2)  # of two equal ones at an end the least value lies between
        around = np.clip(inner + np.arange(-2, 3)[:, None], 0, t.shape[1] - 1)
        times, found = t[rows, around], values[rows, around]
        open_ = (found[1:4].max(axis=0) - least > tolerance) & ~_settled(times, found, tolerance)
        if not open_.any():
            break
        still, times, found = still[open_], times[:, open_], found[:, open_]
        foretold, left, right = _foretold(times, found, t[rows, k][open_]), times[1], times[3]
    return best, best_t


def _settled(t: Array, values: Array, tolerance: float) -> Mask:
    """(B,) whether five points (5, B) lie on one cubic, by what bends more over half of their span, and the parabola
    through the inner three goes no lower than the middle one by more than a tolerance: a smooth least value is found
    then. The outer points lie further out, so that a kink between the inner ones shows severalfold."""
    with np.errstate(divide="ignore", invalid="ignore"):
        slopes = np.diff(values, axis=0) / np.diff(t, axis=0)
        bends = np.diff(slopes, axis=0) / (t[2:] - t[:-2])
        third = np.diff(bends, axis=0) / (t[3:] - t[:-3])
        span = t[4] - t[0]
        off = np.abs(third[1] - third[0]) / span * (span / 2) ** 4
        middle = slopes[1] + bends[1] * (t[2] - t[1])  # the slope of the parabola at the middle
        smooth: Mask = (off <= 3 * tolerance) & (middle**2 / (4 * bends[1]) <= tolerance) & (bends[1] > 0)
    return smooth


EVEN, CLOSE = 6, np.array([[-0.01, 0.0, 0.01], [-0.013, 0.002, 0.017]])
"""Of `narrowed`: how many even points, and where, in shares of the bracket, those about the two foretold places lie. No
two may coincide where both places are one, or that in the middle: a bracket between two equal points would be empty."""


def _foretold(t: Array, values: Array, lowest: Array) -> Array:
    """(B, 2) where the least value may lie by five points (5, B) about the lowest: the vertex of the polynomial through
    all of them, from that of the parabola through the inner three, and the corner of the lines through the outer two of
    either side; else at the lowest point (B,)."""
    with np.errstate(divide="ignore", invalid="ignore"):
        slopes = np.diff(values, axis=0) / np.diff(t, axis=0)
        bends = np.diff(slopes, axis=0) / (t[2:] - t[:-2])
        vertex = (t[1] + t[2]) / 2 - slopes[1] / (2 * bends[1])
        third = np.diff(bends, axis=0) / (t[3:] - t[:-3])
        fourth = (third[1] - third[0]) / (t[4] - t[0])
        # Newton's form from the inner three outward: t1, t2, t3, then t0, t4.
        a, b, c, d = (vertex - t[k] for k in (1, 2, 3, 0))
        slope = slopes[1] + bends[1] * (a + b) + third[0] * (a * b + (a + b) * c)
        slope += fourth * (a * b * c + (a * b + (a + b) * c) * d)
        better = vertex - slope / (2 * bends[1] + 2 * third[0] * (a + b + c))
        vertex = np.where((better > t[1]) & (better < t[3]), better, vertex)
        corner = (values[3] - values[1] + slopes[0] * t[1] - slopes[3] * t[3]) / (slopes[0] - slopes[3])
    found = np.stack((vertex, corner), axis=1)
    return np.where((found > t[1][:, None]) & (found < t[3][:, None]), found, lowest[:, None])
