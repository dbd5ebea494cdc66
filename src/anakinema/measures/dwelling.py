"""The longest time for which a coordinate keeps within a band."""

from collections import deque
from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array

if TYPE_CHECKING:
    from ..kinematics.motion import Motion

STILL = 0.005
"""Share of its travel within which a coordinate counts as dwelling."""
SAMPLES = 721
FEW, FINER, ROUNDS = 6, 24, 10
"""Windows that are looked at more closely, samples about each of their ends, and how often that is done."""


def dense(motion: "Motion") -> Array:
    """Times dense enough to find dwells."""
    return np.unique(np.concatenate([motion.grid, np.linspace(0.0, motion.path.t1, SAMPLES)]))


def longest_rest(motion: "Motion", column: int, room: float) -> tuple[float, float]:
    """The longest span of time in which a coordinate stays within a band as wide as `room`: start and end, to well
    below 1e-6 of the motion. The windows that are longest among samples are looked at again with finer and finer
    samples about their ends, and turning points among them."""
    t = np.unique(np.concatenate((dense(motion), motion.chebyshev, _turns(motion, column))))
    values = motion.coordinates(t)[:, column]
    room += 1e-12 * float(np.abs(values).max(initial=0.0))  # what is at rest is there but for rounding
    best = longest_still(t, values, room)
    gap = 2.0 * float(np.diff(t).max(initial=0.0))
    for start, stop in _windows(t, values, room, best[1] - best[0] - gap)[:FEW]:
        best = max(best, _closer(motion, column, room, t, values, (start, stop)), key=lambda span: span[1] - span[0])
    return best


def _closer(
    motion: "Motion", column: int, room: float, t: Array, values: Array, span: tuple[float, float]
) -> tuple[float, float]:
    for _ in range(ROUNDS):
        finer = []
        for end in span:
            k = int(np.searchsorted(t, end))
            low, high = t[max(k - 1, 0)], t[min(k + 1, t.size - 1)]
            finer.append(np.linspace(low, high, FINER))
        new = np.setdiff1d(np.concatenate(finer), t)
        t = np.concatenate((t, new))
        values = np.concatenate((values, motion.coordinates(new)[:, column] if new.size else np.zeros(0)))
        order = np.argsort(t)
        t, values = t[order], values[order]
        near = (t >= span[0] - (t[-1] - t[0])) & (t <= span[1] + (t[-1] - t[0]))
        found = longest_still(t[near], values[near], room)
        if abs(found[0] - span[0]) + abs(found[1] - span[1]) <= 1e-12 * float(t[-1]):
            return found
        span = found
    return span


def _turns(motion: "Motion", column: int) -> Array:
    """Times at which the coordinate turns, as nearly as its samples tell."""
    grid, rates = motion.grid, motion.sampled.rates[:, column]
    k = np.flatnonzero(rates[:-1] * rates[1:] < 0)
    found: Array = grid[k] + (grid[k + 1] - grid[k]) * rates[k] / (rates[k] - rates[k + 1])
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
