"""A joint that is there, changed: its type, its sides, what it joins. Limits, drivers and checks stay where they mean
the same; what does not is taken away, and said."""

import cmath
import math
from collections.abc import Mapping
from typing import Any

from ..document.changes import Change, Remove, Set, changed
from ..document.model import Document
from ..document.written import tidy
from ..errors import located
from ..geometry.features import SAME
from ..joints import JOINT_TYPES
from ..kinds import Dimension
from .building import Made, free_name, named_point, said_at
from .counting import reversed_sign
from .joining import Grab, edge_of, spot_at

Pose = tuple[float, float, float]
KEPT = ("a", "b", "limits", "suspended", "note", "label")
"""Keys that every joint may have."""


def types_for(document: Document, name: str) -> list[str]:
    """The types that a joint may be made, its own among them: between points, or between edges, as it is."""
    of_edges = document.joints[name].kind.of_edges
    return [kind for kind, one in JOINT_TYPES.items() if one.of_edges is of_edges]


def retyped(document: Document, name: str, kind: str, poses: Mapping[str, Pose]) -> Made:
    """A joint of another type between the same points; `poses` are where the parts stand when the motion starts, from
    which its direction or its length is taken. A fault says what is missing, such as a length of nothing."""
    joint, entry = document.joints[name], document.entry("joints", name)
    place = document.home("joints", name)
    type_ = JOINT_TYPES[kind]
    fields = {field.name for field in type_.fields}
    new: dict[str, Any] = {"type": kind}
    new |= {key: value for key, value in entry.items() if key in KEPT or (key in fields and key != "angle")}
    per = Dimension.ANGLE.per_core(document.units)
    one, two = (spot_at(poses[end.part], complex(*document.parts[end.part].place(end.point)))
                for end in (joint.a, joint.b))  # fmt: skip
    apart = abs(two - one)
    if "radius" in new and type_.one_of and "direction" in new:
        new.pop("radius" if joint.kind.straight else "direction")
    if "direction" in fields and "direction" not in new and "radius" not in new:
        way = cmath.phase(two - one) - poses[joint.a.part][2] if apart > SAME else 0.0
        new["direction"] = tidy(math.remainder(way, math.pi) * per)
    for key in ("length", "radius"):
        if key in fields and any(field.name == key and field.required for field in type_.fields) and key not in new:
            if apart < SAME:
                text = f"its two points lie on each other: {type_.title.lower()} needs a {key}; join other points first"
                raise located(f"joints.{name}", text)
            new[key] = tidy(apart)
    before = joint.kind.coordinate_dimension(joint.values)
    new_values = {key: 0.0 for key in fields if key in new}
    after = type_.coordinate_dimension(new_values)
    gone: list[str] = []
    changes: list[Change] = []
    if before is not after or before is None:
        changes, gone = _dropped(document, name)
        if new.pop("limits", None):
            gone.insert(0, "its limits")
    elif "limits" in new and "zero" in entry and "zero" not in new:
        new.pop("limits")
        gone.append("its limits, which counted from its zero")
    return Made((*changes, Set(place, new)), ("joints", name), dropped=tuple(gone))


def exchanged(document: Document, name: str, poses: Mapping[str, Pose]) -> Made:
    """The two sides of a joint exchanged. Its coordinate means the same for a slide; a turn counts the other way, and
    all that speaks of it follows. Raises `DocumentError` where its first side is that of a slot or a track."""
    joint, entry = document.joints[name], document.entry("joints", name)
    if joint.kind.slotted or joint.kind.of_edges:
        text = "its first side is that of the slot, the track or the edge; exchange what it joins"
        raise located(f"joints.{name}", text)
    if joint.kind.has_zero:
        return reversed_sign(document, name)
    place = document.home("joints", name)
    new = dict(entry)
    new["a"], new["b"] = entry["b"], entry["a"]
    per = Dimension.ANGLE.per_core(document.units)
    if "direction" in joint.values:
        turn = joint.values["direction"] + poses[joint.a.part][2] - poses[joint.b.part][2] + math.pi
        new["direction"] = tidy(math.remainder(turn, math.tau) * per)
    if "angle" in joint.values:
        new["angle"] = tidy(-joint.values["angle"] * per)
    return Made((Set(place, new),), ("joints", name))


def reattached(document: Document, name: str, side: str, grab: Grab) -> Made:
    """A joint one side of which, ``a`` or ``b``, is another feature, of the same part or of another. Raises
    `DocumentError` where both sides would be of one part."""
    joint = document.joints[name]
    other = joint.b if side == "a" else joint.a
    if grab.part == other.part:
        raise located(f"joints.{name}", f"both sides would be of '{grab.part}'; a joint needs two parts")
    if joint.kind.of_edges:
        return _by_edge(document, name, side, grab)
    about = grab.feature.about if joint.kind.slotted and side == "a" else None
    at = about if about is not None else grab.feature.at
    point, changes = named_point(document, grab.part, at)
    place = document.home("joints", name)
    changes = [*changes, Set((*place, side), f"{grab.part}.{point}")]
    gone: list[str] = []
    if joint.kind.slotted and side == "a" and grab.feature.along is not None:
        changes += _along(document, name, grab)
        gone = ["the limits of the slot before"] if document.entry("joints", name).get("limits") else []
    return Made(tuple(changes), ("joints", name), dropped=tuple(gone))


def _by_edge(document: Document, name: str, side: str, grab: Grab) -> Made:
    """The same of a joint that holds edges together: its second side is a rim, its first a side or a rim."""
    if grab.feature.edge is None:
        raise located(f"joints.{name}", "holds edges together; pick a side, a rim or an arc")
    if side == "b" and not grab.feature.round:
        raise located(f"joints.{name}", "its second side is the rim that rolls or slides; pick a rim or an arc")
    edge, changes = edge_of(document, grab)
    place = document.home("joints", name)
    return Made((*changes, Set((*place, side), f"{grab.part}.{edge}")), ("joints", name))


def _along(document: Document, name: str, grab: Grab) -> list[Change]:
    """The direction and the ends of a slot in place of those before."""
    place, feature = document.home("joints", name), grab.feature
    per = Dimension.ANGLE.per_core(document.units)
    entry = document.entry("joints", name)
    if feature.about is not None and feature.span is not None:
        return [
            *([Remove((*place, "direction"))] if "direction" in entry else []),
            Set((*place, "radius"), tidy(abs(feature.at - feature.about))),
            Set((*place, "limits"), {"min": tidy(feature.span[0] * per), "max": tidy(feature.span[1] * per)}),
        ]
    if feature.direction is None or feature.reach is None:
        return []
    angle = math.remainder(feature.direction, math.pi)
    low, high = feature.reach
    if abs(math.remainder(angle - feature.direction, math.tau)) > 1e-9:
        low, high = -high, -low
    return [
        *([Remove((*place, "radius"))] if "radius" in entry else []),
        Set((*place, "direction"), tidy(angle * per)),
        Set((*place, "limits"), {"min": tidy(low), "max": tidy(high)}),
    ]


def reanchored(document: Document, one: str, two: str, poses: Mapping[str, Pose]) -> Made:
    """All that is joined to a part, traced or measured on it, at the same places of another part instead; `poses` are
    where they stand when the motion starts. What ties the two to each other stays. Raises `DocumentError` where nothing
    can go over."""
    now, changes = document, list[Change]()

    def there(point: str) -> str:
        nonlocal now
        at = spot_at(poses[one], complex(*document.parts[one].place(point)))
        own = (at - complex(*poses[two][:2])) * cmath.rect(1.0, -poses[two][2])
        name, made = named_point(now, two, own)
        changes.extend(made)
        now = changed(now, *made)
        return f"{two}.{name}"

    turn = poses[one][2] - poses[two][2]
    per = Dimension.ANGLE.per_core(document.units)
    for joint in document.joints.values():
        side = "a" if joint.a.part == one else "b" if joint.b.part == one else ""
        if not side or joint.kind.of_edges or two in (joint.a.part, joint.b.part):
            continue
        place = document.home("joints", joint.id)
        changes.append(Set((*place, side), there((joint.a if side == "a" else joint.b).point)))
        if side == "a" and "direction" in joint.values:
            way = math.remainder(joint.values["direction"] + turn, math.tau)
            changes.append(Set((*place, "direction"), tidy(way * per)))
    for trace in document.traces.values():
        if trace.point.part == one:
            changes.append(Set((*document.home("traces", trace.id), "point"), there(trace.point.point)))
    if not changes:
        raise located(f"parts.{one}", f"nothing is joined to '{one}' that could go over to '{two}'")
    return Made(tuple(changes), ("parts", two))


def with_outline_of(document: Document, part: str, other: str, poses: Mapping[str, Pose]) -> Made:
    """A part with the shapes of another, which stands where they are to be; that goes. Points of the part stay: one in
    a hole goes to the nearest hole of the new outline, of those of the same size first, so that joints stay at their
    holes. What finds no hole stays where it is, and is said."""
    old_place, new_place = (said_at(document, name, 0j)[1] for name in (part, other))
    shapes = [dict(shape) for shape in document.entry("parts", other).get("shapes", [])]
    if not shapes:
        raise located(f"parts.{other}", "has no outline to give")
    copies = any(said_at(document, name, 0j)[0].id != name for name in (part, other))
    if copies or new_place[0] != "parts":
        raise located(f"parts.{other}", "a copy, or a part of a sub-assembly, has no outline of its own")
    turn = poses[other][2] - poses[part][2]
    if abs(math.remainder(turn, math.tau)) > 1e-9:
        raise located(f"parts.{other}", "stands turned against the part whose outline it is to give; turn it first")
    by = (complex(*poses[other][:2]) - complex(*poses[part][:2])) * cmath.rect(1.0, -poses[part][2])
    own = document.parts[part].points
    points = dict(document.entry("parts", part).get("points", {}))
    given = document.parts[other].points
    moved = {name: complex(*at) + by for name, at in given.items()}
    names, left = _matched(document, part, other, moved)
    for name, at in moved.items():
        goal = names.get(name)
        if goal is None:
            goal = name if name not in points else free_name(points, name)
            names[name] = goal
        points[goal] = [tidy(at.real), tidy(at.imag)]
    written = [_renamed_shape(shape, names, by) for shape in shapes]
    changes: list[Change] = [Set((*old_place, "points"), points), Set((*old_place, "shapes"), written)]
    changes.append(Remove(("parts", other)))
    stays = [f"point {name}, which is in no hole now" for name in left if name in own]
    return Made(tuple(changes), ("parts", part), dropped=tuple(stays))


def _holes(document: Document, part: str) -> dict[str, tuple[complex, float]]:
    """The round holes of a part about named points: where, and how wide."""
    one = document.parts[part]
    found = {}
    for given, shape in zip(document.entry("parts", part).get("shapes", []), one.shapes, strict=False):
        if given.get("cut") and isinstance(given.get("center"), str) and hasattr(shape, "diameter"):
            found[given["center"]] = (complex(*one.points[given["center"]]), float(shape.diameter))
    return found


def _matched(
    document: Document, part: str, other: str, moved: Mapping[str, complex]
) -> tuple[dict[str, str], list[str]]:
    """Which point of the new outline is which of the old: by its name in both, else by the nearest hole. And the old
    holes that find none."""
    old, new = _holes(document, part), _holes(document, other)
    names: dict[str, str] = {}
    pairs = sorted(
        (name != goal, abs(new[name][1] - old[goal][1]) > SAME, abs(moved[name] - old[goal][0]), name, goal)
        for name in new for goal in old
    )  # fmt: skip
    size = max((abs(complex(*at)) for at in document.parts[part].points.values()), default=1.0) or 1.0
    for same_name, _, far, name, goal in pairs:
        if name in names or goal in names.values() or (same_name and far > size / 2):
            continue
        names[name] = goal
    return names, [goal for goal in old if goal not in names.values()]


def _renamed_shape(shape: dict[str, Any], names: Mapping[str, str], by: complex) -> dict[str, Any]:
    """A shape by the points of another part, its plain places moved."""
    def place(value: Any) -> Any:
        if isinstance(value, str):
            return names.get(value, value)
        if isinstance(value, list) and len(value) == 2 and all(isinstance(each, int | float) for each in value):
            return [tidy(value[0] + by.real), tidy(value[1] + by.imag)]
        if isinstance(value, list) and len(value) == 2 and by:
            return [f"{value[0]} + {tidy(by.real)!r}", f"{value[1]} + {tidy(by.imag)!r}"]
        return value

    new = dict(shape)
    for key in ("center", "start"):
        if key in new and not isinstance(new[key], int | float):
            new[key] = place(new[key])
    for key in ("through", "vertices"):
        if key in new:
            new[key] = [place(each) for each in new[key]]
    if "segments" in new:
        new["segments"] = [{key: place(value) if key in ("to", "center") else value for key, value in each.items()}
                           for each in new["segments"]]  # fmt: skip
    return new


def _dropped(document: Document, name: str) -> tuple[list[Change], list[str]]:
    """The changes that take away what speaks of a joint's coordinate, and what that is."""
    changes: list[Change] = []
    gone: list[str] = []
    for driver in document.drivers.values():
        if driver.joint == name:
            changes.append(Remove(("drivers", driver.id)))
            gone.append(f"driver {driver.id}")
    for check in document.checks.values():
        if check.joint == name:
            changes.append(Remove(("checks", check.id)))
            gone.append(f"check {check.id}")
    for track, entry in document.tree.get("tracks", {}).items():
        if entry.get("joint") == name:
            changes.append(Remove(("tracks", track)))
            gone.append(f"track {track}")
    for position in document.positions.values():
        for kind, values in (("drivers", position.drivers), ("joints", position.joints)):
            for key in values:
                if (document.drivers[key].joint if kind == "drivers" else key) == name:
                    changes.append(Remove(("positions", position.id, kind, key)))
                    gone.append(f"position {position.id} of it")
    return changes, gone


__all__ = ["exchanged", "reanchored", "reattached", "retyped", "types_for", "with_outline_of"]
