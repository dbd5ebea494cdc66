"""Reading joints, and the couplings that tie two of them."""

import cmath
import math
from collections.abc import Callable, Mapping
from dataclasses import replace
from types import MappingProxyType
from typing import Any

from ..errors import suggestion
from ..joints import CONTACT, COUPLING_TYPES, JOINT_TYPES, CouplingType
from .model import Contact, Coupling, Edge, Joint, Limits, Part, PointRef, Trace
from .read_cams import read_cam
from .read_context import MISSING, Cached, ReadContext
from .read_couplings import read_coupling
from .read_names import NAMED, NOWHERE, a_part, reference
from .read_teeth import read_mesh
from .sections import LIMITS, SECTIONS, keys_of


def read_joints(context: ReadContext, known: Mapping[str, Cached[Joint | None]], changed: set[str]) -> None:
    """Reads joints, then what ties them. Those that are `known`, between parts like before, and don't use a
    `changed` parameter, are taken from there."""
    entries = context.tree.get("joints")
    given: Mapping[str, Any] = entries if isinstance(entries, Mapping) else {}
    for key, entry in given.items():
        kind = entry.get("type") if isinstance(entry, Mapping) else None
        if isinstance(kind, str) and kind in COUPLING_TYPES:
            context.tied[key] = kind
        elif kind == CONTACT.name:
            context.touching.add(key)

    def joint(key: str, item: Mapping[str, Any], place: str) -> Joint | None:
        kept = known.get(key)
        if kept is None or not _stands(context, kept, item, changed):
            return _fresh(context, key, item, place)
        context.take(kept)
        context.joint_cache[key] = kept
        return kept.entry

    context.joints |= context.section("joints", joint)
    for key, kind in context.tied.items():
        if key in given:
            read = _reader(COUPLING_TYPES[kind])
            context.couplings[key] = read(context, key, COUPLING_TYPES[kind], given[key], f"{context.at}joints.{key}")
    for key in given:
        if key in context.touching:
            context.contacts[key] = _read_contact(context, key, given[key], f"{context.at}joints.{key}")


def _reader(kind: CouplingType) -> Callable[[ReadContext, str, CouplingType, Mapping[str, Any], str], Coupling]:
    """What reads couplings of a kind."""
    return read_cam if kind.by_program else read_mesh if kind.toothed else read_coupling


def _source(context: ReadContext, item: Mapping[str, Any], joint: Joint) -> tuple[Any, ...]:
    """What a joint is read from: one of edges from its parts as well."""
    if not JOINT_TYPES[joint.type].of_edges:
        return (item,)
    return item, context.parts.get(joint.a.part), context.parts.get(joint.b.part)


def _stands(
    context: ReadContext, kept: Cached[Joint | None], item: Mapping[str, Any], changed: set[str]
) -> bool:
    """Whether a joint would be read as before: its points, or its very edges, are still there."""
    joint = kept.entry
    if joint is None or not kept.stands(_source(context, item, joint), changed):
        return False
    return JOINT_TYPES[joint.type].of_edges or all(
        ref.part in context.parts and ref.point in context.parts[ref.part].points for ref in (joint.a, joint.b))


def _fresh(context: ReadContext, key: str, item: Mapping[str, Any], place: str) -> Joint | None:
    """Reads a joint, and keeps it for the next version where it makes sense."""
    found = context.cached((item,), lambda: _read_joint(context, key, item, place))
    if found.entry is not None and found.entry.type and found.sound:
        context.joint_cache[key] = replace(found, source=_source(context, item, found.entry))
    return found.entry


# -- joints ------------------------------------------------------------------------------------------------


def _read_joint(context: ReadContext, key: str, item: Mapping[str, Any], place: str) -> Joint | None:
    """A joint; None for a coupling or a contact, which are read when all joints are known."""
    kind = context.required(item, "type", place)
    nothing = Joint(key, "", NOWHERE, NOWHERE, {})
    if kind is MISSING:
        return nothing
    if key in context.tied or key in context.touching:
        return None
    if not isinstance(kind, str) or kind not in JOINT_TYPES:
        known = [*JOINT_TYPES, *COUPLING_TYPES, CONTACT.name]
        near = suggestion(str(kind), known)
        context.fault(f"{place}.type", f"unknown joint type {kind!r}{near}; known are {', '.join(known)}")
        return nothing
    joint_type = JOINT_TYPES[kind]
    own = [field.name for field in joint_type.fields]
    context.unknown_keys(item, ("type", "a", "b", "limits", *SECTIONS["joints"].keys, *own), place)
    a, b = (
        reference(context, context.required(item, side, place), f"{place}.{side}", joint_type.of_edges) for side in "ab"
    )
    if a.part and a.part == b.part:
        context.fault(place, f"joins part '{a.part}' to itself; 'a' and 'b' must belong to two parts")
    values = context.given(joint_type.fields, item, place, NAMED)
    at_end = values.pop("at_end", "")
    for text in joint_type.faults(values):
        context.fault(place, text)
    if joint_type.of_edges:
        a, b, values = _edge_contact(context, a, b, place)
    dimension = joint_type.coordinate_dimension(values)
    return Joint(
        id=key,
        type=kind,
        a=a,
        b=b,
        values=MappingProxyType(values),
        limits=_limits(context, item, dimension, place),
        suspended=context.flag(item, "suspended", place),
        note=context.text(item, "note", place),
        at_end=at_end,
    )


def _limits(context: ReadContext, item: Mapping[str, Any], dimension: str | None, place: str) -> Limits:
    """The limits of a coordinate of a dimension; None where there is no coordinate."""
    if "limits" not in item:
        return Limits()
    where = f"{place}.limits"
    if dimension is None:
        context.fault(where, f"a {item['type']} joint has no coordinate to limit")
        return Limits()
    entry = context.mapping(item["limits"], where)
    context.unknown_keys(entry, keys_of(LIMITS), where)
    low, high, rest = (context.optional(entry, key, dimension, where) for key in ("min", "max", "rest"))
    if low is not None and high is not None and low > high:
        context.fault(where, f"min {context.described(low, dimension)} is above max "
                             f"{context.described(high, dimension)}")  # fmt: skip
    pushes = context.flag(entry, "pushes", where)
    if pushes and rest is None:
        context.fault(f"{where}.pushes", "is for a joint with a 'rest': give the coordinate that it goes back to")
    return Limits(low, high, rest, pushes)


def _edge_contact(
    context: ReadContext, a: PointRef, b: PointRef, place: str
) -> tuple[PointRef, PointRef, dict[str, float]]:
    """Both sides of a joint of edges, a straight edge first, and its numbers: the side on which the edges touch is
    that of the rough poses."""
    part_a, part_b = context.parts.get(a.part), context.parts.get(b.part)
    one = part_a.edges.get(a.point) if part_a is not None else None
    two = part_b.edges.get(b.point) if part_b is not None else None
    if part_a is None or part_b is None or one is None or two is None:
        return a, b, {}
    if not one.is_arc and not two.is_arc:
        context.fault(place, "both edges are straight; a prismatic joint holds two straight faces together")
        return a, b, {}
    if one.is_arc and not two.is_arc:
        return _edge_contact(context, b, a, place)
    gap = _placed(part_b, two) - _placed(part_a, one)
    if not one.is_arc:
        direction = math.atan2(one.stop[1] - one.start[1], one.stop[0] - one.start[0])
        across = (gap * cmath.rect(1.0, -direction - part_a.pose[2])).imag
        return a, b, {"direction": direction, "offset": math.copysign(two.radius, across)}
    apart, inside = one.radius + two.radius, abs(one.radius - two.radius)
    nested = abs(abs(gap) - inside) < abs(abs(gap) - apart)
    if nested and inside <= 1e-9 * apart:
        context.fault(place, "one arc would lie in the other with the same radius; use a revolute joint")
        return a, b, {}
    length = inside if nested else apart
    return a, b, {"length": length, "radius_a": one.radius, "radius_b": two.radius, "inside": float(nested)}


# -- contacts ----------------------------------------------------------------------------------------------


def _read_contact(context: ReadContext, key: str, item: Mapping[str, Any], place: str) -> Contact:
    """Two parts that may touch and never pass."""
    context.unknown_keys(item, ("type", "a", "b", *SECTIONS["joints"].keys), place)
    names, sides = [], []
    for side in "ab":
        name = context.required(item, side, place)
        names.append(name if isinstance(name, str) else "")
        sides.append(() if name is MISSING else _contact_side(context, name, f"{place}.{side}"))
    if sides[0] and names[0] == names[1]:
        context.fault(place, f"lets '{names[0]}' touch itself; 'a' and 'b' must be two")
    elif shared := [part for part in sides[0] if part in sides[1]]:
        context.fault(place, f"part '{shared[0]}' is on both sides: '{names[0]}' and '{names[1]}' both hold it")
    return Contact(key, names[0], names[1], (sides[0], sides[1]), context.flag(item, "suspended", place),
                   context.text(item, "note", place))  # fmt: skip


def _contact_side(context: ReadContext, name: Any, where: str) -> tuple[str, ...]:
    """The parts that a part, a group or a sub-assembly is; none after a fault."""
    if isinstance(name, str) and name in context.parts:
        return (name,)
    if isinstance(name, str) and name in context.groups:
        return context.groups[name].parts
    inside = tuple(part for part in context.parts if part.startswith(f"{name}/"))
    if not inside:
        known = [*context.parts, *context.groups, *dict.fromkeys(part.split("/")[0] for part in context.parts)]
        context.fault(where, f"there is no part, group or sub-assembly '{name}'{suggestion(str(name), known)}")
    return inside


def read_trace(context: ReadContext, key: str, item: Mapping[str, Any], place: str) -> Trace:
    """The path of a point."""
    context.unknown_keys(item, SECTIONS["traces"].keys, place)
    on = a_part(context, item["on"], f"{place}.on") if item.get("on") is not None else None
    return Trace(key, reference(context, context.required(item, "point", place), f"{place}.point"), on)


def _placed(part: Part, edge: Edge) -> complex:
    """Where an edge's start or center lies in the plane, by the part's rough pose."""
    x, y, angle = part.pose
    return complex(x, y) + complex(*edge.start) * cmath.rect(1.0, angle)


