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
SAME_ANGLE = 1e-12
"""Angles below this are none (rad)."""
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
    alike = _alike(document, names)
    for joint in document.joints.values():
        mine = [end.part in names for end in (joint.a, joint.b)]
        if not any(mine) or "/" in joint.id:
            continue
        made = _mirrored_joint(now, document, joint, names, one, way, start, joint.id in alike)
        if made is None:
            left.append(joint.id)
            continue
        key = free_name({**now.tree.get("joints", {})}, stem(joint.id))
        joints[joint.id] = key
        named, entry = made
        changes += (*named, Set(("joints", key), entry))
        now = changed(now, *named, changes[-1])
    left += [one.id for one in document.couplings.values() if (one.a in joints) is not (one.b in joints)]
    for change in (*_couplings(now, document, joints, names, alike), *_contacts(now, document, names),
                   *(_driven_alike(now, document, joints, alike) if couple else ())):  # fmt: skip
        changes.append(change)
        now = changed(now, change)
    return Made(tuple(changes), ("parts", names[chosen[0]]), left=tuple(left))


def driven_among(document: Document, parts: Iterable[str]) -> list[str]:
    """The drivers that drive joints of some parts: their copies could be driven alike."""
    some = set(parts)
    joints = {joint.id for joint in document.joints.values() if {joint.a.part, joint.b.part} & some}
    return [driver.id for driver in document.drivers.values() if driver.joint in joints]


def _alike(document: Document, names: Mapping[str, str]) -> set[str]:
    """The joints whose copies count the same way as they do: slides, for their directions are mirrored; and, where a
    cam is among what is mirrored, turns, for its program runs one way. Copies of other turns count the other way."""
    mine = {joint.id for joint in document.joints.values() if {joint.a.part, joint.b.part} & names.keys()}
    found = {name for name in mine if not _turns(document, name)}
    if any(one.cam is not None and {one.a, one.b} <= mine for one in document.couplings.values()):
        found |= {name for name in mine if document.joints[name].kind.has_zero}
    return found


def _mirrored_joint(
    now: Document, document: Document, joint: Joint, names: Mapping[str, str], one: complex, way: complex,
    start: Mapping[str, Pose], alike: bool,
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
    base = _turned_by(joint, names, way, start)
    if "angle" in joint.values:
        entry["angle"] = tidy(math.remainder(base - joint.values["angle"], math.tau) * per)
    if joint.kind.coordinate_dimension(joint.values) is not Dimension.ANGLE:
        return changes, entry
    if joint.kind.has_zero:  # so that it counts as the joint itself does, but for the sign
        zero = math.remainder(base - joint.values.get("zero", 0.0), math.tau)
        base = 0.0
        if alike:  # exchanged, it counts the other way once more
            entry["a"], entry["b"], zero = entry["b"], entry["a"], -zero
        if abs(zero) > SAME_ANGLE:
            entry["zero"] = tidy(zero * per)
        else:
            entry.pop("zero", None)
    limits = joint.limits
    if "limits" in entry and not alike:
        ends = (("min", limits.max), ("max", limits.min), ("rest", limits.rest))
        kept = {key: value for key, value in entry["limits"].items() if key not in ("min", "max", "rest")}
        entry["limits"] = {**{key: tidy((base - value) * per) for key, value in ends if value is not None}, **kept}
    return changes, entry


def _turned_by(joint: Joint, names: Mapping[str, str], way: complex, start: Mapping[str, Pose]) -> float:
    """What the angles of a joint and of its copy, from part a to part b, come to together: nothing where both parts are
    mirrored; else the part that stays says from where the other is counted."""
    twice = 2 * cmath.phase(way)
    if joint.a.part in names:
        stays = joint.b.part not in names and joint.kind.has_zero  # an angle along an arc is in a's own axes
        return 2 * start[joint.b.part][2] - twice if stays else 0.0
    return twice - 2 * start[joint.a.part][2]


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


def _couplings(
    now: Document, document: Document, joints: Mapping[str, str], names: Mapping[str, str], alike: set[str]
) -> list[Change]:
    """Gear pairs, cams and the like between joints that are all mirrored, by how their copies count."""
    found: list[Change] = []
    taken = dict(now.tree.get("joints", {}))
    for coupling in document.couplings.values():
        if coupling.a not in joints or coupling.b not in joints:
            continue
        entry = dict(document.tree["joints"][coupling.id])
        entry["a"], entry["b"] = joints[coupling.a], joints[coupling.b]
        if (coupling.a in alike) is not (coupling.b in alike):
            for key in ("radius", "ratio"):
                if isinstance(entry.get(key), int | float):
                    entry[key] = -entry[key]
                elif key in entry:
                    entry[key] = f"-({entry[key]})"
        if isinstance(follower := entry.get("follower"), Mapping):
            entry["follower"] = _mirrored_follower(follower, names)
        _put(found, taken, coupling.id, entry)
    return found


def _mirrored_follower(follower: Mapping[str, Any], names: Mapping[str, str]) -> dict[str, Any]:
    """What touches a cam, on the copy of its part: in that part's own axes turned over."""
    part, _, point = str(follower["at"]).rpartition(".")
    found = {**follower, "at": f"{names.get(part, part)}.{point}"}
    if "direction" in follower:
        way = follower["direction"]
        found["direction"] = f"-({way})" if isinstance(way, str) else -way
    return found


def _put(found: list[Change], taken: dict[str, Any], like: str, entry: dict[str, Any]) -> None:
    """One more joint, named like another."""
    key = free_name(taken, stem(like))
    taken[key] = entry
    found.append(Set(("joints", key), entry))


def _contacts(now: Document, document: Document, names: Mapping[str, str]) -> list[Change]:
    """Contacts of which a part is mirrored, with the copies."""
    found: list[Change] = []
    taken = dict(now.tree.get("joints", {}))
    for contact in document.contacts.values():
        if contact.id not in document.tree.get("joints", {}) or not {contact.a, contact.b} & names.keys():
            continue
        entry = dict(document.tree["joints"][contact.id])
        entry["a"], entry["b"] = (names.get(side, side) for side in (contact.a, contact.b))
        _put(found, taken, contact.id, entry)
    return found


def _driven_alike(now: Document, document: Document, joints: Mapping[str, str], alike: set[str]) -> list[Change]:
    """Ties the copy of each driven joint to that: both sides then move alike."""
    found: list[Change] = []
    taken = dict(now.tree.get("joints", {}))
    for driver in document.drivers.values():
        if driver.joint not in joints:
            continue
        ratio = 1 if driver.joint in alike else -1
        _put(found, taken, "alike", {"type": ALIKE, "a": driver.joint, "b": joints[driver.joint], "ratio": ratio})
    return found


def _turns(document: Document, joint: str) -> bool:
    one = document.joints[joint]
    return JOINT_TYPES[one.type].coordinate_dimension(one.values) is Dimension.ANGLE


ALIKE = next(name for name, kind in COUPLING_TYPES.items() if any(field.name == "ratio" for field in kind.fields))
"""The coupling by a plain ratio."""
