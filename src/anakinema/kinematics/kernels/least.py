"""The least change of positions that brings rows to wanted values: compiled, linear in the length of a chain.

With A the rows' derivatives, b the wanted changes and D a small give of each row, the change is
x = Aᵀ λ with (A Aᵀ + D) λ = b. It is the shortest of all that satisfy A x = b where D is nearly zero, and stays
finite where rows repeat or contradict each other. The symmetric matrix is factored inside its profile (Cholesky).
"""

import numpy as np

from ...arrays import Array, Index
from ...compiling import compiled, inner


@compiled
def least_change(
    rows: Index, bodies: Index, slopes: Array, give: Array, wanted: Array,
    seen: Index, first: Index, start: Index, matrix: Array, change: Array, force: Array,
) -> bool:
    """Fills `change` (N, 3) and `force` (R,), λ in the place of each row, 0 for those not asked for.

    `rows` (M,) are the rows that count, in an order that keeps neighbours together; `bodies` (R, K) the unknown bodies
    of each row (−1 for none), `slopes` (R, K, 3) its derivatives by them. `seen` (N,), `first`, `start` (M+1,) and
    `matrix` are room to work in. False where `matrix` is too small; then start[M] says how much is needed.
    """
    if not factored(rows, bodies, slopes, give, seen, first, start, matrix):
        return False
    solved(rows, bodies, slopes, wanted, first, start, matrix, change, force)
    return True


@inner
def factored(
    rows: Index, bodies: Index, slopes: Array, give: Array, seen: Index, first: Index, start: Index, matrix: Array
) -> bool:
    """The first half of it: the factor of A Aᵀ + D, on whose diagonal stand the inverses."""
    count = len(rows)
    seen[:] = -1
    start[0] = 0
    for i in range(count):
        low = i
        for k in range(bodies.shape[1]):
            body = bodies[rows[i], k]
            if body >= 0:
                if seen[body] < 0:
                    seen[body] = i
                low = min(low, seen[body])
        first[i] = low
        start[i + 1] = start[i] + i - low + 1
    if start[count] > len(matrix):
        return False
    for i in range(count):
        for j in range(first[i], i + 1):
            total = give[rows[i]] if i == j else 0.0
            for k in range(bodies.shape[1]):
                one = bodies[rows[i], k]
                for m in range(bodies.shape[1]):
                    if one >= 0 and bodies[rows[j], m] == one:
                        for c in range(3):
                            total += slopes[rows[i], k, c] * slopes[rows[j], m, c]
            low = max(first[i], first[j])
            for k in range(low, j):
                total -= matrix[start[i] + k - first[i]] * matrix[start[j] + k - first[j]]
            if i == j:
                matrix[start[i] + i - first[i]] = 1.0 / np.sqrt(max(total, give[rows[i]]))
            else:
                matrix[start[i] + j - first[i]] = total * matrix[start[j] + j - first[j]]
    return True


@inner
def solved(
    rows: Index, bodies: Index, slopes: Array, wanted: Array, first: Index, start: Index, matrix: Array,
    change: Array, force: Array,
) -> None:
    """The second half: `change` and `force` for rows that are factored."""
    count = len(rows)
    force[:] = 0.0
    for i in range(count):
        total = wanted[rows[i]]
        for k in range(first[i], i):
            total -= matrix[start[i] + k - first[i]] * force[rows[k]]
        force[rows[i]] = total * matrix[start[i] + i - first[i]]
    for i in range(count - 1, -1, -1):
        force[rows[i]] *= matrix[start[i] + i - first[i]]
        for k in range(first[i], i):
            force[rows[k]] -= matrix[start[i] + k - first[i]] * force[rows[i]]
    change[:] = 0.0
    for i in range(count):
        for k in range(bodies.shape[1]):
            body = bodies[rows[i], k]
            if body >= 0:
                for c in range(3):
                    change[body, c] += slopes[rows[i], k, c] * force[rows[i]]


@compiled
def by_body(table: Index, first: Index, place: Index, six: Array, bodies: Index, slopes: Array) -> None:
    """Gathers the terms' derivatives (T, 6) row by row and body by body: `bodies` (R, K) and `slopes` (R, K, 3).
    `table` (T, 3) holds kind, a, b of each term, `place` (P,) three times the number of each unknown body, −1 else."""
    for r in range(len(bodies)):
        for k in range(bodies.shape[1]):
            bodies[r, k] = -1
            for c in range(3):
                slopes[r, k, c] = 0.0
        for t in range(first[r], first[r + 1]):
            for side in range(2):
                column = place[table[t, side + 1]]
                if column < 0:
                    continue
                k = 0
                while bodies[r, k] >= 0 and bodies[r, k] != column // 3:
                    k += 1
                bodies[r, k] = column // 3
                for c in range(3):
                    slopes[r, k, c] += six[t, 3 * side + c]
