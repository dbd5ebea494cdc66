"""The least gap of two parts that nowhere overlap: intervals of time are halved until all that is left out is proven.

A gap that may face within an interval is bounded by its expansion; an interval is done when no gap can be less than
the least that was found, less the accuracy. Pairs of features far away are left out through the trees, and the halves
of an interval look only at the pairs that mattered in the whole.
"""

import numpy as np

from ...arrays import Array
from ...compiling import compiled, inner
from .gaps import bounded, can_meet, facing, far_apart
from .overlap import nodes_apart, overlap
from .series import pose_at, relative, swayed
from .tables import BR, HIGH, LOW, Form, Room, Track

DONE, PAUSED, TOUCHES = range(3)
"""How a search ended: nothing is left to look at; the budget is used up, go on; the parts touch or overlap."""
MOST_SEEN = 100_000
"""Pairs of branches that are looked through at most in one interval before it is halved instead."""
NARROW = 1e-11
"""Half width of an interval (of a stretch) that is not halved any more."""


@inner
def nearest(
    one: Form, two: Form, place: complex, turn: complex, hair: float, limit: float, room: Room, bottom: int
) -> tuple[float, int, int]:
    """The least gap at a position below a limit, of features that face each other, and which they are; the limit and
    −1 where there is none. Gaps below −hair belong to features behind others."""
    best, best_i, best_j = limit, -1, -1
    within = limit  # no further than this are they, though it may not be known yet where
    visits = room.visits
    top = bottom
    visits[top, 0], visits[top, 1] = 0, 0
    top += 1
    while top > bottom:
        top -= 1
        i, j = visits[top, 0], visits[top, 1]
        if nodes_apart(one, i, two, j, place, turn) > min(best, within):
            continue
        a, b = one.links[i, 0], two.links[j, 0]
        if a < 0 and b < 0:
            for k in range(-1 - a, -1 - a + one.links[i, 1]):
                for n in range(-1 - b, -1 - b + two.links[j, 1]):
                    first, second = one.features[k], two.features[n]
                    if first[LOW] >= second[HIGH] or second[LOW] >= first[HIGH]:
                        continue
                    apart = far_apart(first, second, place, turn)
                    within = min(within, apart + 2.0 * (first[BR] + second[BR]) + hair)
                    if apart < best and can_meet(first, second):
                        missed, gap, _normal, _point = facing(first, second, place, turn)
                        if missed <= 0.0 and -hair <= gap < best:
                            best, best_i, best_j = gap, k, n
            continue
        if a >= 0 and (b < 0 or one.nodes[i, 2] >= two.nodes[j, 2]):
            left, right = (a, j), (one.links[i, 1], j)
        else:
            left, right = (i, b), (i, two.links[j, 1])
        nearer = nodes_apart(one, left[0], two, left[1], place, turn)
        if nearer > nodes_apart(one, right[0], two, right[1], place, turn):
            left, right = right, left
        visits[top, 0], visits[top, 1] = right
        visits[top + 1, 0], visits[top + 1, 1] = left
        top += 2
    return best, best_i, best_j


@compiled
def nearest_at(one: Form, two: Form, place: complex, turn: complex, hair: float, room: Room) -> tuple[float, int, int]:
    """The least gap at a position of parts that do not overlap, and the features."""
    return nearest(one, two, place, turn, hair, np.inf, room, 0)


@compiled
def overlaps(one: Form, two: Form, places: np.ndarray, turns: np.ndarray, room: Room, found: np.ndarray) -> int:
    """Fills `found` (S,) with whether the parts overlap at positions; returns how many do."""
    count = 0
    for k in range(len(places)):
        found[k] = overlap(one, two, places[k], turns[k], room, 0)
        count += found[k]
    return count


@inner
def _looked_at(
    one: Form, two: Form, i: int, j: int, motion: tuple[float, float, float, float, float, float], limit: float,
    hair: float, room: Room,
) -> tuple[bool, float, float]:
    """One pair of features within an interval: whether it must be looked at more closely (it may face, come nearer
    than the limit, and is not wholly behind), the bound of its gap, and the share where that is about least."""
    middle, sway, place_left, turn_left, back_left, _ = motion
    faces, low, high, _gap, least = bounded(
        one.features[i], two.features[j], middle, sway, place_left, turn_left, back_left, room
    )
    return faces and low < limit and high >= -hair, low, least


@inner
def worth(error: float, one: Form, room: Room) -> bool:
    """Whether halving an interval can tell more: not where the parts move less than is known of the motion."""
    reach = abs(complex(one.nodes[0, 0], one.nodes[0, 1])) + one.nodes[0, 2]
    return swayed(room.moving[0]) + reach * swayed(room.moving[1]) > error


@compiled
def search(
    track: Track, a: int, b: int, one: Form, two: Form, hair: float, accuracy: float, best: Array, count: int,
    budget: int, room: Room,
) -> tuple[int, int]:
    """Goes on with the intervals on the stack (`count` of them) until none is left or `budget` is used up. `best` (8):
    the least gap, its stretch and place in it, its two features, the bound of what could not be decided, the number of
    looks taken, the limit below which it touches. Returns how it ended and how many intervals are left.
    """
    stack, marks, pairs, visits = room.stack, room.marks, room.pairs, room.visits
    looks = 0
    while count > 0:
        if looks > budget:
            best[6] += looks
            return PAUSED, count
        count -= 1
        stretch, first, last = marks[count, 0], marks[count, 1], marks[count, 2]
        start, end = stack[count, 0], stack[count, 1]
        middle, half = (start + end) / 2.0, (end - start) / 2.0
        motion = relative(track, stretch, a, b, middle, half, room)
        moving = room.moving
        place, turn = moving[0, 0], moving[1, 0]
        slide, swing = swayed(moving[0]) + motion[2], swayed(moving[1]) + motion[3]
        limit = best[0] - accuracy
        kept = max(last, 0)
        begin = kept
        lowest = np.inf
        looks += 1
        seen = 0
        if first < 0:
            top = 0
            visits[top, 0], visits[top, 1] = 0, 0
            top += 1
            while top > 0 and kept <= len(pairs) and seen < MOST_SEEN:
                top -= 1
                seen += 1
                i, j = visits[top, 0], visits[top, 1]
                strayed = slide + swing * abs(complex(one.nodes[i, 0], one.nodes[i, 1]))
                if nodes_apart(one, i, two, j, place, turn) - strayed > limit:
                    continue
                m, n = one.links[i, 0], two.links[j, 0]
                if m >= 0 and (n < 0 or one.nodes[i, 2] >= two.nodes[j, 2]):
                    visits[top, 0], visits[top, 1] = m, j
                    visits[top + 1, 0], visits[top + 1, 1] = one.links[i, 1], j
                    top += 2
                    continue
                if n >= 0:
                    visits[top, 0], visits[top, 1] = i, n
                    visits[top + 1, 0], visits[top + 1, 1] = i, two.links[j, 1]
                    top += 2
                    continue
                for k in range(-1 - m, -1 - m + one.links[i, 1]):
                    reach = abs(complex(one.features[k, 8], one.features[k, 9]))
                    for h in range(-1 - n, -1 - n + two.links[j, 1]):
                        if not can_meet(one.features[k], two.features[h]):
                            continue
                        apart = far_apart(one.features[k], two.features[h], place, turn)
                        if apart - slide - swing * reach > limit:
                            continue
                        looks += 1
                        keep, low, least = _looked_at(one, two, k, h, motion, limit, hair, room)
                        if not keep:
                            continue
                        if kept < len(pairs):
                            pairs[kept, 0], pairs[kept, 1] = k, h
                        kept += 1
                        lowest = min(lowest, low)
                        limit = _offered(one, two, k, h, least, stretch, middle, half, hair, accuracy, best, room)
            if top > 0:  # too much to look through: nothing is known of the interval but through its halves
                kept, lowest = len(pairs) + 1, -np.inf
        else:
            seen += (last - first) // 4
            for p in range(first, last):
                k, h = pairs[p, 0], pairs[p, 1]
                apart = far_apart(one.features[k], two.features[h], place, turn)
                reach = abs(complex(one.features[k, 8], one.features[k, 9]))
                if apart - slide - swing * reach > limit:
                    continue
                looks += 1
                keep, low, least = _looked_at(one, two, k, h, motion, limit, hair, room)
                if not keep:
                    continue
                if kept < len(pairs):
                    pairs[kept, 0], pairs[kept, 1] = k, h
                kept += 1
                lowest = min(lowest, low)
                limit = _offered(one, two, k, h, least, stretch, middle, half, hair, accuracy, best, room)
        looks += seen
        if best[0] <= best[7]:
            best[6] += looks
            return TOUCHES, count
        if kept == begin or lowest >= limit:
            continue
        if half < NARROW or not worth(track.error[stretch], one, room):
            best[5] = min(best[5], lowest)
            continue
        if kept > len(pairs):  # too many to write down: the halves look through all that the whole did
            begin, kept = first, last
        for side in range(2):
            stack[count, 0] = middle if side == 0 else start
            stack[count, 1] = end if side == 0 else middle
            marks[count, 0], marks[count, 1], marks[count, 2] = stretch, begin, kept
            count += 1
    best[6] += looks
    return DONE, 0


@inner
def _offered(
    one: Form, two: Form, i: int, j: int, least: float, stretch: int, middle: float, half: float, hair: float,
    accuracy: float, best: Array, room: Room,
) -> float:
    """Tries a pair's gap in the middle of the interval and where it is about least, and keeps what is less than the
    least so far; returns the limit below which anything still matters."""
    for u in (0.0, least):
        place, turn = pose_at(room, u)
        missed, gap, _normal, _point = facing(one.features[i], two.features[j], place, turn)
        if missed <= 0.0 and -hair <= gap < best[0]:
            best[0], best[1], best[2], best[3], best[4] = gap, stretch, middle + u * half, i, j
    return best[0] - accuracy


@compiled
def contact(
    one: Form, i: int, two: Form, j: int, place: complex, turn: complex
) -> tuple[complex, complex, float]:
    """The points of two facing features (on the first, on the second), in the axes of the second, and the gap."""
    _missed, gap, normal, point = facing(one.features[i], two.features[j], place, turn)
    return point + gap * normal, point, gap
