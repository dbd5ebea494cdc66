"""Measures of a point, and of the path that it traces."""

import cmath
from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array, Plane
from ..kinds import Dimension, Field, FieldForm
from .base import ON, POINT, Infinite, OverTime, OverWhole
from .extremes import Ends, located_ends, smooth_spans
from .jolts import drops, jumps

if TYPE_CHECKING:
    from ..document.model import Measure
    from ..kinematics.motion import Motion
    from ..kinematics.traces import TracePath

CERTAIN, ROUNDS = 1e-9, 40
"""How closely the width of a band is found, as a share of the path's size, and how many directions are tried for it."""


def traced(measure: "Measure", motion: "Motion", t: Array) -> "TracePath":
    """Place, velocity and acceleration of the point at times t (S,)."""
    from ..document.model import Trace
    from ..kinematics.traces import trace

    return trace(motion, motion.at(t), Trace("", measure.a[0], measure.values.get("on")))


class Place(OverTime):
    name, title = "place", "Place"
    description = "where a point is along an axis"
    fields = (POINT, Field("axis", form=FieldForm.WORD, words=("x", "y"), description="the axis"), ON)

    def at(self, measure: "Measure", motion: "Motion", t: Array) -> Array:
        return traced(measure, motion, t).place[:, ("x", "y").index(measure.values["axis"])]


class Speed(OverTime):
    name, title = "speed", "Speed"
    description = "of a point"
    fields, dimension = (POINT, ON), Dimension.LINEAR_RATE

    def at(self, measure: "Measure", motion: "Motion", t: Array) -> Array:
        size: Array = np.hypot(*traced(measure, motion, t).velocity.T)
        return size

    def infinite(self, measure: "Measure", motion: "Motion") -> list[Infinite]:
        return drops(motion, lambda t: traced(measure, motion, t).place)


class PointAcceleration(OverTime):
    name, title = "point_acceleration", "Acceleration of a point"
    description = "its size; infinite at a jolt"
    fields, dimension = (POINT, ON), Dimension.LINEAR_ACCELERATION

    def at(self, measure: "Measure", motion: "Motion", t: Array) -> Array:
        size: Array = np.hypot(*traced(measure, motion, t).acceleration.T)
        return size

    def infinite(self, measure: "Measure", motion: "Motion") -> list[Infinite]:
        found = drops(motion, lambda t: traced(measure, motion, t).place)
        return [*jumps(motion, lambda t: traced(measure, motion, t).velocity), *found]


class Straightness(OverWhole):
    name, title = "straightness", "Straightness"
    description = "width of the narrowest straight band that holds a traced path, or of that along a direction"
    fields = (
        Field("trace", form=FieldForm.TRACE, required=True, description="the trace"),
        Field("direction", Dimension.ANGLE, description="of the band"),
    )  # fmt: skip
    grows = True

    def value(self, measure: "Measure", motion: "Motion") -> tuple[float, float]:
        """The least width of a band between two parallel lines that holds the path (the minimum zone of ISO 1101 in a
        plane), along a direction where one is given; else it lies along an edge of the path's convex hull. No band is
        narrower than that of some points of the path, and that of the path in one direction is known; points are added
        until both agree."""
        path = _path(measure, motion, motion.chebyshev)
        if "direction" in measure.values:
            return _width(measure, motion, cmath.exp(1j * measure.values["direction"]))[:2]
        size = float(np.ptp(np.stack((path.real, path.imag)), axis=1).max())
        best = (np.inf, 0.0)
        for _ in range(ROUNDS):
            along, least = narrowest(path)
            width, t, ends = _width(measure, motion, along)
            best = min(best, (width, t))
            if best[0] - least <= CERTAIN * size:
                break
            path = np.append(path, _path(measure, motion, np.array([ends.low_t, ends.high_t])))
        return best


def _path(measure: "Measure", motion: "Motion", t: Array) -> Plane:
    from ..kinematics.traces import trace

    place: Plane = trace(motion, motion.at(t), motion.document.traces[measure.trace]).place @ np.array([1, 1j])
    return place


def _width(measure: "Measure", motion: "Motion", along: complex) -> tuple[float, float, Ends]:
    """How wide the band along a direction is, a time at which the path is at its edge, and its ends."""

    def across(t: Array, _: object) -> Array:
        off: Array = (_path(measure, motion, t) * np.conj(along)).imag / abs(along)
        return off

    ends = located_ends(across, smooth_spans(motion), motion.chebyshev).of(0)
    return ends.high - ends.low, ends.high_t, ends


def narrowest(path: Plane) -> tuple[complex, float]:
    """The direction of the narrowest band that holds some points (S,), and its width."""
    from scipy.spatial import ConvexHull, QhullError

    points = np.stack((path.real, path.imag), axis=1)
    size = float(np.ptp(points, axis=0).max())
    try:
        corners = path[ConvexHull(points).vertices]
    except QhullError:  # all on one line, or at one point
        far = complex(path[int(np.argmax(np.abs(path - path[0])))] - path[0])
        return (1 + 0j, 0.0) if size == 0.0 else (far, float(np.ptp(((path - path[0]) * np.conj(far)).imag)) / abs(far))
    edges = np.roll(corners, -1) - corners
    edges = edges[np.abs(edges) > 1e-12 * size]
    widths = [float(np.ptp((corners * np.conj(edge)).imag)) / abs(edge) for edge in edges]
    k = int(np.argmin(widths))
    return complex(edges[k]), widths[k]
