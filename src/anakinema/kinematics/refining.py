"""Nodes that tell all that lies between them, also a hair short of a dead point.

Where a driver comes near a dead point, positions run like the root of the way that is left, and rates grow without
bound. Steps that are as long as their prediction holds may end there with nodes whose interpolation runs through the
dead point into the mirror image. Such intervals are halved along the arc of the motion, on which a dead point is a
place like any other.
"""

from collections.abc import Iterator, Sequence

import numpy as np

from ..arrays import Array
from .arc import Arc
from .crossing import Node, node
from .equations import Equations
from .stretches import Course, Law, Nodes

ASTRAY = 0.01
"""How far the interpolation between two nodes may be off, as a share of the way between them."""
HALVINGS = 64
"""How often an interval is halved at most."""
FOLDED, NEAR, FOLD = 1e-9, 1e-3, 3e-3
"""Spreads between which rates tell that a place lies by a dead point: those for a unit of the drivers' way are at least
so much over the spread there, where at a change point they stay finite."""
NOT_FAR, MOST = 0.05, 200
"""Spread below which a place may be by a dead point; nodes that an interval gets at most."""
TOWARD = 22
"""How often the arc to a dead point is halved by nodes."""


def by_a_dead_point(equations: Equations, law: Law, t: float, q: Array, near: float = NEAR) -> bool:
    """Whether positions (P, 3) that are singular, or nearly so, lie by a dead point of the drivers, and not where two
    ways on meet."""
    heading = Course(law, t).heading
    if not heading.any():  # it ends at rest: as it came
        heading = Course(law, law.t0).heading
    targets = law.targets(np.array([t]))[0]
    spread, v, _, _ = equations.settle(q.copy(), targets, heading, 0 * targets)
    return bool(FOLDED < spread < near and spread * float(np.abs(v).max(initial=0.0)) > FOLD)


def refined(equations: Equations, law: Law, nodes: Nodes) -> Nodes:
    """The nodes of a stretch, with more of them where they tell too little of what lies between."""
    if len(nodes.t) < 2 or not law.moves or not equations.columns:
        return nodes
    bad = np.flatnonzero(equations.told_between(law, nodes) > ASTRAY)
    if not bad.size:
        return nodes
    found = [Nodes(nodes.t[:1], nodes.q[:1], nodes.v[:1], nodes.a[:1])]
    last = 0
    for k in bad.tolist():
        places = [(float(nodes.t[i]), nodes.q[i]) for i in (k, k + 1)]
        if not any(by_a_dead_point(equations, law, t, q, NOT_FAR) for t, q in places):
            continue
        ends = [node(equations, law, t, q) for t, q in places]
        found.append(_some(nodes, slice(last + 1, k + 1)))
        found.append(_gathered(list(_between(equations, law, *ends)), nodes))
        last = k
    found.append(_some(nodes, slice(last + 1, None)))
    return Nodes(*(np.concatenate([getattr(each, name) for each in found]) for name in ("t", "q", "v", "a")))


def toward(equations: Equations, law: Law, arc: Arc, turns: float) -> Iterator[Node]:
    """Nodes along an arc that crowd toward the dead point at which it turns."""
    for halving in range(1, TOWARD + 1):
        reached = arc.point(turns * (1.0 - 0.5**halving))
        if reached is None:
            return
        found = node(equations, law, arc.course.time(reached[1]), reached[0])
        if found is None:
            return
        yield found


def _some(nodes: Nodes, which: slice) -> Nodes:
    return Nodes(nodes.t[which], nodes.q[which], nodes.v[which], nodes.a[which])


def _gathered(some: Sequence[Node], like: Nodes) -> Nodes:
    if not some:
        return _some(like, slice(0, 0))
    return Nodes(*(np.array([getattr(each, name) for each in some]) for name in ("t", "q", "v", "a")))


def _between(equations: Equations, law: Law, low: Node | None, high: Node | None) -> Iterator[Node]:
    """The nodes that are wanted between two, in order."""
    if low is None or high is None:  # a start that was left, an end between two ways: nothing is known better
        return
    left, count = [(low, high, HALVINGS)], 0
    while left:
        low, high, halvings = left.pop()
        pair = Nodes(*(np.array([getattr(each, name) for each in (low, high)]) for name in ("t", "q", "v", "a")))
        middle = None
        if halvings and count < MOST and equations.told_between(law, pair)[0] > ASTRAY:
            middle = _middle(equations, law, low, high)
        if middle is not None:
            count += 1
            left += [(middle, high, halvings - 1), (low, middle, halvings - 1)]
        elif left:
            yield high


def _middle(equations: Equations, law: Law, low: Node, high: Node) -> Node | None:
    """A node about halfway along the arc; None where there is none on the same branch."""
    arc = Arc(equations, law, low.t, low.q, low.v)
    way = float(arc.course.way(np.array([high.t]))[0])
    gone = np.append((high.q - low.q)[equations.unknown].ravel(), way)
    whole = float(arc.tangent @ gone)
    for share in (0.5, 0.25, 0.1):
        reached = arc.point(share * whole)
        if reached is None or not 0.0 < reached[1] < way:
            continue
        t = arc.course.time(reached[1])
        if low.t < t < high.t:
            found = node(equations, law, t, reached[0])
            if found is not None and _on(found, low, high):
                return found
    return None


def _on(found: Node, low: Node, high: Node) -> bool:
    """Whether a node has the signs of one of two others, block by block."""
    return bool(((found.signs == low.signs) | (found.signs == high.signs)).all())
