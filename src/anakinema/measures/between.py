"""Measures between two things: points, lines, outlines; and a measure of the document by its name."""

import cmath
from collections.abc import Callable
from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array, Plane
from ..kinds import Dimension, Field, FieldForm
from .base import MeasureType, OfNumbers, OverTime

if TYPE_CHECKING:
    from ..document.model import Document, Measure, PointRef
    from ..kinematics.motion import Motion, Sampled

Stands = Callable[[str], Array]
"""Where a part stands, (S, 3): document lengths, rad."""
Places = Callable[["PointRef"], tuple[float | Array, float | Array]]
"""x and y of a point in its part."""
ONE = "part.point, or two of them: a line"
LINE = "two points of a part, or a part: its x axis"


class Clearance(MeasureType):
    """Found by a search of its own, in `anakinema.clearance`."""

    name, title = "clearance", "Clearance"
    description = "least distance of two parts' outlines"
    fields = (Field("parts", form=FieldForm.PARTS, required=True, description="the two parts"),)
    first_bound = "at_least"


class Distance(OfNumbers):
    name, title = "distance", "Distance"
    description = "of a point from a point, or from the line through two points of a part"
    fields = (
        Field("a", form=FieldForm.FEATURE, required=True, description=ONE),
        Field("b", form=FieldForm.FEATURE, required=True, description=ONE),
        Field("along", form=FieldForm.WORD, words=("shortest", "x", "y"), description="the way, or only along an axis: "
              "with its sign then, from a to b"),
        Field("signed", form=FieldForm.FLAG, description="from a line with its sign: to its left positive"),
    )  # fmt: skip
    named = True

    def at(self, measure: "Measure", motion: "Sampled", t: Array) -> Array:
        q = motion.positions(t)
        return distance(measure, lambda part: q[:, motion.system.body(part)], motion.point)


class Angle(OverTime):
    name, title = "angle", "Angle"
    description = "from the line a to the line b, counter-clockwise, counted on over full turns"
    fields = (
        Field("a", form=FieldForm.LINE, required=True, description=LINE),
        Field("b", form=FieldForm.LINE, required=True, description=LINE),
    )  # fmt: skip
    dimension, named = Dimension.ANGLE, True

    def at(self, measure: "Measure", motion: "Motion", t: Array) -> Array:
        """It counts on over full turns from where it starts, within half a turn."""
        found, start = (self._turned(measure, motion, some) for some in (t, np.zeros(1)))
        counted: Array = found - 2 * np.pi * np.round(start / (2 * np.pi))
        return counted

    def _turned(self, measure: "Measure", motion: "Motion", t: Array) -> Array:
        q = motion.positions(t)
        return angle(measure, motion.document, lambda part: q[:, motion.system.body(part)])


class Measured(MeasureType):
    name, title = "measured", "Measured value"
    description = "a measure of the document, all along"
    fields = (Field("of", form=FieldForm.MEASURE, required=True, description="the measure"),)
    dimension = None


def taken(measure: "Measure", document: "Document", stands: Stands) -> Array:
    """A named measure (S,) where parts stand so; an angle with the turns of its parts."""
    if measure.kind == Angle.name:
        return angle(measure, document, stands)
    return distance(measure, stands, lambda ref: document.parts[ref.part].place(ref.point))


def distance(measure: "Measure", stands: Stands, places: Places) -> Array:
    """(S,) between two points; of a point from a line; of two lines, of the second's first point from the first; or
    along an axis of the frame, from a to b."""
    a, b = ([in_plane(stands(ref.part), places(ref)) for ref in side] for side in (measure.a, measure.b))
    if (along := measure.values.get("along", "shortest")) != "shortest":
        way = b[0] - a[0]
        component: Array = way.real if along == "x" else way.imag
        return component
    if len(a) == len(b) == 1:
        gap: Array = np.abs(b[0] - a[0])
        return gap
    line, point = (a, b[0]) if len(a) == 2 else (b, a[0])
    way = line[1] - line[0]
    aside: Array = (way.conj() * (point - line[0])).imag / np.abs(way)
    return aside if measure.values.get("signed") else np.abs(aside)


def in_plane(at: Array, place: tuple[float | Array, float | Array]) -> Plane:
    """(S,) where a place of a part that stands so (S, 3) lies in the plane, as x + i y."""
    x, y = place
    found: Plane = at[:, 0] + 1j * at[:, 1] + (x + 1j * y) * np.exp(1j * at[:, 2])
    return found


def angle(measure: "Measure", document: "Document", stands: Stands) -> Array:
    """(S,) from one line to another, counted on with their parts."""
    turned: Array = _direction(document, measure.b, stands) - _direction(document, measure.a, stands)
    return turned


def _direction(document: "Document", side: "tuple[PointRef, ...]", stands: Stands) -> Array:
    turned: Array = stands(side[0].part)[:, 2]
    if not side[0].point:
        return turned
    points = document.parts[side[0].part].points
    one, two = (complex(*points[ref.point]) for ref in side)
    return turned + cmath.phase(two - one)
