"""The gap between two features, at one position and bounded over an interval.

Where outward normals are opposite, with n the normal of the second part's feature, w from center to center and ρ the
signed radii: two rounds have g = ±|w| − (ρ₁ + ρ₂), the plus for what stands face to face, the minus for what lies in
a hollow (ρ₁ + ρ₂ < 0: a pin in its hole); a round before a line has g = n · w − ρ. Over an interval |w|² and n · w are
polynomials, so a gap that stays the same is known to stay the same.
"""

import numpy as np

from ...arrays import Array
from ...compiling import inner
from .tables import ANGLE_SLACK, BR, BX, BY, CX, CY, FOOT_SLACK, KIND, LINE, ONE, ORDER, SIZE, TWO, Room
from .trees import share_depth

TAU = 2 * np.pi


@inner
def off(angle: float, feature: Array) -> float:
    """By how much (rad) a normal misses those of a round; below zero it is one of them."""
    return abs((angle - feature[ONE] + np.pi) % TAU - np.pi) - feature[TWO]


@inner
def can_meet(one: Array, two: Array) -> bool:
    """Whether two features can touch at all: a hollow holds only what is rounder than itself."""
    if not share_depth(one, two):
        return False
    if one[KIND] == LINE:
        return two[KIND] != LINE and two[SIZE] >= 0.0
    if two[KIND] == LINE:
        return one[SIZE] >= 0.0
    if one[SIZE] < 0.0:
        return two[SIZE] >= 0.0 and one[SIZE] + two[SIZE] <= 0.0
    return two[SIZE] >= 0.0 or one[SIZE] + two[SIZE] <= 0.0


@inner
def far_apart(one: Array, two: Array, place: complex, turn: complex) -> float:
    """The distance of the circles about two features."""
    z = place + turn * complex(one[BX], one[BY]) - complex(two[BX], two[BY])
    return abs(z) - one[BR] - two[BR]


@inner
def facing(one: Array, two: Array, place: complex, turn: complex) -> tuple[float, float, complex, complex]:
    """At a position: by how much the features miss facing each other (length or rad times 1; at most 0 where they do),
    the gap, the normal of the second and the point of the second."""
    if two[KIND] == LINE:
        along = complex(two[ONE], two[TWO])
        normal = -1j * along
        z = place + turn * complex(one[CX], one[CY]) - complex(two[CX], two[CY])
        x = (along.conjugate() * z).real
        missed = off(np.angle(-normal * turn.conjugate()), one) - ANGLE_SLACK
        short = max(-x, x - two[SIZE]) - FOOT_SLACK * two[SIZE]
        gap = (normal.conjugate() * z).real - one[SIZE]
        return max(missed, short), gap, normal, complex(two[CX], two[CY]) + x * along
    if one[KIND] == LINE:
        along = complex(one[ONE], one[TWO])
        normal = -1j * along
        back = turn.conjugate()
        z = back * (complex(two[CX], two[CY]) - place) - complex(one[CX], one[CY])
        x = (along.conjugate() * z).real
        outward = -turn * normal
        missed = off(np.angle(outward), two) - ANGLE_SLACK
        short = max(-x, x - one[SIZE]) - FOOT_SLACK * one[SIZE]
        gap = (normal.conjugate() * z).real - two[SIZE]
        return max(missed, short), gap, outward, complex(two[CX], two[CY]) + two[SIZE] * outward
    w = place + turn * complex(one[CX], one[CY]) - complex(two[CX], two[CY])
    both, size = one[SIZE] + two[SIZE], abs(w)
    way = 1.0
    if both < 0.0 or (both == 0.0 and (one[SIZE] < 0.0 or two[SIZE] < 0.0)):
        way = -1.0
    if size < 1e-12 * (abs(one[SIZE]) + abs(two[SIZE])) or size == 0.0:
        inner_one = two[TWO] > one[TWO]  # any normal will do that both have; the narrower one's middle
        normal = -turn * np.exp(1j * one[ONE]) if inner_one else np.exp(1j * two[ONE])
    else:
        normal = way * w / size
    missed = max(off(np.angle(normal), two), off(np.angle(-normal * turn.conjugate()), one)) - ANGLE_SLACK
    return missed, way * size - both, normal, complex(two[CX], two[CY]) + two[SIZE] * normal


@inner
def _range(values: Array, count: int) -> tuple[float, float]:
    """Bounds of a polynomial over −1 to 1: linear and quadratic terms exactly, the rest by size."""
    rest = 0.0
    for k in range(3, count):
        rest += abs(values[k])
    v0, v1, v2 = values[0], values[1], values[2]
    one, two = v0 - v1 + v2, v0 + v1 + v2
    low, high = min(one, two), max(one, two)
    if abs(v1) < 2.0 * abs(v2):
        turned = v0 - v1 * v1 / (4.0 * v2)
        low, high = min(low, turned), max(high, turned)
    return low - rest, high + rest


@inner
def _least_at(values: Array) -> float:
    """Where the parabola of a polynomial is least within −1 to 1."""
    if values[2] > 0.0 and abs(values[1]) < 2.0 * values[2]:
        return -values[1] / (2.0 * values[2])
    return -1.0 if values[1] > 0.0 else 1.0


@inner
def _before_line(
    line: Array, point: Array, place: np.ndarray, turn: np.ndarray, middle: float, sway: float, left: float, room: Room
) -> tuple[bool, float, float, float, float]:
    """A round (or corner) that moves before a line: whether they may face each other within the interval, bounds of
    the gap, the gap in the middle, and the share where it is about least. `middle`: the angle of the round's axes in
    those of the line."""
    along = complex(line[ONE], line[TWO])
    normal = -1j * along
    if off(np.angle(-normal) - middle, point) > sway + ANGLE_SLACK:
        return False, 0.0, 0.0, 0.0, 0.0
    c = complex(point[CX], point[CY])
    values = room.series[0]
    x, strayed = 0.0, left
    for k in range(ORDER + 1):
        z = place[k] + turn[k] * c
        if k == 0:
            z -= complex(line[CX], line[CY])
            x = (along.conjugate() * z).real
        else:
            strayed += abs((along.conjugate() * z).real)
        values[k] = (normal.conjugate() * z).real
    if max(-x, x - line[SIZE]) > strayed + FOOT_SLACK * line[SIZE]:
        return False, 0.0, 0.0, 0.0, 0.0
    low, high = _range(values, ORDER + 1)
    size = point[SIZE]
    return True, low - left - size, high + left - size, values[0] - size, _least_at(values)


@inner
def bounded(
    one: Array, two: Array, middle: float, sway: float, place_left: float, turn_left: float,
    back_left: float, room: Room,
) -> tuple[bool, float, float, float, float]:
    """Over the interval of `room.moving`: whether two features may face each other, bounds of their gap,
    the gap in the middle, and the share (−1 to 1) where it is about least."""
    moving = room.moving
    c, d = complex(one[CX], one[CY]), complex(two[CX], two[CY])
    if two[KIND] == LINE:
        left = place_left + turn_left * abs(c)
        return _before_line(two, one, moving[0], moving[1], middle, sway, left, room)
    if one[KIND] == LINE:
        left = back_left + turn_left * abs(d)
        return _before_line(one, two, moving[2], moving[3], -middle, sway, left, room)
    left = place_left + turn_left * abs(c)
    w = room.spare[3]
    strayed = left
    for k in range(ORDER + 1):
        w[k] = moving[0, k] + moving[1, k] * c
        if k == 0:
            w[k] -= d
        else:
            strayed += abs(w[k])
    both, size = one[SIZE] + two[SIZE], abs(w[0])
    way = 1.0
    if both < 0.0 or (both == 0.0 and (one[SIZE] < 0.0 or two[SIZE] < 0.0)):
        way = -1.0
    if strayed < size:
        swing = np.arcsin(strayed / size) + ANGLE_SLACK
        normal = np.angle(way * w[0])
        if off(normal, two) > swing or off(normal + np.pi - middle, one) > swing + sway:
            return False, 0.0, 0.0, 0.0, 0.0
    values = room.series[0]
    for k in range(ORDER + 1):
        total = 0.0
        for j in range(k + 1):
            total += w[j].real * w[k - j].real + w[j].imag * w[k - j].imag
        values[k] = total
    rest = 0.0
    for k in range(ORDER + 1, 2 * ORDER + 1):
        total = 0.0
        for j in range(k - ORDER, ORDER + 1):
            total += w[j].real * w[k - j].real + w[j].imag * w[k - j].imag
        rest += abs(total)
    low, high = _range(values, ORDER + 1)
    low, high = np.sqrt(max(low - rest, 0.0)), np.sqrt(max(high + rest, 0.0))
    low, high = max(low, size - strayed), min(high, size + strayed)
    low, high = low - left, high + left
    least = _least_at(values)
    if way > 0.0:
        return True, low - both, high - both, size - both, least
    most = 0.0  # the gap of what lies in a hollow is least where |w| is greatest
    if values[2] < 0.0 and abs(values[1]) < -2.0 * values[2]:
        most = -values[1] / (2.0 * values[2])
    else:
        most = 1.0 if values[1] > 0.0 else -1.0
    return True, -high - both, -low - both, -size - both, most
