"""What the compiled loops read and where they compute: plain arrays, no names. See `anakinema.kinematics.kernels`."""

from typing import NamedTuple

import numpy as np

from ..arrays import Array, Index

X, Y, ANGLE, PROJECTION, DISTANCE, POLAR = range(6)
"""Kinds of terms."""
RUNNING, ARRIVED, STUCK = range(3)
"""How following a branch ended."""
DOUBTFUL = 1e-4
"""Least over largest diagonal of the triangular factor at which the branches lie so near to each other that Newton's
method may take the wrong one."""


class Work(NamedTuple):
    """Room to compute in: the matrix (R, C), scale (C,) and right-hand side (R,) of the largest block, the targets
    (D,), the cosine and sine (P, 2) of the bodies' angles, and one position with its rates (P, 3) and signs (B,)."""

    matrix: Array
    scale: Array
    rhs: Array
    targets: Array
    turn: Array
    q: Array
    v: Array
    a: Array
    signs: Array


class Table(NamedTuple):
    """M rows of T terms, in few arrays, for each one costs a little at every call.

    `bodies` (T, 3): kind, a, b. `numbers` (T, 8): x and y of the point of a and of b, the constant, its cosine and
    sine, the coefficient. `first` (M+1,): where each row's terms begin. `target` (M,): column of the targets, −1 for
    none. `sizes` (M, 2): the row's own constant, and the amount its value may jump by (a whole turn of a POLAR term),
    0 for none.
    """

    bodies: Index
    numbers: Array
    first: Index
    target: Index
    sizes: Array


class Plan(NamedTuple):
    """The blocks of a table. `first` (B+1, 2): where each block's rows and bodies begin. `rows` (M, 2): the rows in
    order, and the first column of each in its block. `bodies` (N,): the bodies in order. `home` (P, 2): the block of
    each body (−1 for a known one) and its first column there. `reach` (3 N, 2): the end of the rows and of the columns
    that a column's elimination touches."""

    first: Index
    rows: Index
    bodies: Index
    home: Index
    reach: Index


def work_for(plan: Plan, bodies: int, targets: int) -> Work:
    """Room for the equations of a plan."""
    size = np.diff(plan.first, axis=0)
    columns = 3 * int(size[:, 1].max(initial=1))
    rows = max(int(size[:, 0].max(initial=1)), columns)
    return Work(
        np.empty((rows, columns)), np.empty(columns), np.empty(rows), np.empty(targets), np.empty((bodies, 2)),
        np.empty((bodies, 3)), np.zeros((bodies, 3)), np.zeros((bodies, 3)), np.empty(len(size)),
    )
