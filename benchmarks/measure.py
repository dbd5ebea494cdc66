"""Timing, and how a time grows with a size."""

import math
import time
from collections.abc import Callable
from typing import Any


def best(run: Callable[[], Any], repeats: int = 20) -> float:
    """The shortest of several times (s): what the machine can do when nothing else disturbs it."""
    run()
    times = []
    for _ in range(repeats):
        start = time.perf_counter()
        run()
        times.append(time.perf_counter() - start)
    return min(times)


def growth(size: int, seconds: float, before: tuple[int, float] | None) -> str:
    """The power of the size by which a time has grown since the size and time before; empty for the first."""
    return f"n^{math.log(seconds / before[1]) / math.log(size / before[0]):.2f}" if before else ""
