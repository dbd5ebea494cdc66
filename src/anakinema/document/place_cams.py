"""Where a cam's shaft and follower stand against what carries both: the geometry of a cam from its joints."""

import cmath
import math
from collections.abc import Mapping

import numpy as np

from ..cams import CamGeometry
from ..cams.geometry import Guided, Shaft
from .assemblies import within
from .model import Coupling, Group, Joint, Part, PointRef


def cam_geometry(
    coupling: Coupling, parts: Mapping[str, Part], joints: Mapping[str, Joint], groups: Mapping[str, Group], wearer: str
) -> CamGeometry:
    """A cam in the axes of what carries its shaft; the part that turns with it is `wearer`, one of its shaft's two.
    Raises ValueError where shaft and follower are not carried by one body, or it has no law or follower."""
    shaft, guide, follower, law = joints[coupling.a], joints[coupling.b], coupling.follower, coupling.law
    if follower is None or law is None:
        raise ValueError("it says no follower")
    sides = [parts.get(ref.part) for joint in (shaft, guide) for ref in (joint.a, joint.b)]
    if any(part is None for part in sides) or any(math.isnan(value) for one in sides if one for value in one.pose):
        raise ValueError("a part is missing")
    held, moved = (guide.b, guide.a) if follower.part == guide.a.part else (guide.a, guide.b)
    carried = shaft.a if wearer == shaft.b.part else shaft.b
    if not _one_body(carried.part, held.part, parts, groups):
        raise ValueError(
            f"'{coupling.a}' turns against '{carried.part}' and '{coupling.b}' moves against '{held.part}'; "
            "let one part, or one rigid group, carry both"
        )
    axle = _shaft(shaft, carried, parts)
    course = _guided(guide, held, moved, follower.at, parts, carried.part)
    low = coupling.low
    if low is None:
        a, b = (placed(joint, parts) for joint in (shaft, guide))
        low = b - float(law.lift(np.array([a]))[0, 0])
    return CamGeometry(law, axle, course, follower, low)


def placed(joint: Joint, parts: Mapping[str, Part]) -> float:
    """The coordinate of a revolute or prismatic joint at the rough poses."""
    one, two = parts[joint.a.part], parts[joint.b.part]
    if joint.kind.pin:
        return two.pose[2] - one.pose[2] - joint.values.get("zero", 0.0)
    ends = [complex(*part.pose[:2]) + _at(ref, parts) * cmath.rect(1.0, part.pose[2])
            for part, ref in ((one, joint.a), (two, joint.b))]  # fmt: skip
    along = cmath.rect(1.0, one.pose[2] + joint.values["direction"])
    return ((ends[1] - ends[0]) * along.conjugate()).real


def _at(ref: PointRef, parts: Mapping[str, Part]) -> complex:
    return complex(*parts[ref.part].place(ref.point))


def _guided(
    guide: Joint, held: PointRef, moved: PointRef, at: complex, parts: Mapping[str, Part], carrier: str
) -> Guided:
    """How the follower's point goes; its joint's two sides may be either way round."""
    x, y, angle = within(parts[held.part].pose, parts[carrier].pose)
    pivot = complex(x, y) + cmath.rect(1.0, angle) * _at(held, parts)
    off = at - _at(moved, parts)
    forward = moved is guide.b
    if guide.kind.pin:
        if abs(off) < 1e-12:
            raise ValueError(f"the follower's point lies on the pivot of '{guide.id}'")
        sense = 1.0 if forward else -1.0
        return Guided(pivot=pivot, arm=off, angle=angle + sense * guide.values.get("zero", 0.0), sense=sense)
    turned = parts[moved.part].pose[2] - parts[held.part].pose[2]
    direction = guide.values["direction"]
    if forward:
        own = angle + guide.values.get("angle", turned)
        way = cmath.rect(1.0, angle + direction)
    else:
        own = angle - guide.values.get("angle", -turned)
        way = -cmath.rect(1.0, own + direction)
    return Guided(start=pivot + off * cmath.rect(1.0, own), way=way, angle=own)


def _shaft(shaft: Joint, carried: PointRef, parts: Mapping[str, Part]) -> Shaft:
    """How the cam goes."""
    forward = carried is shaft.a
    own = shaft.b if forward else shaft.a
    center, middle = _at(carried, parts), _at(own, parts)
    if shaft.kind.pin:
        sense = 1.0 if forward else -1.0
        return Shaft(center, middle, sense * shaft.values.get("zero", 0.0), sense)
    turned = parts[own.part].pose[2] - parts[carried.part].pose[2]
    direction = shaft.values["direction"]
    if forward:
        return Shaft(center, middle, shaft.values.get("angle", turned), 1.0, cmath.rect(1.0, direction))
    turned = -shaft.values.get("angle", -turned)
    return Shaft(center, middle, turned, 1.0, -cmath.rect(1.0, turned + direction))


def _one_body(one: str, two: str, parts: Mapping[str, Part], groups: Mapping[str, Group]) -> bool:
    """Whether two parts stay as they are placed against each other."""
    if one == two or (parts[one].fixed and parts[two].fixed):
        return True
    return any({one, two} <= set(group.parts) for group in groups.values())
