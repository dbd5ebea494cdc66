"""True extremes of functions of time, located between samples."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from ..arrays import Array, Index
from ..measures.extremes import usual_rate

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
    small = 1e-9 * usual_rate(first)
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
