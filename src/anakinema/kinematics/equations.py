"""Rows gathered into equations over the unknown coordinates: value, Jacobian and second-order part for many positions.

Nothing here knows of joints or names. All quantities are dimensionless: lengths are divided by the system's scale.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np
from scipy import sparse
from scipy.linalg import lapack
from scipy.sparse.linalg import splu

from .rows import KINDS, Array, Index, Rows

DENSE_UP_TO = 150
"""Unknowns up to which one dense factorisation beats a sparse one (measured: see benchmarks)."""


@dataclass(frozen=True)
class RowSpec:
    """One primitive row between bodies `a` and `b`. `owner` names what made it; `target` is the column of the target
    vector that its value must equal, or −1 for zero."""

    kind: str
    a: int
    b: int
    pa: tuple[float, float]
    pb: tuple[float, float]
    constant: float
    owner: str
    target: int = -1

    @property
    def width(self) -> int:
        """Equations that the row gives."""
        return 2 if self.kind == "coincident" else 1


def gather(specs: Sequence[RowSpec]) -> tuple[list[Rows], list[int]]:
    """The specs as one array object for each kind, and the order in which their equations come out (spec indices)."""
    groups: list[Rows] = []
    order: list[int] = []
    for kind, make in KINDS.items():
        chosen = [i for i, spec in enumerate(specs) if spec.kind == kind]
        if not chosen:
            continue
        picked = [specs[i] for i in chosen]
        groups.append(
            make(
                a=np.array([spec.a for spec in picked], dtype=np.intp),
                b=np.array([spec.b for spec in picked], dtype=np.intp),
                pa=np.array([spec.pa for spec in picked], dtype=float),
                pb=np.array([spec.pb for spec in picked], dtype=float),
                constant=np.array([spec.constant for spec in picked], dtype=float),
            )
        )
        order += [i for i in chosen for _ in range(specs[i].width)]
    return groups, order


class Equations:
    """Rows over the unknown coordinates of the bodies `unknown`; all other bodies count as known. `moving` lists the
    bodies that may move, so that rows know whether a known neighbour does."""

    def __init__(self, specs: Sequence[RowSpec], unknown: Sequence[int], bodies: int, moving: Sequence[int] = ()):
        self.specs = tuple(specs)
        self.groups, self.order = gather(specs)
        self.unknown = np.array(unknown, dtype=np.intp)
        self.columns = 3 * len(unknown)
        self.rows = len(self.order)
        self.owners = [specs[i].owner for i in self.order]
        place = np.full(bodies, -1)
        place[self.unknown] = np.arange(len(unknown))
        known = self.columns  # one spare column swallows the derivatives by known bodies
        columns = []
        for group in self.groups:
            six = np.full((group.a.size, 6), known)
            for side, body in ((0, group.a), (3, group.b)):
                inside = place[body] >= 0
                six[inside, side : side + 3] = 3 * place[body[inside], None] + np.arange(3)
            columns.append(np.repeat(six, group.width, axis=0))
        self.column: Index = np.concatenate(columns) if columns else np.zeros((0, 6), dtype=np.intp)
        self._row = np.arange(self.rows)[:, None]
        touched = {body for spec in specs for body in (spec.a, spec.b)}
        self.has_moving_neighbours = bool((touched & set(moving)) - set(unknown))
        target = np.array([specs[i].target for i in self.order], dtype=np.intp)
        self.driven = np.flatnonzero(target >= 0)
        self.target = target[self.driven]
        kinds = np.array([specs[i].kind for i in self.order])
        self.wrapped = np.flatnonzero(kinds[self.driven] == "polar") if self.rows else np.zeros(0, dtype=np.intp)
        keep = self.column < known
        self._sparse_keep = keep
        self._sparse_index = (np.broadcast_to(self._row, self.column.shape)[keep], self.column[keep])

    def values(self, q: Array) -> Array:
        """(S, rows) the row values, targets not yet taken off."""
        return np.concatenate([group.value(q) for group in self.groups], axis=1)

    def _linear(self, q: Array, targets: Array) -> tuple[Array, Array]:
        parts = [group.linear(q) for group in self.groups]
        if len(parts) == 1:
            value, jac = parts[0]
        else:
            value = np.concatenate([part[0] for part in parts], axis=1)
            jac = np.concatenate([part[1] for part in parts], axis=1)
        if self.driven.size:
            away = value[:, self.driven] - targets[:, self.target]
            if self.wrapped.size:
                away[:, self.wrapped] = np.remainder(away[:, self.wrapped] + np.pi, 2 * np.pi) - np.pi
            value[:, self.driven] = away
        return value, jac

    def linear(self, q: Array, targets: Array) -> tuple[Array, Array]:
        """Residual (S, rows) and dense Jacobian (S, rows, columns)."""
        value, jac = self._linear(q, targets)
        full = np.zeros((len(q), self.rows, self.columns + 1))
        full[:, self._row, self.column] = jac
        return value, full[:, :, :-1]

    def factored(self, q: Array, targets: Array) -> tuple[Array, "Factors"]:
        """Residual (rows,) and factorised Jacobian at one position q (P, 3)."""
        if self.columns <= DENSE_UP_TO:
            value, full = self.linear(q[None], targets[None])
            return value[0], dense_factors(full[0])
        value, matrix = self.sparse(q, targets)
        return value, sparse_factors(matrix)

    def sparse(self, q: Array, targets: Array) -> tuple[Array, sparse.csc_matrix]:
        """Residual (rows,) and sparse Jacobian at one position q (P, 3)."""
        value, jac = self._linear(q[None], targets[None])
        matrix = sparse.csc_matrix((jac[0][self._sparse_keep], self._sparse_index), shape=(self.rows, self.columns))
        return value[0], matrix

    def quadratic(self, q: Array, v: Array) -> Array:
        """(S, rows) the part of the second derivative without accelerations."""
        return np.concatenate([group.quadratic(q, v) for group in self.groups], axis=1)

    def targets_rate(self, slope: Array) -> Array:
        """(rows,) the rate of the targets, in the place of each row."""
        rate = np.zeros(self.rows)
        rate[self.driven] = slope[self.target]
        return rate

    def rate(self, q: Array, v: Array) -> Array:
        """(S, rows) the first derivative of the row values for velocities v (S, P, 3) of all bodies."""
        return np.concatenate([group.along(q, v) for group in self.groups], axis=1)

    def spread(self, q: Array, unknowns: Array) -> None:
        """Adds a change of the unknowns (S, columns) to positions q (S, P, 3), in place."""
        q[:, self.unknown] += unknowns.reshape(len(q), -1, 3)


@dataclass(frozen=True)
class Factors:
    """A factorised Jacobian at one position. `solve` gives the least-squares solution; `pivots` the diagonal of the
    triangular factor and `swapped` the parity of its row exchanges."""

    solve: Callable[[Array], Array] = field(repr=False)
    pivots: Array
    swapped: bool | None
    """None where there is no determinant."""

    @property
    def sign(self) -> float:
        """Sign of the determinant; 0 where there is none."""
        if self.swapped is None:
            return 0.0
        odd = (np.count_nonzero(self.pivots < 0) % 2 == 1) != self.swapped
        return -1.0 if odd else 1.0

    @property
    def spread(self) -> float:
        """The least pivot over the largest: near zero where the position is singular."""
        size = np.abs(self.pivots)
        return float(size.min() / size.max()) if size.size and size.max() > 0 else 0.0


SINGULAR = np.zeros(1)


def dense_factors(matrix: Array) -> Factors:
    """LU where the matrix is square, QR where rows exceed columns, the pseudo-inverse where neither works."""
    rows, columns = matrix.shape
    if rows == columns:
        lu, pivots, info = lapack.dgetrf(matrix)
        if info == 0:
            swapped = np.count_nonzero(pivots != np.arange(rows)) % 2 == 1
            factors = Factors(lambda rhs: lapack.dgetrs(lu, pivots, rhs)[0], lu.diagonal(), swapped)
            if factors.spread > 1e-13:
                return factors
    elif rows > columns:
        orthogonal, upper = np.linalg.qr(matrix)
        factors = Factors(lambda rhs: np.linalg.solve(upper, orthogonal.T @ rhs), upper.diagonal(), None)
        if factors.spread > 1e-10:
            return factors
    inverse = np.linalg.pinv(matrix, rcond=1e-9)
    return Factors(lambda rhs: inverse @ rhs, SINGULAR, None)


def sparse_factors(matrix: sparse.csc_matrix) -> Factors:
    """Sparse LU; where rows exceed columns, of the augmented least-squares matrix."""
    rows, columns = matrix.shape
    square = rows == columns
    if not square:
        matrix = sparse.bmat([[sparse.identity(rows), matrix], [matrix.T, None]], format="csc")
    try:
        lu = splu(matrix)
    except RuntimeError:  # exactly singular
        inverse = np.linalg.pinv(matrix.toarray(), rcond=1e-9)
        solve: Callable[[Array], Array] = inverse.__matmul__
        pivots = SINGULAR
    else:
        solve, pivots = lu.solve, lu.U.diagonal()
    if square:
        return Factors(solve, pivots, None)
    return Factors(lambda rhs: solve(np.concatenate((rhs, np.zeros(columns))))[rows:], pivots, None)
