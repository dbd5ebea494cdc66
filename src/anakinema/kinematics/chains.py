"""Mechanisms without loops, in which every freedom can be named without arithmetic; and the measures of their parts."""

import numpy as np

from ..arrays import Array
from ..disjoint_set import DisjointSet
from ..document.model import Document
from ..geometry.edges import boxes
from ..geometry.rings import rings
from .rows import RowSpec, Term, TermKind
from .system import System

WHOLE = ("revolute", "prismatic", "slide-arc", "fixed")
"""Joint types whose coordinate, if they have one, is all the freedom that they leave."""
LEAST_REACH = 0.05
"""Least reach of a part (typical lengths), so that a part without size does not spin for nothing."""


def open_chains(document: Document, system: System) -> list[tuple[str, RowSpec]] | None:
    """The freedoms of a mechanism whose joints form no loop, named, each with the row that speaks of it: the
    coordinates of the joints, and the place of what no joint ties to a fixed part. None where there is a loop, a
    coupling or a joint that leaves more freedom than its coordinate tells."""
    joints = list(document.active_joints.values())
    if document.active_couplings or any(joint.type not in WHOLE for joint in joints):
        return None
    ties, fixed = DisjointSet(document.rigid), document.fixed_parts
    for joint in joints:
        if not ties.tie(joint.a.part, joint.b.part):
            return None
    found = [
        (joint, spec) for joint, spec in zip(system.coordinates.ids, system.coordinates.specs, strict=True)
    ]
    ground = ties.head(fixed[0]) if fixed else None
    seen: set[str] = set()
    for part in document.parts:
        top = ties.head(part)
        if top != ground and top not in seen:
            seen.add(top)
            found += ways_of_body(system, system.body(part))
    return found


def ways_of_body(system: System, body: int) -> list[tuple[str, RowSpec]]:
    """The three freedoms of a body against the plane: angle, x and y."""
    name, plane = system.body_ids[body], len(system.body_ids) - 1
    kinds: tuple[tuple[str, TermKind], ...] = (("angle", "angle"), ("x", "x"), ("y", "y"))
    return [(f"{name}.{word}", RowSpec((Term(kind, plane, body),), f"hold.{name}")) for word, kind in kinds]


def middles(document: Document, system: System) -> Array:
    """(P, 3) the middle of each body's points and outline, in its own axes, and its reach about that; dimensionless."""
    found = np.zeros((len(system.body_ids), 3))
    found[:, 2] = LEAST_REACH
    for i, part in enumerate(document.parts.values()):
        corners = [complex(*point) for point in part.points.values()]
        for shape in part.shapes:
            for ring in rings(shape) if not shape.cut else ():
                low, high = boxes(ring)
                corners += [complex(low.real.min(), low.imag.min()), complex(high.real.max(), high.imag.max())]
        if corners:
            z = np.array(corners)
            low_corner, high_corner = z.real.min() + 1j * z.imag.min(), z.real.max() + 1j * z.imag.max()
            middle, reach = (low_corner + high_corner) / 2, abs(high_corner - low_corner) / 2
            found[i] = (*np.array([middle.real, middle.imag]) / system.scale, max(reach / system.scale, LEAST_REACH))
    return found
