"""Linear systems of one sparse pattern, solved for many values."""

import numpy as np
from scipy import sparse
from scipy.linalg import solve_banded
from scipy.sparse.csgraph import reverse_cuthill_mckee
from scipy.sparse.linalg import splu

from ..arrays import Array, Index

NARROW = 60
"""Widest band on either side of the diagonal with which a system is solved as a band."""


class Pattern:
    """A sparse system of one pattern, solved for many values; unknowns in an order that keeps it narrow: as a band
    where that is narrow enough."""

    def __init__(self, row: Index, column: Index, size: int):
        pattern = sparse.csr_matrix((np.ones(row.size), (row, column)), shape=(size, size))
        self.order = reverse_cuthill_mckee(pattern, symmetric_mode=True)
        place = np.argsort(self.order)
        row, column = place[row], place[column]
        self.size, self.width = size, int(np.abs(row - column).max(initial=0))
        if self.width <= NARROW:
            self.entry = (self.width + row - column) * size + column
        else:
            keys, self.entry = np.unique(column * size + row, return_inverse=True)
            self.rows = (keys % size).astype(np.int32)
            self.starts = np.searchsorted(keys // size, np.arange(size + 1)).astype(np.int32)

    def solve(self, values: Array, wanted: Array) -> Array | None:
        """The solution for values in the places given, equal places added up; None where it is singular."""
        found = self._in_band if self.width <= NARROW else self._in_general
        try:
            ordered = found(values, wanted[self.order])
        except (RuntimeError, np.linalg.LinAlgError):  # exactly singular
            return None
        solved = np.empty(self.size)
        solved[self.order] = ordered
        return solved if np.isfinite(solved).all() else None

    def _in_band(self, values: Array, wanted: Array) -> Array:
        wide = 2 * self.width + 1
        band = np.bincount(self.entry, values, minlength=wide * self.size).reshape(wide, self.size)
        found: Array = solve_banded((self.width, self.width), band, wanted, overwrite_b=True, check_finite=False)
        return found

    def _in_general(self, values: Array, wanted: Array) -> Array:
        summed = np.bincount(self.entry, values, minlength=self.rows.size)
        matrix = sparse.csc_matrix((summed, self.rows, self.starts), shape=(self.size, self.size))
        found: Array = splu(matrix, permc_spec="NATURAL").solve(wanted)
        return found
