"""Putting the parts together: from rough poses to the nearest positions in which every joint closes."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array
from ..cancellation import CancellationToken
from .equations import DENSE_UP_TO, Equations

if TYPE_CHECKING:
    from scipy import sparse

CLOSED = 1e-10
"""Largest residual of an assembled mechanism, in typical lengths or radians."""
RESTARTS = 24
FEWEST, MOST_WORK = 4, 1.2e7
"""Restarts where one is dear, and the cubed unknowns that all of them may come to."""
HOPELESS = 20
"""Steps of a restart after which it must have come nearer to closing."""

FAR, FETCHES = 1e3, 10
"""How far joints gape (typical lengths) where a part was put down absurdly far away; how often it is brought back."""


@dataclass(frozen=True)
class Assembly:
    """Positions q (P, 3), and the residual that each owner's rows keep there (empty when all joints close)."""

    q: Array
    open: dict[str, float]


def assemble(
    equations: Equations, rough: Array, targets: Array, *, restarts: bool = True, work: CancellationToken | None = None
) -> Assembly:
    """The assembly nearest to the rough positions (P, 3).

    Damped least-squares steps (Levenberg–Marquardt) from the rough positions; when they end in a position in which the
    joints stay open, `restarts` from turned poses, of which the nearest closed assembly is taken.
    """
    if equations.rows == 0 or equations.columns == 0:
        return Assembly(rough, open_rows(equations, rough, targets))
    work = work or CancellationToken()
    rough = _fetched(equations, rough, targets)
    q, residual = _descend(equations, rough, targets, work)
    if residual > CLOSED and restarts:
        q = _restarted(equations, rough, targets, q, residual, work)
    return Assembly(q, open_rows(equations, q, targets))


def _fetched(equations: Equations, rough: Array, targets: Array) -> Array:
    """Rough positions (P, 3) from which parts that were put down absurdly far away are brought back, none of them
    turned: from afar the joints seem to ask for turns, by lever arms that there are not."""
    q = rough
    across = np.arange(equations.columns) % 3 != 2
    for _ in range(FETCHES):
        value, jac = equations.jacobian(q, targets)
        if not np.abs(value).max() > FAR:
            break
        step = np.zeros(equations.columns)
        step[across] = least_step(jac[:, across], value, 1e-9)
        q = q.copy()
        equations.spread(q, -step)
    return q


def _restarted(
    equations: Equations, rough: Array, targets: Array, q: Array, residual: float, work: CancellationToken
) -> Array:
    if equations.columns > 2 * DENSE_UP_TO:
        return q
    attempts = max(FEWEST, min(RESTARTS, int(MOST_WORK / equations.columns**3)))
    random = np.random.default_rng(12345)  # fixed: the same file always assembles the same way
    best, nearest = q, np.inf
    for attempt in range(attempts):
        start = rough.copy()
        turns = random.uniform(-1, 1, len(equations.unknown)) * np.pi * (attempt + 1) / attempts
        start[equations.unknown, 2] += turns
        trial, left = _descend(equations, start, targets, work, hopeless=HOPELESS)
        if left <= CLOSED:
            distance = float(np.linalg.norm((trial - rough)[equations.unknown]))
            if distance < nearest:
                best, nearest = trial, distance
        elif nearest == np.inf and left < residual:
            best, residual = trial, left
    return best


def _descend(
    equations: Equations, start: Array, targets: Array, work: CancellationToken, hopeless: int = 0
) -> tuple[Array, float]:
    """Levenberg–Marquardt from a start; the position reached and its largest residual. Given up when over so many steps
    (`hopeless`, 0: never) the sum of squares has hardly become less."""
    q, damping = start.copy(), 1e-2
    value, jac = equations.jacobian(q, targets)
    before = np.inf
    for number in range(200):
        work.check()
        size = float(np.abs(value).max())
        if size <= 1e-14:
            break
        if hopeless and number % hopeless == hopeless - 1:
            now = float(value @ value)
            if size > CLOSED and now > 0.95 * before:
                break
            before = now
        step = least_step(jac, value, damping)
        # No more than about 40° or a link length at once, so that the nearest assembly is found; across, as far as the
        # joints gape, for a part that was put down far away.
        ways = np.abs(step).reshape(-1, 3)
        limit = max(float(ways[:, 2].max()) / 0.7, float(ways[:, :2].max()) / max(0.7, size))
        if limit > 1.0:
            step /= limit
        trial = q.copy()
        equations.spread(trial, -step)
        new_value, new_jac = equations.jacobian(trial, targets)
        if new_value @ new_value < value @ value:
            stalled = size < CLOSED and np.abs(new_value).max() > 0.5 * size
            q, value, jac, damping = trial, new_value, new_jac, max(damping * 0.1, 1e-13)
            if stalled:
                break
        else:
            damping *= 10
            if damping > 1e8:
                break
    return q, float(np.abs(value).max())


def least_step(jac: "Array | sparse.csr_matrix", value: Array, damping: float) -> Array:
    """The damped least-squares solution (columns,) of jac · step = value (rows,)."""
    if isinstance(jac, np.ndarray):
        columns = jac.shape[1]
        stacked = np.zeros((value.size + columns, columns + 1))
        stacked[: value.size, :-1], stacked[: value.size, -1] = jac, value
        np.fill_diagonal(stacked[value.size :], np.sqrt(damping))
        triangle = np.asarray(np.linalg.qr(stacked, mode="r"))  # of full rank, thanks to the damping
        step: Array = np.linalg.solve(triangle[:columns, :-1], triangle[:columns, -1])
        return step
    from scipy import sparse
    from scipy.sparse.linalg import splu

    normal = (jac.T @ jac + damping * sparse.identity(jac.shape[1])).tocsc()
    solved: Array = splu(normal).solve(jac.T @ value)
    return solved


def open_rows(equations: Equations, q: Array, targets: Array) -> dict[str, float]:
    """The residual that each owner's rows keep at positions q (P, 3), where they don't hold."""
    if equations.rows == 0:
        return {}
    left: dict[str, float] = {}
    for owner, size in zip(equations.owners, np.abs(equations.residual(q, targets)), strict=True):
        if size > CLOSED:
            left[owner] = max(left.get(owner, 0.0), float(size))
    return left
