"""What the compiled loops read and where they compute: plain arrays, no names.

Lengths are over the system's scale, angles in rad. A *term* is a primitive function of the positions q (P, 3: x, y, θ)
of two bodies a and b; a *row* is a sum of terms times coefficients, less a constant, less a target; a *block* is a set
of rows that determines a set of bodies. With u(φ) the unit vector at angle φ, p a point of a body in its own axes,
r = u(θ) p its turned arm, P = (x, y) + r and d = P_b − P_a, the terms are

============  =========================================  ===================================================
kind          value e                                    γ, the part of ë without q̈ (ë = J q̈ + γ)
============  =========================================  ===================================================
X, Y          d_x or d_y                                 of θ̇_a² r_a − θ̇_b² r_b (called β below)
ANGLE         θ_b − θ_a − constant                       0
PROJECTION    u(θ_a + constant) · d                      2 θ̇_a u × ḋ + u · (β − θ̇_a² d)
DISTANCE      (d·d − constant²) / (2 constant)           (ḋ·ḋ + d·β) / constant
POLAR         angle of d − θ_a                           (d × β) / d² − 2 (d·ḋ)(d × ḋ) / d⁴
============  =========================================  ===================================================

A term may be seen through a law f of one variable: its value is f(e), its derivatives f′ times those of e, and by the
chain rule its γ is f′ γ_e + f″ ė².
"""

from typing import NamedTuple

import numpy as np

from ...arrays import Array, Index

X, Y, ANGLE, PROJECTION, DISTANCE, POLAR = range(6)
"""Kinds of terms."""
RUNNING, ARRIVED, STUCK, CROSSED = range(4)
"""How following a branch ended; CROSSED: the last step went over to another sign of a block."""
SETTLED = 1e-14
"""Residual at which Newton's method is content (typical lengths or rad)."""
NEARLY = 3e-12
"""Change of Newton's method so small that the Jacobian before it still gives the rates to eleven digits."""
DOUBTFUL = 1e-4
"""Least over largest diagonal of the triangular factor at which the branches lie so near to each other that Newton's
method may take the wrong one."""


class Workspace(NamedTuple):
    """Room to compute in: the matrix (R, C), scale (C,) and right-hand side (R,) of the largest block, the targets
    (D,) with their rates and accelerations, the cosine and sine (P, 2) of the bodies' angles, and one position with its
    rates (P, 3) and signs (B,)."""

    matrix: Array
    scale: Array
    rhs: Array
    targets: Array
    rates: Array
    seconds: Array
    turn: Array
    q: Array
    v: Array
    a: Array
    signs: Array


class Table(NamedTuple):
    """M rows of T terms, in few arrays, for each one costs a little at every call.

    `bodies` (T, 3): kind, a, b. `numbers` (T, 12): x and y of the point of a and of b, the constant, its cosine and
    sine, the coefficient; then of its law, if it has one, where its pieces begin and end in `pieces`, what of the
    term's value is its zero, and its period (0 for none). `pieces` (L, 12): where each begins, its polynomial's eight
    coefficients, amplitude, frequency and phase of its sinusoid; the last goes on. `first` (M+1,): where each row's
    terms begin. `target` (M,): column of the targets, −1 for none. `sizes` (M, 2): the row's own constant, and the
    amount its value may jump by (a whole turn of a POLAR term), 0 for none.
    """

    bodies: Index
    numbers: Array
    first: Index
    target: Index
    sizes: Array
    pieces: Array


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


def room(plan: Plan) -> tuple[int, int, int]:
    """Rows and columns of the largest block, and how many blocks there are."""
    size = np.diff(plan.first, axis=0)
    columns = 3 * int(size[:, 1].max(initial=1))
    return max(int(size[:, 0].max(initial=1)), columns), columns, len(size)


def work_for(rows: int, columns: int, blocks: int, bodies: int, targets: int) -> Workspace:
    """Room for blocks of so many rows and columns, bodies and targets."""
    return Workspace(
        np.empty((rows, columns)), np.empty(columns), np.empty(rows), np.empty(targets), np.empty(targets),
        np.empty(targets), np.empty((bodies, 2)), np.empty((bodies, 3)), np.zeros((bodies, 3)), np.zeros((bodies, 3)),
        np.empty(blocks),
    )
