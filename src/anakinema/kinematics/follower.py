"""Equations with more unknowns than rows: of all that they allow, the least movement.

A body's movement is that of its middle, and its turn times its reach (see `anakinema.kinematics.kernels.loose`).
"""

import numpy as np

from ..arrays import Array
from .equations import Equations
from .kernels import loose
from .plan import ordered_rows
from .stretches import Law, Nodes


class Follower:
    """Rates, closing and evaluation of equations with more unknowns than rows."""

    def __init__(self, equations: Equations, middles: Array):
        """`middles` (P, 3): each body's middle in its own axes and its reach about it, dimensionless."""
        self.equations = equations
        table, moving = equations.table, equations.unknown
        rows, bodies = equations.rows, len(equations.place)
        per_row = 2 * int(np.diff(table.first).max(initial=1))
        self.gear = loose.Gear(
            rows=ordered_rows(equations.specs, moving.tolist(), equations.place),
            place=equations.place,
            unknown=moving,
            body=np.ascontiguousarray(middles[moving]),
            six=np.empty((len(table.bodies), 6)),
            bodies=np.full((rows, per_row), -1, dtype=np.int64),
            slopes=np.zeros((rows, per_row, 3)),
            give=np.full(rows, loose.GIVE),
            wanted=np.empty(rows),
            rest=np.empty(rows),
            seen=np.empty(len(moving), dtype=np.int64),
            first=np.empty(rows, dtype=np.int64),
            start=np.empty(rows + 1, dtype=np.int64),
            matrix=np.empty(_profile(equations, moving.tolist())),
            change=np.empty((len(moving), 3)),
            force=np.empty(rows),
            turn=np.empty((bodies, 2)),
            value=np.empty((1, rows)),
            near=np.empty((len(moving), 3)),
        )
        self._near = tuple(np.zeros((bodies, 3)) for _ in range(4))

    def rate(self, q: Array, slope: Array) -> tuple[Array, float]:
        """The least velocities (P, 3) at q, and their size in movement, squared."""
        v = np.zeros_like(q)
        return v, float(loose.rate(self.equations.table, self.gear, slope, q, v))

    def close(self, q: Array, targets: Array) -> float:
        """Brings q (P, 3) onto the rows, in place; how far it moved, or below zero where that fails."""
        return float(loose.close(self.equations.table, self.gear, targets, q))

    def bend(self, law: Law, t: float, h: float, q: Array, v: Array) -> Array:
        """Accelerations (P, 3) at q, zero where they can't be had."""
        a = np.zeros_like(q)
        low, high, low_v, high_v = self._near
        loose.bend(
            self.equations.table, self.gear, law.start, law.slope, t - law.t0, h, q, v, a,
            low, high, np.empty_like(law.start), low_v, high_v,
        )
        return a

    def evaluate(self, law: Law, nodes: Nodes, t: Array, q: Array, v: Array, a: Array, wanted: bool) -> None:
        """Fills q, and v and a where wanted (S, P, 3), at times t (S,) between the nodes."""
        q[:] = nodes.q[0]
        low, high, low_v, high_v = self._near
        low[:] = high[:] = nodes.q[0]
        low_v[:] = high_v[:] = 0.0
        h = 1e-5 / max(float(np.abs(law.slope).max(initial=0.0)), 1e-300)
        room = v if wanted else np.zeros_like(q)
        bent = a if wanted else np.zeros_like(q)
        loose.evaluate(
            self.equations.table, self.gear, t, law.start, law.slope, law.t0, h,
            nodes.t, nodes.q, nodes.v, nodes.a, q, room, bent, wanted,
            np.empty_like(law.start), low, high, low_v, high_v,
        )


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
