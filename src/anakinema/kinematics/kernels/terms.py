"""The primitive functions of two bodies' positions, with their derivatives; formulas in `tables`."""

import math

from ...arrays import Array, Index
from ...compiling import inlined, inner
from .tables import ANGLE, DISTANCE, POLAR, PROJECTION, Table, X, Y


@inlined
def turned(q: Array, turn: Array) -> None:
    """(P, 2) cosine and sine of every body's angle at q (P, 3)."""
    for p in range(len(q)):
        turn[p, 0], turn[p, 1] = math.cos(q[p, 2]), math.sin(q[p, 2])


@inlined
def turned_of(bodies: Index, q: Array, turn: Array) -> None:
    """The same of some bodies only."""
    for p in bodies:
        turn[p, 0], turn[p, 1] = math.cos(q[p, 2]), math.sin(q[p, 2])


Three = tuple[float, float, float]
Seven = tuple[float, float, float, float, float, float, float]


@inner
def term(
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


@inner
def through(pieces: Array, first: int, stop: int, start: float, period: float, value: float) -> Three:
    """Value, slope and curvature of a law (pieces `first` to `stop`) at the value of a term."""
    x = value - start
    if period > 0.0:
        x -= period * math.floor(x / period)
    low, high = first, stop - 1
    while low < high:
        middle = (low + high + 1) // 2
        if pieces[middle, 0] <= x:
            low = middle
        else:
            high = middle - 1
    s = max(x - pieces[low, 0], 0.0)  # before its beginning it holds its first value
    found, slope, half = 0.0, 0.0, 0.0
    for power in range(8, 0, -1):
        half = half * s + slope
        slope = slope * s + found
        found = found * s + pieces[low, power]
    bent = 2.0 * half
    if pieces[low, 9] != 0.0:
        turn = pieces[low, 10] * s + pieces[low, 11]
        sine, cosine = pieces[low, 9] * math.sin(turn), pieces[low, 9] * math.cos(turn)
        found += sine
        slope += pieces[low, 10] * cosine
        bent -= pieces[low, 10] * pieces[low, 10] * sine
    return (found, 0.0, 0.0) if x < pieces[first, 0] else (found, slope, bent)


@inner
def placed(
    table: Table, t: int, dx: float, dy: float, turned: float, ca: float, sa: float, cb: float, sb: float
) -> Seven:
    """Value of term t and its derivatives, from the difference of its bodies' places and their angles; see `term`."""
    numbers = table.numbers
    seen = numbers[t, 9] > numbers[t, 8]
    found = term(
        table.bodies[t, 0], dx, dy, turned, ca, sa, cb, sb, numbers[t, 0], numbers[t, 1], numbers[t, 2],
        numbers[t, 3], numbers[t, 4], numbers[t, 5], numbers[t, 6], 1.0 if seen else numbers[t, 7],
    )
    if not seen:
        return found
    e, d0, d1, d2, d3, d4, d5 = found
    value, slope, _ = through(
        table.pieces, int(numbers[t, 8]), int(numbers[t, 9]), numbers[t, 10], numbers[t, 11], e
    )
    c = numbers[t, 7]
    slope *= c
    return c * value, slope * d0, slope * d1, slope * d2, slope * d3, slope * d4, slope * d5


@inlined
def at(table: Table, t: int, q: Array, turn: Array) -> Seven:
    """Value of term t at q (P, 3), and its derivatives by x, y, θ of both bodies, times its coefficient."""
    kind, a, b = table.bodies[t, 0], table.bodies[t, 1], table.bodies[t, 2]
    turned = -q[a, 2] if kind == POLAR else q[b, 2] - q[a, 2]
    return placed(
        table, t, q[b, 0] - q[a, 0], q[b, 1] - q[a, 1], turned, turn[a, 0], turn[a, 1], turn[b, 0], turn[b, 1]
    )


@inner
def bend(
    kind: int, dx: float, dy: float, ca: float, sa: float, cb: float, sb: float,
    ax: float, ay: float, bx: float, by: float, constant: float, cosine: float, sine: float, c: float,
    sx: float, sy: float, wa: float, wb: float,
) -> float:
    """γ of a term times its coefficient c; `sx`, `sy` is the difference of the velocities of the bodies' origins, `wa`
    and `wb` their angular velocities, the rest as in `term`."""
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
def bend_at(table: Table, t: int, q: Array, turn: Array, v: Array) -> float:
    """γ of term t at positions q and velocities v (P, 3), times its coefficient."""
    kind, a, b = table.bodies[t, 0], table.bodies[t, 1], table.bodies[t, 2]
    numbers = table.numbers
    seen = numbers[t, 9] > numbers[t, 8]
    bent = bend(
        kind, q[b, 0] - q[a, 0], q[b, 1] - q[a, 1], turn[a, 0], turn[a, 1], turn[b, 0], turn[b, 1],
        numbers[t, 0], numbers[t, 1], numbers[t, 2], numbers[t, 3],
        numbers[t, 4], numbers[t, 5], numbers[t, 6], 1.0 if seen else numbers[t, 7],
        v[b, 0] - v[a, 0], v[b, 1] - v[a, 1], v[a, 2], v[b, 2],
    )
    if not seen:
        return bent
    turned = -q[a, 2] if kind == POLAR else q[b, 2] - q[a, 2]
    e, d0, d1, d2, d3, d4, d5 = term(
        kind, q[b, 0] - q[a, 0], q[b, 1] - q[a, 1], turned, turn[a, 0], turn[a, 1], turn[b, 0], turn[b, 1],
        numbers[t, 0], numbers[t, 1], numbers[t, 2], numbers[t, 3], numbers[t, 4], numbers[t, 5], numbers[t, 6], 1.0,
    )
    pace = d0 * v[a, 0] + d1 * v[a, 1] + d2 * v[a, 2] + d3 * v[b, 0] + d4 * v[b, 1] + d5 * v[b, 2]
    _, slope, curved = through(
        table.pieces, int(numbers[t, 8]), int(numbers[t, 9]), numbers[t, 10], numbers[t, 11], e
    )
    return numbers[t, 7] * (slope * bent + curved * pace * pace)
