"""Contacts: letting two parts touch and never pass, moving them apart, making one of a held edge, and stops."""

from collections.abc import Mapping

import numpy as np

from ..clearance.approach import relative_places, room_for
from ..clearance.forms import shape_of
from ..clearance.pairs import share_depth
from ..document.assemblies import within
from ..document.changes import Change, Place, Set
from ..document.model import Document
from ..document.references import references
from ..document.written import pose_of, tidy
from ..errors import DocumentError, Fault, located
from ..joints import CONTACT, JOINT_TYPES
from ..kinematics.equations import Equations
from ..kinematics.reaches import rigid_ties
from ..kinematics.system import System, compile_system
from .building import Made, free_name

Pose = tuple[float, float, float]
ROUNDS = 40
"""Moves that are tried to part outlines."""
BETWEEN = 1e-4
"""What is left between parts that were moved apart, as a share of their size."""
PIN = 0.12
"""The radius of a stop's pin, as a share of the part's reach."""


def touch(document: Document, one: str, two: str) -> Made:
    """A contact of two parts. Raises `DocumentError` where they can't touch, or are one already."""
    why = _refused(document, one, two)
    if why:
        raise located(f"parts.{one}", why)
    name = free_name(document.tree.get("joints", {}), CONTACT.word)
    return Made((Set(("joints", name), {"type": CONTACT.name, "a": one, "b": two}),), ("joints", name))


def touch_all(document: Document, part: str) -> Made:
    """Contacts of a part with all that it may meet: all parts that share depth with it, move against it, and are not
    joined to it. Raises `DocumentError` where there are none."""
    joined = {frozenset((joint.a.part, joint.b.part)) for joint in document.active_joints.values()}
    others = [other for other in document.parts if frozenset((part, other)) not in joined
              and not _refused(document, part, other)]  # fmt: skip
    if not others:
        raise located(f"parts.{part}", f"'{part}' meets no other part: none shares its depth that it is not joined to")
    entries = dict(document.tree.get("joints", {}))
    changes: list[Change] = []
    for other in others:
        name = free_name(entries, CONTACT.word)
        entries[name] = {"type": CONTACT.name, "a": part, "b": other}
        changes.append(Set(("joints", name), entries[name]))
    return Made(tuple(changes), ("joints", name))


def _refused(document: Document, one: str, two: str) -> str:
    """Why two parts can't be let touch; empty where they can."""
    if one == two:
        return "a part can't touch itself; pick another"
    ties = rigid_ties(document)
    if ties.head(one) == ties.head(two):
        return f"'{one}' and '{two}' move as one body and never touch anew"
    if any(one in side and two in other for contact in document.contacts.values()
           for side, other in (contact.sides, contact.sides[::-1])):  # fmt: skip
        return f"'{one}' and '{two}' are a contact already"
    if not document.parts[one].slabs or not document.parts[two].slabs:
        bare = one if not document.parts[one].slabs else two
        return f"'{bare}' has no outline to touch with; draw one"
    if not share_depth(document, one, two):
        return f"'{one}' and '{two}' share no depth, so that they pass each other; move one along z"
    return ""


def lifted_off(document: Document, name: str) -> Made:
    """A joint that holds edges together made a contact of its parts, which may part again. Raises `DocumentError` where
    its coordinate is used."""
    joint = document.joints[name]
    if not JOINT_TYPES[joint.type].of_edges:
        raise located(f"joints.{name}", "holds no edges; a contact is made of a joint that does")
    place = document.home("joints", name)
    users = [".".join(map(str, reference.owner)) for reference in references(document) if reference.target == place]
    if users:
        raise located(f"joints.{name}", f"its coordinate is used by {users[0]}; remove that first")
    sides = {side: str(document.entry("joints", name)[side]).split(".")[0] for side in "ab"}
    return Made((Set(place, {"type": CONTACT.name, **sides}),), ("joints", name))


def move_apart(document: Document, poses: Mapping[str, Pose]) -> Made:
    """The least movement by which contacts that overlap where the parts stand do so no more, the joints holding. Raises
    `DocumentError` where there is no way, or nothing overlaps."""
    system = compile_system(document)
    q = np.array([*(poses[part] for part in document.parts), (0.0, 0.0, 0.0)], dtype=float) / system.size
    moved = False
    for _ in range(ROUNDS):
        deepest = _deepest(document, system.body_ids, q * system.size)
        if deepest is None:
            break
        one, two, at, way = deepest
        moved = True
        _part(system, q, system.body(one), system.body(two), at / system.scale, way / system.scale)
    else:
        raise DocumentError([Fault("joints", "the joints leave no way to move these parts apart; change their shapes")])
    if not moved:
        raise DocumentError([Fault("joints", "nothing that a contact keeps apart overlaps here")])
    found: list[Change] = []
    for part, (x, y, angle) in zip(document.parts, (q * system.size).tolist(), strict=False):
        if not np.allclose((x, y, angle), poses[part], rtol=0.0, atol=1e-9):
            pose = pose_of(document, *_within(document, part, (x, y, angle)))
            found.append(Set(_place_of_pose(document, part), pose))
    return Made(tuple(found), ("parts", str(next(iter(found)).place[1])) if found else ("parts",))


def _place_of_pose(document: Document, part: str) -> Place:
    """Where the pose of a part stands: of one in a sub-assembly among the poses of its use."""
    use, _, own = part.rpartition("/")
    return (*document.home("parts", use), "poses", own) if use else ("parts", part, "pose")


def _within(document: Document, part: str, pose: Pose) -> tuple[complex, float]:
    """A pose as it is said there."""
    use = part.rpartition("/")[0]
    if use:
        pose = within(pose, document.uses[use].pose)
        if document.uses[use].mirror:
            pose = pose[0], -pose[1], -pose[2]
    return complex(*pose[:2]), pose[2]


def _deepest(
    document: Document, bodies: tuple[str, ...], q: np.ndarray
) -> tuple[str, str, complex, complex] | None:
    """The pair of a contact that overlaps most: its parts, where, and the move of the first that would part them."""
    from ..clearance.kernels import depth

    rooms = room_for(1)
    best: tuple[float, str, str, complex, complex] | None = None
    for contact in document.active_contacts.values():
        for one in contact.sides[0]:
            for two in contact.sides[1]:
                if not share_depth(document, one, two):
                    continue
                a, b = (q[bodies.index(part)] for part in (one, two))
                place, turn = relative_places(a[None], b[None])
                shapes = [shape_of(document.parts[part].slabs, 1e-7) for part in (one, two)]
                move = np.zeros(8)
                depth.signed(shapes[0].form, shapes[1].form, place, turn, 1e-7, rooms, move, np.empty(1))
                if move[0] > 1e-7 and (best is None or move[0] > best[0]):
                    size = max(shape.reach for shape in shapes)
                    way = complex(move[1], move[2]) * np.exp(1j * b[2])
                    way *= 1.0 + BETWEEN * size / abs(way)
                    best = float(move[0]), one, two, complex(a[0], a[1]), complex(way)
    return None if best is None else best[1:]


def _part(system: System, q: np.ndarray, a: int, b: int, at: complex, way: complex) -> None:
    """Moves bodies least, the joints holding, so that a body a goes a way (x + i y) against b."""
    normal = way / abs(way)
    specs = [*system.constraints.specs]
    row = np.zeros(3 * len(system.moving))
    for body, sign in ((a, 1.0), (b, -1.0)):
        if body in system.moving:
            k = 3 * system.moving.index(body)
            arm = at - complex(q[body, 0], q[body, 1])
            row[k : k + 3] = sign * np.array([normal.real, normal.imag, (1j * arm * normal.conjugate()).real])
    equations = Equations(specs, system.moving, len(q))
    jac = equations.linear(q[None], np.zeros((1, 1)))[1][0] if specs else np.zeros((0, row.size))
    both = np.concatenate((jac, row[None]))
    wanted = np.zeros(len(both))
    wanted[-1] = abs(way)
    step = np.linalg.lstsq(both, wanted, rcond=1e-9)[0].reshape(-1, 3)
    most = float(np.abs(step[:, 2]).max(initial=0.0))
    q[list(system.moving)] += step * min(1.0, 0.3 / max(most, 1e-300))
    for _ in range(8):
        if not specs:
            break
        residual = equations.residual(q, np.zeros(1))
        if np.abs(residual).max() < 1e-10:
            break
        jac = equations.linear(q[None], np.zeros((1, 1)))[1][0]
        q[list(system.moving)] += np.linalg.lstsq(jac, -residual, rcond=1e-9)[0].reshape(-1, 3)


def stop_here(document: Document, part: str, poses: Mapping[str, Pose], way: complex) -> Made:
    """A stop where a part stands: a fixed pin that its outline touches on the side to which it goes (`way`, x + i y of
    no size), with the contact. Raises `DocumentError` where the part is fixed or has no outline."""
    held = document.parts[part]
    if held.fixed:
        raise located(f"parts.{part}", f"part '{part}' is fixed; a stop is for one that moves")
    if not held.slabs:
        raise located(f"parts.{part}", f"'{part}' has no outline to stop; draw one")
    x, y, angle = poses[part]
    spin, way = np.exp(1j * angle), way / abs(way)
    edges = held.slabs[-1].region.edges
    places = np.concatenate([edges.point(np.full(edges.count, share)) for share in np.linspace(0.0, 1.0, 17)])
    ways = np.concatenate([edges.direction(np.full(edges.count, share)) for share in np.linspace(0.0, 1.0, 17)])
    normals = -1j * ways
    ahead = (places * spin * np.conj(way)).real
    k = int(np.argmax(np.where((normals * spin * np.conj(way)).real > 0.5, ahead, -np.inf)))
    if (normals[k] * spin * np.conj(way)).real <= 0.5:
        k = int(np.argmax(ahead))
        normals[k] = way / spin
    reach = max(slab.region.reach for slab in held.slabs)
    radius = tidy(max(PIN * reach, 1e-6))
    center = complex(x, y) + (places[k] + radius * normals[k]) * spin
    name = free_name(document.tree.get("parts", {}), "stop")
    slab = held.slabs[-1]
    pin = {"fixed": True, "pose": pose_of(document, complex(center)), "points": {"P": [0, 0]},
           "shapes": [{"kind": "disc", "center": "P", "diameter": 2 * radius}],
           "depth": [tidy(slab.low), tidy(slab.high)]}  # fmt: skip
    contact = free_name(document.tree.get("joints", {}), CONTACT.word)
    joint = {"type": CONTACT.name, "a": part, "b": name}
    return Made((Set(("parts", name), pin), Set(("joints", contact), joint)), ("parts", name))
