"""The shapes of which a part's outline is joined, in the part's own frame. Lengths in document units, angles in rad."""

from dataclasses import dataclass

Point = tuple[float, float]


@dataclass(frozen=True, kw_only=True)
class Shape:
    """Common to all: `cut` removes instead of adding, `depth` overrides the part's interval along z."""

    cut: bool = False
    depth: tuple[float, float] | None = None


@dataclass(frozen=True, kw_only=True)
class Bar(Shape):
    """A link of `width` with round ends through two or more points."""

    through: tuple[Point, ...]
    width: float


@dataclass(frozen=True, kw_only=True)
class Disc(Shape):
    """A full circle."""

    center: Point
    diameter: float


@dataclass(frozen=True, kw_only=True)
class Rectangle(Shape):
    """`size` is (along, across) the direction `angle`."""

    center: Point
    size: Point
    angle: float = 0.0
    corner_radius: float = 0.0


@dataclass(frozen=True, kw_only=True)
class Polygon(Shape):
    """A closed ring of straight edges, its corners rounded by `corner_radius`."""

    vertices: tuple[Point, ...]
    corner_radius: float = 0.0


@dataclass(frozen=True)
class Segment:
    """One edge of a path: straight, or an arc about `center`, counter-clockwise or clockwise."""

    to: Point
    center: Point | None = None
    ccw: bool = True


@dataclass(frozen=True, kw_only=True)
class Path(Shape):
    """A closed ring of lines and arcs; an open end is closed by a straight edge."""

    start: Point
    segments: tuple[Segment, ...]


@dataclass(frozen=True, kw_only=True)
class Slot(Shape):
    """A straight slot's form: round ends about two points."""

    through: tuple[Point, Point]
    width: float


@dataclass(frozen=True, kw_only=True)
class ArcSlot(Shape):
    """A slot along an arc about `center`, from angle `start` counter-clockwise to `stop`."""

    center: Point
    radius: float
    start: float
    stop: float
    width: float
