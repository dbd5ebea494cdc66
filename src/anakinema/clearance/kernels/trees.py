"""Two trees of circles looked through together: what lies far apart is left out with all that is under it."""

import numpy as np

from ...arrays import Array, Index
from ...compiling import inner
from .tables import BX, BY, HIGH, LOW, OutlineTable

MOST_SEEN = 100_000
"""Pairs of nodes that are looked through at most at one position or in one interval."""


@inner
def nodes_apart(one: OutlineTable, i: int, two: OutlineTable, j: int, place: complex, turn: complex) -> float:
    """A bound of the distance of what lies under two nodes; infinite where they share no depth."""
    a, b = one.nodes[i], two.nodes[j]
    if a[3] >= b[4] or b[3] >= a[4]:
        return np.inf
    z = place + turn * complex(a[0], a[1]) - complex(b[0], b[1])
    return abs(z) - a[2] - b[2]


@inner
def branched(one: OutlineTable, i: int, two: OutlineTable, j: int, visits: Index, top: int) -> int:
    """Puts the two branches of the larger of two nodes, each with the other node, on `visits` (V, 2), of which `top`
    rows are in use; returns how many are now. −1 where neither has branches."""
    a, b = one.links[i, 0], two.links[j, 0]
    if a < 0 and b < 0:
        return -1
    if a >= 0 and (b < 0 or one.nodes[i, 2] >= two.nodes[j, 2]):
        visits[top, 0], visits[top, 1] = a, j
        visits[top + 1, 0], visits[top + 1, 1] = one.links[i, 1], j
    else:
        visits[top, 0], visits[top, 1] = i, b
        visits[top + 1, 0], visits[top + 1, 1] = i, two.links[j, 1]
    return top + 2


@inner
def under(form: OutlineTable, i: int) -> tuple[int, int]:
    """The first and the one behind the last of the features of a node without branches."""
    first = -1 - form.links[i, 0]
    return first, first + form.links[i, 1]


@inner
def share_depth(one: Array, two: Array) -> bool:
    """Whether two features share depth."""
    return one[LOW] < two[HIGH] and two[LOW] < one[HIGH]


@inner
def out(feature: Array) -> float:
    """How far from the origin of its part a feature's circle has its center: what a turn moves it by."""
    return abs(complex(feature[BX], feature[BY]))
