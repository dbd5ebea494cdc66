"""Outlines: a part's shapes joined and cut into regions bounded by exact lines and arcs, one for each slab of depth."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import pairwise

import numpy as np

from ..arrays import Array, Index, Mask, Plane
from . import shapes as s
from .edges import Edges, arc, boxes, circle, joined, lines, meetings, merged, same_carrier, windings

SIDE = 1e-6
"""How far beside an edge (relative to the outline's size) it is looked at which side is inside."""

FEW = 48
"""Edges up to which all pairs are looked at one by one."""
MOST_AT_ONCE = 400_000
"""Points times edges looked at in one go, so that memory stays bounded."""


@dataclass(frozen=True, eq=False)
class Region:
    """A region: its boundary `edges` with the inside to their left, chained into closed `loops` (edge indices), and
    the shapes it was made of."""

    edges: Edges
    loops: tuple[Index, ...]
    shapes: tuple[s.Shape, ...]

    @property
    def reach(self) -> float:
        """The largest distance of the boundary from the part's origin."""
        ends = np.abs(self.edges.start)
        arcs = np.abs(self.edges.center) + self.edges.radius
        return float(np.where(self.edges.is_arc, arcs, ends).max(initial=0.0))


@dataclass(frozen=True)
class Slab:
    """A region over a depth interval along z."""

    low: float
    high: float
    region: Region


def slabs(shapes: Sequence[s.Shape], depth: tuple[float, float]) -> tuple[Slab, ...]:
    """The regions of shapes from back to front (ascending z), each over the depth in which it is the same; `depth` is
    that of the shapes that have none of their own."""
    spans = [shape.depth or depth for shape in shapes]
    levels = sorted({level for span in spans for level in span})
    found: list[Slab] = []
    for low, high in pairwise(levels):
        here = tuple(shape for shape, span in zip(shapes, spans, strict=True) if span[0] <= low and span[1] >= high)
        if all(shape.cut for shape in here):
            continue
        if found and found[-1].high == low and found[-1].region.shapes == here:
            found[-1] = Slab(found[-1].low, high, found[-1].region)
            continue
        made = region(here)
        if made.edges.count:
            found.append(Slab(low, high, made))
    return tuple(found)


@lru_cache(maxsize=2048)
def region(shapes: tuple[s.Shape, ...]) -> Region:
    """Shapes joined, those marked `cut` removed, as one region with exact boundary.

    A ring that meets no other one lies whole inside or outside each of them; only those that meet are split. Kept, for
    an edit changes few of a part's slabs.
    """
    marked = [(_of_shape(ring, k), shape.cut) for k, shape in enumerate(shapes) for ring in rings(shape)]
    if len(marked) == 1 and not marked[0][1]:
        ring = marked[0][0]
        edges = merged(ring if area(ring) > 0 else _backward(ring))
        return Region(edges, (np.arange(edges.count),), shapes)
    everything = joined([ring for ring, _ in marked])
    size = float(np.ptp(everything.start.real) + np.ptp(everything.start.imag)) or 1.0
    owner = np.repeat(np.arange(len(marked)), [ring.count for ring, _ in marked])
    first, second = near_pairs(everything, owner)
    meet = np.zeros(len(marked), dtype=bool)
    meet[owner[first]] = meet[owner[second]] = True
    loops, alone = [], [i for i in range(len(marked)) if not meet[i]]
    for i in alone:
        ring, cut = marked[i]
        others = [entry for k, entry in enumerate(marked) if k != i]
        within, removed = _covered(others, ring.point(np.full(ring.count, 0.5))[:1])
        if not removed[0] and within[0] == cut:  # an added ring in the open, or a hole in what is solid
            outward = area(ring) > 0
            loops.append(merged(ring if outward != cut else _backward(ring)))
    together = [entry for i, entry in enumerate(marked) if meet[i]]
    if together:
        pieces = _split(joined([ring for ring, _ in together]), 1e-9 * size)
        middle = pieces.point(np.full(pieces.count, 0.5))
        normal = 1j * pieces.direction(np.full(pieces.count, 0.5)) * SIDE * size
        left, right = _inside(marked, middle + normal), _inside(marked, middle - normal)
        turned = _reversed(pieces.pick(right & ~left))
        edges = _without_twins(joined([pieces.pick(left & ~right), turned]), 1e-7 * size)
        loops += [merged(edges.pick(loop)) for loop in _chained(edges, 1e-6 * size)]
    if not loops:
        nothing = everything.pick(np.zeros(0, dtype=np.intp))
        return Region(nothing, (), shapes)
    cuts = np.cumsum([0, *(loop.count for loop in loops)])
    return Region(joined(loops), tuple(np.arange(*span) for span in pairwise(cuts)), shapes)


def near_pairs(edges: Edges, owner: Index) -> tuple[Index, Index]:
    """Edges (i, j), i before j, of different owners (E,) whose boxes meet."""
    if edges.count <= FEW:
        first, second = np.triu_indices(edges.count, k=1)
        apart = owner[first] != owner[second]
        first, second = first[apart], second[apart]
        low, high = boxes(edges)
        meet = (low[first].real <= high[second].real) & (low[second].real <= high[first].real)
        meet &= (low[first].imag <= high[second].imag) & (low[second].imag <= high[first].imag)
        return first[meet], second[meet]
    import shapely

    low, high = boxes(edges)
    shapes = shapely.box(low.real, low.imag, high.real, high.imag)
    first, second = shapely.STRtree(shapes).query(shapes)
    keep = (first < second) & (owner[first] != owner[second])
    return first[keep], second[keep]


def rings(shape: s.Shape) -> list[Edges]:
    """The closed boundaries of one shape; where there are several, the shape is their union. Their lines and arcs are
    numbered through as the shape's features."""
    found, count = [], 0
    for ring in _rings(shape):
        here = np.arange(1, ring.count)
        numbers = count + np.append(0, np.cumsum(~_goes_round(ring, here)))
        found.append(replace(ring, feature=numbers))
        count = int(numbers[-1]) + 1
    return found


def _goes_round(ring: Edges, here: Index) -> Mask:
    """Whether edges are further pieces of the arc before them."""
    return ring.is_arc[here] & same_carrier(ring, here - 1, here)


def _of_shape(ring: Edges, number: int) -> Edges:
    return replace(ring, shape=np.full(ring.count, number))


def _rings(shape: s.Shape) -> list[Edges]:
    match shape:
        case s.Bar():
            points = [complex(*point) for point in shape.through]
            return [_stadium(one, two, shape.width / 2) for one, two in pairwise(points)]
        case s.Disc():
            return [circle(complex(*shape.center), shape.diameter / 2)]
        case s.Rectangle():
            return [_rounded(_rectangle(shape), shape.corner_radius)]
        case s.Polygon():
            return [_rounded(np.array([complex(*vertex) for vertex in shape.vertices]), shape.corner_radius)]
        case s.Path():
            return [_path(shape)]
        case s.Slot():
            return [_stadium(complex(*shape.through[0]), complex(*shape.through[1]), shape.width / 2)]
        case s.ArcSlot():
            return [_arc_slot(shape)]
    raise TypeError(f"no outline for {type(shape).__name__}")


def _stadium(one: complex, two: complex, radius: float) -> Edges:
    if one == two:
        return circle(one, radius)
    along = float(np.angle(two - one))
    side = radius * np.exp(1j * (along - np.pi / 2))
    return joined(
        [
            lines(np.array([one + side, two + side]), closed=False),
            arc(two, radius, along - np.pi / 2, np.pi),
            lines(np.array([two - side, one - side]), closed=False),
            arc(one, radius, along + np.pi / 2, np.pi),
        ]
    )


def _rectangle(shape: s.Rectangle) -> Plane:
    along, across = shape.size[0] / 2, shape.size[1] / 2
    corners = np.array([-along - 1j * across, along - 1j * across, along + 1j * across, -along + 1j * across])
    return np.asarray(corners * np.exp(1j * shape.angle) + complex(*shape.center))


def _rounded(points: Plane, radius: float) -> Edges:
    """A ring of straight edges, counter-clockwise, each corner rounded as far as its edges allow."""
    area = float((points.conj() * np.roll(points, -1)).imag.sum()) / 2
    if area < 0:
        points = points[::-1]
    if radius <= 0:
        return lines(points)
    before, after = np.roll(points, 1), np.roll(points, -1)
    into = (before - points) / np.abs(before - points)
    out = (after - points) / np.abs(after - points)
    half = np.arccos(np.clip((into.conj() * out).real, -1, 1)) / 2
    with np.errstate(divide="ignore"):
        trim = np.where(half < np.pi / 2 - 1e-9, radius / np.tan(half), 0.0)
    room = np.minimum(np.abs(before - points), np.abs(after - points)) / 2
    shrink = np.where(trim > room, room / np.where(trim > 0, trim, 1.0), 1.0)
    found: list[Edges] = []
    last = None
    ends: list[tuple[complex, complex, Edges | None]] = []
    for i, point in enumerate(points):
        cut, r = trim[i] * shrink[i], radius * shrink[i]
        if cut == 0.0:
            ends.append((point, point, None))
            continue
        one, two = point + cut * into[i], point + cut * out[i]
        middle = into[i] + out[i]
        center = point + middle / abs(middle) * r / np.sin(half[i])
        start, stop = np.angle(one - center), np.angle(two - center)
        sweep = float((stop - start + np.pi) % (2 * np.pi) - np.pi)
        ends.append((one, two, arc(complex(center), float(r), float(start), sweep)))
    for i, (one, _two, bend) in enumerate(ends):
        last = ends[i - 1][1]
        found.append(lines(np.array([last, one]), closed=False))
        if bend is not None:
            found.append(bend)
    return joined(found)


def _path(shape: s.Path) -> Edges:
    at = complex(*shape.start)
    found: list[Edges] = []
    for segment in shape.segments:
        to = complex(*segment.to)
        if segment.center is None:
            found.append(lines(np.array([at, to]), closed=False))
        else:
            center = complex(*segment.center)
            start, stop = float(np.angle(at - center)), float(np.angle(to - center))
            sweep = (stop - start) % (2 * np.pi) or 2 * np.pi
            if not segment.ccw:
                sweep = sweep - 2 * np.pi or -2 * np.pi
            found.append(arc(center, abs(at - center), start, sweep))
        at = to
    found.append(lines(np.array([at, complex(*shape.start)]), closed=False))
    return joined(found)


def _arc_slot(shape: s.ArcSlot) -> Edges:
    center, half = complex(*shape.center), shape.width / 2
    one, two = (center + shape.radius * np.exp(1j * angle) for angle in (shape.start, shape.stop))
    sweep = shape.stop - shape.start
    return joined(
        [
            arc(center, shape.radius + half, shape.start, sweep),
            arc(complex(two), half, shape.stop, np.pi),
            arc(center, shape.radius - half, shape.stop, -sweep),
            arc(complex(one), half, shape.start + np.pi, np.pi),
        ]
    )


def _split(edges: Edges, tolerance: float) -> Edges:
    """The edges cut at every meeting with another one."""
    first, second = near_pairs(edges, np.arange(edges.count))
    one, two = edges.pick(first), edges.pick(second)
    points = meetings(one, two)
    cuts: list[list[float]] = [[0.0, 1.0] for _ in range(edges.count)]
    for edge_index, owner in ((first, one), (second, two)):
        for column in range(2):
            share = owner.share_of(points[:, column])
            for i in np.flatnonzero(np.isfinite(share)).tolist():
                cuts[edge_index[i]].append(float(share[i]))
        other = two if owner is one else one
        for z in (other.start, other.end):  # ends that lie on the edge: shared stretches
            share = owner.share_of(z)
            near = np.abs(owner.point(share) - z) <= tolerance
            for i in np.flatnonzero(near & (share > 0) & (share < 1)).tolist():
                cuts[edge_index[i]].append(float(share[i]))
    lengths = edges.length()
    pieces = []
    for i in range(edges.count):
        shares = np.unique(np.clip(cuts[i], 0.0, 1.0))
        keep = np.append(True, np.diff(shares) * lengths[i] > 10 * tolerance)
        shares = shares[keep]
        shares[-1] = 1.0
        if shares.size > 1:
            pieces.append(_piece(edges, i, shares))
    return joined(pieces)


def _piece(edges: Edges, i: int, shares: Array) -> Edges:
    whole = edges.pick(np.full(shares.size - 1, i))
    begin, stop = shares[:-1], shares[1:]
    return Edges(
        whole.point(begin),
        whole.point(stop),
        whole.center,
        whole.radius,
        whole.angle + begin * whole.sweep,
        whole.sweep * (stop - begin),
        whole.shape,
        whole.feature,
    )


def _inside(marked: Sequence[tuple[Edges, bool]], z: Plane) -> Mask:
    """(N,) whether points lie in an added ring and in no cut one."""
    within, removed = _covered(marked, z)
    return within & ~removed


def _covered(marked: Sequence[tuple[Edges, bool]], z: Plane) -> tuple[Mask, Mask]:
    """(N,) twice: whether points lie in an added ring, and whether in a cut one."""
    within, removed = np.zeros(z.size, dtype=bool), np.zeros(z.size, dtype=bool)
    for ring, cut in marked:
        low, high = boxes(ring)
        near = (z.real >= low.real.min()) & (z.real <= high.real.max())
        near = np.flatnonzero(near & (z.imag >= low.imag.min()) & (z.imag <= high.imag.max()))
        for some in np.array_split(near, 1 + near.size * ring.count // MOST_AT_ONCE):
            wound = some[windings(ring, z[some]) != 0]
            (removed if cut else within)[wound] = True
    return within, removed


def _backward(ring: Edges) -> Edges:
    return _reversed(ring.pick(np.arange(ring.count)[::-1]))


def area(ring: Edges) -> float:
    """The area that a closed ring encloses, positive when it runs counter-clockwise."""
    chords = float((ring.start.conj() * ring.end).imag.sum()) / 2
    caps = ring.radius**2 * (ring.sweep - np.sin(ring.sweep)) / 2
    return chords + float(caps[ring.is_arc].sum())


def _reversed(edges: Edges) -> Edges:
    return replace(
        edges, start=edges.end, end=edges.start, angle=edges.angle + edges.sweep, sweep=-edges.sweep
    )


def _without_twins(edges: Edges, tolerance: float) -> Edges:
    """Edges that two shapes share are kept once."""
    if not edges.count:
        return edges
    middle = edges.point(np.full(edges.count, 0.5))
    keys = np.round(np.stack((middle.real, middle.imag, edges.start.real, edges.start.imag)) / (10 * tolerance))
    _, first = np.unique(keys, axis=1, return_index=True)
    return edges.pick(np.sort(first))


def _chained(edges: Edges, tolerance: float) -> list[Index]:
    """Loops of edges, end to start."""
    order = np.argsort(edges.start.real)
    across = edges.start.real[order]
    free = np.ones(edges.count, dtype=bool)
    loops = []
    for first in range(edges.count):
        if not free[first]:
            continue
        free[first] = False
        loop = [first]
        while True:
            end = edges.end[loop[-1]]
            low, high = np.searchsorted(across, (end.real - tolerance, end.real + tolerance))
            near = order[low:high]
            near = near[free[near] & (np.abs(edges.start[near] - end) <= tolerance)]
            if not near.size:
                break
            gaps = np.abs(edges.start[near] - end)
            if abs(end - edges.start[first]) <= gaps.min():
                break
            loop.append(int(near[np.argmin(gaps)]))
            free[loop[-1]] = False
        loops.append(np.array(loop, dtype=np.intp))
    return loops
