"""Reading parts: points, contact edges, shapes, and what copies take from others."""

import math
from collections.abc import Callable, Mapping
from dataclasses import replace
from types import MappingProxyType
from typing import Any

from ..errors import suggestion
from ..geometry import shapes as s
from ..geometry.sound import outline_fault
from ..kinds import LEAST_SIZE, Field, FieldForm
from .copies import lineage, put_elsewhere, said
from .model import Edge, Group, Item, Part
from .read_context import ID, MISSING, NAN, Cached, Forms, ReadContext, nothing
from .read_hardware import read_hardware
from .read_names import no_part, parts_named
from .sections import ITEM, OWN, SECTIONS, keys_of

DEFAULT_DEPTH = (0.0, 1.0)
SHAPE_KINDS = s.shape_kinds()
Points = Mapping[str, s.Point]


Assembled = Callable[[str, list[str], str], bool]
"""Takes in the parts of a sub-assembly, where the entry places one."""


def read_parts(
    context: ReadContext, known: Mapping[str, Cached[Part]], changed: set[str], assembled: Assembled
) -> None:
    """Reads the parts; those that are `known` and don't use a `changed` parameter are taken from there."""

    def read(key: str, item: Mapping[str, Any], place: str) -> None:
        kept, line = known.get(key), _line(context, key, item, place)
        if assembled(key, line, place):
            return
        trees = tuple(context.part_trees[each] for each in line)
        if kept is not None and kept.stands(trees, changed):
            context.take(kept)
        else:
            kept = _fresh(context, key, line, trees, place)
        context.part_cache[key] = kept
        context.parts[key] = kept.entry

    context.section("parts", read)


# -- copies and groups -------------------------------------------------------------------------------------


def _line(context: ReadContext, key: str, item: Mapping[str, Any], place: str) -> list[str]:
    """The part and what it is a copy of, and so on."""
    if "of" not in item:
        return [key]
    line, fault = lineage(context.part_trees, key)
    if fault and len(line) == 1:  # another's fault is told at its own place
        known = isinstance(item["of"], str) and item["of"] in context.part_trees
        near = "" if known else suggestion(str(item["of"]), list(context.part_trees))
        context.fault(f"{place}.of", f"{fault}{near}")
    return line


def _fresh(context: ReadContext, key: str, line: list[str], trees: tuple[Any, ...], place: str) -> Cached[Part]:
    """Reads a part, or a copy with all that it takes from its line."""
    item = context.mapping(trees[0], place)
    if "of" in item:
        return context.cached(trees, lambda: _copy(context, key, line, item, place))
    return context.cached(trees, lambda: _read_part(context, key, item, place))


def _copy(context: ReadContext, key: str, line: list[str], item: Mapping[str, Any], place: str) -> Part:
    """Reads a copy, by itself. What it takes from others is theirs: their numbers, and what is wrong with them."""
    before = len(context.faults)
    part = _read_part(context, key, said(context.part_trees, line), place)
    lift = sum(_lift(context, each) for each in line)
    places = [f"{context.at}parts.{each}" for each in line]
    turned = [context.flag(context.mapping(context.part_trees[each], at), "mirror", at)
              for each, at in zip(line, places, strict=True)]  # fmt: skip
    level = context.flag(item, "keep_depth", place)
    if len(context.faults) == before:
        part = replace(part, of=line[1] if len(line) > 1 else "")
        part = put_elsewhere(part, lift, sum(turned) % 2 == 1, level=level)
    context.values = {at: value for at, value in context.values.items() if _stands(at, place, item)}
    context.warnings = [warning for warning in context.warnings if _stands(warning.place, place, item)]
    context.faults[before:] = [fault for fault in context.faults[before:] if _stands(fault.place, place, item)]
    return part


def _lift(context: ReadContext, key: str) -> float:
    """How far a copy is lifted against what it is a copy of."""
    place = f"{context.at}parts.{key}"
    item = context.mapping(context.part_trees[key], place)
    return context.optional(item, "lift", "length", place) or 0.0 if "of" in item else 0.0


def _stands(at: str, own: str, item: Mapping[str, Any]) -> bool:
    """Whether a place is one of a copy's own, rather than of what it takes from another."""
    if at == own:
        return True
    return at.startswith(f"{own}.") and at[len(own) + 1:].split(".", maxsplit=1)[0] in item


def read_groups(context: ReadContext) -> dict[str, Group]:
    """The groups."""
    grouped: dict[str, str] = {}
    return context.section("groups", lambda key, item, place: _read_group(context, key, item, place, grouped))


def _read_group(
    context: ReadContext, key: str, item: Mapping[str, Any], place: str, grouped: dict[str, str]
) -> Group:
    """A group; `grouped` knows the group of each part that is in one. A sub-assembly named in it stands for all its
    parts."""
    context.unknown_keys(item, SECTIONS["groups"].keys, place)
    value, where = context.required(item, "parts", place), f"{place}.parts"
    members: dict[str, None] = {}
    named = context.listing(value, where, 1) if value is not MISSING else []
    for entry in named:
        inner = parts_named(context, entry)
        if not inner:
            context.fault(where, no_part(context, entry))
        for part in inner:
            if grouped.setdefault(part, key) != key:
                context.fault(where, f"part '{part}' is in group '{grouped[part]}' already")
            members[part] = None
    if len(set(map(str, named))) < len(named):
        context.fault(where, "names the same part twice")
    return Group(key, tuple(members), context.text(item, "label", place), context.text(item, "note", place))


def grounded(context: ReadContext, groups: Mapping[str, Group]) -> dict[str, Part]:
    """The parts, all of a group fixed where one of them is."""
    found = dict(context.parts)
    for group in groups.values():
        members = [part for part in group.parts if part in found]
        if any(found[part].fixed for part in members):
            found |= {part: replace(found[part], fixed=True) for part in members if not found[part].fixed}
    return found


# -- one part ----------------------------------------------------------------------------------------------


def _read_part(context: ReadContext, key: str, item: Mapping[str, Any], place: str) -> Part:
    """A part by its entry."""
    context.unknown_keys(item, OWN, place)
    points: dict[str, s.Point] = {}
    for name, value in context.mapping(item.get("points", {}), f"{place}.points").items():
        if not ID.match(name):
            context.fault(f"{place}.points.{name}", "a name may hold only letters, digits, '_' and '-'")
        points[name] = context.pair(value, "length", f"{place}.points.{name}")
    listed = context.listing(item.get("shapes", []), f"{place}.shapes")
    outlines = [_read_shape(context, points, value, f"{place}.shapes.{i}") for i, value in enumerate(listed)]
    return Part(
        id=key,
        fixed=context.flag(item, "fixed", place),
        pose=read_pose(context, item.get("pose"), f"{place}.pose") if "pose" in item else (0.0, 0.0, 0.0),
        points=MappingProxyType(points),
        shapes=tuple(shape for shape in outlines if shape is not None),
        depth=context.depth(item["depth"], f"{place}.depth") if "depth" in item else DEFAULT_DEPTH,
        label=context.text(item, "label", place),
        color=context.text(item, "color", place),
        note=context.text(item, "note", place),
        edges=MappingProxyType(_edges(context, points, item, place)),
        item=_read_item(context, context.mapping(item.get("item", {}), f"{place}.item"), f"{place}.item"),
        hardware=read_hardware(context, item, place, item["hardware"]) if "hardware" in item else None,
    )


def _read_item(context: ReadContext, item: Mapping[str, Any], place: str) -> Item:
    """What a part is in the shop."""
    context.unknown_keys(item, keys_of(ITEM), place)
    number, quantity = item.get("number", ""), item.get("quantity", 1)
    if isinstance(quantity, bool) or not isinstance(quantity, int) or not 1 <= quantity <= 100_000:
        context.fault(f"{place}.quantity", f"a whole number from 1 to 100,000 is wanted, this is {quantity!r:.40}")
        quantity = 1
    plain = isinstance(number, int) and not isinstance(number, bool)
    return Item(
        context.text(item, "name", place), str(number) if plain else context.text(item, "number", place),
        context.text(item, "material", place), context.text(item, "standard", place), quantity,
        context.text(item, "note", place),
        context.above_zero(item["density"], "number", f"{place}.density") if "density" in item else None,
    )


def read_pose(context: ReadContext, value: Any, place: str) -> tuple[float, float, float]:
    """A placement [x, y, angle]."""
    entries = context.listing(value, place, 3, 3)
    if not entries:
        return 0.0, 0.0, 0.0
    x, y, angle = (
        context.number(entry, dimension, place, f"{place}.{i}")
        for i, (entry, dimension) in enumerate(zip(entries, ("length", "length", "angle"), strict=True))
    )
    return x, y, angle


def _spot(context: ReadContext, points: Points, value: Any, place: str) -> s.Point:
    """A place in the part: one of its points by name, or ``[x, y]``."""
    if isinstance(value, str):
        if value in points:
            return points[value]
        context.fault(place, f"the part has no point '{value}'{suggestion(value, list(points))}")
        return NAN, NAN
    return context.pair(value, "length", place)


# -- shapes ------------------------------------------------------------------------------------------------


def _read_shape(context: ReadContext, points: Points, value: Any, place: str) -> s.Shape | None:
    """A shape by its declared fields; None where its kind is not known."""
    item = context.mapping(value, place)
    kind = context.required(item, "kind", place)
    if kind is MISSING:
        return None
    forms = SHAPE_KINDS.get(kind) if isinstance(kind, str) else None
    if forms is None:
        context.fault(f"{place}.kind", f"unknown shape {kind!r}; one of {', '.join(SHAPE_KINDS)} is wanted")
        return None
    form = next((form for form in forms if form.fields[0].name in item), forms[-1])
    keys = dict.fromkeys(field.name for each in forms for field in each.fields)
    context.unknown_keys(item, ("kind", "cut", "depth", *keys), place)
    before = len(context.faults)
    given = context.given(form.fields, item, place, _forms(points))
    made = form(
        cut=context.flag(item, "cut", place),
        depth=context.depth(item["depth"], f"{place}.depth") if "depth" in item else None,
        **given,
    )
    for key, text in made.faults(lambda length: context.described(length, "length")):
        context.fault(f"{place}.{key}" if key else place, text)
    if len(context.faults) == before and not context.broken and (fault := outline_fault(made)):
        context.fault(place, f"{kind}: {fault}")
    return made


def _forms(points: Points) -> Forms:
    """What stands in the fields of shapes of a part with these points."""

    def spots(context: ReadContext, field: Field, value: Any, where: str) -> tuple[s.Point, ...]:
        listed = context.listing(value, where, field.least)
        if field.most is not None and len(listed) > field.most:
            context.fault(where, f"{field.most} places are wanted, here are {len(listed)}")
        found = tuple(_spot(context, points, entry, f"{where}.{i}") for i, entry in enumerate(listed))
        return found or nothing(field)

    def cam(context: ReadContext, field: Field, value: Any, where: str) -> str:
        if not isinstance(value, str):
            context.fault(where, "the name of a cam joint is wanted")
        return str(value)

    return {
        FieldForm.SPOT: lambda context, _, value, where: _spot(context, points, value, where),
        FieldForm.SPOTS: spots,
        FieldForm.SEGMENTS: lambda context, _, value, where: _segments(context, points, value, where),
        FieldForm.CAM: cam,  # whether there is such a joint is told where there are joints
    }


def _segments(context: ReadContext, points: Points, value: Any, place: str) -> tuple[s.Segment, ...]:
    """Lines and arcs of a path."""
    found = []
    for i, given in enumerate(context.listing(value, place, 1)):
        where = f"{place}.{i}"
        entry = context.mapping(given, where)
        context.unknown_keys(entry, ("to", "center", "ccw"), where)
        end = context.required(entry, "to", where)
        to = _spot(context, points, end, f"{where}.to") if end is not MISSING else (NAN, NAN)
        center = _spot(context, points, entry["center"], f"{where}.center") if "center" in entry else None
        found.append(s.Segment(to, center, context.flag(entry, "ccw", where, True)))
    return tuple(found)


# -- contact edges -----------------------------------------------------------------------------------------


def _edges(context: ReadContext, points: Points, item: Mapping[str, Any], place: str) -> dict[str, Edge]:
    """The contact edges of a part."""
    found = {}
    for name, value in context.mapping(item.get("edges", {}), f"{place}.edges").items():
        where = f"{place}.edges.{name}"
        if not ID.match(name):
            context.fault(where, "a name may hold only letters, digits, '_' and '-'")
        if name in points:
            context.fault(where, "a point of the part has this name already; choose another")
        entry = context.mapping(value, where)
        if "center" in entry:
            context.unknown_keys(entry, ("center", "radius", "from", "to", "note"), where)
            low = context.number(entry.get("from", 0), "angle", f"{where}.from")
            high = context.number(entry["to"], "angle", f"{where}.to") if "to" in entry else low + 2 * math.pi
            if not 0 < high - low <= 2 * math.pi + 1e-9:
                context.fault(where, "'to' must exceed 'from', by a full turn at most")
            radius = context.size(context.required(entry, "radius", where), f"{where}.radius")
            center = _spot(context, points, entry["center"], f"{where}.center")
            found[name] = Edge(name, center, center, radius, low, high)
            continue
        context.unknown_keys(entry, ("from", "to", "note"), where)
        ends = [_end(context, points, context.required(entry, key, where), f"{where}.{key}") for key in ("from", "to")]
        if math.dist(*ends) < LEAST_SIZE:
            context.fault(where, "'from' and 'to' are the same point")
        found[name] = Edge(name, ends[0], ends[1])
    return found


def _end(context: ReadContext, points: Points, value: Any, place: str) -> s.Point:
    """An end of a straight edge."""
    return _spot(context, points, value, place) if value is not MISSING else (NAN, NAN)


