"""How a mechanism behaves: linkage class, time ratio, dwells, mechanical advantage, instantaneous centres."""

from dataclasses import dataclass
from itertools import combinations

import numpy as np

from ..arrays import Array, Mask
from ..document.model import Document, Joint
from ..kinematics.motion import Motion, State
from ..measures.dwelling import STILL, Rests, Window, dense
from ..measures.strokes import time_ratio

LONG = 0.06
"""Share of the motion from which standing still counts as a dwell."""
NO_TURN = 1e-7
"""Turn of two parts against each other, times the size of the mechanism, as a share of how fast they slide, below which
they only slide: rounding."""
MOST_BETWEEN = 12
"""Links between two parts that are looked at in pairs: of a wheel with hundreds of spokes a few will do."""


@dataclass(frozen=True)
class Linkage:
    """A loop of four pinned links: its parts from the fixed one (or the first) on, their lengths (document lengths)
    and what it is."""

    parts: tuple[str, str, str, str]
    lengths: tuple[float, float, float, float]
    kind: str


def linkages(document: Document) -> list[Linkage]:
    """The loops of four parts and four revolute joints, each classed by Grashof's rule.

    With s + l < p + q (shortest and longest against the other two) the shortest link turns fully against all others:
    fixed it makes a drag link, next to the fixed one a crank-rocker, opposite a double rocker. With equality the links
    can lie in line (change point); else no link turns fully. (F. Grashof 1883, attribution from memory.)
    """
    pins: dict[tuple[str, str], list[Joint]] = {}
    beside: dict[str, list[str]] = {part: [] for part in document.parts}
    for joint in document.active_joints.values():
        if joint.kind.pin:
            one, two = joint.a.part, joint.b.part
            for pair in ((one, two), (two, one)):
                if pair not in pins:
                    beside[pair[0]].append(pair[1])
                pins.setdefault(pair, []).append(joint)
    order = {part: i for i, part in enumerate(document.parts)}
    # Each ring is found once, from its part of the most pins, so that the search stays near linear.
    rank = {part: (len(beside[part]), -order[part]) for part in document.parts}
    found: list[Linkage] = []
    for start in sorted(document.parts, key=rank.__getitem__, reverse=True):
        across: dict[str, list[str]] = {}
        for one in beside[start]:
            if rank[one] < rank[start]:
                for far in beside[one]:
                    if rank[far] < rank[start]:
                        across.setdefault(far, []).append(one)
        for far, between in across.items():
            for one, two in combinations(between[:MOST_BETWEEN], 2):
                linkage = _linkage(document, pins, order, (start, one, far, two))
                if linkage is not None:
                    found.append(linkage)
    return sorted(found, key=lambda linkage: [order[part] for part in linkage.parts])


def _linkage(
    document: Document, pins: dict[tuple[str, str], list[Joint]], order: dict[str, int], ring: tuple[str, str, str, str]
) -> Linkage | None:
    """The linkage of a ring, from its fixed part (or its first) on; None where two are fixed or a link has no
    length."""
    fixed = [document.parts[part].fixed for part in ring]
    if sum(fixed) > 1:
        return None
    first = fixed.index(True) if any(fixed) else min(range(4), key=lambda i: order[ring[i]])
    parts = (ring[first], ring[(first + 1) % 4], ring[(first + 2) % 4], ring[(first + 3) % 4])
    if order[parts[3]] < order[parts[1]]:
        parts = (parts[0], parts[3], parts[2], parts[1])
    joints = [pins[parts[i], parts[(i + 1) % 4]][0] for i in range(4)]
    a, b, c, d = (_length(document, part, joints[i - 1], joints[i]) for i, part in enumerate(parts))
    if min(a, b, c, d) <= 0:
        return None
    return Linkage(parts, (a, b, c, d), grashof(a, b, c, d, grounded=any(fixed)))


def grashof(ground: float, one: float, opposite: float, two: float, grounded: bool = True) -> str:
    """The class of a four-bar by its link lengths in order round the loop.

    >>> grashof(100, 40, 120, 80)
    'crank-rocker'
    """
    lengths = (ground, one, opposite, two)
    short, long = min(lengths), max(lengths)
    others = sum(lengths) - short - long
    if abs(short + long - others) <= 1e-9 * sum(lengths):
        return "change-point four-bar"
    if short + long > others:
        return "double rocker, no link turns fully"
    if not grounded:
        return "four-bar whose shortest link turns fully"
    if short == ground:
        return "drag link"
    return "double rocker, its coupler turns fully" if short == opposite else "crank-rocker"


def _length(document: Document, part: str, one: Joint, two: Joint) -> float:
    points = document.parts[part].points
    ends = [complex(*points[joint.seen_from(part)[0].point]) for joint in (one, two)]
    return abs(ends[0] - ends[1])


@dataclass(frozen=True)
class Dwell:
    """A stretch of the motion in which a coordinate stands nearly still: from and to (s), and its value there."""

    start: float
    stop: float
    value: float


@dataclass(frozen=True)
class Behaviour:
    """How a joint's coordinate behaves: the ratio of its two strokes (None where there are no two) and its dwells."""

    time_ratio: float | None
    dwells: tuple[Dwell, ...]


def behaviours(motion: Motion) -> dict[str, Behaviour]:
    """The behaviour of every joint that has a coordinate, from one sampling of the motion."""
    ids = motion.system.coordinates.ids
    if motion.path.t1 == 0.0 or not motion.drive.drivers or not ids:
        return dict.fromkeys(ids, Behaviour(None, ()))
    resting = _resting(motion, STILL, LONG)
    t = dense(motion) if resting.any() else np.zeros(0)
    values = motion.coordinates(t)
    return {
        joint: Behaviour(
            time_ratio(motion, column),
            tuple(_dwells(motion, column, t, values[:, column], STILL, LONG) if resting[column] else ()),
        )
        for column, joint in enumerate(ids)
    }


def _resting(motion: Motion, still: float, long: float) -> Mask:
    """(C,) whether a coordinate can have a dwell at all: over some window of steps somewhat shorter than one it hardly
    moves. All can where the steps are too few to tell."""
    t, values = motion.state.t, motion.state.coordinates
    window = int(long * motion.path.t1 / (t[1] - t[0])) - 1 if t.size > 1 else 0
    if not 2 <= window <= t.size:
        return np.ones(values.shape[1], dtype=np.bool_)
    moved = (_over_windows(np.maximum, values, window) - _over_windows(np.minimum, values, window)).min(axis=0)
    rests: Mask = moved <= still * (motion.extremes.high - motion.extremes.low)
    return rests


def _over_windows(extreme: np.ufunc, values: Array, window: int) -> Array:
    """The greatest or least (`np.maximum`, `np.minimum`) of so many rows in line, for each place of such a window: of
    windows twice as long again and again, so that many steps take little longer than few.

    >>> _over_windows(np.maximum, np.array([1, 5, 2, 0, 3]), 3)
    array([5, 5, 3])
    """
    size, found = 1, values
    while 2 * size <= window:
        found, size = extreme(found[:-size], found[size:]), 2 * size
    count = len(values) - window + 1
    both: Array = extreme(found[:count], found[window - size : window - size + count])
    return both


def dwells(motion: Motion, joint: str, still: float = STILL, long: float = LONG) -> list[Dwell]:
    """The stretches in which a joint's coordinate stays within `still` of its travel for at least `long` of the motion.

    They are looked for on a dense grid of times; each that is found is then located like the measure *dwell*.
    """
    t, column = dense(motion), motion.system.coordinates.index(joint)
    return _dwells(motion, column, t, motion.coordinates(t)[:, column], still, long)


def _dwells(motion: Motion, column: int, t: Array, values: Array, still: float, long: float) -> list[Dwell]:
    """The same of a coordinate that is sampled at times t (S,), in one run over the samples."""
    travel = float(motion.extremes.high[column] - motion.extremes.low[column])
    if travel <= 1e-12 or t[-1] == 0.0:
        return []
    needed = long * float(t[-1])
    spans = _sampled_dwells(t, values, still * travel, needed)
    if not spans:
        return []
    rests = Rests(motion, column, still * travel, t, values)
    found: list[Dwell] = []
    for span in spans:
        start, stop = rests.located(span)
        if found and start < found[-1].stop:  # both were part of one rest; the longer is it
            if stop - start <= found[-1].stop - found[-1].start:
                continue
            found.pop()
        if stop - start >= needed:
            found.append(Dwell(start, stop, rests.middle(start, stop)))
    return found


def _sampled_dwells(t: Array, values: Array, room: float, needed: float) -> list[tuple[float, float]]:
    """The spans between samples, beginning as early as they can, none overlapping another."""
    needed -= 2.0 * float(np.diff(t).max(initial=0.0))  # one may end anywhere between two samples
    times, window = t.tolist(), Window(values, room)
    found: list[tuple[float, float]] = []

    def close(last: int) -> bool:
        first = window.first
        if times[last] - times[first] < needed:
            return False
        found.append((times[first], times[last]))
        return True

    for i in range(len(times)):
        window.take(i)
        if window.too_wide:
            if close(i - 1):
                window.start_at(i)
                window.take(i)
            window.narrow()
    close(len(times) - 1)
    return found


def instant_center(state: State, step: int, one: int, two: int) -> complex | None:
    """The point about which body `one` turns against body `two` at a step (document lengths); None where they don't
    turn against each other: then they rest, or it lies at infinity. v₁ + iω₁(z − z₁) = v₂ + iω₂(z − z₂) solved for
    z."""
    z = [complex(state.q[step, body, 0], state.q[step, body, 1]) for body in (one, two)]
    v = [complex(state.v[step, body, 0], state.v[step, body, 1]) for body in (one, two)]
    w = [float(state.v[step, body, 2]) for body in (one, two)]
    turning = w[0] - w[1]
    places = state.q[step, :, 0] + 1j * state.q[step, :, 1]
    size = float(np.abs(places - places.mean()).max()) or 1.0
    if abs(turning) <= 1e-9 * max(abs(w[0]), abs(w[1]), 1e-12):
        return None
    sliding = v[1] - v[0] + 1j * turning * (z[1] - z[0])  # of one against two, where the second stands
    if abs(turning) * size <= NO_TURN * max(abs(sliding), abs(v[0]), abs(v[1])):
        return None
    return (v[1] - v[0] + 1j * (w[0] * z[0] - w[1] * z[1])) / (1j * turning)
