"""How deep two outlines overlap: the shortest move that parts them, and its greatest over the motion.

The moves v of the first part at which features touch form lines and arcs (the convolution of the outlines): for two
rounds v = −w + (ρ₁ + ρ₂) n, for a round before a line v = foot − center + ρ n. The shortest move that parts the
outlines ends on one of them along its normal, or where two of them meet, and is the first of these that leaves no
overlap. (D. Halperin and others on Minkowski sums by convolution; attribution from memory.)

A move that parts them in the middle of an interval, lengthened until it does so all through it, bounds the depth in it.
"""

import numpy as np

from ...arrays import Array
from ...compiling import compiled, inner
from .gaps import TAU, bounded, can_meet, far_apart, off
from .overlap import overlap
from .search import DONE, PAUSED, Six, nearest, worth
from .series import pose_at, relative, swayed
from .tables import (
    ANGLE_SLACK,
    CENTER_X,
    CENTER_Y,
    CX,
    CY,
    KIND,
    LINE,
    ONE,
    ORDER,
    RADIUS,
    SIZE,
    START_X,
    START_Y,
    TWO,
    MotionTrack,
    OutlineTable,
    Room,
)  # fmt: skip
from .trees import MOST_SEEN, branched, nodes_apart, out, under

WAYS = 24
"""Directions in which a first move is tried."""
LEAST_TRIED, MOST_TRIED, MOST_WORK = 16, 400, 200_000
"""Moves that are tried at most for one position: fewer, the more edges each takes; beyond, that is told likewise."""
MOST_CROSSED = 700
"""Curves of touching that are met with each other; of more, the shortest move may be missed, and that is told."""
MORE = 1.3
"""A move is lengthened by so much more than what it lacks, for the normal turns within the interval."""
FOLLOWED = 0.04
"""Half width of intervals (of a stretch) in which the way apart is followed as it moves along."""
NARROW = 1e-9


@inner
def _past(one: OutlineTable, two: OutlineTable, place: complex, turn: complex) -> complex:
    """A move of the first part that brings it past the second, as whole outlines (circles for their arcs)."""
    best, found = np.inf, 0j
    for k in range(WAYS):
        way = np.exp(1j * TAU * k / WAYS)
        front, back = -np.inf, np.inf
        for m in range(len(two.edges)):
            edge = two.edges[m]
            z = complex(edge[CENTER_X], edge[CENTER_Y]) if edge[RADIUS] > 0.0 else complex(edge[START_X], edge[START_Y])
            front = max(front, (way.conjugate() * z).real + edge[RADIUS])
        for m in range(len(one.edges)):
            edge = one.edges[m]
            z = complex(edge[CENTER_X], edge[CENTER_Y]) if edge[RADIUS] > 0.0 else complex(edge[START_X], edge[START_Y])
            back = min(back, (way.conjugate() * (place + turn * z)).real - edge[RADIUS])
        if front - back < best:
            best, found = front - back, (front - back) * way
    return found


@inner
def _curve(
    curves: Array, count: int, z: complex, size: float, one: float, two: float, round_: float, i: int, j: int
) -> int:
    if count < len(curves):
        curve = curves[count]
        curve[0], curve[1], curve[2], curve[3], curve[4], curve[5] = round_, z.real, z.imag, size, one, two
        curve[6], curve[7] = i, j
    return count + 1


@inner
def _touching(
    first: Array, second: Array, place: complex, turn: complex, curves: Array, count: int, i: int, j: int
) -> int:
    """Adds the moves of the first part at which two features touch: lines (start, length, direction) and arcs
    (center, signed radius, middle and half range of the normal's angle)."""
    angle = np.angle(turn)
    c = place + turn * complex(first[CX], first[CY])
    d = complex(second[CX], second[CY])
    if second[KIND] == LINE:
        along = complex(second[ONE], second[TWO])
        normal = -1j * along
        if off(np.angle(-normal) - angle, first) > ANGLE_SLACK:
            return count
        return _curve(curves, count, d - c + first[SIZE] * normal, second[SIZE], second[ONE], second[TWO], 0.0, i, j)
    if first[KIND] == LINE:
        along = turn * complex(first[ONE], first[TWO])
        outward = 1j * along  # of the second: opposite to that of the first
        if off(np.angle(outward), second) > ANGLE_SLACK:
            return count
        z = d + second[SIZE] * outward - c  # the line is gone along backwards as its point of contact moves on
        return _curve(curves, count, z, first[SIZE], -along.real, -along.imag, 0.0, i, j)
    both = first[SIZE] + second[SIZE]
    turned = first[ONE] + angle + np.pi - second[ONE]
    turned = (turned + np.pi) % TAU - np.pi
    for shift in (-TAU, 0.0, TAU):
        low = max(-second[TWO], turned + shift - first[TWO])
        high = min(second[TWO], turned + shift + first[TWO])
        if high - low >= -ANGLE_SLACK:
            half = max((high - low) / 2.0, 0.0)
            count = _curve(curves, count, d - c, both, second[ONE] + (low + high) / 2.0, half, 1.0, i, j)
    return count


@inner
def _escape(escapes: Array, count: int, v: complex, way: complex, gain: float, i: float, j: float) -> int:
    if count < len(escapes):
        escape = escapes[count]
        escape[0], escape[1], escape[2], escape[3], escape[4] = abs(v), v.real, v.imag, way.real, way.imag
        escape[5], escape[6], escape[7] = gain, i, j
    return count + 1


@inner
def _straight(curve: Array, most: float, escapes: Array, count: int) -> int:
    """The moves along the normal that end on a curve."""
    z = complex(curve[1], curve[2])
    if curve[0] == 0.0:
        along = complex(curve[4], curve[5])
        x = -(along.conjugate() * z).real
        if not -1e-9 * curve[3] <= x <= curve[3] * (1.0 + 1e-9):
            return count
        v = z + x * along
        normal = -1j * along
        if (normal.conjugate() * v).real >= 0.0 and abs(v) < most:
            count = _escape(escapes, count, v, normal, 1.0, curve[6], curve[7])
        return count
    size = abs(z)
    if size < 1e-12 * abs(curve[3]) or size == 0.0:
        for k in range(5):  # every normal is as good as another
            normal = np.exp(1j * (curve[4] + (k - 2) / 2.0 * curve[5]))
            v = z + curve[3] * normal
            if (normal.conjugate() * v).real >= 0.0 and abs(v) < most:
                count = _escape(escapes, count, v, normal, 1.0, curve[6], curve[7])
        return count
    for way in (-1.0, 1.0):
        normal = way * z / size
        missed = abs((np.angle(normal) - curve[4] + np.pi) % TAU - np.pi) - curve[5]
        v = z + curve[3] * normal
        if missed <= 1e-9 and (normal.conjugate() * v).real >= 0.0 and abs(v) < most:
            count = _escape(escapes, count, v, normal, 1.0, curve[6], curve[7])
    return count


@inner
def _normal_on(curve: Array, v: complex) -> tuple[bool, complex]:
    """Whether a move on a curve's carrier lies on the curve, and the normal there."""
    z = complex(curve[1], curve[2])
    if curve[0] == 0.0:
        along = complex(curve[4], curve[5])
        x = (along.conjugate() * (v - z)).real
        return -1e-9 * curve[3] <= x <= curve[3] * (1.0 + 1e-9), -1j * along
    if curve[3] == 0.0:
        return False, 0j
    normal = (v - z) / curve[3]
    missed = abs((np.angle(normal) - curve[4] + np.pi) % TAU - np.pi) - curve[5]
    return missed <= 1e-9, normal


@inner
def _corner(one: Array, two: Array, v: complex, most: float, escapes: Array, count: int) -> int:
    """A move that ends where two curves meet, if no shorter one along either leads out there: it lies between both
    normals."""
    if not abs(v) < most:
        return count
    on_one, n = _normal_on(one, v)
    on_two, m = _normal_on(two, v)
    cross = (n.conjugate() * m).imag
    if not (on_one and on_two) or abs(cross) < 1e-9:
        return count
    first, second = (v.conjugate() * m).imag / cross, (n.conjugate() * v).imag / cross
    if first < -1e-9 * abs(v) or second < -1e-9 * abs(v):
        return count
    way = (n + m) / abs(n + m)
    gain = max(min((way.conjugate() * n).real, (way.conjugate() * m).real), 1e-3)
    return _escape(escapes, count, v, way, gain, one[6], one[7])


@inner
def _meeting(one: Array, two: Array, most: float, escapes: Array, count: int) -> int:
    """The moves at which two curves meet."""
    z, y = complex(one[1], one[2]), complex(two[1], two[2])
    if one[0] == 0.0 and two[0] == 0.0:
        d, e = complex(one[4], one[5]), complex(two[4], two[5])
        cross = (d.conjugate() * e).imag
        if abs(cross) < 1e-12:
            return count
        return _corner(one, two, z + ((y - z).conjugate() * e).imag / cross * d, most, escapes, count)
    if one[0] == 0.0 or two[0] == 0.0:
        line, bend = (one, two) if one[0] == 0.0 else (two, one)
        start, d = complex(line[1], line[2]), complex(line[4], line[5])
        rest = d.conjugate() * (complex(bend[1], bend[2]) - start)
        under = bend[3] * bend[3] - rest.imag * rest.imag
        if under <= 0.0:
            return count
        half = np.sqrt(under)
        count = _corner(one, two, start + (rest.real - half) * d, most, escapes, count)
        return _corner(one, two, start + (rest.real + half) * d, most, escapes, count)
    far = abs(y - z)
    if far < 1e-12 * (abs(one[3]) + abs(two[3])) or far == 0.0:
        return count
    u = (y - z) / far
    along = (far * far + one[3] * one[3] - two[3] * two[3]) / (2.0 * far)
    under = one[3] * one[3] - along * along
    if under <= 0.0:
        return count
    half = np.sqrt(under)
    count = _corner(one, two, z + (along - 1j * half) * u, most, escapes, count)
    return _corner(one, two, z + (along + 1j * half) * u, most, escapes, count)


@inner
def _first_free(
    one: OutlineTable, two: OutlineTable, place: complex, turn: complex, count: int, room: Room, found: Array
) -> tuple[bool, bool]:
    """Of the escapes, the shortest that leaves no overlap goes to `found`; whether there is one, and whether all could
    be looked at."""
    escapes = room.escapes
    whole = count <= len(escapes)
    count = min(count, len(escapes))
    most = max(LEAST_TRIED, min(MOST_TRIED, MOST_WORK // (len(one.edges) + len(two.edges))))
    for tried in range(count):
        if tried >= most:
            return False, False
        k = 0
        for m in range(1, count):
            if escapes[m, 0] < escapes[k, 0]:
                k = m
        if not escapes[k, 0] < found[0]:
            return False, whole
        v = complex(escapes[k, 1], escapes[k, 2])
        if not overlap(one, two, place + v, turn, room):
            for m in range(8):
                found[m] = escapes[k, m]
            return True, whole
        escapes[k, 0] = np.inf
    return False, whole


@inner
def deepest_here(one: OutlineTable, two: OutlineTable, place: complex, turn: complex, room: Room, found: Array) -> bool:
    """Fills `found` (8) with the shortest move that parts the outlines: its length, the move, the direction in which
    to go on, what is gained on the way, and the two features (−1: none). Length 0 where they don't overlap. False where
    shorter ones may have been missed."""
    found[:] = 0.0
    found[6] = found[7] = -1.0
    if not overlap(one, two, place, turn, room):
        return True
    past = _past(one, two, place, turn)
    found[0], found[1], found[2] = abs(past), past.real, past.imag
    way = past / abs(past)
    found[3], found[4], found[5] = way.real, way.imag, 1.0
    curves, visits = room.curves, room.visits
    count = 0
    visits[0, 0], visits[0, 1] = 0, 0
    top, seen = 1, 0
    while top > 0 and count <= len(curves) and seen < MOST_SEEN:
        top -= 1
        seen += 1
        i, j = visits[top, 0], visits[top, 1]
        if nodes_apart(one, i, two, j, place, turn) > found[0]:
            continue
        more = branched(one, i, two, j, visits, top)
        if more >= 0:
            top = more
            continue
        (k0, k1), (n0, n1) = under(one, i), under(two, j)
        for k in range(k0, k1):
            for n in range(n0, n1):
                first, second = one.features[k], two.features[n]
                if can_meet(first, second) and far_apart(first, second, place, turn) <= found[0]:
                    count = _touching(first, second, place, turn, curves, count, k, n)
    whole = count <= len(curves) and top == 0
    count = min(count, len(curves))
    straight = 0
    for k in range(count):
        straight = _straight(curves[k], found[0], room.escapes, straight)
    _, looked = _first_free(one, two, place, turn, straight, room, found)
    whole = whole and looked
    near = 0
    for k in range(count):  # those that come nearer than what was found, to the front
        z = complex(curves[k, 1], curves[k, 2])
        if curves[k, 0] == 0.0:
            along = complex(curves[k, 4], curves[k, 5])
            x = min(max(-(along.conjugate() * z).real, 0.0), curves[k, 3])
            nearer = abs(z + x * along) < found[0]
        else:
            nearer = abs(abs(z) - abs(curves[k, 3])) < found[0]
        if nearer:
            for m in range(8):
                curves[near, m] = curves[k, m]
            near += 1
    if near > MOST_CROSSED:
        return False
    corners = 0
    for k in range(near):
        for n in range(k):
            corners = _meeting(curves[k], curves[n], found[0], room.escapes, corners)
    _, looked = _first_free(one, two, place, turn, corners, room, found)
    return whole and looked


@inner
def _shift(moving: np.ndarray, v: complex, drift: complex) -> None:
    """Moves the first part by v + drift u, as seen from both parts."""
    moving[0, 0] += v
    moving[0, 1] += drift
    for k in range(ORDER, -1, -1):
        moving[2, k] -= v * moving[3, k]
        if k > 0:
            moving[2, k] -= drift * moving[3, k - 1]


@inner
def _held_apart(
    one: OutlineTable, two: OutlineTable, motion: Six, v: complex, drift: complex,
    room: Room,
) -> float:
    """Over the interval, with the first part (drawn in by a hair) moved by v + drift u (u from −1 to 1) and known not
    to overlap in the middle: how much further it must be moved, by a bound, that they overlap nowhere (0: they don't,
    infinite: unknown)."""
    moving, visits = room.moving, room.visits
    middle, sway, place_left, turn_left, back_left, _ = motion
    _shift(moving, v, drift)
    back_left += turn_left * (abs(v) + abs(drift)) + abs(drift) * abs(moving[3, ORDER])
    place, turn = moving[0, 0], moving[1, 0]
    slide, swing = swayed(moving[0]) + place_left, swayed(moving[1]) + turn_left
    needed = 0.0
    visits[0, 0], visits[0, 1] = 0, 0
    top, seen = 1, 0
    while top > 0 and needed < np.inf:
        top -= 1
        seen += 1
        if seen > MOST_SEEN:
            needed = np.inf
            break
        i, j = visits[top, 0], visits[top, 1]
        strayed = slide + swing * abs(complex(one.nodes[i, 0], one.nodes[i, 1]))
        if nodes_apart(one, i, two, j, place, turn) - strayed > 0.0:
            continue
        more = branched(one, i, two, j, visits, top)
        if more >= 0:
            top = more
            continue
        (k0, k1), (n0, n1) = under(one, i), under(two, j)
        for k in range(k0, k1):
            for n in range(n0, n1):
                first, second = one.slim[k], two.features[n]
                if not can_meet(first, second):
                    continue
                apart = far_apart(first, second, place, turn)
                if apart - slide - swing * out(first) > 0.0:
                    continue
                faces, low, high, gap, _least = bounded(
                    first, second, middle, sway, place_left, turn_left, back_left, room
                )
                if not faces or low > 0.0 or high < 0.0:
                    continue
                # What passes from behind to before is mended by no move along the way that is known.
                needed = np.inf if gap < 0.0 else max(needed, -low)
    _shift(moving, -v, -drift)
    return needed


@inner
def _bound(
    one: OutlineTable, two: OutlineTable, motion: Six, here: Array, drift: complex,
    wanted: float, room: Room,
) -> float:
    """A bound of the depth over the interval: the length of a move, drifting with time, that parts them all through
    it. Infinite where none was found that is as short as wanted."""
    v, way = complex(here[1], here[2]), complex(here[3], here[4])
    longest = max(abs(v + drift), abs(v - drift))
    needed = _held_apart(one, two, motion, v, drift, room)
    if needed == 0.0:
        return longest
    if needed == np.inf or here[0] == 0.0:
        return np.inf
    v += way * (needed * MORE / here[5])
    longest = max(abs(v + drift), abs(v - drift))
    if longest > wanted or overlap(one, two, room.moving[0, 0] + v, room.moving[1, 0], room):
        return np.inf
    return longest if _held_apart(one, two, motion, v, drift, room) == 0.0 else np.inf


@compiled
def deepest(
    track: MotionTrack,
    a: int,
    b: int,
    one: OutlineTable,
    two: OutlineTable,
    accuracy: float,
    best: Array,
    count: int,
    budget: int,
    room: Room,
    found: Array,
) -> tuple[int, int]:
    """Goes on with the intervals on the stack (`count`) until none is left or `budget` is used up. `best` (8): the
    greatest depth, its stretch and place in it, the bound of what could not be decided, the number of looks; whether
    all depths are known to be shortest. `found` (8): the shortest move at the deepest position."""
    stack, marks = room.stack, room.marks
    here, aside = best[8:16], best[16:24]
    evaluations = 0
    while count > 0:
        if evaluations > budget:
            best[4] += evaluations
            return PAUSED, count
        count -= 1
        stretch = marks[count, 0]
        start, end = stack[count, 0], stack[count, 1]
        middle, half = (start + end) / 2.0, (end - start) / 2.0
        motion = relative(track, stretch, a, b, middle, half, room)
        place, turn = room.moving[0, 0], room.moving[1, 0]
        evaluations += 1
        whole = deepest_here(one, two, place, turn, room, here)
        if here[0] > best[0] or (best[1] < 0.0 and here[0] == best[0]):
            best[0], best[1], best[2] = here[0], stretch, middle
            for m in range(8):
                found[m] = here[m]
            if not whole:
                best[5] = 0.0
        bound = _bound(one, two, motion, here, 0j, best[0] + accuracy, room)
        if bound > best[0] + accuracy and here[0] > 0.0 and half < FOLLOWED:
            drift = 0j
            for u in (-1.0, 1.0):  # the way apart moves along with the parts
                there, turned = pose_at(room, u)
                deepest_here(one, two, there, turned, room, aside)
                drift += u / 2.0 * complex(aside[1], aside[2])
            bound = _bound(one, two, motion, here, drift, best[0] + accuracy, room)
        if bound <= best[0] + accuracy:
            continue
        if half < NARROW or not worth(track.error[stretch], one, room):
            best[3] = max(best[3], bound)
            continue
        for side in range(2):
            stack[count, 0] = middle if side == 0 else start
            stack[count, 1] = end if side == 0 else middle
            marks[count, 0] = stretch
            count += 1
    best[4] += evaluations
    return DONE, 0


@compiled
def signed(
    one: OutlineTable,
    two: OutlineTable,
    places: np.ndarray,
    turns: np.ndarray,
    tolerance: float,
    room: Room,
    found: Array,
    values: Array,
) -> None:
    """Fills `values` (S,) with the signed distance at positions: the least gap, or less than zero the depth. `found` is
    left as `deepest_here` filled it for the last."""
    for k in range(len(places)):
        deepest_here(one, two, places[k], turns[k], room, found)
        if found[0] > 0.0:
            values[k] = -found[0]
        else:
            gap = nearest(one, two, places[k], turns[k], tolerance, room)[0]
            values[k] = max(gap, 0.0) if gap < np.inf else 0.0  # nothing faces: a sharp corner touches
