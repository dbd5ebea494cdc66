"""The least gap of two parts that nowhere overlap: intervals of time are halved until all that is left out is proven.

A gap that may face within an interval is bounded by its expansion; an interval is done when no gap can be less than
the least that was found, less the accuracy. Pairs of features far away are left out through the trees, and the halves
of an interval look only at the pairs that mattered in the whole.
"""

import numpy as np

from ...arrays import Array, Index
from ...compiling import compiled, inner
from .gaps import bounded, can_meet, facing, far_apart
from .overlap import overlap
from .series import pose_at, relative, swayed
from .tables import BR, MotionTrack, OutlineTable, Room
from .trees import MOST_SEEN, branched, nodes_apart, out, share_depth, under

DONE, PAUSED, TOUCHES = range(3)
"""How a search ended: nothing is left to look at; the budget is used up, go on; the parts touch or overlap."""
NARROW = 1e-11
"""Half width of an interval (of a stretch) that is not halved any more."""
Six = tuple[float, float, float, float, float, float]


@inner
def nearest(
    one: OutlineTable, two: OutlineTable, place: complex, turn: complex, tolerance: float, room: Room
) -> tuple[float, int, int]:
    """The least gap at a position, of features that face each other, and which they are; infinite and −1 where there
    is none. Gaps below −hair belong to features behind others."""
    best, best_i, best_j = np.inf, -1, -1
    within = np.inf  # no further than this are they, though it may not be known yet where
    visits = room.visits
    visits[0, 0], visits[0, 1] = 0, 0
    top = 1
    while top > 0:
        top -= 1
        i, j = visits[top, 0], visits[top, 1]
        if nodes_apart(one, i, two, j, place, turn) > min(best, within):
            continue
        more = branched(one, i, two, j, visits, top)
        if more >= 0:
            _nearer_on_top(one, two, place, turn, visits, more)
            top = more
            continue
        (first, last), (head, tail) = under(one, i), under(two, j)
        for k in range(first, last):
            for n in range(head, tail):
                a, b = one.features[k], two.features[n]
                if not share_depth(a, b):
                    continue
                apart = far_apart(a, b, place, turn)
                within = min(within, apart + 2.0 * (a[BR] + b[BR]) + tolerance)
                if apart < best and can_meet(a, b):
                    missed, gap, _normal, _point = facing(a, b, place, turn)
                    if missed <= 0.0 and -tolerance <= gap < best:
                        best, best_i, best_j = gap, k, n
    return best, best_i, best_j


@inner
def _nearer_on_top(
    one: OutlineTable, two: OutlineTable, place: complex, turn: complex, visits: Index, top: int
) -> None:
    """Puts the nearer of the two pairs of nodes last added on top, so that it is looked at first."""
    i, j, m, n = visits[top - 2, 0], visits[top - 2, 1], visits[top - 1, 0], visits[top - 1, 1]
    if nodes_apart(one, i, two, j, place, turn) < nodes_apart(one, m, two, n, place, turn):
        visits[top - 2, 0], visits[top - 2, 1], visits[top - 1, 0], visits[top - 1, 1] = m, n, i, j


@compiled
def nearest_at(
    one: OutlineTable, two: OutlineTable, place: complex, turn: complex, tolerance: float, room: Room
) -> tuple[float, int, int]:
    """The least gap at a position of parts that do not overlap, and the features."""
    return nearest(one, two, place, turn, tolerance, room)


@compiled
def overlaps(
    one: OutlineTable, two: OutlineTable, places: np.ndarray, turns: np.ndarray, room: Room, found: np.ndarray
) -> int:
    """Fills `found` (S,) with whether the parts overlap at positions; returns how many do."""
    count = 0
    for k in range(len(places)):
        found[k] = overlap(one, two, places[k], turns[k], room)
        count += found[k]
    return count


@inner
def worth(error: float, one: OutlineTable, room: Room) -> bool:
    """Whether halving an interval can tell more: not where the parts move less than is known of the motion."""
    reach = abs(complex(one.nodes[0, 0], one.nodes[0, 1])) + one.nodes[0, 2]
    return swayed(room.moving[0]) + reach * swayed(room.moving[1]) > error


@inner
def _look(
    one: OutlineTable,
    two: OutlineTable,
    i: int,
    j: int,
    motion: Six,
    slide: float,
    swing: float,
    stretch: int,
    center: float,
    half: float,
    tolerance: float,
    accuracy: float,
    best: Array,
    room: Room,
    kept: int,
) -> tuple[int, int, float]:
    """Looks at a pair of features within an interval. It is kept, as number `kept`, where it must be looked at more
    closely: it may face, come nearer than what matters, and is not wholly behind. Returns how many are kept now, how
    many looks that took, and the bound of its gap (infinite where it isn't kept)."""
    a, b = one.features[i], two.features[j]
    limit = best[0] - accuracy
    if far_apart(a, b, room.moving[0, 0], room.moving[1, 0]) - slide - swing * out(a) > limit:
        return kept, 0, np.inf
    middle, sway, place_left, turn_left, back_left, _ = motion
    faces, low, high, _gap, least = bounded(a, b, middle, sway, place_left, turn_left, back_left, room)
    if not (faces and low < limit and high >= -tolerance):
        return kept, 1, np.inf
    if kept < len(room.pairs):
        room.pairs[kept, 0], room.pairs[kept, 1] = i, j
    for u in (0.0, least):  # what it is in the middle, and about where it is least, may be less than all so far
        place, turn = pose_at(room, u)
        missed, gap, _normal, _point = facing(a, b, place, turn)
        if missed <= 0.0 and -tolerance <= gap < best[0]:
            best[0], best[1], best[2], best[3], best[4] = gap, stretch, center + u * half, i, j
    return kept + 1, 1, low


@compiled
def search(
    track: MotionTrack,
    a: int,
    b: int,
    one: OutlineTable,
    two: OutlineTable,
    tolerance: float,
    accuracy: float,
    best: Array,
    count: int,
    budget: int,
    room: Room,
) -> tuple[int, int]:
    """Goes on with the intervals on the stack (`count` of them) until none is left or `budget` is used up. `best` (8):
    the least gap, its stretch and place in it, its two features, the bound of what could not be decided, the number of
    looks taken, the limit below which it touches. Returns how it ended and how many intervals are left.
    """
    stack, marks, pairs, visits = room.stack, room.marks, room.pairs, room.visits
    evaluations = 0
    while count > 0:
        if evaluations > budget:
            best[6] += evaluations
            return PAUSED, count
        count -= 1
        stretch, first, last = marks[count, 0], marks[count, 1], marks[count, 2]
        start, end = stack[count, 0], stack[count, 1]
        middle, half = (start + end) / 2.0, (end - start) / 2.0
        motion = relative(track, stretch, a, b, middle, half, room)
        moving = room.moving
        slide, swing = swayed(moving[0]) + motion[2], swayed(moving[1]) + motion[3]
        kept = max(last, 0)
        begin = kept
        lowest = np.inf
        evaluations += 1
        if first < 0:
            seen, top = 0, 1
            visits[0, 0], visits[0, 1] = 0, 0
            while top > 0 and kept <= len(pairs) and seen < MOST_SEEN:
                top -= 1
                seen += 1
                i, j = visits[top, 0], visits[top, 1]
                strayed = slide + swing * abs(complex(one.nodes[i, 0], one.nodes[i, 1]))
                if nodes_apart(one, i, two, j, moving[0, 0], moving[1, 0]) - strayed > best[0] - accuracy:
                    continue
                more = branched(one, i, two, j, visits, top)
                if more >= 0:
                    top = more
                    continue
                (k0, k1), (h0, h1) = under(one, i), under(two, j)
                for k in range(k0, k1):
                    for h in range(h0, h1):
                        if can_meet(one.features[k], two.features[h]):
                            kept, looked, low = _look(
                                one, two, k, h, motion, slide, swing, stretch, middle, half, tolerance, accuracy, best,
                                room, kept,
                            )
                            evaluations, lowest = evaluations + looked, min(lowest, low)
            if top > 0:  # too much to look through: nothing is known of the interval but through its halves
                kept, lowest = len(pairs) + 1, -np.inf
        else:
            seen = (last - first) // 4
            for p in range(first, last):
                kept, looked, low = _look(
                    one,
                    two,
                    pairs[p, 0],
                    pairs[p, 1],
                    motion,
                    slide,
                    swing,
                    stretch,
                    middle,
                    half,
                    tolerance,
                    accuracy,
                    best,
                    room,
                    kept,
                )
                evaluations, lowest = evaluations + looked, min(lowest, low)
        evaluations += seen
        if best[0] <= best[7]:
            best[6] += evaluations
            return TOUCHES, count
        if kept == begin or lowest >= best[0] - accuracy:
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
    best[6] += evaluations
    return DONE, 0


@compiled
def contact(
    one: OutlineTable, i: int, two: OutlineTable, j: int, place: complex, turn: complex
) -> tuple[complex, complex, float]:
    """The points of two facing features (on the first, on the second), in the axes of the second, and the gap."""
    _missed, gap, normal, point = facing(one.features[i], two.features[j], place, turn)
    return point + gap * normal, point, gap
