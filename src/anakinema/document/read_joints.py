"""Reading joints, and the couplings that tie two of them."""

import cmath
import math
from collections.abc import Mapping
from dataclasses import dataclass
from operator import is_
from types import MappingProxyType
from typing import Any

from ..errors import listed, suggestion
from ..joints import CONTACT, COUPLING_TYPES, JOINT_TYPES
from ..kinds import Dimension, Field, FieldForm
from .fields import MISSING, NAN, Apart
from .model import Contact, Coupling, Edge, Group, Joint, Limits, Part, PointRef, Trace
from .read_parts import PartFields
from .sections import LIMITS, SECTIONS, keys_of

NOWHERE = PointRef("", "")
MOST_RATIO = 1e9
"""Greatest ratio of a coupling, either way (rad, document lengths)."""


@dataclass(frozen=True)
class ReadJoint:
    """A joint as it was read: its tree, its two parts, and what was read."""

    tree: Any
    parts: tuple[Part | None, Part | None]
    read: Apart[Joint | None]


class JointFields(PartFields):
    """Knows the joints that have been read."""

    def __init__(self, tree: Any, at: str = ""):
        super().__init__(tree, at)
        self.joints: dict[str, Joint] = {}
        self.couplings: dict[str, Coupling] = {}
        self.tied_parts: dict[str, str] = {}
        """The type of every coupling, known before it is read."""
        self.contacts: dict[str, Contact] = {}
        self.touching: set[str] = set()
        """The names of all contacts, known before they are read."""
        self.groups: dict[str, Group] = {}
        self.read_joints: dict[str, ReadJoint] = {}

    def all_joints(self, known: Mapping[str, ReadJoint], changed: set[str]) -> None:
        """Reads joints, then what ties them. Those that are `known`, between parts like before, and don't use a
        `changed` parameter, are taken from there."""
        entries = self.tree.get("joints")
        given: Mapping[str, Any] = entries if isinstance(entries, Mapping) else {}
        for key, entry in given.items():
            kind = entry.get("type") if isinstance(entry, Mapping) else None
            if isinstance(kind, str) and kind in COUPLING_TYPES:
                self.tied_parts[key] = kind
            elif kind == CONTACT.name:
                self.touching.add(key)

        def joint(key: str, item: Mapping[str, Any], place: str) -> Joint | None:
            kept = known.get(key)
            if kept is None or kept.tree is not item or kept.read.used & changed or not self._between(kept):
                return self.fresh_joint(key, item, place)
            self.take(kept.read)
            self.read_joints[key] = kept
            return kept.read.entry

        self.joints |= self.section("joints", joint)
        for key, kind in self.tied_parts.items():
            if key in given:
                self.couplings[key] = self.coupling(key, kind, given[key], f"{self.at}joints.{key}")
        for key in given:
            if key in self.touching:
                self.contacts[key] = self.touch(key, given[key], f"{self.at}joints.{key}")

    def _sides(self, joint: Joint) -> tuple[Part | None, Part | None]:
        """The parts that a joint joins."""
        return self.parts.get(joint.a.part), self.parts.get(joint.b.part)

    def _between(self, kept: ReadJoint) -> bool:
        """Whether a joint joins the very same parts as before; or points of that name, where it takes nothing else of
        its parts."""
        joint = kept.read.entry
        if joint is None:
            return False
        sides = self._sides(joint)
        if JOINT_TYPES[joint.type].of_edges:
            return all(map(is_, sides, kept.parts))
        return all(part is not None and ref.point in part.points
                   for part, ref in zip(sides, (joint.a, joint.b), strict=True))

    def fresh_joint(self, key: str, item: Mapping[str, Any], place: str) -> Joint | None:
        """Reads a joint, and keeps it for the next version where it makes sense."""
        found = self.apart(lambda: self.joint(key, item, place))
        if found.entry is not None and found.sound:
            self.read_joints[key] = ReadJoint(item, self._sides(found.entry), found)
        return found.entry

    # -- what is named -----------------------------------------------------------------------------------------

    def reference(self, value: Any, where: str, of_edges: bool = False) -> PointRef:
        """A point or an edge of a part, written ``part.point``."""
        if value is MISSING:
            return NOWHERE
        if not isinstance(value, str) or value.count(".") != 1:
            self.fault(where, "'part.point' is wanted")
            return NOWHERE
        part, point = value.split(".")
        if part not in self.parts:
            self.fault(where, self.no_part(part))
        elif of_edges and point not in self.parts[part].edges:
            self.fault(where, f"part '{part}' has no edge '{point}'{_what_there_is(point, self.parts[part].edges)}")
        elif not of_edges and point not in self.parts[part].points:
            self.fault(where, f"part '{part}' has no point '{point}'{_what_there_is(point, self.parts[part].points)}")
        return PointRef(part, point)

    def a_part(self, value: Any, where: str) -> str:
        """The name of a part; empty after a fault."""
        if isinstance(value, str) and value in self.parts:
            return value
        self.fault(where, self.no_part(value))
        return ""

    def field(self, field: Field, value: Any, where: str) -> Any:
        """What stands in a field; parts too."""
        return self.a_part(value, where) if field.form is FieldForm.PART else super().field(field, value, where)

    # -- joints ------------------------------------------------------------------------------------------------

    def joint(self, key: str, item: Mapping[str, Any], place: str) -> Joint | None:
        """A joint; None for a coupling or a contact, which are read when all joints are known."""
        kind = self.required(item, "type", place)
        nothing = Joint(key, "", NOWHERE, NOWHERE, {})
        if kind is MISSING:
            return nothing
        if key in self.tied_parts or key in self.touching:
            return None
        if not isinstance(kind, str) or kind not in JOINT_TYPES:
            known = [*JOINT_TYPES, *COUPLING_TYPES, CONTACT.name]
            near = suggestion(str(kind), known)
            self.fault(f"{place}.type", f"unknown joint type {kind!r}{near}; known are {', '.join(known)}")
            return nothing
        joint_type = JOINT_TYPES[kind]
        own = [field.name for field in joint_type.fields]
        self.unknown_keys(item, ("type", "a", "b", "limits", *SECTIONS["joints"].keys, *own), place)
        a, b = (
            self.reference(self.required(item, side, place), f"{place}.{side}", joint_type.of_edges) for side in "ab"
        )
        if a.part and a.part == b.part:
            self.fault(place, f"joins part '{a.part}' to itself; 'a' and 'b' must belong to two parts")
        values = self.given(joint_type.fields, item, place)
        at_end = values.pop("at_end", "")
        for text in joint_type.faults(values):
            self.fault(place, text)
        if joint_type.of_edges:
            a, b, values = self.contact(a, b, place)
        dimension = joint_type.coordinate_dimension(values)
        return Joint(
            id=key,
            type=kind,
            a=a,
            b=b,
            values=MappingProxyType(values),
            limits=self.limits(item, dimension, place),
            suspended=self.flag(item, "suspended", place),
            note=self.text(item, "note", place),
            at_end=at_end,
        )

    def limits(self, item: Mapping[str, Any], dimension: str | None, place: str) -> Limits:
        """The limits of a coordinate of a dimension; None where there is no coordinate."""
        if "limits" not in item:
            return Limits()
        where = f"{place}.limits"
        if dimension is None:
            self.fault(where, f"a {item['type']} joint has no coordinate to limit")
            return Limits()
        entry = self.mapping(item["limits"], where)
        self.unknown_keys(entry, keys_of(LIMITS), where)
        low, high, rest = (self.optional(entry, key, dimension, where) for key in ("min", "max", "rest"))
        if low is not None and high is not None and low > high:
            self.fault(where, f"min {self.described(low, dimension)} is above max {self.described(high, dimension)}")
        pushes = self.flag(entry, "pushes", where)
        if pushes and rest is None:
            self.fault(f"{where}.pushes", "is for a joint with a 'rest': give the coordinate that it goes back to")
        return Limits(low, high, rest, pushes)

    def contact(self, a: PointRef, b: PointRef, place: str) -> tuple[PointRef, PointRef, dict[str, float]]:
        """Both sides of a joint of edges, a straight edge first, and its numbers: the side on which the edges touch is
        that of the rough poses."""
        part_a, part_b = self.parts.get(a.part), self.parts.get(b.part)
        one = part_a.edges.get(a.point) if part_a is not None else None
        two = part_b.edges.get(b.point) if part_b is not None else None
        if part_a is None or part_b is None or one is None or two is None:
            return a, b, {}
        if not one.is_arc and not two.is_arc:
            self.fault(place, "both edges are straight; a prismatic joint holds two straight faces together")
            return a, b, {}
        if one.is_arc and not two.is_arc:
            return self.contact(b, a, place)
        gap = _placed(part_b, two) - _placed(part_a, one)
        if not one.is_arc:
            direction = math.atan2(one.stop[1] - one.start[1], one.stop[0] - one.start[0])
            across = (gap * cmath.rect(1.0, -direction - part_a.pose[2])).imag
            return a, b, {"direction": direction, "offset": math.copysign(two.radius, across)}
        apart, inside = one.radius + two.radius, abs(one.radius - two.radius)
        nested = abs(abs(gap) - inside) < abs(abs(gap) - apart)
        if nested and inside <= 1e-9 * apart:
            self.fault(place, "one arc would lie in the other with the same radius; use a revolute joint")
            return a, b, {}
        length = inside if nested else apart
        return a, b, {"length": length, "radius_a": one.radius, "radius_b": two.radius, "inside": float(nested)}

    # -- contacts ----------------------------------------------------------------------------------------------

    def touch(self, key: str, item: Mapping[str, Any], place: str) -> Contact:
        """Two parts that may touch and never pass."""
        self.unknown_keys(item, ("type", "a", "b", *SECTIONS["joints"].keys), place)
        names, sides = [], []
        for side in "ab":
            name = self.required(item, side, place)
            names.append(name if isinstance(name, str) else "")
            sides.append(() if name is MISSING else self.side(name, f"{place}.{side}"))
        if sides[0] and names[0] == names[1]:
            self.fault(place, f"lets '{names[0]}' touch itself; 'a' and 'b' must be two")
        elif shared := [part for part in sides[0] if part in sides[1]]:
            self.fault(place, f"part '{shared[0]}' is on both sides: '{names[0]}' and '{names[1]}' both hold it")
        return Contact(key, names[0], names[1], (sides[0], sides[1]), self.flag(item, "suspended", place),
                       self.text(item, "note", place))  # fmt: skip

    def side(self, name: Any, where: str) -> tuple[str, ...]:
        """The parts that a part, a group or a sub-assembly is; none after a fault."""
        if isinstance(name, str) and name in self.parts:
            return (name,)
        if isinstance(name, str) and name in self.groups:
            return self.groups[name].parts
        inside = tuple(part for part in self.parts if part.startswith(f"{name}/"))
        if not inside:
            known = [*self.parts, *self.groups, *dict.fromkeys(part.split("/")[0] for part in self.parts)]
            self.fault(where, f"there is no part, group or sub-assembly '{name}'{suggestion(str(name), known)}")
        return inside

    # -- couplings ---------------------------------------------------------------------------------------------

    def coupling(self, key: str, kind_name: str, item: Mapping[str, Any], place: str) -> Coupling:
        """What ties two joints."""
        kind = COUPLING_TYPES[kind_name]
        self.unknown_keys(item, ("type", "a", "b", *SECTIONS["joints"].keys, *keys_of(kind.fields)), place)
        a, a_dimension = self.tied(item, "a", kind.wants[0], place)
        b, b_dimension = self.tied(item, "b", kind.wants[1], place)
        if a and a == b:
            self.fault(place, f"ties joint '{a}' to itself")
        before = len(self.faults)
        given = self.given(kind.fields, item, place)
        carrier = given.pop("carrier", None)
        numbers = [number for value in given.values() for number in _numbers(value)]
        whole = len(self.faults) == before and not any(map(math.isnan, numbers))
        faults = kind.faults(given) if whole else []
        for text in faults:
            self.fault(place, text)
        ratio = NAN if faults or not whole else kind.ratio(given)
        if kind.in_document_units and self.units.angle == "deg":
            per = {"angle": math.degrees(1.0), "length": 1.0, "": 1.0}
            ratio *= per[a_dimension] / per[b_dimension]
        if not (math.isnan(ratio) or 1.0 / MOST_RATIO <= abs(ratio) <= MOST_RATIO):
            self.fault(place, f"a ratio of {abs(ratio):.6g} can't be meant; at most {MOST_RATIO:g} is")
        return Coupling(
            id=key,
            type=kind.name,
            a=a,
            b=b,
            ratio=ratio,
            given=MappingProxyType(given),
            carrier=carrier,
            suspended=self.flag(item, "suspended", place),
            note=self.text(item, "note", place),
        )

    def tied(self, item: Mapping[str, Any], side: str, wanted: str | None, place: str) -> tuple[str, str]:
        """The joint at a side of a coupling and its coordinate's dimension."""
        name, dimension = self.coordinate(self.required(item, side, place), f"{place}.{side}")
        if dimension and wanted and dimension != wanted:
            kinds = "a revolute joint" if wanted == "angle" else "a prismatic joint"
            self.fault(f"{place}.{side}", f"{kinds} is wanted, '{name}' is a {self.joints[name].type} joint")
        return name, dimension

    def coordinate(self, name: Any, where: str) -> tuple[str, str]:
        """The joint that is named and its coordinate's dimension; empty after a fault."""
        if name is MISSING:
            return "", ""
        if isinstance(name, str) and name in self.touching:
            self.fault(where, f"'{name}' is a contact and has no coordinate; name the joint of one of its parts")
            return "", ""
        if isinstance(name, str) and name in self.tied_parts:
            kind = self.tied_parts[name]
            self.fault(where, f"'{name}' is a {kind} and has no coordinate; name one of the joints that it ties")
            return "", ""
        if not isinstance(name, str) or name not in self.joints:
            self.fault(where, f"there is no joint '{name}'{suggestion(str(name), list(self.joints))}")
            return "", ""
        joint = self.joints[name]
        if not joint.type:
            return name, ""
        dimension: Dimension | None = JOINT_TYPES[joint.type].coordinate_dimension(joint.values)
        if dimension is None:
            self.fault(where, f"joint '{name}' is a {joint.type} joint and has no coordinate")
            return name, ""
        return name, dimension

    def trace(self, key: str, item: Mapping[str, Any], place: str) -> Trace:
        """The path of a point."""
        self.unknown_keys(item, SECTIONS["traces"].keys, place)
        on = self.a_part(item["on"], f"{place}.on") if item.get("on") is not None else None
        return Trace(key, self.reference(self.required(item, "point", place), f"{place}.point"), on)


def _placed(part: Part, edge: Edge) -> complex:
    """Where an edge's start or center lies in the plane, by the part's rough pose."""
    x, y, angle = part.pose
    return complex(x, y) + complex(*edge.start) * cmath.rect(1.0, angle)


def _numbers(value: Any) -> tuple[float, ...]:
    return value if isinstance(value, tuple) else (value,) if isinstance(value, float) else ()


def _what_there_is(word: str, known: Mapping[str, Any]) -> str:
    """What could have been meant instead: the nearest name, and all of them where they are few."""
    names = list(known)
    near = suggestion(word, names)
    return near or (f"; it has {listed(names)}" if names else "; it has none")
