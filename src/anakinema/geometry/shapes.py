"""The shapes of which a part's outline is joined, in the part's own frame. Lengths in document units, angles in rad.

Each declares its kind and the keys that it has in a document. A kind may have several forms (a slot is straight or an
arc), each a class; the one whose first key is there is meant, else the last.
"""

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from typing import ClassVar, Self

from ..kinds import LEAST_SIZE, Dimension, Field, FieldForm

Point = tuple[float, float]
Told = Callable[[float], str]
"""Says a length with its unit."""

CENTER = Field("center", form=FieldForm.SPOT, required=True, description="its centre")
WIDTH = Field("width", required=True, size=True, description="its width")
CORNER = Field("corner_radius", description="radius of its rounded corners")


def mirrored(at: Point) -> Point:
    """A place turned over about the x axis."""
    return at[0], -at[1]


def corner_faults(radius: float, most: float, description: Told) -> Iterator[tuple[str, str]]:
    """What is wrong with a radius of corners."""
    if radius < 0 or radius > most:
        limit = f" and at most {description(most)}" if math.isfinite(most) else ""
        yield "corner_radius", f"must be at least 0{limit}, it is {description(radius)}"
    elif 0 < radius < LEAST_SIZE:
        yield "corner_radius", f"{description(radius)} is too small to be meant; a sharp corner has 0"


@dataclass(frozen=True, kw_only=True)
class Shape:
    """Common to all: `cut` removes instead of adding, `depth` overrides the part's interval along z."""

    kind: ClassVar[str]
    title: ClassVar[str]
    fields: ClassVar[tuple[Field, ...]]

    cut: bool = False
    depth: tuple[float, float] | None = None

    def faults(self, description: Told) -> Iterator[tuple[str, str]]:
        """What is wrong with its numbers: the key (empty for the whole) and the words."""
        yield from ()

    def mirrored(self) -> Self:
        """It turned over about the x axis: y becomes −y."""
        raise NotImplementedError


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


SHAPES: tuple[type[Shape], ...] = (Bar, Disc, Rectangle, Polygon, Path, Slot, ArcSlot)
"""All forms of all kinds."""


def shape_kinds() -> dict[str, tuple[type[Shape], ...]]:
    """The kinds by name, each with its forms."""
    kinds = dict.fromkeys(shape.kind for shape in SHAPES)
    return {kind: tuple(shape for shape in SHAPES if shape.kind == kind) for kind in kinds}
