"""Whether two outlines overlap at a position: their edges cross, or a loop of one lies in the material of the other.

The first outline is taken drawn in by a hair, so that touching and fits without play do not count, and so that nothing
depends on how an exact contact is rounded.
"""

import numpy as np

from ...arrays import Array
from ...compiling import inner
from .tables import (
    ANGLE,
    CENTER_X,
    CENTER_Y,
    EDGE,
    END_X,
    END_Y,
    RADIUS,
    START_X,
    START_Y,
    SWEEP,
    OutlineTable,
    Room,
)  # fmt: skip
from .trees import branched, nodes_apart, share_depth, under

TAU = 2 * np.pi


@inner
def _on_arc(edge: Array, z: complex) -> bool:
    """Whether a point of the circle lies on the arc."""
    turned = np.angle(z - complex(edge[CENTER_X], edge[CENTER_Y])) - edge[ANGLE]
    if edge[SWEEP] < 0.0:
        turned = -turned
    return turned % TAU <= abs(edge[SWEEP])


@inner
def _cross(
    one: Array, two: Array, a: complex, b: complex, c: complex, angle: float
) -> bool:
    """Whether two edges cross; the first has its ends at a and b, its center at c, and is turned by an angle."""
    d, e = complex(two[START_X], two[START_Y]), complex(two[END_X], two[END_Y])
    if one[RADIUS] == 0.0 and two[RADIUS] == 0.0:
        s1 = ((b - a).conjugate() * (d - a)).imag
        s2 = ((b - a).conjugate() * (e - a)).imag
        s3 = ((e - d).conjugate() * (a - d)).imag
        s4 = ((e - d).conjugate() * (b - d)).imag
        return (s1 > 0.0) != (s2 > 0.0) and (s3 > 0.0) != (s4 > 0.0)
    if one[RADIUS] == 0.0 or two[RADIUS] == 0.0:
        if one[RADIUS] == 0.0:
            p, q, center, radius = a, b, complex(two[CENTER_X], two[CENTER_Y]), two[RADIUS]
        else:
            p, q, center, radius = d, e, c, one[RADIUS]
        length = abs(q - p)
        if length == 0.0:
            return False
        u = (q - p) / length
        rest = u.conjugate() * (center - p)
        under = radius * radius - rest.imag * rest.imag
        if under <= 0.0:
            return False
        half = np.sqrt(under)
        for x in (rest.real - half, rest.real + half):
            if 0.0 <= x <= length:
                z = p + x * u
                if one[RADIUS] == 0.0:
                    if _on_arc(two, z):
                        return True
                elif _on_arc(one, complex(one[CENTER_X], one[CENTER_Y]) + (z - c) * np.exp(-1j * angle)):
                    return True
        return False
    o = complex(two[CENTER_X], two[CENTER_Y])
    far = abs(o - c)
    if far == 0.0:
        return False
    u = (o - c) / far
    along = (far * far + one[RADIUS] * one[RADIUS] - two[RADIUS] * two[RADIUS]) / (2.0 * far)
    under = one[RADIUS] * one[RADIUS] - along * along
    if under <= 0.0:
        return False
    half = np.sqrt(under)
    for way in (-1.0, 1.0):
        z = c + (along + 1j * way * half) * u
        if _on_arc(two, z):
            back = complex(one[CENTER_X], one[CENTER_Y]) + (z - c) * np.exp(-1j * angle)
            if _on_arc(one, back):
                return True
    return False


@inner
def winding(edges: Array, first: int, last: int, z: complex) -> float:
    """How often edges wind around a point, as an angle in turns."""
    total = 0.0
    for k in range(first, last):
        edge = edges[k]
        a = complex(edge[START_X], edge[START_Y]) - z
        b = complex(edge[END_X], edge[END_Y]) - z
        product = b * a.conjugate()
        if product != 0.0:
            total += np.arctan2(product.imag, product.real)
        if edge[RADIUS] > 0.0 and abs(complex(edge[CENTER_X], edge[CENTER_Y]) - z) < edge[RADIUS]:
            way = 1.0 if edge[SWEEP] > 0.0 else -1.0
            chord = b - a
            if abs(edge[SWEEP]) > TAU - 1e-9 or (chord.conjugate() * -a).imag * way < 0.0:
                total += way * TAU
    return total / TAU


@inner
def _holds(slabs: Array, edges: Array, spot: Array, z: complex) -> bool:
    """Whether a point, with its depth, lies in the material."""
    for k in range(slabs.shape[0]):
        shared = slabs[k, 0] < spot[3] and spot[2] < slabs[k, 1]
        if shared and winding(edges, int(slabs[k, 2]), int(slabs[k, 3]), z) > 0.5:
            return True
    return False


@inner
def overlap(one: OutlineTable, two: OutlineTable, place: complex, turn: complex, room: Room) -> bool:
    """Whether the first part, drawn in by a hair and put at a place and turn in the axes of the second, overlaps it."""
    visits = room.visits
    if nodes_apart(one, 0, two, 0, place, turn) > 0.0:
        return False
    angle = np.angle(turn)
    visits[0, 0], visits[0, 1] = 0, 0
    top = 1
    while top > 0:
        top -= 1
        i, j = visits[top, 0], visits[top, 1]
        if nodes_apart(one, i, two, j, place, turn) > 0.0:
            continue
        more = branched(one, i, two, j, visits, top)
        if more >= 0:
            top = more
            continue
        (first, last), (head, tail) = under(one, i), under(two, j)
        for k in range(first, last):
            m = int(one.slim[k, EDGE])
            if m < 0:
                continue
            edge = one.slim_edges[m]
            p = place + turn * complex(edge[START_X], edge[START_Y])
            q = place + turn * complex(edge[END_X], edge[END_Y])
            c = place + turn * complex(edge[CENTER_X], edge[CENTER_Y])
            for n in range(head, tail):
                other = int(two.features[n, EDGE])
                if other < 0 or not share_depth(one.slim[k], two.features[n]):
                    continue
                if _cross(edge, two.edges[other], p, q, c, angle):
                    return True
    for k in range(one.slim_spots.shape[0]):
        z = place + turn * complex(one.slim_spots[k, 0], one.slim_spots[k, 1])
        if _holds(two.slabs, two.edges, one.slim_spots[k], z):
            return True
    for k in range(two.spots.shape[0]):
        z = (complex(two.spots[k, 0], two.spots[k, 1]) - place) * turn.conjugate()
        if _holds(one.slabs, one.slim_edges, two.spots[k], z):
            return True
    return False
