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
from ..measures import MEASURE_TYPES, Ends, OverWhole
from ..measures.extremes import located_ends, sample_times, smooth_spans
from .measuring import dimension_of, ends_of, values_of

if TYPE_CHECKING:
    from ..clearance.approach import Approach

TOLERANCE, CLOSE = 1e-9, 1e-6
"""Rounding that is forgiven (core units); share of its size to which an extreme is known where it counts as known."""


class Outcome(StrEnum):
    """How a check came out. Only PASS passes."""

    PASS = "pass"
    FAIL = "fail"
    UNPROVEN = "unproven"
    NOT_JUDGED = "not judged"


@dataclass(frozen=True)
class Verdict:
    """A judged check. `value` and `margin` are in core units (document lengths, rad); `margin` is what is left to the
    nearer bound, negative when the check fails; both may be infinite. `t` and `driver` say where it is worst. A
    clearance check on parts that never share depth passes with no value. `reason` says why it is unproven or infinite,
    or was not judged."""

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
        ends = _ends_at(motion, check) if check.at is not None else ends_of(measured, motion, ways_of(check))
    except DocumentError as error:
        return _without(motion, check, dimension, error.faults[0].text)
    if ends is None:
        at = shown(check.at or 0.0, motion.driver_dimension, document.units)
        return _without(motion, check, dimension, f"the driver '{motion.drive.drivers[0].id}' never stands at {at}")
    kind = MEASURE_TYPES[measured.kind]
    return _verdict(motion, check, dimension, ends, isinstance(kind, OverWhole) and kind.grows)


def ways_of(check: Check) -> tuple[float, ...]:
    """The ways in which a check bounds its measure: from below (1), from above (−1)."""
    return tuple(sign for sign, bound in ((1.0, check.at_least), (-1.0, check.at_most)) if bound is not None)


def _ends_at(motion: Motion, check: Check) -> Ends | None:
    """The ends where the first driver stands at a value, whenever it does: at moments, and while it rests there; None
    where it never does."""
    assert check.at is not None
    t = times_at(motion, check.at)
    if not t.size:
        return None
    values = values_of(check.measured, motion, t)
    low, high = int(np.argmin(values)), int(np.argmax(values))
    found = Ends(float(values[low]), float(t[low]), float(values[high]), float(t[high]))
    spans = smooth_spans(motion)
    rests = spans[[bool(np.isin(span, t).all()) for span in spans]]
    if rests.size:
        ends = located_ends(lambda t, _: values_of(check.measured, motion, t), rests, sample_times(rests).ravel()).of(0)
        found = found.beyond(ends.low, ends.low_t, "").beyond(ends.high, ends.high_t, "")
    return found


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
    nearest = Ends(approach.distance, approach.t, approach.distance, approach.t)
    found = _verdict(motion, check, Dimension.LENGTH, nearest)
    if found.outcome is Outcome.PASS and not approach.proven and check.at_least is not None:
        # What was found is as close as they come so far: enough to fail, or to come close enough, not to keep clear.
        return Verdict(
            check, Outcome.UNPROVEN, approach.reason, found.dimension, found.value, found.margin, found.t, found.driver
        )
    return found


def _without(motion: Motion, check: Check, dimension: Dimension, reason: str) -> Verdict:
    return Verdict(check, Outcome.NOT_JUDGED, reason, dimension, None, None, 0.0, motion.driver_value(0.0))


def _verdict(motion: Motion, check: Check, dimension: Dimension, ends: Ends, grows: bool = False) -> Verdict:
    """`at_least` is held against the least value, `at_most` against the greatest; the tighter one is told. Where the
    motion stops early, or more may be missed than is left, what must hold all along is unproven; a value that only
    `grows` has reached its `at_least`."""
    options = []
    if check.at_least is not None:
        options.append((ends.low - check.at_least, ends.low, ends.low_t, ends.low_why, -ends.missed))
    if check.at_most is not None:
        options.append((check.at_most - ends.high, ends.high, ends.high_t, ends.high_why, ends.missed))
    margin, value, t, reason, beyond = min(options)
    if math.isnan(margin):
        return _without(motion, check, dimension, "its value is no number somewhere on the way")
    outcome = Outcome.PASS if margin >= -TOLERANCE else Outcome.FAIL
    reached = grows and check.at_most is None
    known = ends.missed <= max(TOLERANCE, CLOSE * abs(value)) or margin >= ends.missed
    if outcome is Outcome.PASS and not known:
        bound = shown(value + beyond, dimension, motion.document.units) if math.isfinite(beyond) else "any bound"
        outcome, reason = Outcome.UNPROVEN, f"it may reach {bound} between the samples"
    if outcome is Outcome.PASS and motion.stop is not None and not reached:
        outcome, reason = Outcome.UNPROVEN, "the motion stops before its end"
    return Verdict(check, outcome, reason, dimension, value, float(margin), t, motion.driver_value(t))
