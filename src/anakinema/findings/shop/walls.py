"""Walls and thicknesses of parts."""

from collections.abc import Iterator
from functools import lru_cache

from ...geometry.shapes import BeltWheel, GearTeeth, RackTeeth
from ...geometry.walls import Wall, thinnest
from .finding import PRACTICE, ShopFinding
from .stacks import Shop

LEAST, SHARE = 1.0, 0.5
"""A wall is thin below a millimetre, or half the thickness of its part where that is more."""
MOST_EDGES = 4000
"""Edges of an outline up to which it is looked for walls."""
TOOTHED = (GearTeeth, RackTeeth, BeltWheel)
known_walls = lru_cache(maxsize=2048)(thinnest)


def of_walls(shop: Shop) -> Iterator[ShopFinding]:
    """Thin walls, and parts that were never given a thickness."""
    seen: set[tuple[int, float]] = set()
    for name, part in shop.document.parts.items():
        if part.hardware is not None or not part.shapes:
            continue
        if "/" not in name and not part.of and _unsaid(shop, name):
            low, high = part.depth
            text = f"'{name}' has no thickness of its own: {shop.length(high - low)} is taken; say its depth"
            yield ShopFinding("no thickness", (name,), text, PRACTICE)
        found: Wall | None = None
        for slab in part.slabs:
            limit = max(LEAST * shop.per, SHARE * (slab.high - slab.low))
            if slab.region.edges.count <= MOST_EDGES:
                toothed = frozenset(k for k, shape in enumerate(slab.region.shapes) if isinstance(shape, TOOTHED))
                wall = known_walls(slab.region, limit, toothed)
                found = wall if wall is not None and (found is None or wall.thickness < found.thickness) else found
        key = id(part.shapes), found.thickness if found is not None else 0.0
        if found is None or key in seen:  # of equal copies one is enough
            continue
        seen.add(key)
        text = f"'{name}' has a wall of {shop.length(found.thickness)}; thin walls bend and break, and are hard to cut"
        yield ShopFinding("thin wall", (name,), text, PRACTICE, (found.one + found.two) / 2)


def _unsaid(shop: Shop, name: str) -> bool:
    """Whether neither a part nor one of its shapes says a depth."""
    entry = shop.document.entry("parts", name)
    solid = [shape for shape in entry.get("shapes", []) if not shape.get("cut")]
    return "depth" not in entry and not any("depth" in shape for shape in solid)


