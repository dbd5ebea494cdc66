"""Degrees of freedom by rank, and which joints add nothing to it."""

from dataclasses import dataclass

import numpy as np

from ..arrays import Array, Mask
from ..errors import located
from ..work import Work
from .assembly import assemble
from .equations import Equations

RANK_TOLERANCE = 1e-8
MOST_ENTRIES = 40_000_000
"""Largest matrix whose rank is looked at (entries)."""

MANY = 30
"""Rows from which it is worth asking first whether all are independent."""
LARGE, WIDE, AT_ONCE = 300, 0.2, 64
"""Columns from which their order counts, what share of them a row may span then, and rows between two questions whether
the work is still wanted."""


@dataclass(frozen=True)
class Mobility:
    """`dof`: freedoms of the assembly with its drivers off. `redundant`: joints (in document order) of which at least
    one row says nothing that earlier joints don't say already. `count`: the Grübler count, 3 for each moving part less
    the rows."""

    dof: int
    redundant: tuple[str, ...]
    count: int


def mobility(constraints: Equations, positions: Array, work: Work | None = None) -> Mobility:
    """Mobility at the most regular of the positions (S, P, 3): that of the highest rank.

    A dead point or change point lowers the rank for that position only, so several positions of the motion are looked
    at.
    """
    count = constraints.columns - constraints.rows
    if constraints.rows == 0 or constraints.columns == 0:
        return Mobility(constraints.columns, (), count)
    refuse_enormous(constraints.rows, constraints.columns)
    _, jacobians = constraints.linear(positions, np.zeros((len(positions), constraints.targets)))
    best, dependent = -1, np.zeros(0, dtype=bool)
    for jac in jacobians:
        adds = independent_rows(jac, work)
        if adds.sum() > best:
            best, dependent = int(adds.sum()), ~adds
        if best == min(jac.shape):
            break
    redundant = dict.fromkeys(owner for owner, extra in zip(constraints.owners, dependent, strict=True) if extra)
    return Mobility(constraints.columns - best, tuple(redundant), count)


def generic_position(
    constraints: Equations, q: Array, watched: Equations | None = None, work: Work | None = None
) -> Array:
    """A position near an assembly q (P, 3) at which the rank of the rows `watched` (default: the constraints) is that
    of almost all positions: q itself where nothing near it has a higher rank, for at a dead point or change point rows
    seem to say less than they do."""
    watched = constraints if watched is None else watched
    best, highest = q, _rank(watched, q, work)
    random = np.random.default_rng(7)  # fixed: the same file always means the same
    for size in (0.03, 0.1, 0.03, 0.1, 0.2):
        if highest == min(watched.rows, watched.columns):
            break
        moved = q.copy()
        moved[constraints.unknown] += random.uniform(-size, size, (len(constraints.unknown), 3))
        near = assemble(constraints, moved, np.zeros(1), restarts=False, work=work)
        if not near.open and (rank := _rank(watched, near.q, work)) > highest:
            best, highest = near.q, rank
    return best


def _rank(constraints: Equations, q: Array, work: Work | None) -> int:
    return constraints.columns - mobility(constraints, q[None], work).dof


def independent_rows(matrix: Array, work: Work | None = None, first: int | None = None) -> Mask:
    """(rows,) whether each row is independent of the rows before it; what shares no column is looked at by itself.
    So many of the `first` rows (default: all) are probably independent, which one factorisation can tell."""
    from scipy import sparse
    from scipy.sparse.csgraph import connected_components

    rows = matrix.shape[0]
    first = rows if first is None else first
    row, column = np.nonzero(matrix)
    graph = sparse.coo_matrix((np.ones(row.size), (row, rows + column)), shape=(sum(matrix.shape),) * 2)
    _, label = connected_components(graph, directed=False)
    adds = np.zeros(rows, dtype=bool)
    order = np.argsort(label[:rows], kind="stable")
    columns_of = np.argsort(label[rows:], kind="stable")
    row_cuts, column_cuts = label[:rows][order], label[rows:][columns_of]
    for part in np.unique(label[row]):
        chosen = order[slice(*np.searchsorted(row_cuts, (part, part + 1)))]
        inside = columns_of[slice(*np.searchsorted(column_cuts, (part, part + 1)))]
        adds[chosen] = _independent(matrix[np.ix_(chosen, inside)], int((chosen < first).sum()), work or Work())
    return adds


def _independent(matrix: Array, first: int, work: Work) -> Mask:
    """The same: by rotations where the matrix is large and narrow, else by modified Gram–Schmidt, done twice; where the
    first rows are independent, in what they leave free."""
    rows, columns = matrix.shape
    if columns > LARGE:
        narrow = _in_band(matrix, work)
        if narrow is not None:
            return narrow
    adds = np.zeros(rows, dtype=bool)
    sizes, done = np.linalg.norm(matrix, axis=1), 0
    if MANY < first <= columns and (sizes[:first] > 0).all():
        free = _left_free(matrix[:first] / sizes[:first, None], first < rows, work)
        if free is not None:
            adds[:first], done = True, first
            matrix = matrix[first:] @ free
    basis = np.empty((min(matrix.shape), matrix.shape[1]))
    used = 0
    for i, row in enumerate(matrix, done):
        if i % 16 == 0:
            work.check()
        if used == len(basis):
            break
        if sizes[i] == 0:
            continue
        rest = row - basis[:used].T @ (basis[:used] @ row)
        rest -= basis[:used].T @ (basis[:used] @ rest)
        left = np.linalg.norm(rest)
        if left > RANK_TOLERANCE * sizes[i]:
            basis[used] = rest / left
            used += 1
            adds[i] = True
    return adds


def _in_band(matrix: Array, work: Work) -> Mask | None:
    """The same of a matrix whose columns can be put in an order in which rows are short; None where they can't."""
    from scipy import sparse
    from scipy.sparse.csgraph import reverse_cuthill_mckee

    from .kernels import rank

    by_rows = sparse.csr_matrix(matrix)
    pattern = sparse.csr_matrix((np.ones(by_rows.nnz), by_rows.indices, by_rows.indptr), by_rows.shape)
    order = reverse_cuthill_mckee((pattern.T @ pattern).tocsr(), symmetric_mode=True)
    columns, starts = np.argsort(order)[by_rows.indices], by_rows.indptr.astype(np.int64)
    full = np.diff(starts) > 0
    widths = np.maximum.reduceat(columns, starts[:-1][full]) - np.minimum.reduceat(columns, starts[:-1][full])
    wide = int(widths.max(initial=0)) + 1
    if wide > WIDE * len(order):
        return None
    adds = np.zeros(len(matrix), dtype=np.bool_)
    triangle, filled = np.zeros((len(order), wide)), np.zeros(len(order), dtype=np.bool_)
    row = np.zeros(len(order) + wide)
    for begin in range(0, len(matrix), AT_ONCE):
        work.check()
        end = min(begin + AT_ONCE, len(matrix))
        rank.independent(starts, columns, by_rows.data, RANK_TOLERANCE, triangle, filled, row, begin, end, adds)
    return adds


def _left_free(matrix: Array, wanted: bool, work: Work) -> Array | None:
    """(columns, freedoms) a basis of what rows of size 1 leave free, of no freedoms where it isn't wanted; None where
    they may depend on each other."""
    from scipy.linalg import qr

    work.check()
    rows, columns = matrix.shape
    if wanted:
        q, r = qr(matrix.T, overwrite_a=True, check_finite=False)
    else:
        q, r = np.empty((columns, rows)), qr(matrix.T, overwrite_a=True, mode="r", check_finite=False)[0]
    free: Array = q[:, rows:]
    return free if (np.abs(np.diagonal(r)) > 100 * RANK_TOLERANCE).all() else None


def refuse_enormous(rows: int, columns: int) -> None:
    """Raises `DocumentError` where the rank of so many rows would take more room and time than is sensible."""
    if rows * columns > MOST_ENTRIES:
        text = (
            f"{columns // 3} moving parts with motions left undriven, or with redundant joints, are more than can be "
            "judged together; drive every motion, or split the mechanism"
        )
        raise located("parts", text)
