"""How far the rows of a sparse matrix are independent of those before them: compiled, linear where rows are local.

Gaussian elimination, row by row in the order given: what the rows kept so far say is taken off each, and where
something is left it is kept, too, with a pivot that is nearly its largest entry, in the column that fewest rows touch,
which keeps rows short (threshold pivoting after H. Markowitz, "The elimination form of the inverse and its application
to linear programming", Management Science 3, 1957; from memory).
"""

import numpy as np

from ...arrays import Array, Index, Mask
from ...compiling import compiled

NOTHING = 1e-14
"""Share of a row's size below which an entry is rounding."""
LARGE = 0.1
"""Share of its largest entry that a row's pivot must have."""


@compiled
def left(
    starts: Index, columns: Index, entries: Array, tolerance: float, counts: Index, owner: Index, pivots: Index,
    first: Index, kept_columns: Index, kept: Array, row: Array, listed: Mask, members: Index, pending: Mask,
    begin: int, end: int, shares: Array,
) -> int:
    """Goes on with rows `begin` to `end`, given as in a sparse matrix by rows (M, N): fills `shares` (M,) with what
    share of each is left, 0 where it is no more than `tolerance`. Gives the row at which it ended, before `end` where
    there is no room to keep another.

    `counts` (N,): how many rows touch a column. `owner` (N,): the kept row whose pivot is in a column, −1 at first;
    `pivots` (M,) the other way round; `pivots[M]` how many are kept. `first` (M + 1,), `kept_columns` and `kept`: the
    kept rows over their pivots. `row`, `listed`, `members` (N,) and `pending` (M,) are room, zero at first."""
    for m in range(begin, end):
        if first[pivots[-1]] + len(row) > len(kept):
            return m
        count, size, stored = 0, 0.0, pivots[-1]
        soonest = stored
        for k in range(starts[m], starts[m + 1]):
            c = columns[k]
            row[c] += entries[k]
            size += entries[k] * entries[k]
            if not listed[c]:
                listed[c] = True
                members[count] = c
                count += 1
                if owner[c] >= 0:
                    pending[owner[c]] = True
                    soonest = min(soonest, owner[c])
        size = np.sqrt(size)
        for s in range(soonest, stored):
            if not pending[s]:
                continue
            pending[s] = False
            times = row[pivots[s]]
            if abs(times) <= NOTHING * size:
                continue
            for k in range(first[s], first[s + 1]):
                c = kept_columns[k]
                row[c] -= times * kept[k]
                if not listed[c]:
                    listed[c] = True
                    members[count] = c
                    count += 1
                    if owner[c] >= 0:
                        pending[owner[c]] = True
        rest, largest = 0.0, 0.0
        for i in range(count):
            c = members[i]
            if owner[c] < 0:
                rest += row[c] * row[c]
                largest = max(largest, abs(row[c]))
        rest = np.sqrt(rest)
        shares[m] = 0.0
        if rest > tolerance * size:
            shares[m] = rest / size
            pivot = -1
            for i in range(count):
                c = members[i]
                if owner[c] < 0 and abs(row[c]) >= LARGE * largest and (pivot < 0 or counts[c] < counts[pivot]):
                    pivot = c
            at = first[stored]
            for i in range(count):
                c = members[i]
                if owner[c] < 0 and abs(row[c]) > NOTHING * size:
                    kept_columns[at] = c
                    kept[at] = row[c] / row[pivot]
                    at += 1
            owner[pivot], pivots[stored] = stored, pivot
            pivots[-1] = stored + 1
            first[stored + 1] = at
        for i in range(count):
            c = members[i]
            row[c] = 0.0
            listed[c] = False
    return end
