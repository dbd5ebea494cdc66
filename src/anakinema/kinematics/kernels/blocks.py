"""One block: its matrix, its orthogonal factorisation inside the envelope, its rates.

One way for small blocks, for redundant rows (solved in the least-squares sense) and for long chains (linear in their
length).
"""

import math

import numpy as np

from ...arrays import Array, Index
from ...compiling import inlined, inner
from .rows import nearest, worse
from .tables import Plan, Table
from .terms import at, bend_at


@inner
def fill(
    table: Table, plan: Plan, n: int, q: Array, turn: Array, targets: Array, matrix: Array, rhs: Array
) -> float:
    """Jacobian and residual of block n; gives the largest residual."""
    r0, c0 = plan.first[n, 0], 3 * plan.first[n, 1]
    rows, columns = plan.first[n + 1, 0] - r0, 3 * plan.first[n + 1, 1] - c0
    worst = 0.0
    for i in range(rows):
        m = plan.rows[r0 + i, 0]
        for k in range(plan.rows[r0 + i, 1], plan.reach[c0 + min(i, columns - 1), 1]):
            matrix[i, k] = 0.0
        total = -table.sizes[m, 0]
        for t in range(table.first[m], table.first[m + 1]):
            e, d0, d1, d2, d3, d4, d5 = at(table, t, q, turn)
            total += e
            a, b = table.bodies[t, 1], table.bodies[t, 2]
            if plan.home[a, 0] == n:
                k = plan.home[a, 1]
                matrix[i, k] += d0
                matrix[i, k + 1] += d1
                matrix[i, k + 2] += d2
            if plan.home[b, 0] == n:
                k = plan.home[b, 1]
                matrix[i, k] += d3
                matrix[i, k + 1] += d4
                matrix[i, k + 2] += d5
        if table.target[m] >= 0:
            total -= targets[table.target[m]]
        total = nearest(total, table.sizes[m, 1])
        rhs[i] = total
        worst = worse(worst, total)
    return worst


@inner
def factored(reach: Index, c0: int, rows: int, columns: int, matrix: Array, scale: Array) -> tuple[float, float]:
    """Householder's factorisation in place; gives least over largest diagonal (0: singular), the determinant's sign."""
    least, largest, sign = np.inf, 0.0, 1.0
    for k in range(columns):
        stop, right = min(reach[c0 + k, 0], rows), reach[c0 + k, 1]
        rest = 0.0
        for i in range(k + 1, stop):
            rest += matrix[i, k] * matrix[i, k]
        head = matrix[k, k]
        scale[k] = 0.0
        if rest > 0.0:
            diagonal = -math.copysign(math.sqrt(head * head + rest), head)
            scale[k] = (diagonal - head) / diagonal
            inverse = 1.0 / (head - diagonal)
            for i in range(k + 1, stop):
                matrix[i, k] *= inverse
            for j in range(k + 1, right):
                dot = matrix[k, j]
                for i in range(k + 1, stop):
                    dot += matrix[i, k] * matrix[i, j]
                if dot != 0.0:
                    dot *= scale[k]
                    matrix[k, j] -= dot
                    for i in range(k + 1, stop):
                        matrix[i, j] -= matrix[i, k] * dot
            matrix[k, k] = diagonal
            sign = -sign
        size = abs(matrix[k, k])
        least, largest = min(least, size), max(largest, size)
        if matrix[k, k] < 0.0:
            sign = -sign
    return (least / largest if largest > 0.0 else 0.0), sign


@inner
def solved(reach: Index, c0: int, rows: int, columns: int, matrix: Array, scale: Array, rhs: Array) -> float:
    """Solves with a factored block; the solution stands in rhs[:columns]. Gives its largest entry."""
    for k in range(columns):
        if scale[k] != 0.0:
            stop = min(reach[c0 + k, 0], rows)
            dot = rhs[k]
            for i in range(k + 1, stop):
                dot += matrix[i, k] * rhs[i]
            dot *= scale[k]
            rhs[k] -= dot
            for i in range(k + 1, stop):
                rhs[i] -= matrix[i, k] * dot
    worst = 0.0
    for k in range(columns - 1, -1, -1):
        total = rhs[k]
        for j in range(k + 1, reach[c0 + k, 1]):
            total -= matrix[k, j] * rhs[j]
        rhs[k] = total / matrix[k, k] if matrix[k, k] != 0.0 else 0.0
        worst = worse(worst, rhs[k])
    return worst


@inlined
def factor(plan: Plan, n: int, matrix: Array, scale: Array) -> tuple[float, float]:
    """`factored` of block n."""
    columns = 3 * (plan.first[n + 1, 1] - plan.first[n, 1])
    return factored(plan.reach, 3 * plan.first[n, 1], plan.first[n + 1, 0] - plan.first[n, 0], columns, matrix, scale)


@inlined
def solve(plan: Plan, n: int, matrix: Array, scale: Array, rhs: Array) -> float:
    """`solved` of block n."""
    columns = 3 * (plan.first[n + 1, 1] - plan.first[n, 1])
    rows = plan.first[n + 1, 0] - plan.first[n, 0]
    return solved(plan.reach, 3 * plan.first[n, 1], rows, columns, matrix, scale, rhs)


@inlined
def take_off(plan: Plan, n: int, q: Array, turn: Array, change: Array) -> None:
    """Takes the solution of a block off the bodies it determines."""
    b0 = plan.first[n, 1]
    for i in range(plan.first[n + 1, 1] - b0):
        body = plan.bodies[b0 + i]
        q[body, 0] -= change[3 * i]
        q[body, 1] -= change[3 * i + 1]
        q[body, 2] -= change[3 * i + 2]
        turn[body, 0], turn[body, 1] = math.cos(q[body, 2]), math.sin(q[body, 2])


@inlined
def carried(table: Table, plan: Plan, n: int, t: int, q: Array, turn: Array, motion: Array) -> float:
    """What the motion (P, 3) of bodies that earlier blocks determined adds to the rate of term t in block n."""
    one, two = table.bodies[t, 1], table.bodies[t, 2]
    if plan.home[one, 0] in (n, -1) and plan.home[two, 0] in (n, -1):
        return 0.0
    _, d0, d1, d2, d3, d4, d5 = at(table, t, q, turn)
    return (
        d0 * motion[one, 0] + d1 * motion[one, 1] + d2 * motion[one, 2]
        + d3 * motion[two, 0] + d4 * motion[two, 1] + d5 * motion[two, 2]
    )


@inner
def block_rates(
    table: Table, plan: Plan, n: int, q: Array, turn: Array, v: Array, a: Array, rates: Array, seconds: Array,
    matrix: Array, scale: Array, rhs: Array,
) -> float:
    """Velocities and accelerations of the bodies of a factored block. Gives the largest velocity."""
    r0, b0 = plan.first[n, 0], plan.first[n, 1]
    rows, bodies = plan.first[n + 1, 0] - r0, plan.first[n + 1, 1] - b0
    for i in range(bodies):  # until they are known, only bodies of earlier blocks count as moving
        for k in range(3):
            v[plan.bodies[b0 + i], k] = a[plan.bodies[b0 + i], k] = 0.0
    for i in range(rows):
        m = plan.rows[r0 + i, 0]
        total = 0.0
        for t in range(table.first[m], table.first[m + 1]):
            total += carried(table, plan, n, t, q, turn, v)
        rhs[i] = -total
        if table.target[m] >= 0:
            rhs[i] += rates[table.target[m]]
    fastest = solve(plan, n, matrix, scale, rhs)
    for i in range(bodies):
        body = plan.bodies[b0 + i]
        v[body, 0], v[body, 1], v[body, 2] = rhs[3 * i], rhs[3 * i + 1], rhs[3 * i + 2]
    for i in range(rows):
        m = plan.rows[r0 + i, 0]
        total = 0.0
        for t in range(table.first[m], table.first[m + 1]):
            total += carried(table, plan, n, t, q, turn, a)
            total += bend_at(table, t, q, turn, v)
        rhs[i] = -total
        if table.target[m] >= 0:
            rhs[i] += seconds[table.target[m]]
    solve(plan, n, matrix, scale, rhs)
    for i in range(bodies):
        body = plan.bodies[b0 + i]
        a[body, 0], a[body, 1], a[body, 2] = rhs[3 * i], rhs[3 * i + 1], rhs[3 * i + 2]
    return fastest
