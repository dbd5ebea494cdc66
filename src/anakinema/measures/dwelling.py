"""The longest time for which a coordinate keeps within a band."""

from collections import deque
from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array, Index

if TYPE_CHECKING:
    from ..kinematics.motion import Motion

STILL = 0.005
"""Share of its travel within which a coordinate counts as dwelling."""
SAMPLES = 721
FEW, HALVINGS = 6, 60
"""Windows that are looked at more closely; steps in which an end of one is located, at most."""


def dense(motion: "Motion") -> Array:
    """Times dense enough to find dwells."""
    return np.unique(np.concatenate([motion.grid, np.linspace(0.0, motion.path.t1, SAMPLES)]))


def longest_rest(motion: "Motion", column: int, room: float) -> tuple[float, float]:
    """The longest span of time in which a coordinate stays within a band as wide as `room`: start and end, to well
    below 1e-6 of the motion. The windows that are longest among samples are located each."""
    rests = Rests(motion, column, room, np.unique(np.concatenate((dense(motion), motion.chebyshev))))
    best = longest_still(rests.t, rests.values, rests.room)
    gap = 2.0 * float(np.diff(rests.t).max(initial=0.0))
    for span in _windows(rests.t, rests.values, rests.room, best[1] - best[0] - gap)[:FEW]:
        best = max(best, rests.located(span), key=lambda span: span[1] - span[0])
    return best


class Rests:
    """A coordinate among samples, its turning points being some of them, so that it goes one way between two; and where
    exactly it enters and leaves bands as wide as `room`."""

    def __init__(self, motion: "Motion", column: int, room: float, t: Array, values: Array | None = None):
        """`t` (S,) are the samples, ascending, `values` (S,) the coordinate there where it is known."""
        self.motion, self.column = motion, column
        values = motion.coordinates(t)[:, column] if values is None else values
        turns = np.setdiff1d(_turns(motion, column), t)
        place = np.searchsorted(t, turns)
        self.t = np.insert(t, place, turns)
        self.values = np.insert(values, place, motion.coordinates(turns)[:, column] if turns.size else turns)
        self.hair = 1e-12 * float(np.abs(self.values).max(initial=0.0))
        self.room = room + self.hair  # what is at rest is there but for rounding

    def located(self, span: tuple[float, float]) -> tuple[float, float]:
        """The longest window about the middle of one that was found among samples (start and end). It is that of the
        band that begins or ends at a value where the coordinate turns within; where it runs through the band from one
        side to the other, the band is looked for by which it takes longest."""
        first, last = (int(np.searchsorted(self.t, end)) for end in span)
        inner = self.values[first : last + 1]
        turning = np.flatnonzero(np.diff(np.sign(np.diff(inner)))) + 1
        held = np.append(inner[turning], inner[len(inner) // 2])
        lowest, highest = float(held.max()) - self.room, float(held.min())
        middle = first + len(inner) // 2
        spans = self._about(middle, np.array([lowest, highest]))
        if self._runs_through(spans, lowest, highest):
            from scipy.optimize import minimize_scalar

            def shortness(level: float) -> float:
                (span,) = self._about(middle, np.array([level]))
                return float(span[0] - span[1])

            close = 1e-7 * (highest - lowest)
            best = minimize_scalar(shortness, bounds=(lowest, highest), method="bounded", options={"xatol": close})
            spans = np.concatenate((spans, self._about(middle, np.array([best.x]))))
        start, stop = spans[np.argmax(spans[:, 1] - spans[:, 0])].tolist()
        return start, stop

    def middle(self, start: float, stop: float) -> float:
        """The middle of the values within a span of time."""
        ends = self.motion.coordinates(np.array([start, stop]))[:, self.column]
        within = np.append(self.values[(self.t >= start) & (self.t <= stop)], ends)
        return float(within.max() + within.min()) / 2

    def _about(self, middle: int, levels: Array) -> Array:
        """(L, 2) from when to when the coordinate stays in the bands above levels (L,), about a sample within."""
        left = [self._left(middle, level, way) for level in levels.tolist() for way in (-1, 1)]
        return self._crossed(*(np.array(each) for each in zip(*left, strict=True))).reshape(-1, 2)

    def _crossed(self, inner: Index, outer: Index, edge: Array) -> Array:
        """(R,) when the coordinate is at an edge between two samples each: by Newton's method, or halving where that
        would lead out."""
        low, high = self.t[inner], self.t[outer]  # the second may be before the first
        start = self.values[inner] - edge
        with np.errstate(divide="ignore", invalid="ignore"):
            share = start / (self.values[inner] - self.values[outer])
        at = low + (high - low) * np.clip(np.nan_to_num(share), 0.0, 1.0)
        for _ in range(HALVINGS):
            state = self.motion.at(at)
            off = state.coordinates[:, self.column] - edge
            within = off * start > 0.0
            low, high = np.where(within, at, low), np.where(within, high, at)
            with np.errstate(divide="ignore", invalid="ignore"):
                ahead = at - off / state.rates[:, self.column]
            inside = (ahead - low) * (ahead - high) <= 0.0
            ahead = np.where(inside, ahead, (low + high) / 2)
            ahead = np.where(np.abs(off) <= self.hair, at, ahead)  # nearer than rounding tells
            moved, at = float(np.abs(ahead - at).max()), ahead
            if moved <= 1e-14 * float(self.t[-1]):
                break
        return at

    def _left(self, middle: int, level: float, way: int) -> tuple[int, int, float]:
        """The samples between which it leaves a band, forwards or backwards from a sample, and the edge it crosses; an
        end of the motion twice where it does not."""
        values = self.values[middle:] if way > 0 else self.values[middle::-1]
        under, over = values < level - self.hair, values > level + self.room + self.hair
        out = under | over
        k = int(np.argmax(out))
        if k == 0:
            still = middle if out[0] else len(self.t) - 1 if way > 0 else 0
            return still, still, float(self.values[still])
        return middle + way * (k - 1), middle + way * k, level if under[k] else level + self.room

    def _runs_through(self, spans: Array, lowest: float, highest: float) -> bool:
        """Whether the coordinate leaves both of the outermost bands by the other side than it came: else a band is left
        the sooner, or the later, at both ends the farther it lies from one of them."""
        inner = (spans[:, 0] > 0.0) & (spans[:, 1] < self.t[-1])
        values = self.motion.coordinates(spans.ravel())[:, self.column].reshape(2, 2)
        sides = values > np.array([[lowest], [highest]]) + self.room / 2
        return bool((inner & (sides[:, 0] != sides[:, 1])).all())


def _turns(motion: "Motion", column: int) -> Array:
    """Times at which the coordinate turns, by cubics through its rates and accelerations at the grid: so near that the
    value there, which hardly changes, is exact."""
    t, known = motion.grid, motion.sampled
    rates, gains = known.rates[:, column], known.accelerations[:, column]
    noise = 1e-12 * float(np.abs(rates).max(initial=0.0))  # where it rests, too, rounding changes signs
    k = np.flatnonzero((rates[:-1] * rates[1:] < 0) & (np.abs(rates[:-1]) > noise) & (np.abs(rates[1:]) > noise))
    wide = t[k + 1] - t[k]
    a, b, c, d = rates[k], gains[k] * wide, rates[k + 1], gains[k + 1] * wide
    share = a / (a - c)
    for _ in range(3):
        value = a + share * (b + share * (3 * (c - a) - 2 * b - d + share * (2 * (a - c) + b + d)))
        slope = b + share * (2 * (3 * (c - a) - 2 * b - d) + share * 3 * (2 * (a - c) + b + d))
        with np.errstate(divide="ignore", invalid="ignore"):
            ahead = share - value / slope
        share = np.where((ahead >= 0.0) & (ahead <= 1.0), ahead, share)
    found: Array = t[k] + wide * share
    return found


def longest_still(t: Array, values: Array, room: float) -> tuple[float, float]:
    """The longest span of time in which a sampled coordinate stays within a band as wide as `room`: start and end."""
    return max(_spans(t, values, room), key=lambda span: span[1] - span[0])


def _windows(t: Array, values: Array, room: float, least: float) -> list[tuple[float, float]]:
    """Those of at least some length, the longest first, one of those that overlap."""
    found: list[tuple[float, float]] = []
    for span in sorted(_spans(t, values, room), key=lambda span: span[0] - span[1]):
        if span[1] - span[0] >= least and not any(span[0] < other[1] and span[1] > other[0] for other in found):
            found.append(span)
    return found


def _spans(t: Array, values: Array, room: float) -> list[tuple[float, float]]:
    """For each sample the longest span that ends with it."""
    times, window = t.tolist(), Window(values, room)
    found = []
    for i in range(len(times)):
        window.take(i)
        window.narrow()
        found.append((times[window.first], times[i]))
    return found


class Window:
    """A run of samples (S,) that ends with the one taken last, and starts with `first`: whether their spread is wider
    than `room`. The greatest and the least of it are the heads of two queues, so that all takes one pass."""

    def __init__(self, values: Array, room: float):
        self.heights, self.room = values.tolist(), room
        self.start_at(0)

    def start_at(self, first: int) -> None:
        """Begins anew, with nothing taken, at a sample."""
        self.first, self._highs, self._lows = first, deque[int](), deque[int]()

    def take(self, i: int) -> None:
        """The next sample is the last now."""
        for queue, sign in ((self._highs, 1.0), (self._lows, -1.0)):
            while queue and sign * self.heights[queue[-1]] <= sign * self.heights[i]:
                queue.pop()
            queue.append(i)

    @property
    def too_wide(self) -> bool:
        """Whether the samples spread wider than there is room."""
        return bool(self.heights[self._highs[0]] - self.heights[self._lows[0]] > self.room)

    def narrow(self) -> None:
        """Starts later, as far as it must to have room."""
        while self.too_wide:
            self.first = min(self._highs[0], self._lows[0]) + 1
            for queue in (self._highs, self._lows):
                while queue[0] < self.first:
                    queue.popleft()
