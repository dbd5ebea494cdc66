"""Moments of a motion: which there are worth going to, how to say one, and what is where at one."""

import math
import re
from dataclasses import dataclass
from enum import Enum
from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array
from ..document.expressions import ExpressionError
from ..errors import located
from ..formatting import shown
from ..kinematics.motion import Motion
from .windows import times_at

if TYPE_CHECKING:
    from .analysis import Findings

SAME = 1e-9
"""Share of the motion within which two moments are one."""
LOOKS = 721
"""Places at which the driver is looked at, to say how far it goes."""


class MomentKind(Enum):
    """What happens at a moment; the value is what it is called."""

    EXTREME = "extreme"
    DEAD_CENTRE = "dead centre"
    LIMIT = "limit"
    CONTACT = "contact"
    CLOSEST = "closest approach"
    WORST = "worst of a check"
    JOLT = "jolt"
    STOP = "stop"


@dataclass(frozen=True)
class Moment:
    """A moment that is worth going to: when (s), what kind, in words, and the place in the document of whose it is."""

    t: float
    kind: MomentKind
    text: str
    place: str = ""


def moments(found: "Findings") -> list[Moment]:
    """What happens along a motion, in the order of time: extremes of joints, of which those are dead centres where the
    joint turns back, limits that are reached, contacts, closest approaches, the worst place of each check, jolts, and
    where it stops."""
    motion, units = found.motion, found.document.units
    some: list[Moment] = []
    whole = motion.path.t1
    for one in found.series:
        if not one.place.startswith("joints.") or one.bars is not None or one.high - one.low <= 0:
            continue
        for value, t, word in ((one.low, one.low_t, "least"), (one.high, one.high_t, "greatest")):
            inside = SAME * whole < t < whole * (1 - SAME)
            kind = MomentKind.DEAD_CENTRE if inside else MomentKind.EXTREME
            if any(abs(bound - value) < 1e-6 * max(abs(bound), 1e-3) for bound in one.bounds):
                kind = MomentKind.LIMIT
            some.append(Moment(t, kind, f"{one.name} {word}: {shown(value, one.dimension, units, 3)}", one.place))
    for event in motion.path.events:
        contact = found.document.contacts.get(event.owner)
        if contact is not None:
            word = {"touch": "touches", "part": "parts from", "drop": "drops on"}[event.kind]
            some.append(Moment(event.t, MomentKind.CONTACT, f"{contact.a} {word} {contact.b}", f"joints.{event.owner}"))
    for approach in found.approaches:
        if approach.distance is not None:
            text = f"{' – '.join(approach.parts)}: {shown(approach.distance, 'length', units, 3)}"
            some.append(Moment(approach.t, MomentKind.CLOSEST, text, f"parts.{approach.parts[0]}"))
    for verdict in found.verdicts.values():
        if verdict.t is not None and verdict.value is not None and math.isfinite(verdict.value):
            worst, name = shown(verdict.value, verdict.dimension, units, 3), verdict.check.id
            some.append(Moment(verdict.t, MomentKind.WORST, f"{name}: {worst}", f"checks.{name}"))
    some += [Moment(jolt.t, MomentKind.JOLT, f"{', '.join(jolt.drivers)} {JOLTS[jolt.place]}") for jolt in motion.jolts]
    if motion.stop is not None:
        some.append(Moment(motion.stop.t, MomentKind.STOP, motion.stop.text))
    return sorted(some, key=lambda one: (one.t, list(MomentKind).index(one.kind)))


JOLTS = {"start": "starts with a jolt", "end": "ends with a jolt", "between": "jolts"}
STEP = re.compile(r"^\s*step\s+(\d+)\s*$", re.IGNORECASE)


def told_moment(motion: Motion, text: str, near: float) -> float:
    """The time (s) that is meant by a text: ``step 108``, ``0.06 s``, or a value of the first driver as ``198 deg``; of
    several at which the driver has it, that nearest to a time. Raises `DocumentError` for one that never is."""
    document = motion.document
    if found := STEP.match(text):
        number = int(found[1])
        if number > motion.steps:
            raise located("moment", f"there are {motion.steps} steps, not {number}")
        return min(motion.planned * number / motion.steps, motion.path.t1)
    try:
        if text.strip().endswith("s"):
            return _within(motion, document.worth(text, "time"))
        return _driven(motion, text, near)
    except ExpressionError as error:
        raise located("moment", f"'{text}': {error}; write step 108, 0.06 s, or a value of the driver") from error


def _within(motion: Motion, t: float) -> float:
    if not 0 <= t <= motion.path.t1 * (1 + SAME):
        raise located("moment", f"the motion goes from 0 to {motion.path.t1:.6g} s")
    return min(t, motion.path.t1)


def _driven(motion: Motion, text: str, near: float) -> float:
    """The time nearest to another at which the first driver has a value."""
    if not motion.drive.drivers:
        raise located("moment", "nothing is driven: there is no value of a driver to go to")
    value = motion.document.worth(text, motion.driver_dimension)
    found = times_at(motion, value)
    if not found.size:
        t = np.linspace(0.0, motion.path.t1, LOOKS)
        every = [motion.driver_value(float(each)) or 0.0 for each in t]
        ends = (shown(each, motion.driver_dimension, motion.document.units, 3) for each in (min(every), max(every)))
        raise located("moment", f"the driver goes from {' to '.join(ends)} and is never at {text}")
    return float(found[np.argmin(np.abs(found - near))])


def joint_now(motion: Motion, joint: str, t: float) -> tuple[float, float, float]:
    """A joint's coordinate with its first and second derivative at a time (core units)."""
    column, at = motion.system.coordinates.index(joint), np.array([t])
    rate, acceleration = motion.rates(at, column)
    return float(motion.coordinates(at)[0, column]), float(rate[0]), float(acceleration[0])


def point_now(motion: Motion, part: str, own: complex, t: float) -> tuple[complex, complex, complex]:
    """Where a place of a part's own axes stands at a time, with its velocity and acceleration (x + i y)."""
    state, body = motion.at(np.array([t])), motion.system.body(part)
    q, v, a = (each[0, body] for each in (state.q, state.v, state.a))
    arm = own * complex(math.cos(q[2]), math.sin(q[2]))

    def plane(row: Array) -> complex:
        return complex(row[0], row[1])

    return plane(q) + arm, plane(v) + 1j * v[2] * arm, plane(a) + (1j * a[2] - v[2] ** 2) * arm


def part_now(motion: Motion, part: str, t: float) -> tuple[float, float, float]:
    """The angle of a part with its first and second derivative at a time (rad, per s)."""
    state, body = motion.at(np.array([t])), motion.system.body(part)
    return float(state.q[0, body, 2]), float(state.v[0, body, 2]), float(state.a[0, body, 2])
