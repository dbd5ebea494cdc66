"""Many positions of a branch that has been followed: a guess between its nodes, then Newton block by block."""

import math

from ...arrays import Array, Index, Mask
from ...compiling import compiled, inner
from .blocks import block_rates, factor, fill, solve, take_off
from .laws import commanded
from .tables import DOUBTFUL, NEARLY, SETTLED, Plan, Table, Workspace
from .terms import turned, turned_of

CLOSE = 0.25
"""Share of a node's interval below which steps follow closely."""


@compiled
def evaluate(
    table: Table, plan: Plan, work: Workspace, t: Array, law: Array, t0: float,
    nodes_t: Array, nodes_q: Array, nodes_v: Array, nodes_a: Array,
    q: Array, v: Array, a: Array, wanted: bool, singular: Mask,
) -> None:
    """Positions, and rates where wanted, (S, P, 3) at times t (S,) of a followed branch: quintic Hermite guess between
    its nodes (K, P, 3), then Newton block by block. `law` is that of the stretch from t0 on. Fixed bodies stand in q
    before. `singular` (S,) marks positions too near to a change point for the Jacobian to tell the branches apart."""
    matrix, scale, rhs, turn = work.matrix, work.scale, work.rhs, work.turn
    targets, rates, seconds = work.targets, work.rates, work.seconds
    k = 0
    if len(t) > 0:
        turned(q[0], turn)
    for s in range(len(t)):
        if k > 0 and t[s] < nodes_t[k]:
            k = 0
        while k < len(nodes_t) - 2 and t[s] >= nodes_t[k + 1]:
            k += 1
        # Where steps follow closely, the last two, which are exact, foretell the next better than the nodes.
        close = wanted and s > 1 and t[s - 2] < t[s - 1] < t[s] and not singular[s - 1] and not singular[s - 2]
        close = close and t[s] - t[s - 1] < CLOSE * (nodes_t[-1] - nodes_t[0]) / len(nodes_t)
        if close:
            hermite(plan.bodies, t[s], s - 2, t, q, v, a, q[s])
        else:
            hermite(plan.bodies, t[s], k, nodes_t, nodes_q, nodes_v, nodes_a, q[s])
        turned_of(plan.bodies, q[s], turn)
        commanded(law, t[s] - t0, targets, rates, seconds)
        n = 0
        while n < len(plan.first) - 1:
            spread, wild, change = 1.0, False, 0.0
            for _ in range(12):
                worst = fill(table, plan, n, q[s], turn, targets, matrix, rhs)
                if worst <= SETTLED and not wanted:
                    break
                spread, _sign = factor(plan, n, matrix, scale)
                if worst <= SETTLED:
                    break
                change = solve(plan, n, matrix, scale, rhs)
                if close and not change < 1e-5:
                    break
                if not change < 0.1:
                    wild = True
                    break
                take_off(plan, n, q[s], turn, rhs)
                if change < NEARLY:
                    break
            if close and not change < 1e-5:  # not foretold after all: begin this step again from the nodes
                close, n = False, 0
                hermite(plan.bodies, t[s], k, nodes_t, nodes_q, nodes_v, nodes_a, q[s])
                turned_of(plan.bodies, q[s], turn)
                continue
            if wanted:
                fastest = block_rates(table, plan, n, q[s], turn, v[s], a[s], rates, seconds, matrix, scale, rhs)
                wild = wild or not math.isfinite(fastest)
            singular[s] = singular[s] or wild or not spread > DOUBTFUL
            n += 1


@inner
def hermite(bodies: Index, t: float, k: int, nodes_t: Array, q: Array, v: Array, a: Array, found: Array) -> None:
    """Quintic Hermite interpolation of some bodies between nodes k and k + 1 of (K, P, 3), into found (P, 3)."""
    if len(nodes_t) == 1:
        for p in bodies:
            for c in range(3):
                found[p, c] = q[0, p, c]
        return
    h = nodes_t[k + 1] - nodes_t[k]
    s = (t - nodes_t[k]) / h if h > 0.0 else 0.0
    s2 = s * s
    s3 = s2 * s
    s4, s5 = s2 * s2, s2 * s3
    q1 = 10 * s3 - 15 * s4 + 6 * s5
    v0, v1 = h * (s - 6 * s3 + 8 * s4 - 3 * s5), h * (-4 * s3 + 7 * s4 - 3 * s5)
    a0, a1 = h * h * (s2 - 3 * s3 + 3 * s4 - s5) / 2, h * h * (s3 - 2 * s4 + s5) / 2
    for p in bodies:
        for c in range(3):
            found[p, c] = (
                (1.0 - q1) * q[k, p, c] + v0 * v[k, p, c] + a0 * a[k, p, c]
                + q1 * q[k + 1, p, c] + v1 * v[k + 1, p, c] + a1 * a[k + 1, p, c]
            )
