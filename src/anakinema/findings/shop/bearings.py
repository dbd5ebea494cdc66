"""Bearings and what lies beside them: bores and shafts, races that rub."""

from collections.abc import Iterator

from ...document.fitting_hardware import faces
from .finding import PRACTICE, ShopFinding
from .stacks import TOUCHING, Piece, Shop

LAND = 0.3
"""Share of the height of a bearing's ring, from its bore, that belongs to the inner race (common practice)."""


def of_bearings(shop: Shop) -> Iterator[ShopFinding]:
    """What is to be said of bearings."""
    for piece in shop.pieces:
        if piece.hardware.kind.turns:
            yield from _fits(shop, piece)
            if piece.hardware.kind.name == "ball bearing":
                yield from _rubs(shop, piece)


def _fits(shop: Shop, piece: Piece) -> Iterator[ShopFinding]:
    """Whether the shaft has the size of the bore, and the hole that of the outside."""
    one = piece.hardware
    inner, outer = (one.row[size] * shop.per for size in ("inner", "outer"))
    for other in shop.together(piece):
        kind = other.hardware.kind
        if not kind.long or kind.turns:
            continue
        shaft = other.hardware.row[kind.shaft] * shop.per
        if abs(shaft - inner) > TOUCHING:
            text = (f"'{other.id}' is {shop.length(shaft)} thick, the bore of '{piece.id}' {shop.length(inner)}: they "
                    "don't fit each other")  # fmt: skip
            yield ShopFinding("bore and shaft", (piece.id, other.id), text, one.table.source)
    hole = shop.hole(one.at, piece.part.depth)
    if hole is not None and abs(hole - outer) > TOUCHING:
        word = "has no hole" if hole == 0 else f"has a hole of {shop.length(hole)}"
        text = f"'{one.at.part}' {word} for '{piece.id}', which is {shop.length(outer)} across"
        yield ShopFinding("seat of a bearing", (one.at.part, piece.id), text, one.table.source)


def _rubs(shop: Shop, piece: Piece) -> Iterator[ShopFinding]:
    """Parts beside a bearing that touch both its races, or the one that turns against them."""
    one = piece.hardware
    inner, outer = (one.row[size] * shop.per for size in ("inner", "outer"))
    land = inner + LAND * (outer - inner)
    low, high = piece.part.depth
    home = shop.bodies[one.at.part]
    for ref in one.axis[1:]:
        found = faces(shop.document.parts[ref.part], complex(*shop.document.parts[ref.part].points[ref.point]),
                      land / 2, outer / 2)  # fmt: skip
        if found is not None and shop.bodies[ref.part] != home and _touches(found, low, high):
            yield _rubbing(shop, piece, ref.part)
    for other in shop.together(piece):
        if other.id == piece.id or shop.bodies[other.id] == home or not _touches(other.part.depth, low, high):
            continue
        if max((solid.outer for solid in other.hardware.solids), default=0.0) > land + TOUCHING:
            yield _rubbing(shop, piece, other.id)


def _touches(span: tuple[float, float], low: float, high: float) -> bool:
    return abs(span[0] - high) <= TOUCHING or abs(span[1] - low) <= TOUCHING


def _rubbing(shop: Shop, piece: Piece, other: str) -> ShopFinding:
    text = (f"'{other}' lies on the outer race of '{piece.id}', which turns against it: put a washer between that "
            "touches the inner race only")  # fmt: skip
    return ShopFinding("race on a face", (piece.id, other), text, PRACTICE)
