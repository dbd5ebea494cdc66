"""The motion of a document: positions, rates and coordinates at any moment of one followed branch."""

from collections.abc import Callable
from dataclasses import dataclass, field, fields, replace
from functools import cached_property
from typing import Any, Literal, Protocol

import numpy as np

from ..arrays import Array, Index
from ..document.model import Check, Document, PointRef
from ..kinds import Dimension
from ..measures.extremes import sample_times, smooth_spans
from .drive import Drive
from .extremes import Extremes, extremes
from .jolts import Jolt, jolts, runs_on
from .mobility import Mobility
from .path import Path
from .system import System
from .traces import trace

LARGE = ("state", "sampled", "along", "placed_between", "between")
"""What of a cache is large, and found again where it is wanted."""
Scalars = float | Array
"""A number, or one for each sample (S,)."""
PER_INTERVAL, PER_CLOSE = 4, 2
"""Sub-intervals of each node interval in which turning points are looked for; the same where undriven parts follow,
whose nodes stand closer than they bend."""


@dataclass(frozen=True)
class Stop:
    """The end of a motion before its time: when, the first driver's coordinate there (core units), why."""

    t: float
    driver: float
    reason: Literal["dead point", "limit", "contact"]
    text: str
    joint: str


@dataclass(frozen=True)
class Lost:
    """Where a contact leaves an edge: the joint, the edge (``part.edge``), the time and the first driver's coordinate
    (core units)."""

    joint: str
    edge: str
    t: float
    driver: float | None


@dataclass(frozen=True)
class State:
    """Positions, velocities, accelerations of all bodies (S, P, 3: x, y in document lengths, θ in rad, per s), and the
    joint coordinates with their rates (S, C: document lengths or rad), at times t (S,)."""

    t: Array
    q: Array
    v: Array
    a: Array
    coordinates: Array
    rates: Array
    accelerations: Array


@dataclass
class MotionCache:
    """What was found of a motion once, and is found again where it is not there: see the properties of `Motion`."""

    grid: Array | None = None
    drawn: Array | None = None
    state: State | None = None
    sampled: State | None = None
    along: State | None = None
    chebyshev: Array | None = None
    placed_between: Array | None = None
    between: State | None = None
    extremes: Extremes | None = None
    traced: dict[str, Array] | None = None
    jolts: tuple[Jolt, ...] | None = None
    kept: dict[tuple[Any, ...], Any] = field(default_factory=dict)
    """What was made or found to measure it, by kind and name."""

    def __getstate__(self) -> dict[str, object]:
        """What goes to another process: what is large stays."""
        return {**self.__dict__, **dict.fromkeys(LARGE), "kept": {}}


class Sampled(Protocol):
    """What measures are taken of: one motion, or several side by side, of which each sample is of one. Numbers that
    may differ from motion to motion are asked for here; they are arrays (S,) then."""

    @property
    def document(self) -> Document:
        """Where the structure stands; of several motions that of the first."""

    @property
    def system(self) -> System:
        """Which numbers the bodies and coordinates have."""

    def positions(self, t: Array) -> Array:
        """(S, P, 3) at times t (S,)."""

    def rates(self, t: Array, column: int) -> tuple[Array, Array]:
        """(S,) the first and second derivative of a coordinate at times t (S,)."""

    def point(self, ref: PointRef) -> tuple[Scalars, Scalars]:
        """x and y of a point in the axes of its part."""

    def joint_value(self, joint: str, key: str) -> Scalars:
        """A number of a joint."""

    @property
    def kept(self) -> dict[tuple[Any, ...], Any]:
        """What was made once to measure it."""


@dataclass(frozen=True)
class Motion:
    """A motion over its steps. `state` has one entry for each step that was reached."""

    document: Document
    system: System
    drive: Drive
    path: Path
    turns: Array = field(repr=False)
    """(C,) what each coordinate counts beyond its row's value (whole turns, rad)."""
    steps: int
    planned: float
    """The time at which the motion was to end (s)."""
    stop: Stop | None
    mobility: Mobility
    """Degrees of freedom with the drivers off, at the most regular position of the motion."""
    lost: tuple[Lost, ...] = ()
    """Contacts that run off an edge and are only told (`at_end` is ``lost``)."""
    cache: MotionCache = field(default_factory=MotionCache, init=False, repr=False, compare=False)

    def with_checks(self, wanted: Callable[[Check], bool]) -> "Motion":
        """This motion, of a document that has only the checks that are wanted; what is known of it stays known."""
        checks = self.document.checks
        chosen = {name: check for name, check in checks.items() if wanted(check)}
        if len(chosen) == len(checks):
            return self
        found = replace(self, document=replace(self.document, checks=chosen))
        object.__setattr__(found, "cache", self.cache)
        return found

    @property
    def state(self) -> State:
        """The state at the steps, evenly spaced over the planned time, up to the stop."""
        if self.cache.state is None:
            t = np.linspace(0.0, self.planned, self.steps + 1)
            end = min(self.path.t1, self.path.last_regular)
            self.cache.state = self.at(t[t <= end + 1e-12 * self.planned])
        return self.cache.state

    def at(self, t: Array) -> State:
        """The state at any times of the motion; at those of `grid` and `drawn` it is kept."""
        if (known := self._known(t)) is not None:
            return known
        t = np.asarray(np.atleast_1d(t), dtype=np.float64)
        return self._state(t, *self.path.at(t))

    def _known(self, t: Array) -> State | None:
        """The state at times that many ask for, by their own array."""
        if t is self.cache.grid:
            return self.sampled
        if t is self.cache.chebyshev:
            return self.between
        return self.along if t is self.cache.drawn else None

    def _state(self, t: Array, q: Array, v: Array, a: Array) -> State:
        """The state of positions and rates (S, P, 3; dimensionless) at times."""
        rates, accelerations = self.system.coordinates.rates(q, v, a)
        size, lengths = self.system.size, self.lengths
        return State(
            t, q * size, v * size, a * size, self._coordinates(t, q), rates * lengths, accelerations * lengths
        )

    def coordinates(self, t: Array) -> Array:
        """The joint coordinates alone (S, C), in about half the time."""
        if (known := self._known(t)) is not None:
            return known.coordinates
        return self._coordinates(t, self.path.positions(t))

    def _coordinates(self, t: Array, q: Array) -> Array:
        """(S, C) the coordinates at positions q (S, P, 3; dimensionless) of times t, in core units."""
        values: Array = self.system.coordinates.values(q) + self.turns
        if self.system.coordinates.is_polar.any():
            values = self._unwrapped(t, values)
        return values * self.lengths

    def rates(self, t: Array, column: int) -> tuple[Array, Array]:
        """(S,) the first and second derivative of a coordinate at times t (S,), in core units."""
        state = self.at(t)
        return state.rates[:, column], state.accelerations[:, column]

    def point(self, ref: PointRef) -> tuple[Scalars, Scalars]:
        """x and y of a point in the axes of its part."""
        return self.document.parts[ref.part].place(ref.point)

    def joint_value(self, joint: str, key: str) -> Scalars:
        """A number of a joint."""
        found: float = self.document.joints[joint].values[key]
        return found

    def posed(self, q: Array, near: Array) -> Array:
        """(C,) the joint coordinates at positions q (P, 3: document lengths, rad) that the mechanism was put into by
        hand; angles are counted on from those of the moment before, `near`."""
        values: Array = (self.system.coordinates.values(q[None] / self.system.size)[0] + self.turns) * self.lengths
        turns = np.where(self.system.coordinates.is_length, 0.0, np.round((near - values) / (2 * np.pi)))
        counted: Array = values + 2 * np.pi * turns
        return counted

    def positions(self, t: Array) -> Array:
        """Positions alone (S, P, 3), x and y in document lengths, θ in rad, at any times."""
        if t is self.cache.chebyshev:
            return self.placed_between
        if (known := self._known(t)) is not None:
            return known.q
        placed: Array = self.path.positions(t) * self.system.size
        return placed

    @property
    def grid(self) -> Array:
        """Times dense enough to bracket every turning point: the nodes of the path and points between them."""
        if self.cache.grid is None:
            self.cache.grid = self._grid()
        return self.cache.grid

    def _grid(self) -> Array:
        nodes = self.path.node_times
        nodes = np.unique(np.append(nodes[nodes < self.path.t1], self.path.t1))
        if nodes.size == 1 or self.path.dense:
            return nodes
        pieces = PER_INTERVAL if self.drive.minimum_norm is None else PER_CLOSE
        shares = np.arange(pieces) / pieces
        between = nodes[:-1, None] + np.diff(nodes)[:, None] * shares
        found = np.append(between.ravel(), nodes[-1])
        return np.unique(found) if self.path.drops else found

    @property
    def sampled(self) -> State:
        """The state at the times of the grid."""
        if self.cache.sampled is None:
            nodes = self.path.at_nodes(self.grid) if self.path.dense else None
            self.cache.sampled = self._state(self.grid, *(nodes or self.path.at(self.grid)))
        return self.cache.sampled

    @property
    def drawn(self) -> Array:
        """The times of the grid and of the steps: those at which quantities are drawn."""
        if self.cache.drawn is None:
            self.cache.drawn = np.unique(np.append(self.grid, self.state.t))
        return self.cache.drawn

    @property
    def along(self) -> State:
        """The state at the times that are drawn: each track asks for something of it."""
        if self.cache.along is None:
            self.cache.along = self._along()
        return self.cache.along

    def _along(self) -> State:
        known = self.sampled, self.state
        place = np.unique(np.concatenate([each.t for each in known]), return_index=True)[1]
        return State(*(np.concatenate([getattr(each, one.name) for each in known])[place] for one in fields(State)))

    @property
    def chebyshev(self) -> Array:
        """The times between the nodes at which measures are taken, to find their ends."""
        if self.cache.chebyshev is None:
            self.cache.chebyshev = sample_times(smooth_spans(self)).ravel()
        return self.cache.chebyshev

    @property
    def placed_between(self) -> Array:
        """The positions (S, P, 3) at those times: for most measures the rates are not wanted."""
        if self.cache.between is not None:
            return self.cache.between.q
        if self.cache.placed_between is None:
            self.cache.placed_between = self.path.positions(self.chebyshev) * self.system.size
        return self.cache.placed_between

    @property
    def between(self) -> State:
        """The state at those times."""
        if self.cache.between is None:
            self.cache.between = self._state(self.chebyshev, *self.path.at(self.chebyshev))
        return self.cache.between

    @property
    def kept(self) -> dict[tuple[Any, ...], Any]:
        """What was made or found once to measure it, by kind and name."""
        return self.cache.kept

    @property
    def extremes(self) -> Extremes:
        """The true extremes of the joint coordinates over the motion (core units), to well below 1e-6: turning points
        are found from the exact rates."""
        if self.cache.extremes is None:
            self.cache.extremes = self._extremes()
        return self.cache.extremes

    def _extremes(self) -> Extremes:
        def sample(t: Array, _: Index) -> tuple[Array, Array, Array]:
            state = self.at(t)
            return state.coordinates, state.rates, state.accelerations

        known = self.sampled
        along = (known.coordinates[:, None], known.rates[:, None], known.accelerations[:, None])
        return extremes(sample, self.grid[:, None], along).of(0)

    @property
    def traced(self) -> dict[str, Array]:
        """The traced points (S, 2) at the steps, in document lengths."""
        if self.cache.traced is None:
            named = self.document.traces.items()
            self.cache.traced = {name: trace(self, self.state, wanted).place for name, wanted in named}
        return self.cache.traced

    @property
    def driver_dimension(self) -> Dimension:
        """That of the first driver's coordinate; an angle where nothing is driven."""
        if not self.drive.drivers:
            return Dimension.ANGLE
        coordinates = self.system.coordinates
        return coordinates.dimension(coordinates.index(self.drive.drivers[0].joint))

    @property
    def runs_on(self) -> bool:
        """Whether it is a piece of steady running."""
        return runs_on(self.drive, self.path)

    @property
    def jolts(self) -> tuple[Jolt, ...]:
        """Where drivers start, stop or change at a jump of their velocity."""
        if self.cache.jolts is None:
            self.cache.jolts = jolts(self.drive, self.path, self.planned)
        return self.cache.jolts

    def _unwrapped(self, t: Array, values: Array) -> Array:
        polar = self.system.coordinates.is_polar
        nodes_t, nodes = self._polar_nodes
        expected = np.stack([np.interp(t, nodes_t, column) for column in nodes.T], axis=1)
        turn = 2 * np.pi
        values[:, polar] += turn * np.round((expected - values[:, polar]) / turn)
        return values

    @cached_property
    def _polar_nodes(self) -> tuple[Array, Array]:
        t = np.concatenate([nodes.t for nodes in self.path.pieces])
        q = np.concatenate([nodes.q for nodes in self.path.pieces])
        values = self.system.coordinates.values(q) + self.turns
        return t, np.unwrap(values[:, self.system.coordinates.is_polar], axis=0)

    def driver_value(self, t: float) -> float | None:
        """The first driver's coordinate at a time (document lengths or rad); None without drivers."""
        return float(self.driver_values(np.array([t]), 0)[0]) if self.drive.drivers else None

    def driver_values(self, t: Array, driver: int) -> Array:
        """(S,) the coordinate of a driver, by its number, at times (S,), in core units."""
        column = self.system.coordinates.index(self.drive.drivers[driver].joint)
        found: Array = (self.path.targets(t)[:, driver] + self.turns[column]) * self.lengths[column]
        return found

    def drivers_at(self, t: float) -> dict[str, float]:
        """The coordinates of all drivers at a time, by their names, in document units."""
        coordinates, targets = self.system.coordinates, self.path.targets(np.array([min(t, self.path.t1)]))[0]
        found = {}
        for number, driver in enumerate(self.drive.drivers):
            column = coordinates.index(driver.joint)
            value = float((targets[number] + self.turns[column]) * self.lengths[column])
            found[driver.id] = value * coordinates.dimension(column).per_core(self.document.units)
        return found

    @property
    def with_its_stop(self) -> State:
        """The state at the steps, and at the end where the motion stops between two of them."""
        state, end = self.state, self.path.t1
        if self.stop is None or (state.t.size and end - state.t[-1] <= 1e-12 * self.planned):
            return state
        last = self.at(np.array([end]))
        return State(*(np.concatenate((getattr(state, one.name), getattr(last, one.name))) for one in fields(State)))

    def numbers_of(self, t: Array) -> list[float | int]:
        """Which steps times (S,) are: fractions between two."""
        found = t / (self.planned or 1.0) * self.steps
        return [round(each) if abs(each - round(each)) < 1e-9 else each for each in found.tolist()]

    @property
    def spans(self) -> dict[str, list[tuple[float, float]]]:
        """When each driver moves: its spans of time (s), rests between them left out."""
        found: dict[str, list[tuple[float, float]]] = {}
        for number, driver in enumerate(self.drive.drivers):
            spans: list[tuple[float, float]] = []
            for law in self.path.laws:
                if law.table[number, 1:9].any():
                    joined = spans and abs(spans[-1][1] - law.t0) <= 1e-9 * self.planned
                    start = spans.pop()[0] if joined else law.t0
                    spans.append((start, law.t1))
            found[driver.id] = spans
        return found

    @property
    def lengths(self) -> Array:
        """(C,) the factor from a dimensionless coordinate to core units."""
        return np.where(self.system.coordinates.is_length, self.system.scale, 1.0)
