"""DXF, by ezdxf: lines, arcs and circles stay what they are, other curves become straight pieces that are counted. What
is hidden is left out, and told like all else that does not come."""

import io
import math
from collections.abc import Iterator
from itertools import pairwise
from typing import Any

from ezdxf import path as paths
from ezdxf import recover, units
from ezdxf.document import Drawing as File
from ezdxf.filemanagement import new, read
from ezdxf.lldxf.const import DXFError
from ezdxf.lldxf.tagger import binary_tags_loader

from ...errors import located
from ...geometry.drawn import Drawing, DrawnPiece, Outline
from .tally import DEEPEST, Tally

UNITS = {units.MM: ("mm", 1.0), units.CM: ("cm", 1.0), units.M: ("m", 1.0), units.IN: ("in", 1.0),
         units.FT: ("in", 12.0), units.YD: ("in", 36.0),
         units.KM: ("m", 1000.0)}  # fmt: skip
"""The unit in which a drawing of some unit is read, and how many of them one is."""
CODES = {"mm": units.MM, "cm": units.CM, "m": units.M, "in": units.IN}
FLAT = 1e-3
"""How far straight pieces may lie from a curve that is no arc, as a share of its extent."""
SKIPPED = ("TEXT", "MTEXT", "DIMENSION", "HATCH", "POINT", "LEADER", "VIEWPORT", "IMAGE", "ATTRIB", "ATTDEF")
BINARY = slice(18, 22), b"\r\n\x1a\x00"
"""How the head of a binary file ends."""
UNREADABLE = (DXFError, OSError, ValueError, KeyError, IndexError, TypeError, AttributeError, ArithmeticError,
              RecursionError, AssertionError)  # fmt: skip
"""What the library raises for damage that it can't mend."""
TOLD = 3
"""Mended faults that are told by name."""


def read_dxf(data: bytes) -> Drawing:
    """The curves of a DXF file; what is damaged is mended as far as ezdxf can. Raises `DocumentError` for the rest."""
    if not data.strip():
        raise located("", "is no DXF file that can be read: it is empty")
    try:
        document, faults = _loaded(data)
    except UNREADABLE as error:
        raise located("", f"is no DXF file that can be read: {str(error) or type(error).__name__}") from error
    tally = Tally()
    if faults:
        named = "; ".join(dict.fromkeys(faults[:TOLD]))
        tally.mended.append(f"{len(faults)} faults of the file mended: {named}"
                            + (" …" if len(faults) > TOLD else ""))  # fmt: skip
    unit, scale = UNITS.get(document.units, ("", 1.0))
    layers: dict[str, list[DrawnPiece]] = {}
    hidden = {layer.dxf.name.lower() for layer in document.layers if layer.is_off() or layer.is_frozen()}
    for entity in _entities(document.modelspace(), tally, hidden, 0):
        kind = entity.dxftype()
        try:
            found = [piece for piece in _pieces(entity) if piece.sound]
        except UNREADABLE:
            tally.leave(f"faulty {kind.lower()}")
            continue
        if not found:
            tally.leave(kind.lower())
            continue
        tally.took(len(found), kind in ("SPLINE", "ELLIPSE"))
        layer = layers.setdefault(str(entity.dxf.get("layer", "0")), [])
        layer += found if scale == 1.0 else [piece.scaled(scale) for piece in found]
    if not layers:
        beside = sum(len(layout) for layout in document.layouts if layout.name != "Model")
        if beside:
            tally.leave("things on layouts beside the model", beside)
    return Drawing(layers, unit, tally.report, tally.complete)


def _loaded(data: bytes) -> tuple[File, list[str]]:
    """The file, and the faults of it that were mended. Damaged files take a reader that guesses, and twice as long."""
    told: list[str] = []
    if data[BINARY[0]] == BINARY[1]:
        document = File.load(binary_tags_loader(data))
        audit = document.audit()
    else:
        if not data.rstrip().endswith(b"EOF"):
            told.append("its end is missing")
        try:
            try:
                text = data.decode("utf-8")
            except UnicodeDecodeError:  # an older file
                text = data.decode("cp1252", "replace")
            document = read(io.StringIO(text))
            audit = document.audit()
        except UNREADABLE as error:
            told.append(f"it is damaged ({str(error) or type(error).__name__})")
            document, audit = recover.read(io.BytesIO(data))
    return document, [*told, *(str(fault.message).rstrip(".") for fault in (*audit.errors, *audit.fixes))]


def _entities(space: Any, tally: Tally, hidden: set[str], depth: int) -> Iterator[Any]:
    """All entities that are shown, those of inserted blocks in their places."""
    for entity in space:
        tally.see()
        kind, layer = entity.dxftype(), str(entity.dxf.get("layer", "0"))
        if layer.lower() in hidden or entity.dxf.get("invisible", 0):
            why = f"of layer '{layer}', which is off" if layer.lower() in hidden else "hidden"
            tally.leave(f"{kind.lower()} {why}")
        elif kind != "INSERT":
            yield entity
        elif depth >= DEEPEST:
            tally.leave("blocks nested too deep")
        else:
            yield from _inserted(entity, tally, hidden, depth + 1)


def _inserted(insert: Any, tally: Tally, hidden: set[str], depth: int) -> Iterator[Any]:
    """What a block holds, wherever an insert, or an array of them, puts it."""
    try:
        many = insert.mcount > 1
        for one in insert.multi_insert() if many else (insert,):
            tally.see()
            inner = one.virtual_entities(skipped_entity_callback=lambda entity, _: tally.leave(
                f"{entity.dxftype().lower()} that can't be inserted so"
            ))  # fmt: skip
            yield from _entities(inner, tally, hidden, depth)
    except UNREADABLE:
        tally.leave("faulty blocks")


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
        vertices = path.control_vertices()
        size = max(vertices[0].distance(v) for v in vertices) or 1.0
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
        add_polyline(space, outline)
    stream = io.StringIO()
    document.write(stream)
    return stream.getvalue()


def add_polyline(space: Any, outline: Outline) -> None:
    """Draws an outline as one closed polyline with arcs, on its layer."""
    points = [(piece.start.real, piece.start.imag, math.tan(piece.sweep / 4)) for piece in outline.pieces]
    space.add_lwpolyline(points, format="xyb", close=True, dxfattribs={"layer": outline.layer})
