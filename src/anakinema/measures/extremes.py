"""Least and greatest values of functions of time that are smooth between known times, located and bounded.

Between two nodes of a motion a measure is sampled at Chebyshev points, and the polynomial through them tells both where
it turns and, by its last coefficients, how far it may be from the function (L. N. Trefethen, "Approximation Theory and
Approximation Practice", SIAM 2013, chapters 4 and 8, from memory). A stretch whose polynomial is not good enough yet,
and that may hold a value beyond the best one, is parted: so kinks and steep ends are closed in upon. Where that no
longer helps (rounding, a value that grows without bound) it is told how much may be missed. A function that is smooth
but for a `Fold` is searched unfolded, for its kinks are where it crosses known levels.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array, Index, Mask

if TYPE_CHECKING:
    from ..kinematics.motion import Motion

BOTH = (1.0, -1.0)
"""Least and greatest: the signs with which a function is looked at for its least value."""
POINTS, FINE = 11, 65
"""Samples of a stretch; places at which its polynomial is looked at."""
CLOSE, CLOSEST = 1e-7, 1e-11
"""How closely the ends of a function are known, as a share of its size; and of one that is next to nothing (core
units)."""
STALLS, NOISY, NOISE = 30, 16, 1e-6
"""Partings that may gain next to nothing before a stretch is given up, and where a polynomial is off by less than this
share of the size, which may be rounding."""
SLOWLY = 16.0
"""How much larger than its last coefficients a series that falls off slowly may be off."""
MORE, MOST = 4, 512
"""Stretches of a function in all: so many times those it begins with, and so many."""

_K = np.arange(POINTS)
NODES = -np.cos(np.pi * _K / (POINTS - 1))
"""The Chebyshev points of [−1, 1], ascending."""
_TO_COEFFICIENTS = np.linalg.inv(np.polynomial.chebyshev.chebvander(NODES, POINTS - 1)).T
_TO_DERIVATIVES = np.stack([
    np.stack([np.pad(each, (0, POINTS - each.size)) for each in (
        np.polynomial.chebyshev.cheb2poly(np.polynomial.chebyshev.chebder(row, order)) for row in np.eye(POINTS)
    )])
    for order in range(3)
])  # fmt: skip
"""(3, POINTS, POINTS) from the coefficients of a polynomial to those by powers, of it and its first two derivatives."""
_GRID = np.linspace(-1.0, 1.0, FINE)
_ON_GRID = np.polynomial.chebyshev.chebvander(_GRID, POINTS - 1).T


@dataclass(frozen=True)
class Fold:
    """What leads from a smooth function, known up to whole periods, to its distance from the next whole one: 0 to half
    a period."""

    period: float

    def __call__(self, smooth: Array) -> Array:
        folded: Array = np.abs(smooth - self.period * np.round(smooth / self.period))
        return folded

    def unwrapped(self, values: Array) -> Array:
        """Samples (I, POINTS) without the jumps of whole periods between neighbours."""
        if not np.isfinite(values.sum()):
            return values
        jumps = np.round(np.diff(values, axis=1) / self.period)
        if jumps.any():
            values = values.copy()
            values[:, 1:] -= self.period * np.cumsum(jumps, axis=1)
        return values

    def crossed(self, smooth: Array, sign: float) -> tuple[Mask, Array]:
        """Where smooth values (I, K) cross a level at which the folded ones are least (`sign` 1) or greatest (-1) from
        one place to the next, (I, K − 1), and that level."""
        first = 0.0 if sign > 0 else self.period / 2
        whole = np.floor((smooth - first) / self.period)
        return whole[:, 1:] != whole[:, :-1], first + self.period * np.maximum(whole[:, 1:], whole[:, :-1])


@dataclass(frozen=True)
class Ends:
    """Least and greatest value with their times; `missed` is by how much either may be exceeded; `low_why` and
    `high_why` are the reasons for infinite ones."""

    low: float
    low_t: float
    high: float
    high_t: float
    missed: float = 0.0
    low_why: str = ""
    high_why: str = ""

    def beyond(self, value: float, t: float, why: str) -> "Ends":
        """With a value more."""
        if value < self.low:
            return replace(self, low=value, low_t=t, low_why=why)
        return replace(self, high=value, high_t=t, high_why=why) if value > self.high else self


@dataclass(frozen=True)
class ManyEnds:
    """The same of B functions side by side, each (B,)."""

    low: Array
    low_t: Array
    high: Array
    high_t: Array
    missed: Array

    def of(self, number: int) -> Ends:
        """Those of one."""
        low, low_t, high, high_t, missed = (float(each[number]) for each in self._all)
        return Ends(low, low_t, high, high_t, missed)

    @property
    def _all(self) -> tuple[Array, ...]:
        return self.low, self.low_t, self.high, self.high_t, self.missed


def smooth_spans(motion: "Motion") -> Array:
    """(I, 2) the stretches of time between the nodes of a motion."""
    nodes = motion.path.node_times
    nodes = np.unique(np.append(nodes[nodes < motion.path.t1], motion.path.t1))
    if nodes.size == 1:
        return np.array([[nodes[0], nodes[0]]])
    spans = np.stack((nodes[:-1], nodes[1:]), axis=1)
    return spans[np.nextafter(spans[:, 0], np.inf) < spans[:, 1]]  # nothing lies between a drop and just before it


def sample_times(spans: Array) -> Array:
    """(I, POINTS) the Chebyshev points of stretches (I, 2), those at both ends a hair within: at a node itself the law
    before it holds."""
    low, high = spans[:, :1], spans[:, 1:]
    t = (low + high) / 2 + (high - low) / 2 * NODES
    t[:, 0], t[:, -1] = np.nextafter(spans[:, 0], spans[:, 1]), np.nextafter(spans[:, 1], spans[:, 0])
    inside: Array = np.clip(t, low, high)
    return inside


def located_ends(
    evaluate: Callable[[Array, Index], Array], spans: Array, first: Array, ways: tuple[float, ...] = BOTH,
    of: Index | None = None, fold: Fold | None = None,
) -> ManyEnds:  # fmt: skip
    """The ends of functions over stretches (I, 2), each of function `of` (I,), else all of one; `first` (I · POINTS,)
    are their `sample_times`, with which `evaluate` is called at first. It gives values (S,) at times (S,) of functions
    (S,); with a `fold` the unfolded ones. A value that is no number makes all numbers of its function none."""
    of = np.zeros(len(spans), dtype=np.int64) if of is None else of
    found = _Search(evaluate, int(of.max(initial=0)) + 1, ways, fold)
    t = first.reshape(-1, POINTS)
    values = found.sampled(first, of)
    found.size = np.zeros(found.count)
    finite = np.where(np.isfinite(values), np.abs(values), 0.0)
    np.maximum.at(found.size, of, finite.max(axis=1) if fold is None else fold.period / 2)
    slack, stalls = np.full(len(spans), np.inf), np.zeros(len(spans), dtype=np.int64)
    total = np.bincount(of, minlength=found.count)
    found.most = MORE * total + MOST
    while True:
        again, worse = found.look(spans, t, of, values, slack, stalls, total)
        if not again.size:
            return ManyEnds(found.low, found.low_t, found.high, found.high_t, found.missed)
        spans, parent = _parted(spans[again], t[again], values[again])
        total -= np.bincount(of[again], minlength=found.count)
        of, slack, stalls = of[again][parent], worse[0][parent], worse[1][parent]
        total += np.bincount(of, minlength=found.count)
        t = sample_times(spans)
        values = found.sampled(t.ravel(), of)


def _parted(spans: Array, t: Array, values: Array) -> tuple[Array, Index]:
    """Stretches (I, 2) with samples (I, POINTS) at times t, parted about where they bend most, so that a kink, or a
    steep end, is closed in upon: the parts, and of which each is one."""
    with np.errstate(divide="ignore", invalid="ignore"):  # the narrowest have moments that are one
        bends = np.abs(np.diff(np.diff(values, axis=1) / np.diff(t, axis=1), axis=1))
    bends[~np.isfinite(bends)] = 0.0
    k, rows = np.argmax(bends, axis=1), np.arange(len(spans))
    low = np.where(k == 0, spans[:, 0], t[rows, k])
    high = np.where(k == POINTS - 3, spans[:, 1], t[rows, k + 2])
    parts = np.stack((np.stack((spans[:, 0], low)), np.stack((low, high)), np.stack((high, spans[:, 1]))))
    made, parent = parts.transpose(0, 2, 1).reshape(-1, 2), np.tile(rows, 3)
    some = made[:, 1] > made[:, 0]
    return made[some], parent[some]


class _Search:
    """What is known so far of functions side by side."""

    def __init__(
        self, evaluate: Callable[[Array, Index], Array], count: int, ways: tuple[float, ...], fold: Fold | None
    ):
        self.evaluate, self.count, self.fold = evaluate, count, fold
        self.ways = ways
        self.low, self.high = np.full(count, np.inf), np.full(count, -np.inf)
        self.low_t, self.high_t, self.missed, self.size = (np.zeros(count) for _ in range(4))
        self.most = np.full(count, MOST)

    def sampled(self, t: Array, of: Index) -> Array:
        """(I, POINTS) samples of stretches that belong to functions (I,) at all their times."""
        values = self.evaluate(t, np.repeat(of, POINTS)).reshape(-1, POINTS)
        return values if self.fold is None else self.fold.unwrapped(values)

    def look(
        self, spans: Array, t: Array, of: Index, values: Array, slack: Array, stalls: Index, total: Index
    ) -> tuple[Index, tuple[Array, Index]]:
        """Takes in the samples (I, POINTS) of stretches at times t; gives those that are to be parted, with how far
        their polynomials may be off and how often that did not get less."""
        self._take(values.ravel(), t.ravel(), np.repeat(of, POINTS))
        sound = np.isfinite(values.sum(axis=1))
        coefficients = np.where(sound[:, None], values, 0.0) @ _TO_COEFFICIENTS
        last = np.abs(coefficients[:, -4:])
        off = 4.0 * last[:, 1:].sum(axis=1)
        smooth = coefficients @ _ON_GRID
        close = np.maximum(CLOSE * self.size[of], CLOSEST)
        # At a kink they fall off slowly, and all beyond them together are some times what the last ones are.
        reach = np.where(off <= close, 0.0, SLOWLY * last.sum(axis=1)) + close / 4
        reach += np.abs(np.diff(smooth, 2, axis=1)).max(axis=1) / 8  # how far it may turn between
        ends = [_Beyond(self, way, smooth, reach, sound) for way in self.ways]
        for end in ends:
            some = np.flatnonzero(end.promises(of, close / 2) & (off <= close))
            self._turned(some, end, t, coefficients, of)
        # What was found just now may be beyond all that the others can have.
        beyond = np.max([end.by_how_much(of) for end in ends], axis=0)
        stalls = stalls + (off > 0.8 * slack)
        open_ = (off > close) & (beyond > close)
        narrow = np.diff(spans, axis=1)[:, 0] <= 8e-16 * np.abs(spans).max(axis=1)
        given_up = open_ & ((stalls >= np.where(off > NOISE * self.size[of], STALLS, NOISY)) | narrow)
        given_up |= open_ & (total[of] > self.most[of])
        if given_up.any():
            for end in ends:
                self._turned(np.flatnonzero(given_up), end, t, coefficients, of)
            np.maximum.at(self.missed, of[given_up], beyond[given_up])
        again = np.flatnonzero(open_ & ~given_up)
        return again, (off[again], stalls[again])

    def _take(self, values: Array, t: Array, of: Index) -> None:
        """Takes in a value (S,) of functions (S,) at times (S,)."""
        values = values if self.fold is None else self.fold(values)
        if self.count == 1:  # the same in less time
            for best, when, way in ((self.low, self.low_t, 1.0), (self.high, self.high_t, -1.0)):
                k = int(np.argmin(way * values))  # a value that is no number is the first
                if not way * values[k] >= way * best[0] and not np.isnan(best[0]):
                    best[0], when[0] = values[k], t[k]
            return
        for best, when, way in ((self.low, self.low_t, 1.0), (self.high, self.high_t, -1.0)):
            order = np.argsort(-way * values, kind="stable")  # the least of a function is written last
            order = order[~(way * values[order] >= way * best[of[order]]) & ~np.isnan(best[of[order]])]
            best[of[order]], when[of[order]] = values[order], t[order]

    def _turned(self, some: Index, end: "_Beyond", t: Array, coefficients: Array, of: Index) -> None:
        """Takes in what the functions are where the polynomials of some stretches (S,) turn, or cross a level, by the
        places of an end."""
        if not some.size:
            return
        at = start = _GRID[end.place[some]]
        level, step = end.level[some], 2.0 / (FINE - 1)
        crossing = np.isfinite(level)
        derivatives = coefficients[some] @ _TO_DERIVATIVES
        for _ in range(3):  # Newton's method on the polynomial, kept near the place where it was highest
            value, slope, bend = np.einsum("ksn,sn->ks", derivatives, at[:, None] ** _K)
            with np.errstate(divide="ignore", invalid="ignore"):
                ahead = at - np.where(crossing, (value - level) / slope, slope / bend)
            near = np.abs(ahead - start) <= step
            at = np.where(near, np.clip(ahead, -1.0, 1.0), at)
        low, high = t[some, 0], t[some, -1]
        turn = np.clip((low + high) / 2 + (high - low) / 2 * at, low, high)
        self._take(self.evaluate(turn, of[some]), turn, of[some])


class _Beyond:
    """How far polynomials on the grid (I, FINE) may go beyond one end of functions (`way` 1: the least), `reach` (I,)
    being how far they may be off: `most` (I,), by which `place` of the grid, and with a fold the `level` crossed at or
    after it, if it is by that."""

    def __init__(self, search: "_Search", way: float, smooth: Array, reach: Array, sound: Mask):
        self.search, self.way, self.sound = search, way, sound
        rows, fold = np.arange(len(smooth)), search.fold
        self.level = np.full(len(rows), np.nan)
        if fold is None:
            values = smooth
            self.place = np.argmin(way * values, axis=1)
            self.most = values[rows, self.place] - way * reach
            return
        values = fold(smooth)
        crossed, levels = fold.crossed(smooth, way)
        values[:, :-1][crossed] = fold(levels[crossed])
        self.place = np.argmin(way * values, axis=1)
        before = np.minimum(self.place, FINE - 2)
        by_level = crossed[rows, before] & (self.place == before)
        self.level[by_level] = levels[rows, before][by_level]
        self.most = np.clip(values[rows, self.place] - way * reach, 0.0, fold.period / 2)

    def by_how_much(self, of: Index) -> Array:
        """(I,) how far beyond the best that is known of functions (I,)."""
        best = self.search.low if self.way > 0 else self.search.high
        return np.where(self.sound, self.way * (best[of] - self.most), 0.0)

    def promises(self, of: Index, close: Array) -> Mask:
        """(I,) whether it is farther beyond than is counted as the same."""
        found: Mask = self.by_how_much(of) > close
        return found


def usual_rate(rates: Array) -> Array:
    """(B,) the size of rates (G, B), on which a moment by a dead point has no say: the largest, but
    no more than a hundred times the third quartile."""
    sizes = np.abs(rates)
    most: Array = sizes.max(axis=0)
    quartile = (3 * len(sizes)) // 4
    common: Array = 100.0 * np.partition(sizes, quartile, axis=0)[quartile]
    return np.where(common > 0.0, np.minimum(most, common), most)


def interpolated(values: Array) -> Array:
    """(I, FINE) the polynomials through samples (I, POINTS), at even places of each stretch."""
    found: Array = (values @ _TO_COEFFICIENTS) @ _ON_GRID
    return found


def derivative(values: Array, at: Array) -> Array:
    """(I, N) the derivatives, by the share of half a stretch, of the polynomials through samples (I, POINTS, N) at
    places (I,) of [−1, 1]."""
    coefficients = np.einsum("ipn,pk->ink", values, _TO_COEFFICIENTS @ _TO_DERIVATIVES[1])
    found: Array = np.einsum("ink,ik->in", coefficients, at[:, None] ** _K)
    return found
