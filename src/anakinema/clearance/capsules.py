"""The capsule about a part: all that lies no further than its girth from its axis, a line between two ends. Of a bar it
is the outline itself."""

from dataclasses import dataclass

import numpy as np

from ..arrays import Array, Plane
from ..geometry.edges import Edges

PIECE = 0.2
"""The angle (rad) of the pieces by which an arc is told: the tangents at its ends meet 0.5 % of the radius outside."""
WHOLE = 0.9 * np.pi
"""The sweep of an arc (rad) from which its whole circle is taken."""
WAYS = np.exp(1j * np.pi * np.arange(12) / 12)
"""Directions that are tried, besides that of the two places furthest apart."""


@dataclass(frozen=True)
class Capsule:
    """The two ends of the axis in the part's own axes, and the girth."""

    ends: tuple[complex, complex]
    girth: float


def capsule_about(edges: Edges) -> Capsule:
    """The slimmest capsule, of some directions, about all edges: that of the least area."""
    places, sizes = _discs(edges)
    along = [_along(places, complex(way)) for way in WAYS]
    apart = [complex(places[np.argmax(each + sizes)] - places[np.argmin(each - sizes)]) for each in along]
    furthest = max(apart, key=abs)
    ways = WAYS if furthest == 0 else np.append(WAYS, furthest / abs(furthest))
    return min((_capsule(places, sizes, complex(way)) for way in ways), key=_area)


def _capsule(places: Plane, sizes: Array, way: complex) -> Capsule:
    """The capsule of one direction about discs."""
    across, along = _along(places, 1j * way), _along(places, way)
    middle = ((across + sizes).max() + (across - sizes).min()) / 2
    girth = float((np.abs(across - middle) + sizes).max())
    spare = np.sqrt(np.maximum((girth - sizes) ** 2 - (across - middle) ** 2, 0.0))
    first, last = float((along + spare).min()), float((along - spare).max())
    if first > last:  # any place between holds all
        first = last = (first + last) / 2
    return Capsule((way * complex(first, middle), way * complex(last, middle)), girth)


def _area(capsule: Capsule) -> float:
    one, two = capsule.ends
    return capsule.girth * (np.pi * capsule.girth + 2 * abs(two - one))


def _along(places: Plane, way: complex) -> Array:
    found: Array = (places * way.conjugate()).real
    return found


def _discs(edges: Edges) -> tuple[Plane, Array]:
    """Discs whose hull holds all edges: ends, whole rounds, and where the tangents of pieces of arcs meet. A hollow arc
    lies in the hull of the rest."""
    bulging = edges.is_arc & (edges.sweep > 0)
    whole = bulging & (edges.sweep > WHOLE)
    bent = edges.pick(bulging & ~whole)
    count = np.ceil(bent.sweep / PIECE).astype(int)
    turn = np.repeat(bent.sweep / np.maximum(count, 1), count)
    number = np.arange(len(turn)) - np.repeat(np.cumsum(count) - count, count)
    angle = np.repeat(bent.angle, count) + turn * (number + 0.5)
    outside = np.repeat(bent.center, count) + np.repeat(bent.radius, count) / np.cos(turn / 2) * np.exp(1j * angle)
    places = np.concatenate((edges.start, edges.end, outside, edges.center[whole]))
    return places, np.concatenate((np.zeros(len(places) - whole.sum()), edges.radius[whole]))
