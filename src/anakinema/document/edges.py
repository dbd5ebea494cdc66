"""Reading contact edges, and the joints that hold one edge against another."""

import cmath
import math
import re
from collections.abc import Mapping
from typing import Any

from ..errors import suggestion
from ..geometry import shapes as s
from .fields import NAN, Fields
from .model import Edge, Part, PointRef, Tree

ID = re.compile(r"[\w-]+\Z")


class EdgeFields(Fields):
    """Knows the parts that have been read."""

    def __init__(self, tree: Tree):
        super().__init__(tree)
        self.parts: dict[str, Part] = {}

    def spot(self, value: Any, points: Mapping[str, s.Point], place: str) -> s.Point:
        """A place in a part: one of its points by name, or ``[x, y]``."""
        if isinstance(value, str):
            if value in points:
                return points[value]
            self.fault(place, f"the part has no point '{value}'{suggestion(value, list(points))}")
            return NAN, NAN
        return self.pair(value, "length", place)

    def edges(self, item: Mapping[str, Any], points: Mapping[str, s.Point], place: str) -> dict[str, Edge]:
        """The contact edges of a part."""
        found = {}
        for name, value in self.mapping(item.get("edges", {}), f"{place}.edges").items():
            where = f"{place}.edges.{name}"
            if not ID.match(name):
                self.fault(where, "a name may hold only letters, digits, '_' and '-'")
            if name in points:
                self.fault(where, "a point of the part has this name already; choose another")
            entry = self.mapping(value, where)
            if "center" in entry:
                self.unknown_keys(entry, ("center", "radius", "from", "to", "note"), where)
                low = self.number(entry.get("from", 0), "angle", f"{where}.from")
                high = self.number(entry["to"], "angle", f"{where}.to") if "to" in entry else low + 2 * math.pi
                if not 0 < high - low <= 2 * math.pi + 1e-9:
                    self.fault(where, "'to' must exceed 'from', by a full turn at most")
                radius = self.positive(entry, "radius", "length", where)
                center = self.spot(entry["center"], points, f"{where}.center")
                found[name] = Edge(name, center, center, radius, low, high)
                continue
            self.unknown_keys(entry, ("from", "to", "note"), where)
            ends = [self.spot(self.required(entry, key, where), points, f"{where}.{key}") for key in ("from", "to")]
            if ends[0] == ends[1]:
                self.fault(where, "'from' and 'to' are the same point")
            found[name] = Edge(name, ends[0], ends[1])
        return found

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


def _placed(part: Part, edge: Edge) -> complex:
    """Where an edge's start or center lies in the plane, by the part's rough pose."""
    x, y, angle = part.pose
    return complex(x, y) + complex(*edge.start) * cmath.rect(1.0, angle)
