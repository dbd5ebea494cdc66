"""Several parts mirrored about a line: copies that follow, joined among themselves and to what is there as the parts
themselves are."""

import cmath
import math
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from ..document.changes import Change, Set, changed
from ..document.model import Document, Joint
from ..document.written import pose_of, tidy
from ..errors import located
from ..joints import COUPLING_TYPES, JOINT_TYPES
from ..kinds import Dimension
from .building import Made, free_name, named_point
from .copying import stem
from .features import features
from .joining import spot_at

Pose = tuple[float, float, float]
NEAR = 1e-6
"""How near two places must be to be one, as a share of the size of what is mirrored."""


def mirrored_pose(pose: Pose, at: complex, way: complex) -> Pose:
    """Where a part stands that is turned over, as in a mirror along the line through a place in a direction."""
    spot = mirrored_spot(complex(*pose[:2]), at, way)
    return spot.real, spot.imag, math.remainder(2 * cmath.phase(way) - pose[2], math.tau)


def mirrored_spot(spot: complex, at: complex, way: complex) -> complex:
    """A place of the plane mirrored in the line through a place in a direction."""
    unit = way / abs(way)
    return at + ((spot - at) / unit).conjugate() * unit


def mirror(
    document: Document, parts: Sequence[str], one: complex, two: complex, start: Mapping[str, Pose],
    over: bool = False, couple: bool = False,
) -> Made:  # fmt: skip
    """Copies of parts, mirrored about the line through two places of the plane; `start` is where parts stand when the
    motion starts. Joints among them are mirrored. Where one is joined to another part, its copy is joined to the
    feature of that part at the mirrored place; `left` names those that find none. The copies keep their depths; turned
    `over` they lie in depth as a part does that is turned over. With `couple` what drives a part drives its copy alike.
    Raises `DocumentError` for two places that are one, and for parts of sub-assemblies."""
    if abs(two - one) < 1e-9:
        raise located("parts", "a mirror needs a line: two places that are apart")
    chosen = [part for part in dict.fromkeys(parts) if not document.parts[part].fixed]
    if not chosen:
        raise located(f"parts.{parts[0]}" if parts else "parts", "is fixed; what is fixed is not mirrored")
    if inner := next((part for part in chosen if "/" in part), ""):
        raise located(f"parts.{inner}", "stands in a sub-assembly; place that once more, turned over, instead")
    way, taken = two - one, set(document.tree["parts"])
    names: dict[str, str] = {}
    changes: list[Change] = []
    for part in chosen:
        names[part] = free_name(taken, stem(part))
        taken.add(names[part])
        pose = mirrored_pose(start[part], one, way)
        entry: dict[str, Any] = {"of": part, "mirror": True, "pose": pose_of(document, complex(*pose[:2]), pose[2])}
        changes.append(Set(("parts", names[part]), entry if over else {**entry, "keep_depth": True}))
    now = changed(document, *changes)
    joints: dict[str, str] = {}
    left: list[str] = []
    for joint in document.joints.values():
        mine = [end.part in names for end in (joint.a, joint.b)]
        if not any(mine) or "/" in joint.id:
            continue
        made = _mirrored_joint(now, document, joint, names, one, way, start)
        if made is None:
            left.append(joint.id)
            continue
        key = free_name({**now.tree.get("joints", {})}, stem(joint.id))
        joints[joint.id] = key
        named, entry = made
        changes += (*named, Set(("joints", key), entry))
        now = changed(now, *named, changes[-1])
    for change in (*_couplings(now, document, joints), *_contacts(now, document, names),
                   *(_driven_alike(now, document, joints) if couple else ())):  # fmt: skip
        changes.append(change)
        now = changed(now, change)
    return Made(tuple(changes), ("parts", names[chosen[0]]), left=tuple(left))


def driven_among(document: Document, parts: Iterable[str]) -> list[str]:
    """The drivers that drive joints of some parts: their copies could be driven alike."""
    some = set(parts)
    joints = {joint.id for joint in document.joints.values() if {joint.a.part, joint.b.part} & some}
    return [driver.id for driver in document.drivers.values() if driver.joint in joints]


def _mirrored_joint(
    now: Document, document: Document, joint: Joint, names: Mapping[str, str], one: complex, way: complex,
    start: Mapping[str, Pose],
) -> tuple[list[Change], dict[str, Any]] | None:  # fmt: skip
    """The changes that name what a joint of copies joins, and its entry; None where what it joins has no such place."""
    entry = dict(document.tree["joints"][joint.id])
    changes: list[Change] = []
    for side, end in (("a", joint.a), ("b", joint.b)):
        if end.part in names:
            entry[side] = f"{names[end.part]}.{end.point}"
            continue
        if joint.kind.of_edges:
            return None
        direction = joint.values.get("direction") if side == "a" else None
        found = _matching(now, document, end.part, end.point, direction, one, way, start)
        if found is None:
            return None
        point, made, turned = found
        changes += made
        entry[side] = f"{end.part}.{point}"
        if turned is not None:
            entry["direction"] = turned
    per = Dimension.ANGLE.per_core(document.units)
    if joint.a.part in names and "direction" in joint.values:
        entry["direction"] = tidy(-joint.values["direction"] * per)
    if "angle" in joint.values:
        entry["angle"] = tidy(-joint.values["angle"] * per)
    if joint.kind.coordinate_dimension(joint.values) is Dimension.ANGLE:
        if "zero" in joint.values:
            entry["zero"] = tidy(-joint.values["zero"] * per)
        limits = joint.limits
        ends = (("min", limits.max), ("max", limits.min), ("rest", limits.rest))
        turned_limits = {key: -value for key, value in ends if value is not None}
        if "limits" in entry:
            kept = {key: value for key, value in entry["limits"].items() if key not in ("min", "max", "rest")}
            entry["limits"] = {**{key: tidy(value * per) for key, value in turned_limits.items()}, **kept}
    return changes, entry


def _matching(
    now: Document, document: Document, part: str, point: str, direction: float | None, one: complex, way: complex,
    start: Mapping[str, Pose],
) -> "tuple[str, list[Change], float | None] | None":  # fmt: skip
    """The point of a part at the mirrored place of one of its points, with the changes that name it, and the mirrored
    direction of a slide there; None where the part has no feature at that place."""
    pose = start[part]
    own = complex(*document.parts[part].place(point))
    at = spot_at(pose, own)
    goal = mirrored_spot(at, one, way)
    there = (goal - complex(*pose[:2])) * cmath.rect(1.0, -pose[2])
    size = max(abs(at - one), abs(goal), 1.0)
    turned = None
    per = Dimension.ANGLE.per_core(document.units)
    if direction is not None:
        turned = math.remainder(2 * cmath.phase(way) - (direction + pose[2]) - pose[2], math.tau)
    every = features(now.parts[part])
    if turned is not None:  # a slide keeps to the line of a slot, of a side, or of the very line that it had
        for feature in every:
            along = feature.along
            if along is None or along.center is not None or feature.direction is None:
                continue
            square = abs(math.sin(feature.direction - turned)) < NEAR
            aside = ((there - along.start) * cmath.rect(1.0, -turned)).imag
            if square and abs(aside) < NEAR * size:
                name, made = named_point(now, part, there)
                return name, made, tidy(turned * per)
    found = next((feature for feature in every if not feature.by_line and abs(feature.at - there) < NEAR * size), None)
    if found is None:
        return None
    name, made = named_point(now, part, found.at)
    return name, made, None if turned is None else tidy(turned * per)


def _couplings(now: Document, document: Document, joints: Mapping[str, str]) -> list[Change]:
    """Gear pairs and the like between joints that are all mirrored. Turns count the other way there, slides do not."""
    found: list[Change] = []
    taken = dict(now.tree.get("joints", {}))
    for coupling in document.couplings.values():
        if coupling.a not in joints or coupling.b not in joints or coupling.cam is not None:
            continue
        entry = dict(document.tree["joints"][coupling.id])
        entry["a"], entry["b"] = joints[coupling.a], joints[coupling.b]
        if coupling.kind.length_for_turn or _turns(document, coupling.a) is not _turns(document, coupling.b):
            for key in ("radius", "ratio"):
                if isinstance(entry.get(key), int | float):
                    entry[key] = -entry[key]
                elif key in entry:
                    entry[key] = f"-({entry[key]})"
        key = free_name(taken, stem(coupling.id))
        taken[key] = entry
        found.append(Set(("joints", key), entry))
    return found


def _contacts(now: Document, document: Document, names: Mapping[str, str]) -> list[Change]:
    """Contacts of which a part is mirrored, with the copies."""
    found: list[Change] = []
    taken = dict(now.tree.get("joints", {}))
    for contact in document.contacts.values():
        if contact.id not in document.tree.get("joints", {}) or not {contact.a, contact.b} & names.keys():
            continue
        entry = dict(document.tree["joints"][contact.id])
        entry["a"], entry["b"] = (names.get(side, side) for side in (contact.a, contact.b))
        key = free_name(taken, stem(contact.id))
        taken[key] = entry
        found.append(Set(("joints", key), entry))
    return found


def _driven_alike(now: Document, document: Document, joints: Mapping[str, str]) -> list[Change]:
    """Ties the copy of each driven joint to that: both sides then move alike."""
    found: list[Change] = []
    taken = dict(now.tree.get("joints", {}))
    for driver in document.drivers.values():
        if driver.joint not in joints:
            continue
        ratio = -1 if _turns(document, driver.joint) else 1
        key = free_name(taken, "alike")
        taken[key] = {}
        tie = {"type": ALIKE, "a": driver.joint, "b": joints[driver.joint], "ratio": ratio}
        found.append(Set(("joints", key), tie))
    return found


def _turns(document: Document, joint: str) -> bool:
    one = document.joints[joint]
    return JOINT_TYPES[one.type].coordinate_dimension(one.values) is Dimension.ANGLE


ALIKE = next(name for name, kind in COUPLING_TYPES.items() if any(field.name == "ratio" for field in kind.fields))
"""The coupling by a plain ratio."""
