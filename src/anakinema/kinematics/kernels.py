"""The compiled inner loops: constraint rows with their analytic derivatives, and motion along a branch, step by step.

Numbers only: what terms, rows and blocks are, and the formulas of the terms, stands in `anakinema.kinematics.tables`.
Each block is solved by an orthogonal factorisation that keeps inside the envelope of its matrix: one way for small
blocks, for redundant rows (solved in the least-squares sense) and for long chains (linear in their length).
"""

import math

import numpy as np

from ..arrays import Array, Index, Mask
from .compiling import compiled, inlined
from .tables import ANGLE, ARRIVED, DISTANCE, DOUBTFUL, POLAR, PROJECTION, RUNNING, STUCK, Plan, Table, Work, X, Y

SETTLED = 1e-14
"""Residual at which Newton's method is content (typical lengths or rad)."""
NEARLY = 3e-12
"""Change of Newton's method so small that the Jacobian before it still gives the rates to eleven digits."""
CLOSE = 0.25
"""Share of a node's interval below which steps follow closely."""
PREDICTED = 6e-3
"""Largest error of a prediction that is accepted (typical lengths or rad)."""
TANGENT = 0.35
"""Largest change of the tangent that the prediction did not foresee, relative to it."""
SINGULAR = 1e-9
"""Least over largest diagonal of the triangular factor at which a position counts as singular."""


@inlined
def _turned(q: Array, turn: Array) -> None:
    """(P, 2) cosine and sine of every body's angle at q (P, 3)."""
    for p in range(len(q)):
        turn[p, 0], turn[p, 1] = math.cos(q[p, 2]), math.sin(q[p, 2])


@inlined
def _turned_of(bodies: Index, q: Array, turn: Array) -> None:
    """The same of some bodies only."""
    for p in bodies:
        turn[p, 0], turn[p, 1] = math.cos(q[p, 2]), math.sin(q[p, 2])


Seven = tuple[float, float, float, float, float, float, float]


@compiled
def _term(
    kind: int, dx: float, dy: float, turned: float, ca: float, sa: float, cb: float, sb: float,
    ax: float, ay: float, bx: float, by: float, constant: float, cosine: float, sine: float, c: float,
) -> Seven:
    """Value of a term times its coefficient c, and its derivatives by x, y, θ of both bodies, from the difference of
    their origins, of their angles (`turned`; for POLAR −θ_a), the cosine and sine of the angles, and its numbers."""
    if kind == ANGLE:
        return c * (turned - constant), 0.0, 0.0, -c, 0.0, 0.0, c
    rax, ray = ca * ax - sa * ay, sa * ax + ca * ay
    rbx, rby = cb * bx - sb * by, sb * bx + cb * by
    dx, dy = dx + rbx - rax, dy + rby - ray
    if kind == X:
        return c * dx, -c, 0.0, c * ray, c, 0.0, -c * rby
    if kind == Y:
        return c * dy, 0.0, -c, -c * rax, 0.0, c, c * rbx
    if kind == PROJECTION:
        ux, uy = c * (ca * cosine - sa * sine), c * (sa * cosine + ca * sine)
        return ux * dx + uy * dy, -ux, -uy, ux * (dy + ray) - uy * (dx + rax), ux, uy, uy * rbx - ux * rby
    if kind == DISTANCE:
        ux, uy = c * dx / constant, c * dy / constant
        return (ux * dx + uy * dy - c * constant) / 2, -ux, -uy, ux * ray - uy * rax, ux, uy, uy * rbx - ux * rby
    square = dx * dx + dy * dy
    ux, uy = -c * dy / square, c * dx / square
    return c * (math.atan2(dy, dx) + turned), -ux, -uy, ux * ray - uy * rax - c, ux, uy, uy * rbx - ux * rby


@inlined
def _at(table: Table, t: int, q: Array, turn: Array) -> Seven:
    """Value of term t at q (P, 3), and its derivatives by x, y, θ of both bodies, times its coefficient."""
    kind, a, b = table.bodies[t, 0], table.bodies[t, 1], table.bodies[t, 2]
    turned = -q[a, 2] if kind == POLAR else q[b, 2] - q[a, 2]
    return _term(
        kind, q[b, 0] - q[a, 0], q[b, 1] - q[a, 1], turned, turn[a, 0], turn[a, 1], turn[b, 0], turn[b, 1],
        table.numbers[t, 0], table.numbers[t, 1], table.numbers[t, 2], table.numbers[t, 3],
        table.numbers[t, 4], table.numbers[t, 5], table.numbers[t, 6], table.numbers[t, 7],
    )


@compiled
def _bend(
    kind: int, dx: float, dy: float, ca: float, sa: float, cb: float, sb: float,
    ax: float, ay: float, bx: float, by: float, constant: float, cosine: float, sine: float, c: float,
    sx: float, sy: float, wa: float, wb: float,
) -> float:
    """γ of a term times its coefficient c; `sx`, `sy` is the difference of the velocities of the bodies' origins, `wa`
    and `wb` their angular velocities, the rest as in `_term`."""
    if kind == ANGLE:
        return 0.0
    rax, ray = ca * ax - sa * ay, sa * ax + ca * ay
    rbx, rby = cb * bx - sb * by, sb * bx + cb * by
    betax, betay = wa * wa * rax - wb * wb * rbx, wa * wa * ray - wb * wb * rby
    if kind in (X, Y):
        return c * (betax if kind == X else betay)
    dx, dy = dx + rbx - rax, dy + rby - ray
    sx, sy = sx - wb * rby + wa * ray, sy + wb * rbx - wa * rax
    if kind == PROJECTION:
        ux, uy = ca * cosine - sa * sine, sa * cosine + ca * sine
        return c * (2 * wa * (ux * sy - uy * sx) + ux * (betax - wa * wa * dx) + uy * (betay - wa * wa * dy))
    if kind == DISTANCE:
        return c * (sx * sx + sy * sy + dx * betax + dy * betay) / constant
    square = dx * dx + dy * dy
    across = (dx * sx + dy * sy) * (dx * sy - dy * sx)
    return c * ((dx * betay - dy * betax) / square - 2 * across / (square * square))


@inlined
def _bend_at(table: Table, t: int, q: Array, turn: Array, v: Array) -> float:
    """γ of term t at positions q and velocities v (P, 3), times its coefficient."""
    a, b = table.bodies[t, 1], table.bodies[t, 2]
    return _bend(
        table.bodies[t, 0], q[b, 0] - q[a, 0], q[b, 1] - q[a, 1], turn[a, 0], turn[a, 1], turn[b, 0], turn[b, 1],
        table.numbers[t, 0], table.numbers[t, 1], table.numbers[t, 2], table.numbers[t, 3],
        table.numbers[t, 4], table.numbers[t, 5], table.numbers[t, 6], table.numbers[t, 7],
        v[b, 0] - v[a, 0], v[b, 1] - v[a, 1], v[a, 2], v[b, 2],
    )


@inlined
def nearest(value: float, period: float) -> float:
    """A residual less the whole periods in it."""
    return value - period * math.floor(value / period + 0.5) if period > 0.0 else value


@compiled
def values(table: Table, q: Array, turn: Array, found: Array) -> None:
    """Row values (S, M) at positions q (S, P, 3), targets not taken off."""
    for s in range(len(q)):
        _turned(q[s], turn)
        for m in range(found.shape[1]):
            total = -table.sizes[m, 0]
            for t in range(table.first[m], table.first[m + 1]):
                total += _at(table, t, q[s], turn)[0]
            found[s, m] = total


@compiled
def rates(
    table: Table, q: Array, turn: Array, v: Array, a: Array, first: Array, second: Array
) -> None:
    """First and second time derivatives (S, M) of the row values, for velocities and accelerations (S, P, 3)."""
    for s in range(len(q)):
        _turned(q[s], turn)
        for m in range(first.shape[1]):
            once, twice = 0.0, 0.0
            for t in range(table.first[m], table.first[m + 1]):
                _, d0, d1, d2, d3, d4, d5 = _at(table, t, q[s], turn)
                i, j = table.bodies[t, 1], table.bodies[t, 2]
                once += d0 * v[s, i, 0] + d1 * v[s, i, 1] + d2 * v[s, i, 2]
                once += d3 * v[s, j, 0] + d4 * v[s, j, 1] + d5 * v[s, j, 2]
                twice += d0 * a[s, i, 0] + d1 * a[s, i, 1] + d2 * a[s, i, 2]
                twice += d3 * a[s, j, 0] + d4 * a[s, j, 1] + d5 * a[s, j, 2]
                twice += _bend_at(table, t, q[s], turn, v[s])
            first[s, m], second[s, m] = once, twice


@compiled
def jacobian(
    table: Table, place: Index, q: Array, turn: Array, targets: Array, residual: Array, dense: Array
) -> None:
    """Residuals (S, M), dense Jacobians (S, M, columns); `place` (P,): first column of each body, −1 for known ones."""
    for s in range(len(q)):
        _turned(q[s], turn)
        for m in range(residual.shape[1]):
            for k in range(dense.shape[2]):
                dense[s, m, k] = 0.0
            total = -table.sizes[m, 0]
            for t in range(table.first[m], table.first[m + 1]):
                e, d0, d1, d2, d3, d4, d5 = _at(table, t, q[s], turn)
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
    _turned(q, turn)
    for t in range(len(table.bodies)):
        _, six[t, 0], six[t, 1], six[t, 2], six[t, 3], six[t, 4], six[t, 5] = _at(table, t, q, turn)


# -- one block -------------------------------------------------------------------------------------------------------


@compiled
def _fill(
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
            e, d0, d1, d2, d3, d4, d5 = _at(table, t, q, turn)
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
        worst = max(worst, abs(total))
    return worst


@compiled
def _factored(reach: Index, c0: int, rows: int, columns: int, matrix: Array, scale: Array) -> tuple[float, float]:
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


@compiled
def _solved(reach: Index, c0: int, rows: int, columns: int, matrix: Array, scale: Array, rhs: Array) -> float:
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
        worst = max(worst, abs(rhs[k]))
    return worst


@inlined
def _factor(plan: Plan, n: int, matrix: Array, scale: Array) -> tuple[float, float]:
    """`_factored` of block n."""
    columns = 3 * (plan.first[n + 1, 1] - plan.first[n, 1])
    return _factored(plan.reach, 3 * plan.first[n, 1], plan.first[n + 1, 0] - plan.first[n, 0], columns, matrix, scale)


@inlined
def _solve(plan: Plan, n: int, matrix: Array, scale: Array, rhs: Array) -> float:
    """`_solved` of block n."""
    columns = 3 * (plan.first[n + 1, 1] - plan.first[n, 1])
    rows = plan.first[n + 1, 0] - plan.first[n, 0]
    return _solved(plan.reach, 3 * plan.first[n, 1], rows, columns, matrix, scale, rhs)


@inlined
def _spread(plan: Plan, n: int, q: Array, turn: Array, change: Array) -> None:
    """Takes the solution of a block off the bodies it determines."""
    b0 = plan.first[n, 1]
    for i in range(plan.first[n + 1, 1] - b0):
        body = plan.bodies[b0 + i]
        q[body, 0] -= change[3 * i]
        q[body, 1] -= change[3 * i + 1]
        q[body, 2] -= change[3 * i + 2]
        turn[body, 0], turn[body, 1] = math.cos(q[body, 2]), math.sin(q[body, 2])


@inlined
def _carried(table: Table, plan: Plan, n: int, t: int, q: Array, turn: Array, motion: Array) -> float:
    """What the motion (P, 3) of bodies that earlier blocks determined adds to the rate of term t in block n."""
    one, two = table.bodies[t, 1], table.bodies[t, 2]
    if plan.home[one, 0] in (n, -1) and plan.home[two, 0] in (n, -1):
        return 0.0
    _, d0, d1, d2, d3, d4, d5 = _at(table, t, q, turn)
    return (
        d0 * motion[one, 0] + d1 * motion[one, 1] + d2 * motion[one, 2]
        + d3 * motion[two, 0] + d4 * motion[two, 1] + d5 * motion[two, 2]
    )


@compiled
def _block_rates(
    table: Table, plan: Plan, n: int, q: Array, turn: Array, v: Array, a: Array, slope: Array,
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
            total += _carried(table, plan, n, t, q, turn, v)
        rhs[i] = -total
        if table.target[m] >= 0:
            rhs[i] += slope[table.target[m]]
    fastest = _solve(plan, n, matrix, scale, rhs)
    for i in range(bodies):
        body = plan.bodies[b0 + i]
        v[body, 0], v[body, 1], v[body, 2] = rhs[3 * i], rhs[3 * i + 1], rhs[3 * i + 2]
    for i in range(rows):
        m = plan.rows[r0 + i, 0]
        total = 0.0
        for t in range(table.first[m], table.first[m + 1]):
            total += _carried(table, plan, n, t, q, turn, a)
            total += _bend_at(table, t, q, turn, v)
        rhs[i] = -total
    _solve(plan, n, matrix, scale, rhs)
    for i in range(bodies):
        body = plan.bodies[b0 + i]
        a[body, 0], a[body, 1], a[body, 2] = rhs[3 * i], rhs[3 * i + 1], rhs[3 * i + 2]
    return fastest


# -- many positions of a known branch --------------------------------------------------------------------------------


@compiled
def evaluate(
    table: Table, plan: Plan, work: Work, t: Array, start: Array, slope: Array, t0: float,
    nodes_t: Array, nodes_q: Array, nodes_v: Array, nodes_a: Array,
    q: Array, v: Array, a: Array, wanted: bool, singular: Mask,
) -> None:
    """Positions, and rates where wanted, (S, P, 3) at times t (S,) of a followed branch: quintic Hermite guess between
    its nodes (K, P, 3), then Newton block by block. Targets are start + slope (t − t0). Fixed bodies stand in q before.
    `singular` (S,) marks positions too near to a change point for the Jacobian to tell the branches apart."""
    matrix, scale, rhs, targets, turn = work.matrix, work.scale, work.rhs, work.targets, work.turn
    k = 0
    if len(t) > 0:
        _turned(q[0], turn)
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
        _turned_of(plan.bodies, q[s], turn)
        for i in range(len(start)):
            targets[i] = start[i] + slope[i] * (t[s] - t0)
        n = 0
        while n < len(plan.first) - 1:
            spread, wild, change = 1.0, False, 0.0
            for _ in range(12):
                worst = _fill(table, plan, n, q[s], turn, targets, matrix, rhs)
                if worst <= SETTLED and not wanted:
                    break
                spread, _sign = _factor(plan, n, matrix, scale)
                if worst <= SETTLED:
                    break
                change = _solve(plan, n, matrix, scale, rhs)
                if close and not change < 1e-5:
                    break
                if not change < 0.1:
                    wild = True
                    break
                _spread(plan, n, q[s], turn, rhs)
                if change < NEARLY:
                    break
            if close and not change < 1e-5:  # not foretold after all: begin this step again from the nodes
                close, n = False, 0
                hermite(plan.bodies, t[s], k, nodes_t, nodes_q, nodes_v, nodes_a, q[s])
                _turned_of(plan.bodies, q[s], turn)
                continue
            if wanted:
                fastest = _block_rates(table, plan, n, q[s], turn, v[s], a[s], slope, matrix, scale, rhs)
                wild = wild or not math.isfinite(fastest)
            singular[s] = singular[s] or wild or not spread > DOUBTFUL
            n += 1


@compiled
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


# -- following a branch ----------------------------------------------------------------------------------------------


@compiled
def settle(
    table: Table, plan: Plan, work: Work, targets: Array, slope: Array, q: Array, v: Array, a: Array, signs: Array
) -> float:
    """Brings positions q (P, 3) that are nearly there onto the rows, with their rates and the sign of each block's
    determinant. Gives the least spread of a block: near zero, q is singular and nothing but q is to be trusted."""
    matrix, scale, rhs, turn = work.matrix, work.scale, work.rhs, work.turn
    _turned(q, turn)
    regular = 1.0
    for n in range(len(plan.first) - 1):
        spread = 0.0
        for attempt in range(5):
            worst = _fill(table, plan, n, q, turn, targets, matrix, rhs)
            spread, signs[n] = _factor(plan, n, matrix, scale)
            if worst <= SETTLED or attempt == 4 or not spread > SINGULAR:
                break
            if not _solve(plan, n, matrix, scale, rhs) < 0.1:
                spread = 0.0
                break
            _spread(plan, n, q, turn, rhs)
        if plan.first[n + 1, 1] > plan.first[n, 1]:
            regular = min(regular, spread)
        if spread > SINGULAR:
            _block_rates(table, plan, n, q, turn, v, a, slope, matrix, scale, rhs)
    return regular


@compiled
def _ahead(
    bodies: Index, h: float, last: int, fresh: int, nodes_t: Array, q: Array, v: Array, a: Array, found: Array
) -> None:
    """Positions a step h ahead of node `last`: the quintic through the last two nodes carried on, or the second-order
    Taylor step where the node before belongs to another stretch (before `fresh`)."""
    if last <= fresh:
        for p in range(q.shape[1]):
            for c in range(3):
                found[p, c] = q[last, p, c] + h * (v[last, p, c] + h / 2 * a[last, p, c])
        return
    hermite(bodies, nodes_t[last] + h, last - 1, nodes_t, q, v, a, found)


@compiled
def advance(
    table: Table, plan: Plan, work: Work, start: Array, slope: Array, t0: float, t1: float,
    longest: float, smallest: float,
    nodes_t: Array, nodes_q: Array, nodes_v: Array, nodes_a: Array, signs: Array,
    last: int, fresh: int, step: float,
) -> tuple[int, int, float]:
    """Follows a branch from node `last`, as far as the node arrays have room: (status, last node, next step). A step is
    taken as long as its prediction holds; a position is accepted only when its tangent carries on the last one, so that
    the mirror configuration is never taken. STUCK: the step fell below `smallest`."""
    matrix, scale, rhs, targets, turn = work.matrix, work.scale, work.rhs, work.targets, work.turn
    q, v, a, now = work.q, work.v, work.a, work.signs
    while nodes_t[last] < t1:
        if last + 1 == len(nodes_t):
            return RUNNING, last, step
        left = t1 - nodes_t[last]
        h = left
        if left >= 1.01 * step:
            h = min(step, left / 2) if left < 2 * step else step
        t = t1 if h == left else nodes_t[last] + h
        _ahead(plan.bodies, h, last, fresh, nodes_t, nodes_q, nodes_v, nodes_a, q)
        _turned(q, turn)
        for i in range(len(start)):
            targets[i] = start[i] + slope[i] * (t - t0)
        stretch, error = 1.0, 0.0
        for n in range(len(plan.first) - 1):
            stretch, gone, now[n] = _corrected(
                table, plan, n, q, turn, v, a, targets, slope, matrix, scale, rhs
            )
            error = max(error, gone)
            if stretch < 1.0:
                break
        if stretch == 1.0 and not _carries_on(plan, h, error, v, a, nodes_v[last], nodes_a[last], now, signs):
            stretch = 0.5
        if stretch < 1.0:
            step = h * stretch
            if step < smallest:
                return STUCK, last, step
            continue
        last += 1
        nodes_t[last] = t
        for p in range(len(q)):
            for c in range(3):
                nodes_q[last, p, c], nodes_v[last, p, c], nodes_a[last, p, c] = q[p, c], v[p, c], a[p, c]
        for n in range(len(signs)):
            signs[n] = now[n]
        step = min(longest, h * min(2.0, 0.9 * (PREDICTED / max(error, 1e-9)) ** 0.2))
    return ARRIVED, last, step


@compiled
def _corrected(
    table: Table, plan: Plan, n: int, q: Array, turn: Array, v: Array, a: Array, targets: Array, slope: Array,
    matrix: Array, scale: Array, rhs: Array,
) -> tuple[float, float, float]:
    """Corrects a block's prediction: (1, or by how much to shorten the step; error of the prediction; sign)."""
    rows = plan.first[n + 1, 0] - plan.first[n, 0]
    columns = 3 * (plan.first[n + 1, 1] - plan.first[n, 1])
    error, size, settled = 0.0, np.inf, False
    for _ in range(6):
        worst = _fill(table, plan, n, q, turn, targets, matrix, rhs)
        spread, sign = _factor(plan, n, matrix, scale)
        if settled or worst <= SETTLED:
            if rows > columns and worst > max(10 * size, 1e-8):
                return 0.5, error, sign  # least squares came to rest without closing the joints
            if columns and not spread > 1e-7:
                return 0.77, error, sign  # too near to a singular position to go on from it
            _block_rates(table, plan, n, q, turn, v, a, slope, matrix, scale, rhs)
            return 1.0, error, sign
        change = _solve(plan, n, matrix, scale, rhs)
        if not (change < 0.5 * size or change < 1e-9):
            return 0.5, error, sign
        error, size = error + change, change
        if error > PREDICTED:
            return max(0.3, 0.9 * (PREDICTED / error) ** 0.25), error, sign
        _spread(plan, n, q, turn, rhs)
        settled = size < 1e-4  # convergence is quadratic: what is left is about 1e-8
    return 0.5, error, 1.0


@compiled
def _carries_on(
    plan: Plan, h: float, error: float, v: Array, a: Array, last_v: Array, last_a: Array, now: Array, signs: Array
) -> bool:
    """Whether a position's tangent is the continuation of the last one's."""
    speed, fast, unforeseen = 0.0, 0.0, 0.0
    for body in plan.bodies:
        for c in range(3):
            fast, speed = max(fast, abs(last_v[body, c])), max(speed, abs(v[body, c]))
            step = v[body, c] - last_v[body, c] - h / 2 * (last_a[body, c] + a[body, c])
            unforeseen = max(unforeseen, abs(step))
    speed += fast
    if unforeseen > TANGENT * speed / 2:
        return False
    for n in range(len(signs)):
        # Crossing a change point must be smooth, or it is a jump to the mirror branch.
        if now[n] * signs[n] < 0.0 and (unforeseen > 0.05 * speed or error > 1e-3):
            return False
    return True
