"""Equations with more unknowns than rows: of all that they allow, the least movement.

A body's movement is that of its middle, and its turn times its reach (see
`anakinema.kinematics.kernels.underconstrained`).
"""

from functools import cached_property
from typing import ClassVar

import numpy as np
from scipy import sparse
from scipy.sparse.csgraph import connected_components

from ..arrays import Array, Index, Mask
from .equations import Equations
from .kernels import rows as row_kernels
from .kernels import underconstrained
from .linear import Pattern
from .plan import ordered_rows
from .reaches import weighed
from .stretches import Law, Nodes

FAR = 30.0
"""Step of Newton's method that is beyond all sense (typical lengths)."""


class MinimumNorm:
    """Rates, closing and evaluation of equations with more unknowns than rows."""

    is_led: ClassVar[bool] = False

    def __init__(self, equations: Equations, reaches: Array):
        """`reaches` (P, 4): see `anakinema.kinematics.reaches`."""
        self.equations, self.reaches = equations, reaches
        table, moving = equations.table, equations.unknown
        rows, bodies = equations.rows, len(equations.place)
        per_row = 2 * int(np.diff(table.first).max(initial=1))
        self.gear = underconstrained.LeastNormTables(
            rows=ordered_rows(equations.specs, moving.tolist(), equations.place),
            place=equations.place,
            unknown=moving,
            body=np.ascontiguousarray(reaches[moving]),
            six=np.empty((len(table.bodies), 6)),
            bodies=np.full((rows, per_row), -1, dtype=np.int64),
            slopes=np.zeros((rows, per_row, 3)),
            give=np.full(rows, underconstrained.GIVE),
            wanted=np.empty(rows),
            rest=np.empty(rows),
            seen=np.empty(len(moving), dtype=np.int64),
            first=np.empty(rows, dtype=np.int64),
            start=np.empty(rows + 1, dtype=np.int64),
            matrix=np.empty(_profile(equations, moving.tolist())),
            change=np.empty((len(moving), 3)),
            force=np.empty(rows),
            turn=np.empty((bodies, 2)),
            value=np.empty(rows),
            near=np.empty((len(moving), 3)),
        )
        self._force = np.zeros(rows)

    @cached_property
    def slack(self) -> int:
        """Freedoms times parts, of all that hangs together: so often and so far a joint that turns back is felt."""
        equations = self.equations
        ends, free = equations.table.bodies[:, 1:], equations.place >= 0
        one, two = ends[free[ends].all(axis=1)].T
        graph = sparse.coo_matrix((np.ones(one.size), (one, two)), shape=(free.size,) * 2)
        label = connected_components(graph, directed=False)[1]
        parts = np.bincount(label[equations.unknown], minlength=free.size)
        term, side = np.nonzero(free[ends])
        where = np.full(equations.rows, -1)
        where[np.repeat(np.arange(equations.rows), np.diff(equations.table.first))[term]] = label[ends[term, side]]
        rows = np.bincount(where[where >= 0], minlength=free.size)
        return int((np.maximum(3 * parts - rows, 0) * parts).sum())

    def rate(self, q: Array, rates: Array) -> tuple[Array, float]:
        """The least velocities (P, 3) at q for targets of such rates (D,), and their size in movement, squared."""
        v = np.zeros_like(q)
        return v, float(underconstrained.rate(self.equations.table, self.gear, rates, q, v))

    def rate_beside(self, q: Array, rates: Array, v: Array) -> None:
        """Fills the least velocities (P, 3) at q beside known bodies that move as v has it."""
        underconstrained.rate_beside(self.equations.table, self.gear, rates, q, v)

    def close(self, q: Array, targets: Array) -> float:
        """Brings q (P, 3) onto the rows, in place; how far it moved, or below zero where that fails."""
        return float(underconstrained.close(self.equations.table, self.gear, targets, q))

    def step(
        self, law: Law, t: float, ahead: float, q: Array, first: Array, stages: Array, turn: float, exact: float
    ) -> tuple[float, Array, Array, float]:
        """A step from q (P, 3) at t, where the rate is `first`, to a time ahead: how far it is off, where it leads, the
        rate there, and its size squared, infinite where it is without bound. Below zero, or more than `exact`: it is
        not to be taken."""
        at, rates = np.empty_like(q), np.zeros((7, *q.shape))
        rates[0] = first
        targets, paces, seconds = np.empty((3, len(law.table)))
        off, size = underconstrained.step(
            self.equations.table, self.gear, law.table, law.t0, t, ahead, stages, turn, exact, q, rates, at,
            targets, paces, seconds,
        )
        return off, at, rates[0].copy(), size

    def weigh(self, q: Array) -> Array:
        """(N, 3, 3) what a change of x, y, θ of each unknown body weighs at q (P, 3): the movement of its middle,
        squared, and of its turn times its reach."""
        return weighed(self.gear.body, q[self.equations.unknown, 2])

    def nearest(self, anchor: Array, guess: Array, targets: Array) -> Array | None:
        """The positions (P, 3) on the rows that lie nearest to `anchor` by movement (weighed at the guess), from a
        guess near them: Newton's method on place and forces together, sparse. None where there are none near."""
        rows = self.equations.rows
        weights = self.weigh(guess)
        for force in (self._force, np.zeros(rows)):
            found = self._newton(anchor, guess, targets, weights, force)
            if found is not None:
                return found
        self._force = np.zeros(rows)
        return None

    def _newton(self, anchor: Array, guess: Array, targets: Array, weights: Array, force: Array) -> Array | None:
        equations, moving, columns = self.equations, self.equations.unknown, self.equations.columns
        q = guess.copy()
        bent = np.zeros((len(equations.table.bodies), 6, 6))
        six, room, size = np.empty((len(equations.table.bodies), 6)), np.empty(6), np.inf
        for attempt in range(12):
            row_kernels.slopes(equations.table, q, self.gear.turn, six)
            underconstrained.curvature(equations.table, q, force, room, bent)
            off = equations.residual(q, targets)
            pull = np.einsum("nij,nj->ni", weights, (anchor - q)[moving]).ravel()
            outer = six[self._outer]
            values = np.concatenate((bent[self._inner], weights.ravel(), outer, outer, self._near_singular))
            solved = self._system.solve(values, np.concatenate((pull, -off)))
            if solved is None:
                return None
            step, force = solved[:columns].reshape(-1, 3), solved[columns:]
            before, size = size, float(np.abs(step).max(initial=0.0))
            if not size < (2.0 * before if attempt > 1 else FAR):
                return None
            q[moving] += step
            if size < 1e-7:  # what is left is its square
                self._force = force
                return q if self.close(q, targets) >= 0.0 else None
        return None

    @cached_property
    def _blocks(self) -> tuple[Index, Mask, Index, Index]:
        """Rows and columns of the entries of the system of `nearest`: terms by body pairs, bodies, rows by bodies."""
        table, place = self.equations.table, self.equations.place
        column = (place[table.bodies[:, 1:]][:, :, None] + np.arange(3)).reshape(-1, 6)
        known = np.repeat(place[table.bodies[:, 1:]] >= 0, 3, axis=1)
        row = np.repeat(np.arange(self.equations.rows), np.diff(table.first))
        return column, known, row, np.arange(self.equations.columns).reshape(-1, 3)

    @cached_property
    def _inner(self) -> Mask:
        _, known, _, _ = self._blocks
        both: Mask = known[:, :, None] & known[:, None, :]
        return both

    @cached_property
    def _outer(self) -> Mask:
        return self._blocks[1]

    @cached_property
    def _near_singular(self) -> Array:
        return np.full(self.equations.rows, -underconstrained.GIVE)

    @cached_property
    def _system(self) -> Pattern:
        return Pattern(*self._places, self.equations.columns + self.equations.rows)

    @cached_property
    def _bordered(self) -> Pattern:
        """The same with one row and column more, for time."""
        size = self.equations.columns + self.equations.rows
        over = self.equations.columns + self._targeted
        down, across = self._places
        last = np.full(len(over), size)
        return Pattern(np.concatenate((down, over, last)), np.concatenate((across, last, over)), size + 1)

    @cached_property
    def _targeted(self) -> Index:
        """The rows that follow a target."""
        return np.flatnonzero(self.equations.table.target >= 0)

    @cached_property
    def _places(self) -> tuple[Index, Index]:
        column, known, row, bodies = self._blocks
        columns, rows = self.equations.columns, self.equations.rows
        wide = np.broadcast_to(column[:, :, None], (*column.shape, 6))
        tall = np.broadcast_to(column[:, None, :], (*column.shape, 6))
        one, two = wide[self._inner], tall[self._inner]
        body_one = np.repeat(bodies, 3, axis=1).ravel()
        body_two = np.tile(bodies, (1, 3)).ravel()
        at = np.broadcast_to(row[:, None], column.shape)[known] + columns
        last = columns + np.arange(rows)
        return (
            np.concatenate((one, body_one, at, column[known], last)),
            np.concatenate((two, body_two, column[known], at, last)),
        )

    def taut(self, law: Law, t: float, latest: float, q: Array) -> tuple[float, Array] | None:
        """Time and positions (P, 3) at which the targets of a law can't be followed further, from positions near it:
        where time is greatest, and forces hold the rows in balance, Aᵀ λ = 0. Newton's method on place, forces and time
        together, sparse, held back at first by the movement (proximal point method). None where that is nowhere near,
        or later than `latest`."""
        equations, moving = self.equations, self.equations.unknown
        columns, rows = equations.columns, equations.rows
        commanded = law.rates(t)
        rate = equations.targets_rate(commanded)
        _, size = self.rate(q, commanded)
        if not 0.0 < size < np.inf:
            return None
        force, place, time, last = np.zeros(rows), q.copy(), t, columns + rows
        back = 1.0 / (0.3 * np.sqrt(size))
        six, room = np.empty((len(equations.table.bodies), 6)), np.empty(6)
        bent = np.zeros((len(equations.table.bodies), 6, 6))
        for _ in range(120):
            row_kernels.slopes(equations.table, place, self.gear.turn, six)
            underconstrained.curvature(equations.table, place, force, room, bent)
            targets, commanded, _ = law.sampled(np.array([time]))
            off, rate = equations.residual(place, targets[0]), equations.targets_rate(commanded[0])
            pushed = np.zeros(columns)
            np.add.at(pushed, self._column, (six * force[self._row])[self._outer])
            wanted = np.concatenate((-pushed, -off, [rate @ force - 1.0]))
            held = (-back * self.weigh(place)).ravel()
            outer = six[self._outer]
            pace = -rate[self._targeted]
            values = np.concatenate((bent[self._inner], held, outer, outer, self._near_singular, pace, pace))
            solved = self._bordered.solve(values, wanted)
            step = float(np.abs(solved[2:columns:3]).max(initial=0.0)) if solved is not None else np.inf
            if solved is None or step > 0.4:
                back *= 5.0
                if not back < 1e9 / np.sqrt(size):
                    return None
                continue
            place[moving] += solved[:columns].reshape(-1, 3)
            force, time = force + solved[columns:last], time + float(solved[last])
            if not time < latest:
                return None
            if np.abs(solved[:columns]).max() < 1e-10 and np.abs(off).max() < 1e-10 and back * np.sqrt(size) < 1e-5:
                return time, place
            back *= 0.3
        return None

    @property
    def _column(self) -> Index:
        column, known, _, _ = self._blocks
        return column[known]

    @property
    def _row(self) -> Index:
        """(T, 1) the row of each term."""
        return self._blocks[2][:, None]

    def evaluate(self, law: Law, nodes: Nodes, t: Array, q: Array, v: Array, a: Array, wanted: bool) -> Index:
        """Fills q, and v and a where wanted (S, P, 3), at times t (S,) between the nodes; gives how many rows said
        nearly nothing there (S,)."""
        q[:] = nodes.q[0]
        if wanted:
            v[:] = a[:] = 0.0
        low, high = nodes.q[0].copy(), nodes.q[0].copy()
        targets, rates, seconds = np.empty((3, len(law.table)))
        near_singular = np.zeros(t.size, dtype=np.int64)
        underconstrained.evaluate(
            self.equations.table, self.gear, t, law.table, law.t0, nodes.t, nodes.q, nodes.v, nodes.a,
            q, v, a, wanted, targets, rates, seconds, low, high, near_singular,
        )
        return near_singular


def _profile(equations: Equations, moving: list[int]) -> int:
    """How many entries the matrix of the rows has inside its profile."""
    seen: dict[int, int] = {}
    total = 0
    order = ordered_rows(equations.specs, moving, equations.place).tolist()
    for i, row in enumerate(order):
        members = {body for term in equations.specs[row].terms for body in (term.a, term.b)}
        low = i
        for body in members:
            if equations.place[body] >= 0:
                low = min(low, seen.setdefault(body, i))
        total += i - low + 1
    return max(total, 1)
