"""Contacts of finite edges: where along the motion the point of contact runs off the real edge."""

import numpy as np

from ..arrays import Array, Plane
from ..document.model import Document, Edge, Joint
from ..joints import JOINT_TYPES
from .motion import Lost, Motion


def lost_contacts(motion: Motion) -> list[Lost]:
    """The first time at which each contact leaves either of its edges; nothing for those that never do."""
    found = []
    for joint in motion.document.active_joints.values():
        if JOINT_TYPES[joint.type].of_edges:
            for edge, room in ((joint.a, 0), (joint.b, 1)):
                t = _first_below(motion, joint, room)
                if t is not None:
                    found.append(Lost(joint.id, str(edge), t, motion.driver_value(t)))
    return sorted(found, key=lambda entry: entry.t)


def _first_below(motion: Motion, joint: Joint, side: int) -> float | None:
    """The first time at which the room left on an edge falls below zero."""
    nodes = motion.grid
    t = np.unique(np.concatenate([nodes, np.linspace(nodes[0], nodes[-1], 4 * nodes.size)]))
    slack = 1e-9 * motion.system.scale
    left = room(motion.document, joint, motion.positions(t), motion.system.body_ids)[side]
    beyond = np.flatnonzero(left < -slack)
    if not beyond.size:
        return None
    first = int(beyond[0])
    if first == 0:
        return float(t[0])
    low, high = float(t[first - 1]), float(t[first])
    for _ in range(12):  # subdivision in batches: each narrows the bracket sixteenfold
        inner = np.linspace(low, high, 17)
        outside = room(motion.document, joint, motion.positions(inner), motion.system.body_ids)[side] < -slack
        k = int(np.argmax(outside)) if outside.any() else 16
        low, high = float(inner[max(k - 1, 0)]), float(inner[k])
    return low


def room(document: Document, joint: Joint, q: Array, body_ids: tuple[str, ...]) -> tuple[Array, Array]:
    """(S,) twice: how far the point of contact lies from the nearer end of either edge (document lengths along the
    edge; below zero: beyond the end; infinite for a full circle), at q (S, P, 3: document lengths, rad)."""
    one, two, a, b, start, center = _edges(document, joint, q, body_ids)
    toward = _toward(one, two, joint, a, start, center)
    if one.is_arc:
        return _on_arc(one, toward[0] - a[:, 2]), _on_arc(two, toward[1] - b[:, 2])
    line = complex(*one.stop) - complex(*one.start)
    along = ((center - start) * np.exp(-1j * a[:, 2]) / (line / abs(line))).real
    return np.minimum(along, abs(line) - along), _on_arc(two, toward[1] - b[:, 2])


def touch(document: Document, joint: Joint, q: Array, body_ids: tuple[str, ...]) -> Plane:
    """(S,) where the edges of a joint touch, in the plane as x + i y, at positions q (S, P, 3: document lengths)."""
    one, two, a, _, start, center = _edges(document, joint, q, body_ids)
    toward = _toward(one, two, joint, a, start, center)
    at: Plane = center + two.radius * np.exp(1j * toward[1])
    return at


def _edges(
    document: Document, joint: Joint, q: Array, body_ids: tuple[str, ...]
) -> tuple[Edge, Edge, Array, Array, Plane, Plane]:
    """Both edges, the positions (S, 3) of their parts, and where their starts or centers lie (S,)."""
    a, b = q[:, body_ids.index(joint.a.part)], q[:, body_ids.index(joint.b.part)]
    one = document.parts[joint.a.part].edges[joint.a.point]
    two = document.parts[joint.b.part].edges[joint.b.point]
    start, center = (
        at[:, 0] + 1j * at[:, 1] + complex(*edge.start) * np.exp(1j * at[:, 2]) for at, edge in ((a, one), (b, two))
    )
    return one, two, a, b, start, center


def _toward(one: Edge, two: Edge, joint: Joint, a: Array, start: Plane, center: Plane) -> tuple[Array, Array]:
    """(S,) twice: the direction (rad) from each arc's center to the point of contact."""
    if not one.is_arc:
        line = (complex(*one.stop) - complex(*one.start)) * np.exp(1j * a[:, 2])
        across = ((center - start) * line.conj()).imag
        down: Array = np.angle(-1j * np.sign(across) * line)
        return down, down
    away: Array = np.angle(center - start)
    nested = joint.values.get("inside", 0.0) == 1.0
    from_one = away + np.pi if nested and two.radius > one.radius else away
    from_two = away if nested and one.radius > two.radius else away + np.pi
    return from_one, from_two


def _on_arc(edge: Edge, angle: Array) -> Array:
    """Length along an arc from the nearer end to the direction `angle` (in the part's axes)."""
    span = edge.high - edge.low
    if span >= 2 * np.pi - 1e-9:
        return np.full(angle.shape, np.inf)
    middle = (edge.low + edge.high) / 2
    off = np.abs(np.remainder(angle - middle + np.pi, 2 * np.pi) - np.pi)
    left: Array = (span / 2 - off) * edge.radius
    return left
