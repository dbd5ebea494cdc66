"""What the drivers command, compiled: the law of one stretch, a row (11,) for each target: the eight coefficients of a
polynomial in the time since the stretch began, then amplitude, frequency and phase of a sinusoid."""

import numpy as np

from ...arrays import Array
from ...compiling import compiled, inner


@inner
def target_at(law: Array, d: int, s: float) -> tuple[float, float, float]:
    """Value, rate and acceleration of a target at a time s since the stretch began."""
    value, rate, half = 0.0, 0.0, 0.0
    for power in range(7, -1, -1):
        half = half * s + rate
        rate = rate * s + value
        value = value * s + law[d, power]
    second = 2.0 * half
    if law[d, 8] != 0.0:
        turn = law[d, 9] * s + law[d, 10]
        value += law[d, 8] * np.sin(turn)
        rate += law[d, 8] * law[d, 9] * np.cos(turn)
        second -= law[d, 8] * law[d, 9] * law[d, 9] * np.sin(turn)
    return value, rate, second


@inner
def commanded(law: Array, s: float, targets: Array, rates: Array, seconds: Array) -> None:
    """Fills values, rates and accelerations (D,) of all targets."""
    for d in range(len(law)):
        targets[d], rates[d], seconds[d] = target_at(law, d, s)


@inner
def pace(law: Array, s: float) -> tuple[float, float]:
    """How fast all targets together run (the length of their rate), and how fast that changes."""
    square, gain = 0.0, 0.0
    for d in range(len(law)):
        _, rate, second = target_at(law, d, s)
        square += rate * rate
        gain += rate * second
    speed = np.sqrt(square)
    return speed, gain / speed if speed > 0.0 else 0.0


@compiled
def sample(law: Array, s: Array, targets: Array, rates: Array, seconds: Array) -> None:
    """Fills values, rates and accelerations (S, D) at times s (S,)."""
    for i in range(len(s)):
        commanded(law, s[i], targets[i], rates[i], seconds[i])
