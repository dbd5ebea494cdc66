"""Motions side by side: of many builds of one design, what numbers are asked of all is found for all at once.

Builds that share a branch have grids of as many times, and differ in numbers only. Array operations over all of them
take hardly longer than over one; what is found is kept with each motion, where judging it then finds it.
"""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import is_dataclass
from itertools import pairwise
from types import FunctionType
from typing import Any, cast

import numpy as np

from ..arrays import Array, Index
from ..errors import DocumentError
from ..kinematics.extremes import extremes
from ..kinematics.motion import Motion, State
from .checks import ways_of
from .measuring import ends_beside, ends_key, values_of

TAKEN = ("velocity", "acceleration", "transmission_angle", "distance")
"""The measures that are taken of motions side by side: those whose formulas are of numbers alone."""
ALONG = ("coordinates", "rates", "accelerations")
"""What of a state extremes are found from."""


def keep_extremes(motions: Sequence[Motion]) -> None:
    """Finds the extremes of all motions."""
    states = [motion.sampled for motion in motions]

    def sample(t: Array, which: Index) -> tuple[Array, Array, Array]:
        values, first, second = _in_order(which, lambda order: MotionBatch(motions, which[order]).at(t[order]).along())
        return values, first, second

    values, first, second = (np.stack([getattr(state, name) for state in states], axis=1)
                             for name in ALONG)  # fmt: skip
    found = extremes(sample, _grids(motions), (values, first, second))
    for number, motion in enumerate(motions):
        motion.__dict__["extremes"] = found.of(number)


def keep_ends(motions: Sequence[Motion]) -> None:
    """Finds the least and the greatest values that the checks of all motions ask for, as far as they are of numbers
    alone; the others are found of each motion by itself."""
    t = _grids(motions)
    along = np.repeat(np.arange(len(motions)), len(t))
    for check in motions[0].document.checks.values():
        measure, ways = check.measured, ways_of(check)
        if check.measure not in TAKEN or check.at is not None:
            continue

        def taken(times: Array, which: Index, on_grid: bool = False) -> Array:
            return _in_order(which, lambda order: [
                values_of(measure, cast(Motion, MotionBatch(motions, which[order], on_grid)), times[order])  # noqa: B023
            ])[0]  # fmt: skip

        try:
            values = taken(t.T.ravel(), along, True).reshape(len(motions), -1).T
            ends = ends_beside(t, values, taken, ways)
        except DocumentError:
            continue  # each tells why by itself
        for number, motion in enumerate(motions):
            motion.kept[ends_key(measure, ways)] = tuple(float(each[number]) for each in ends)


def _grids(motions: Sequence[Motion]) -> Array:
    return np.stack([motion.grid for motion in motions], axis=1)


def _in_order(which: Index, found: Callable[[Index], Sequence[Array]]) -> list[Array]:
    """What is found of samples in the order of their motions, put back into their own order."""
    order = np.argsort(which, kind="stable")
    place = np.argsort(order)
    return [values[place] for values in found(order)]


class MotionBatch:
    """Motions side by side, to be measured like one: sample k is of motion `which[k]`, ascending. Numbers of its
    document are arrays (S,) where those of the motions differ."""

    def __init__(self, motions: Sequence[Motion], which: Index, on_grid: bool = False):
        self.motions, self.which, self.on_grid = motions, which, on_grid
        self.system = motions[0].system
        self.document = _beside([motion.document for motion in motions], which)
        self.kept: dict[Any, Any] = {}
        ends = np.searchsorted(which, np.arange(len(motions) + 1))
        self.spans = [(motion, slice(a, b)) for motion, (a, b) in zip(motions, pairwise(ends.tolist()), strict=True)
                      if a < b]  # fmt: skip

    def positions(self, t: Array) -> Array:
        """As of a motion: (S, P, 3) at times t (S,)."""
        if self.on_grid:
            return np.concatenate([motion.sampled.q for motion, _ in self.spans])
        return np.concatenate([motion.positions(t[some]) for motion, some in self.spans])

    def at(self, t: Array) -> "States":
        """As of a motion, but for what no measure taken side by side asks for."""
        states = [motion.sampled if self.on_grid else motion.at(t[some]) for motion, some in self.spans]
        return States(states)


class States:
    """The states of motions one after the other."""

    def __init__(self, states: Sequence[State]):
        self.states = states

    def __getattr__(self, name: str) -> Array:
        return np.concatenate([getattr(state, name) for state in self.states])

    def along(self) -> list[Array]:
        """The coordinates with their rates, each (S, C)."""
        return [getattr(self, name) for name in ALONG]


def _beside(values: Sequence[Any], which: Index) -> Any:
    """What stands in as many documents at one place, as one thing: numbers that differ as an array, one for each
    sample; all else is that of the first."""
    first = values[0]
    if isinstance(first, (bool, str)) or first is None:
        return first
    if isinstance(first, (int, float)):
        same = all(value == first for value in values)
        return first if same else np.array(values, dtype=float)[which]
    if isinstance(first, tuple):
        return tuple(_beside(each, which) for each in zip(*values, strict=True))
    if isinstance(first, Mapping):
        return _Items(values, which)
    return _Alike(values, which) if is_dataclass(first) else first


class _Items(Mapping[Any, Any]):
    def __init__(self, values: Sequence[Mapping[Any, Any]], which: Index):
        self.values_, self.which, self.known = values, which, dict[Any, Any]()

    def __getitem__(self, key: Any) -> Any:
        if key not in self.known:
            self.known[key] = _beside([each[key] for each in self.values_], self.which)
        return self.known[key]

    def __iter__(self) -> Iterator[Any]:
        return iter(self.values_[0])

    def __len__(self) -> int:
        return len(self.values_[0])


class _Alike:
    def __init__(self, values: Sequence[Any], which: Index):
        self.values_, self.which = values, which

    def __getattr__(self, name: str) -> Any:
        own = getattr(type(self.values_[0]), name, None)
        if isinstance(own, FunctionType):
            return own.__get__(self)
        if isinstance(own, property):
            found = cast(Callable[[Any], Any], own.fget)(self)
        else:
            found = _beside([getattr(each, name) for each in self.values_], self.which)
        self.__dict__[name] = found
        return found
