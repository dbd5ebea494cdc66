"""Hardware where it stands: on which face, how long, of which solids; what no longer fits is said, never hidden.

Lengths are chosen from those in which a piece is made: a screw goes so far through its nut that at least a thread
stands proud, a pin through all that it holds, a shoulder past what turns on it, a thread into a part no further than
that is thick (common practice, no source).
"""

import math
from collections.abc import Mapping
from dataclasses import replace
from types import MappingProxyType

import numpy as np

from ..geometry.edges import Edges, windings
from ..geometry.shapes import Disc, Polygon, Shape
from ..hardware import Row, Solid
from ..kinds import MM_IN, Units
from .copies import extent
from .model import Hardware, Part, PointRef

AROUND = np.exp(2j * np.pi * (np.arange(48) + 0.31) / 48)
"""Directions in which it is looked for material about an axis."""
TOUCHING = 1e-6
"""Lengths up to which faces count as touching."""


def faces(part: Part, at: complex, inner: float, outer: float) -> tuple[float, float] | None:
    """From where to where a part has material in a ring about a place (its own axes, document lengths); None where it
    has none."""
    radii = inner + (outer - inner) * np.array([0.02, 0.35, 0.65, 0.98])
    spots = (at + radii[:, None] * AROUND).ravel()
    depths = [(slab.low, slab.high) for slab in part.slabs if np.any(windings(slab.region.edges, spots) != 0)]
    return (min(low for low, _ in depths), max(high for _, high in depths)) if depths else None


def nearest_edge(edges: Edges, at: complex) -> float:
    """How far a place is from the nearest of some edges."""
    share = np.clip(edges.share_of(np.full(edges.count, at)), 0.0, 1.0)
    return float(np.abs(edges.point(share) - at).min())


def hole_in(edges: Edges, at: complex) -> float | None:
    """The diameter of the hole that edges make about a place, 0 where it is solid; None where there is no material
    about it."""
    if windings(edges, np.array([at]))[0] != 0:
        return 0.0
    nearest = nearest_edge(edges, at)
    around = at + (nearest + 10 * TOUCHING) * AROUND
    return 2 * nearest if np.any(windings(edges, around) != 0) else None


def fitted(part: Part, parts: Mapping[str, Part], units: Units) -> Part:
    """A piece of hardware as a part, in the axes of what it moves with. What it names must be there."""
    piece = part.hardware
    assert piece is not None
    host = parts[piece.at.part]
    per = 1.0 / MM_IN[units.length]
    at = complex(*host.points[piece.at.point])
    shaft = piece.row[piece.kind.shaft] * per if piece.kind.shaft else 0.0
    wide = max((one.outer for one in piece.kind.solids(piece.row.sizes, 10.0)), default=0.0) * per
    face = _face(piece, parts, shaft, wide) + piece.way * piece.off
    length, unfit = _length(piece, parts, face, per, shaft, wide)
    made = piece.kind.solids(piece.row.sizes, length / per) if length > 0 else []
    solids = tuple(one.scaled(per) for one in made)
    shapes, depth = _shapes(solids, at, face, piece.way)
    own = part.item
    name = own.name or _title(piece, length / per)
    item = replace(own, name=name, standard=own.standard or piece.standard, material=own.material or "steel")
    return replace(
        part, fixed=host.fixed, pose=host.pose, points=MappingProxyType({"axis": (at.real, at.imag)}), shapes=shapes,
        depth=depth, item=item,
        hardware=replace(piece, face=face, solids=solids, length=length, unfit=unfit),
    )  # fmt: skip


def _face(piece: Hardware, parts: Mapping[str, Part], shaft: float, wide: float) -> float:
    """The plane of what it lies on."""
    if not piece.seat:
        return extent([parts[piece.at.part]])[1]
    low, high = _about(piece, piece.seat, parts, shaft, wide)
    return high if piece.front else low


def _about(piece: Hardware, name: str, parts: Mapping[str, Part], inner: float, outer: float) -> tuple[float, float]:
    """From where to where a part lies about the axis: all of it, where that can't be told."""
    part = parts[name]
    ref = next((one for one in piece.axis if one.part == name), None)
    if part.hardware is not None or ref is None:
        return extent([part])
    return faces(part, complex(*part.points[ref.point]), inner / 2, max(outer, inner * 1.05) / 2) or extent([part])


def _length(
    piece: Hardware, parts: Mapping[str, Part], face: float, per: float, shaft: float, wide: float
) -> tuple[float, str]:
    """Its length (document lengths), and what does not fit."""
    kind, row = piece.kind, piece.row
    if piece.given is not None:
        return piece.given, ""
    if not (kind.long or kind.fills):
        return row.sizes.get("high", 0.0) * per, ""
    if kind.turns:
        low, high = _about(piece, piece.seat or piece.at.part, parts, shaft, wide * 1.5)
        return _chosen(row, per, high - low, down=True)
    low, high = _about(piece, piece.to, parts, shaft, wide)
    near, far = (face - high, face - low) if piece.front else (low - face, high - face)
    if kind.fills:
        room = -far  # a tube stands outward of its seat, what it goes to beyond
        return (room, "") if room > TOUCHING else (0.0, f"there is no room between its seat and '{piece.to}'")
    goal = parts[piece.to].hardware
    if far <= TOUCHING:
        return row.lengths[0] * per, f"'{piece.to}' does not lie behind its seat"
    if kind.threaded and "shoulder" in row.sizes:
        return _chosen(row, per, near)
    if goal is not None and goal.kind.on_screw:
        return _chosen(row, per, far + row["pitch"] * per)
    if kind.threaded and goal is None:
        return _chosen(row, per, far, down=True)
    return _chosen(row, per, far)


def _chosen(row: Row, per: float, wanted: float, down: bool = False) -> tuple[float, str]:
    """The least length in which it is made that is so long at least, or the greatest that is at most."""
    lengths = [length * per for length in row.lengths]
    fits = [length for length in lengths if (length <= wanted + TOUCHING if down else length >= wanted - TOUCHING)]
    if fits:
        return (max(fits) if down else min(fits)), ""
    nearest = lengths[0] if down else lengths[-1]
    word = "at most" if down else "at least"
    return nearest, f"{row.size} is not made in {word} {wanted / per:.4g} mm; the nearest is {nearest / per:.4g} mm"


def _shapes(
    solids: tuple[Solid, ...], at: complex, face: float, way: float
) -> tuple[tuple[Shape, ...], tuple[float, float]]:
    """The outlines of solids about a place, each in its depth, and the depth of all."""
    shapes: list[Shape] = []
    center = (at.real, at.imag)
    for one in solids:
        low, high = sorted((face + way * one.low, face + way * one.high))
        if one.hexagon:
            corners = at + one.outer / math.sqrt(3) * np.exp(1j * np.pi * np.arange(6) / 3)
            shapes.append(Polygon(vertices=tuple((z.real, z.imag) for z in corners.tolist()), depth=(low, high)))
        else:
            shapes.append(Disc(center=center, diameter=one.outer, depth=(low, high)))
        if one.inner:
            shapes.append(Disc(center=center, diameter=one.inner, depth=(low, high), cut=True))
    depths = [shape.depth for shape in shapes if shape.depth is not None] or [(face, face + 1.0)]
    return tuple(shapes), (min(low for low, _ in depths), max(high for _, high in depths))


def _title(piece: Hardware, length: float) -> str:
    """What it is called in the parts list."""
    long = f" × {length:.4g}" if piece.kind.long or piece.kind.fills else ""
    return f"{piece.table.title} {piece.size}{long}"


def renamed(piece: Hardware, named: Mapping[str, str]) -> Hardware:
    """A piece whose parts have other names."""
    def ref(one: PointRef) -> PointRef:
        return PointRef(named.get(one.part, one.part), one.point)

    return replace(piece, at=ref(piece.at), through=tuple(map(ref, piece.through)),
                   seat=named.get(piece.seat, piece.seat), to=named.get(piece.to, piece.to))  # fmt: skip


