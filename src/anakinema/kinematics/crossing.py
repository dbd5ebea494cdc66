"""Whether a branch really crosses a change point, or was stepped over a gap too narrow to be seen.

Where a block's determinant changes its sign between two nodes, the branch may pass a singular position straight on, as
a parallelogram does when flat. But lengths that are a hair off open a gap there: the way ends (a throw that is longer
than its rod), or turns sharply onto another course. The change of sign is halved down until the branch is seen to run
through it, or not.
"""

from dataclasses import dataclass

import numpy as np

from ..arrays import Array
from .equations import Equations
from .stretches import Law

NARROW = 1e-5
"""Way of the drivers (rad, typical lengths) down to which a change of sign is halved. A gap of that width comes of
lengths that differ by its square, which is rounding."""
SINGULAR = 1e-8
"""Least spread of a block at which a position tells its sign."""
BENT = 0.1
"""Share of the way of the bodies by which they may miss the continuation over the last, narrowest piece."""
SHARES = (0.5, 0.43)
"""Where an interval is parted; the second where the first is the singular position itself."""


@dataclass(frozen=True)
class Node:
    """Positions with rates (P, 3) at a time, and the signs (B,) of the blocks there."""

    t: float
    q: Array
    v: Array
    a: Array
    signs: Array


def node(equations: Equations, law: Law, t: float, q: Array) -> Node | None:
    """The node at positions that are nearly on the rows; None where the joints don't close, or the place is
    singular."""
    targets, rates, seconds = (each[0] for each in law.sampled(np.array([t])))
    q = q.copy()
    spread, v, a, signs = equations.settle(q, targets, rates, seconds)
    if not spread > SINGULAR or not np.abs(equations.residual(q, targets)).max(initial=0.0) < 1e-10:
        return None
    return Node(t, q, v, a, signs)


def crosses(equations: Equations, law: Law, low: Node, high: Node) -> bool:
    """Whether the branch runs from one node to the other through every change of sign between them."""
    narrow = NARROW / law.fastest
    left = [(low, high)]
    while left:
        low, high = left.pop()
        if np.array_equal(low.signs, high.signs):
            continue
        width = high.t - low.t
        if width <= narrow:
            gone = width * max(float(np.abs(low.v).max()), float(np.abs(high.v).max()))
            if not np.abs(high.q - low.q - width / 2 * (low.v + high.v)).max() < BENT * gone + 1e-9:
                return False
            continue
        parted = (_between(equations, law, low, high, share) for share in SHARES)
        middle = next((each for each in parted if each is not None), None)
        if middle is None:
            return False
        left += [(low, middle), (middle, high)]
    return True


def _between(equations: Equations, law: Law, low: Node, high: Node, share: float) -> Node | None:
    from scipy.interpolate import BPoly

    width = high.t - low.t
    ends = [[each.q, width * each.v, width * width * each.a] for each in (low, high)]
    return node(equations, law, low.t + share * width, BPoly.from_derivatives([0.0, 1.0], ends)(share))
