"""Measures of a joint's coordinate."""

from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array
from ..errors import located
from ..kinds import Dimension, Field, FieldForm
from .base import JOINT, Infinite, OfNumbers, OverTime, OverWhole, column, refuse_suspended
from .extremes import BOTH, Ends
from .jolts import drops, jumps

if TYPE_CHECKING:
    from ..document.model import Joint, Measure
    from ..kinematics.motion import Motion, Sampled


class Travel(OverWhole):
    name, title = "travel", "Travel"
    description = "greatest less least of a joint's coordinate"
    fields, dimension, of_joint = (JOINT,), None, True
    first_bound = "at_least"
    grows = in_part = True

    def value(self, measure: "Measure", motion: "Motion") -> tuple[float, float]:
        k, found = column(motion, measure.joint), motion.extremes
        return float(found.high[k] - found.low[k]), float(found.high_t[k])

    def ends_over(self, measure: "Measure", motion: "Motion", spans: Array) -> Ends:
        found = Coordinate().ends_over(measure, motion, spans)
        travel = found.high - found.low
        return Ends(travel, found.high_t, travel, found.high_t, 2 * found.missed)


class Coordinate(OverTime):
    name, title = "coordinate", "Coordinate"
    description = "a joint's coordinate, all along"
    fields, dimension, of_joint = (JOINT,), None, True

    def at(self, measure: "Measure", motion: "Motion", t: Array) -> Array:
        return motion.coordinates(t)[:, column(motion, measure.joint)]

    def ends(self, measure: "Measure", motion: "Motion", ways: tuple[float, ...] = BOTH) -> Ends:
        refuse_suspended(measure, motion.document)
        k, found = column(motion, measure.joint), motion.extremes
        return Ends(float(found.low[k]), float(found.low_t[k]), float(found.high[k]), float(found.high_t[k]))


class Velocity(OfNumbers):
    name, title = "velocity", "Velocity"
    description = "how fast a joint's coordinate changes"
    fields, dimension, order, of_joint = (JOINT,), None, 1, True
    first_bound = "both"

    def at(self, measure: "Measure", motion: "Sampled", t: Array) -> Array:
        return motion.rates(t, column(motion, measure.joint))[0]

    def infinite(self, measure: "Measure", motion: "Motion") -> list[Infinite]:
        return drops(motion, lambda t: motion.coordinates(t)[:, column(motion, measure.joint)])


class Acceleration(OfNumbers):
    name, title = "acceleration", "Acceleration"
    description = "how fast its velocity changes; infinite at a jolt"
    fields, dimension, order, of_joint = (JOINT,), None, 2, True
    first_bound = "both"

    def at(self, measure: "Measure", motion: "Sampled", t: Array) -> Array:
        return motion.rates(t, column(motion, measure.joint))[1]

    def infinite(self, measure: "Measure", motion: "Motion") -> list[Infinite]:
        k = column(motion, measure.joint)
        fallen = drops(motion, lambda t: motion.coordinates(t)[:, k])
        return [*jumps(motion, lambda t: motion.at(t).rates[:, k]), *fallen]


class EndGap(OverTime):
    name, title = "end_gap", "Gap to the ends"
    description = "how far a joint keeps from the nearer end of its limits"
    fields, dimension, of_joint = (JOINT,), None, True
    first_bound = "at_least"

    def suits(self, joint: "Joint") -> bool:
        return joint.limits.min is not None or joint.limits.max is not None

    def at(self, measure: "Measure", motion: "Motion", t: Array) -> Array:
        limits = motion.document.joints[measure.joint].limits
        values = motion.coordinates(t)[:, column(motion, measure.joint)]
        gaps = [values - limits.min] if limits.min is not None else []
        gaps += [limits.max - values] if limits.max is not None else []
        if not gaps:
            raise located(f"joints.{measure.joint}", f"joint '{measure.joint}' has no limits")
        least: Array = np.minimum.reduce(gaps)
        return least


class OutOfRatio(OverTime):
    name, title = "out_of_ratio", "Out of ratio"
    description = "how far a joint is from its share of another's way since the start"
    fields = (
        JOINT, Field("against", form=FieldForm.JOINT, required=True, description="the other joint"),
        Field("ratio", Dimension.NUMBER, description="the share, else 1, in document units"),
    )  # fmt: skip
    dimension = None

    def at(self, measure: "Measure", motion: "Motion", t: Array) -> Array:
        both = [column(motion, measure.joint), column(motion, measure.values["against"])]
        gone = motion.coordinates(t)[:, both] - motion.coordinates(np.zeros(1))[:, both]
        coordinates, units = motion.system.coordinates, motion.document.units
        own, other = (coordinates.dimension(k).per_core(units) for k in both)
        off: Array = gone[:, 0] - measure.values.get("ratio", 1.0) * gone[:, 1] * other / own
        return np.abs(off)
