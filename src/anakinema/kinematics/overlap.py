"""How deep two outlines lie in each other where they are placed: about, from places along their edges. What is exact is
told by `anakinema.clearance`; this only says whether a contact can begin."""

from collections.abc import Callable

import numpy as np

from ..arrays import Array, Plane
from ..geometry.edges import FIELDS, Edges, windings
from ..geometry.outline import Region

SHARES = np.linspace(0.0, 1.0, 33)[:-1]
"""Where along an edge it is looked."""


def overlap(one: Region, two: Region, place: complex, turn: complex) -> float:
    """How deep region `two` lies in `one`, which sees it at a place and turned (document lengths); 0 where it does not
    by more than the places tell."""
    ahead = _deepest(two.edges, one, lambda z: place + turn * z)
    back = _deepest(one.edges, two, lambda z: (z - place) / turn)
    return max(ahead, back)


def _deepest(edges: Edges, other: Region, seen: Callable[[Plane], Plane]) -> float:
    many = Edges(*(getattr(edges, name)[:, None] for name in FIELDS))
    z = seen(many.point(SHARES[None, :]).ravel())
    inside = z[windings(other.edges, z) > 0.5]
    if not inside.size:
        return 0.0
    return float(_off(other.edges, inside).max())


def _off(edges: Edges, z: Plane) -> Array:
    """(N,) how far places are from the nearest edge."""
    many = Edges(*(getattr(edges, name)[:, None] for name in FIELDS))
    near = many.point(np.clip(many.share_of(z[None, :]), 0.0, 1.0))
    found: Array = np.abs(near - z[None, :]).min(axis=0)
    return found
