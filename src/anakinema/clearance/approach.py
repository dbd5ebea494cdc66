"""The closest approach of pairs of parts that share depth, over the whole motion.

Sampled densely, then refined around every sample that could lead to the least value, with exact line and arc
distances. Between the samples nothing is guaranteed yet, and `proven` says so.
"""

import time
from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import combinations

import numpy as np
import shapely

from ..arrays import Array, Mask, Plane
from ..document.model import Document
from ..geometry.distance import edge_to_edge
from ..geometry.edges import FIELDS, Edges, joined
from ..geometry.outline import Region
from ..joints import COUPLING_TYPES
from ..kinematics.extremes import narrowed
from ..kinematics.motion import Motion
from ..work import Work
from .overlap import core_pairs, outline_polygon, penetration

SAMPLES = 145
SAG = 1e-3
"""How far the polygons of the dense sampling miss the true arcs, relative to the parts' reach."""

SAMPLED = "sampled and refined, not certified between the samples"
PATIENCE = 3.5
"""Seconds after which no further pair is begun."""
MOST_EDGES = 1_000_000
"""Edges of one outline times those of the other that can be compared at once."""
MOST_HULLS = 1_500
"""Convex pieces times pieces that are looked at for the depths of one pair."""


@dataclass(frozen=True)
class Approach:
    """The closest approach of two parts: signed distance (document lengths; below zero a penetration depth), the time
    and first driver's coordinate (core units) where it occurs, and the nearest point on each part (x, y) in the plane.

    `samples` holds times and signed distances of the dense sampling, for drawing. A distance that was not found is
    None, and `reason` says why.
    """

    parts: tuple[str, str]
    distance: float | None
    t: float
    driver: float | None
    points: tuple[complex, complex]
    proven: bool
    samples: tuple[Array, Array] = field(repr=False)
    reason: str = ""
    """Why it is not proven, or was not found."""


def sharing_regions(document: Document, one: str, two: str) -> list[tuple[Region, Region]]:
    """The regions of two parts that overlap in depth; slabs that only touch in a plane don't."""
    return list(
        dict.fromkeys(
            (a.region, b.region)
            for a in document.parts[one].slabs
            for b in document.parts[two].slabs
            if a.low < b.high and b.low < a.high
        )
    )


def pairs_to_watch(document: Document) -> list[tuple[str, str]]:
    """Pairs of parts that share depth and are not joined directly, and those that a check names."""
    named = [check.parts for check in document.checks.values() if check.parts is not None]
    joined = {frozenset((joint.a.part, joint.b.part)) for joint in document.active_joints.values()}
    for coupling in document.active_couplings.values():
        if COUPLING_TYPES[coupling.type].meshes:
            joined.add(frozenset(document.joints[name].b.part for name in (coupling.a, coupling.b)))
    found = dict.fromkeys(named)
    known = joined | {frozenset(pair) for pair in named}
    for pair in combinations([part.id for part in document.parts.values() if part.shapes], 2):
        if frozenset(pair) not in known:
            found[pair] = None
    return [pair for pair in found if sharing_regions(document, *pair)]


def closest_approaches(
    motion: Motion, pairs: Sequence[tuple[str, str]] | None = None, work: Work | None = None
) -> list[Approach]:
    """The closest approach of each pair (default: `pairs_to_watch`) over the motion. What would take longer than
    `PATIENCE` in all is left, and says so."""
    document = motion.document
    work = work or Work()
    pairs = pairs_to_watch(document) if pairs is None else list(pairs)
    if not pairs:
        return []
    end = motion.path.t1 if any(law.slope.any() for law in motion.path.laws) else 0.0
    t = np.linspace(0.0, end, SAMPLES) if end > 0 else np.zeros(1)
    work.check()
    q = motion.positions(t)
    until = time.monotonic() + PATIENCE
    found = []
    for i, pair in enumerate(pairs):
        work.done(i / len(pairs))
        if time.monotonic() > until:
            reason = f"{len(pairs)} pairs take longer than can be waited for; name those that matter in checks"
            found.append(_unknown(motion, pair, reason))
            continue
        try:
            watch = _Watch(motion, pair, t, q, work)
            _refine(motion, watch, work)
            found.append(watch.found())
        except TooMuch as error:
            found.append(_unknown(motion, pair, str(error)))
    return found


class TooMuch(Exception):
    """Raised for outlines of more edges than can be compared."""


def _unknown(motion: Motion, pair: tuple[str, str], reason: str) -> Approach:
    none = np.zeros(0)
    return Approach(pair, None, 0.0, motion.driver_value(0.0), (0j, 0j), False, (none, none), reason)


def _refine(motion: Motion, watch: "_Watch", work: Work) -> None:
    """Narrows down on every local minimum of the samples that could be the least of the pair."""
    brackets = watch.brackets()
    if not brackets:
        return

    def evaluate(times: Array) -> Array:
        work.check()
        q = motion.positions(times.ravel()).reshape(*times.shape, *motion.system.placed.shape)
        looks = [_Look(watch, key, times[key], q[key]) for key in range(len(brackets))]
        # One call for all brackets: the cost lies in the number of calls, not in the number of edges.
        found = edge_to_edge(joined([look.one for look in looks]), joined([look.two for look in looks]))
        cuts = np.cumsum([look.one.count for look in looks])[:-1]
        shares = zip(*(np.split(values, cuts) for values in found), strict=True)
        return np.stack([look.taken(*share) for look, share in zip(looks, shares, strict=True)])

    left, right = (np.array([bracket[side] for bracket in brackets]) for side in (0, 1))
    narrowed(evaluate, left, right, 1e-8 * watch.reach)


class _Watch:
    """One pair of parts; everything is seen in the frame of the second."""

    def __init__(self, motion: Motion, pair: tuple[str, str], t: Array, q: Array, work: Work):
        self.motion, self.pair, self.work = motion, pair, work
        self.bodies = tuple(motion.system.body(part) for part in pair)
        self.regions = sharing_regions(motion.document, *pair)
        self.reach = max(region.reach for both in self.regions for region in both)
        for one, two in self.regions:
            if one.edges.count * two.edges.count > MOST_EDGES:
                counts = f"{one.edges.count} and {two.edges.count}"
                raise TooMuch(f"outlines of {counts} edges are more than can be compared; simplify one of them")
        if all(body not in motion.system.moving for body in self.bodies):
            t, q = t[:1], q[:1]
        self.t, self.end = t, float(t[-1])
        self.looks = max(2, MOST_HULLS // max(core_pairs(one, two) for one, two in self.regions))
        shift, turn = self.poses(q)
        self.samples = np.min([self.rough(*both, shift, turn) for both in self.regions], axis=0)
        self.near: dict[int, tuple[Edges, Edges]] = {}
        self.best = self.exact(t[:1], shift[:1], turn[:1])
        deep = np.flatnonzero(self.samples <= 0)
        if deep.size:
            chosen = deep[np.linspace(0, deep.size - 1, min(deep.size, 24, self.looks)).astype(int)]
            for i in chosen:
                value = self.exact(t[i : i + 1], shift[i : i + 1], turn[i : i + 1])
                self.samples[i] = value[0]
                self.offer(value)
            self.deepen(float(t[1] - t[0]) if t.size > 1 else 0.0)

    def offer(self, value: "_Best") -> None:
        """Keeps the least value of all."""
        self.best = min(self.best, value, key=lambda entry: entry[0])

    def poses(self, q: Array) -> tuple[Plane, Array]:
        """Shift (S,) and turn (S,) of the first part in the frame of the second."""
        a, b = q[:, self.bodies[0]], q[:, self.bodies[1]]
        shift = ((a[:, 0] - b[:, 0]) + 1j * (a[:, 1] - b[:, 1])) * np.exp(-1j * b[:, 2])
        return shift, a[:, 2] - b[:, 2]

    def found(self) -> Approach:
        """The closest approach so far, in the plane."""
        distance, at, p, q = self.best
        frame = self.motion.positions(np.array([at]))[0, self.bodies[1]]
        spin, place = np.exp(1j * frame[2]), complex(frame[0], frame[1])
        points = (complex(p * spin + place), complex(q * spin + place))
        beside = np.searchsorted(self.t, at)
        samples = (np.insert(self.t, beside, at), np.insert(self.samples, beside, distance))
        return Approach(self.pair, distance, at, self.motion.driver_value(at), points, False, samples, SAMPLED)

    def rough(self, one: Region, two: Region, shift: Plane, turn: Array) -> Array:
        """(S,) distance of polygons that lie within the true outlines; 0 where they overlap."""
        sag = SAG * self.reach
        moved = np.repeat(outline_polygon(one, sag), shift.size)
        xy, which = shapely.get_coordinates(moved, return_index=True)
        z = (xy[:, 0] + 1j * xy[:, 1]) * np.exp(1j * turn[which]) + shift[which]
        moved = shapely.set_coordinates(moved, np.stack((z.real, z.imag), axis=1))
        other = outline_polygon(two, sag)
        shapely.prepare(other)
        gaps: Array = shapely.distance(moved, other)
        return gaps

    def exact(self, t: Array, shift: Plane, turn: Array) -> "_Best":
        """The least signed distance at some positions, with exact outlines."""
        best: _Best = (np.inf, float(t[0]), 0j, 0j)
        for one, two in self.regions:
            gap, p, q = _grid(one.edges, two.edges, shift, turn)
            overlaps = (gap <= 0) | (self.rough(one, two, shift, turn) <= 0)
            for i in range(t.size):
                if overlaps[i]:
                    self.work.check()
                    depth, way = penetration(one, two, complex(shift[i]), float(turn[i]))
                    middle = self.middle(one, two, complex(shift[i]), float(turn[i]))
                    entry: _Best = (-depth, float(t[i]), middle - way / 2, middle + way / 2)
                else:
                    entry = (float(gap[i]), float(t[i]), complex(p[i]), complex(q[i]))
                best = min(best, entry, key=lambda found: found[0])
        return best

    def middle(self, one: Region, two: Region, shift: complex, turn: float) -> complex:
        """The middle of an overlap."""
        sag = SAG * self.reach
        shape = outline_polygon(one, sag)
        xy = shapely.get_coordinates(shape)
        z = (xy[:, 0] + 1j * xy[:, 1]) * np.exp(1j * turn) + shift
        moved = shapely.set_coordinates(np.array([shape]), np.stack((z.real, z.imag), axis=1))[0]
        common = shapely.intersection(moved, outline_polygon(two, sag))
        if common.is_empty:
            line = shapely.get_coordinates(shapely.shortest_line(moved, outline_polygon(two, sag)))[0]
            return complex(*line)
        return complex(common.centroid.x, common.centroid.y)

    def deepen(self, width: float) -> None:
        """Narrows down on the deepest overlap around the worst position so far (its depth may have a kink there)."""
        for _ in range(min(13, self.looks // 7)):
            self.work.check()
            t = np.linspace(max(self.best[1] - width, 0.0), min(self.best[1] + width, self.end), 7)
            self.offer(self.exact(t, *self.poses(self.motion.positions(t))))
            width /= 3

    def brackets(self) -> list[tuple[float, float]]:
        """Intervals around the samples beside which the least distance may lie."""
        rough, t = self.samples, self.t
        if t.size == 1 or self.best[0] <= 0:
            return []
        padded = np.concatenate(([np.inf], rough, [np.inf]))
        low = (rough <= padded[:-2]) & (rough <= padded[2:])
        # A sample's neighbours bound how much lower the true minimum beside it can lie.
        dip = np.maximum(np.abs(np.diff(rough, prepend=rough[0])), np.abs(np.diff(rough, append=rough[-1])))
        sag = 2 * SAG * self.reach
        centers = np.flatnonzero(low & (rough - dip - sag <= rough.min() + sag))[:24]
        return [(float(t[max(i - 1, 0)]), float(t[min(i + 1, t.size - 1)])) for i in centers]


class _Look:
    """One bracket in one round: the edges of a pair that can be nearest, at the times tried.

    Which edges can be nearest is found in the first round; fewer are left in each later one, as the bracket narrows.
    """

    def __init__(self, watch: _Watch, key: int, t: Array, q: Array):
        self.watch, self.key, self.t = watch, key, t
        self.shift, self.turn = watch.poses(q)
        if key not in watch.near:
            near = [_near_edges(one, two, self.shift, self.turn) for one, two in watch.regions]
            watch.near[key] = (joined([one for one, _ in near]), joined([two for _, two in near]))
        one, two = watch.near[key]
        self.shape = (t.size, one.count)
        self.one = _flat(one.moved(self.shift, self.turn))
        self.two = _flat(_still(two, t.size))

    def taken(self, gap: Array, p: Plane, q: Plane) -> Array:
        """(F,) the least distance at each time, from those of the edges; the least of all is kept by the watch."""
        gap, p, q = gap.reshape(self.shape), p.reshape(self.shape), q.reshape(self.shape)
        watch, t, rows = self.watch, self.t, np.arange(self.t.size)
        column = np.argmin(gap, axis=1)
        least: Array = gap[rows, column]
        k = int(np.argmin(least))
        if least[k] == 0.0:  # the outlines cross here although they don't at the samples
            watch.offer(watch.exact(t[k : k + 1], self.shift[k : k + 1], self.turn[k : k + 1]))
            watch.deepen(float(t[-1] - t[0]))
        else:
            watch.offer((float(least[k]), float(t[k]), complex(p[k, column[k]]), complex(q[k, column[k]])))
        around = slice(max(k - 1, 0), k + 2)
        moved = np.abs(np.diff(self.shift[around])).sum() + watch.reach * np.abs(np.diff(self.turn[around])).sum()
        can = gap[around].min(axis=0) <= least[k] + moved
        one, two = watch.near[self.key]
        watch.near[self.key] = (one.pick(can), two.pick(can))
        return least


def _flat(edges: Edges) -> Edges:
    return Edges(*(getattr(edges, name).ravel() for name in FIELDS))


_Best = tuple[float, float, complex, complex]


def _still(edges: Edges, poses: int) -> Edges:
    return Edges(*(np.broadcast_to(getattr(edges, name), (poses, edges.count)) for name in FIELDS))


def _grid(one: Edges, two: Edges, shift: Plane, turn: Array) -> tuple[Array, Plane, Plane]:
    """(S,) least distance of all edges to all edges, and the nearest points."""
    i, j = (index.ravel() for index in np.indices((one.count, two.count)))
    gap, p, q = edge_to_edge(one.pick(i).moved(shift, turn), _still(two.pick(j), shift.size))
    best, rows = np.argmin(gap, axis=1), np.arange(shift.size)
    return gap[rows, best], p[rows, best], q[rows, best]


def _near_edges(one: Region, two: Region, shift: Plane, turn: Array) -> tuple[Edges, Edges]:
    """Pairs of edges that can be the nearest ones between the first and the last of a few close poses."""
    i, j = (index.ravel() for index in np.indices((one.edges.count, two.edges.count)))
    picks = np.array([0, shift.size // 2, shift.size - 1])
    gap, _, _ = edge_to_edge(one.edges.pick(i).moved(shift[picks], turn[picks]), _still(two.edges.pick(j), 3))
    moved = float(np.abs(np.diff(shift)).sum() + one.reach * np.abs(np.diff(turn)).sum())
    can: Mask = gap.min(axis=0) <= gap.min() + moved
    return one.edges.pick(i[can]), two.edges.pick(j[can])
