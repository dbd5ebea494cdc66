"""The closed boundaries of single shapes."""

from dataclasses import replace
from functools import lru_cache

import numpy as np

from ..arrays import Index, Mask
from . import shapes as s
from .edges import Edges, same_carrier


@lru_cache(maxsize=1 << 15)
def rings(shape: s.Shape) -> list[Edges]:
    """The closed boundaries of one shape; where there are several, the shape is their union. Their lines and arcs are
    numbered through as the shape's features."""
    found, count = [], 0
    for ring in shape.contours():
        here = np.arange(1, ring.count)
        numbers = count + np.append(0, np.cumsum(~_goes_round(ring, here)))
        found.append(replace(ring, feature=numbers))
        count = int(numbers[-1]) + 1
    return found


def _goes_round(ring: Edges, here: Index) -> Mask:
    """Whether edges are further pieces of the arc before them."""
    return ring.is_arc[here] & same_carrier(ring, here - 1, here)


def area(ring: Edges) -> float:
    """The area that a closed ring encloses, positive when it runs counter-clockwise."""
    chords = float((ring.start.conj() * ring.end).imag.sum()) / 2
    caps = ring.radius**2 * (ring.sweep - np.sin(ring.sweep)) / 2
    return chords + float(caps[ring.is_arc].sum())
