"""Traces: the path of a point, its velocity and acceleration, seen from the frame or from a moving part."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array
from ..document.model import Trace

if TYPE_CHECKING:
    from .motion import Motion, State


@dataclass(frozen=True)
class TracePath:
    """Place, velocity and acceleration (S, 2) of a traced point, in document lengths and seconds."""

    place: Array
    velocity: Array
    acceleration: Array


def trace(motion: "Motion", state: "State", wanted: Trace) -> TracePath:
    """The traced point at the times of a state.

    Seen from a part, place and rates are those that an observer riding on the part measures in the part's own axes:
    with relative vector d and the part's angle θ, u = e^{−iθ} d, u̇ = e^{−iθ} (ḋ − iθ̇ d),
    ü = e^{−iθ} (d̈ − 2iθ̇ ḋ − (iθ̈ + θ̇²) d).
    """
    body = motion.system.body(wanted.point.part)
    x, y = motion.document.parts[wanted.point.part].points[wanted.point.point]
    q, v, a = state.q[:, body], state.v[:, body], state.a[:, body]
    arm = complex(x, y) * np.exp(1j * q[:, 2])
    d = q[:, 0] + 1j * q[:, 1] + arm
    speed = v[:, 0] + 1j * v[:, 1] + 1j * v[:, 2] * arm
    change = a[:, 0] + 1j * a[:, 1] + (1j * a[:, 2] - v[:, 2] ** 2) * arm
    if wanted.on is not None:
        base = motion.system.body(wanted.on)
        p, w, b = state.q[:, base], state.v[:, base], state.a[:, base]
        d = d - (p[:, 0] + 1j * p[:, 1])
        speed = speed - (w[:, 0] + 1j * w[:, 1])
        change = change - (b[:, 0] + 1j * b[:, 1])
        back = np.exp(-1j * p[:, 2])
        turn, gain = w[:, 2], b[:, 2]
        change = back * (change - 2j * turn * speed - (1j * gain + turn**2) * d)
        speed = back * (speed - 1j * turn * d)
        d = back * d
    pairs = [np.stack((z.real, z.imag), axis=1) for z in (d, speed, change)]
    return TracePath(*pairs)
