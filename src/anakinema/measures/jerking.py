"""Jerk: how fast an acceleration changes, of a joint or of a point.

Accelerations are exact at the Chebyshev points between two nodes of a motion; jerk is the derivative of the polynomial
through them. It is infinite where an acceleration jumps: at the ends of a parabolic or a harmonic segment, at a start
from rest at full acceleration.
"""

import math
from collections.abc import Callable
from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array
from ..kinds import Dimension
from .base import JOINT, ON, POINT, Infinite, OverTime, column, kept
from .extremes import POINTS, derivative, sample_times, smooth_spans, usual_rate
from .jolts import drops, jumps
from .points import AXIS, along, traced

if TYPE_CHECKING:
    from ..document.model import Measure
    from ..kinematics.motion import Motion

Along = Callable[[Array], Array]
"""A quantity (S,) or (S, 2) at times (S,)."""
SMALL = 1e-5
"""Share of the greatest acceleration by which it may jump without its jerk being infinite: what nodes miss."""
SKIPPED = "infinite: the acceleration jumps there"


def changing(motion: "Motion", key: tuple[object, ...], acceleration: Along, t: Array) -> Array:
    """(S,) or (S, 2) the derivative of an acceleration at times t (S,)."""

    def known() -> tuple[Array, Array]:
        spans = smooth_spans(motion)
        found = acceleration(motion.chebyshev)
        return spans, found.reshape(len(spans), POINTS, -1)

    spans, samples = kept(motion, ("jerk", *key), known)
    which = np.clip(np.searchsorted(spans[:, 0], t, side="left") - 1, 0, len(spans) - 1)
    low, high = spans[which].T
    width = np.where(high > low, high - low, math.inf)
    share = np.clip(2.0 * (t - low) / width - 1.0, -1.0, 1.0)
    found: Array = derivative(samples[which], share) * (2.0 / width)[:, None]
    return found[:, 0] if found.shape[1] == 1 else found


def skips(motion: "Motion", acceleration: Along) -> list[Infinite]:
    """Where an acceleration jumps between two smooth stretches, or at the ends of the motion: before and after it
    everything stands still, unless the drivers run on."""
    spans = smooth_spans(motion)
    times = sample_times(spans)
    first, last = (acceleration(times[:, k].copy()).reshape(len(spans), -1) for k in (0, -1))
    size = np.max([usual_rate(acceleration(motion.grid).reshape(motion.grid.size, -1)).max(initial=0.0), 1e-300])
    moments = [(float(spans[k + 1, 0]), first[k + 1] - last[k]) for k in range(len(spans) - 1)
               if spans[k + 1, 0] - spans[k, 1] <= 1e-9 * motion.planned]  # fmt: skip
    if not motion.runs_on:
        moments.insert(0, (float(spans[0, 0]), first[0]))
        if motion.stop is None:
            moments.append((float(spans[-1, 1]), -last[-1]))
    found = []
    for t, change in moments:
        if float(np.hypot(change[0], change[-1] if change.size > 1 else 0.0)) > SMALL * size:
            found.append(Infinite(t, 1.0 if change.size > 1 or change[0] > 0 else -1.0, SKIPPED))
    return found


class Jerk(OverTime):
    name, title = "jerk", "Jerk"
    description = "how fast the acceleration of a joint's coordinate changes; infinite where that jumps"
    fields, dimension, order, of_joint = (JOINT,), None, 3, True
    first_bound = "both"

    def at(self, measure: "Measure", motion: "Motion", t: Array) -> Array:
        return changing(motion, (measure.joint,), self._acceleration(measure, motion), t)

    def infinite(self, measure: "Measure", motion: "Motion") -> list[Infinite]:
        k = column(motion, measure.joint)
        jolted = jumps(motion, lambda t: motion.at(t).rates[:, k])
        fallen = drops(motion, lambda t: motion.coordinates(t)[:, k])
        return [*jolted, *fallen, *skips(motion, self._acceleration(measure, motion))]

    @staticmethod
    def _acceleration(measure: "Measure", motion: "Motion") -> Along:
        k = column(motion, measure.joint)
        return lambda t: motion.at(t).accelerations[:, k]


class JerkAlong(OverTime):
    name, title = "jerk_along", "Jerk along an axis"
    description = "how fast ax or ay of a point changes; infinite where that jumps"
    fields, dimension, first_bound = (POINT, AXIS, ON), Dimension.LINEAR_JERK, "both"

    def at(self, measure: "Measure", motion: "Motion", t: Array) -> Array:
        key = str(measure.a[0]), measure.values["axis"], measure.values.get("on")
        return changing(motion, key, lambda t: along(measure, traced(measure, motion, t).acceleration), t)

    def infinite(self, measure: "Measure", motion: "Motion") -> list[Infinite]:
        return _of_point(motion, lambda what, t: along(measure, getattr(traced(measure, motion, t), what)))


class PointJerk(OverTime):
    name, title = "point_jerk", "Jerk of a point"
    description = "its size; infinite where the acceleration jumps"
    fields, dimension = (POINT, ON), Dimension.LINEAR_JERK

    def at(self, measure: "Measure", motion: "Motion", t: Array) -> Array:
        key = str(measure.a[0]), measure.values.get("on")
        size: Array = np.hypot(*changing(motion, key, lambda t: traced(measure, motion, t).acceleration, t).T)
        return size

    def infinite(self, measure: "Measure", motion: "Motion") -> list[Infinite]:
        return _of_point(motion, lambda what, t: getattr(traced(measure, motion, t), what))


def _of_point(motion: "Motion", taken: Callable[[str, Array], Array]) -> list[Infinite]:
    return [*jumps(motion, lambda t: taken("velocity", t)), *drops(motion, lambda t: taken("place", t)),
            *skips(motion, lambda t: taken("acceleration", t))]  # fmt: skip
