"""Reading repeats: parts that are copies of one, in a row, around a center, or each hanging on the last."""

import math
from collections.abc import Mapping
from typing import Any

from ..errors import suggestion
from .assemblies import Content
from .model import Use
from .read_context import MAX_ITEMS, MISSING, ReadContext
from .read_names import parts_named
from .repeats import Repeat, repeated
from .sections import REPEAT, keys_of

MOST_REPEATED = 2001
"""Copies that a repeat makes."""


def read_repeat(context: ReadContext, key: str, item: Mapping[str, Any], place: str) -> Content | None:
    """The parts that a repeat makes, and the pins between them; None after a fault."""
    context.unknown_keys(item, keys_of(REPEAT), place)
    base = context.parts.get(item["repeat"]) if isinstance(item["repeat"], str) else None
    given = context.required(item, "count", place)
    if given is MISSING:
        return None
    count = context.number(given, "number", f"{place}.count")
    if math.isnan(count):
        return None
    if abs(count - round(count)) > 1e-9 or not 1 <= count <= MOST_REPEATED:
        text = f"a whole number from 1 to {MOST_REPEATED} is wanted, it is {count:.6g}"
        context.fault(f"{place}.count", text)
        return None
    ways = [word for word in ("pitch", "center", "strand") if word in item]
    if len(ways) != 1:
        context.fault(place, "give one of 'pitch' (a row), 'center' (around it), 'strand' (links, each on the last)")
        return None
    if "over" in item and ways != ["center"]:
        context.fault(f"{place}.over", "is for a repeat around a center")
    pitch = context.pair(item["pitch"], "length", f"{place}.pitch") if "pitch" in item else (0.0, 0.0)
    center = context.pair(item["center"], "length", f"{place}.center") if "center" in item else None
    over = context.optional(item, "over", "angle", place)
    strand = context.flag(item, "strand", place)
    if base is None:
        others = [each for each in context.parts if "/" not in each]
        inside = parts_named(context, item["repeat"])
        near = "is a sub-assembly; only parts are repeated" if inside else "is no part" + suggestion(
            str(item["repeat"]), others)
        context.fault(f"{place}.repeat", f"'{item['repeat']}' {near}")
        return None
    if strand and len(base.points) < 2:
        context.fault(f"{place}.strand", f"'{base.id}' needs two points: one to hang by and one to carry the next")
        return None
    if len(context.parts) + count > MAX_ITEMS:
        context.fault(place, f"with these there would be more than {MAX_ITEMS} parts")
        return None
    how = Repeat(base.id, round(count), complex(*pitch), None if center is None else complex(*center),
                 2 * math.pi if over is None else over, strand)  # fmt: skip
    use = Use(key, "", label=context.text(item, "label", place), note=context.text(item, "note", place), of=base.id,
              count=how.count)  # fmt: skip
    return repeated(base, use, how)
