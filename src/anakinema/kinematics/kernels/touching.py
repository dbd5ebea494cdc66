"""How far features of two outlines are from touching: compiled.

A row of a table of features is kind, x, y, ux, uy, size, half; see `anakinema.kinematics.features`. The features of b
are seen from a's axes, in which b's origin lies at `place` and its axes point along `turn` (complex). Of two features
`gap` is how far they are apart along their common normal, and `slack` how far inside both their extents it meets them
(lengths; between arcs the angle times how far their middles are apart, of an arc on a line the angle itself), below
zero: beside an end.
"""

import math

from ...arrays import Array, Index, Mask, Plane
from ...compiling import compiled, inner

LINE, ROUND, CONCAVE = range(3)
NONE = 1e30
"""The gap of features that can't touch."""
FLUSH = 2e-7
"""How far beyond its ends an arc, or a corner, still counts (rad): where faces lie on each other, their corners are at
the end of all the directions that they cover."""


@inner
def apart(a: Array, b: Array, place: complex, turn: complex) -> tuple[float, float]:
    """Gap and slack of a row of a and a row of b."""
    one, two = int(a[0]), int(b[0])
    if one != ROUND and two != ROUND:  # noqa: PLR1714  (compiled)
        return NONE, -NONE
    bx, by = place.real + turn.real * b[1] - turn.imag * b[2], place.imag + turn.imag * b[1] + turn.real * b[2]
    bu, bv = turn.real * b[3] - turn.imag * b[4], turn.imag * b[3] + turn.real * b[4]
    ax, ay, au, av, a_size, a_half = a[1], a[2], a[3], a[4], a[5], a[6]
    b_size, b_half = b[5], b[6]
    if two != ROUND:  # the round one second
        ax, ay, au, av, a_size, a_half, bx, by, bu, bv, b_size, b_half = (
            bx, by, bu, bv, b_size, b_half, ax, ay, au, av, a_size, a_half)
        one, two = two, one
    dx, dy = bx - ax, by - ay
    if one == LINE:
        nx, ny = av, -au
        foot = au * dx + av * dy
        off = abs(math.atan2(nx * bv - ny * bu, -nx * bu - ny * bv))
        slack = min(foot, a_size - foot, b_half - off + FLUSH)
        return nx * dx + ny * dy - b_size, slack
    far = math.hypot(dx, dy)
    if far < 1e-300:
        return NONE, -NONE
    ux, uy = dx / far, dy / far
    off_a = abs(math.atan2(au * uy - av * ux, au * ux + av * uy))
    if one == ROUND:
        if a_size + b_size < 1e-12:
            return NONE, -NONE
        off_b = abs(math.atan2(-bu * uy + bv * ux, -bu * ux - bv * uy))
        return far - a_size - b_size, min(a_half - off_a + FLUSH, b_half - off_b + FLUSH) * far
    if b_size >= a_size - 1e-9:
        return NONE, -NONE
    off_b = abs(math.atan2(bu * uy - bv * ux, bu * ux + bv * uy))
    return a_size - far - b_size, min(a_half - off_a + FLUSH, b_half - off_b + FLUSH) * far


@compiled
def one_apart(a: Array, b: Array, i: int, j: int, place: Plane, turn: Plane, gaps: Array, slacks: Array) -> None:
    """Fills gap and slack (S,) of feature i of a and j of b at relative places (S,)."""
    for s in range(len(place)):
        gaps[s], slacks[s] = apart(a[i], b[j], place[s], turn[s])


@compiled
def touching(a: Array, b: Array, place: complex, turn: complex, near: float, beside: float, found: Index,
             measured: Array) -> int:  # fmt: skip
    """The pairs of features with a gap of at most `near` either way and a slack of at least −`beside`: fills found
    (N, 2) and measured (N, 2: gap, slack) up to their length; how many there are."""
    count = 0
    for i in range(len(a)):
        for j in range(len(b)):
            gap, slack = apart(a[i], b[j], place, turn)
            if gap <= near and gap >= min(slack, 0.0) - near and slack >= -beside:  # beside its end it may lie deeper
                if count < len(found):
                    found[count, 0], found[count, 1] = i, j
                    measured[count, 0], measured[count, 1] = gap, slack
                count += 1
    return count


@inner
def dips(g0: float, g1: float, m0: float, m1: float) -> float:
    """The least of the cubic with values g and slopes m (by the interval) at both ends, looked for at seven places."""
    least = min(g0, g1)
    for k in range(1, 8):
        x = k / 8.0
        x2, x3 = x * x, x * x * x
        value = ((2 * x3 - 3 * x2 + 1) * g0 + (x3 - 2 * x2 + x) * m0 + (3 * x2 - 2 * x3) * g1 + (x3 - x2) * m1)
        least = min(least, value)
    return least


@compiled
def scan(
    a: Array, b: Array, place: Plane, turn: Plane, t: Array, steps: Array, beyond: float, skip: Mask, found: Index,
    room: Array,
) -> int:
    """The intervals between samples in which features may come to touch: fills found (N, 3: interval, i, j) with those
    whose gap goes from at least −`beyond` to less, or dips below zero between, not far beside their extents; in order
    of the features. How many there are. `steps` (S,) is how far anything moves up to a sample from the one before,
    `skip` (A, B) are pairs that are not asked for, `room` (2, S) is to compute in."""
    count, samples = 0, len(place)
    gaps, slacks = room[0], room[1]
    for i in range(len(a)):
        for j in range(len(b)):
            if skip[i, j] or (a[i, 0] != ROUND and b[j, 0] != ROUND):
                continue
            any_near = False
            for s in range(samples):
                gaps[s], slacks[s] = apart(a[i], b[j], place[s], turn[s])
                if gaps[s] >= NONE:
                    break
                if s and (gaps[s] < -beyond or gaps[s] < abs(gaps[s] - gaps[s - 1])):
                    any_near = True
            if not any_near:
                continue
            for s in range(1, samples):
                if gaps[s - 1] < -beyond:
                    # behind it already, perhaps past it only since it came between its ends
                    entered = slacks[s - 1] < 0.0 <= slacks[s]
                    if entered and gaps[s] < -beyond and gaps[s - 1] > slacks[s - 1] - slacks[s]:
                        if count < len(found):
                            found[count, 0], found[count, 1], found[count, 2] = s, i, j
                        count += 1
                    continue
                if max(slacks[s], slacks[s - 1]) < -2.0 * steps[s]:
                    continue  # not even between them do they lie before each other
                if gaps[s] >= -beyond:
                    h = t[s] - t[s - 1]
                    m0 = (gaps[s] - gaps[s - 2]) / (t[s] - t[s - 2]) * h if s > 1 else 0.0
                    m1 = (gaps[s + 1] - gaps[s - 1]) / (t[s + 1] - t[s - 1]) * h if s + 1 < samples else 0.0
                    if s == 1:
                        m0 = 2.0 * (gaps[1] - gaps[0]) - m1
                    if s + 1 == samples:
                        m1 = 2.0 * (gaps[s] - gaps[s - 1]) - m0
                    if not m0 < 0.0 < m1:
                        continue
                    # the cubic is off by what bends otherwise: look closer where it comes near
                    if dips(gaps[s - 1], gaps[s], m0, m1) > 0.3 * (abs(m0) + abs(m1)) - beyond:
                        continue
                if count < len(found):
                    found[count, 0], found[count, 1], found[count, 2] = s, i, j
                count += 1
    return count
