"""Making a cam from a shaft and a follower, and its program's segments."""

import math
from collections.abc import Mapping
from typing import Any

from ..document.changes import Change, Set, changed
from ..document.model import Document, Joint, Part
from ..errors import located
from ..geometry.shapes import CamOutline, Disc
from ..joints.cam import Cam
from .building import Made, free_name

SHARE = 0.25
"""What a follower rises at first, as a share of its distance from the shaft."""
SWING = 20.0
"""The same of one that swings (deg)."""
ROLLER = 0.15
"""The radius of a new roller, as a share of that distance."""
GENTLE = "cycloidal"
"""The law of its rise and return."""


def round_size(value: float) -> float:
    """A size that one would write down, near a value.

    >>> round_size(17.3), round_size(0.42)
    (15.0, 0.4)
    """
    step = 10.0 ** math.floor(math.log10(value))
    return round(float(min((1, 1.5, 2, 2.5, 3, 4, 5, 6, 8, 10), key=lambda one: abs(one * step - value)) * step), 12)


def cam_between(document: Document, shaft: str, follower: str) -> Made:
    """A cam on the part that a shaft's joint turns, for the part that a follower's joint moves: a first program, the
    joint, and the outline. Where a disc of the follower lies nearest to the shaft, that is its roller; else it gets
    one. Raises `DocumentError` where the joints don't suit."""
    turning, guided, wheel, moved = cam_and_follower(document, shaft, follower)
    tree, changes = document.tree, []
    at, radius = nearest_point(document, document.parts[moved], turning, guided)
    far = abs(_world(document.parts[moved], at) - _axis(document, turning))
    if not radius:
        radius = round_size(ROLLER * max(far, 1e-6))
        size = round_size(2 * radius)
        radius = size / 2
        home = document.home("parts", moved)
        disc = {"kind": Disc.kind, "center": at, "diameter": size}
        changes.append(Set((*home, "shapes"), [*document.entry("parts", moved).get("shapes", []), disc]))
    program = free_name(tree.get("programs", {}), "rise")
    name = free_name(tree.get("joints", {}), Cam.name)
    lift = SWING if guided.kind.pin else round_size(SHARE * max(far, 1e-6))
    unit = "deg" if guided.kind.pin else document.units.length
    over = {True: "120 deg", False: "60 deg"}
    length = f"{round_size(max(far, 1e-6)):g} {document.units.length}"

    def entries(sign: float) -> list[Change]:
        segments: list[Mapping[str, Any]] = []
        for number, rises in enumerate((True, False, True, False)):
            span = over[rises] if turning.kind.pin else length
            to = f"{sign * lift:g} {unit}" if number == 0 else 0
            segments.append({"over": span, "to": to, "law": GENTLE} if rises else {"over": span})
        entry = {"type": Cam.name, "a": shaft, "b": follower, "program": program,
                 "follower": {"kind": "roller", "at": f"{moved}.{at}", "radius": radius}}  # fmt: skip
        home = document.home("parts", wheel)
        worn = [*document.entry("parts", wheel).get("shapes", []), {"kind": CamOutline.kind, "joint": name}]
        return [Set(("programs", program), {"segments": segments}), Set(("joints", name), entry),
                Set((*home, "shapes"), worn)]  # fmt: skip

    made = [*changes, *entries(1.0)]
    cam = changed(document, *made).couplings[name].cam
    if cam is not None and cam.rises < 0:
        made = [*changes, *entries(-1.0)]
    return Made(tuple(made), ("joints", name))


def cam_and_follower(document: Document, shaft: str, follower: str) -> tuple[Joint, Joint, str, str]:
    """Both joints, the part that is the cam, and that which follows. Raises `DocumentError` where they don't suit."""
    turning, guided = _known(document, shaft), _known(document, follower)
    if "/" in f"{turning.a.part}{turning.b.part}{guided.a.part}{guided.b.part}":
        raise located(f"joints.{shaft}", "belongs to a sub-assembly; open its definition, and make the cam there")
    if shaft == follower:
        raise located(f"joints.{shaft}", "is shaft and follower at once; pick two joints")
    if not guided.kind.pin and not guided.kind.straight:
        raise located(f"joints.{follower}", "can't carry a follower; a revolute or a prismatic joint does")
    if not turning.kind.pin and not turning.kind.straight:
        raise located(f"joints.{shaft}", "can't be a cam's shaft; a revolute joint is, or a prismatic one for a wedge")
    wheel = turning.b.part if not document.parts[turning.b.part].fixed else turning.a.part
    carriers = {turning.a.part, turning.b.part} - {wheel}
    moved = guided.b.part if guided.b.part not in carriers | {wheel} else guided.a.part
    if wheel == moved:
        raise located(f"joints.{follower}", f"moves '{wheel}', which is the cam; pick the joint of another part")
    return turning, guided, wheel, moved


def _known(document: Document, name: str) -> Joint:
    joint = document.joints.get(name)
    if joint is None:
        raise located(f"joints.{name}", "has no coordinate; pick a joint that turns or slides")
    return joint


def _world(part: Part, point: str) -> complex:
    x, y, angle = part.pose
    return complex(x, y) + complex(*part.place(point)) * complex(math.cos(angle), math.sin(angle))


def _axis(document: Document, joint: Joint) -> complex:
    return _world(document.parts[joint.a.part], joint.a.point)


def nearest_point(document: Document, part: Part, shaft: Joint, guide: Joint) -> tuple[str, float]:
    """The point of a follower that lies nearest to the shaft, and the radius of a disc about it (0: none). Raises
    `DocumentError` where it has only its pivot."""
    axis = _axis(document, shaft)
    pivots = {ref.point for ref in (guide.a, guide.b) if ref.part == part.id} if guide.kind.pin else set()
    names = [name for name in part.points if name not in pivots]
    if not names:
        raise located(f"parts.{part.id}", "has no point but its pivot; add one where it is to touch the cam")
    centers = {shape.center: shape.diameter / 2 for shape in part.shapes if isinstance(shape, Disc) and not shape.cut}
    at = min(names, key=lambda name: abs(_world(part, name) - axis))
    near = [(abs(complex(*center) - complex(*part.points[at])), radius) for center, radius in centers.items()]
    off, radius = min(near, default=(math.inf, 0.0))
    return at, radius if off < 1e-9 * max(1.0, abs(complex(*part.points[at]))) else 0.0


def turned_by(document: Document, part: str) -> str:
    """The joint on which a part would be a cam: a revolute one, of those the one that is driven, else against a fixed
    part; else one on which it slides, as a wedge; empty where there is none."""
    own = [one for one in document.active_joints.values() if part in (one.a.part, one.b.part)
           and (one.kind.pin or one.kind.straight)]  # fmt: skip
    driven = {driver.joint for driver in document.drivers.values()}

    def rank(joint: Joint) -> tuple[bool, bool, bool]:
        other = joint.a.part if joint.b.part == part else joint.b.part
        return not joint.kind.pin, joint.id not in driven, not document.parts[other].fixed

    return min(own, key=rank).id if own else ""


def carried_by(document: Document, part: str, shaft: str) -> str:
    """The joint that guides a part on what carries a shaft; empty where there is none."""
    turning = document.joints[shaft]
    carriers = {turning.a.part, turning.b.part} - {part}
    fixed = any(document.parts[one].fixed for one in carriers)
    for joint in document.active_joints.values():
        sides = {joint.a.part, joint.b.part}
        others = sides - {part}
        on_it = others & carriers or (fixed and all(document.parts[one].fixed for one in others))
        if joint.id != shaft and part in sides and on_it and (joint.kind.pin or joint.kind.straight):
            return joint.id
    return ""
