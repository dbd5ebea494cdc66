"""What the movement of a body weighs: its middle, and its reach about that.

Both are those of the least circle about the places where joints act on the rigid body, a group and all that is fixed to
it being one; where that is a single place, of the least circle about all points and outlines. So least movement depends
neither on a part's own axes, nor on a point that nothing uses, nor on how a body is put together.
"""

from collections.abc import Iterable, Iterator

import numpy as np

from ..arrays import Array, Plane
from ..disjoint_set import DisjointSet
from ..document.model import Document, Part
from ..geometry.rings import rings
from .system import System

LEAST_REACH = 0.05
"""Least reach of a body (typical lengths), so that one without size does not spin for nothing."""
ONE_PLACE = 1e-6
"""Distance (typical lengths) below which places are one."""
ROUNDS = 200


def reaches(document: Document, system: System, q: Array) -> Array:
    """(P, 4) for each body: its rigid body's middle in its own axes, the reach about that, and how many bodies make up
    the rigid body, whose movement they share; dimensionless. `q` (P, 3) is where the parts stand."""
    found = np.zeros((len(system.body_ids), 4))
    found[:, 2:] = LEAST_REACH, 1.0
    acting = _acting(document)
    for members in _rigid_bodies(document):
        stands = {part: q[system.body(part)] for part in members}
        bodies = len({system.body(part) for part in members})
        places = [_place(stands[part], complex(*at) / system.scale) for part in members for at in acting.get(part, ())]
        center, reach = least_circle(np.array(places, dtype=complex))
        if reach <= ONE_PLACE:
            center, reach = _about_all(document, system, stands)
        for part, (x, y, angle) in stands.items():
            own = (center - complex(x, y)) * np.exp(-1j * angle)
            found[system.body(part)] = (own.real, own.imag, max(reach, LEAST_REACH), float(bodies))
    return found


def _acting(document: Document) -> dict[str, list[tuple[float, float]]]:
    """The places, in the parts' own axes, at which joints act on each part, but for those within one rigid body."""
    head = rigid_ties(document)
    found: dict[str, list[tuple[float, float]]] = {}
    for joint in document.active_joints.values():
        if head.head(joint.a.part) != head.head(joint.b.part):
            for side in (joint.a, joint.b):
                found.setdefault(side.part, []).append(document.parts[side.part].place(side.point))
    return found


def rigid_ties(document: Document) -> DisjointSet:
    """What moves as one: what is fixed is one body, and so is a group, and what rigid joints tie along any path."""
    fixed = ((joint.a.part, joint.b.part) for joint in document.active_joints.values() if joint.kind.rigid)
    return DisjointSet([*document.rigid, *fixed])


def _rigid_bodies(document: Document) -> Iterable[list[str]]:
    ties = rigid_ties(document)
    found: dict[str, list[str]] = {}
    for part in document.parts:
        found.setdefault(ties.head(part), []).append(part)
    return found.values()


def _place(stands: Array, at: complex) -> complex:
    x, y, angle = stands.tolist()
    return complex(x, y) + at * complex(np.exp(1j * angle))


def _about_all(document: Document, system: System, stands: dict[str, Array]) -> tuple[complex, float]:
    """The least circle about the points and outlines of parts that stand so: about ever more places of the outlines,
    those furthest from its middle."""
    parts = [document.parts[part] for part in stands]
    points = [_place(stands[part.id], complex(*at) / system.scale) for part in parts for at in part.points.values()]
    arcs = []
    for part in parts:
        for start, center, sweep in _edges(part):
            points.append(_place(stands[part.id], start / system.scale))
            if center is not None:
                middle = _place(stands[part.id], center / system.scale)
                arcs.append((middle, points[-1] - middle, sweep))
    center, reach = least_circle(np.array(points, dtype=complex))
    for _ in range(ROUNDS):
        further = [middle + abs(arm) * (middle - center) / abs(middle - center) for middle, arm, sweep in arcs
                   if abs(middle - center) > 0 and _passes(arm, sweep, middle - center)
                   and abs(middle - center) + abs(arm) > reach * (1 + 1e-9)]  # fmt: skip
        if not further:
            break
        points += further
        center, reach = least_circle(np.array(points, dtype=complex))
    return center, reach


def _edges(part: Part) -> Iterator[tuple[complex, complex | None, float]]:
    """The start of each edge of a part's outlines, with centre and sweep (rad) of an arc."""
    if any(shape.cut for shape in part.shapes):
        outlines = [slab.region.edges for slab in part.slabs]
    else:
        outlines = [ring for shape in part.shapes for ring in rings(shape)]
    for edges in outlines:
        for k in range(len(edges.start)):
            arc = bool(edges.is_arc[k])
            yield complex(edges.start[k]), complex(edges.center[k]) if arc else None, float(edges.sweep[k])


def _passes(arm: complex, sweep: float, way: complex) -> bool:
    """Whether an arc that begins at an arm from its centre passes a direction."""
    turn = float(np.angle(way / arm)) % (2 * np.pi)
    return turn <= sweep + 1e-12 if sweep > 0 else 2 * np.pi - turn <= -sweep + 1e-12


def least_circle(points: Plane) -> tuple[complex, float]:
    """Middle and radius of the least circle about points (S,), by the library's exact search."""
    import shapely

    if not points.size:
        return 0j, 0.0
    many = shapely.MultiPoint(np.stack((points.real, points.imag), axis=1))
    radius = float(shapely.minimum_bounding_radius(many))
    if radius == 0.0:
        return complex(points[0]), 0.0
    middle = shapely.minimum_bounding_circle(many).centroid
    return complex(middle.x, middle.y), radius


def weighed(about: Array, angles: Array) -> Array:
    """(N, 3, 3) what a change of x, y, θ of bodies weighs that stand at angles (N,): the movement of its middle,
    squared, and of its turn times its reach; `about` (N, 4) as `reaches` gives it."""
    cx, cy, reach, share = about.T
    cos, sin = np.cos(angles), np.sin(angles)
    rx, ry = cos * cx - sin * cy, sin * cx + cos * cy
    found = np.zeros((len(about), 3, 3))
    found[:, 0, 0] = found[:, 1, 1] = 1.0
    found[:, 0, 2] = found[:, 2, 0] = -ry
    found[:, 1, 2] = found[:, 2, 1] = rx
    found[:, 2, 2] = rx**2 + ry**2 + reach**2
    shared: Array = found / share[:, None, None]
    return shared
