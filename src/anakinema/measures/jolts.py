"""Jolts: moments at which a velocity jumps, so that acceleration is infinite.

A law that begins or ends at speed, a kink of what a driver follows, and the start and end of a motion that is no piece
of steady running: no machine does that. At the start and end everything stands still before and after, unless the
drivers run on: all come round by whole turns at the rate with which they set out, or each says that it is `running`.
"""

import math
from collections.abc import Callable
from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array, Mask
from .base import Infinite
from .extremes import usual_rate

if TYPE_CHECKING:
    from ..kinematics.jolts import Jolt
    from ..kinematics.motion import Motion

SMALL = 1e-6
"""Share of the greatest velocity by which it may jump without a jolt: rounding."""


FELL = 1e-9
"""Way (document lengths, rad) from which something has fallen."""


def jumps(motion: "Motion", velocity: Callable[[Array], Array]) -> list[Infinite]:
    """Where a velocity, given at times (S,) as (S,) or (S, 2), jumps at the jolts of a motion."""
    jolts = motion.jolts
    if not jolts:
        return []
    t1 = motion.path.t1
    before = np.array([jolt.t for jolt in jolts])
    after = np.nextafter(before, math.inf)
    left, right = velocity(before), velocity(np.minimum(after, t1))
    left = np.where(_all(before <= 0.0, left), 0.0, left)
    right = np.where(_all(before >= t1, right), 0.0, right)
    change = right - left
    size = np.abs(change) if change.ndim == 1 else np.hypot(*change.T)
    along = velocity(motion.grid)
    largest = float(usual_rate(along.reshape(len(along), -1)).max(initial=0.0))
    found = []
    for jolt, jump, way in zip(jolts, size.tolist(), change.tolist(), strict=True):
        if jump > SMALL * largest:
            found.append(Infinite(jolt.t, 1.0 if change.ndim == 2 or way > 0 else -1.0, describe(jolt)))
    return found


def drops(motion: "Motion", place: Callable[[Array], Array]) -> list[Infinite]:
    """Where what is given at times (S,) as (S,) or (S, 2) jumps, for something falls at one value of the driver."""
    t = np.array([each for each in motion.path.drops if each > 0.0])
    if not t.size:
        return []
    change = place(t) - place(np.nextafter(t, -math.inf))
    size = np.abs(change) if change.ndim == 1 else np.hypot(*change.T)
    why = "infinite: it drops at one value of the driver"
    found = zip(t.tolist(), size.tolist(), change.tolist(), strict=True)
    return [Infinite(when, 1.0 if change.ndim == 2 or way > 0 else -1.0, why)
            for when, jump, way in found if jump > FELL]  # fmt: skip


def _all(where: Mask, like: Array) -> Mask:
    return where if like.ndim == 1 else where[:, None]


def describe(jolt: "Jolt") -> str:
    """A jolt in words."""
    names = ", ".join(f"'{name}'" for name in jolt.drivers)
    several = len(jolt.drivers) > 1
    does = {"start": "start" if several else "starts", "end": "end" if several else "ends",
            "between": "change velocity" if several else "changes velocity"}[jolt.place]  # fmt: skip
    return f"infinite: driver{'s' * several} {names} {does} with a jolt"
