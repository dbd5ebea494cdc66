"""Degrees of freedom by rank, and which joints add nothing to it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array, Index, Mask
from ..cancellation import CancellationToken
from ..errors import located
from .assembly import CLOSED, assemble, least_step
from .equations import DENSE_UP_TO, Equations

if TYPE_CHECKING:
    from scipy import sparse

RANK_TOLERANCE = 1e-8
MOST_ENTRIES = 40_000_000
"""Largest matrix whose rank is looked at (entries)."""

DOUBTFUL = 1e-5
"""Share of a row that may be there by rounding only, near a place at which the joints are singular: such places are
known to the root of the rounding."""
STEPS_BACK, BACK, SLIGHT = 40, 1e-2, 1e-12
"""Steps back to a place near which another was looked at; share of the way at which it is reached; damping of rows that
repeat each other."""
COUNTS = 1e-6
"""Share of the largest from which a row counts among those that make up another."""
AT_ONCE = 64
"""Rows between two questions whether the work is still wanted."""


@dataclass(frozen=True)
class Mobility:
    """`dof`: freedoms of the assembly with its drivers off. `redundant`: joints (in document order) of which at least
    one row says nothing that earlier joints don't say already. `count`: the Grübler count, 3 for each moving part less
    the rows."""

    dof: int
    redundant: tuple[str, ...]
    count: int
    because: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    """For each redundant joint those that say together what it says; none where there are too many to tell."""


def mobility(
    constraints: Equations, positions: Array, work: CancellationToken | None = None, newest: Sequence[str] = ()
) -> Mobility:
    """Mobility at the most regular of the positions (S, P, 3): that of the highest rank.

    A dead point or change point lowers the rank for that position only, so several positions of the motion are looked
    at; one where rounding may have raised it counts only where there is no other. Of joints that repeat each other
    those are redundant that come last; the `newest` come after all others, in their order.
    """
    count = constraints.columns - constraints.rows
    if constraints.rows == 0 or constraints.columns == 0:
        return Mobility(constraints.columns, (), count)
    best, dependent, place = (-1, -1), np.zeros(0, dtype=bool), positions[0]
    rank = {owner: k for k, owner in enumerate(newest)}
    order = np.argsort([rank.get(owner, -1) for owner in constraints.owners], kind="stable")
    for q in positions:
        shares = _shares(constraints, q, work, order)
        found = _told(shares)
        if found > best:
            best, dependent, place = found, shares == 0.0, q
        if best == (True, min(constraints.rows, constraints.columns)):
            break
    redundant = dict.fromkeys(owner for owner, extra in zip(constraints.owners, dependent, strict=True) if extra)
    because = _because(constraints, place, dependent) if redundant and constraints.columns <= DENSE_UP_TO else {}
    return Mobility(constraints.columns - best[1], tuple(redundant), count, because)


def _because(constraints: Equations, q: Array, dependent: Mask) -> dict[str, tuple[str, ...]]:
    """For each owner of dependent rows the others whose rows make them up."""
    _, jac = constraints.linear(q[None], np.zeros((1, constraints.targets)))
    independent = np.flatnonzero(~dependent)
    found: dict[str, dict[str, None]] = {}
    for row in np.flatnonzero(dependent).tolist():
        owner = constraints.owners[row]
        shares = np.linalg.lstsq(jac[0][independent].T, jac[0][row], rcond=1e-9)[0]
        for k in np.flatnonzero(np.abs(shares) > COUNTS * np.abs(shares).max(initial=0.0)).tolist():
            other = constraints.owners[independent[k]]
            if other != owner:
                found.setdefault(owner, {})[other] = None
    return {owner: tuple(others) for owner, others in found.items()}


def generic_position(
    constraints: Equations, q: Array, watched: Equations | None = None, work: CancellationToken | None = None
) -> Array:
    """A position near an assembly q (P, 3) at which the rank of the rows `watched` (default: the constraints) is that
    of almost all positions: q itself where nothing near it has a higher rank, for at a dead point or change point rows
    seem to say less than they do."""
    watched = constraints if watched is None else watched
    best, highest = q, _told(_shares(watched, q, work))
    random = np.random.default_rng(7)  # fixed: the same file always means the same
    for size in (0.03, 0.1, 0.03, 0.1, 0.2):
        if highest == (True, min(watched.rows, watched.columns)):
            break
        moved = q.copy()
        moved[constraints.unknown] += random.uniform(-size, size, (len(constraints.unknown), 3))
        near = assemble(constraints, moved, np.zeros(1), restarts=False, work=work)
        if near.open or (rank := _told(_shares(watched, near.q, work))) <= highest:
            continue
        if _leads_back(constraints, near.q, q, work):
            best, highest = near.q, rank
    return best


def _leads_back(constraints: Equations, near: Array, q: Array, work: CancellationToken | None) -> bool:
    """Whether a place lies on a branch through q (both (P, 3)): going from it toward q, but no way that the rows don't
    allow, leads there. Close to a place where links lie in line there may be another way to close, on which nothing
    moves."""
    at, whole = near, float(np.abs(near - q).max())
    none = np.zeros(constraints.targets)
    left = whole
    for _ in range(STEPS_BACK):
        to_go = (q - at)[constraints.unknown].ravel()
        _, jac = constraints.jacobian(at, none)
        ahead = at.copy()
        constraints.spread(ahead, to_go - least_step(jac, jac @ to_go, SLIGHT))
        closed = assemble(constraints, ahead, none, restarts=False, work=work)
        at = closed.q
        before, left = left, float(np.abs(at - q).max())
        if closed.open or left > 0.9 * before:
            break
        if left < BACK * whole:
            return True
    return left < BACK * whole + CLOSED


def _told(shares: Array) -> tuple[bool, int]:
    """Whether the rank is told without doubt, and the rank."""
    return not bool(((shares > 0.0) & (shares < DOUBTFUL)).any()), int(np.count_nonzero(shares))


def _shares(constraints: Equations, q: Array, work: CancellationToken | None, order: Index | None = None) -> Array:
    """(rows,) the `independence` of the rows, taken in an order."""
    refuse_enormous(constraints.rows, constraints.columns)
    matrix = constraints.sparse(q, np.zeros(constraints.targets))[1]
    if order is None:
        return independence(matrix, work)
    shares = np.empty(constraints.rows)
    shares[order] = independence(matrix[order], work)
    return shares


def independence(matrix: "Array | sparse.csr_matrix", work: CancellationToken | None = None) -> Array:
    """(rows,) what share of each row is left when what the rows before it say is taken off; 0 where nothing is."""
    from scipy import sparse

    from .kernels import rank

    work = work or CancellationToken()
    by_rows = sparse.csr_matrix(matrix)
    rows, columns = by_rows.shape
    starts, index = by_rows.indptr.astype(np.int64), by_rows.indices.astype(np.int64)
    counts = np.bincount(index, minlength=columns)
    owner, pivots, first = np.full(columns, -1), np.zeros(rows + 1, dtype=np.int64), np.zeros(rows + 1, dtype=np.int64)
    row, members = np.zeros(columns), np.zeros(columns, dtype=np.int64)
    listed, pending = np.zeros(columns, dtype=np.bool_), np.zeros(rows, dtype=np.bool_)
    kept_columns, kept = np.zeros(0, dtype=np.int64), np.zeros(0)
    shares, done = np.zeros(rows), 0
    while done < rows:
        work.check()
        if first[pivots[-1]] + columns > len(kept):
            more = len(kept) + AT_ONCE * columns
            kept_columns, kept = np.resize(kept_columns, more), np.resize(kept, more)
        done = rank.left(
            starts, index, by_rows.data, RANK_TOLERANCE, counts, owner, pivots, first, kept_columns, kept,
            row, listed, members, pending, done, min(done + AT_ONCE, rows), shares,
        )
    return shares


def refuse_enormous(rows: int, columns: int) -> None:
    """Raises `DocumentError` where the rank of so many rows would take more room and time than is sensible."""
    if rows * columns > MOST_ENTRIES:
        text = (
            f"{columns // 3} moving parts with motions left undriven, or with redundant joints, are more than can be "
            "judged together; drive every motion, or split the mechanism"
        )
        raise located("parts", text)
