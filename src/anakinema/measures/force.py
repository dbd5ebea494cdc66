"""Measures of how force is passed on: transmission angle, pressure angle, mechanical advantage."""

from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array
from ..errors import located
from ..kinds import Dimension, Field, FieldForm
from .base import JOINT, OfNumbers, OverTime, column, kept, refuse_suspended
from .extremes import BOTH, CLOSE, Ends, located_ends, sample_times, smooth_spans
from .influence import tells, unit_rates
from .transmission import LINES, Pressure, Transmission

if TYPE_CHECKING:
    from ..document.model import Joint, Measure
    from ..kinematics.motion import Motion, Sampled


class TransmissionAngle(OfNumbers):
    name, title = "transmission_angle", "Transmission angle"
    description = "at a joint between two moving links, 0 to 90°"
    fields, dimension, of_joint, first_bound = (JOINT,), Dimension.ANGLE, True, "at_least"

    def suits(self, joint: "Joint") -> bool:
        return joint.kind.pin

    fold = LINES

    def at(self, measure: "Measure", motion: "Sampled", t: Array) -> Array:
        return LINES(self.unfolded(measure, motion, t))

    def unfolded(self, measure: "Measure", motion: "Sampled", t: Array) -> Array:
        name = measure.joint
        return kept(motion, (self.name, name), lambda: Transmission(motion.document, name))(motion, t)


class PressureAngle(OverTime):
    name, title = "pressure_angle", "Pressure angle"
    description = (
        "between the force on a follower and its way, 0 to 90°: at a pin in a slot, a contact, a coupler's end"
    )
    fields, dimension, of_joint = (JOINT,), Dimension.ANGLE, True

    def suits(self, joint: "Joint") -> bool:
        return joint.kind.press is not None

    fold = LINES

    def at(self, measure: "Measure", motion: "Motion", t: Array) -> Array:
        return LINES(self.unfolded(measure, motion, t))

    def unfolded(self, measure: "Measure", motion: "Motion", t: Array) -> Array:
        name = measure.joint
        return kept(motion, (self.name, name), lambda: Pressure(motion.document, name))(motion, t)


class MechanicalAdvantage(OverTime):
    """By the balance of power, friction left out, all other drivers holding still: F_joint / F_driver is what the
    driver moves for each unit that the joint moves."""

    name, title = "mechanical_advantage", "Mechanical advantage"
    description = (
        "output per input: force or torque at a joint for each unit at a driver, the driver's rate over the joint's; "
        "its size, or with its sign: positive where both coordinates grow"
    )
    fields = (
        JOINT, Field("driver", form=FieldForm.DRIVER, description="the driver, else the first"),
        Field("signed", form=FieldForm.FLAG, description="with its sign"),
    )  # fmt: skip
    dimension, of_joint, first_bound = Dimension.NUMBER, True, "at_least"

    def at(self, measure: "Measure", motion: "Motion", t: Array) -> Array:
        with np.errstate(divide="ignore"):
            gain: Array = 1.0 / moved_by_driver(motion, measure.joint, t, driver_of(measure, motion))
        return gain if measure.values.get("signed") else np.abs(gain)

    def ends(self, measure: "Measure", motion: "Motion", ways: tuple[float, ...] = BOTH) -> Ends:
        return self._over(measure, motion, smooth_spans(motion), motion.chebyshev)

    def ends_over(self, measure: "Measure", motion: "Motion", spans: Array) -> Ends:
        return self._over(measure, motion, spans, sample_times(spans).ravel())

    def _over(self, measure: "Measure", motion: "Motion", spans: Array, first: Array) -> Ends:
        """By its inverse, for it grows without bound where the joint stands still."""
        refuse_suspended(measure, motion.document)
        name, driver = measure.joint, driver_of(measure, motion)
        ratio = located_ends(lambda t, _: moved_by_driver(motion, name, t, driver), spans, first).of(0)
        if measure.values.get("signed"):
            return self._signed(name, ratio)
        (most, most_t), (least, least_t) = sorted(
            ((abs(ratio.low), ratio.low_t), (abs(ratio.high), ratio.high_t)), reverse=True
        )
        still = ratio.low <= 0.0 <= ratio.high or least <= CLOSE * most + ratio.missed
        if still:
            least_t = self._standing(motion, name, ratio, driver)
        low = 1.0 / most if most > 0.0 else np.inf
        missed = low - 1.0 / (most + ratio.missed) if most > 0.0 else 0.0
        if still:
            return Ends(low, most_t, np.inf, least_t, missed, high_why=self._why(name))
        missed = max(missed, 1.0 / (least - ratio.missed) - 1.0 / least)
        return Ends(low, most_t, 1.0 / least, least_t, missed)

    def _signed(self, name: str, ratio: Ends) -> Ends:
        """With its sign: where the joint stands still it goes to infinity, on both sides where the joint turns back."""
        size, slack = max(abs(ratio.low), abs(ratio.high)), ratio.missed
        if ratio.low > CLOSE * size + slack or ratio.high < -CLOSE * size - slack:
            ends = (1.0 / ratio.high, ratio.high_t, 1.0 / ratio.low, ratio.low_t)
            nearest = min(abs(ratio.low), abs(ratio.high))
            return Ends(*ends, 1.0 / (nearest - slack) - 1.0 / nearest)
        why = self._why(name)
        falls = ratio.low < -CLOSE * size - slack or size == 0.0
        rises = ratio.high > CLOSE * size + slack or size == 0.0
        low = (-np.inf, ratio.low_t) if falls else (1.0 / ratio.high, ratio.high_t)
        high = (np.inf, ratio.high_t) if rises else (1.0 / ratio.low, ratio.low_t)
        return Ends(*low, *high, low_why=why if falls else "", high_why=why if rises else "")

    @staticmethod
    def _why(name: str) -> str:
        return f"infinite: joint '{name}' stands still while the driver moves"

    def _standing(self, motion: "Motion", name: str, ratio: Ends, driver: int) -> float:
        """A time at which the joint stands still."""
        from scipy.optimize import brentq

        if ratio.low < 0.0 < ratio.high:
            ends = sorted((ratio.low_t, ratio.high_t))
            return float(brentq(lambda t: moved_by_driver(motion, name, np.array([t]), driver)[0], *ends, xtol=1e-14))
        return ratio.low_t if abs(ratio.low) < abs(ratio.high) else ratio.high_t


def driver_of(measure: "Measure", motion: "Motion") -> int:
    """The number of the driver of which a measure speaks. Raises `DocumentError` where nothing is driven."""
    if not motion.drive.drivers:
        raise located("drivers", "nothing is driven")
    name = measure.values.get("driver")
    return next((k for k, one in enumerate(motion.drive.drivers) if one.id == name), 0)


def moved_by_driver(motion: "Motion", joint: str, t: Array, driver: int = 0) -> Array:
    """(S,) how far a joint moves for each unit of a driver, by its number, the others holding, at times t (S,), in core
    units; positive where both grow. Infinite at a dead point of the driver."""
    own, first = column(motion, joint), column(motion, motion.drive.drivers[driver].joint)
    rates, moving = motion.at(t).rates, tells(motion, t, driver)
    found = np.empty(t.size)
    found[moving] = rates[moving, own] / rates[moving, first]
    still = np.flatnonzero(~moving)
    if still.size:
        by_driver = [_influence(motion, k, t[still], driver) for k in (own, first)]
        found[still] = by_driver[0] / by_driver[1]
    return found


def _influence(motion: "Motion", k: int, t: Array, driver: int) -> Array:
    """(S,) how fast a coordinate goes where a driver goes at unit rate (dimensionless) and all others hold."""
    v, regular = unit_rates(motion, t, driver)
    rates = motion.system.coordinates.rates(motion.path.positions(t), v, 0 * v)[0]
    return np.where(regular, rates[:, k] * motion.lengths[k], np.inf)
