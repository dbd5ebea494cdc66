"""SVG, by svgelements: paths, circles, rectangles and polygons; circular arcs stay arcs, other curves become straight
pieces that are counted. Its y axis points down, that of a document up."""

import io
import math
import re
from collections.abc import Iterator
from itertools import pairwise
from typing import Any

import svgelements as sv  # type: ignore[import-untyped]

from ...errors import located
from ...geometry.drawn import MM_IN, Drawing, DrawnPiece, Outline

PPI = 96.0
"""Pixels in an inch, as CSS has it."""
PER_MM = 0.0393701
"""Inches in a millimetre as svgelements has it: half a millionth too many, so sizes in mm are read by it exactly."""
METRIC = re.compile(r"<svg[^>]*\swidth\s*=\s*[\"'][\d.eE+-]+\s*(mm|cm)")
CURVE = 24
"""Straight pieces of a curve that is no arc."""
MOST = 200_000
ROUND = 1e-6
"""How much an arc's radii may differ, as a share, for it to be part of a circle."""


def read_svg(data: bytes) -> Drawing:
    """The curves of an SVG file in mm, a layer for each group or fill. Raises `DocumentError` for what is none."""
    try:
        text = data.decode("utf-8")
        if "<!ENTITY" in text:
            raise located("", "declares entities, which are not read here; save it without them")
        metric = METRIC.search(text) is not None
        image = sv.SVG.parse(io.StringIO(text), reify=True, ppi=1 / PER_MM if metric else PPI)
    except UnicodeDecodeError as error:
        raise located("", f"is not UTF-8 text: byte {error.start} can't be read") from error
    except (SyntaxError, ValueError, TypeError, AttributeError, ZeroDivisionError, RecursionError, KeyError) as error:
        raise located("", f"is no SVG file that can be read: {str(error) or type(error).__name__}") from error
    origin = _origin(image)
    layers: dict[str, list[DrawnPiece]] = {}
    flattened = count = 0
    for layer, shape in _shapes(image, ""):
        for piece, curved in _pieces(sv.Path(shape)):
            if not piece.sound:
                continue
            flattened += curved
            count += 1
            if count > MOST:
                raise located("", f"holds more than {MOST} lines and arcs; no outline needs that")
            scale = 1.0 if metric else 25.4 / PPI
            layers.setdefault(layer or "0", []).append(piece.scaled(scale).moved(origin * scale))
    report = [f"{flattened} curves that are no arcs were made of straight pieces"] if flattened else []
    return Drawing(layers, "mm", report)


def _origin(image: Any) -> complex:
    """The lower left corner of what is shown, in pixels: svgelements counts from it, a drawing from its origin."""
    box = image.viewbox
    if box is None or not box.width or not box.height:
        return 0j
    try:
        return complex(box.x * float(image.width) / box.width, -box.y * float(image.height) / box.height)
    except (TypeError, ValueError):
        return 0j


def _shapes(group: Any, layer: str) -> Iterator[tuple[str, Any]]:
    """All shapes with the name of the innermost group that has one."""
    for element in group:
        if isinstance(element, sv.Group):
            label = element.values.get("{http://www.inkscape.org/namespaces/inkscape}label")
            yield from _shapes(element, str(label or element.id or layer))
        elif isinstance(element, sv.Shape):
            yield layer, element


def _pieces(path: Any) -> Iterator[tuple[DrawnPiece, bool]]:
    """Lines and arcs of a path, each with whether it begins a curve that is neither."""
    for segment in path:
        if isinstance(segment, sv.Move) or segment.start is None or segment.end is None:
            continue
        start, end = _up(segment.start), _up(segment.end)
        if isinstance(segment, (sv.Line, sv.Close)):
            if start != end:
                yield DrawnPiece(start, end), False
        elif isinstance(segment, sv.Arc) and abs(segment.rx - segment.ry) <= ROUND * segment.rx and segment.rx > 0:
            yield DrawnPiece(start, end, _up(segment.center), segment.sweep < 0), False
        else:
            spots = [_up(segment.point(k / CURVE)) for k in range(CURVE + 1)]
            for k, (one, two) in enumerate(pairwise(spots)):
                if one != two:
                    yield DrawnPiece(one, two), k == 0


def _up(at: Any) -> complex:
    return complex(at.x, -at.y)


def svg_text(outlines: list[Outline], unit: str) -> str:
    """Closed outlines as paths with arcs, a group for each part; the page is as large as they are."""
    every = [each for outer in outlines for each in (outer, *outer.cuts)]
    spots = [z for outline in every for piece in outline.pieces for z in _ends(piece)]
    low = complex(min(z.real for z in spots), min(z.imag for z in spots)) if spots else 0j
    high = complex(max(z.real for z in spots), max(z.imag for z in spots)) if spots else 1 + 1j
    scale = MM_IN[unit]
    wide, tall = (high - low).real, (high - low).imag
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{wide * scale:.9g}mm" height="{tall * scale:.9g}mm" '
        f'viewBox="{low.real!r} {-high.imag!r} {wide!r} {tall!r}">',
    ]
    for outer in outlines:
        path = " ".join(_path(outline) for outline in (outer, *outer.cuts))
        thin = f'fill="none" stroke="black" stroke-width="{max(wide, tall) / 500:.3g}"'
        lines.append(f'<g id="{outer.layer}"><path {thin} d="{path}"/></g>')
    return "\n".join([*lines, "</svg>"]) + "\n"


def _ends(piece: DrawnPiece) -> list[complex]:
    if piece.center is None:
        return [piece.start, piece.end]
    radius = abs(piece.start - piece.center)
    return [piece.start, piece.end, piece.center + complex(radius, radius), piece.center - complex(radius, radius)]


def _path(outline: Outline) -> str:
    first = outline.pieces[0].start
    words = [f"M {first.real!r} {-first.imag!r}"]
    for piece in outline.pieces:
        if piece.center is None:
            words.append(f"L {piece.end.real!r} {-piece.end.imag!r}")
            continue
        radius, pieces = abs(piece.start - piece.center), max(1, math.ceil(abs(piece.sweep) / math.pi - 1e-9) + 1)
        for k in range(1, pieces + 1):
            turn = piece.sweep * k / pieces
            to = piece.center + (piece.start - piece.center) * complex(math.cos(turn), math.sin(turn))
            to = piece.end if k == pieces else to
            words.append(f"A {radius!r} {radius!r} 0 0 {0 if piece.sweep > 0 else 1} {to.real!r} {-to.imag!r}")
    return " ".join([*words, "Z"])
