"""Measures of how a joint goes to and fro: how long it rests, how often it turns back, the ratio of its strokes."""

from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array
from ..errors import located
from ..kinds import Dimension, Field, FieldForm
from .base import JOINT, OverWhole, column
from .dwelling import STILL
from .extremes import usual_rate

if TYPE_CHECKING:
    from ..document.model import Measure
    from ..kinematics.motion import Motion


class Dwell(OverWhole):
    name, title = "dwell", "Dwell"
    description = "the longest time for which a joint stands still"
    fields = (
        JOINT, Field("within", form=FieldForm.AMOUNT,
                     description="what still counts as still, else 0.5 % of its travel"),
    )  # fmt: skip
    dimension, of_joint, first_bound = Dimension.TIME, True, "at_least"

    def value(self, measure: "Measure", motion: "Motion") -> tuple[float, float]:
        from .dwelling import longest_rest

        start, stop = longest_rest(motion, column(motion, measure.joint), self._within(measure, motion))
        return stop - start, start

    def remark(self, measure: "Measure", motion: "Motion") -> tuple[str, float]:
        words = "still while it stays within" if "within" in measure.values else (
            f"still while it stays within {100 * STILL:g} % of its travel,")  # fmt: skip
        return words, self._within(measure, motion)

    @staticmethod
    def _within(measure: "Measure", motion: "Motion") -> float:
        """What still counts as still (core units)."""
        k = column(motion, measure.joint)
        travel = float(motion.extremes.high[k] - motion.extremes.low[k])
        return float(measure.values.get("within", STILL * travel))


class Reversals(OverWhole):
    name, title = "reversals", "Reversals"
    description = "how often a joint turns back"
    fields, dimension, of_joint, grows = (JOINT,), Dimension.NUMBER, True, True

    def value(self, measure: "Measure", motion: "Motion") -> tuple[float, float]:
        """Turning points of the coordinate; how it rests between does not count."""
        t, rates = fine_rates(motion, column(motion, measure.joint))
        moving = np.flatnonzero(np.abs(rates) > 1e-9 * usual_rate(rates[:, None])[0])
        turned = np.flatnonzero(np.diff(np.sign(rates[moving])))
        return float(turned.size), float(t[moving[turned[0] + 1]]) if turned.size else 0.0


class TimeRatio(OverWhole):
    name, title = "time_ratio", "Time ratio"
    description = "the slower over the faster of the two strokes of a joint that comes back"
    fields, dimension, of_joint, first_bound = (JOINT,), Dimension.NUMBER, True, "at_least"

    def value(self, measure: "Measure", motion: "Motion") -> tuple[float, float]:
        found = time_ratio(motion, column(motion, measure.joint))
        if found is None:
            text = f"joint '{measure.joint}' does not go out and come back once in this motion"
            raise located(f"joints.{measure.joint}", text)
        return found, float(motion.extremes.high_t[column(motion, measure.joint)])


def time_ratio(motion: "Motion", k: int) -> float | None:
    """The slower over the faster of the two strokes of a coordinate that goes out and comes back in one motion (≥ 1);
    None where it doesn't end where it began, or has other than two turning points."""
    state, found = motion.sampled, motion.extremes
    ends = state.coordinates[[0, -1], k]
    travel = float(found.high[k] - found.low[k])
    if travel <= 1e-12 or abs(ends[1] - ends[0]) > 1e-6 * travel:
        return None
    rates = state.rates[:, k]
    signs = np.sign(rates[np.abs(rates) > 1e-6 * usual_rate(rates[:, None])[0]])
    if not signs.size or np.count_nonzero(np.diff(signs)) + (signs[0] != signs[-1]) > 2:
        return None
    way = abs(float(found.high_t[k] - found.low_t[k]))
    back = motion.path.t1 - way
    return max(way, back) / min(way, back) if min(way, back) > 0 else None


def fine_rates(motion: "Motion", k: int) -> tuple[Array, Array]:
    """Times (S,) and the rates (S,) of a coordinate there, by the polynomials through its Chebyshev points: so fine
    that what turns back between two samples does not hide."""
    from .extremes import FINE, POINTS, interpolated

    rates = motion.between.rates[:, k].reshape(-1, POINTS)
    t = motion.chebyshev.reshape(-1, POINTS)
    share = np.linspace(0.0, 1.0, FINE)
    return (t[:, :1] + (t[:, -1:] - t[:, :1]) * share).ravel(), interpolated(rates).ravel()
