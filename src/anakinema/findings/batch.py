"""Motions side by side: of many builds of one design, what numbers are asked of all is found for all at once.

Builds that share a branch have grids of as many times, and differ in numbers only. Array operations over all of them
take hardly longer than over one; what is found is kept with each motion, where judging it then finds it.
"""

from collections.abc import Callable, Sequence
from itertools import pairwise
from typing import Any

import numpy as np

from ..arrays import Array, Index
from ..document.model import Document, PointRef
from ..errors import DocumentError
from ..kinematics.extremes import extremes
from ..kinematics.motion import Motion, Scalars, State
from ..kinematics.system import System
from ..measures import MEASURE_TYPES
from ..measures.base import OfNumbers, ends_key
from ..measures.extremes import located_ends, smooth_spans
from .checks import ways_of

ALONG = ("coordinates", "rates", "accelerations")
"""What of a state extremes are found from."""


def keep_extremes(motions: Sequence[Motion]) -> None:
    """Finds the extremes of all motions."""
    states = [motion.sampled for motion in motions]

    def sample(t: Array, which: Index) -> tuple[Array, Array, Array]:
        values, first, second = _in_order(which, lambda order: MotionBatch(motions, which[order]).along(t[order]))
        return values, first, second

    values, first, second = (np.stack([getattr(state, name) for state in states], axis=1)
                             for name in ALONG)  # fmt: skip
    grids = np.stack([motion.grid for motion in motions], axis=1)
    found = extremes(sample, grids, (values, first, second))
    for number, motion in enumerate(motions):
        motion.cache.extremes = found.of(number)


def keep_ends(motions: Sequence[Motion]) -> None:
    """Finds the least and the greatest values that the checks of all motions ask for, as far as they are of numbers
    alone; the others are found of each motion by itself."""
    spans = [smooth_spans(motion) for motion in motions]
    of = np.repeat(np.arange(len(motions)), [len(each) for each in spans])
    between = np.concatenate([motion.chebyshev for motion in motions])
    for check in motions[0].document.checks.values():
        measure, ways, kind = check.measured, ways_of(check), MEASURE_TYPES[check.measure]
        if not isinstance(kind, OfNumbers) or not check.all_along:
            continue

        def taken(times: Array, which: Index) -> Array:
            known = times is between
            return _in_order(which, lambda order: [
                kind.unfolded(measure, MotionBatch(motions, which[order], known), times[order])  # noqa: B023
            ])[0]  # fmt: skip

        try:
            ends = located_ends(taken, np.concatenate(spans), between, ways, of, kind.fold)
        except DocumentError:
            continue  # each tells why by itself
        for number, motion in enumerate(motions):
            motion.kept[ends_key(measure, ways)] = ends.of(number)


def _in_order(which: Index, found: Callable[[Index], Sequence[Array]]) -> list[Array]:
    """What is found of samples in the order of their motions, put back into their own order."""
    order = np.argsort(which, kind="stable")
    place = np.argsort(order)
    return [values[place] for values in found(order)]


class MotionBatch:
    """Motions side by side, to be measured like one (`Sampled`): sample k is of motion `which[k]`, ascending. `between`
    says that the samples are all those at the motions' Chebyshev points, which are kept."""

    def __init__(self, motions: Sequence[Motion], which: Index, between: bool = False):
        self.motions, self.which, self.between = motions, which, between
        self.kept: dict[tuple[Any, ...], Any] = {}
        ends = np.searchsorted(which, np.arange(len(motions) + 1))
        self.spans = [(motion, slice(a, b)) for motion, (a, b) in zip(motions, pairwise(ends.tolist()), strict=True)
                      if a < b]  # fmt: skip

    @property
    def document(self) -> Document:
        """That of the first, for its structure."""
        return self.motions[0].document

    @property
    def system(self) -> System:
        """That of the first, for the numbers of its bodies and coordinates."""
        return self.motions[0].system

    def positions(self, t: Array) -> Array:
        """As of a motion: (S, P, 3) at times t (S,)."""
        if self.between:
            return np.concatenate([motion.placed_between for motion, _ in self.spans])
        return np.concatenate([motion.positions(t[some]) for motion, some in self.spans])

    def rates(self, t: Array, column: int) -> tuple[Array, Array]:
        """As of a motion."""
        states = self._states(t)
        return (np.concatenate([state.rates[:, column] for state in states]),
                np.concatenate([state.accelerations[:, column] for state in states]))  # fmt: skip

    def point(self, ref: PointRef) -> tuple[Scalars, Scalars]:
        """x and y of a point, for each sample."""
        x, y = np.array([motion.point(ref) for motion in self.motions], dtype=float).T
        return x[self.which], y[self.which]

    def joint_value(self, joint: str, key: str) -> Scalars:
        """A number of a joint, for each sample."""
        found: Array = np.array([motion.joint_value(joint, key) for motion in self.motions], dtype=float)[self.which]
        return found

    def along(self, t: Array) -> list[Array]:
        """The coordinates with their rates, each (S, C)."""
        states = self._states(t)
        return [np.concatenate([getattr(state, name) for state in states]) for name in ALONG]

    def _states(self, t: Array) -> list[State]:
        return [motion.between if self.between else motion.at(t[some]) for motion, some in self.spans]
