"""Checks: what the design must do, judged with a value, a margin and the place where it is worst."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array
from ..document.model import Check
from ..errors import DocumentError
from ..formatting import shown
from ..kinds import Dimension
from ..kinematics.motion import Motion
from ..measures import MEASURE_KINDS
from .measuring import dimension_of, ends_of, values_of
from .wholes import whole_of

if TYPE_CHECKING:
    from ..clearance.approach import Approach

TOLERANCE = 1e-9
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
    measured, document = check.measured, motion.document
    dimension = dimension_of(measured, document)
    try:
        if MEASURE_KINDS[check.measure].whole:
            return _verdict(motion, check, dimension, whole_of(measured, motion), grows=check.measure == "travel")
        if check.at is not None:
            return _at(motion, check, dimension)
        low, low_t, high, high_t = ends_of(measured, motion, ways_of(check))
    except DocumentError as error:
        return _without(motion, check, dimension, error.faults[0].text)
    return _verdict(motion, check, dimension, (low, low_t), (high, high_t))


def ways_of(check: Check) -> tuple[float, ...]:
    """The ways in which a check bounds its measure: from below (1), from above (−1)."""
    return tuple(sign for sign, bound in ((1.0, check.at_least), (-1.0, check.at_most)) if bound is not None)


def _at(motion: Motion, check: Check, dimension: Dimension) -> Verdict:
    """Judged where the first driver stands at a value, whenever it does."""
    assert check.at is not None
    t = times_at(motion, check.at)
    if not t.size:
        message = shown(check.at, motion.driver_dimension, motion.document.units)
        reason = f"the driver '{motion.drive.drivers[0].id}' never stands at {message}"
        return _without(motion, check, dimension, reason)
    values = values_of(check.measured, motion, t)
    low, high = int(np.argmin(values)), int(np.argmax(values))
    return _verdict(
        motion, check, dimension, (float(values[low]), float(t[low])), (float(values[high]), float(t[high]))
    )


def times_at(motion: Motion, value: float) -> Array:
    """The times (S,) at which the first driver's coordinate is at a value (core units)."""
    t = np.unique(np.append(motion.grid, np.linspace(0.0, motion.path.t1, 721)))
    off = np.array([(motion.driver_value(each) or 0.0) - value for each in t.tolist()])
    close = 1e-9 * max(float(np.ptp(off)), 1.0)
    found = t[np.abs(off) <= close].tolist()
    for i in np.flatnonzero((off[:-1] * off[1:] < 0) & (np.abs(off[:-1]) > close) & (np.abs(off[1:]) > close)):
        low, high = float(t[i]), float(t[i + 1])
        for _ in range(60):
            middle = (low + high) / 2
            same = ((motion.driver_value(middle) or 0.0) - value) * off[i] > 0
            low, high = (middle, high) if same else (low, middle)
        found.append((low + high) / 2)
    return np.array(sorted(found))


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
    if math.isnan(margin):
        return _without(motion, check, dimension, "its value is no number somewhere on the way")
    outcome = Outcome.PASS if margin >= -TOLERANCE else Outcome.FAIL
    reason = ""
    if outcome is Outcome.PASS and motion.stop is not None and not (grows and check.at_most is None):
        outcome, reason = Outcome.UNPROVEN, "the motion stops before its end"
    return Verdict(check, outcome, reason, dimension, value, float(margin), t, motion.driver_value(t))
