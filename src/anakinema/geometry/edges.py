"""Edges: straight lines and circular arcs as arrays. Plane points are complex numbers x + i y.

An arc keeps its center, radius, start angle and signed sweep (up to a full turn), so arcs stay arcs. A straight edge
has radius 0. Every edge knows where it came from: the number of the shape, and which of that shape's features it is.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from ..arrays import Array, Index, Mask, Plane

TOLERANCE = 1e-9
"""Angle (rad) beside an arc's end that still counts as on it."""


@dataclass(frozen=True, eq=False)
class Edges:
    """Edges as arrays of one shape (usually (E,)); `center`, `angle` and `sweep` count for arcs only. `shape` and
    `feature` tell what each was made from: the number of the shape, and of the line or arc in that shape's outline."""

    start: Plane
    end: Plane
    center: Plane
    radius: Array
    angle: Array
    sweep: Array
    shape: Index
    feature: Index

    @property
    def count(self) -> int:
        return self.start.size

    @property
    def is_arc(self) -> Mask:
        return self.radius > 0

    def pick(self, index: Index | Mask | int | tuple[object, ...]) -> "Edges":
        """The chosen edges."""
        return Edges(*(getattr(self, name)[index] for name in FIELDS))

    def point(self, share: Array) -> Plane:
        """The point at a share (0 to 1) of each edge's length."""
        straight = self.start + share * (self.end - self.start)
        bent = self.center + self.radius * np.exp(1j * (self.angle + share * self.sweep))
        return np.where(self.is_arc, bent, straight)

    def direction(self, share: Array) -> Plane:
        """The unit tangent at a share of each edge."""
        chord = self.end - self.start
        size = np.abs(chord)
        straight = chord / np.where(size > 0, size, 1.0)
        bent = 1j * np.sign(self.sweep) * np.exp(1j * (self.angle + share * self.sweep))
        return np.where(self.is_arc, bent, straight)

    def share_of(self, z: Plane) -> Array:
        """The share at which each edge passes its nearest approach to a point on (the carrier of) it."""
        chord = self.end - self.start
        size = np.abs(chord) ** 2
        straight = ((z - self.start) * chord.conj()).real / np.where(size > 0, size, 1.0)
        way = np.where(self.sweep < 0, -1.0, 1.0)
        turned = np.mod(way * (np.angle(z - self.center) - self.angle), 2 * np.pi)
        span = np.abs(self.sweep)
        middle = np.pi + span / 2  # beyond it, the start is nearer than the end
        turned = np.where(turned > middle, turned - 2 * np.pi, turned)
        return np.where(self.is_arc, turned / np.where(span > 0, span, 1.0), straight)

    def length(self) -> Array:
        """Length of each edge."""
        return np.where(self.is_arc, self.radius * np.abs(self.sweep), np.abs(self.end - self.start))


def boxes(edges: Edges) -> tuple[Plane, Plane]:
    """(E,) the lower left and the upper right corner of each edge's box."""
    corners = []
    for pick, sign in ((np.minimum, -1.0), (np.maximum, 1.0)):
        x, y = pick(edges.start.real, edges.end.real), pick(edges.start.imag, edges.end.imag)
        x = np.where(_passes(edges, 0.0 if sign > 0 else np.pi), edges.center.real + sign * edges.radius, x)
        y = np.where(_passes(edges, sign * np.pi / 2), edges.center.imag + sign * edges.radius, y)
        corners.append(x + 1j * y)
    return corners[0], corners[1]


def _passes(edges: Edges, angle: float) -> Mask:
    """Which edges are arcs that pass an angle, or begin or end a hair beside it."""
    way = np.where(edges.sweep < 0, -1.0, 1.0)
    turned = np.mod(way * (angle - edges.angle) + TOLERANCE, 2 * np.pi)
    found: Mask = edges.is_arc & (turned <= np.abs(edges.sweep) + 2 * TOLERANCE)
    return found


def carriers_meet(one: Edges, two: Edges) -> Mask:
    """(N,) whether edges may meet pairwise by the circles of their arcs, with those that touch; lines are not asked."""
    apart, slack = np.abs(one.center - two.center), 1e-4 * (one.radius + two.radius)
    across = apart > one.radius + two.radius + slack
    within = apart < np.abs(one.radius - two.radius) - slack
    return ~(one.is_arc & two.is_arc & (across | within))


FIELDS = ("start", "end", "center", "radius", "angle", "sweep", "shape", "feature")


def joined(several: Sequence[Edges]) -> Edges:
    """Several arrays of edges as one."""
    return Edges(*(np.concatenate([getattr(edges, name) for edges in several]) for name in FIELDS))


def lines(points: Plane, closed: bool = True) -> Edges:
    """Straight edges through points, back to the first when closed."""
    points = np.asarray(points, dtype=complex)
    start, end = (points, np.roll(points, -1)) if closed else (points[:-1], points[1:])
    keep = np.abs(end - start) > 0
    start, end = start[keep], end[keep]
    nothing, none = np.zeros(start.size), np.zeros(start.size, dtype=np.int64)
    return Edges(start, end, np.zeros(start.size, dtype=complex), nothing, nothing, nothing, none, none)


def arc(center: complex, radius: float, angle: float, sweep: float) -> Edges:
    """An arc as edges of at most a quarter turn each."""
    pieces = max(1, int(np.ceil(abs(sweep) / (np.pi / 2) - 1e-9)))
    each = sweep / pieces
    angles = np.asarray(angle + each * np.arange(pieces), dtype=np.float64)
    ends = np.asarray(center + radius * np.exp(1j * np.append(angles, angle + sweep)), dtype=np.complex128)
    return Edges(
        ends[:-1],
        ends[1:],
        np.full(pieces, center, dtype=complex),
        np.full(pieces, float(radius)),
        angles,
        np.full(pieces, each),
        np.zeros(pieces, dtype=np.int64),
        np.zeros(pieces, dtype=np.int64),
    )


def bends(
    start: Plane, end: Plane, center: Plane, radius: Array, angle: Array, sweep: Array, kept: Mask
) -> Edges:
    """Straight edges (of radius 0) and arcs one after the other, (N,) each, arcs as edges of at most a quarter turn; of
    which some are `kept`."""
    start, end, center = start[kept], end[kept], center[kept]
    radius, angle, sweep = radius[kept], angle[kept], sweep[kept]
    pieces = np.maximum(1, np.ceil(np.abs(sweep) / (np.pi / 2) - 1e-9)).astype(np.int64)
    of = np.repeat(np.arange(pieces.size), pieces)
    number = np.arange(of.size) - np.repeat(np.cumsum(pieces) - pieces, pieces)
    each, bent = (sweep / pieces)[of], radius[of] > 0
    low = angle[of] + each * number
    last = number == pieces[of] - 1
    high = np.where(last, (angle + sweep)[of], angle[of] + each * (number + 1))
    first, after = (np.where(bent, center[of] + radius[of] * np.exp(1j * turned), straight[of])
                    for turned, straight in ((low, start), (high, end)))  # fmt: skip
    none = np.zeros(of.size, dtype=np.int64)
    centers, angles, sweeps = (np.where(bent, found, 0) for found in (center[of], low, each))
    return Edges(first, after, centers, radius[of], angles, sweeps, none, none)


def circle(center: complex, radius: float) -> Edges:
    """A full circle, counter-clockwise."""
    return arc(center, radius, 0.0, 2 * np.pi)


def same_carrier(edges: Edges, one: Index, two: Index) -> Mask:
    """(N,) whether edge `two` goes on along the line or circle of edge `one`, in the same sense."""
    arcs = edges.is_arc[one] & edges.is_arc[two] & (edges.sweep[one] * edges.sweep[two] > 0)
    near = 1e-9 * edges.radius[one]
    arcs &= np.abs(edges.center[one] - edges.center[two]) <= near
    arcs &= np.abs(edges.radius[one] - edges.radius[two]) <= near
    way, on = edges.direction(np.ones(edges.count))[one], edges.direction(np.zeros(edges.count))[two]
    straight = ~edges.is_arc[one] & ~edges.is_arc[two] & (np.abs(way - on) <= 1e-9)
    return arcs | straight


def merged(loop: Edges) -> Edges:
    """A closed loop with neighbours of one origin and one carrier made one again: full circles whole."""
    here = np.arange(loop.count)
    before = np.roll(here, 1)
    goes_on = same_carrier(loop, before, here)
    goes_on &= (loop.shape[before] == loop.shape) & (loop.feature[before] == loop.feature)
    if not goes_on.any():
        return loop
    if goes_on.all():  # one circle
        goes_on[0] = False
    first = int(np.flatnonzero(~goes_on)[0])
    loop, goes_on = loop.pick(np.roll(here, -first)), np.roll(goes_on, -first)
    begins = np.flatnonzero(~goes_on)
    ends = np.append(begins[1:], loop.count) - 1
    found = loop.pick(begins)
    sweep = np.clip(np.add.reduceat(loop.sweep, begins), -2 * np.pi, 2 * np.pi)
    return replace(found, end=loop.end[ends], sweep=sweep)


def windings(ring: Edges, z: Plane) -> Array:
    """(N,) how often the closed ring winds around points z (N,); points on the ring have no meaning.

    It is the winding of its chords, counted by the edges that a ray to the right meets upward or downward, and of the
    caps between arcs and their chords in which a point lies. Only edges at a point's height are looked at.
    """
    order = np.argsort(z.imag, kind="stable")
    placed = z[order]
    begin, end = _heights(ring)
    low, high = np.minimum(begin, end), np.maximum(begin, end)
    edge, spot = _in_bands(placed.imag, low, high, "left")  # an edge has its lower end, but not its upper one
    upward = end > begin
    side = _side(ring, begin, end, edge, placed[spot])
    counted = np.where(upward[edge] & (side > 0), 1.0, np.where(~upward[edge] & (side < 0), -1.0, 0.0))
    found = np.bincount(spot, counted, z.size)
    corners = boxes(ring)
    arcs = np.flatnonzero(ring.is_arc)
    edge, spot = _in_bands(placed.imag, corners[0].imag[arcs], corners[1].imag[arcs], "right")
    edge = arcs[edge]
    turns = np.sign(ring.sweep)[edge]
    beyond = _side(ring, begin, end, edge, placed[spot]) * turns < 0  # where the arc's cap is, not where its ring is
    within = np.abs(placed[spot] - ring.center[edge]) < ring.radius[edge]
    whole = np.abs(ring.sweep[edge]) > 2 * np.pi - 1e-9  # a circle has no chord
    capped = np.bincount(spot, np.where((beyond | whole) & within, turns, 0.0), z.size)
    back = np.empty(z.size)
    back[order] = found + capped
    return back


def _heights(ring: Edges) -> tuple[Array, Array]:
    """(E,) twice: how high edges begin and end; ends that meet but for rounding are equally high, so that no ray passes
    between them."""
    heights = np.concatenate((ring.start.imag, ring.end.imag))
    order = np.argsort(heights, kind="stable")
    ascending = heights[order]
    apart = np.diff(ascending, prepend=-np.inf) > TOLERANCE * max(float(np.ptp(ascending)), 1e-300)
    heights[order] = ascending[np.flatnonzero(apart)][np.cumsum(apart) - 1]
    return heights[: ring.count], heights[ring.count :]


def _side(ring: Edges, begin: Array, end: Array, edge: Index, z: Plane) -> Array:
    """(K,) on which side of the chords of some edges, which begin and end so high, points lie: above 0 to the left. For
    the chord as for the cap beyond it a point on it counts as to its right where it is upright, and one at the height
    of a level one as above it."""
    chord = (ring.end - ring.start)[edge]
    side = (chord.conj() * (z - ring.start[edge])).imag
    side = np.where(side == 0.0, begin[edge] - end[edge], side)
    above = np.where(z.imag >= begin[edge], chord.real, -chord.real)
    found: Array = np.where(begin[edge] == end[edge], above, side)
    return found


def _in_bands(heights: Array, low: Array, high: Array, upper: Literal["left", "right"]) -> tuple[Index, Index]:
    """Pairs (K,), (K,) of bands and of the heights (N,), ascending, that lie in them, `upper` "left" without the ends
    above."""
    first = np.searchsorted(heights, low, side="left")
    count = np.maximum(np.searchsorted(heights, high, side=upper) - first, 0)
    band = np.repeat(np.arange(low.size), count)
    within = np.arange(band.size) - np.repeat(np.cumsum(count) - count, count)
    return band, first[band] + within


def meetings(one: Edges, two: Edges) -> Plane:
    """(N, 2) the points in which the carriers of edges meet pairwise within both edges; NaN where there are fewer."""
    found = np.full((one.count, 2), np.nan + 0j)
    for arcs_one, arcs_two, solve in (
        (False, False, _line_line),
        (False, True, _line_arc),
        (True, False, lambda p, q: _line_arc(q, p)),
        (True, True, _arc_arc),
    ):
        chosen = np.flatnonzero((one.is_arc == arcs_one) & (two.is_arc == arcs_two))
        if chosen.size:
            found[chosen] = solve(one.pick(chosen), two.pick(chosen))
    slack = 1e-9
    for edges in (one, two):
        share = Edges(*(getattr(edges, name)[:, None] for name in FIELDS)).share_of(found)
        found[~((share > -slack) & (share < 1 + slack))] = np.nan
    return found


def _line_line(one: Edges, two: Edges) -> Plane:
    d, e, gap = one.end - one.start, two.end - two.start, two.start - one.start
    cross = (d.conj() * e).imag
    parallel = np.abs(cross) < 1e-12 * np.abs(d) * np.abs(e)
    share = (gap.conj() * e).imag / np.where(parallel, 1.0, cross)
    point = np.where(parallel, np.nan, one.start + share * d)
    return np.stack((point, np.full_like(point, np.nan)), axis=1)


def _line_arc(line: Edges, bent: Edges) -> Plane:
    d = line.end - line.start
    u = d / np.abs(d)
    rest = bent.center - line.start
    along, across = (u.conj() * rest).real, (u.conj() * rest).imag
    under = bent.radius**2 - across**2
    touch = np.abs(under) < 1e-10 * bent.radius**2
    with np.errstate(invalid="ignore"):
        half = np.where(touch, 0.0, np.sqrt(under))
    return np.stack((line.start + (along - half) * u, line.start + (along + half) * u), axis=1)


def _arc_arc(one: Edges, two: Edges) -> Plane:
    gap = two.center - one.center
    far = np.abs(gap)
    apart = far > 1e-12 * (one.radius + two.radius)
    u = gap / np.where(apart, far, 1.0)
    far_safe = np.where(apart, far, 1.0)
    along = (far**2 + one.radius**2 - two.radius**2) / (2 * far_safe)
    under = one.radius**2 - along**2
    touch = np.abs(under) < 1e-10 * one.radius**2
    with np.errstate(invalid="ignore"):
        half = np.where(touch, 0.0, np.sqrt(under))
    half = np.where(apart, half, np.nan)
    foot = one.center + along * u
    return np.stack((foot - 1j * half * u, foot + 1j * half * u), axis=1)
