"""How long a test waits for what comes by itself: as long as was chosen where the loop below takes `USUAL`, and longer
where the machine is slower just now."""

import math
import time

USUAL = 0.006
"""Seconds of the loop where the waits were chosen."""


def patient(wait: float) -> int:
    """A wait (in whatever unit), lengthened by how much slower the machine is now."""
    start = time.perf_counter()
    total = 0
    for k in range(60_000):
        total += k * k
    assert total > 0
    return math.ceil(wait * max(1.0, (time.perf_counter() - start) / USUAL))
