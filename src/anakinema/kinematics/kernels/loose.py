"""Freedoms that no driver moves follow with the least movement: rates, closing and evaluation, compiled.

A body's movement is that of its middle, and its turn times its reach. In these coordinates y (per body: dx, dy of the
middle, reach × dθ) the least rate that the rows allow is y = Aᵀ (A Aᵀ)⁻¹ b, and the least correction likewise.
"""

from typing import NamedTuple

import numpy as np

from ...arrays import Array, Index
from .branch import hermite
from .compiling import compiled, inlined
from .least import by_body, least_change
from .rows import nearest, slopes
from .rows import values as row_values
from .tables import Table

GIVE = 1e-10
"""Give of a row, so that rows may repeat each other; one refinement takes its effect away."""
CLOSED = 1e-13
"""Residual at which positions are on the rows (typical lengths or rad)."""


class Gear(NamedTuple):
    """Which rows hold, in an order that keeps neighbours together (M,), the number of each unknown body's columns
    (P, −1 for a known one), the bodies (N,), each one's middle and reach in its own axes (N, 3), and room to work
    in."""

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
def _least(gear: Gear) -> float:
    """Fills `change` (N, 3) with the least y that does to the rows what is `wanted`; gives its size squared."""
    least_change(
        gear.rows, gear.bodies, gear.slopes, gear.give, gear.wanted,
        gear.seen, gear.first, gear.start, gear.matrix, gear.change, gear.force,
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
    least_change(
        gear.rows, gear.bodies, gear.slopes, gear.give, gear.rest,
        gear.seen, gear.first, gear.start, gear.matrix, gear.change, gear.force,
    )
    size = 0.0
    for n in range(len(gear.unknown)):
        for c in range(3):
            gear.change[n, c] += gear.near[n, c]
            size += gear.change[n, c] * gear.change[n, c]
    return size


@inlined
def _derived(table: Table, gear: Gear, q: Array) -> None:
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


@inlined
def _added(gear: Gear, scale: float, found: Array) -> None:
    """Adds `scale` times the change y to found (P, 3), as x, y, θ; the turns are those of the last derivatives."""
    for n in range(len(gear.unknown)):
        p = gear.unknown[n]
        rx = gear.turn[p, 0] * gear.body[n, 0] - gear.turn[p, 1] * gear.body[n, 1]
        ry = gear.turn[p, 1] * gear.body[n, 0] + gear.turn[p, 0] * gear.body[n, 1]
        turned = gear.change[n, 2] / gear.body[n, 2]
        found[p, 0] += scale * (gear.change[n, 0] + turned * ry)
        found[p, 1] += scale * (gear.change[n, 1] - turned * rx)
        found[p, 2] += scale * turned


@compiled
def rate(table: Table, gear: Gear, slope: Array, q: Array, v: Array) -> float:
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
def close(table: Table, gear: Gear, targets: Array, q: Array) -> float:
    """Brings q (P, 3) onto the rows by the least correction, in place. Gives how far it moved in y, or −1 where the
    rows don't close from here."""
    moved, before = 0.0, np.inf
    for _ in range(12):
        row_values(table, q.reshape(1, len(q), 3), gear.turn, gear.value)
        worst = 0.0
        for r in range(len(gear.bodies)):
            residual = gear.value[0, r]
            if table.target[r] >= 0:
                residual -= targets[table.target[r]]
            residual = nearest(residual, table.sizes[r, 1])
            gear.wanted[r] = -residual
            worst = max(worst, abs(residual))
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
def bend(
    table: Table, gear: Gear, start: Array, slope: Array, since: float, h: float, q: Array, v: Array, a: Array,
    low: Array, high: Array, targets: Array, low_v: Array, high_v: Array,
) -> bool:
    """The accelerations a (P, 3) at a moment `since` the targets began at `start`: half the difference of the
    velocities a little (h) before and after, both on the rows. False, and a is left, where that can't be had."""
    for way in range(2):
        near, near_v = (low, low_v) if way == 0 else (high, high_v)
        sign = -1.0 if way == 0 else 1.0
        for p in range(len(q)):
            for c in range(3):
                near[p, c] = q[p, c] + sign * h * v[p, c]
        for d in range(len(start)):
            targets[d] = start[d] + slope[d] * (since + sign * h)
        if close(table, gear, targets, near) < 0.0:
            return False
        rate(table, gear, slope, near, near_v)
    for p in gear.unknown:
        for c in range(3):
            a[p, c] = (high_v[p, c] - low_v[p, c]) / (2.0 * h)
    return True


@compiled
def evaluate(
    table: Table, gear: Gear, t: Array, start: Array, slope: Array, t0: float, h: float,
    nodes_t: Array, nodes_q: Array, nodes_v: Array, nodes_a: Array,
    q: Array, v: Array, a: Array, wanted: bool,
    targets: Array, low: Array, high: Array, low_v: Array, high_v: Array,
) -> None:
    """Positions, and rates where wanted, (S, P, 3) at times t (S,) between the nodes (K, P, 3) of a followed path."""
    k = 0
    for s in range(len(t)):
        if k > 0 and t[s] < nodes_t[k]:
            k = 0
        while k < len(nodes_t) - 2 and t[s] >= nodes_t[k + 1]:
            k += 1
        hermite(gear.unknown, t[s], k, nodes_t, nodes_q, nodes_v, nodes_a, q[s])
        for d in range(len(start)):
            targets[d] = start[d] + slope[d] * (t[s] - t0)
        for p in range(len(low)):
            for c in range(3):
                low[p, c] = q[s, p, c]
        if close(table, gear, targets, low) >= 0.0:  # else the end of the way is near: the nodes tell best
            for p in gear.unknown:
                for c in range(3):
                    q[s, p, c] = low[p, c]
        if wanted:
            rate(table, gear, slope, q[s], v[s])
            for p in gear.unknown:
                for c in range(3):
                    a[s, p, c] = 0.0
            bend(table, gear, start, slope, t[s] - t0, h, q[s], v[s], a[s], low, high, targets, low_v, high_v)
