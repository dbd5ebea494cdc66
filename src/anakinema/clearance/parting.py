"""Moving parts apart that a contact is to keep from overlapping: the least movement that the joints allow."""

from collections.abc import Mapping

import numpy as np

from ..document.assemblies import within
from ..document.changes import Place, Set
from ..document.model import Document
from ..document.written import pose_of
from ..errors import DocumentError, Fault
from ..kinematics.equations import Equations
from ..kinematics.system import System, compile_system
from .approach import relative_places, room_for
from .forms import shape_of
from .kernels import depth
from .pairs import share_depth

Pose = tuple[float, float, float]
ROUNDS = 40
"""Moves that are tried to part outlines."""
BETWEEN = 1e-4
"""What is left between parts that were moved apart, as a share of their size."""


def apart(document: Document, poses: Mapping[str, Pose]) -> tuple[Set, ...]:
    """The least movement by which contacts that overlap where the parts stand do so no more, the joints holding. Raises
    `DocumentError` where there is no way, or nothing overlaps."""
    system = compile_system(document)
    q = np.array([*(poses[part] for part in system.body_ids if part), (0.0, 0.0, 0.0)], dtype=float) / system.size
    moved = False
    for _ in range(ROUNDS):
        deepest = _deepest(document, system, q * system.size)
        if deepest is None:
            break
        one, two, at, way = deepest
        moved = True
        _part(system, q, system.body(one), system.body(two), at / system.scale, way / system.scale)
    else:
        raise DocumentError([Fault("joints", "the joints leave no way to move these parts apart; change their shapes")])
    if not moved:
        raise DocumentError([Fault("joints", "nothing that a contact keeps apart overlaps here")])
    found: list[Set] = []
    for part, (x, y, angle) in zip(system.body_ids[:-1], (q * system.size).tolist(), strict=False):
        if not np.allclose((x, y, angle), poses[part], rtol=0.0, atol=1e-9):
            pose = pose_of(document, *_within(document, part, (x, y, angle)))
            found.append(Set(_place_of_pose(document, part), pose))
    return tuple(found)


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
    document: Document, system: System, q: np.ndarray
) -> tuple[str, str, complex, complex] | None:
    """The pair of a contact that overlaps most: its parts, where, and the move of the first that would part them."""
    rooms = room_for(1)
    best: tuple[float, str, str, complex, complex] | None = None
    for contact in document.active_contacts.values():
        for one in contact.sides[0]:
            for two in contact.sides[1]:
                if not share_depth(document, one, two):
                    continue
                a, b = (q[system.body(part)] for part in (one, two))
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
