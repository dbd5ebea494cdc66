"""How one part moves as seen from another within an interval: Taylor expansions with bounds of what is left out."""

import numpy as np

from ...arrays import Array, Index
from ...compiling import compiled, inner
from .tables import DEGREE, ORDER, MotionTrack, Room


@inner
def _expanded(terms: Array, first: int, middle: float, half: float, found: Array) -> None:
    """The polynomial of six coefficients from `first` on, about `middle`, in units of `half`."""
    for k in range(DEGREE + 1):
        found[k] = terms[first + k]
    found[ORDER] = 0.0
    for k in range(DEGREE):
        for j in range(DEGREE - 1, k - 1, -1):
            found[j] += middle * found[j + 1]
    scale = 1.0
    for k in range(1, DEGREE + 1):
        scale *= half
        found[k] *= scale


@inner
def _turned(angle: Array, sign: float, found: np.ndarray, most: Array) -> float:
    """Fills the expansion of exp(i sign angle) and that of its majorant; returns the bound of what is left out."""
    found[0] = complex(np.cos(angle[0]), sign * np.sin(angle[0]))
    most[0] = 1.0
    total = 0.0
    for k in range(1, ORDER + 1):
        total += abs(angle[k])
        value, bound = 0j, 0.0
        for j in range(1, k + 1):
            value += j * complex(0.0, sign * angle[j]) * found[k - j]
            bound += j * abs(angle[j]) * most[k - j]
        found[k], most[k] = value / k, bound / k
    left = np.exp(total)
    for k in range(ORDER + 1):
        left -= most[k]
    return max(left, 0.0)


@inner
def _product(one: np.ndarray, two: np.ndarray, found: np.ndarray) -> None:
    for k in range(ORDER + 1):
        value = 0j
        for j in range(k + 1):
            value += one[j] * two[k - j]
        found[k] = value


@inner
def _beyond(most: Array, left: float, way: np.ndarray) -> float:
    """The bound of what a product of a turn (its majorant, and what is left out of it) and a way leaves out."""
    turn, size, kept = left, 0.0, 0.0
    for k in range(ORDER + 1):
        turn += most[k]
        size += abs(way[k])
        for j in range(k + 1):
            kept += most[j] * abs(way[k - j])
    return max(turn * size - kept, 0.0)


@inner
def relative(
    track: MotionTrack, stretch: int, a: int, b: int, middle: float, half: float, room: Room
) -> tuple[float, float, float, float, float, float]:
    """Fills `room.moving` with place and turn of a in the axes of b, and of b in those of a: z = place + turn × point.

    Returns the relative angle in the middle, how far it may turn away from that, and for each way the bounds of what
    is left out of place and turn.
    """
    series, spare, moving = room.series, room.spare, room.moving
    one, two = track.terms[stretch, a], track.terms[stretch, b]
    for k in range(3):
        _expanded(one, 6 * k, middle, half, series[k])
        _expanded(two, 6 * k, middle, half, series[3 + k])
    for k in range(ORDER + 1):
        spare[0, k] = complex(series[0, k] - series[3, k], series[1, k] - series[4, k])
        spare[1, k] = -spare[0, k]
    most = series[6]
    left = _turned(series[5], -1.0, spare[2], most)
    _product(spare[2], spare[0], moving[0])
    place = _beyond(most, left, spare[0])
    left = _turned(series[2], -1.0, spare[2], most)
    _product(spare[2], spare[1], moving[2])
    back = _beyond(most, left, spare[1])
    sway = 0.0
    for k in range(ORDER + 1):
        series[7, k] = series[2, k] - series[5, k]
        if k:
            sway += abs(series[7, k])
    turn = _turned(series[7], 1.0, moving[1], most)
    for k in range(ORDER + 1):
        moving[3, k] = moving[1, k].conjugate()
    error = track.error[stretch]
    return series[7, 0], sway, place + error, turn, back + error, turn


@compiled
def swept(track: MotionTrack, body: int, point: complex, room: Room, middles: np.ndarray, reaches: Array) -> None:
    """Fills `middles` (S,) with the place of a body's point in the middle of each stretch, and `reaches` (S,) with a
    bound of how far it goes from there within it."""
    series, spare = room.series, room.spare
    for stretch in range(len(track.times)):
        half = track.times[stretch, 2] / 2.0
        for k in range(3):
            _expanded(track.terms[stretch, body], 6 * k, half, half, series[k])
        left = _turned(series[2], 1.0, spare[2], series[6]) * abs(point)
        middles[stretch] = complex(series[0, 0], series[1, 0]) + spare[2, 0] * point
        strayed = left + track.error[stretch]
        for k in range(1, ORDER + 1):
            strayed += abs(complex(series[0, k], series[1, k]) + spare[2, k] * point)
        reaches[stretch] = strayed


@inner
def _off_line(z: complex, one: complex, two: complex) -> float:
    """The squared distance of a place from a line between two ends."""
    along, back = two - one, z - one
    size = along.real * along.real + along.imag * along.imag
    share = back.real * along.real + back.imag * along.imag
    share = min(max(share / size, 0.0), 1.0) if size > 0.0 else 0.0
    x, y = back.real - share * along.real, back.imag - share * along.imag
    return x * x + y * y


@inner
def _side(z: complex, one: complex, two: complex) -> float:
    """On which side of a line a place lies: above zero to the left."""
    along, back = two - one, z - one
    return along.real * back.imag - along.imag * back.real


@inner
def _apart(ends: np.ndarray, girths: Array, i: int, j: int, stretch: int) -> float:
    """The distance of two capsules within a stretch; below zero they overlap."""
    a, b, c, d = ends[i, stretch, 0], ends[i, stretch, 1], ends[j, stretch, 0], ends[j, stretch, 1]
    apart = 0.0
    if _side(a, c, d) * _side(b, c, d) >= 0.0 or _side(c, a, b) * _side(d, a, b) >= 0.0:
        apart = min(_off_line(a, c, d), _off_line(b, c, d), _off_line(c, a, b), _off_line(d, a, b))
    return np.sqrt(apart) - girths[i, stretch] - girths[j, stretch]


@compiled
def capsules_apart(ends: np.ndarray, girths: Array, i: int, j: int, found: Array) -> None:
    """Fills `found` (S,) with the distances of two capsules in each stretch: the ends of the axes of all (B, S, 2), and
    how far about these they reach (B, S)."""
    for stretch in range(len(found)):
        found[stretch] = _apart(ends, girths, i, j, stretch)


@compiled
def least_apart(ends: np.ndarray, girths: Array, pairs: Index, counts: Index, found: Array) -> None:
    """Fills `found` (K,) with the least of these distances of each pair (K, 2) over so many of the first stretches."""
    for k in range(len(pairs)):
        found[k] = np.inf
        for stretch in range(counts[k]):
            found[k] = min(found[k], _apart(ends, girths, pairs[k, 0], pairs[k, 1], stretch))


@inner
def pose_at(room: Room, u: float) -> tuple[complex, complex]:
    """Place and turn of the first part at a share (−1 to 1) of the interval."""
    place, turn = 0j, 0j
    for k in range(ORDER, -1, -1):
        place = place * u + room.moving[0, k]
        turn = turn * u + room.moving[1, k]
    return place, turn / abs(turn)


@inner
def swayed(moving: np.ndarray) -> float:
    """How far an expansion can go from its middle."""
    total = 0.0
    for k in range(1, ORDER + 1):
        total += abs(moving[k])
    return total
