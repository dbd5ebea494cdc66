"""Freedoms that no driver moves follow with the least movement: rates, closing and evaluation, compiled.

A body's movement is that of its middle, and its turn times its reach; bodies that make up a rigid one share its
movement. In these coordinates y (per body: dx, dy of the middle, reach × dθ, over the root of how many share it) the
least rate that the rows allow is y = Aᵀ (A Aᵀ)⁻¹ b, and the least correction likewise.
"""

from typing import NamedTuple

import numpy as np

from ...arrays import Array, Index
from ...compiling import compiled, inlined
from .branch import hermite
from .laws import commanded
from .least import by_body, factored, solved
from .rows import nearest, slopes, values_at, worse
from .tables import POLAR, Table
from .terms import placed

GIVE = 1e-10
"""Give of a row, so that rows may repeat each other; one refinement takes its effect away."""
SHORT = 1e-3
"""Share of the time between two nodes over which rates are differences."""
NEAR_SINGULAR = 1e4
"""How much less than the firmest a row resists where it says nearly nothing: it repeats others, or the place is
singular."""
CLOSED = 1e-13
"""Residual at which positions are on the rows (typical lengths or rad)."""


class LeastNormTables(NamedTuple):
    """Which rows hold, in an order that keeps neighbours together (M,), the number of each unknown body's columns
    (P, −1 for a known one), the bodies (N,), each one's middle in its own axes, its reach and with how many it shares
    its movement (N, 4), and room to work in."""

    rows: Index
    place: Index
    unknown: Index
    body: Array
    six: Array
    bodies: Index
    slopes: Array
    give: Array
    wanted: Array
    rest: Array
    seen: Index
    first: Index
    start: Index
    matrix: Array
    change: Array
    force: Array
    turn: Array
    value: Array
    near: Array


@inlined
def _least(gear: LeastNormTables) -> float:
    """Fills `change` (N, 3) with the least y that does to the rows what is `wanted`; gives its size squared."""
    factored(gear.rows, gear.bodies, gear.slopes, gear.give, gear.seen, gear.first, gear.start, gear.matrix)
    solved(
        gear.rows, gear.bodies, gear.slopes, gear.wanted,
        gear.first, gear.start, gear.matrix, gear.change, gear.force,
    )
    for n in range(len(gear.unknown)):  # kept, while what the give has left open is made good
        for c in range(3):
            gear.near[n, c] = gear.change[n, c]
    for r in range(len(gear.bodies)):
        total = gear.wanted[r]
        for k in range(gear.bodies.shape[1]):
            if gear.bodies[r, k] >= 0:
                for c in range(3):
                    total -= gear.slopes[r, k, c] * gear.change[gear.bodies[r, k], c]
        gear.rest[r] = total
    solved(
        gear.rows, gear.bodies, gear.slopes, gear.rest,
        gear.first, gear.start, gear.matrix, gear.change, gear.force,
    )
    size = 0.0
    for n in range(len(gear.unknown)):
        for c in range(3):
            gear.change[n, c] += gear.near[n, c]
            size += gear.change[n, c] * gear.change[n, c]
    return size


@inlined
def _near_singular(gear: LeastNormTables) -> int:
    """How many rows say nearly nothing beside the others, by the last factor."""
    least, count = np.inf, 0
    for i in range(len(gear.rows)):  # on the diagonal stand inverses
        least = min(least, gear.matrix[gear.start[i + 1] - 1])
    for i in range(len(gear.rows)):
        if gear.matrix[gear.start[i + 1] - 1] > NEAR_SINGULAR * least:
            count += 1
    return count


@inlined
def _derived(table: Table, gear: LeastNormTables, q: Array) -> None:
    """The rows' derivatives by y at q (P, 3)."""
    slopes(table, q, gear.turn, gear.six)
    by_body(table.bodies, table.first, gear.place, gear.six, gear.bodies, gear.slopes)
    for r in range(len(gear.bodies)):
        for k in range(gear.bodies.shape[1]):
            n = gear.bodies[r, k]
            if n >= 0:
                p = gear.unknown[n]
                rx = gear.turn[p, 0] * gear.body[n, 0] - gear.turn[p, 1] * gear.body[n, 1]
                ry = gear.turn[p, 1] * gear.body[n, 0] + gear.turn[p, 0] * gear.body[n, 1]
                gear.slopes[r, k, 2] += gear.slopes[r, k, 0] * ry - gear.slopes[r, k, 1] * rx
                gear.slopes[r, k, 2] /= gear.body[n, 2]
                for c in range(3):
                    gear.slopes[r, k, c] *= np.sqrt(gear.body[n, 3])


@inlined
def _added(gear: LeastNormTables, scale: float, found: Array) -> None:
    """Adds `scale` times the change y to found (P, 3), as x, y, θ; the turns are those of the last derivatives."""
    for n in range(len(gear.unknown)):
        p = gear.unknown[n]
        rx = gear.turn[p, 0] * gear.body[n, 0] - gear.turn[p, 1] * gear.body[n, 1]
        ry = gear.turn[p, 1] * gear.body[n, 0] + gear.turn[p, 0] * gear.body[n, 1]
        share = scale * np.sqrt(gear.body[n, 3])
        turned = gear.change[n, 2] / gear.body[n, 2]
        found[p, 0] += share * (gear.change[n, 0] + turned * ry)
        found[p, 1] += share * (gear.change[n, 1] - turned * rx)
        found[p, 2] += share * turned


@compiled
def rate(table: Table, gear: LeastNormTables, slope: Array, q: Array, v: Array) -> float:
    """The least velocities v (P, 3) at q with which the rows follow targets of rate `slope` (D,); gives their size,
    squared, in y."""
    _derived(table, gear, q)
    for r in range(len(gear.bodies)):
        gear.wanted[r] = slope[table.target[r]] if table.target[r] >= 0 else 0.0
    size = _least(gear)
    for p in gear.unknown:
        v[p, 0], v[p, 1], v[p, 2] = 0.0, 0.0, 0.0
    _added(gear, 1.0, v)
    return size


@compiled
def rate_beside(table: Table, gear: LeastNormTables, slope: Array, q: Array, v: Array) -> float:
    """The same beside known bodies that move as v (P, 3) has it; fills v of the others."""
    _derived(table, gear, q)
    for r in range(len(gear.bodies)):
        total = slope[table.target[r]] if table.target[r] >= 0 else 0.0
        for i in range(table.first[r], table.first[r + 1]):
            for side in range(2):
                body = table.bodies[i, side + 1]
                if gear.place[body] < 0:
                    for c in range(3):
                        total -= gear.six[i, 3 * side + c] * v[body, c]
        gear.wanted[r] = total
    size = _least(gear)
    for p in gear.unknown:
        v[p, 0], v[p, 1], v[p, 2] = 0.0, 0.0, 0.0
    _added(gear, 1.0, v)
    return size


@compiled
def step(
    table: Table,
    gear: LeastNormTables,
    law: Array,
    t0: float,
    t: float,
    ahead: float,
    stages: Array,
    turn: float,
    exact: float,
    q: Array,
    rates: Array,
    at: Array,
    targets: Array,
    paces: Array,
    seconds: Array,
) -> tuple[float, float]:
    """A step of the differential equation of the least rates, from q (P, 3) at a time t to `ahead`, along a law from t0
    on. `stages` (8, 8) holds for each stage the share of the step, then how much of each earlier rate goes into it; in
    the last row, how far the step is off. `rates` (7, P, 3) has the first rate already; it gets the others, and in the
    end in its first place that at `at` (P, 3), where the step leads.

    Gives how far the step is off, and the size of the rate there, squared in y. The first is below zero, and nothing
    else is to be used, where a part turns further than `turn`, where a rate has no bound, or where rows don't close."""
    h, off = ahead - t, 0.0
    for s in range(1, 7):
        for p in range(len(q)):
            for c in range(3):
                total = 0.0
                for r in range(s):
                    total += stages[s, 1 + r] * rates[r, p, c]
                at[p, c] = q[p, c] + h * total
            if not abs(at[p, 2] - q[p, 2]) < turn:
                return -1.0, 0.0
        commanded(law, t + stages[s, 0] * h - t0, targets, paces, seconds)
        if not rate(table, gear, paces, at, rates[s]) < np.inf:
            return -1.0, 0.0
    for p in range(len(q)):
        for c in range(3):
            total = 0.0
            for r in range(7):
                total += stages[7, 1 + r] * rates[r, p, c]
            off = worse(off, h * total)
    if off > exact:
        return off, 0.0
    commanded(law, ahead - t0, targets, paces, seconds)
    if close(table, gear, targets, at) < 0.0:
        return -1.0, 0.0
    return off, rate(table, gear, paces, at, rates[0])


@compiled
def close(table: Table, gear: LeastNormTables, targets: Array, q: Array) -> float:
    """Brings q (P, 3) onto the rows by the least correction, in place. Gives how far it moved in y, or −1 where the
    rows don't close from here."""
    moved, before = 0.0, np.inf
    for _ in range(12):
        values_at(table, q, gear.turn, gear.value)
        worst = 0.0
        for r in range(len(gear.bodies)):
            residual = gear.value[r]
            if table.target[r] >= 0:
                residual -= targets[table.target[r]]
            residual = nearest(residual, table.sizes[r, 1])
            gear.wanted[r] = -residual
            worst = worse(worst, residual)
        if worst <= CLOSED or (worst < 1e-11 and worst > 0.5 * before):
            return moved
        if not worst < 2.0 * before or not moved < 1.0:
            return -1.0
        before = worst
        _derived(table, gear, q)
        size = np.sqrt(_least(gear))
        if not size < 1.0:
            return -1.0
        moved += size
        _added(gear, 1.0, q)
    return -1.0


@compiled
def evaluate(
    table: Table, gear: LeastNormTables, t: Array, law: Array, t0: float,
    nodes_t: Array, nodes_q: Array, nodes_v: Array, nodes_a: Array,
    q: Array, v: Array, a: Array, wanted: bool, targets: Array, rates: Array, seconds: Array,
    low: Array, high: Array, near_singular: Index,
) -> None:
    """Positions, and rates where wanted, (S, P, 3) at times t (S,) between the nodes (K, P, 3) of a followed path: the
    curve through the nodes, closed onto the rows; its rates are differences along it, put right where rows command.
    `soft` (S,): how many rows said nearly nothing there, 0 where there was nothing to be closed."""
    k = 0
    for s in range(len(t)):
        if k > 0 and t[s] < nodes_t[k]:
            k = 0
        while k < len(nodes_t) - 2 and t[s] >= nodes_t[k + 1]:
            k += 1
        moved = _on_curve(
            table, gear, t[s], law, t0, k, nodes_t, nodes_q, nodes_v, nodes_a, targets, rates, seconds, q[s]
        )
        near_singular[s] = _near_singular(gear) if moved > 0.0 else 0
        if not wanted:
            continue
        h = SHORT * (nodes_t[k + 1] - nodes_t[k])
        at = min(max(t[s], nodes_t[k] + h), nodes_t[k + 1] - h)
        for p in range(len(low)):
            for c in range(3):
                low[p, c], high[p, c], v[s, p, c] = q[s, p, c], q[s, p, c], q[s, p, c]
        _on_curve(table, gear, at - h, law, t0, k, nodes_t, nodes_q, nodes_v, nodes_a, targets, rates, seconds, low)
        _on_curve(table, gear, at + h, law, t0, k, nodes_t, nodes_q, nodes_v, nodes_a, targets, rates, seconds, high)
        if at != t[s]:
            _on_curve(table, gear, at, law, t0, k, nodes_t, nodes_q, nodes_v, nodes_a, targets, rates, seconds, v[s])
        for p in range(len(low)):
            for c in range(3):
                a[s, p, c] = (high[p, c] - 2.0 * v[s, p, c] + low[p, c]) / (h * h)
                v[s, p, c] = (high[p, c] - low[p, c]) / (2.0 * h) + (t[s] - at) * a[s, p, c]
        _derived(table, gear, q[s])
        commanded(law, t[s] - t0, targets, rates, seconds)
        for r in range(len(gear.bodies)):
            total = rates[table.target[r]] if table.target[r] >= 0 else 0.0
            for i in range(table.first[r], table.first[r + 1]):
                for side in range(2):
                    body = table.bodies[i, side + 1]
                    for c in range(3):
                        total -= gear.six[i, 3 * side + c] * v[s, body, c]
            gear.wanted[r] = total
        _least(gear)
        near_singular[s] = _near_singular(gear)
        _added(gear, 1.0, v[s])


@inlined
def _on_curve(
    table: Table, gear: LeastNormTables, t: float, law: Array, t0: float, k: int,
    nodes_t: Array, nodes_q: Array, nodes_v: Array, nodes_a: Array, targets: Array, rates: Array,
    seconds: Array, found: Array,
) -> float:
    """The curve through the nodes at a time, on the rows; where they don't close (the end of the way), as it is. Gives
    how far it moved, or −1."""
    hermite(gear.unknown, t, k, nodes_t, nodes_q, nodes_v, nodes_a, found)
    commanded(law, t - t0, targets, rates, seconds)
    moved = close(table, gear, targets, found)
    if moved < 0.0:
        hermite(gear.unknown, t, k, nodes_t, nodes_q, nodes_v, nodes_a, found)
    return moved


@compiled
def curvature(table: Table, q: Array, force: Array, near: Array, found: Array) -> None:
    """(T, 6, 6) the second derivatives of every term by x, y, θ of its two bodies, times its row's force (M,): central
    differences of the first ones, which are exact. `near` (6,) is room to work in."""
    small = 1e-6
    for r in range(len(force)):
        for t in range(table.first[r], table.first[r + 1]):
            kind, a, b = table.bodies[t, 0], table.bodies[t, 1], table.bodies[t, 2]
            for j in range(6):
                for way in range(2):
                    for c in range(3):
                        near[c], near[3 + c] = q[a, c], q[b, c]
                    near[j] += small if way == 0 else -small
                    ca, sa, cb, sb = np.cos(near[2]), np.sin(near[2]), np.cos(near[5]), np.sin(near[5])
                    turned = -near[2] if kind == POLAR else near[5] - near[2]
                    _, d0, d1, d2, d3, d4, d5 = placed(
                        table, t, near[3] - near[0], near[4] - near[1], turned, ca, sa, cb, sb
                    )
                    sign = (force[r] if way == 0 else -force[r]) / (2.0 * small)
                    if way == 0:
                        for i in range(6):
                            found[t, i, j] = 0.0
                    found[t, 0, j] += sign * d0
                    found[t, 1, j] += sign * d1
                    found[t, 2, j] += sign * d2
                    found[t, 3, j] += sign * d3
                    found[t, 4, j] += sign * d4
                    found[t, 5, j] += sign * d5
