"""Edges seen from other axes."""

import cmath
from dataclasses import replace

from .edges import Edges


def turned(edges: Edges, origin: complex, turn: complex) -> Edges:
    """Edges as seen from an origin, then turned by a unit number: z → (z − origin)·turn."""
    return replace(
        edges, start=(edges.start - origin) * turn, end=(edges.end - origin) * turn,
        center=(edges.center - origin) * turn, angle=edges.angle + cmath.phase(turn),
    )  # fmt: skip
