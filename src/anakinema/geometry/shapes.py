"""The shapes of which a part's outline is joined, in the part's own frame. Lengths in document units, angles in rad.

Each declares its kind and the keys that it has in a document, and knows its contours, what can be grabbed of it, which
of its sizes are shown where, and what may be wrong with it. A kind may have several forms (a slot is straight or an
arc), each a class; the one whose first key is there is meant, else the last.
"""

import cmath
import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import ClassVar, Self

import numpy as np

from ..kinds import LEAST_SIZE, Dimension, Field, FieldForm
from .contours import Turn, bent_slot, contour, rounded, stadium
from .edges import Edges, circle
from .features import Feature, FeatureKind, of_ring
from .involute import Ring, Teeth, rack_outline, ring_halves, wheel

Point = tuple[float, float]
Told = Callable[[float], str]
"""Says a length with its unit."""
SizeKey = tuple[str | int, ...]
"""Where a size stands behind the place of its shape."""
SAME = 1e-9
"""Distance, relative to the outline's size, below which two points are one; they are, too, below the least size."""

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
    fields: ClassVar[tuple[Field, ...]] = ()

    cut: bool = False
    depth: tuple[float, float] | None = None

    def faults(self, description: Told) -> Iterator[tuple[str, str]]:
        """What is wrong with its numbers: the key (empty for the whole) and the words."""
        yield from ()

    def mirrored(self) -> Self:
        """It turned over about the x axis: y becomes −y."""
        raise NotImplementedError

    def contours(self) -> list[Edges]:
        """The closed boundaries; where there are several, the shape is their union."""
        raise NotImplementedError

    @property
    def edge_count(self) -> int:
        """How many edges it has, about; not fewer than half of them."""
        return 8

    may_cross: ClassVar[str | None] = None
    """What of it is to be mended where its boundary crosses itself; None where it can't."""

    def repeated(self) -> str:
        """Where its boundary says a place twice, in words; empty when all is well."""
        return ""

    def features(self) -> Iterator[Feature]:
        """What of it can be grabbed."""
        yield from ()

    def sizes(self) -> Iterator[tuple[SizeKey, complex, str]]:
        """Its sizes: where each stands, where to show it, with what sign before it."""
        yield from ()

    @property
    def spine(self) -> tuple[complex, complex] | None:
        """Where it runs from and to, where it runs along something."""
        return None

    def corners(self) -> tuple[list[complex], list[bool]]:
        """Corners that can be moved, and whether the side from each to the next is straight; none for most shapes."""
        return [], []

    def corner_keys(self) -> list[SizeKey]:
        """Where these corners stand."""
        return []

    def arc_of(self, side: int) -> "Segment | None":
        """The segment of such a side that is an arc; None for a straight one."""
        return None


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


Contour = tuple[complex, tuple[Turn, ...]]
"""A ring: where it begins, and its edges."""


@dataclass(frozen=True, kw_only=True)
class CamOutline(Shape):
    """What a cam joint makes of its program and follower: the profile, or, as a `groove`, the track of its roller. Its
    `rings` are known once the joint is read."""

    kind = "cam"
    title = "Cam"
    fields = (
        Field("joint", form=FieldForm.CAM, required=True, description="the cam joint that gives it"),
        Field("groove", form=FieldForm.FLAG, description="the track of the roller, for a cut, in place of the profile"),
        Field("width", size=True, description="of the groove (default: the roller's diameter)"),
        Field("back", size=True, description="of a cam on a slide: how deep it is below its lowest place"),
    )

    joint: str
    groove: bool = False
    width: float = 0.0
    back: float = 0.0
    rings: tuple[Contour, ...] = ()
    over: bool = False
    """Whether it is turned over."""

    def contours(self) -> list[Edges]:
        if not self.over:
            return [contour(start, turns) for start, turns in self.rings]
        return [contour(start.conjugate(), [(to.conjugate(), None if center is None else center.conjugate(), not ccw)
                                            for to, center, ccw in turns])
                for start, turns in self.rings]  # fmt: skip

    @property
    def edge_count(self) -> int:
        return sum(len(turns) for _, turns in self.rings)

    def mirrored(self) -> Self:
        return replace(self, over=not self.over)


TEETH_FIELDS = (
    Field("module", required=True, size=True, description="the pitch over π"),
    Field("teeth", Dimension.NUMBER, required=True, description="how many"),
    Field("pressure_angle", Dimension.ANGLE, description="of the flanks (default 20°)"),
    Field("shift", Dimension.NUMBER, description="of the profile, outward, in modules"),
    Field("backlash", description="by which each tooth is thinner, along the pitch line"),
    Field("addendum", Dimension.NUMBER, description="of the tips beyond the pitch line, in modules (default 1)"),
    Field("dedendum", Dimension.NUMBER, description="of the roots below it, in modules (default 1.25)"),
)
FEWEST, MOST_TEETH = 4, 500
STEEP = (math.radians(10), math.radians(35))
"""Pressure angles that are cut."""


@dataclass(frozen=True, kw_only=True)
class Toothed(Shape):
    """What wheels and racks have in common."""

    module: float
    teeth: float
    pressure_angle: float = math.radians(20)
    shift: float = 0.0
    backlash: float = 0.0
    addendum: float = 1.0
    dedendum: float = 1.25

    @property
    def profile(self) -> Teeth:
        """Its teeth as numbers."""
        return Teeth(self.module, round(self.teeth), self.pressure_angle, self.shift, self.backlash, self.addendum,
                     self.dedendum)  # fmt: skip

    def faults(self, description: Told) -> Iterator[tuple[str, str]]:
        numbers = (self.module, self.teeth, self.pressure_angle, self.shift, self.backlash, self.addendum)
        if not all(map(math.isfinite, (*numbers, self.dedendum))) or self.module < LEAST_SIZE:
            return  # told already
        if self.teeth != round(self.teeth) or not FEWEST <= self.teeth <= MOST_TEETH:
            yield "teeth", f"a whole number from {FEWEST} to {MOST_TEETH} is wanted, this is {self.teeth:g}"
            return
        if not STEEP[0] <= self.pressure_angle <= STEEP[1]:
            yield "pressure_angle", f"10° to 35° are cut, 20° as a rule; this is {math.degrees(self.pressure_angle):g}°"
            return
        for key in ("addendum", "dedendum"):
            if not 0.1 <= getattr(self, key) <= 2.5:
                yield key, f"0.1 to 2.5 modules are wanted, this is {getattr(self, key):g}"
                return
        if self.backlash < 0 or self.backlash > self.module:
            yield "backlash", f"0 to {description(self.module)} is wanted, it is {description(self.backlash)}"
            return
        yield from self.tooth_faults()

    def tooth_faults(self) -> Iterator[tuple[str, str]]:
        """What is wrong with the teeth themselves."""
        yield from ()


@dataclass(frozen=True, kw_only=True)
class GearTeeth(Toothed):
    """An involute wheel, or an internal one."""

    kind = "gear"
    title = "Wheel"
    fields = (
        CENTER, *TEETH_FIELDS,
        Field("internal", form=FieldForm.FLAG, description="teeth inside a rim"),
        Field("rim", size=True, description="outer radius of an internal wheel"),
        Field("phase", Dimension.ANGLE, description="where the middle of a tooth lies, from the x axis"),
    )  # fmt: skip

    center: Point
    internal: bool = False
    rim: float = 0.0
    phase: float = 0.0

    @property
    def profile(self) -> Teeth:
        return replace(super().profile, internal=self.internal)

    def tooth_faults(self) -> Iterator[tuple[str, str]]:
        one = self.profile
        try:
            ring = wheel(one)
        except ValueError as error:
            mend = ""
            if "pointed" in str(error) and not one.internal:
                mend = f"; with a shift up to {one.most_shift:.3g}, or a smaller addendum, they are not"
            elif "base circle" in str(error):
                mend = "; take more teeth, a shift outward, or a smaller addendum"
            yield "shift" if self.shift else "teeth", f"{error}{mend}"
            return
        if one.internal:
            least = one.root_radius + 0.1 * one.module
            if self.rim and self.rim < least:
                yield "rim", f"the roots lie at {one.root_radius:.6g}; at least {least:.6g} is wanted"
        elif abs(ring[0]) <= one.module / 10:
            yield "teeth", "nothing is left of the wheel; take more teeth"

    def contours(self) -> list[Edges]:
        center, turn = complex(*self.center), cmath.rect(1.0, self.phase)
        one = self.profile
        if one.internal:  # its first space, not its first tooth, lies where a wheel has a tooth
            turn *= cmath.rect(1.0, math.pi / one.count)
            rings: tuple[Ring, ...] = ring_halves(one, self.rim or one.root_radius + 2 * one.module)
        else:
            rings = (wheel(one),)
        return [contour(center + turn * start, [(center + turn * to, None if mid is None else center + turn * mid, ccw)
                                                for to, mid, ccw in turns]) for start, turns in rings]  # fmt: skip

    @property
    def edge_count(self) -> int:
        return 100 * round(self.teeth)

    def mirrored(self) -> Self:
        return replace(self, center=mirrored(self.center), phase=-self.phase)

    def features(self) -> Iterator[Feature]:
        yield Feature(complex(*self.center), FeatureKind.CENTRE)

    def sizes(self) -> Iterator[tuple[SizeKey, complex, str]]:
        yield ("teeth",), complex(*self.center) + self.profile.pitch_radius, "z"


@dataclass(frozen=True, kw_only=True)
class RackTeeth(Toothed):
    """Teeth along a line."""

    kind = "rack-teeth"
    title = "Rack"
    fields = (
        Field("start", form=FieldForm.SPOT, required=True, description="where its pitch line begins"),
        Field("direction", Dimension.ANGLE, required=True, description="of the pitch line; teeth lie left of it"),
        *TEETH_FIELDS,
        Field("back", size=True, description="how thick it is below the roots (default 2 modules)"),
    )

    start: Point
    direction: float = 0.0
    back: float = 0.0
    over: bool = False
    """Whether it is turned over."""

    @property
    def profile(self) -> Teeth:
        return replace(super().profile, count=0)

    def tooth_faults(self) -> Iterator[tuple[str, str]]:
        try:
            rack_outline(self.profile, round(self.teeth), self.back or 2 * self.module)
        except ValueError as error:
            yield "shift" if self.shift else "addendum", f"{error}; take a smaller addendum, or a shift nearer to 0"

    def contours(self) -> list[Edges]:
        start, turns = rack_outline(self.profile, round(self.teeth), self.back or 2 * self.module)
        begin, way = complex(*self.start), cmath.rect(1.0, self.direction)

        def placed(z: complex) -> complex:
            return begin + way * (z.conjugate() if self.over else z)

        return [contour(placed(start), [(placed(to), None, True) for to, _, _ in turns])]

    @property
    def edge_count(self) -> int:
        return 4 * round(self.teeth) + 4

    def mirrored(self) -> Self:
        return replace(self, start=mirrored(self.start), direction=-self.direction, over=not self.over)


SHAPES: tuple[type[Shape], ...] = (Bar, Disc, Rectangle, Polygon, Path, Slot, ArcSlot, CamOutline, GearTeeth, RackTeeth)
"""All forms of all kinds."""


def shape_kinds() -> dict[str, tuple[type[Shape], ...]]:
    """The kinds by name, each with its forms."""
    kinds = dict.fromkeys(shape.kind for shape in SHAPES)
    return {kind: tuple(shape for shape in SHAPES if shape.kind == kind) for kind in kinds}
