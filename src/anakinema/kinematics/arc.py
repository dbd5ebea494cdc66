"""The arc of a motion: a curve in positions and the drivers' way together, on which a dead point is a regular point."""

from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array
from .equations import Equations
from .stretches import Course, Law

if TYPE_CHECKING:
    from scipy import sparse

WILD = 1e8
"""How much larger than what is wanted a solution may be that still comes of a regular system."""


class Arc:
    """The arc from a node: a time, positions (P, 3) and velocities there."""

    def __init__(self, equations: Equations, law: Law, t: float, q: Array, v: Array):
        self.equations, self.t, self.q = equations, t, q
        self.course = Course(law, t)
        pace = float(self.course.heading @ law.rates(t))
        if pace > self.course.slow:
            ahead = v[equations.unknown].ravel() / pace
        else:
            _, jac = equations.jacobian(q, law.targets(np.array([t]))[0])
            ahead = _solved(jac, equations.targets_rate(self.course.heading))
        tangent = np.append(ahead, 1.0)
        self.tangent = tangent / np.linalg.norm(tangent)

    def point(self, arc: float) -> tuple[Array, float, float] | None:
        """Position, the drivers' way and its rate at an arc length from the node, or None."""
        equations, tangent = self.equations, self.tangent
        q, way = self.q.copy(), arc * float(tangent[-1])
        equations.spread(q, arc * tangent[:-1])
        gone = np.zeros(equations.columns + 1)
        for _ in range(25):
            targets, change = self.course.at(way)
            residual, jac = equations.jacobian(q, targets)
            bordered = _bordered(jac, -equations.targets_rate(change), tangent)
            step = _solved(bordered, np.append(residual, tangent @ gone))
            gone -= step
            equations.spread(q, -step[:-1])
            way -= float(step[-1])
            if np.abs(step).max() < 1e-13:
                break
        if not np.abs(gone).max() < max(10 * arc, 1e-6) or np.abs(residual).max() > 1e-9:
            return None
        ahead = _solved(bordered, np.append(np.zeros(equations.rows), 1.0))
        return q, way, float(ahead[-1] / np.linalg.norm(ahead))


def _bordered(jac: "Array | sparse.csr_matrix", last: Array, below: Array) -> "Array | sparse.csc_matrix":
    """A matrix with a column more, and then a row."""
    if isinstance(jac, np.ndarray):
        return np.concatenate((np.column_stack((jac, last)), below[None]))
    from scipy import sparse

    return sparse.vstack((sparse.hstack((jac, sparse.csr_matrix(last[:, None]))), below[None]), format="csc")


def _solved(matrix: "Array | sparse.spmatrix", wanted: Array) -> Array:
    """The least solution, in the sense of least squares where there is none."""
    if not isinstance(matrix, np.ndarray):
        from scipy.sparse.linalg import splu

        try:
            found: Array = splu(matrix.tocsc()).solve(wanted)
        except (RuntimeError, ValueError):  # exactly singular, or not square
            found = np.full(1, np.inf)
        if np.abs(found).max(initial=0.0) <= WILD * np.abs(wanted).max(initial=0.0):
            return found
        matrix = matrix.toarray()
    least: Array = np.linalg.lstsq(matrix, wanted, rcond=1e-12)[0]
    return least
