"""The shapes of which a part's outline is joined, in the part's own frame. Lengths in document units, angles in rad.

Each declares its kind and the keys that it has in a document, and knows its contours, what can be grabbed of it, which
of its sizes are shown where, and what may be wrong with it. A kind may have several forms (a slot is straight or an
arc), each a class; the one whose first key is there is meant, else the last.
"""

import cmath
import math
from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Self

import numpy as np

from ..kinds import LEAST_SIZE, Dimension, Field, FieldForm
from .contours import bent_slot, contour, rounded, stadium
from .edges import Edges, circle
from .features import Feature, FeatureKind, of_ring, side
from .shape import CENTER, CORNER, SAME, WIDTH, Point, Shape, SizeKey, Told, corner_faults, mirrored
from .worn import BeltWheel, CamOutline, GearTeeth, RackTeeth


@dataclass(frozen=True, kw_only=True)
class Bar(Shape):
    """A link of `width` with round ends through two or more points."""

    kind = "bar"
    title = "Bar"
    fields = (
        Field("through", form=FieldForm.SPOTS, required=True, least=2, description="the places that it runs through"),
        WIDTH,
    )

    through: tuple[Point, ...]
    width: float

    def mirrored(self) -> Self:
        return replace(self, through=tuple(map(mirrored, self.through)))

    def contours(self) -> list[Edges]:
        points = [complex(*point) for point in self.through]
        return [stadium(one, two, self.width / 2) for one, two in pairwise(points)]

    @property
    def edge_count(self) -> int:
        return 6 * (len(self.through) - 1)

    def features(self) -> Iterator[Feature]:
        last = len(self.through) - 1
        for k, spot in enumerate(self.through):
            yield Feature(complex(*spot), FeatureKind.END if k in (0, last) else FeatureKind.CENTRE)
        for one, two in pairwise(complex(*spot) for spot in self.through):
            if one == two:
                continue
            way = cmath.phase(two - one)
            half, aside = abs(two - one) / 2, cmath.rect(self.width / 2, way - math.pi / 2)
            yield Feature((one + two) / 2, FeatureKind.CENTRE_LINE, direction=way, reach=(-half, half), by_line=True)
            yield side(one + aside, two + aside, by_line=True)
            yield side(two - aside, one - aside, by_line=True)

    @property
    def spine(self) -> tuple[complex, complex]:
        return complex(*self.through[0]), complex(*self.through[-1])

    def sizes(self) -> Iterator[tuple[SizeKey, complex, str]]:
        one, two = self.spine
        yield ("width",), one + (two - one) * 0.75, "wide"


@dataclass(frozen=True, kw_only=True)
class Disc(Shape):
    """A full circle."""

    kind = "disc"
    title = "Disc"
    fields = (CENTER, Field("diameter", required=True, size=True, description="its diameter"))

    center: Point
    diameter: float

    def mirrored(self) -> Self:
        return replace(self, center=mirrored(self.center))

    def contours(self) -> list[Edges]:
        return [circle(complex(*self.center), self.diameter / 2)]

    @property
    def edge_count(self) -> int:
        return 4

    def features(self) -> Iterator[Feature]:
        center = complex(*self.center)
        yield Feature(center, FeatureKind.HOLE if self.cut else FeatureKind.CENTRE)
        for quarter in (1, 1j, -1, -1j):
            at = center + quarter * self.diameter / 2
            yield Feature(at, FeatureKind.RIM, edge=(center, at))

    def sizes(self) -> Iterator[tuple[SizeKey, complex, str]]:
        yield ("diameter",), complex(*self.center) + 0.5j * self.diameter, "⌀"


@dataclass(frozen=True, kw_only=True)
class Rectangle(Shape):
    """`size` is (along, across) the direction `angle`."""

    kind = "rectangle"
    title = "Rectangle"
    fields = (
        CENTER, Field("size", form=FieldForm.PAIR, required=True, description="its sizes along and across"),
        Field("angle", Dimension.ANGLE, description="the direction of its first size"), CORNER,
    )  # fmt: skip

    center: Point
    size: Point
    angle: float = 0.0
    corner_radius: float = 0.0

    def faults(self, description: Told) -> Iterator[tuple[str, str]]:
        if min(self.size) <= 0:
            yield "size", "both sizes must be greater than zero"
        elif min(self.size) < LEAST_SIZE:
            yield "size", f"{description(min(self.size))} is too small to be meant"
        yield from corner_faults(self.corner_radius, min(self.size) / 2, description)

    def mirrored(self) -> Self:
        return replace(self, center=mirrored(self.center), angle=-self.angle)

    def _ring(self) -> list[complex]:
        turn, (along, across) = cmath.rect(1.0, self.angle), self.size
        ways = ((-1, -1), (1, -1), (1, 1), (-1, 1))
        return [complex(*self.center) + turn * complex(x * along / 2, y * across / 2) for x, y in ways]

    def contours(self) -> list[Edges]:
        return [rounded(np.array(self._ring()), self.corner_radius)]

    def features(self) -> Iterator[Feature]:
        yield Feature(complex(*self.center), FeatureKind.CENTRE)
        yield from of_ring(self._ring(), self.corner_radius > 0)

    def sizes(self) -> Iterator[tuple[SizeKey, complex, str]]:
        middle, turn = complex(*self.center), cmath.rect(1.0, self.angle)
        along, across = self.size
        yield ("size", 0), middle - turn * 0.5j * across, ""
        yield ("size", 1), middle + turn * along / 2, ""
        if self.corner_radius:
            yield ("corner_radius",), middle + turn * complex(along, across) / 2, "R"


@dataclass(frozen=True, kw_only=True)
class Polygon(Shape):
    """A closed ring of straight edges, its corners rounded by `corner_radius`."""

    kind = "polygon"
    title = "Polygon"
    fields = (
        Field("vertices", form=FieldForm.SPOTS, required=True, least=3,
              description="its corners, one after the other"), CORNER,
    )  # fmt: skip

    vertices: tuple[Point, ...]
    corner_radius: float = 0.0

    def faults(self, description: Told) -> Iterator[tuple[str, str]]:
        yield from corner_faults(self.corner_radius, math.inf, description)

    def mirrored(self) -> Self:
        return replace(self, vertices=tuple(map(mirrored, reversed(self.vertices))))

    may_cross = "vertices"

    def contours(self) -> list[Edges]:
        return [rounded(np.array([complex(*vertex) for vertex in self.vertices]), self.corner_radius)]

    @property
    def edge_count(self) -> int:
        return len(self.vertices) * (2 if self.corner_radius > 0 else 1)

    def repeated(self) -> str:
        size = max(math.dist(self.vertices[0], vertex) for vertex in self.vertices)
        if size < LEAST_SIZE:
            return "all its vertices are one point; it encloses nothing"
        for i, vertex in enumerate(self.vertices):
            after = (i + 1) % len(self.vertices)
            if math.dist(vertex, self.vertices[after]) <= max(SAME * size, LEAST_SIZE):
                return f"vertices {i} and {after} are the same point; leave one of them out"
        return ""

    def features(self) -> Iterator[Feature]:
        yield from of_ring([complex(*spot) for spot in self.vertices], self.corner_radius > 0)

    def sizes(self) -> Iterator[tuple[SizeKey, complex, str]]:
        if self.corner_radius:
            yield ("corner_radius",), complex(*self.vertices[0]), "R"

    def corners(self) -> tuple[list[complex], list[bool]]:
        return [complex(*each) for each in self.vertices], [True] * len(self.vertices)

    def corner_keys(self) -> list[SizeKey]:
        return [("vertices", k) for k in range(len(self.vertices))]


@dataclass(frozen=True)
class Segment:
    """One edge of a path: straight, or an arc about `center`, counter-clockwise or clockwise."""

    to: Point
    center: Point | None = None
    ccw: bool = True

    def mirrored(self) -> "Segment":
        """It turned over about the x axis."""
        return Segment(mirrored(self.to), None if self.center is None else mirrored(self.center), not self.ccw)


@dataclass(frozen=True, kw_only=True)
class Path(Shape):
    """A closed ring of lines and arcs; an open end is closed by a straight edge."""

    kind = "path"
    title = "Outline"
    fields = (
        Field("start", form=FieldForm.SPOT, required=True, description="where it begins"),
        Field(
            "segments", form=FieldForm.SEGMENTS, required=True, description="its lines and arcs, one after the other"
        ),
    )

    start: Point
    segments: tuple[Segment, ...]

    def faults(self, description: Told) -> Iterator[tuple[str, str]]:
        at = self.start
        for i, segment in enumerate(self.segments):
            if segment.center is not None:
                radii = math.dist(segment.center, at), math.dist(segment.center, segment.to)
                if abs(radii[0] - radii[1]) > 1e-6 * max(*radii, 1e-9):
                    text = f"the arc's ends lie at {description(radii[0])} and {description(radii[1])} from its center"
                    yield f"segments.{i}", text
            at = segment.to

    def mirrored(self) -> Self:
        return replace(self, start=mirrored(self.start), segments=tuple(one.mirrored() for one in self.segments))

    may_cross = "segments"

    def contours(self) -> list[Edges]:
        turns = [(complex(*one.to), None if one.center is None else complex(*one.center), one.ccw)
                 for one in self.segments]  # fmt: skip
        return [contour(complex(*self.start), turns)]

    @property
    def edge_count(self) -> int:
        return 2 * len(self.segments) + 1

    def repeated(self) -> str:
        at = self.start
        for i, segment in enumerate(self.segments):
            if segment.center is None and math.dist(segment.to, at) < LEAST_SIZE:
                return f"segment {i} ends where it starts; leave it out"
            if segment.center is not None and math.dist(segment.center, at) < LEAST_SIZE:
                return f"segment {i} is an arc of no radius: its center is its start"
            at = segment.to
        return ""

    def features(self) -> Iterator[Feature]:
        yield Feature(complex(*self.start), FeatureKind.CORNER)
        for segment in self.segments:
            yield Feature(complex(*segment.to), FeatureKind.CORNER)
            if segment.center is not None:
                yield Feature(complex(*segment.center), FeatureKind.ARC_CENTRE)
        yield from self._sides()

    def _sides(self) -> Iterator[Feature]:
        """Its sides and arcs; the part lies to the left of a side."""
        spots, _ = self.corners()
        ends = list(zip(spots, [*spots[1:], spots[0]], strict=True))
        left = sum((one.conjugate() * two).imag for one, two in ends) >= 0
        for number, (one, two) in enumerate(ends):
            arc = self.arc_of(number)
            if one == two:
                continue
            if arc is None or arc.center is None:
                yield side(one, two, by_line=True) if left else side(two, one, by_line=True)
                continue
            center = complex(*arc.center)
            first, last = (one, two) if arc.ccw else (two, one)
            begin = cmath.phase(first - center)
            swept = cmath.phase((last - center) / (first - center)) % math.tau
            middle = center + cmath.rect(abs(first - center), begin + swept / 2)
            yield Feature(middle, FeatureKind.ARC, edge=(center, middle), span=(begin, begin + swept), by_line=True)

    def corners(self) -> tuple[list[complex], list[bool]]:
        found = [complex(*self.start), *(complex(*segment.to) for segment in self.segments)]
        straight = [segment.center is None for segment in self.segments]
        if abs(found[-1] - found[0]) < SAME * max(1.0, abs(found[0])):
            return found[:-1], straight
        return found, [*straight, True]

    def corner_keys(self) -> list[SizeKey]:
        return [("start",), *(("segments", k, "to") for k in range(len(self.corners()[0]) - 1))]

    def arc_of(self, side: int) -> Segment | None:
        if side >= len(self.segments) or self.segments[side].center is None:
            return None
        return self.segments[side]


@dataclass(frozen=True, kw_only=True)
class Slot(Shape):
    """A straight slot's form: round ends about two points."""

    kind = "slot"
    title = "Slot"
    fields = (
        Field("through", form=FieldForm.SPOTS, required=True, least=2, most=2,
              description="the middles of its two ends"), WIDTH,
    )  # fmt: skip

    through: tuple[Point, ...]
    width: float

    def mirrored(self) -> Self:
        return replace(self, through=tuple(map(mirrored, self.through)))

    def contours(self) -> list[Edges]:
        return [stadium(complex(*self.through[0]), complex(*self.through[1]), self.width / 2)]

    def features(self) -> Iterator[Feature]:
        one, two = (complex(*spot) for spot in self.through)
        way = cmath.phase(two - one) if two != one else 0.0
        half = abs(two - one) / 2
        yield Feature((one + two) / 2, FeatureKind.SLOT, direction=way, reach=(-half, half))
        yield Feature(one, FeatureKind.SLOT_END, direction=way, reach=(0.0, 2 * half))
        yield Feature(two, FeatureKind.SLOT_END, direction=way, reach=(-2 * half, 0.0))

    @property
    def spine(self) -> tuple[complex, complex]:
        return complex(*self.through[0]), complex(*self.through[-1])

    def sizes(self) -> Iterator[tuple[SizeKey, complex, str]]:
        one, two = self.spine
        yield ("width",), one + (two - one) * 0.75, "wide"


@dataclass(frozen=True, kw_only=True)
class ArcSlot(Shape):
    """A slot along an arc about `center`, from angle `start` counter-clockwise to `stop`."""

    kind = "slot"
    title = "Arc slot"
    fields = (
        CENTER, Field("radius", required=True, size=True, description="radius of its centre line"),
        Field("from", Dimension.ANGLE, required=True, description="the angle at which it begins", attribute="start"),
        Field("to", Dimension.ANGLE, required=True, description="the angle at which it ends", attribute="stop"), WIDTH,
    )  # fmt: skip

    center: Point
    radius: float
    start: float
    stop: float
    width: float

    def faults(self, description: Told) -> Iterator[tuple[str, str]]:
        if self.width >= 2 * self.radius:
            yield (
                "width",
                f"must be less than twice the radius {description(self.radius)}, it is {description(self.width)}",
            )
        if not 0 < self.stop - self.start < 2 * math.pi:
            yield "", "'to' must exceed 'from' by less than a full turn"

    def mirrored(self) -> Self:
        return replace(self, center=mirrored(self.center), start=-self.stop, stop=-self.start)

    may_cross = ""

    def contours(self) -> list[Edges]:
        return [bent_slot(complex(*self.center), self.radius, self.start, self.stop, self.width / 2)]

    def features(self) -> Iterator[Feature]:
        center = complex(*self.center)
        middle = center + cmath.rect(self.radius, (self.start + self.stop) / 2)
        yield Feature(middle, FeatureKind.ARC_SLOT, about=center, span=(self.start, self.stop))
        yield Feature(center, FeatureKind.SLOT_CENTRE)
        for angle in (self.start, self.stop):
            yield Feature(center + cmath.rect(self.radius, angle), FeatureKind.SLOT_END)

    def sizes(self) -> Iterator[tuple[SizeKey, complex, str]]:
        yield ("radius",), complex(*self.center) + cmath.rect(self.radius, self.start), "R"
        yield ("width",), complex(*self.center) + cmath.rect(self.radius, self.stop), "wide"


SHAPES: tuple[type[Shape], ...] = (
    Bar, Disc, Rectangle, Polygon, Path, Slot, ArcSlot, CamOutline, GearTeeth, RackTeeth, BeltWheel,
)  # fmt: skip
"""All forms of all kinds."""


def shape_kinds() -> dict[str, tuple[type[Shape], ...]]:
    """The kinds by name, each with its forms."""
    kinds = dict.fromkeys(shape.kind for shape in SHAPES)
    return {kind: tuple(shape for shape in SHAPES if shape.kind == kind) for kind in kinds}


__all__ = [
    "SAME", "SHAPES", "ArcSlot", "Bar", "BeltWheel", "CamOutline", "Disc", "GearTeeth", "Path", "Point", "Polygon",
    "RackTeeth", "Rectangle", "Segment", "Shape", "Slot", "mirrored", "shape_kinds",
]  # fmt: skip
