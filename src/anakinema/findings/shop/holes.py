"""Holes for hardware: their clearance, and what is left about them."""

from collections.abc import Iterator

import numpy as np

from ...document.changes import Change, Set
from ...document.model import PointRef
from ...document.written import tidy
from ...hardware import Clearance, clearance_hole
from .finding import ShopFinding
from .stacks import TOUCHING, Piece, Shop

HOLES = "ISO 273 (inch: ASME B18.2.8), from memory"
EDGES = "EN 1993-1-8, table 3.3, from memory"
EDGE, WEB = 1.2, 2.2
"""Diameters of a hole from its centre to an edge, and to the centre of the next hole."""


def of_holes(shop: Shop) -> Iterator[ShopFinding]:
    """What is to be said of the holes through which hardware goes."""
    seen: set[tuple[str, PointRef]] = set()
    for piece in shop.pieces:
        one = piece.hardware
        if not one.kind.long or one.kind.turns:
            continue
        for ref in one.axis:
            if (piece.id, ref) in seen or not _crosses(shop, piece, ref):
                continue
            seen.add((piece.id, ref))
            yield from _through(shop, piece, ref)


def _crosses(shop: Shop, piece: Piece, ref: PointRef) -> bool:
    """Whether the shank of a piece lies in the depth of a part."""
    low, high = piece.part.depth
    one = piece.hardware
    shank = (low, one.face) if one.front else (one.face, high)
    return any(slab.low < shank[1] - TOUCHING and slab.high > shank[0] + TOUCHING
               for slab in shop.document.parts[ref.part].slabs)  # fmt: skip


def _through(shop: Shop, piece: Piece, ref: PointRef) -> Iterator[ShopFinding]:
    one = piece.hardware
    low, high = piece.part.depth
    span = (low, one.face) if one.front else (one.face, high)
    hole = shop.hole(ref, span)
    lined = any(each.hardware.kind.turns and each.hardware.at.part == ref.part for each in shop.together(piece))
    if hole is None or lined:
        return
    shank = one.row[one.kind.shaft] * shop.per
    usual = clearance_hole(one.size) if one.kind.shaft == "thread" else None
    tapped = one.kind.threaded and ref.part == one.to
    if hole < shank - TOUCHING:
        if tapped or (hole > 0 and not one.kind.threaded):
            return
        size = usual.medium * shop.per if usual is not None else shank
        word = "has no hole" if hole == 0 else f"has a hole of {shop.length(hole)}"
        text = f"'{ref.part}' {word} for '{piece.id}' ({one.size}) at {ref.point}: {shop.length(size)} is usual"
        mend = _drilled(shop, ref, size)
        yield ShopFinding("no hole", (ref.part, piece.id), text, HOLES, _spot(shop, ref), mend=mend)
        return
    if usual is not None:
        yield from _clearance(shop, piece, ref, hole, usual)
    yield from _about(shop, ref, hole)


def _clearance(shop: Shop, piece: Piece, ref: PointRef, hole: float, usual: Clearance) -> Iterator[ShopFinding]:
    fine, medium, coarse = (each * shop.per for each in (usual.fine, usual.medium, usual.coarse))
    if fine - TOUCHING <= hole <= coarse + TOUCHING:
        return
    word = "tighter than fine" if hole < fine else "wider than coarse"
    text = (f"The hole of '{ref.part}' at {ref.point} for '{piece.id}' is {shop.length(hole)}, {word}: "
            f"{shop.length(fine)}, {shop.length(medium)} and {shop.length(coarse)} are fine to coarse")  # fmt: skip
    yield ShopFinding("clearance hole", (ref.part, piece.id), text, HOLES, _spot(shop, ref))


def _about(shop: Shop, ref: PointRef, hole: float) -> Iterator[ShopFinding]:
    """What is left between a hole and the nearest edge, or the next hole."""
    part, at = shop.document.parts[ref.part], _spot(shop, ref)
    nearest, other = np.inf, np.inf
    for slab in part.slabs:
        edges = slab.region.edges
        away = np.abs(edges.point(np.clip(edges.share_of(np.full(edges.count, at)), 0.0, 1.0)) - at)
        own = away <= hole / 2 * (1 + 1e-6) + TOUCHING
        rings = edges.is_arc & (np.abs(edges.sweep) > 6.2) & (edges.sweep < 0) & ~own
        if rings.any():
            other = min(other, float((np.abs(edges.center - at) - edges.radius)[rings].min()))
        rest = ~own & ~rings
        if rest.any():
            nearest = min(nearest, float(away[rest].min()))
    if nearest < EDGE * hole - TOUCHING:
        text = (f"'{ref.part}' has {shop.length(nearest)} from the middle of the hole at {ref.point} to its edge, "
                f"{shop.length(EDGE * hole)} is wanted ({EDGE:g} diameters)")  # fmt: skip
        yield ShopFinding("edge distance", (ref.part,), text, EDGES, at)
    web = (WEB - 1.0) * hole
    if other - hole / 2 < web - TOUCHING:
        text = (f"'{ref.part}' has a web of {shop.length(other - hole / 2)} between the hole at {ref.point} and the "
                f"next, {shop.length(web)} is wanted")  # fmt: skip
        yield ShopFinding("web between holes", (ref.part,), text, EDGES, at)


def _spot(shop: Shop, ref: PointRef) -> complex:
    return complex(*shop.document.parts[ref.part].points[ref.point])


def _drilled(shop: Shop, ref: PointRef, size: float) -> tuple[Change, ...]:
    """A hole of a size at a point; none of a copy, whose shapes are another's."""
    document = shop.document
    entry, home = document.entry("parts", ref.part), document.home("parts", ref.part)
    if document.parts[ref.part].of or "shapes" not in entry:
        return ()
    hole = {"kind": "disc", "center": ref.point, "diameter": tidy(size), "cut": True}
    return (Set((*home, "shapes"), [*entry["shapes"], hole]),)
