"""Parts from the outlines of a drawing, and outlines of parts for one."""

import cmath
from collections.abc import Iterable, Mapping
from typing import Any

from ..document.changes import Change, Set
from ..document.model import Document
from ..document.written import pose_of, tidy
from ..errors import DocumentError, Fault
from ..geometry.drawn import DrawnPiece, Outline, nested
from .building import Made, free_name, point_name

Pose = tuple[float, float, float]
MOST_PARTS = 2_000
"""Parts that are made of a drawing at once."""


def add_outlines(document: Document, outlines: Iterable[Outline], names: Mapping[str, str] | None = None) -> Made:
    """A part of each outline (document lengths) with its cuts, about the middle of its box; centres of round holes and
    of arcs that cuts have become points, to be joined by. `names` gives the parts of a layer another name. Raises
    `DocumentError` where there is none."""
    outlines = list(outlines)
    if len(outlines) > MOST_PARTS:
        text = f"there would be {len(outlines):,} parts; at most {MOST_PARTS:,} are made at once: choose layers"
        raise DocumentError([Fault("parts", text)])
    changes: list[Change] = []
    taken = dict.fromkeys(document.tree.get("parts", {}))
    place: tuple[str, ...] = ()
    for outline in outlines:
        word = "".join(c if c.isalnum() or c in "-_" else "-" for c in (names or {}).get(outline.layer, outline.layer))
        name = free_name(taken, word.strip("-") or "outline")
        taken[name] = None
        spots = [piece.start for piece in outline.pieces]
        if (round_ := outline.circle) is not None:
            middle = round_[0]
        else:
            middle = complex((min(z.real for z in spots) + max(z.real for z in spots)) / 2,
                             (min(z.imag for z in spots) + max(z.imag for z in spots)) / 2)  # fmt: skip
        points: dict[str, list[float]] = {}
        shapes = [_shape(each, middle, points, each is not outline) for each in (outline, *outline.cuts)]
        entry: dict[str, Any] = {"points": points, "pose": pose_of(document, middle), "shapes": shapes}
        if not document.parts and not changes:
            entry = {"fixed": True, **entry}
        changes.append(Set(("parts", name), entry))
        place = ("parts", name)
    if not changes:
        raise DocumentError([Fault("parts", "no closed outline was chosen: there is nothing to make a part of")])
    return Made(tuple(changes), place)


def _shape(outline: Outline, middle: complex, points: dict[str, list[float]], cut: bool) -> dict[str, Any]:
    found: dict[str, Any]
    if (round_ := outline.circle) is not None:
        name = point_name(points)
        points[name] = [tidy((round_[0] - middle).real), tidy((round_[0] - middle).imag)]
        found = {"kind": "disc", "center": name, "diameter": tidy(2 * round_[1])}
    elif (slot := _slot(outline)) is not None:
        names = []
        for end in slot[:2]:
            names.append(point_name(points))
            points[names[-1]] = [tidy((end - middle).real), tidy((end - middle).imag)]
        found = {"kind": "slot", "through": names, "width": tidy(slot[2])}
    elif all(piece.center is None for piece in outline.pieces):
        found = {"kind": "polygon", "vertices": [_pair(piece.start - middle) for piece in outline.pieces]}
    else:
        segments = []
        for piece in outline.pieces:
            segment: dict[str, Any] = {"to": _exact(piece.end - middle)}
            if piece.center is not None:
                segment |= {"center": _exact(piece.center - middle), "ccw": piece.ccw}
            segments.append(segment)
        found = {"kind": "path", "start": _exact(outline.pieces[0].start - middle), "segments": segments}
    return found | ({"cut": True} if cut else {})


def _slot(outline: Outline) -> tuple[complex, complex, float] | None:
    """The middles of both ends and the width, where an outline is a straight slot: two lines alike, and a half circle
    at each end."""
    arcs = [piece for piece in outline.pieces if piece.center is not None]
    lines = [piece for piece in outline.pieces if piece.center is None]
    if len(arcs) != 2 or len(lines) != 2 or len(outline.pieces) != 4:
        return None
    (one, two), radii = (arc.center or 0j for arc in arcs), [abs(arc.start - (arc.center or 0j)) for arc in arcs]
    size, way = max(radii), two - one
    close = 1e-6 * max(size, abs(way))
    if abs(radii[0] - radii[1]) > close or abs(way) < close:
        return None
    half = all(abs(arc.start + arc.end - 2 * (arc.center or 0j)) < close and
               abs(((arc.end - arc.start) * way.conjugate()).real) < close * abs(way) for arc in arcs)  # fmt: skip
    along = all(abs(((line.end - line.start) * way.conjugate()).imag) < close * abs(way) and
                abs(abs(line.end - line.start) - abs(way)) < close for line in lines)  # fmt: skip
    return (one, two, 2 * size) if half and along else None


def _pair(z: complex) -> list[float]:
    return [tidy(z.real), tidy(z.imag)]


def _exact(z: complex) -> list[float]:
    """All figures: an arc's ends must lie equally far from its center."""
    return [z.real, z.imag]


def outlines_of(document: Document, poses: Mapping[str, Pose], parts: Iterable[str]) -> list[Outline]:
    """The outlines of parts where they stand, each slab on a layer, holes as cuts: what a drawing is written of."""
    found = []
    for name in parts:
        x, y, angle = poses[name]
        turn, at = cmath.rect(1.0, angle), complex(x, y)
        slabs = document.parts[name].slabs
        for number, slab in enumerate(slabs, 1):
            layer = name.replace("/", "-") + (f"-{number}" if len(slabs) > 1 else "")
            edges = slab.region.edges
            rings = []
            for loop in slab.region.loops:
                pieces = []
                for i in loop:
                    start, end, center = (at + turn * complex(z[i]) for z in (edges.start, edges.end, edges.center))
                    pieces.append(
                        DrawnPiece(start, end, center if edges.radius[i] > 0 else None, bool(edges.sweep[i] > 0))
                    )
                rings.append(Outline(layer, tuple(pieces)))
            found += nested(rings)
    return found
