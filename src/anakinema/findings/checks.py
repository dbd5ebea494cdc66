"""Checks: what the design must do, judged with a value, a margin and the place where it is worst."""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import TYPE_CHECKING

from ..document.model import Check
from ..errors import DocumentError
from ..joints import JOINT_TYPES
from ..kinds import Dimension
from ..kinematics.motion import Motion
from ..measures import MEASURE_KINDS
from .measuring import dimension_of, least_and_greatest, values_of
from .transmission import transmission_angle

if TYPE_CHECKING:
    from ..clearance.approach import Approach

HAIR = 1e-9
"""Rounding that is forgiven (core units)."""


class Outcome(StrEnum):
    """How a check came out. Only PASS passes."""

    PASS = "pass"
    FAIL = "fail"
    UNPROVEN = "unproven"
    NOT_JUDGED = "not judged"


@dataclass(frozen=True)
class Verdict:
    """A judged check. `value` and `margin` are in core units (document lengths, rad); `margin` is what is left to the
    nearer bound, negative when the check fails. `t` and `driver` say where it is worst. A clearance check on parts
    that never share depth passes with no value. `reason` says why it is unproven or was not judged."""

    check: Check
    outcome: Outcome
    reason: str
    dimension: Dimension
    value: float | None
    margin: float | None
    t: float
    driver: float | None

    @property
    def passed(self) -> bool:
        """Whether the check is known to hold."""
        return self.outcome is Outcome.PASS


def judge(motion: Motion, approaches: "Mapping[frozenset[str], Approach]") -> dict[str, Verdict]:
    """Every check of the document."""
    return {check.id: _judged(motion, check, approaches) for check in motion.document.checks.values()}


def _judged(motion: Motion, check: Check, approaches: "Mapping[frozenset[str], Approach]") -> Verdict:
    if check.measure == "clearance":
        return _clearance(motion, check, approaches)
    if MEASURE_KINDS[check.measure].named:
        ends = least_and_greatest(motion, lambda t: values_of(check.measured, motion, t))
        return _verdict(motion, check, dimension_of(check.measured), ends[:2], ends[2:])
    assert check.joint is not None
    joint = motion.document.joints[check.joint]
    dimension = JOINT_TYPES[joint.type].coordinate_dimension(joint.values) or Dimension.LENGTH
    if joint.suspended:
        return _without(motion, check, dimension, f"joint '{joint.id}' is suspended")
    if check.measure == "transmission_angle":
        try:
            low, low_t, high, high_t = transmission_angle(motion, check.joint)
        except DocumentError as error:
            return _without(motion, check, Dimension.ANGLE, error.faults[0].text)
        return _verdict(motion, check, Dimension.ANGLE, (low, low_t), (high, high_t))
    column, found = motion.system.coordinates.index(check.joint), motion.extremes
    low, high = float(found.low[column]), float(found.high[column])
    low_t, high_t = float(found.low_t[column]), float(found.high_t[column])
    if check.measure == "travel":
        return _verdict(motion, check, dimension, (high - low, high_t), grows=True)
    return _verdict(motion, check, dimension, (low, low_t), (high, high_t))


def _clearance(motion: Motion, check: Check, approaches: "Mapping[frozenset[str], Approach]") -> Verdict:
    assert check.parts is not None
    approach = approaches.get(frozenset(check.parts))
    if approach is None:
        start = motion.driver_value(0.0)
        reason = "the parts never share depth"
        return Verdict(check, Outcome.PASS, reason, Dimension.LENGTH, None, None, 0.0, start)
    if approach.distance is None:
        return _without(motion, check, Dimension.LENGTH, approach.reason)
    found = _verdict(motion, check, Dimension.LENGTH, (approach.distance, approach.t))
    if found.outcome is Outcome.PASS and not approach.proven and check.at_least is not None:
        # What was found is as close as they come so far: enough to fail, or to come close enough, not to keep clear.
        return Verdict(
            check, Outcome.UNPROVEN, approach.reason, found.dimension, found.value, found.margin, found.t, found.driver
        )
    return found


def _without(motion: Motion, check: Check, dimension: Dimension, reason: str) -> Verdict:
    return Verdict(check, Outcome.NOT_JUDGED, reason, dimension, None, None, 0.0, motion.driver_value(0.0))


def _verdict(
    motion: Motion,
    check: Check,
    dimension: Dimension,
    least: tuple[float, float],
    greatest: tuple[float, float] | None = None,
    grows: bool = False,
) -> Verdict:
    """`at_least` is held against the least value, `at_most` against the greatest; the tighter one is told. Where the
    motion stops early, what must hold all along is unproven; a value that only `grows` has reached its `at_least`."""
    greatest = greatest or least
    options = []
    if check.at_least is not None:
        options.append((least[0] - check.at_least, *least))
    if check.at_most is not None:
        options.append((check.at_most - greatest[0], *greatest))
    margin, value, t = min(options)
    outcome = Outcome.PASS if margin >= -HAIR else Outcome.FAIL
    reason = ""
    if outcome is Outcome.PASS and motion.stop is not None and not (grows and check.at_most is None):
        outcome, reason = Outcome.UNPROVEN, "the motion stops before its end"
    return Verdict(check, outcome, reason, dimension, value, float(margin), t, motion.driver_value(t))
