"""From a document to its numeric form: bodies, constraint rows, driver rows. Names end here.

Lengths are divided by `System.scale`, a typical link length, so that lengths and angles (rad) weigh alike.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from graphlib import TopologicalSorter

import numpy as np
from scipy import sparse
from scipy.sparse.csgraph import connected_components, maximum_bipartite_matching

from ..document.model import Document, Joint
from ..joints import JOINT_TYPES, Row
from .equations import Equations, RowSpec, gather
from .rows import Array


@dataclass(frozen=True)
class System:
    """The numeric form of a document. Bodies are numbered; `body_ids` names them. The last body, without a name, is the
    plane itself: it never moves, and what no part holds is held against it."""

    scale: float
    body_ids: tuple[str, ...]
    moving: tuple[int, ...]
    """Bodies that are not fixed."""
    placed: Array
    """(P, 3) the rough poses, dimensionless."""
    constraints: Equations
    """All joint rows over all moving bodies."""
    coordinates: "Coordinates"
    """The coordinates of all active joints that have one."""

    def body(self, part: str) -> int:
        return self.body_ids.index(part)


class Coordinates:
    """The coordinates of joints, as functions of position: angles in rad, lengths over scale."""

    def __init__(self, ids: Sequence[str], specs: Sequence[RowSpec]):
        self.specs = tuple(specs)
        self.groups, order = gather(specs)
        self.ids = tuple(ids)
        self._sorted = np.argsort(np.array(order, dtype=np.intp), kind="stable")
        kinds = np.array([spec.kind for spec in specs], dtype=object)
        self.is_length = kinds == "projection"
        self.is_polar = kinds == "polar"

    def index(self, joint: str) -> int:
        return self.ids.index(joint)

    def values(self, q: Array) -> Array:
        """(S, C) at positions q (S, P, 3); polar angles not unwrapped."""
        if not self.groups:
            return np.zeros((len(q), 0))
        return np.concatenate([group.value(q) for group in self.groups], axis=1)[:, self._sorted]

    def rates(self, q: Array, v: Array, a: Array) -> tuple[Array, Array]:
        """First and second time derivatives, each (S, C), from velocities and accelerations (S, P, 3)."""
        if not self.groups:
            return np.zeros((len(q), 0)), np.zeros((len(q), 0))
        first = [group.along(q, v) for group in self.groups]
        second = [group.along(q, a) + group.quadratic(q, v) for group in self.groups]
        return np.concatenate(first, axis=1)[:, self._sorted], np.concatenate(second, axis=1)[:, self._sorted]


def compile_system(document: Document) -> System:
    """The system of a document: its active joints over its parts."""
    scale = typical_length(document)
    body_ids = (*document.parts, "")
    index = {part: i for i, part in enumerate(body_ids)}
    placed = np.array([*(part.pose for part in document.parts.values()), (0.0, 0.0, 0.0)], dtype=float)
    placed[:, :2] /= scale
    moving = tuple(index[part.id] for part in document.parts.values() if not part.fixed)

    def spec(joint: Joint, row: Row, owner: str) -> RowSpec:
        a, b = index[joint.a.part], index[joint.b.part]
        xa, ya = document.parts[joint.a.part].points[joint.a.point]
        xb, yb = document.parts[joint.b.part].points[joint.b.point]
        constant = {
            "angle": row.offset,
            "projection": row.direction,
            "distance": row.length / scale,
        }.get(row.kind, 0.0)
        return RowSpec(
            row.kind, a, b, (xa / scale, ya / scale), (xb / scale, yb / scale), constant, owner
        )

    specs, coordinate_ids, coordinate_specs = [], [], []
    for joint in document.active_joints.values():
        kind = JOINT_TYPES[joint.type]
        turned = placed[index[joint.b.part], 2] - placed[index[joint.a.part], 2]
        specs += [spec(joint, row, joint.id) for row in kind.rows(joint.values, turned)]
        if (row := kind.coordinate(joint.values)) is not None:
            coordinate_ids.append(joint.id)
            coordinate_specs.append(spec(joint, row, joint.id))
    return System(
        scale=scale,
        body_ids=body_ids,
        moving=moving,
        placed=placed,
        constraints=Equations(specs, moving, len(body_ids)),
        coordinates=Coordinates(coordinate_ids, coordinate_specs),
    )


def typical_length(document: Document) -> float:
    """The median distance between joint points of one part (document units), by which lengths are scaled."""
    used: dict[str, dict[str, None]] = {part: {} for part in document.parts}
    for joint in document.active_joints.values():
        used[joint.a.part][joint.a.point] = None
        used[joint.b.part][joint.b.point] = None
    spans = []
    for part, names in used.items():
        points = [document.parts[part].points[name] for name in names]
        spans += [math.dist(points[0], other) for other in points[1:]]
    spans += [joint.values["length"] for joint in document.joints.values() if "length" in joint.values]
    spans = [span for span in spans if span > 0]
    if not spans:
        spans = [math.hypot(*point) for part in document.parts.values() for point in part.points.values()]
        spans = [span for span in spans if span > 0] or [1.0]
    return float(np.median(spans))


def blocks(equations: Equations, bodies: int) -> list[Equations]:
    """The equations cut into blocks that can be solved one after the other, whole joints and whole bodies in each.

    Bodies and rows are matched one to one (a maximum matching of the Jacobian's pattern); what hangs together both
    ways is one block. Not-square systems stay in one piece.
    """
    if equations.rows != equations.columns or equations.rows == 0:
        return [equations]
    keep = equations.column < equations.columns
    row = np.broadcast_to(np.arange(equations.rows)[:, None], keep.shape)[keep]
    column = equations.column[keep]
    pattern = sparse.csr_matrix((np.ones(row.size), (row, column)), shape=(equations.rows, equations.columns))
    matched = maximum_bipartite_matching(pattern, perm_type="column")  # the column of each row
    if (matched < 0).any():
        return [equations]
    order = np.array(equations.order)
    # Nodes are columns. A row's matched column needs every other column of the row; rows of one spec and columns of
    # one body stay together.
    same_spec = np.flatnonzero(order[1:] == order[:-1])
    sources = [matched[row], matched[same_spec], matched[same_spec + 1]]
    targets = [column, matched[same_spec + 1], matched[same_spec]]
    for shift in (1, 2):
        first = np.arange(0, equations.columns, 3)
        sources += [first, first + shift]
        targets += [first + shift, first]
    edges = (np.concatenate(sources), np.concatenate(targets))
    graph = sparse.csr_matrix((np.ones(edges[0].size), edges), shape=(equations.columns,) * 2)
    count, label = connected_components(graph, directed=True, connection="strong")
    if count == 1:
        return [equations]
    sorter: TopologicalSorter[int] = TopologicalSorter({i: set() for i in range(count)})
    for i, j in set(zip(label[edges[0]].tolist(), label[edges[1]].tolist(), strict=True)):
        if i != j:
            sorter.add(i, j)
    spec_of: dict[int, dict[int, None]] = {i: {} for i in range(count)}
    for at, spec_index in enumerate(equations.order):
        spec_of[int(label[matched[at]])][spec_index] = None
    unknown_of: dict[int, list[int]] = {i: [] for i in range(count)}
    for k, body in enumerate(equations.unknown.tolist()):
        unknown_of[int(label[3 * k])].append(body)
    return [
        Equations([equations.specs[i] for i in spec_of[block]], unknown_of[block], bodies, equations.unknown.tolist())
        for block in sorter.static_order()
    ]
