"""The closest approach of pairs of parts that share depth, over the whole motion.

Sampled densely, then refined around every sample that could lead to the least value, with exact line and arc
distances. Between the samples nothing is guaranteed yet, and `proven` says so.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from itertools import combinations

import numpy as np
import shapely

from ..document.model import Document
from ..geometry.distance import edge_to_edge
from ..geometry.edges import FIELDS, Array, Edges, Mask, Plane
from ..geometry.outline import Region, slabs
from ..kinematics.extremes import narrowed
from ..kinematics.motion import Motion
from .overlap import outline_polygon, penetration

SAMPLES = 145


@dataclass(frozen=True)
class Approach:
    """The closest approach of two parts: signed distance (document lengths; below zero a penetration depth), the time
    and first driver's coordinate (core units) where it occurs, and the nearest point on each part (x, y) in the plane.

    `samples` holds times and signed distances of the dense sampling, for drawing.
    """

    parts: tuple[str, str]
    distance: float
    t: float
    driver: float | None
    points: tuple[complex, complex]
    proven: bool
    samples: tuple[Array, Array] = field(repr=False)

    def near(self, t: float) -> float:
        """The signed distance at a time, to the fineness of the samples; for drawing."""
        return float(np.interp(t, *self.samples))


def sharing_regions(document: Document, one: str, two: str) -> list[tuple[Region, Region]]:
    """The regions of two parts that overlap in depth; slabs that only touch in a plane don't."""
    return list(
        dict.fromkeys(
            (a.region, b.region)
            for a in slabs(document.parts[one])
            for b in slabs(document.parts[two])
            if a.low < b.high and b.low < a.high
        )
    )


def pairs_to_watch(document: Document) -> list[tuple[str, str]]:
    """Pairs of parts that share depth and are not joined directly, and those that a check names."""
    named = [check.parts for check in document.checks.values() if check.parts is not None]
    joined = {frozenset((joint.a.part, joint.b.part)) for joint in document.active_joints.values()}
    found = dict.fromkeys(named)
    seen = {frozenset(pair) for pair in named}
    for pair in combinations([part.id for part in document.parts.values() if part.shapes], 2):
        if frozenset(pair) not in joined | seen:
            found[pair] = None
    return [pair for pair in found if sharing_regions(document, *pair)]


def closest_approaches(
    motion: Motion, pairs: Sequence[tuple[str, str]] | None = None, progress: Callable[[float], None] | None = None
) -> list[Approach]:
    """The closest approach of each pair (default: `pairs_to_watch`) over the motion."""
    document = motion.document
    pairs = pairs_to_watch(document) if pairs is None else list(pairs)
    if not pairs:
        return []
    end = motion.path.t1
    t = np.linspace(0.0, end, SAMPLES) if end > 0 else np.zeros(1)
    q = motion.positions(t)
    watches = [_Watch(motion, pair, t, q) for pair in pairs]
    _refine(motion, watches)
    found = []
    for i, watch in enumerate(watches):
        found.append(watch.found())
        if progress is not None:
            progress((i + 1) / len(pairs))
    return found


def _refine(motion: Motion, watches: "Sequence[_Watch]") -> None:
    """Narrows down on every local minimum of the samples that could be the least of its pair, all pairs at once."""
    brackets = [(watch, *bracket) for watch in watches for bracket in watch.brackets()]
    if not brackets:
        return

    def evaluate(times: Array) -> Array:
        q = motion.positions(times.ravel()).reshape(*times.shape, *motion.system.placed.shape)
        rows = enumerate(zip(brackets, times, q, strict=True))
        return np.stack([watch.gaps(row, at, key) for key, ((watch, *_), row, at) in rows])

    narrowed(evaluate, np.array([left for _, left, _ in brackets]), np.array([right for *_, right in brackets]))


class _Watch:
    """One pair of parts; everything is seen in the frame of the second."""

    def __init__(self, motion: Motion, pair: tuple[str, str], t: Array, q: Array):
        self.motion, self.pair = motion, pair
        self.bodies = tuple(motion.system.body(part) for part in pair)
        self.regions = sharing_regions(motion.document, *pair)
        self.reach = max(region.reach for both in self.regions for region in both)
        if all(body not in motion.system.moving for body in self.bodies):
            t, q = t[:1], q[:1]
        self.t, self.end = t, float(t[-1])
        shift, turn = self.poses(q)
        self.samples = np.min([self.rough(*both, shift, turn) for both in self.regions], axis=0)
        self.near: dict[int, list[tuple[Edges, Edges]]] = {}
        self.best = self.exact(t[:1], shift[:1], turn[:1])
        deep = np.flatnonzero(self.samples <= 0)
        if deep.size:
            chosen = deep[np.linspace(0, deep.size - 1, min(deep.size, 24)).astype(int)]
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
        return Approach(self.pair, distance, at, self.motion.driver_value(at), points, False, (self.t, self.samples))

    def rough(self, one: Region, two: Region, shift: Plane, turn: Array) -> Array:
        """(S,) distance of polygons that lie within the true outlines; 0 where they overlap."""
        sag = 1e-3 * self.reach
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
                    depth, way = penetration(one, two, complex(shift[i]), float(turn[i]))
                    middle = self.middle(one, two, complex(shift[i]), float(turn[i]))
                    entry: _Best = (-depth, float(t[i]), middle - way / 2, middle + way / 2)
                else:
                    entry = (float(gap[i]), float(t[i]), complex(p[i]), complex(q[i]))
                best = min(best, entry, key=lambda found: found[0])
        return best

    def middle(self, one: Region, two: Region, shift: complex, turn: float) -> complex:
        """The middle of an overlap."""
        sag = 1e-3 * self.reach
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
        """Narrows down on the deepest overlap around the worst position so far."""
        for _ in range(4):
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
        sag = 2e-3 * self.reach
        centers = np.flatnonzero(low & (rough - dip - sag <= rough.min() + sag))[:24]
        return [(float(t[max(i - 1, 0)]), float(t[min(i + 1, t.size - 1)])) for i in centers]

    def gaps(self, t: Array, q: Array, key: int) -> Array:
        """(F,) exact distances at positions q (F, P, 3) of one bracket. The edges that can be nearest are found at the
        first call, and fewer at each later one, as the bracket grows narrow."""
        shift, turn = self.poses(q)
        if key not in self.near:
            self.near[key] = [_near_edges(one, two, shift, turn) for one, two in self.regions]
        gaps = np.full(t.size, np.inf)
        for number, (one, two) in enumerate(self.near[key]):
            gap, p, other = edge_to_edge(one.moved(shift, turn), _still(two, t.size))
            column, rows = np.argmin(gap, axis=1), np.arange(t.size)
            least = gap[rows, column]
            k = int(np.argmin(least))
            if least[k] == 0.0:  # the outlines cross here although they don't at the samples
                self.offer(self.exact(t[k : k + 1], shift[k : k + 1], turn[k : k + 1]))
                self.deepen(float(t[-1] - t[0]))
            else:
                self.offer((float(least[k]), float(t[k]), complex(p[k, column[k]]), complex(other[k, column[k]])))
            gaps = np.minimum(gaps, least)
            around = slice(max(k - 1, 0), k + 2)
            moved = float(np.abs(np.diff(shift[around])).sum() + self.reach * np.abs(np.diff(turn[around])).sum())
            can = gap[around].min(axis=0) <= least[k] + moved
            self.near[key][number] = (one.pick(can), two.pick(can))
        return gaps


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
