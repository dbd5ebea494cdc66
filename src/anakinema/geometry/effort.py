"""What it takes to join and cut shapes, counted beforehand."""

from collections.abc import Sequence

import numpy as np

from . import shapes as s
from .edges import joined
from .near import near_in_portions
from .rings import rings

AN_EDGE = 15
"""What an edge takes, in pairs of edges."""
LITTLE = 160
"""Edges of a part, times its slabs, up to which nothing is counted."""


def effort(shapes: Sequence[s.Shape], depth: tuple[float, float], most: int) -> int:
    """What it takes to join and cut shapes: pairs of edges that may meet, in each slab of depth, and what each edge
    takes besides. It is not counted on beyond `most`."""
    spans = np.array([shape.depth or depth for shape in shapes])
    levels = np.unique(spans)
    low, high = np.searchsorted(levels, spans[:, 0]), np.searchsorted(levels, spans[:, 1])
    total = int(sum(AN_EDGE * shape.edge_count * int(n) for shape, n in zip(shapes, high - low, strict=True)))
    if total <= LITTLE * AN_EDGE or total > most:
        return total
    marked = [(ring, k) for k, shape in enumerate(shapes) for ring in rings(shape)]
    owner = np.repeat(np.arange(len(marked)), [ring.count for ring, _ in marked])
    number = np.array([k for _, k in marked])[owner]
    for first, second in near_in_portions(joined([ring for ring, _ in marked]), owner):
        one, two = number[first], number[second]
        both = np.minimum(high[one], high[two]) - np.maximum(low[one], low[two])
        total += int(np.maximum(both, 0).sum())
        if total > most:
            break
    return total
