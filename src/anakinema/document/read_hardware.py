"""Reading pieces of hardware: which table and size, about which axis, on what; then each is fitted where it stands,
after what it lies on and goes to."""

from collections.abc import Mapping
from dataclasses import replace
from graphlib import CycleError, TopologicalSorter
from typing import Any

from ..errors import listed, suggestion
from ..hardware import TABLES, table
from .fitting_hardware import fitted
from .model import Hardware, Part, PointRef
from .read_context import MISSING, ReadContext
from .read_names import NOWHERE, a_part, reference
from .sections import HARDWARE, keys_of

IN_PLACE = ("points", "edges", "shapes", "depth", "fixed", "pose")
"""What a piece takes from its table and from what it moves with."""


def read_hardware(context: ReadContext, item: Mapping[str, Any], place: str, given: Any) -> Hardware | None:
    """What a part says of the table that it is from; what it names is looked for when all parts are read."""
    for key in IN_PLACE:
        if key in item:
            context.fault(f"{place}.{key}", "hardware has this from its table and its place; leave it out")
    where = f"{place}.hardware"
    entry = context.mapping(given, where)
    context.unknown_keys(entry, keys_of(HARDWARE), where)
    standard = context.required(entry, "standard", where)
    size = context.required(entry, "size", where)
    if standard is MISSING or size is MISSING:
        return None
    found = table(standard) if isinstance(standard, str) else None
    if found is None:
        text = f"there is no table '{standard}'{suggestion(str(standard), list(TABLES))}; there are {', '.join(TABLES)}"
        context.fault(f"{where}.standard", text)
        return None
    if not isinstance(size, str) or size not in found.rows:
        near = suggestion(str(size), list(found.rows))
        text = f"{found.standard} has no size '{size}'{near}; it has {listed(list(found.rows))}"
        context.fault(f"{where}.size", text)
        return None
    if "front_of" in entry and "behind" in entry:
        context.fault(where, "has both 'front_of' and 'behind'; it lies on one of them")
    length = context.size(entry["length"], f"{where}.length") if "length" in entry else None
    to = context.text(entry, "to", where)
    if length is None and not to and (found.kind.fills or (found.kind.long and not found.kind.turns)):
        context.fault(where, "say how long it is: 'length', or what it goes 'to'")
        return None
    side = "behind" if "behind" in entry else "front_of"
    return Hardware(
        found.standard, size, NOWHERE, (), context.text(entry, side, where), side == "front_of", to, length,
        context.optional(entry, "off", "length", where) or 0.0,
    )  # fmt: skip


def fit_hardware(context: ReadContext, entries: Mapping[str, Mapping[str, Any]]) -> None:
    """Puts all pieces where they stand. `entries` are their own words, by part."""
    named = {key: named for key, entry in entries.items() if (named := _named(context, key, entry)) is not None}
    for key, part in named.items():
        context.parts[key] = part
    waits = {key: {one for one in (part.hardware.seat, part.hardware.to) if one in named}
             for key, part in named.items() if part.hardware is not None}  # fmt: skip
    try:
        order = list(TopologicalSorter(waits).static_order())
    except CycleError as error:
        circle = error.args[1]
        context.fault(f"{context.at}parts.{circle[0]}.hardware", f"lies on itself: {' ← '.join(circle)}")
        return
    for key in order:
        context.parts[key] = fitted(context.parts[key], context.parts, context.units)


def _named(context: ReadContext, key: str, entry: Mapping[str, Any]) -> Part | None:
    """A piece with what it names; None after a fault."""
    part, where, before = context.parts[key], f"{context.at}parts.{key}.hardware", len(context.faults)
    piece = part.hardware
    if piece is None:
        return None
    at = reference(context, context.required(entry, "at", where), f"{where}.at")
    through = entry.get("through", [])
    refs: list[PointRef] = []
    for number, one in enumerate(context.listing(through, f"{where}.through")):
        refs.append(reference(context, one, f"{where}.through.{number}"))
    for word, name in ((("front_of" if piece.front else "behind"), piece.seat), ("to", piece.to)):
        if name:
            a_part(context, name, f"{where}.{word}")
        if name == key:
            context.fault(f"{where}.{word}", "a piece can't lie on itself; name another part")
    for number, ref in enumerate((at, *refs)):
        place = f"{where}.{'at' if number == 0 else f'through.{number - 1}'}"
        if ref.part in context.parts and context.parts[ref.part].hardware is not None:
            context.fault(place, f"'{ref.part}' is hardware itself; name a point of the part that carries it")
        elif ref.part in context.parts and ref.point not in context.parts[ref.part].points:
            context.fault(place, "names an edge; name a point")
    if len(context.faults) > before:
        return None
    return replace(part, hardware=replace(piece, at=at, through=tuple(refs)))
