"""Mechanisms without loops, in which every freedom can be named without arithmetic."""

from ..disjoint_set import DisjointSet
from ..document.model import Document
from .primitives import OF_BODY
from .rows import RowSpec, Term
from .system import System


def open_chains(document: Document, system: System) -> list[tuple[str, RowSpec]] | None:
    """The freedoms of a mechanism whose joints form no loop, named, each with the row that speaks of it: the
    coordinates of the joints, and the place of what no joint ties to a fixed part. None where there is a loop, a
    coupling or a joint that leaves more freedom than its coordinate tells."""
    joints = list(document.active_joints.values())
    if document.active_couplings or any(joint.kind.guide is None and not joint.kind.rigid for joint in joints):
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
    return [(f"{name}.{kind}", RowSpec((Term(kind, plane, body),), f"hold.{name}")) for kind in OF_BODY]
