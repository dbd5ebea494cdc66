"""What motions are left to each part with the drivers off: a turn about a point, a slide along a direction, or more."""

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..arrays import Array
from .equations import Equations
from .system import System

LEFT = 1e-7
"""Size from which a motion counts, relative to the largest."""


@dataclass(frozen=True)
class Freedom:
    """One motion left to a part at the moment: `turn` about `center`, or `slide` along `direction` (unit vector), both
    in the plane (document lengths)."""

    kind: Literal["turn", "slide"]
    center: complex = 0j
    direction: complex = 0j


def freedoms(system: System, q: Array) -> dict[str, tuple[Freedom, ...]]:
    """The independent motions left to every part at positions q (P, 3: document lengths, rad), none for those that
    can't move. A part with three can be moved in any way.

    The motions of the whole assembly are the null space of its constraints' Jacobian; a part's share of them spans 0 to
    3 dimensions. Of two, one is always a slide; the other is told as a turn about the part's own origin where the part
    can turn. Cost grows with the third power of the number of parts.
    """
    size = system.size
    basis = null_space(system.constraints, np.ascontiguousarray(q / size))
    found: dict[int, tuple[Freedom, ...]] = {}
    for k, body in enumerate(system.constraints.unknown.tolist()):
        twists = basis[3 * k : 3 * k + 3] * size[:, None]
        found[body] = _told(twists, complex(q[body, 0], q[body, 1]), system.scale)
    return {part: found.get(body, ()) for part, body in system.bodies.items()}


def null_space(equations: Equations, q: Array) -> Array:
    """(columns, k) an orthonormal basis of the motions that leave all rows as they are, at q (P, 3), dimensionless."""
    if equations.rows == 0:
        return np.eye(equations.columns)
    _, jac = equations.linear(q[None], np.zeros((1, 1)))
    _, size, right = np.linalg.svd(jac[0])
    rank = int((size > LEFT * size.max(initial=1.0)).sum())
    motions: Array = right[rank:].T
    return motions


def _told(twists: Array, at: complex, scale: float) -> tuple[Freedom, ...]:
    """The freedoms that twists (3, k) of a part with origin `at` span: rates of x, y (lengths) and θ."""
    weighed = twists / np.array([[scale], [scale], [1.0]])
    left, size, _ = np.linalg.svd(weighed, full_matrices=False) if weighed.shape[1] else (weighed, np.zeros(0), weighed)
    rank = int((size > LEFT).sum())
    if rank == 0:
        return ()
    if rank == 3:
        return Freedom("slide", direction=1 + 0j), Freedom("slide", direction=1j), Freedom("turn", at)
    span = left[:, :rank]
    if rank == 1:
        x, y, turn = span[:, 0] * np.array([scale, scale, 1.0])
        if abs(turn) * scale <= LEFT * math.hypot(x, y):
            return (Freedom("slide", direction=_unit(complex(x, y))),)
        return (Freedom("turn", at + 1j * complex(x, y) / turn),)  # where v + iθ̇ (z − at) = 0
    if np.abs(span[2]).max() <= LEFT:
        return Freedom("slide", direction=1 + 0j), Freedom("slide", direction=1j)
    pure = span @ np.array([span[2, 1], -span[2, 0]])  # the combination without a turn
    return Freedom("slide", direction=_unit(complex(pure[0], pure[1]))), Freedom("turn", at)


def _unit(z: complex) -> complex:
    """The unit vector of a direction, pointing right, or up."""
    z = z / abs(z)
    return -z if (z.real, z.imag) < (-1e-9, 0.0) or (abs(z.real) <= 1e-9 and z.imag < 0) else z
