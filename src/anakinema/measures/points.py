"""Measures of a point, and of the path that it traces."""

import cmath
from collections.abc import Callable
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


AXIS = Field("axis", form=FieldForm.WORD, words=("x", "y"), description="the axis")


class VelocityAlong(OverTime):
    name, title = "velocity_along", "Velocity along an axis"
    description = "vx or vy of a point"
    fields, dimension = (POINT, AXIS, ON), Dimension.LINEAR_RATE

    def at(self, measure: "Measure", motion: "Motion", t: Array) -> Array:
        return along(measure, traced(measure, motion, t).velocity)

    def infinite(self, measure: "Measure", motion: "Motion") -> list[Infinite]:
        return drops(motion, lambda t: along(measure, traced(measure, motion, t).place))


class AccelerationAlong(OverTime):
    name, title = "acceleration_along", "Acceleration along an axis"
    description = "ax or ay of a point; infinite at a jolt"
    fields, dimension = (POINT, AXIS, ON), Dimension.LINEAR_ACCELERATION

    def at(self, measure: "Measure", motion: "Motion", t: Array) -> Array:
        return along(measure, traced(measure, motion, t).acceleration)

    def infinite(self, measure: "Measure", motion: "Motion") -> list[Infinite]:
        found = drops(motion, lambda t: along(measure, traced(measure, motion, t).place))
        return [*jumps(motion, lambda t: along(measure, traced(measure, motion, t).velocity)), *found]


def along(measure: "Measure", rows: Array) -> Array:
    """(S,) of places or rates (S, 2) what is along the measure's axis."""
    return rows[:, ("x", "y").index(measure.values["axis"])]


class PartRate(OverTime):
    name, title = "part_rate", "Angular rate of a part"
    description = "how fast a part turns against the frame, counter-clockwise positive"
    fields = (Field("part", form=FieldForm.PART, required=True, description="the part"),)
    dimension = Dimension.ANGULAR_RATE
    first_bound = "both"

    def at(self, measure: "Measure", motion: "Motion", t: Array) -> Array:
        return motion.at(t).v[:, motion.system.body(measure.values["part"]), 2]

    def infinite(self, measure: "Measure", motion: "Motion") -> list[Infinite]:
        body = motion.system.body(measure.values["part"])
        return drops(motion, lambda t: motion.at(t).q[:, body, 2])


class PathLength(OverWhole):
    name, title = "path_length", "Length of a path"
    description = "how long the way is that a trace runs over the motion"
    fields = (Field("trace", form=FieldForm.TRACE, required=True, description="the trace"),)
    grows = in_part = slow = True

    def value(self, measure: "Measure", motion: "Motion") -> tuple[float, float]:
        """The integral of the speed, by Gauss's rule on each smooth stretch of the motion, which is halved until both
        halves agree with the whole; what drops runs along its drop."""
        return self._along(measure, motion, smooth_spans(motion)), motion.path.t1

    def ends_over(self, measure: "Measure", motion: "Motion", spans: Array) -> Ends:
        length, t = self._along(measure, motion, spans), float(spans.max())
        return Ends(length, t, length, t)

    def _along(self, measure: "Measure", motion: "Motion", over: Array) -> float:
        from ..kinematics.traces import trace

        wanted = motion.document.traces[measure.trace]

        def speed(t: Array) -> Array:
            found: Array = np.hypot(*trace(motion, motion.at(t), wanted).velocity.T)
            return found

        total = 0.0
        open_ = [(float(a), float(b)) for a, b in over]
        size = float(np.hypot(*np.ptp(trace(motion, motion.at(motion.grid), wanted).place, axis=0)))
        for _ in range(HALVED):
            if not open_ or len(open_) > MOST_HALVED:  # rounding: no halving helps
                break
            spans = np.array(open_)
            middle = spans.mean(axis=1)
            halves = np.concatenate((np.stack((spans[:, 0], middle), axis=1), np.stack((middle, spans[:, 1]), axis=1)))
            whole = _gauss(speed, spans)
            both = _gauss(speed, halves).reshape(2, -1).sum(axis=0)
            good = np.abs(whole - both) <= CERTAIN * np.maximum(size, np.abs(both))
            total += float(both[good].sum())
            open_ = [pair for k in np.flatnonzero(~good).tolist()
                     for pair in ((spans[k, 0], middle[k]), (middle[k], spans[k, 1]))]  # fmt: skip
        if open_:
            total += float(_gauss(speed, np.array(open_)).sum())
        fell = drops(motion, lambda t: trace(motion, motion.at(t), wanted).place)
        for one in fell:
            if not ((over[:, 0] <= one.t) & (over[:, 1] >= one.t)).any():
                continue
            ends = trace(motion, motion.at(np.array([np.nextafter(one.t, -np.inf), one.t])), wanted).place
            total += float(np.hypot(*(ends[1] - ends[0])))
        return total


HALVED, MOST_HALVED = 12, 20_000
"""How often a stretch is halved for the length of a path: a cusp needs it; and stretches beyond which none is."""
GAUSS = np.polynomial.legendre.leggauss(12)


def _gauss(speed: Callable[[Array], Array], spans: Array) -> Array:
    """(I,) integrals over spans (I, 2)."""
    nodes, weights = GAUSS
    half = (spans[:, 1] - spans[:, 0]) / 2
    t = spans.mean(axis=1)[:, None] + half[:, None] * nodes
    found: Array = (speed(t.ravel()).reshape(t.shape) * weights).sum(axis=1) * half
    return found


class Straightness(OverWhole):
    name, title = "straightness", "Straightness"
    description = "width of the narrowest straight band that holds a traced path, or of that along a direction"
    fields = (
        Field("trace", form=FieldForm.TRACE, required=True, description="the trace"),
        Field("direction", Dimension.ANGLE, description="of the band"),
    )  # fmt: skip
    grows = slow = True

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
