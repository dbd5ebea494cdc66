"""Which edges may meet, of very many."""

from collections.abc import Iterator

import numpy as np

from ..arrays import Index
from .edges import Edges, boxes, carriers_meet

SAME = 1e-9
"""How far apart (relative to all edges' extent) what meets may be by rounding."""
FEW = 48
"""Edges up to which all pairs are looked at one by one."""
MOST_PAIRS = 8_000_000
"""Pairs of edges looked at in one go, so that memory stays bounded."""


def near_pairs(edges: Edges, owner: Index) -> tuple[Index, Index]:
    """Edges (i, j), i before j, of different owners (E,) that may meet, by their boxes and circles."""
    found = list(near_in_portions(edges, owner))
    return np.concatenate([first for first, _ in found]), np.concatenate([second for _, second in found])


def near_in_portions(edges: Edges, owner: Index) -> Iterator[tuple[Index, Index]]:
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
