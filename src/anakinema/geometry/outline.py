"""Outlines: a part's shapes joined and cut into regions bounded by exact lines and arcs, one for each slab of depth."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import pairwise

import numpy as np

from ..arrays import Array, Index
from . import shapes as s
from .edges import Edges, joined, meetings, merged
from .layer import Layer
from .near import SAME, near_pairs
from .rings import area, rings

SIDE = 1e-6
"""How far beside an edge (relative to the outline's size) it is looked at which side is inside."""
TOUCHING = 1e-6
"""Overlap of depths (length units) up to which they only touch: lengths that were added up are no better."""
ASKEW = np.exp(0.7j)
"""A direction along which few corners stand side by side."""


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

    @property
    def within(self) -> tuple[float, float]:
        """The depth in which it meets others: drawn in by so little that depths which overlap by less than a millionth
        of the length unit, or of what is thinner, only touch."""
        inset = TOUCHING / 2 * min(1.0, self.high - self.low)
        return self.low + inset, self.high - inset

    def meets(self, other: "Slab") -> bool:
        """Whether their depths overlap."""
        (low, high), (other_low, other_high) = self.within, other.within
        return low < other_high and other_low < high


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
        pieces = _split(joined([ring for ring, _ in together]), SAME * size)
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


def _of_shape(ring: Edges, number: int) -> Edges:
    return replace(ring, shape=np.full(ring.count, number))


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


def _on(ring: Edges) -> complex:
    """A place on a ring, in the middle of its first edge."""
    return complex(ring.pick(np.array([0])).point(np.array([0.5]))[0])


def _backward(ring: Edges) -> Edges:
    return _reversed(ring.pick(np.arange(ring.count)[::-1]))


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
