"""Checks: what the design must do, judged with a value, a margin and the place where it is worst."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from enum import StrEnum
from graphlib import TopologicalSorter
from typing import TYPE_CHECKING

from ..cancellation import CancellationToken
from ..document.expressions import ExpressionError
from ..document.model import Check, Document
from ..document.read_study import asked_by
from ..errors import DocumentError, located
from ..formatting import shown
from ..kinds import Dimension
from ..kinematics.motion import Motion
from ..measures import MEASURE_TYPES, Ends, OverWhole
from .measuring import dimension_of, ends_of
from .windows import clipped, told_where, windows_of

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


def judge(
    motion: Motion, approaches: "Mapping[frozenset[str], Approach]", work: CancellationToken | None = None
) -> dict[str, Verdict]:
    """Every check of the document, those first whose value is a bound of another."""
    checks, found = motion.document.checks, dict[str, Verdict]()
    waits = {name: asked_by(check) & checks.keys() for name, check in checks.items()}
    for name in TopologicalSorter(waits).static_order():
        found[name] = _judged(motion, checks[name], approaches, found, work)
    return {name: found[name] for name in checks}


def _judged(
    motion: Motion, check: Check, approaches: "Mapping[frozenset[str], Approach]", known: Mapping[str, Verdict],
    work: CancellationToken | None,
) -> Verdict:  # fmt: skip
    dimension = dimension_of(check.measured, motion.document)
    try:
        check = _with_bounds(motion.document, check, dimension, known)
        if check.measure == "clearance":
            return _clearance(motion, check, approaches, work)
        kind = MEASURE_TYPES[check.measured.kind]
        if check.all_along:
            ends = ends_of(check.measured, motion, ways_of(check))
        else:
            windows = windows_of(motion, check)
            if not windows.size:
                return _without(motion, check, dimension, told_where(motion, check))
            ends = kind.ends_over(check.measured, motion, clipped(motion, windows))
    except DocumentError as error:
        return _without(motion, check, dimension, error.faults[0].text)
    return _verdict(motion, check, dimension, ends, isinstance(kind, OverWhole) and kind.grows)


def _with_bounds(document: Document, check: Check, dimension: Dimension, known: Mapping[str, Verdict]) -> Check:
    """A check with the bounds that are expressions of what others found. Raises `DocumentError` where one of those has
    no value."""
    given = {}
    for name in asked_by(check) & known.keys() - document.quantities.keys():
        found = known[name]
        if found.value is None or not math.isfinite(found.value):
            raise located(f"checks.{check.id}", f"its bound hangs on '{name}', which has no value")
        given[name] = found.value, found.dimension
    bounds = {}
    for bound, text in check.asked.items():
        try:
            bounds[bound] = document.worked_out(text, given, dimension)
        except ExpressionError as error:
            raise located(f"checks.{check.id}.{bound}", str(error)) from error
    low, high = bounds.get("at_least", check.at_least), bounds.get("at_most", check.at_most)
    check = replace(check, at_least=low, at_most=high)
    if check.at_least is not None and check.at_most is not None and check.at_least > check.at_most:
        least, most = (shown(one, dimension, document.units) for one in (check.at_least, check.at_most))
        raise located(f"checks.{check.id}", f"can't hold: at least {least} and at most {most}")
    return check


def ways_of(check: Check) -> tuple[float, ...]:
    """The ways in which a check bounds its measure: from below (1), from above (−1)."""
    return tuple(sign for sign, bound in ((1.0, check.at_least), (-1.0, check.at_most)) if bound is not None)


def _clearance(
    motion: Motion, check: Check, approaches: "Mapping[frozenset[str], Approach]", work: CancellationToken | None
) -> Verdict:
    assert check.parts is not None
    approach = approaches.get(frozenset(check.parts))
    if approach is None:
        start = motion.driver_value(0.0)
        reason = "the parts never share depth"
        return Verdict(check, Outcome.PASS, reason, Dimension.LENGTH, None, None, 0.0, start)
    if not check.all_along:
        from ..clearance.approach import closest_approaches

        windows = windows_of(motion, check)
        if not windows.size:
            return _without(motion, check, Dimension.LENGTH, told_where(motion, check))
        approach = closest_approaches(motion, [check.parts], work, windows=windows)[0]
    if approach.distance is None:
        return _without(motion, check, Dimension.LENGTH, approach.reason)
    nearest = Ends(approach.distance, approach.t, approach.distance, approach.t)
    found = _verdict(motion, check, Dimension.LENGTH, nearest)
    if found.outcome is Outcome.PASS and not approach.proven and check.at_least is not None:
        # What was found is as close as they come so far: enough to fail, or to come close enough, not to keep clear.
        return replace(found, outcome=Outcome.UNPROVEN, reason=approach.reason)
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
    if outcome is Outcome.PASS and motion.stop is not None and not reached and not _passed(motion, check):
        outcome, reason = Outcome.UNPROVEN, "the motion stops before its end"
    return Verdict(check, outcome, reason, dimension, value, float(margin), t, motion.driver_value(t))


def _passed(motion: Motion, check: Check) -> bool:
    """Whether the part of the motion over which a check is judged was over before the motion stopped."""
    span = check.span
    return span is not None and not span.driver and span.stop is not None and span.stop <= motion.path.t1
