"""Where a straight line runs through the material of a region."""

import numpy as np

from ..arrays import Array
from .edges import Edges, windings
from .rotated import turned


def spans_along(edges: Edges, origin: complex, way: complex) -> list[tuple[float, float]]:
    """The stretches of a line that lie in what closed edges enclose, by how far they are from an origin along a unit
    way.

    >>> from anakinema.geometry.edges import circle
    >>> [(round(a, 9), round(b, 9)) for a, b in spans_along(circle(3 + 0j, 2.0), 0j, 1 + 0j)]
    [(1.0, 5.0)]
    """
    seen = turned(edges, origin, way.conjugate())
    cuts = np.sort(_crossings(seen))
    if cuts.size < 2:
        return []
    middle = (cuts[:-1] + cuts[1:]) / 2
    inside = windings(seen, middle.astype(np.complex128)) != 0
    found: list[tuple[float, float]] = []
    for low, high, within in zip(cuts[:-1].tolist(), cuts[1:].tolist(), inside.tolist(), strict=True):
        if not within or high - low < 1e-12:
            continue
        if found and abs(found[-1][1] - low) < 1e-12:
            found[-1] = found[-1][0], high
        else:
            found.append((low, high))
    return found


def _crossings(edges: Edges) -> Array:
    """Where edges meet the x axis."""
    straight = edges.pick(np.flatnonzero(~edges.is_arc))
    y0, y1 = straight.start.imag, straight.end.imag
    meets = (y0 <= 0) != (y1 <= 0)
    share = y0[meets] / (y0[meets] - y1[meets])
    lines = straight.start.real[meets] + share * (straight.end.real - straight.start.real)[meets]
    arcs = edges.pick(np.flatnonzero(edges.is_arc))
    half = arcs.radius**2 - arcs.center.imag**2
    arcs, half = arcs.pick(half >= 0), np.sqrt(half[half >= 0])
    places = np.concatenate((arcs.center.real - half, arcs.center.real + half))
    both = arcs.pick(np.concatenate((np.arange(arcs.count), np.arange(arcs.count))))
    share = both.share_of(places.astype(np.complex128))
    on = (share >= -1e-12) & (share <= 1 + 1e-12)
    return np.concatenate((lines, places[on]))
