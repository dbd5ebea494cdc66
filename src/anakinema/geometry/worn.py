"""Outlines that more than their own sizes say: a cam's, by its joint, and teeth, by the rack that cuts them."""

import cmath
import math
from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Self

from ..kinds import LEAST_SIZE, Dimension, Field, FieldForm
from .contours import Turn, contour
from .edges import Edges
from .features import Feature, FeatureKind
from .involute import Ring, Teeth, rack_outline, ring_halves, wheel
from .shape import CENTER, Point, Shape, SizeKey, Told, mirrored

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

    @property
    def sound(self) -> bool:
        """Whether its numbers are some with which teeth can be made at all."""
        return self._told and not any(self.faults(str))

    @property
    def _told(self) -> bool:
        """Whether none of its numbers was refused before."""
        numbers = (self.module, self.teeth, self.pressure_angle, self.shift, self.backlash, self.addendum)
        return all(map(math.isfinite, (*numbers, self.dedendum))) and self.module >= LEAST_SIZE

    def faults(self, description: Told) -> Iterator[tuple[str, str]]:
        if not self._told:
            return
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


@dataclass(frozen=True, kw_only=True)
class BeltWheel(Shape):
    """A wheel for a roller chain, or for a toothed belt of trapezoids.

    Of a chain of pitch p with rollers of diameter d on z teeth: pins stand p / (2 sin(π / z)) from the axis, seats have
    the radius 0.505 d + 0.069 d^⅓ (mm) over an angle of 140° − 90° / z, flanks the radius 0.12 d (z + 2) in line with
    them, up to the tip circle of diameter p / sin(π / z) + p (1 − 1.6 / z) − d (ISO 606, its largest seat and smallest
    tip; from memory). Grooves of a belt wheel are 0.26 p deep and open to 0.53 p with sides that lean by 25°, its rim
    lies 0.1 p within the pitch circle (metric T pitches; from memory).
    """

    kind = "belt-wheel"
    title = "Belt or chain wheel"
    fields = (
        CENTER,
        Field("pitch", required=True, size=True, description="of the chain or belt"),
        Field("teeth", Dimension.NUMBER, required=True, description="how many"),
        Field("of", form=FieldForm.WORD, words=("chain", "belt"), description="what runs over it"),
        Field("roller", size=True, description="diameter of a chain's rollers (default 0.65 pitches)"),
        Field("phase", Dimension.ANGLE, description="where the middle of a gap lies, from the x axis"),
    )

    center: Point
    pitch: float
    teeth: float
    of: str = "chain"
    roller: float = 0.0
    phase: float = 0.0

    def faults(self, description: Told) -> Iterator[tuple[str, str]]:
        if not all(map(math.isfinite, (self.pitch, self.teeth, self.roller))) or self.pitch < LEAST_SIZE:
            return  # told already
        least = 6 if self.of == "chain" else 10
        if self.teeth != round(self.teeth) or not least <= self.teeth <= MOST_TEETH:
            yield "teeth", f"a whole number from {least} to {MOST_TEETH} is wanted, this is {self.teeth:g}"
        elif self.roller and not 0.3 * self.pitch <= self.roller <= 0.75 * self.pitch:
            low, high = (description(share * self.pitch) for share in (0.3, 0.75))
            yield "roller", f"{low} to {high} fit this pitch, it is {description(self.roller)}"

    def contours(self) -> list[Edges]:
        count = round(self.teeth)
        tooth = self._chain_gap(count) if self.of == "chain" else self._belt_gap(count)
        center, turn = complex(*self.center), cmath.rect(1.0, self.phase)
        start, turns = tooth[0], []
        for k in range(count):
            here = turn * cmath.rect(1.0, math.tau * k / count)
            turns += [(center + here * to, None if mid is None else center + here * mid, ccw)
                      for to, mid, ccw in tooth[1]]  # fmt: skip
        first = center + turn * start
        turns[-1] = (first, *turns[-1][1:])
        return [contour(first, turns)]

    def _chain_gap(self, count: int) -> Ring:
        """From the middle of a tooth, clockwise of a gap about the x axis, to that of the next."""
        roller = self.roller or 0.65 * self.pitch
        far = self.pitch / (2 * math.sin(math.pi / count))
        seat = 0.505 * roller + 0.069 * roller ** (1 / 3) * (roller > 1)
        half = math.radians(140 - 90 / count) / 2
        flank = 0.12 * roller * (count + 2)
        tip = far + (self.pitch * (1 - 1.6 / count) - roller) / 2
        out = cmath.rect(1.0, math.pi - half)  # from the pin to the seat's end
        end, middle = far + seat * out, far + (seat + flank) * out
        # Where the flank's circle meets the tip circle, or the middle of the tooth where it is pointed before.
        way = abs(middle)
        cosine = (tip**2 + way**2 - flank**2) / (2 * tip * way)
        angle = cmath.phase(middle) - math.acos(min(max(cosine, -1.0), 1.0))
        limit = math.pi / count
        if not 0 < angle < limit:
            line = cmath.rect(1.0, limit)
            along = (middle * line.conjugate()).real
            across = (middle * line.conjugate()).imag
            tip = along + math.sqrt(max(flank**2 - across**2, 0.0)) if abs(across) < flank else along
            angle = limit
        corner = cmath.rect(tip, angle)
        start = cmath.rect(tip, -limit)
        turns: list[Turn] = [] if angle >= limit else [(corner.conjugate(), 0j, True)]
        turns += [(end.conjugate(), middle.conjugate(), True), (end, complex(far), False), (corner, middle, True)]
        if angle < limit:
            turns.append((cmath.rect(tip, limit), 0j, True))
        return start, tuple(turns)

    def _belt_gap(self, count: int) -> Ring:
        pitch = self.pitch
        rim = pitch * count / math.tau - 0.1 * pitch
        wide, deep = 0.53 * pitch / 2, 0.26 * pitch
        bottom = wide - deep * math.tan(math.radians(25))
        mouth = cmath.rect(rim, math.asin(wide / rim))
        floor = complex(mouth.real - deep, bottom)
        limit = math.pi / count
        turns: list[Turn] = [(mouth.conjugate(), 0j, True), (floor.conjugate(), None, True), (floor, None, True),
                             (mouth, None, True), (cmath.rect(rim, limit), 0j, True)]  # fmt: skip
        return cmath.rect(rim, -limit), tuple(turns)

    @property
    def edge_count(self) -> int:
        return 6 * round(self.teeth)

    def mirrored(self) -> Self:
        return replace(self, center=mirrored(self.center), phase=-self.phase)

    def features(self) -> Iterator[Feature]:
        yield Feature(complex(*self.center), FeatureKind.CENTRE)
