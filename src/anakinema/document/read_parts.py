"""Reading parts: points, contact edges, shapes, and what copies take from others."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from operator import is_
from types import MappingProxyType
from typing import Any

from ..errors import Fault, suggestion
from ..geometry import shapes as s
from ..geometry.sound import outline_fault
from ..kinds import LEAST_SIZE, Field, FieldForm
from .copies import lineage, put_elsewhere, said
from .fields import ID, MISSING, NAN
from .model import Edge, Group, Item, Part, Value
from .read_parameters import ParameterFields
from .sections import ITEM, OWN, SECTIONS, keys_of

DEFAULT_DEPTH = (0.0, 1.0)
SHAPE_KINDS = s.shape_kinds()
Points = Mapping[str, s.Point]


@dataclass(frozen=True)
class ReadPart:
    """A part as it was read: its tree and those of what it is a copy of, the part, the numbers behind its places, the
    warnings, the parameters used."""

    trees: tuple[Any, ...]
    part: Part
    values: Mapping[str, Value]
    warnings: tuple[Fault, ...]
    used: frozenset[str]


class PartFields(ParameterFields):
    """Knows the parts that have been read."""

    def __init__(self, tree: Any, at: str = ""):
        super().__init__(tree, at)
        self.parts: dict[str, Part] = {}
        self.part_trees: Mapping[str, Any] = {}
        self.points: Points = {}
        """The points of the part that is being read."""
        self.read: dict[str, ReadPart] = {}
        self.grouped: dict[str, str] = {}
        """The group of each part that is in one."""

    def all_parts(self, known: Mapping[str, ReadPart], changed: set[str]) -> dict[str, Part]:
        """The parts; those that are `known` and don't use a `changed` parameter are taken from there."""
        given = self.tree.get("parts")
        self.part_trees = given if isinstance(given, Mapping) else {}

        def part(key: str, item: Mapping[str, Any], place: str) -> Part | None:
            kept, line = known.get(key), self.line(key, item, place)
            if self.assembled(key, line, place):
                return None
            trees = tuple(self.part_trees[each] for each in line)
            same = kept is not None and len(kept.trees) == len(trees) and all(map(is_, kept.trees, trees))
            if kept is None or not same or kept.used & changed:
                kept = self.fresh_part(key, line, trees, place)
            else:
                self.values |= kept.values
                self.warnings += kept.warnings
            self.read[key] = kept
            self.parts[key] = kept.part
            return kept.part

        self.section("parts", part)
        return self.parts

    def assembled(self, key: str, line: list[str], place: str) -> bool:
        """Takes in the parts of a sub-assembly, where the entry places one."""
        return False

    # -- copies and groups -------------------------------------------------------------------------------------

    def line(self, key: str, item: Mapping[str, Any], place: str) -> list[str]:
        """The part and what it is a copy of, and so on."""
        if "of" not in item:
            return [key]
        line, fault = lineage(self.part_trees, key)
        if fault and len(line) == 1:  # another's fault is told at its own place
            known = isinstance(item["of"], str) and item["of"] in self.part_trees
            near = "" if known else suggestion(str(item["of"]), list(self.part_trees))
            self.fault(f"{place}.of", f"{fault}{near}")
        return line

    def fresh_part(self, key: str, line: list[str], trees: tuple[Any, ...], place: str) -> ReadPart:
        """Reads a part, or a copy with all that it takes from its line."""
        item = self.mapping(trees[0], place)
        read = (lambda: self._copy(key, line, item, place)) if "of" in item else lambda: self.part(key, item, place)
        found = self.apart(read)
        return ReadPart(trees, found.entry, found.values, found.warnings, found.used)

    def _copy(self, key: str, line: list[str], item: Mapping[str, Any], place: str) -> Part:
        """Reads a copy, by itself. What it takes from others is theirs: their numbers, and what is wrong with them."""
        before = len(self.faults)
        part = self.part(key, said(self.part_trees, line), place)
        lift = sum(self.lift(each) for each in line)
        places = [f"{self.at}parts.{each}" for each in line]
        turned = [self.flag(self.mapping(self.part_trees[each], at), "mirror", at)
                  for each, at in zip(line, places, strict=True)]  # fmt: skip
        level = self.flag(item, "keep_depth", place)
        if len(self.faults) == before:
            part = replace(part, of=line[1] if len(line) > 1 else "")
            part = put_elsewhere(part, lift, sum(turned) % 2 == 1, level=level)
        self.values = {at: value for at, value in self.values.items() if self._stands(at, place, item)}
        self.warnings = [warning for warning in self.warnings if self._stands(warning.place, place, item)]
        self.faults[before:] = [fault for fault in self.faults[before:] if self._stands(fault.place, place, item)]
        return part

    def lift(self, key: str) -> float:
        """How far a copy is lifted against what it is a copy of."""
        place = f"{self.at}parts.{key}"
        item = self.mapping(self.part_trees[key], place)
        return self.optional(item, "lift", "length", place) or 0.0 if "of" in item else 0.0

    @staticmethod
    def _stands(at: str, own: str, item: Mapping[str, Any]) -> bool:
        """Whether a place is one of a copy's own, rather than of what it takes from another."""
        if at == own:
            return True
        return at.startswith(f"{own}.") and at[len(own) + 1:].split(".", maxsplit=1)[0] in item

    def group(self, key: str, item: Mapping[str, Any], place: str) -> Group:
        """A group; a sub-assembly named in it stands for all its parts."""
        self.unknown_keys(item, SECTIONS["groups"].keys, place)
        value, where = self.required(item, "parts", place), f"{place}.parts"
        members: dict[str, None] = {}
        named = self.listing(value, where, 1) if value is not MISSING else []
        for entry in named:
            inner = self.parts_named(entry)
            if not inner:
                self.fault(where, self.no_part(entry))
            for part in inner:
                if self.grouped.setdefault(part, key) != key:
                    self.fault(where, f"part '{part}' is in group '{self.grouped[part]}' already")
                members[part] = None
        if len(set(map(str, named))) < len(named):
            self.fault(where, "names the same part twice")
        return Group(key, tuple(members), self.text(item, "label", place), self.text(item, "note", place))

    def parts_named(self, name: Any) -> list[str]:
        """The part of a name, or all of the sub-assembly of that name."""
        if not isinstance(name, str):
            return []
        return [name] if name in self.parts else [part for part in self.parts if part.startswith(f"{name}/")]

    def no_part(self, name: Any) -> str:
        """That there is no such part, in words."""
        inside = self.parts_named(name)
        if inside:
            return f"'{name}' is a sub-assembly; name one of its parts, such as '{inside[0]}'"
        return f"there is no part '{name}'{suggestion(str(name), list(self.parts))}"

    def grounded(self, groups: Mapping[str, Group]) -> dict[str, Part]:
        """The parts, all of a group fixed where one of them is."""
        found = dict(self.parts)
        for group in groups.values():
            members = [part for part in group.parts if part in found]
            if any(found[part].fixed for part in members):
                found |= {part: replace(found[part], fixed=True) for part in members if not found[part].fixed}
        return found

    # -- one part ----------------------------------------------------------------------------------------------

    def part(self, key: str, item: Mapping[str, Any], place: str) -> Part:
        """A part by its entry."""
        self.unknown_keys(item, OWN, place)
        points: dict[str, s.Point] = {}
        for name, value in self.mapping(item.get("points", {}), f"{place}.points").items():
            if not ID.match(name):
                self.fault(f"{place}.points.{name}", "a name may hold only letters, digits, '_' and '-'")
            points[name] = self.pair(value, "length", f"{place}.points.{name}")
        self.points = points
        listed = self.listing(item.get("shapes", []), f"{place}.shapes")
        outlines = [self.shape(value, f"{place}.shapes.{i}") for i, value in enumerate(listed)]
        return Part(
            id=key,
            fixed=self.flag(item, "fixed", place),
            pose=self.pose(item.get("pose"), f"{place}.pose") if "pose" in item else (0.0, 0.0, 0.0),
            points=MappingProxyType(points),
            shapes=tuple(shape for shape in outlines if shape is not None),
            depth=self.depth(item["depth"], f"{place}.depth") if "depth" in item else DEFAULT_DEPTH,
            label=self.text(item, "label", place),
            color=self.text(item, "color", place),
            note=self.text(item, "note", place),
            edges=MappingProxyType(self.edges(item, place)),
            item=self.item(self.mapping(item.get("item", {}), f"{place}.item"), f"{place}.item"),
        )

    def item(self, item: Mapping[str, Any], place: str) -> Item:
        """What a part is in the shop."""
        self.unknown_keys(item, keys_of(ITEM), place)
        number, quantity = item.get("number", ""), item.get("quantity", 1)
        if isinstance(quantity, bool) or not isinstance(quantity, int) or not 1 <= quantity <= 100_000:
            self.fault(f"{place}.quantity", f"a whole number from 1 to 100,000 is wanted, this is {quantity!r:.40}")
            quantity = 1
        plain = isinstance(number, int) and not isinstance(number, bool)
        return Item(
            self.text(item, "name", place), str(number) if plain else self.text(item, "number", place),
            self.text(item, "material", place), self.text(item, "standard", place), quantity,
            self.text(item, "note", place),
            self.above_zero(item["density"], "number", f"{place}.density") if "density" in item else None,
        )

    def pose(self, value: Any, place: str) -> tuple[float, float, float]:
        """A placement [x, y, angle]."""
        entries = self.listing(value, place, 3, 3)
        if not entries:
            return 0.0, 0.0, 0.0
        x, y, angle = (
            self.number(entry, dimension, place, f"{place}.{i}")
            for i, (entry, dimension) in enumerate(zip(entries, ("length", "length", "angle"), strict=True))
        )
        return x, y, angle

    def spot(self, value: Any, place: str) -> s.Point:
        """A place in the part: one of its points by name, or ``[x, y]``."""
        if isinstance(value, str):
            if value in self.points:
                return self.points[value]
            self.fault(place, f"the part has no point '{value}'{suggestion(value, list(self.points))}")
            return NAN, NAN
        return self.pair(value, "length", place)

    # -- shapes ------------------------------------------------------------------------------------------------

    def shape(self, value: Any, place: str) -> s.Shape | None:
        """A shape by its declared fields; None where its kind is not known."""
        item = self.mapping(value, place)
        kind = self.required(item, "kind", place)
        if kind is MISSING:
            return None
        forms = SHAPE_KINDS.get(kind) if isinstance(kind, str) else None
        if forms is None:
            self.fault(f"{place}.kind", f"unknown shape {kind!r}; one of {', '.join(SHAPE_KINDS)} is wanted")
            return None
        form = next((form for form in forms if form.fields[0].name in item), forms[-1])
        keys = dict.fromkeys(field.name for each in forms for field in each.fields)
        self.unknown_keys(item, ("kind", "cut", "depth", *keys), place)
        before = len(self.faults)
        given = self.given(form.fields, item, place)
        made = form(
            cut=self.flag(item, "cut", place),
            depth=self.depth(item["depth"], f"{place}.depth") if "depth" in item else None,
            **given,
        )
        for key, text in made.faults(lambda length: self.described(length, "length")):
            self.fault(f"{place}.{key}" if key else place, text)
        if len(self.faults) == before and not self.broken and (fault := outline_fault(made)):
            self.fault(place, f"{kind}: {fault}")
        return made

    def field(self, field: Field, value: Any, where: str) -> Any:
        """What stands in a field; places in the part too."""
        match field.form:
            case FieldForm.SPOT:
                return self.spot(value, where)
            case FieldForm.SPOTS:
                listed = self.listing(value, where, field.least)
                if field.most is not None and len(listed) > field.most:
                    self.fault(where, f"{field.most} places are wanted, here are {len(listed)}")
                spots = tuple(self.spot(entry, f"{where}.{i}") for i, entry in enumerate(listed))
                return spots or self.nothing(field)
            case FieldForm.SEGMENTS:
                return self.segments(value, where)
        return super().field(field, value, where)

    def segments(self, value: Any, place: str) -> tuple[s.Segment, ...]:
        """Lines and arcs of a path."""
        found = []
        for i, given in enumerate(self.listing(value, place, 1)):
            where = f"{place}.{i}"
            entry = self.mapping(given, where)
            self.unknown_keys(entry, ("to", "center", "ccw"), where)
            end = self.required(entry, "to", where)
            to = self.spot(end, f"{where}.to") if end is not MISSING else (NAN, NAN)
            center = self.spot(entry["center"], f"{where}.center") if "center" in entry else None
            found.append(s.Segment(to, center, self.flag(entry, "ccw", where, True)))
        return tuple(found)

    # -- contact edges -----------------------------------------------------------------------------------------

    def edges(self, item: Mapping[str, Any], place: str) -> dict[str, Edge]:
        """The contact edges of a part."""
        found = {}
        for name, value in self.mapping(item.get("edges", {}), f"{place}.edges").items():
            where = f"{place}.edges.{name}"
            if not ID.match(name):
                self.fault(where, "a name may hold only letters, digits, '_' and '-'")
            if name in self.points:
                self.fault(where, "a point of the part has this name already; choose another")
            entry = self.mapping(value, where)
            if "center" in entry:
                self.unknown_keys(entry, ("center", "radius", "from", "to", "note"), where)
                low = self.number(entry.get("from", 0), "angle", f"{where}.from")
                high = self.number(entry["to"], "angle", f"{where}.to") if "to" in entry else low + 2 * math.pi
                if not 0 < high - low <= 2 * math.pi + 1e-9:
                    self.fault(where, "'to' must exceed 'from', by a full turn at most")
                radius = self.size(self.required(entry, "radius", where), f"{where}.radius")
                center = self.spot(entry["center"], f"{where}.center")
                found[name] = Edge(name, center, center, radius, low, high)
                continue
            self.unknown_keys(entry, ("from", "to", "note"), where)
            ends = [self.end(self.required(entry, key, where), f"{where}.{key}") for key in ("from", "to")]
            if math.dist(*ends) < LEAST_SIZE:
                self.fault(where, "'from' and 'to' are the same point")
            found[name] = Edge(name, ends[0], ends[1])
        return found

    def end(self, value: Any, place: str) -> s.Point:
        """An end of a straight edge."""
        return self.spot(value, place) if value is not MISSING else (NAN, NAN)


