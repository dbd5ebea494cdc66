"""Copies of parts: an entry with `of` takes everything of another part but its pose and `fixed`; what it says itself
replaces that. `lift` shifts its depths along z; `mirror` turns it over about its own x axis, `keep_depth` with all its
depths left as they are."""

from collections.abc import Iterable, Mapping
from dataclasses import replace
from types import MappingProxyType
from typing import Any

from ..geometry.shapes import mirrored
from .model import Edge, Part

OWN = ("of", "lift", "mirror", "keep_depth", "pose", "fixed")
"""What a copy never takes from what it is a copy of."""


MOST_DEEP = 100
"""Copies of copies of copies…"""


def lineage(trees: Mapping[str, Any], key: str) -> tuple[list[str], str]:
    """A part, what it is a copy of, what that is a copy of…; and what is wrong with that, in words. Of one that leads
    nowhere by itself, round in a circle or too deep, it is the part alone."""
    line = [key]
    while isinstance(entry := trees.get(line[-1]), Mapping) and "of" in entry:
        base = entry["of"]
        if not isinstance(base, str) or base not in trees:
            return line, f"there is no part '{base}' to copy"
        if base in line:
            return [key], f"is a copy of itself: {' → '.join([*line[line.index(base):], base])}"
        if len(line) > MOST_DEEP:
            return [key], f"is a copy of a copy, more than {MOST_DEEP} deep; make all of them copies of one"
        line.append(base)
    return line, ""


def said(trees: Mapping[str, Any], line: list[str]) -> dict[str, Any]:
    """The entry of a copy with all that it takes from its line."""
    entry: dict[str, Any] = {}
    for key in reversed(line):
        given = trees[key] if isinstance(trees[key], Mapping) else {}
        last = key == line[0]
        entry |= {word: value for word, value in given.items() if last or word not in OWN}
    return {word: value for word, value in entry.items() if word not in ("of", "lift", "mirror", "keep_depth")}


def put_elsewhere(part: Part, lift: float, mirror: bool, both: float | None = None, level: bool = False) -> Part:
    """A part lifted along z, and turned over where that is wanted: y becomes −y, and but for one that keeps `level` its
    depths are reflected about the middle of their whole extent, or that of which it is one (`both` is the sum of its
    ends)."""
    if both is None:
        both = sum(extent([part]))

    def depth(span: tuple[float, float]) -> tuple[float, float]:
        low, high = (both - span[1], both - span[0]) if mirror and not level else span
        return low + lift, high + lift

    shapes = [replace(shape, depth=None if shape.depth is None else depth(shape.depth)) for shape in part.shapes]
    part = replace(part, depth=depth(part.depth), shapes=tuple(shapes))
    if part.hardware is not None:
        face, turned = part.hardware.face, mirror and not level
        part = replace(part, hardware=replace(part.hardware, face=(both - face if turned else face) + lift,
                                              front=part.hardware.front != turned))  # fmt: skip
    if not mirror:
        return part
    return replace(
        part,
        points=MappingProxyType({name: mirrored(at) for name, at in part.points.items()}),
        edges=MappingProxyType({name: _edge(edge) for name, edge in part.edges.items()}),
        shapes=tuple(shape.mirrored() for shape in part.shapes),
    )


def extent(parts: Iterable[Part]) -> tuple[float, float]:
    """From where to where parts lie in depth."""
    spans = [span for part in parts for span in [shape.depth or part.depth for shape in part.shapes] or [part.depth]]
    return min(low for low, _ in spans), max(high for _, high in spans)


def _edge(edge: Edge) -> Edge:
    low, high = (-edge.high, -edge.low) if edge.is_arc else (edge.low, edge.high)
    return replace(edge, start=mirrored(edge.start), stop=mirrored(edge.stop), low=low, high=high)
