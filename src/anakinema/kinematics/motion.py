"""The motion of a document: assembled, followed along one branch, stopped where it can't go on."""

import math
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np

from ..arrays import Array
from ..document.model import Coupling, Document, Joint
from ..errors import DocumentError, Fault
from .assembly import assemble
from .contacts import Lost, lost_contacts
from .drive import Drive, approach, compile_drive, dimensionless, laws
from .extremes import Extremes, coordinate_extremes
from .mobility import Mobility, generic_position, mobility
from .path import Path, follow
from .stops import Stop, dead_point, first_limit, off_edge
from .system import System, compile_system

MAX_CELLS = 60_000_000
"""Positions times bodies that a motion may hold (about 4 GB with rates)."""


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
    lost: tuple[Lost, ...] = ()
    """Contacts that run off an edge and are only told (`at_end` is ``lost``)."""

    @cached_property
    def state(self) -> State:
        """The state at the steps, evenly spaced over the planned time, up to the stop."""
        t = np.linspace(0.0, self.planned, self.steps + 1)
        end = min(self.path.t1, self.path.last_regular)
        return self.at(t[t <= end + 1e-12 * self.planned])

    def at(self, t: Array) -> State:
        """The state at any times of the motion."""
        t = np.asarray(np.atleast_1d(t), dtype=np.float64)
        q, v, a = self.path.at(t)
        coordinates = self.system.coordinates
        values: Array = coordinates.values(q) + self.turns
        if coordinates.is_polar.any():
            values = self._unwrapped(t, values)
        rates, accelerations = coordinates.rates(q, v, a)
        scale = self.system.scale
        lengths = np.where(coordinates.is_length, scale, 1.0)
        size = self.system.size
        return State(t, q * size, v * size, a * size, values * lengths, rates * lengths, accelerations * lengths)

    def posed(self, q: Array, near: Array) -> Array:
        """(C,) the joint coordinates at positions q (P, 3: document lengths, rad) that the mechanism was put into by
        hand; angles are counted on from those of the moment before, `near`."""
        values: Array = (self.system.coordinates.values(q[None] / self.system.size)[0] + self.turns) * self.lengths
        turns = np.where(self.system.coordinates.is_length, 0.0, np.round((near - values) / (2 * np.pi)))
        counted: Array = values + 2 * np.pi * turns
        return counted

    def positions(self, t: Array) -> Array:
        """Positions alone (S, P, 3), x and y in document lengths, θ in rad, at any times."""
        placed: Array = self.path.positions(t) * self.system.size
        return placed

    @cached_property
    def extremes(self) -> Extremes:
        """The true extremes of the joint coordinates over the motion (core units)."""
        return coordinate_extremes(self)

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
        if not self.drive.drivers:
            return None
        column = self.system.coordinates.index(self.drive.drivers[0].joint)
        return float((self.path.targets(np.array([t]))[0, 0] + self.turns[column]) * self.lengths[column])

    @property
    def lengths(self) -> Array:
        """(C,) the factor from a dimensionless coordinate to core units."""
        return np.where(self.system.coordinates.is_length, self.system.scale, 1.0)

    @cached_property
    def mobility(self) -> Mobility:
        """Degrees of freedom with the drivers off, at the most regular position of the motion."""
        constraints, drive = self.system.constraints, self.drive
        if not drive.held and drive.equations.rows == drive.equations.columns:
            # The drivers' rows made the Jacobian regular and square, so every joint row is independent.
            count = constraints.columns - constraints.rows
            return Mobility(count, (), count)
        span = self.path.t1
        q = self.path.positions(np.array([0.0, 0.381966 * span, 0.7236 * span]))
        return mobility(constraints, np.concatenate((q, generic_position(constraints, q[0])[None])))


def simulate(
    document: Document, steps: int | None = None, progress: Callable[[float], None] | None = None
) -> Motion:
    """The motion of a document: `steps` steps, else as many as the driver with the most says.

    Raises `DocumentError` when joints can't close, when the document is empty or when drivers make no sense.
    `progress` is told the share done (0 to 1) and may raise to cancel.
    """
    if not document.parts:
        raise DocumentError([Fault("parts", "there are no parts; add at least one")])
    steps = steps if steps is not None else max((driver.steps for driver in document.drivers.values()), default=0)
    if (steps + 1) * len(document.parts) > MAX_CELLS:
        text = f"{steps} steps of {len(document.parts)} parts are more than memory should hold; ask for fewer steps"
        raise DocumentError([Fault("drivers", text)])
    system = compile_system(document)
    q = assembled(document, system)
    drive = compile_drive(document, system, q)
    raw = system.coordinates.values(q[None])[0]
    turns = _turns(document, system, raw)
    return _run(document, system, drive, q, raw, turns, steps, progress)


def assembled(document: Document, system: System) -> Array:
    """The assembly nearest to the poses (P, 3), dimensionless. Raises `DocumentError` naming the joints left open."""
    result = assemble(system.constraints, system.placed, np.zeros(1))
    if result.open:
        unit = document.units.length
        owners: dict[str, Joint | Coupling] = {**document.joints, **document.couplings}
        faults = [
            Fault(
                f"joints.{owner}",
                f"can't close: '{owners[owner].a}' and '{owners[owner].b}' stay open by about "
                f"{gap * system.scale:.4g} {unit} at the nearest assembly; check the lengths around this loop",
            )
            for owner, gap in sorted(result.open.items(), key=lambda item: -item[1])
        ]
        raise DocumentError(faults)
    return result.q


def _turns(document: Document, system: System, raw: Array) -> Array:
    """Whole turns to add to each angle: to lie within (−π, π], or within its limits where one turn does."""
    turns = np.zeros(raw.size)
    for i, joint in enumerate(system.coordinates.ids):
        if system.coordinates.is_length[i]:
            continue
        half = math.pi + 1e-9  # rounding does not decide between a half turn forward and one back
        wrapped = half - (half - raw[i]) % (2 * math.pi)
        limits = document.joints[joint].limits
        low = -math.inf if limits.min is None else limits.min
        high = math.inf if limits.max is None else limits.max
        shifts = sorted((0, 1, -1), key=lambda k: _outside(wrapped + 2 * math.pi * k, low, high))
        turns[i] = wrapped + 2 * math.pi * shifts[0] - raw[i]
    return turns


def _outside(value: float, low: float, high: float) -> float:
    return max(low - value, value - high, 1e-9) - 1e-9


def _run(
    document: Document,
    system: System,
    drive: Drive,
    q: Array,
    raw: Array,
    turns: Array,
    steps: int,
    progress: Callable[[float], None] | None,
) -> Motion:
    columns = [system.coordinates.index(driver.joint) for driver in drive.drivers]
    placed = raw[columns]
    start = (raw + turns)[columns]
    for i, driver in enumerate(drive.drivers):
        if driver.start is not None:
            start[i] = dimensionless(drive, i, driver.start)
    goal = start - turns[columns]
    for i, column in enumerate(columns):
        if not system.coordinates.is_length[column]:  # the nearest of the turns that look alike
            goal[i] = placed[i] + math.remainder(goal[i] - placed[i], 2 * math.pi)
            turns[column] = start[i] - goal[i]
    if np.abs(goal - placed).max(initial=0.0) > 1e-12:
        path = follow(drive, approach(drive, placed, goal), q, progress)
        if path.dead is not None:
            early = dead_point(document, system, drive, path, turns, "on the way to its start, ")
            return Motion(document, system, drive, path.until(0.0), turns, 0, 0.0, early)
        q = path.at(np.array([1.0]))[0][0]
    runs = laws(drive, start, turns[columns])
    planned = runs[-1].t1
    path = follow(drive, runs, q, progress)
    stop = dead_point(document, system, drive, path, turns) if path.dead is not None else None
    motion = Motion(document, system, drive, path, turns, steps, planned, stop)
    lost = lost_contacts(motion)
    stops = [off_edge(motion, entry) for entry in lost if document.joints[entry.joint].at_end == "stop"]
    stops += [limit] if (limit := first_limit(motion)) is not None else []
    first = min(stops, key=lambda found: found.t, default=None)
    told = tuple(entry for entry in lost if document.joints[entry.joint].at_end == "lost")
    if first is not None:
        told = tuple(entry for entry in told if entry.t <= first.t)
        return replace(motion, path=path.until(first.t), stop=first, lost=told)
    return replace(motion, lost=told) if told else motion
