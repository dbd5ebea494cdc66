"""From a document to its numeric form: bodies, constraint rows, driver rows. Names end here.

Lengths are divided by `System.scale`, a typical link length, so that lengths and angles (rad) weigh alike.
"""

import cmath
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from itertools import compress

import numpy as np

from ..arrays import Array
from ..document.meshes import into_mesh
from ..document.model import Document, Joint
from ..joints import JOINT_TYPES, Row
from ..kinds import Dimension
from .equations import Equations
from .primitives import IN_PLANE, terms_of
from .rows import RowSpec, Term, TermLaw

ROUNDING = 1e-9
"""Distance, relative to the largest, below which two points are one that was written in two ways."""


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
    """All joint rows that touch a moving body, over all moving bodies."""
    idle: Equations
    """The rows between bodies that are fixed: nothing can be moved to meet them, they hold or don't."""
    owners: tuple[str, ...]
    """What made the rows, in document order."""
    coordinates: "Coordinates"
    """The coordinates of all active joints that have one."""
    carried: Mapping[str, str] = field(default_factory=dict)
    """The parts that share the body of another: hardware."""

    @cached_property
    def bodies(self) -> dict[str, int]:
        """The number of each part's body."""
        own = {part: i for i, part in enumerate(self.body_ids) if part}
        return own | {part: own[by] for part, by in self.carried.items()}

    def body(self, part: str) -> int:
        """The number of a part's body."""
        return self.bodies[part]

    def by_part(self, q: Array) -> dict[str, tuple[float, float, float]]:
        """The pose of each part, of the positions of all bodies (P, 3)."""
        placed = [(x, y, angle) for x, y, angle in q.tolist()]
        return {part: placed[body] for part, body in self.bodies.items()}

    @cached_property
    def moving_parts(self) -> frozenset[str]:
        """The parts that are not fixed."""
        moving = set(self.moving)
        return frozenset(part for part, body in self.bodies.items() if body in moving)

    @property
    def size(self) -> Array:
        """(3,) what turns dimensionless x, y, θ into document lengths and rad."""
        return np.array([self.scale, self.scale, 1.0])


class Coordinates:
    """The coordinates of joints, as functions of position: angles in rad, lengths over scale."""

    def __init__(self, ids: Sequence[str], specs: Sequence[RowSpec], bodies: int):
        self.specs, self.ids = tuple(specs), tuple(ids)
        self._equations = Equations(specs, (), bodies)
        kinds = [spec.terms[0].spec for spec in specs]
        self.is_length = np.array([kind.is_length for kind in kinds], dtype=bool)
        self.is_polar = np.array([kind.periodic for kind in kinds], dtype=bool)
        self._columns = {joint: i for i, joint in enumerate(self.ids)}

    def __contains__(self, joint: str) -> bool:
        return joint in self._columns

    def index(self, joint: str) -> int:
        """The column of a joint's coordinate."""
        return self._columns[joint]

    def dimension(self, column: int) -> Dimension:
        """Length or angle."""
        return Dimension.LENGTH if self.is_length[column] else Dimension.ANGLE

    def values(self, q: Array) -> Array:
        """(S, C) at positions q (S, P, 3); polar angles not unwrapped."""
        return self._equations.values(q)

    def rates(self, q: Array, v: Array, a: Array) -> tuple[Array, Array]:
        """First and second time derivatives, each (S, C), from velocities and accelerations (S, P, 3)."""
        return self._equations.rates(q, v, a)


def limits(document: Document, coordinates: Coordinates) -> tuple[Array, Array]:
    """Least and greatest that each coordinate may be (C,), in core units; infinite where there is no limit."""
    found = [document.joints[joint].limits for joint in coordinates.ids]
    low = [-math.inf if limit.min is None else limit.min for limit in found]
    high = [math.inf if limit.max is None else limit.max for limit in found]
    return np.array(low, dtype=float), np.array(high, dtype=float)


def dimensionless_limits(document: Document, system: System) -> tuple[Array, Array]:
    """The same as the rows of a system count them: lengths over its scale."""
    low, high = limits(document, system.coordinates)
    lengths = np.where(system.coordinates.is_length, system.scale, 1.0)
    return low / lengths, high / lengths


def compile_system(document: Document, scale: float | None = None) -> System:
    """The system of a document: its active joints over its parts, its lengths over a `scale` (document units), else
    over what is typical of it."""
    scale = typical_length(document) if scale is None else scale
    own = [part for part in document.parts.values() if part.id not in document.carried]
    body_ids = (*(part.id for part in own), "")
    index = {part: i for i, part in enumerate(body_ids)}
    index |= {part: index[by] for part, by in document.carried.items()}
    placed = np.array([*(part.pose for part in own), (0.0, 0.0, 0.0)], dtype=float)
    placed[:, :2] /= scale
    moving = tuple(index[part.id] for part in own if not part.fixed)

    def terms(joint: Joint, row: Row, coefficient: float = 1.0) -> list[Term]:
        a, b = index[joint.a.part], index[joint.b.part]
        xa, ya = document.parts[joint.a.part].place(joint.a.point)
        xb, yb = document.parts[joint.b.part].place(joint.b.point)
        pa, pb = (xa / scale, ya / scale), (xb / scale, yb / scale)
        return [Term(spec.kind, a, b, pa, pb, spec.constant_of(row, scale), coefficient) for spec in terms_of(row)]

    def fitted(spec: RowSpec) -> RowSpec:
        """The row less what it comes to at the rough poses."""
        return replace(spec, offset=float(Equations([spec], (), len(body_ids)).values(placed[None])[0, 0]))

    specs, coordinate_ids, coordinate_specs = [], [], []
    for group in document.groups.values():  # first: a joint within a group is what is redundant
        if not document.parts[group.parts[0]].fixed:
            specs += _rigid(f"groups.{group.id}", [index[part] for part in group.parts], placed)
    for joint in document.active_joints.values():
        kind = JOINT_TYPES[joint.type]
        turned = placed[index[joint.b.part], 2] - placed[index[joint.a.part], 2]
        for row in kind.rows(joint.values, turned):
            if row.less is None:
                offset = terms_of(row)[0].offset_of(row, scale)
                period = 2 * math.pi if row.periodic else 0.0
                specs += [RowSpec((term,), joint.id, offset, period=period) for term in terms(joint, row)]
            else:
                factor = row.factor / scale if terms_of(row)[0].is_length else row.factor
                spec = RowSpec((*terms(joint, row), *terms(joint, row.less, -factor)), joint.id)
                specs.append(fitted(spec) if row.as_placed else spec)
        if (seen := kind.coordinate(joint.values)) is not None:
            coordinate_ids.append(joint.id)
            coordinate_specs.append(RowSpec((terms(joint, seen)[0],), joint.id))
    by_joint = dict(zip(coordinate_ids, coordinate_specs, strict=True))
    mesh = into_mesh(document)
    for coupling in document.active_couplings.values():
        tied = [by_joint[joint].terms[0] for joint in (coupling.a, coupling.b)]
        if coupling.carrier is not None:
            carrier = index[coupling.carrier]
            tied = [Term("angle", carrier, index[document.joints[name].b.part]) for name in (coupling.a, coupling.b)]
        sizes = [scale if term.spec.is_length else 1.0 for term in tied]
        if coupling.law is not None:
            law = coupling.law.scaled(1.0 / sizes[0], 1.0 / sizes[1])
            by_law = replace(tied[0], coefficient=-1.0, law=TermLaw(law.pieces, law.start, law.period))
            spec = RowSpec((tied[1], by_law), coupling.id)
            specs.append(fitted(spec) if coupling.low is None else replace(spec, offset=coupling.low / sizes[1]))
            continue
        ratio = coupling.ratio * sizes[0] / sizes[1]
        spec = fitted(RowSpec((tied[1], replace(tied[0], coefficient=-ratio)), coupling.id))
        specs.append(replace(spec, offset=spec.offset + mesh.get(coupling.id, 0.0) / sizes[1]))
    free = set(moving)
    touching = [any(body in free for term in spec.terms for body in (term.a, term.b)) for spec in specs]
    return System(
        scale=scale,
        body_ids=body_ids,
        moving=moving,
        placed=placed,
        constraints=Equations(list(compress(specs, touching)), moving, len(body_ids)),
        idle=Equations([spec for spec, live in zip(specs, touching, strict=True) if not live], (), len(body_ids)),
        owners=tuple(dict.fromkeys(spec.owner for spec in specs)),
        coordinates=Coordinates(coordinate_ids, coordinate_specs, len(body_ids)),
        carried=document.carried,
    )


def _rigid(owner: str, bodies: list[int], placed: Array) -> list[RowSpec]:
    """The rows that keep bodies as they are placed (P, 3) against the first of them: its own axes carry the origin and
    the direction of each other."""
    specs = []
    x, y, angle = placed[bodies[0]]
    for body in bodies[1:]:
        off = complex(placed[body, 0] - x, placed[body, 1] - y) * cmath.rect(1.0, -angle)
        ends = (off.real, off.imag), (0.0, 0.0)
        specs += [RowSpec((Term(kind, bodies[0], body, *ends),), owner) for kind in IN_PLANE]
        turned = float(placed[body, 2] - angle)
        specs.append(RowSpec((Term("angle", bodies[0], body, constant=turned),), owner, period=2 * math.pi))
    return specs


def typical_length(document: Document) -> float:
    """The median distance between joint points of one part (document units), by which lengths are scaled. Points that
    differ by rounding only are one."""
    used: dict[str, dict[str, None]] = {part: {} for part in document.parts}
    for joint in document.active_joints.values():
        used[joint.a.part][joint.a.point] = None
        used[joint.b.part][joint.b.point] = None
    spans, far = [], []
    for part, names in used.items():
        points = [document.parts[part].place(name) for name in names]
        spans += [math.dist(points[0], other) for other in points[1:]]
        far += [math.hypot(*point) for point in document.parts[part].points.values()]
    spans += [joint.values["length"] for joint in document.joints.values() if "length" in joint.values]
    far += [math.hypot(*part.pose[:2]) for part in document.parts.values()]
    least = ROUNDING * max([*spans, *far], default=0.0)
    for several in (spans, far):
        real = [span for span in several if span > least]
        if real:
            return float(np.median(real))
    return 1.0
