"""Outlines: a part's shapes joined and cut into regions bounded by exact lines and arcs, one for each slab of depth."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import pairwise

import numpy as np

from ..arrays import Array, Index, Mask, Plane
from . import shapes as s
from .edges import Edges, arc, boxes, carriers_meet, circle, joined, lines, meetings, merged, same_carrier, windings

SIDE = 1e-6
"""How far beside an edge (relative to the outline's size) it is looked at which side is inside."""

SAME = 1e-9
"""How far apart (relative to all edges' extent) what meets may be by rounding."""
AN_EDGE = 15
"""What an edge takes, in pairs of edges."""
LITTLE = 160
"""Edges of a part, times its slabs, up to which nothing is counted."""
FEW = 48
"""Edges up to which all pairs are looked at one by one."""
ASKEW = np.exp(0.7j)
"""A direction along which few corners stand side by side."""
MOST_AT_ONCE = 400_000
"""Points times edges looked at in one go, so that memory stays bounded."""
MOST_PAIRS = 8_000_000
"""Pairs of edges, likewise."""


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
    layer = Layer(marked)
    loops, alone = [], np.flatnonzero(~meet)
    removed, within = layer.covered(np.array([_on(marked[i][0]) for i in alone], dtype=complex), alone)
    for i, out, inside in zip(alone, removed, within, strict=True):
        ring, cut = marked[i]
        if not out and inside == cut:  # an added ring in the open, or a hole in what is solid
            outward = area(ring) > 0
            loops.append(merged(ring if outward != cut else _backward(ring)))
    together = [entry for i, entry in enumerate(marked) if meet[i]]
    if together:
        pieces = _split(joined([ring for ring, _ in together]), 1e-9 * size)
        middle = pieces.point(np.full(pieces.count, 0.5))
        normal = 1j * pieces.direction(np.full(pieces.count, 0.5)) * SIDE * size
        left, right = layer.inside(middle + normal), layer.inside(middle - normal)
        turned = _reversed(pieces.pick(right & ~left))
        edges = _without_twins(joined([pieces.pick(left & ~right), turned]), 1e-7 * size)
        loops += [merged(edges.pick(loop)) for loop in _chained(edges, 1e-6 * size)]
    if not loops:
        nothing = everything.pick(np.zeros(0, dtype=np.intp))
        return Region(nothing, (), shapes)
    cuts = np.cumsum([0, *(loop.count for loop in loops)])
    return Region(joined(loops), tuple(np.arange(*span) for span in pairwise(cuts)), shapes)


def near_pairs(edges: Edges, owner: Index) -> tuple[Index, Index]:
    """Edges (i, j), i before j, of different owners (E,) that may meet, by their boxes and circles."""
    found = list(_near_pairs(edges, owner))
    return np.concatenate([first for first, _ in found]), np.concatenate([second for _, second in found])


def _near_pairs(edges: Edges, owner: Index) -> Iterator[tuple[Index, Index]]:
    """The same in portions."""
    low, high = boxes(edges)
    slack = SAME * (1 + 1j) * max(float(np.ptp(high.real)), float(np.ptp(low.imag)))
    low, high = low - slack, high + slack  # for ends that are one but for rounding
    if edges.count <= FEW:
        first, second = np.triu_indices(edges.count, k=1)
        meet = (low[first].real <= high[second].real) & (low[second].real <= high[first].real)
        meet &= (low[first].imag <= high[second].imag) & (low[second].imag <= high[first].imag)
        yield _that_meet(edges, owner, first[meet], second[meet])
        return
    import shapely

    shapes = shapely.box(low.real, low.imag, high.real, high.imag)
    tree = shapely.STRtree(shapes)
    for some in np.array_split(np.arange(edges.count), 1 + edges.count**2 // MOST_PAIRS):
        first, second = tree.query(shapes[some])
        yield _that_meet(edges, owner, some[first], second)


def _that_meet(edges: Edges, owner: Index, first: Index, second: Index) -> tuple[Index, Index]:
    keep = (first < second) & (owner[first] != owner[second])
    first, second = first[keep], second[keep]
    meet = carriers_meet(edges.pick(first), edges.pick(second))
    return first[meet], second[meet]


def effort(shapes: Sequence[s.Shape], depth: tuple[float, float], most: int) -> int:
    """What it takes to join and cut shapes: pairs of edges that may meet, in each slab of depth, and what each edge
    takes besides. It is not counted on beyond `most`."""
    spans = np.array([shape.depth or depth for shape in shapes])
    levels = np.unique(spans)
    low, high = np.searchsorted(levels, spans[:, 0]), np.searchsorted(levels, spans[:, 1])
    total = int(sum(AN_EDGE * count_edges(shape) * int(n) for shape, n in zip(shapes, high - low, strict=True)))
    if total <= LITTLE * AN_EDGE or total > most:
        return total
    marked = [(ring, k) for k, shape in enumerate(shapes) for ring in rings(shape)]
    owner = np.repeat(np.arange(len(marked)), [ring.count for ring, _ in marked])
    number = np.array([k for _, k in marked])[owner]
    for first, second in _near_pairs(joined([ring for ring, _ in marked]), owner):
        one, two = number[first], number[second]
        both = np.minimum(high[one], high[two]) - np.maximum(low[one], low[two])
        total += int(np.maximum(both, 0).sum())
        if total > most:
            break
    return total


def count_edges(shape: s.Shape) -> int:
    """How many edges a shape has, about; not fewer than half of them."""
    match shape:
        case s.Disc():
            return 4
        case s.Bar():
            return 6 * (len(shape.through) - 1)
        case s.Polygon():
            return len(shape.vertices) * (2 if shape.corner_radius > 0 else 1)
        case s.Path():
            return 2 * len(shape.segments) + 1
    return 8


@lru_cache(maxsize=1 << 15)
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
    every = np.arange(edges.count)
    owners, shares = [every, every], [np.zeros(edges.count), np.ones(edges.count)]
    for numbers, owner, other in ((first, one, two), (second, two, one)):
        for z in (points[:, 0], points[:, 1]):
            share = owner.share_of(z)
            owners.append(numbers[np.isfinite(share)])
            shares.append(share[np.isfinite(share)])
        for z in (other.start, other.end):  # ends that lie on the edge: shared stretches
            share = owner.share_of(z)
            near = (np.abs(owner.point(share) - z) <= tolerance) & (share > 0) & (share < 1)
            owners.append(numbers[near])
            shares.append(share[near])
    number, share = np.concatenate(owners), np.clip(np.concatenate(shares), 0.0, 1.0)
    order = np.lexsort((share, number))
    number, share = number[order], share[order]
    same = np.append(False, number[1:] == number[:-1])
    keep = ~same | (np.append(0.0, np.diff(share)) * edges.length()[number] > 10 * tolerance)
    number, share = number[keep], share[keep]
    last = np.append(number[1:] != number[:-1], True)
    share[last] = 1.0
    begin = np.flatnonzero(~last)
    return _pieces(edges.pick(number[begin]), share[begin], share[begin + 1])


def _pieces(whole: Edges, begin: Array, stop: Array) -> Edges:
    """The pieces of edges between two shares of each."""
    return replace(
        whole, start=whole.point(begin), end=whole.point(stop), angle=whole.angle + begin * whole.sweep,
        sweep=whole.sweep * (stop - begin),
    )


class Layer:
    """Rings, each added or cut, and what they cover together."""

    def __init__(self, marked: Sequence[tuple[Edges, bool]]):
        self.marked = marked
        corners = [boxes(ring) for ring, _ in marked]
        self.low = np.array([complex(low.real.min(), low.imag.min()) for low, _ in corners])
        self.high = np.array([complex(high.real.max(), high.imag.max()) for _, high in corners])

    def inside(self, z: Plane) -> Mask:
        """(N,) whether points lie in an added ring and in no cut one."""
        _, within = self.covered(z)
        return within

    def covered(self, z: Plane, but: Index | None = None) -> tuple[Mask, Mask]:
        """(N,) twice: whether points lie in a cut ring, and of those that don't whether in an added one; `but` (N,) are
        rings that are left out, one for each point."""
        removed, within = np.zeros(z.size, dtype=bool), np.zeros(z.size, dtype=bool)
        boxed = self._finder(z)
        for k in np.argsort([not cut for _, cut in self.marked], kind="stable").tolist():
            ring, cut = self.marked[k]
            near = boxed(k)
            near = near[~(removed[near] | within[near])]
            if but is not None:
                near = near[but[near] != k]
            for some in np.array_split(near, 1 + near.size * ring.count // MOST_AT_ONCE) if near.size else ():
                (removed if cut else within)[some[windings(ring, z[some]) != 0]] = True
        return removed, within

    def _finder(self, z: Plane) -> Callable[[int], Index]:
        """What gives the points that lie in a ring's box."""
        low, high = self.low, self.high
        if z.size * low.size <= MOST_AT_ONCE:
            return lambda k: np.flatnonzero(
                (z.real >= low[k].real) & (z.real <= high[k].real) & (z.imag >= low[k].imag) & (z.imag <= high[k].imag)
            )
        import shapely

        tree = shapely.STRtree(shapely.points(z.real, z.imag))
        around = shapely.box(low.real, low.imag, high.real, high.imag)
        return lambda k: tree.query(around[k])


def _on(ring: Edges) -> complex:
    """A place on a ring, in the middle of its first edge."""
    return complex(ring.pick(np.array([0])).point(np.array([0.5]))[0])


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
    across, reached = ((z * ASKEW.conjugate()).real for z in (edges.start, edges.end))
    order = np.argsort(across)
    low, high = (np.searchsorted(across[order], reached + side * tolerance).tolist() for side in (-1, 1))
    order = order.tolist()
    starts, ends = edges.start.tolist(), edges.end.tolist()
    free = [True] * edges.count
    loops = []
    for first in range(edges.count):
        if not free[first]:
            continue
        free[first] = False
        loop = [first]
        while True:
            here = loop[-1]
            near = [k for k in order[low[here] : high[here]] if free[k]]
            gap, after = min(((abs(starts[k] - ends[here]), k) for k in near), default=(np.inf, -1))
            if gap > tolerance or abs(ends[here] - starts[first]) <= gap:
                break
            loop.append(after)
            free[after] = False
        loops.append(np.array(loop, dtype=np.intp))
    return loops
