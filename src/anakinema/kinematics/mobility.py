"""Degrees of freedom by rank, and which joints add nothing to it."""

from dataclasses import dataclass

import numpy as np

from ..arrays import Array
from .equations import Equations

RANK_TOLERANCE = 1e-8


@dataclass(frozen=True)
class Mobility:
    """`dof`: freedoms of the assembly with its drivers off. `redundant`: joints (in document order) of which at least
    one row says nothing that earlier joints don't say already. `count`: the Grübler count, 3 for each moving part less
    the rows."""

    dof: int
    redundant: tuple[str, ...]
    count: int


def mobility(constraints: Equations, positions: Array) -> Mobility:
    """Mobility at the most regular of the positions (S, P, 3): that of the highest rank.

    A dead point or change point lowers the rank for that position only, so several positions of the motion are looked
    at.
    """
    count = constraints.columns - constraints.rows
    if constraints.rows == 0 or constraints.columns == 0:
        return Mobility(constraints.columns, (), count)
    _, jacobians = constraints.linear(positions, np.zeros((len(positions), 1)))
    best, dependent = -1, np.zeros(0, dtype=bool)
    for jac in jacobians:
        adds = independent_rows(jac)
        if adds.sum() > best:
            best, dependent = int(adds.sum()), ~adds
        if best == min(jac.shape):
            break
    redundant = dict.fromkeys(owner for owner, extra in zip(constraints.owners, dependent, strict=True) if extra)
    return Mobility(constraints.columns - best, tuple(redundant), count)


def independent_rows(matrix: Array) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
    """(rows,) whether each row is independent of the rows before it, by modified Gram–Schmidt done twice."""
    rows, columns = matrix.shape
    basis = np.empty((min(rows, columns), columns))
    used = 0
    adds = np.zeros(rows, dtype=bool)
    for i, row in enumerate(matrix):
        size = np.linalg.norm(row)
        if size == 0 or used == len(basis):
            continue
        rest = row - basis[:used].T @ (basis[:used] @ row)
        rest -= basis[:used].T @ (basis[:used] @ rest)
        left = np.linalg.norm(rest)
        if left > RANK_TOLERANCE * size:
            basis[used] = rest / left
            used += 1
            adds[i] = True
    return adds
