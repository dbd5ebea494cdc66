"""Sub-assemblies: what a definition holds, and how a use of it puts that into the flat form of the document, in which
every part and joint has a path for a name (``left/arm``)."""

import cmath
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from types import MappingProxyType
from typing import TypeVar

from ..joints import JOINT_TYPES
from ..kinds import Dimension
from .copies import extent, put_elsewhere
from .fitting_hardware import renamed
from .model import Contact, Coupling, Group, Joint, Limits, Part, PointRef, Trace, Use

Pose = tuple[float, float, float]
T = TypeVar("T")


@dataclass(frozen=True)
class Content:
    """Parts with what holds them together, by name."""

    parts: Mapping[str, Part] = field(default_factory=dict)
    joints: Mapping[str, Joint] = field(default_factory=dict)
    couplings: Mapping[str, Coupling] = field(default_factory=dict)
    groups: Mapping[str, Group] = field(default_factory=dict)
    traces: Mapping[str, Trace] = field(default_factory=dict)
    uses: Mapping[str, Use] = field(default_factory=dict)
    contacts: Mapping[str, Contact] = field(default_factory=dict)


def placed(content: Content, use: Use, poses: Mapping[str, Pose]) -> Content:
    """What a use puts into the document: names behind that of the use, parts where the use stands (with rough `poses`
    of its own for some, in its axes), lifted, and turned over with all that their joints count. What is fixed in the
    definition is fixed where the use is, else it is one rigid body; of one that is frozen all is."""
    middle = sum(extent(content.parts.values())) if content.parts else 0.0
    parts = {}
    for name, given in content.parts.items():
        part, pose = given, given.pose
        if use.mirror or use.lift:
            part = put_elsewhere(given, use.lift, use.mirror, middle)
        if use.mirror:
            pose = (pose[0], -pose[1], -pose[2])
        still = use.fixed and (part.fixed or use.frozen)
        own = _inside(use, name)
        piece = part.hardware
        if piece is not None:
            pose = poses.get(piece.at.part, pose)
            piece = renamed(piece, {each: _inside(use, each) for each in content.parts})
        parts[own] = replace(part, id=own, of=_inside(use, part.of) if part.of else "", fixed=still,
                             pose=moved(poses.get(name, pose), use.pose), hardware=piece)  # fmt: skip
    return Content(
        parts=parts,
        joints=_named(use, {name: _joint(joint, use) for name, joint in content.joints.items()}),
        couplings=_named(use, {name: _coupling(one, use, content.joints) for name, one in content.couplings.items()}),
        groups=_groups(content, use),
        traces=_named(use, {
            name: replace(trace, point=_ref(trace.point, use), on=_inside(use, trace.on) if trace.on else None)
            for name, trace in content.traces.items()
        }),
        uses={use.id: use, **_named(use, content.uses)},
        contacts=_named(use, {name: _contact(one, use) for name, one in content.contacts.items()}),
    )  # fmt: skip


def moved(pose: Pose, by: Pose) -> Pose:
    """A placement in axes that are placed themselves."""
    at = complex(*by[:2]) + complex(*pose[:2]) * cmath.rect(1.0, by[2])
    return at.real, at.imag, pose[2] + by[2]


def within(pose: Pose, by: Pose) -> Pose:
    """A placement as it is seen from axes that are placed themselves.

    >>> within(moved((1.0, 2.0, 0.5), (3.0, 4.0, 0.0)), (3.0, 4.0, 0.0))
    (1.0, 2.0, 0.5)
    """
    at = (complex(*pose[:2]) - complex(*by[:2])) * cmath.rect(1.0, -by[2])
    return at.real, at.imag, pose[2] - by[2]


def _inside(use: Use, name: str) -> str:
    return f"{use.id}/{name}"


def _named(use: Use, items: Mapping[str, T]) -> dict[str, T]:
    """Items by their names behind that of the use, which they carry too."""
    return {_inside(use, name): replace(item, id=_inside(use, name)) for name, item in items.items()}  # type: ignore[type-var]


def _ref(ref: PointRef, use: Use) -> PointRef:
    return PointRef(_inside(use, ref.part), ref.point)


def _groups(content: Content, use: Use) -> dict[str, Group]:
    """One group of all where the use is frozen; else what is fixed in the definition is one, besides its own."""
    still = [name for name, part in content.parts.items() if part.fixed or use.frozen]
    kept = {name: group for name, group in content.groups.items() if not set(group.parts) <= set(still)}
    found = {_inside(use, name): Group(_inside(use, name), tuple(_inside(use, part) for part in group.parts),
                                       group.label, group.note) for name, group in kept.items()}  # fmt: skip
    if len(still) > 1:
        found[use.id] = Group(use.id, tuple(_inside(use, name) for name in still))
    return found


def _joint(joint: Joint, use: Use) -> Joint:
    joint = replace(joint, a=_ref(joint.a, use), b=_ref(joint.b, use))
    if not use.mirror:
        return joint
    turned = ("direction", "angle", "zero", "offset")
    values = {name: -value if name in turned else value for name, value in joint.values.items()}
    limits = joint.limits
    if _dimension(joint) == "angle":  # it counts the other way
        low, high, rest = (None if value is None else -value for value in (limits.max, limits.min, limits.rest))
        limits = Limits(low, high, rest, limits.pushes)
    return replace(joint, values=MappingProxyType(values), limits=limits)


def _coupling(coupling: Coupling, use: Use, joints: Mapping[str, Joint]) -> Coupling:
    ratio, law, low, follower = coupling.ratio, coupling.law, coupling.low, coupling.follower
    if follower is not None:
        follower = replace(follower, part=_inside(use, follower.part))
    if use.mirror:
        a, b = (_dimension(joints.get(name)) for name in (coupling.a, coupling.b))
        ratio = ratio if a == b else -ratio
        if follower is not None:
            follower = replace(follower, at=follower.at.conjugate(), direction=-follower.direction)
        if law is not None and a == Dimension.ANGLE:  # it counts the other way
            law = law.turned_back()
        if law is not None and b == Dimension.ANGLE:
            law, low = law.scaled(1.0, -1.0), None if low is None else -low
    carrier = _inside(use, coupling.carrier) if coupling.carrier is not None else None
    return replace(coupling, a=_inside(use, coupling.a), b=_inside(use, coupling.b), ratio=ratio, carrier=carrier,
                   law=law, low=low, follower=follower, cam=None)  # fmt: skip


def _contact(contact: Contact, use: Use) -> Contact:
    one, two = (tuple(_inside(use, part) for part in side) for side in contact.sides)
    return replace(contact, a=_inside(use, contact.a), b=_inside(use, contact.b), sides=(one, two))


def _dimension(joint: Joint | None) -> Dimension | None:
    """What a joint's coordinate counts; None also for one that could not be read, whose fault is told elsewhere."""
    return JOINT_TYPES[joint.type].coordinate_dimension(joint.values) if joint is not None and joint.type else None
