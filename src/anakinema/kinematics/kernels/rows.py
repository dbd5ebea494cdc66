"""Rows for many positions at once: values, rates, Jacobians."""

import math

import numpy as np

from ...arrays import Array, Index
from ...compiling import compiled, inlined, inner
from .tables import Table
from .terms import at, bend_at, turned


@inlined
def nearest(value: float, period: float) -> float:
    """A residual less the whole periods in it."""
    return value - period * math.floor(value / period + 0.5) if period > 0.0 else value


@inlined
def worse(worst: float, value: float) -> float:
    """The larger size; without bound where a value is no number, which `max` would pass over."""
    size = abs(value)
    if size <= worst:
        return worst
    return size if size < np.inf else np.inf


@inner
def values_at(table: Table, q: Array, turn: Array, found: Array) -> None:
    """Row values (M,) at a position q (P, 3), targets not taken off."""
    turned(q, turn)
    for m in range(len(found)):
        total = -table.sizes[m, 0]
        for t in range(table.first[m], table.first[m + 1]):
            total += at(table, t, q, turn)[0]
        found[m] = total


@compiled
def values(table: Table, q: Array, turn: Array, found: Array) -> None:
    """The same (S, M) at many positions q (S, P, 3)."""
    for s in range(len(q)):
        values_at(table, q[s], turn, found[s])


@compiled
def rates(
    table: Table, q: Array, turn: Array, v: Array, a: Array, first: Array, second: Array
) -> None:
    """First and second time derivatives (S, M) of the row values, for velocities and accelerations (S, P, 3)."""
    for s in range(len(q)):
        turned(q[s], turn)
        for m in range(first.shape[1]):
            once, twice = 0.0, 0.0
            for t in range(table.first[m], table.first[m + 1]):
                _, d0, d1, d2, d3, d4, d5 = at(table, t, q[s], turn)
                i, j = table.bodies[t, 1], table.bodies[t, 2]
                once += d0 * v[s, i, 0] + d1 * v[s, i, 1] + d2 * v[s, i, 2]
                once += d3 * v[s, j, 0] + d4 * v[s, j, 1] + d5 * v[s, j, 2]
                twice += d0 * a[s, i, 0] + d1 * a[s, i, 1] + d2 * a[s, i, 2]
                twice += d3 * a[s, j, 0] + d4 * a[s, j, 1] + d5 * a[s, j, 2]
                twice += bend_at(table, t, q[s], turn, v[s])
            first[s, m], second[s, m] = once, twice


@compiled
def jacobian(
    table: Table, place: Index, q: Array, turn: Array, targets: Array, residual: Array, dense: Array
) -> None:
    """Residuals (S, M), dense Jacobians (S, M, columns); `place` (P,): first column of each body, −1 for known ones."""
    for s in range(len(q)):
        turned(q[s], turn)
        for m in range(residual.shape[1]):
            for k in range(dense.shape[2]):
                dense[s, m, k] = 0.0
            total = -table.sizes[m, 0]
            for t in range(table.first[m], table.first[m + 1]):
                e, d0, d1, d2, d3, d4, d5 = at(table, t, q[s], turn)
                total += e
                i, j = place[table.bodies[t, 1]], place[table.bodies[t, 2]]
                if i >= 0:
                    dense[s, m, i] += d0
                    dense[s, m, i + 1] += d1
                    dense[s, m, i + 2] += d2
                if j >= 0:
                    dense[s, m, j] += d3
                    dense[s, m, j + 1] += d4
                    dense[s, m, j + 2] += d5
            if table.target[m] >= 0:
                total -= targets[s, table.target[m]]
            residual[s, m] = nearest(total, table.sizes[m, 1])


@compiled
def slopes(table: Table, q: Array, turn: Array, six: Array) -> None:
    """(T, 6) the derivatives of all terms, times their coefficients, at one position q (P, 3)."""
    turned(q, turn)
    for t in range(len(table.bodies)):
        _, six[t, 0], six[t, 1], six[t, 2], six[t, 3], six[t, 4], six[t, 5] = at(table, t, q, turn)
