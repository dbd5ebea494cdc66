"""Where pieces lie: holes in line, heads and nuts clear of what moves."""

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING

import numpy as np

from ...document.fitting_hardware import AROUND, faces
from ...document.model import Part
from ...geometry.edges import windings
from ...kinematics.motion import Motion
from .finding import PRACTICE, ShopFinding
from .stacks import TOUCHING, Piece, Shop

if TYPE_CHECKING:
    from ...clearance.approach import Approach

OFF = 1e-4
"""How far off one axis holes may be (document lengths)."""
LOOKS = 9


def of_lying(shop: Shop, motion: Motion) -> Iterator[ShopFinding]:
    """Pieces whose holes don't line up, and heads and nuts that lie in a part of their own stack."""
    t = np.linspace(0.0, motion.path.t1, LOOKS if motion.path.t1 > 0 else 1)
    q = motion.positions(t) if shop.pieces else np.zeros((0, 0, 3))
    for piece in shop.pieces:
        places = []
        for ref in piece.hardware.axis:
            at = q[:, motion.system.body(ref.part)]
            own = complex(*shop.document.parts[ref.part].points[ref.point])
            places.append(at[:, 0] + 1j * at[:, 1] + own * np.exp(1j * at[:, 2]))
        for ref, place in zip(piece.hardware.through, places[1:], strict=True):
            off = np.abs(place - places[0])
            if off.max() > OFF:
                text = (f"The holes for '{piece.id}' don't line up: {ref} is {shop.length(float(off.max()))} off "
                        f"{piece.hardware.at}; join them there")  # fmt: skip
                when = float(t[int(np.argmax(off))])
                yield ShopFinding("holes not in line", (piece.id, ref.part), text, PRACTICE, t=when)
        yield from _sunk(shop, piece)


def _sunk(shop: Shop, piece: Piece) -> Iterator[ShopFinding]:
    """Heads, nuts and rings that lie in the material of a part on their own axis."""
    one = piece.hardware
    for solid in one.solids:
        if one.kind.turns or solid.high <= TOUCHING or not solid.outer:
            continue
        span = sorted((one.face + one.way * solid.low, one.face + one.way * solid.high))
        for ref in one.axis:
            part = shop.document.parts[ref.part]
            found = [slab for slab in part.slabs if slab.low < span[1] - TOUCHING and slab.high > span[0] + TOUCHING]
            at = complex(*part.points[ref.point])
            if not found or faces(part, at, max(solid.inner, solid.outer * 0.7) / 2, solid.outer / 2) is None:
                continue
            deep = _material(part, at, solid.outer, (span[0], span[1]))
            if deep > TOUCHING:
                text = f"'{piece.id}' is sunk {shop.length(deep)} into '{ref.part}'; put it on a face of that"
                yield ShopFinding("sunk in", (piece.id, ref.part), text, PRACTICE)


def _material(part: Part, at: complex, outer: float, span: tuple[float, float]) -> float:
    """How deep a part has material in a ring of a diameter, within a depth."""
    spots = at + outer / 2 * 0.97 * AROUND
    return sum(max(0.0, min(slab.high, span[1]) - max(slab.low, span[0])) for slab in part.slabs
               if np.any(windings(slab.region.edges, spots) != 0))  # fmt: skip


def of_ways(shop: Shop, approaches: "Sequence[Approach]") -> Iterator[ShopFinding]:
    """Heads, nuts and ends of screws that are in the way of a part."""
    for approach in approaches:
        if approach.distance is None or approach.distance >= -TOUCHING:
            continue
        for name, other in (approach.parts, approach.parts[::-1]):
            piece = shop.by_name.get(name)
            if piece is None:
                continue
            text = f"'{name}' is in the way of '{other}': they overlap by {shop.length(-approach.distance)}"
            yield ShopFinding("in the way", (name, other), text + _why(shop, piece, other), PRACTICE, t=approach.t)
            break


def _why(shop: Shop, piece: Piece, other: str) -> str:
    """What of a long piece reaches there."""
    one = piece.hardware
    depths = [(slab.low, slab.high) for slab in shop.document.parts[other].slabs]
    low, high = piece.part.depth
    shank = (low, one.face) if one.front else (one.face, high)
    if one.kind.long and not one.kind.turns and any(a < shank[1] - TOUCHING and b > shank[0] + TOUCHING
                                                    for a, b in depths):  # fmt: skip
        over = max(min(b, shank[1]) - max(a, shank[0]) for a, b in depths)
        return f"; its end reaches {shop.length(over)} into that depth: take it shorter, or from the other side"
    return "; put it on the other side, or sink it"
