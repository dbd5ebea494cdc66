"""Checks: what the design must do, judged with a value, a margin and the place where it is worst."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from ..clearance.approach import Approach
from ..document.model import Check
from ..joints import JOINT_TYPES
from ..kinematics.motion import Motion
from .transmission import transmission_angle


@dataclass(frozen=True)
class Verdict:
    """A judged check. `value` and `margin` are in core units (document lengths, rad); `margin` is what is left to the
    nearer bound, negative when the check fails. `t` and `driver` say where it is worst. A clearance check on parts
    that never share depth passes with no value."""

    check: Check
    dimension: str
    value: float | None
    margin: float | None
    t: float
    driver: float | None

    @property
    def passed(self) -> bool:
        """Whether the check holds; a hair of rounding (1e-9) is forgiven."""
        return self.margin is None or self.margin >= -1e-9


def judge(motion: Motion, approaches: Mapping[frozenset[str], Approach]) -> dict[str, Verdict]:
    """Every check of the document."""
    return {check.id: _judged(motion, check, approaches) for check in motion.document.checks.values()}


def _judged(motion: Motion, check: Check, approaches: Mapping[frozenset[str], Approach]) -> Verdict:
    if check.measure == "clearance":
        assert check.parts is not None
        approach = approaches.get(frozenset(check.parts))
        if approach is None:
            return Verdict(check, "length", None, None, 0.0, motion.driver_value(0.0))
        return _verdict(motion, check, "length", (approach.distance, approach.t))
    assert check.joint is not None
    if motion.document.joints[check.joint].suspended:
        return Verdict(check, "length", None, None, 0.0, motion.driver_value(0.0))
    if check.measure == "transmission_angle":
        low, low_t, high, high_t = transmission_angle(motion, check.joint)
        return _verdict(motion, check, "angle", (low, low_t), (high, high_t))
    column, found = motion.system.coordinates.index(check.joint), motion.extremes
    joint = motion.document.joints[check.joint]
    dimension = JOINT_TYPES[joint.type].coordinate_dimension(joint.values) or "length"
    low, high = float(found.low[column]), float(found.high[column])
    low_t, high_t = float(found.low_t[column]), float(found.high_t[column])
    if check.measure == "travel":
        return _verdict(motion, check, dimension, (high - low, high_t))
    return _verdict(motion, check, dimension, (low, low_t), (high, high_t))


def _verdict(
    motion: Motion,
    check: Check,
    dimension: str,
    least: tuple[float, float],
    greatest: tuple[float, float] | None = None,
) -> Verdict:
    """`at_least` is held against the least value, `at_most` against the greatest; the tighter one is told."""
    greatest = greatest or least
    options = []
    if check.at_least is not None:
        options.append((least[0] - check.at_least, *least))
    if check.at_most is not None:
        options.append((check.at_most - greatest[0], *greatest))
    margin, value, t = min(options)
    return Verdict(check, dimension, value, float(np.float64(margin)), t, motion.driver_value(t))
