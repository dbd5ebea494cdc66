"""Which rows of a narrow matrix are independent of those before them: compiled, linear where rows are local.

Each row is rotated into a triangle, column by column (Givens rotations), until it finds an empty place there, or
nothing of it is left (A. George, M. T. Heath, "Solution of sparse linear least squares problems using Givens
rotations", Linear Algebra Appl. 34, 1980; from memory). In whatever order rows come, the triangle is no wider than the
widest row.
"""

import numpy as np

from ...arrays import Array, Index, Mask
from ...compiling import compiled

NOTHING = 1e-13
"""Share of a row's size below which an entry is rounding."""


@compiled
def independent(
    starts: Index, columns: Index, entries: Array, tolerance: float, triangle: Array, filled: Mask, row: Array,
    begin: int, end: int, adds: Mask,
) -> None:
    """Goes on with rows `begin` to `end`, given as in a sparse matrix by rows: fills `adds` (M,) with whether more than
    a share `tolerance` of a row is left. `triangle` (N, W) holds each of its rows from the diagonal on, `filled` (N,)
    whether it is there; both, and the room `row` (N + W,), are zero at first."""
    wide = triangle.shape[1]
    for m in range(begin, end):
        size, low, high = 0.0, len(triangle), -1
        for k in range(starts[m], starts[m + 1]):
            row[columns[k]] += entries[k]
            size += entries[k] * entries[k]
            low, high = min(low, columns[k]), max(high, columns[k])
        size = np.sqrt(size)
        adds[m] = False
        j = low
        while j <= high:
            if abs(row[j]) > NOTHING * size:
                if not filled[j]:
                    left = 0.0
                    for k in range(j, high + 1):
                        left += row[k] * row[k]
                    if np.sqrt(left) > tolerance * size:
                        adds[m] = filled[j] = True
                        for k in range(wide):
                            triangle[j, k] = row[j + k]
                    break
                length = np.hypot(triangle[j, 0], row[j])
                cos, sin = triangle[j, 0] / length, row[j] / length
                for k in range(wide):
                    kept, taken = triangle[j, k], row[j + k]
                    triangle[j, k], row[j + k] = cos * kept + sin * taken, cos * taken - sin * kept
                high = min(max(high, j + wide - 1), len(triangle) - 1)
            row[j] = 0.0
            j += 1
        for k in range(low, high + 1):
            row[k] = 0.0
