"""DXF, by ezdxf: lines, arcs and circles stay what they are, other curves become straight pieces that are counted."""

import io
import math
from collections.abc import Iterator
from itertools import pairwise
from typing import Any

from ezdxf import path as paths
from ezdxf import recover, units
from ezdxf.filemanagement import new
from ezdxf.lldxf.const import DXFError

from ...errors import located
from ...geometry.drawn import Drawing, DrawnPiece, Outline

UNITS = {units.MM: "mm", units.CM: "cm", units.M: "m", units.IN: "in"}
CODES = {"mm": units.MM, "cm": units.CM, "m": units.M, "in": units.IN}
FLAT = 1e-3
"""How far straight pieces may lie from a curve that is no arc, as a share of its extent."""
MOST = 200_000
"""Pieces that are read."""
SKIPPED = ("TEXT", "MTEXT", "DIMENSION", "HATCH", "POINT", "LEADER", "VIEWPORT", "IMAGE", "ATTRIB", "ATTDEF")


def read_dxf(data: bytes) -> Drawing:
    """The curves of a DXF file; what is damaged is mended as far as ezdxf can. Raises `DocumentError` for the rest."""
    if not data.strip():
        raise located("", "is no DXF file that can be read: it is empty")
    try:
        document, audit = recover.read(io.BytesIO(data))
    except (DXFError, OSError, ValueError, KeyError, IndexError, TypeError, AttributeError) as error:
        raise located("", f"is no DXF file that can be read: {str(error) or type(error).__name__}") from error
    faults = len(audit.errors) + len(audit.fixes)
    report = [f"{faults} faults of the file mended"] if faults else []
    layers: dict[str, list[DrawnPiece]] = {}
    skipped: dict[str, int] = {}
    flattened = count = 0
    for entity in _entities(document.modelspace()):
        kind = entity.dxftype()
        try:
            found = [piece for piece in _pieces(entity) if piece.sound]
        except (DXFError, ValueError, TypeError, ZeroDivisionError, AttributeError):
            skipped[kind] = skipped.get(kind, 0) + 1
            continue
        if not found:
            skipped[kind] = skipped.get(kind, 0) + 1
            continue
        flattened += kind in ("SPLINE", "ELLIPSE")
        count += len(found)
        if count > MOST:
            raise located("", f"holds more than {MOST} lines and arcs; no outline needs that")
        layers.setdefault(str(entity.dxf.get("layer", "0")), []).extend(found)
    if flattened:
        report.append(f"{flattened} curves that are no arcs were made of straight pieces")
    if skipped:
        report.append(f"left out: {', '.join(f'{number} {kind.lower()}' for kind, number in sorted(skipped.items()))}")
    return Drawing(layers, UNITS.get(document.units, ""), report)


def _entities(space: Any, depth: int = 0) -> Iterator[Any]:
    """All entities, those of inserted blocks in their places."""
    for entity in space:
        if entity.dxftype() == "INSERT" and depth < 8:
            yield from _entities(entity.virtual_entities(), depth + 1)
        else:
            yield entity


def _pieces(entity: Any) -> Iterator[DrawnPiece]:
    kind = entity.dxftype()
    if kind in SKIPPED:
        return
    if kind == "LINE":
        yield DrawnPiece(_flat(entity.dxf.start), _flat(entity.dxf.end))
    elif kind in ("ARC", "CIRCLE"):
        center, radius = _flat(entity.ocs().to_wcs(entity.dxf.center)), float(entity.dxf.radius)
        if radius <= 0:
            return
        if kind == "CIRCLE":
            yield DrawnPiece(center + radius, center + radius, center)
        else:
            turned = entity.dxf.extrusion.z < 0
            start, end = _flat(entity.start_point), _flat(entity.end_point)
            yield DrawnPiece(start, end, center, not turned)
    elif kind in ("LWPOLYLINE", "POLYLINE"):
        yield from _polyline(entity)
    else:
        path = paths.make_path(entity)
        size = max(path.control_vertices()[0].distance(v) for v in path.control_vertices()) or 1.0
        spots = [_flat(v) for v in path.flattening(size * FLAT)]
        for one, two in pairwise(spots):
            if one != two:
                yield DrawnPiece(one, two)


def _polyline(entity: Any) -> Iterator[DrawnPiece]:
    for piece in entity.virtual_entities():
        yield from _pieces(piece)


def _flat(at: Any) -> complex:
    return complex(at.x, at.y)


def dxf_text(outlines: list[Outline], unit: str) -> str:
    """Closed outlines as polylines with arcs, circles as circles, a layer for each part."""
    document = new("R2010", setup=False)
    document.units = CODES[unit]
    space = document.modelspace()
    for outline in (each for outer in outlines for each in (outer, *outer.cuts)):
        attributes = {"layer": outline.layer}
        if outline.layer not in document.layers:
            document.layers.add(outline.layer)
        if (round_ := outline.circle) is not None:
            space.add_circle((round_[0].real, round_[0].imag), round_[1], dxfattribs=attributes)
            continue
        points = [(piece.start.real, piece.start.imag, _bulge(piece)) for piece in outline.pieces]
        space.add_lwpolyline(points, format="xyb", close=True, dxfattribs=attributes)
    stream = io.StringIO()
    document.write(stream)
    return stream.getvalue()


def _bulge(piece: DrawnPiece) -> float:
    return math.tan(piece.sweep / 4)
