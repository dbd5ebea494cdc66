"""The stacks of a document: pieces of hardware about one axis, with the parts that this runs through."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

from ...clearance.pairs import rigid_bodies
from ...document.fitting_hardware import faces, hole_in
from ...document.model import Document, Hardware, Part, PointRef
from ...formatting import shown
from ...kinds import MM_IN

TOUCHING = 1e-6


@dataclass(frozen=True)
class Piece:
    """A piece of hardware with its name."""

    part: Part
    hardware: Hardware

    @property
    def id(self) -> str:
        return self.part.id


class Shop:
    """A document as the shop sees it."""

    def __init__(self, document: Document):
        self.document = document
        self.per = 1.0 / MM_IN[document.units.length]
        """Document lengths in a millimetre."""
        self.pieces = [Piece(part, part.hardware) for part in document.parts.values() if part.hardware is not None]
        self._holes: dict[tuple[PointRef, tuple[float, float]], float | None] = {}
        self.by_name = {piece.id: piece for piece in self.pieces}

    @cached_property
    def bodies(self) -> Mapping[str, str]:
        """The first part of the rigid body of each part."""
        return rigid_bodies(self.document)

    def together(self, piece: Piece) -> list[Piece]:
        """The pieces that lie on the axis of one, itself among them."""
        found = {one.id: one for ref in piece.hardware.axis for one in self._on[ref]}
        return list(found.values())

    @cached_property
    def _on(self) -> Mapping[PointRef, list[Piece]]:
        """The pieces about each point."""
        found: dict[PointRef, list[Piece]] = {}
        for piece in self.pieces:
            for ref in piece.hardware.axis:
                found.setdefault(ref, []).append(piece)
        return found

    def hole(self, ref: PointRef, span: tuple[float, float]) -> float | None:
        """The diameter of the hole about a point of a part, the least within a depth; 0 where it is solid, None where
        the part has nothing there."""
        if (ref, span) not in self._holes:
            self._holes[ref, span] = self._hole(ref, span)
        return self._holes[ref, span]

    def _hole(self, ref: PointRef, span: tuple[float, float]) -> float | None:
        part = self.document.parts[ref.part]
        at = complex(*part.points[ref.point])
        found = [hole_in(slab.region.edges, at) for slab in part.slabs
                 if slab.low < span[1] - TOUCHING and slab.high > span[0] + TOUCHING]  # fmt: skip
        return min((one for one in found if one is not None), default=None)

    def depth_at(self, ref: PointRef, outer: float) -> tuple[float, float] | None:
        """From where to where a part lies about a point, in a ring of a diameter."""
        part = self.document.parts[ref.part]
        return faces(part, complex(*part.points[ref.point]), outer / 2 * 0.9, outer / 2)

    def length(self, value: float) -> str:
        """A length in words."""
        return shown(value, "length", self.document.units, 2)
