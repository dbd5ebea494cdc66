"""Walls: where the material between two edges of an outline is thin, exact for lines and arcs.

A wall stands square on both its sides (within 30°, so that a taper counts and the corner of a plate does not), or runs
from the corner of a hole.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from ..arrays import Index, Mask, Plane
from .edges import Edges, boxes, windings
from .outline import Region

SQUARE = math.cos(math.radians(30.0))
CORNER = 1e-6
"""How near an edge's end a place counts as its corner (share of the edge)."""


@dataclass(frozen=True)
class Wall:
    """The material between two places of an outline (the part's own axes, document lengths)."""

    thickness: float
    one: complex
    two: complex


MOST_LOOKS = 200_000
"""Pairs of edges that are looked at, of those that are nearest."""


def thinnest(region: Region, limit: float, but: frozenset[int] = frozenset()) -> Wall | None:
    """The thinnest wall of a region, of those thinner than a limit; None where there is none. Walls within one of the
    shapes `but` (their numbers) are left out: teeth are as thin as they are meant.

    >>> from anakinema.geometry.outline import region
    >>> from anakinema.geometry.shapes import Disc
    >>> ring = region((Disc(center=(0, 0), diameter=10), Disc(center=(1, 0), diameter=6, cut=True)))
    >>> round(thinnest(ring, 2.0).thickness, 9)
    1.0
    """
    edges = region.edges
    outline = _Outline(region)
    apart = np.isin(edges.shape, list(but))
    ends = min((wall for wall in outline.ends(~apart)), key=lambda wall: wall.thickness, default=None)
    best = ends if ends is not None and ends.thickness < limit else None
    first, second = _near(edges, limit, apart)
    of, one, two = _facing(edges.pick(first), edges.pick(second))
    thick = np.abs(two - one)
    keep = np.flatnonzero((thick > 1e-9) & (thick < (best.thickness if best is not None else limit)))
    of, one, two = of[keep], one[keep], two[keep]
    square = outline.square(first[of], one, two) & outline.square(second[of], two, one)
    order = np.flatnonzero(square)[np.argsort(thick[keep][square], kind="stable")]
    for k in order.tolist():
        inner = one[k] + (two[k] - one[k]) * np.array([0.25, 0.5, 0.75])
        if np.all(windings(edges, inner) != 0):
            return Wall(float(abs(two[k] - one[k])), complex(one[k]), complex(two[k]))
    return best


def _near(edges: Edges, limit: float, apart: Mask) -> tuple[Index, Index]:
    """The pairs of edges whose boxes lie nearer to each other than a limit, and that may face each other; not two of
    one shape that is looked at `apart`."""
    import shapely

    low, high = boxes(edges)
    plain = shapely.box(low.real, low.imag, high.real, high.imag)
    wide = shapely.box(low.real - limit, low.imag - limit, high.real + limit, high.imag + limit)
    first, second = shapely.STRtree(plain).query(wide)
    keep = (first < second) & ~(apart[first] & apart[second] & (edges.shape[first] == edges.shape[second]))
    first, second = first[keep], second[keep]
    straight = ~(edges.is_arc[first] | edges.is_arc[second])
    way = edges.direction(np.full(edges.count, 0.5))
    keep = ~straight | ((way[first].conj() * way[second]).real < 0.9)  # they don't run alike
    return first[keep][:MOST_LOOKS], second[keep][:MOST_LOOKS]


class _Outline:
    """Which way is inward along a region's edges, and at their corners."""

    def __init__(self, region: Region):
        self.edges = region.edges
        self.before = np.zeros(region.edges.count, dtype=np.intp)
        self.after = np.zeros(region.edges.count, dtype=np.intp)
        for loop in region.loops:
            self.before[loop], self.after[loop] = np.roll(loop, 1), np.roll(loop, -1)

    def ends(self, wanted: Mask) -> Iterator[Wall]:
        """Where what tapers ends: edges between two that stand square on them."""
        chord = self.edges.end - self.edges.start
        size = np.abs(chord)
        way = chord / np.where(size > 0, size, 1.0)
        one = 1j * self.edges.pick(self.before).direction(np.ones(self.edges.count))
        two = 1j * self.edges.pick(self.after).direction(np.zeros(self.edges.count))
        square = ((one.conj() * way).real >= SQUARE) & (-(two.conj() * way).real >= SQUARE) & (size > 0) & wanted
        for k in np.flatnonzero(square).tolist():
            yield Wall(float(size[k]), complex(self.edges.start[k]), complex(self.edges.end[k]))

    def square(self, number: Index, at: Plane, to: Plane) -> Mask:
        """(N,) whether ways from places on edges lead squarely inward."""
        edges = self.edges
        edge = edges.pick(number)
        share = np.clip(edge.share_of(at), 0.0, 1.0)
        way = (to - at) / np.abs(to - at)
        inward = 1j * edge.direction(share)
        squarely = (inward.conj() * way).real >= SQUARE
        begins, stops = share < CORNER, share > 1 - CORNER
        beside = 1j * np.where(begins, edges.pick(self.before[number]).direction(np.ones(number.size)),
                               edges.pick(self.after[number]).direction(np.zeros(number.size)))  # fmt: skip
        first, last = np.where(begins, beside, inward), np.where(begins, inward, beside)
        hole = (first.conj() * last).imag < 0.0  # it turns right: a corner of a hole
        between = ((first.conj() * way).imag <= 1e-9) & ((way.conj() * last).imag <= 1e-9)
        return squarely | ((begins | stops) & hole & between)


def _facing(a: Edges, b: Edges) -> tuple[Index, Plane, Plane]:
    """Places of edges (N,) two by two at which they may be nearest to each other, with the number of the pair."""
    of: list[Index] = []
    ones: list[Plane] = []
    twos: list[Plane] = []

    def put(one: Plane, two: Plane, good: Mask) -> None:
        good = good & np.isfinite(one) & np.isfinite(two)
        of.append(np.flatnonzero(good))
        ones.append(one[good])
        twos.append(two[good])

    half = np.full(a.count, 0.5)
    for end in (a.start, a.end, a.point(half)):
        put(end, *_foot(b, end))
    for end in (b.start, b.end, b.point(half)):
        foot, good = _foot(a, end)
        put(foot, end, good)
    apart = b.center - a.center
    way = apart / np.where(np.abs(apart) > 1e-12, np.abs(apart), 1.0)
    for s in (1.0, -1.0):
        for r in (1.0, -1.0):
            one, two = a.center + s * way * a.radius, b.center + r * way * b.radius
            put(one, two, a.is_arc & b.is_arc & (np.abs(apart) > 1e-12) & _on(a, one) & _on(b, two))
    for bent, straight, turned in ((a, b, False), (b, a, True)):
        foot, good = _foot(straight, bent.center)
        off = foot - bent.center
        toward = off / np.where(np.abs(off) > 1e-12, np.abs(off), 1.0)
        for s in (1.0, -1.0):
            on = bent.center + s * toward * bent.radius
            here = good & bent.is_arc & ~straight.is_arc & (np.abs(off) > 1e-12) & _on(bent, on)
            put(*((foot, on) if turned else (on, foot)), here)
    return np.concatenate(of), np.concatenate(ones), np.concatenate(twos)


def _foot(edges: Edges, at: Plane) -> tuple[Plane, Mask]:
    """(N,) the places of edges nearest to points, and whether they lie on them rather than beyond their ends."""
    share = edges.share_of(at)
    return edges.point(np.clip(share, 0.0, 1.0)), (share >= -1e-9) & (share <= 1 + 1e-9)


def _on(edges: Edges, at: Plane) -> Mask:
    """(N,) whether places of the edges' carriers lie on them."""
    share = edges.share_of(at)
    found: Mask = (share >= -1e-9) & (share <= 1 + 1e-9)
    return found
