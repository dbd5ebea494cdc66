"""From a JSON tree to a document: every fault is found, named and located; nothing is guessed.

`read_document` is the only maker of documents. It evaluates all expressions on the way and remembers the number behind
each place of the tree.
"""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from operator import is_
from types import MappingProxyType
from typing import Any

from ..errors import DocumentError, Fault, listed, suggestion
from ..geometry import shapes as s
from ..geometry.sound import outline_fault
from ..joints import COUPLING_TYPES, JOINT_TYPES
from ..kinds import Units
from .copies import lineage, put_elsewhere, said
from .edges import ID, EdgeFields
from .expressions import RESERVED, ExpressionError, evaluate, names
from .fields import MAX_ITEMS, MISSING, NAN, finite, kind_of
from .model import (
    Check,
    Coupling,
    Document,
    Driver,
    Group,
    Joint,
    Limits,
    Parameter,
    Part,
    PointRef,
    SaidOfPair,
    Trace,
    Tree,
    Value,
)
from .units import ANGLE_UNITS, LENGTH_UNITS, number

VERSION = 1
MAX_STEPS = 1_000_000
DEFAULT_DEPTH = (0.0, 1.0)
DEFAULT_STEPS = 360
MEASURES = {
    "travel": "joint",
    "coordinate": "joint",
    "transmission_angle": "joint",
    "clearance": "parts",
}
SECTIONS = ("parameters", "parts", "groups", "joints", "drivers", "traces", "checks", "pairs")
TOP_KEYS = ("anakinema", "title", "units", *SECTIONS)


def read_document(tree: Tree, before: Document | None = None) -> Document:
    """The document that a JSON tree describes.

    Raises `DocumentError` with every fault found. Unknown keys are kept and told in `Document.warnings`. Parts whose
    tree is the very object that it was in the document `before`, and whose parameters are worth the same, are taken
    from it.
    """
    return _Reader(tree, before).document()


@dataclass(frozen=True)
class _ReadPart:
    """A part as it was read: its tree and those of what it is a copy of, the part, the numbers behind its places, the
    warnings, the parameters used."""

    trees: tuple[Any, ...]
    part: Part
    values: Mapping[str, Value]
    warnings: tuple[Fault, ...]
    used: frozenset[str]


class _Reader(EdgeFields):
    def __init__(self, tree: Tree, before: Document | None = None):
        super().__init__(tree)
        self.before = before
        self.joints: dict[str, Joint] = {}
        self.joint_trees: Mapping[str, Any] = {}
        self.part_trees: Mapping[str, Any] = {}
        self.read: dict[str, _ReadPart] = {}
        self.grouped: dict[str, str] = {}
        """The group of each part that is in one."""
        self.driven: dict[str, str] = {}
        """The driver of each joint that has one."""

    def document(self) -> Document:
        if not isinstance(self.tree, Mapping):
            raise DocumentError([Fault("", f"the file holds {kind_of(self.tree)}; an object is wanted")])
        self.header()
        parameters = self.parameters()
        self.parts = self.all_parts(parameters)
        groups = self.section("groups", self.group)
        self.parts = self.grounded(groups)
        given = self.tree.get("joints")
        self.joint_trees = given if isinstance(given, Mapping) else {}
        read = self.section("joints", self.joint)
        self.joints = {key: joint for key, joint in read.items() if joint is not None}
        couplings = {key: self.coupling(key) for key, joint in read.items() if joint is None}
        drivers = self.section("drivers", self.driver)
        traces = self.section("traces", self.trace)
        checks = self.section("checks", self.check)
        pairs = self.section("pairs", self.said_of_pair)
        if self.faults:
            raise DocumentError(self.faults)
        return Document(
            tree=self.tree,
            title=str(self.tree.get("title", "")),
            units=self.units,
            parameters=MappingProxyType(parameters),
            parts=MappingProxyType(self.parts),
            joints=MappingProxyType(self.joints),
            couplings=MappingProxyType(couplings),
            drivers=MappingProxyType(drivers),
            traces=MappingProxyType(traces),
            checks=MappingProxyType(checks),
            pairs=MappingProxyType(pairs),
            groups=MappingProxyType(groups),
            values=MappingProxyType(self.values),
            warnings=tuple(self.warnings),
            read=MappingProxyType(self.read),
        )

    # -- sections ----------------------------------------------------------------------------------------------

    def header(self) -> None:
        if "anakinema" not in self.tree:
            raise DocumentError([Fault("", "not an Anakinema document: the key 'anakinema' is missing")])
        version = self.tree["anakinema"]
        if version != VERSION or isinstance(version, bool):
            text = f"version {version!r} is not known to this program, which reads version {VERSION}"
            raise DocumentError([Fault("anakinema", text)])
        self.unknown_keys(self.tree, TOP_KEYS, "")
        self.text(self.tree, "title", "")
        units = self.mapping(self.tree.get("units", {}), "units")
        self.unknown_keys(units, ("length", "angle"), "units")
        chosen = {}
        for key, known, default in (("length", LENGTH_UNITS, "mm"), ("angle", ANGLE_UNITS, "deg")):
            chosen[key] = self.text(units, key, "units", default)
            if chosen[key] not in known:
                self.fault(f"units.{key}", f"unknown unit '{chosen[key]}'; one of {', '.join(known)} is wanted")
                chosen[key] = default
        self.units = Units(**chosen)

    def section(self, name: str, read: Callable[[str, Mapping[str, Any], str], Any]) -> dict[str, Any]:
        items = self.mapping(self.tree.get(name, {}), name)
        if len(items) > MAX_ITEMS:
            self.fault(name, f"{len(items)} entries; at most {MAX_ITEMS} are allowed")
            return {}
        found = {}
        for key, value in items.items():
            place = f"{name}.{key}"
            if not ID.match(key):
                self.fault(place, "a name may hold only letters, digits, '_' and '-'")
                continue
            found[key] = read(key, self.mapping(value, place), place)
        return found

    def parameters(self) -> dict[str, Parameter]:
        items = self.mapping(self.tree.get("parameters", {}), "parameters")
        expressions: dict[str, Any] = {}
        notes: dict[str, str] = {}
        for key, value in items.items():
            place = f"parameters.{key}"
            if not key.isidentifier():
                self.fault(place, "a parameter's name may hold only letters, digits and '_', a letter first")
            elif key in RESERVED:
                self.fault(place, f"'{key}' is the name of a unit or function; choose another name")
            if isinstance(value, Mapping):
                self.unknown_keys(value, ("value", "note"), place)
                notes[key] = self.text(value, "note", place)
                expressions[key] = self.required(value, "value", place)
            else:
                expressions[key] = value
        for key in self.ordered(expressions):
            self.parameter(key, expressions[key])
        return {
            key: Parameter(key, expressions[key], self.quantities[key], notes.get(key, ""))
            for key in items
            if key in self.quantities
        }

    def parameter(self, key: str, expression: Any) -> None:
        place = f"parameters.{key}"
        try:
            if isinstance(expression, bool) or not isinstance(expression, (int, float, str)):
                if expression is MISSING:
                    self.broken.add(key)
                    return
                raise ExpressionError(f"a number or an expression is wanted, this is {kind_of(expression)}")
            if isinstance(expression, str):
                if names(expression) & self.broken:
                    self.broken.add(key)
                    return
                self.quantities[key] = evaluate(expression, self.quantities, self.units)
            else:
                self.quantities[key] = number(finite(expression))
        except ExpressionError as error:
            self.broken.add(key)
            self.fault(place, str(error))

    def ordered(self, expressions: Mapping[str, Any]) -> list[str]:
        """Parameters in an order in which each comes after those it needs; a cycle is a fault."""
        needs: dict[str, list[str]] = {}
        for key, expression in expressions.items():
            try:
                needs[key] = sorted(names(expression) & expressions.keys()) if isinstance(expression, str) else []
            except ExpressionError:
                needs[key] = []  # told when it is evaluated
        order: list[str] = []
        state: dict[str, int] = {}
        for root in expressions:
            stack = [(root, iter(needs[root]))] if root not in state else []
            state.setdefault(root, 1)
            while stack:
                key, rest = stack[-1]
                following = next(rest, None)
                if following is None:
                    stack.pop()
                    state[key] = 2
                    order.append(key)
                elif following not in state:
                    state[following] = 1
                    stack.append((following, iter(needs[following])))
                elif state[following] == 1:
                    cycle = [entry for entry, _ in stack]
                    cycle = [*cycle[cycle.index(following):], following]
                    self.fault(f"parameters.{following}", f"depends on itself: {' → '.join(cycle)}")
                    self.broken.update(cycle)
        return [key for key in order if key not in self.broken]

    # -- parts -------------------------------------------------------------------------------------------------

    def all_parts(self, parameters: Mapping[str, Parameter]) -> dict[str, Part]:
        """The parts, as far as they were read before taken from there."""
        given = self.tree.get("parts")
        self.part_trees = given if isinstance(given, Mapping) else {}
        known: Mapping[str, _ReadPart] = {}
        changed: set[str] = set()
        if self.before is not None and self.before.units == self.units:
            known = self.before.read
            old = self.before.parameters
            changed = {
                key
                for key in old.keys() | parameters.keys()
                if key not in old or key not in parameters or not _alike(old[key], parameters[key])
            }

        def part(key: str, item: Mapping[str, Any], place: str) -> Part:
            kept, line = known.get(key), self.line(key, item, place)
            trees = tuple(self.part_trees[each] for each in line)
            same = kept is not None and len(kept.trees) == len(trees) and all(map(is_, kept.trees, trees))
            if kept is None or not same or kept.used & changed:
                kept = self.fresh_part(key, line, trees, place)
            else:
                self.values |= kept.values
                self.warnings += kept.warnings
            self.read[key] = kept
            return kept.part

        return self.section("parts", part)

    def line(self, key: str, item: Mapping[str, Any], place: str) -> list[str]:
        """The part and what it is a copy of, and so on."""
        if "of" not in item:
            return [key]
        line, fault = lineage(self.part_trees, key)
        if fault and (len(line) == 1 or "itself" in fault):  # another's fault is told at its own place
            near = suggestion(str(item["of"]), list(self.part_trees)) if len(line) == 1 else ""
            self.fault(f"{place}.of", f"{fault}{near}")
        return line

    def fresh_part(self, key: str, line: list[str], trees: tuple[Any, ...], place: str) -> _ReadPart:
        values, warnings, faults = self.values, self.warnings, self.faults
        self.values, self.warnings, self.faults, self.used = {}, [], [], set()
        item = self.mapping(trees[0], place)
        if "of" in item:
            part = self.part(key, said(self.part_trees, line), place)
            lift = sum(self.lift(each) for each in line)
            turned = [self.flag(self.mapping(self.part_trees[each], place), "mirror", f"parts.{each}") for each in line]
            if not self.faults:
                part = put_elsewhere(replace(part, of=line[1] if len(line) > 1 else ""), lift, sum(turned) % 2 == 1)
            own = (*place.split("."),)
            self.values = {at: value for at, value in self.values.items() if self._stands(at, own, item)}
            self.warnings = [warning for warning in self.warnings if self._stands(warning.place, own, item)]
            self.faults = [fault for fault in self.faults if self._stands(fault.place, own, item)]
        else:
            part = self.part(key, item, place)
        found = _ReadPart(trees, part, self.values, tuple(self.warnings), frozenset(self.used))
        self.values, self.warnings = values | self.values, warnings + self.warnings
        self.faults = faults + self.faults
        return found

    def lift(self, key: str) -> float:
        """How far a copy is lifted against what it is a copy of."""
        item = self.mapping(self.part_trees[key], f"parts.{key}")
        return self.optional(item, "lift", "length", f"parts.{key}") or 0.0 if "of" in item else 0.0

    @staticmethod
    def _stands(at: str, own: tuple[str, ...], item: Mapping[str, Any]) -> bool:
        """Whether a place is one of a copy's own, rather than of what it takes from another."""
        keys = at.split(".")
        return tuple(keys[:2]) == own and (len(keys) == 2 or keys[2] in item)

    def group(self, key: str, item: Mapping[str, Any], place: str) -> Group:
        self.unknown_keys(item, ("parts", "label", "note"), place)
        value, where = self.required(item, "parts", place), f"{place}.parts"
        parts = self.listing(value, where, 1) if value is not MISSING else []
        for entry in parts:
            if not isinstance(entry, str) or entry not in self.parts:
                self.fault(where, f"there is no part '{entry}'{suggestion(str(entry), list(self.parts))}")
            elif self.grouped.setdefault(entry, key) != key:
                self.fault(where, f"part '{entry}' is in group '{self.grouped[entry]}' already")
        if len(set(map(str, parts))) < len(parts):
            self.fault(where, "names the same part twice")
        return Group(key, tuple(map(str, parts)), self.text(item, "label", place), self.text(item, "note", place))

    def grounded(self, groups: Mapping[str, Group]) -> dict[str, Part]:
        """The parts, all of a group fixed where one of them is."""
        found = dict(self.parts)
        for group in groups.values():
            members = [part for part in group.parts if part in found]
            if any(found[part].fixed for part in members):
                found |= {part: replace(found[part], fixed=True) for part in members if not found[part].fixed}
        return found

    def part(self, key: str, item: Mapping[str, Any], place: str) -> Part:
        keys = ("fixed", "points", "edges", "pose", "shapes", "depth", "label", "color", "note")
        self.unknown_keys(item, keys, place)
        points = {}
        for name, value in self.mapping(item.get("points", {}), f"{place}.points").items():
            if not ID.match(name):
                self.fault(f"{place}.points.{name}", "a name may hold only letters, digits, '_' and '-'")
            points[name] = self.pair(value, "length", f"{place}.points.{name}")
        pose = (0.0, 0.0, 0.0)
        if "pose" in item and (entries := self.listing(item["pose"], f"{place}.pose", 3, 3)):
            dimensions = ("length", "length", "angle")
            x, y, angle = (
                self.number(entry, dimension, f"{place}.pose", f"{place}.pose.{i}")
                for i, (entry, dimension) in enumerate(zip(entries, dimensions, strict=True))
            )
            pose = (x, y, angle)
        listed = self.listing(item.get("shapes", []), f"{place}.shapes")
        outlines = [self.shape(value, points, f"{place}.shapes.{i}") for i, value in enumerate(listed)]
        return Part(
            id=key,
            fixed=self.flag(item, "fixed", place),
            pose=pose,
            points=MappingProxyType(points),
            shapes=tuple(shape for shape in outlines if shape is not None),
            depth=self.depth(item["depth"], f"{place}.depth") if "depth" in item else DEFAULT_DEPTH,
            label=self.text(item, "label", place),
            color=self.text(item, "color", place),
            note=self.text(item, "note", place),
            edges=MappingProxyType(self.edges(item, points, place)),
        )

    def shape(self, value: Any, points: Mapping[str, s.Point], place: str) -> s.Shape | None:
        item = self.mapping(value, place)
        kind = self.required(item, "kind", place)
        if kind is MISSING:
            return None
        readers = {
            "bar": (self.bar, ("through", "width")),
            "disc": (self.disc, ("center", "diameter")),
            "rectangle": (self.rectangle, ("center", "size", "angle", "corner_radius")),
            "polygon": (self.polygon, ("vertices", "corner_radius")),
            "path": (self.path, ("start", "segments")),
            "slot": (self.slot, ("through", "center", "radius", "from", "to", "width")),
        }
        if not isinstance(kind, str) or kind not in readers:
            known = ", ".join(readers)
            self.fault(f"{place}.kind", f"unknown shape {kind!r}; one of {known} is wanted")
            return None
        read, keys = readers[kind]
        self.unknown_keys(item, ("kind", "cut", "depth", *keys), place)
        common = {
            "cut": self.flag(item, "cut", place),
            "depth": self.depth(item["depth"], f"{place}.depth") if "depth" in item else None,
        }
        before = len(self.faults)
        shape = read(item, points, place, common)
        if len(self.faults) == before and not self.broken and (fault := outline_fault(shape)):
            self.fault(place, f"{kind}: {fault}")
        return shape

    def spots(self, value: Any, points: Mapping[str, s.Point], place: str, least: int) -> tuple[s.Point, ...]:
        listed = self.listing(value, place, least) if value is not MISSING else []
        return tuple(self.spot(entry, points, f"{place}.{i}") for i, entry in enumerate(listed))

    def bar(self, item: Mapping[str, Any], points: Mapping[str, s.Point], place: str, common: Any) -> s.Shape:
        through = self.spots(self.required(item, "through", place), points, f"{place}.through", 2)
        return s.Bar(through=through, width=self.positive(item, "width", "length", place), **common)

    def disc(self, item: Mapping[str, Any], points: Mapping[str, s.Point], place: str, common: Any) -> s.Shape:
        center = self.spot(self.required(item, "center", place), points, f"{place}.center")
        return s.Disc(center=center, diameter=self.positive(item, "diameter", "length", place), **common)

    def rectangle(self, item: Mapping[str, Any], points: Mapping[str, s.Point], place: str, common: Any) -> s.Shape:
        center = self.spot(self.required(item, "center", place), points, f"{place}.center")
        size = self.pair(self.required(item, "size", place), "length", f"{place}.size")
        if min(size) <= 0:
            self.fault(f"{place}.size", "both sizes must be greater than zero")
        angle = self.optional(item, "angle", "angle", place) or 0.0
        radius = self.corner(item, min(size) / 2, place)
        return s.Rectangle(center=center, size=size, angle=angle, corner_radius=radius, **common)

    def corner(self, item: Mapping[str, Any], most: float, place: str) -> float:
        radius = self.optional(item, "corner_radius", "length", place) or 0.0
        if radius < 0 or radius > most:
            most_text = f" and at most {self.told(most, 'length')}" if math.isfinite(most) else ""
            text = f"must be at least 0{most_text}, it is {self.told(radius, 'length')}"
            self.fault(f"{place}.corner_radius", text)
        return radius

    def polygon(self, item: Mapping[str, Any], points: Mapping[str, s.Point], place: str, common: Any) -> s.Shape:
        vertices = self.spots(self.required(item, "vertices", place), points, f"{place}.vertices", 3)
        return s.Polygon(vertices=vertices, corner_radius=self.corner(item, math.inf, place), **common)

    def path(self, item: Mapping[str, Any], points: Mapping[str, s.Point], place: str, common: Any) -> s.Shape:
        start = self.spot(self.required(item, "start", place), points, f"{place}.start")
        listed = self.required(item, "segments", place)
        segments = []
        at = start
        for i, given in enumerate(self.listing(listed, f"{place}.segments", 1) if listed is not MISSING else []):
            where = f"{place}.segments.{i}"
            entry = self.mapping(given, where)
            self.unknown_keys(entry, ("to", "center", "ccw"), where)
            to = self.spot(self.required(entry, "to", where), points, f"{where}.to")
            center = self.spot(entry["center"], points, f"{where}.center") if "center" in entry else None
            if center is not None:
                radii = math.dist(center, at), math.dist(center, to)
                if abs(radii[0] - radii[1]) > 1e-6 * max(*radii, 1e-9):
                    self.fault(where, f"the arc's ends lie at {radii[0]:.6g} and {radii[1]:.6g} from its center")
            segments.append(s.Segment(to, center, self.flag(entry, "ccw", where, True)))
            at = to
        return s.Path(start=start, segments=tuple(segments), **common)

    def slot(self, item: Mapping[str, Any], points: Mapping[str, s.Point], place: str, common: Any) -> s.Shape:
        width = self.positive(item, "width", "length", place)
        if "through" in item:
            through = self.spots(item["through"], points, f"{place}.through", 2)
            if len(through) > 2:
                self.fault(f"{place}.through", f"a slot runs through 2 points, here are {len(through)}")
            both = (through[0], through[1]) if len(through) >= 2 else ((NAN, NAN), (NAN, NAN))
            return s.Slot(through=both, width=width, **common)
        center = self.spot(self.required(item, "center", place), points, f"{place}.center")
        radius = self.positive(item, "radius", "length", place)
        if width >= 2 * radius:
            self.fault(f"{place}.width", f"must be less than twice the radius {radius:.6g}, it is {width:.6g}")
        start = self.number(self.required(item, "from", place), "angle", f"{place}.from")
        stop = self.number(self.required(item, "to", place), "angle", f"{place}.to")
        if not 0 < stop - start < 2 * math.pi:
            self.fault(place, "'to' must exceed 'from' by less than a full turn")
        return s.ArcSlot(center=center, radius=radius, start=start, stop=stop, width=width, **common)

    # -- joints, drivers, traces, checks -----------------------------------------------------------------------

    def reference(self, item: Mapping[str, Any], key: str, place: str, of_edges: bool = False) -> PointRef:
        value = self.required(item, key, place)
        where = f"{place}.{key}"
        if value is MISSING:
            return PointRef("", "")
        if not isinstance(value, str) or value.count(".") != 1:
            self.fault(where, "'part.point' is wanted")
            return PointRef("", "")
        part, point = value.split(".")
        if part not in self.parts:
            self.fault(where, f"there is no part '{part}'{suggestion(part, list(self.parts))}")
        elif of_edges and point not in self.parts[part].edges:
            self.fault(where, f"part '{part}' has no edge '{point}'{_what_there_is(point, self.parts[part].edges)}")
        elif not of_edges and point not in self.parts[part].points:
            self.fault(where, f"part '{part}' has no point '{point}'{_what_there_is(point, self.parts[part].points)}")
        return PointRef(part, point)

    def joint(self, key: str, item: Mapping[str, Any], place: str) -> Joint | None:
        """A joint; None for a coupling, which is read when all joints are known."""
        kind = self.required(item, "type", place)
        nothing = Joint(key, "", PointRef("", ""), PointRef("", ""), {})
        if kind is MISSING:
            return nothing
        if isinstance(kind, str) and kind in COUPLING_TYPES:
            return None
        if not isinstance(kind, str) or kind not in JOINT_TYPES:
            known = [*JOINT_TYPES, *COUPLING_TYPES]
            near = suggestion(str(kind), known)
            self.fault(f"{place}.type", f"unknown joint type {kind!r}{near}; known are {', '.join(known)}")
            return nothing
        joint_type = JOINT_TYPES[kind]
        own = (*joint_type.keys, *(("at_end",) if joint_type.of_edges else ()))
        self.unknown_keys(item, ("type", "a", "b", "limits", "suspended", "note", *own), place)
        a, b = (self.reference(item, side, place, joint_type.of_edges) for side in "ab")
        if a.part and a.part == b.part:
            self.fault(place, f"joins part '{a.part}' to itself; 'a' and 'b' must belong to two parts")
        values = {
            name: self.number(item[name], dimension, f"{place}.{name}")
            for name, dimension in joint_type.keys.items()
            if name in item
        }
        for text in joint_type.faults(values):
            self.fault(place, text)
        at_end = self.text(item, "at_end", place, "stop") if joint_type.of_edges else ""
        if at_end not in ("", "stop", "lost"):
            self.fault(f"{place}.at_end", f"'stop' or 'lost' is wanted, this is '{at_end}'")
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

    def coupling(self, key: str) -> Coupling:
        item, place = self.joint_trees[key], f"joints.{key}"
        kind = COUPLING_TYPES[item["type"]]
        own = (*kind.numbers, *kind.pairs, *kind.choices, *(("carrier",) if kind.name == "gear" else ()))
        self.unknown_keys(item, ("type", "a", "b", "suspended", "note", *own), place)
        a, a_dimension = self.tied(item, "a", kind.wants[0], place)
        b, b_dimension = self.tied(item, "b", kind.wants[1], place)
        if a and a == b:
            self.fault(place, f"ties joint '{a}' to itself")
        given: dict[str, Any] = {}
        for name, dimension in kind.numbers.items():
            if name in item:
                given[name] = self.number(item[name], dimension, f"{place}.{name}")
        for name, dimension in kind.pairs.items():
            if name in item:
                given[name] = self.pair(item[name], dimension, f"{place}.{name}")
        for name, words in kind.choices.items():
            given[name] = self.text(item, name, place, words[0])
            if given[name] not in words:
                near = suggestion(given[name], words)
                self.fault(f"{place}.{name}", f"one of {', '.join(words)} is wanted, this is '{given[name]}'{near}")
        known = all(not math.isnan(number) for value in given.values() for number in _numbers(value))
        faults = kind.faults(given) if known else []
        for text in faults:
            self.fault(place, text)
        ratio = NAN if faults or not known else kind.ratio(given)
        if kind.name == "ratio" and self.units.angle == "deg":  # given in document units
            per = {"angle": math.degrees(1.0), "length": 1.0, "": 1.0}
            ratio *= per[a_dimension] / per[b_dimension]
        carrier = item.get("carrier")
        if carrier is not None and (not isinstance(carrier, str) or carrier not in self.parts):
            self.fault(f"{place}.carrier", f"there is no part '{carrier}'{suggestion(str(carrier), list(self.parts))}")
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
        name, dimension = self.coordinate(item, place, side)
        if dimension and wanted and dimension != wanted:
            kinds = "a revolute joint" if wanted == "angle" else "a prismatic joint"
            self.fault(f"{place}.{side}", f"{kinds} is wanted, '{name}' is a {self.joints[name].type} joint")
        return name, dimension

    def limits(self, item: Mapping[str, Any], dimension: str | None, place: str) -> Limits:
        if "limits" not in item:
            return Limits()
        where = f"{place}.limits"
        if dimension is None:
            self.fault(where, f"a {item['type']} joint has no coordinate to limit")
            return Limits()
        entry = self.mapping(item["limits"], where)
        self.unknown_keys(entry, ("min", "max", "rest"), where)
        low, high, rest = (self.optional(entry, key, dimension, where) for key in ("min", "max", "rest"))
        if low is not None and high is not None and low > high:
            self.fault(where, f"min {self.told(low, dimension)} is above max {self.told(high, dimension)}")
        return Limits(low, high, rest)

    def coordinate(self, item: Mapping[str, Any], place: str, key: str = "joint") -> tuple[str, str]:
        """The joint that an item names and its coordinate's dimension; empty after a fault."""
        name = self.required(item, key, place)
        where = f"{place}.{key}"
        if name is MISSING:
            return "", ""
        entry = self.joint_trees.get(name) if isinstance(name, str) else None
        kind = entry.get("type") if isinstance(entry, Mapping) else None
        if isinstance(kind, str) and kind in COUPLING_TYPES:
            self.fault(where, f"'{name}' is a {kind} and has no coordinate; name one of the joints that it ties")
            return "", ""
        if not isinstance(name, str) or name not in self.joints:
            self.fault(where, f"there is no joint '{name}'{suggestion(str(name), list(self.joints))}")
            return "", ""
        joint = self.joints[name]
        if not joint.type:
            return name, ""
        dimension = JOINT_TYPES[joint.type].coordinate_dimension(joint.values)
        if dimension is None:
            self.fault(where, f"joint '{name}' is a {joint.type} joint and has no coordinate")
            return name, ""
        return name, dimension

    def driver(self, key: str, item: Mapping[str, Any], place: str) -> Driver:
        self.unknown_keys(item, ("joint", "from", "to", "steps", "rate", "duration", "note"), place)
        name, dimension = self.coordinate(item, place)
        steps = item.get("steps", DEFAULT_STEPS)
        if isinstance(steps, bool) or not isinstance(steps, int) or not 1 <= steps <= MAX_STEPS:
            self.fault(f"{place}.steps", f"a whole number from 1 to {MAX_STEPS} is wanted, this is {steps!r:.40}")
            steps = DEFAULT_STEPS
        if "rate" in item and "duration" in item:
            self.fault(place, "has both 'rate' and 'duration'; give one of them")
        if not dimension:
            return Driver(key, name, None, 0.0, steps)
        self.same_joint_driven(key, name, place)
        rate_dimension = "angular rate" if dimension == "angle" else "linear rate"
        rate = self.positive(item, "rate", rate_dimension, place) if "rate" in item else None
        duration = self.positive(item, "duration", "time", place) if "duration" in item else None
        start = self.optional(item, "from", dimension, place)
        stop = self.number(self.required(item, "to", place), dimension, f"{place}.to")
        return Driver(key, name, start, stop, steps, rate, duration)

    def same_joint_driven(self, key: str, joint: str, place: str) -> None:
        other = self.driven.setdefault(joint, key)
        if other != key:
            self.fault(place, f"joint '{joint}' is driven by '{other}' already; remove one of the two drivers")

    def trace(self, key: str, item: Mapping[str, Any], place: str) -> Trace:
        self.unknown_keys(item, ("point", "on", "note", "color"), place)
        on = item.get("on")
        if on is not None and (not isinstance(on, str) or on not in self.parts):
            self.fault(f"{place}.on", f"there is no part '{on}'{suggestion(str(on), list(self.parts))}")
        return Trace(key, self.reference(item, "point", place), on)

    def check(self, key: str, item: Mapping[str, Any], place: str) -> Check:
        measure = self.required(item, "measure", place)
        if measure is MISSING:
            return Check(key, "", None, None, None, None)
        if not isinstance(measure, str) or measure not in MEASURES:
            near = suggestion(str(measure), list(MEASURES))
            self.fault(f"{place}.measure", f"unknown measure {measure!r}{near}; known are {', '.join(MEASURES)}")
            return Check(key, "", None, None, None, None)
        subject = MEASURES[measure]
        self.unknown_keys(item, ("measure", subject, "at_least", "at_most", "note"), place)
        joint, parts, dimension = None, None, "length"
        if subject == "joint":
            joint, dimension = self.coordinate(item, place)
            if measure == "transmission_angle":
                dimension = "angle"
        else:
            parts = self.two_parts(item, place)
        bounds = [
            self.optional(item, bound, dimension, place) if dimension else None for bound in ("at_least", "at_most")
        ]
        if "at_least" not in item and "at_most" not in item:
            self.fault(place, "wants 'at_least', 'at_most' or both")
        if bounds[0] is not None and bounds[1] is not None and bounds[0] > bounds[1]:
            self.fault(place, "can't hold: 'at_least' is above 'at_most'")
        return Check(key, measure, joint, parts, bounds[0], bounds[1], self.text(item, "note", place))

    def said_of_pair(self, key: str, item: Mapping[str, Any], place: str) -> SaidOfPair:
        self.unknown_keys(item, ("parts", "ignore"), place)
        parts, reason = self.two_parts(item, place), self.text(item, "ignore", place)
        if not reason.strip():
            self.fault(f"{place}.ignore", "say why this pair needs no watching, or leave the entry out")
        return SaidOfPair(key, parts, reason)

    def two_parts(self, item: Mapping[str, Any], place: str) -> tuple[str, str]:
        value = self.required(item, "parts", place)
        where = f"{place}.parts"
        entries = self.listing(value, where, 2, 2) if value is not MISSING else []
        for entry in entries:
            if not isinstance(entry, str) or entry not in self.parts:
                self.fault(where, f"there is no part '{entry}'{suggestion(str(entry), list(self.parts))}")
        if len(entries) == 2 and entries[0] == entries[1]:
            self.fault(where, "names the same part twice")
        return (str(entries[0]), str(entries[1])) if entries else ("", "")


def _alike(one: Parameter, two: Parameter) -> bool:
    """Whether two parameters are worth the same, in the same unit."""
    return one.quantity == two.quantity


def _numbers(value: Any) -> tuple[float, ...]:
    return value if isinstance(value, tuple) else (value,) if isinstance(value, float) else ()


def _what_there_is(word: str, known: Mapping[str, Any]) -> str:
    """What could have been meant instead: the nearest name, and all of them where they are few."""
    names = list(known)
    near = suggestion(word, names)
    return near or (f"; it has {listed(names)}" if names else "; it has none")
