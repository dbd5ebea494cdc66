"""Stretches of a motion: what drivers command, the nodes of what was followed, where it ended."""

from dataclasses import dataclass

import numpy as np

from ..arrays import Array


@dataclass(frozen=True)
class Law:
    """Targets run linearly: start (D,) at time t0, slope (D,) a second, until t1."""

    t0: float
    t1: float
    start: Array
    slope: Array

    def targets(self, t: Array) -> Array:
        """(S, D) at times t (S,)."""
        run: Array = self.start + np.multiply.outer(t - self.t0, self.slope)
        return run


@dataclass(frozen=True)
class Nodes:
    """Positions and their time derivatives (K, P, 3) at times t (K,), ascending."""

    t: Array
    q: Array
    v: Array
    a: Array


@dataclass(frozen=True)
class DeadPoint:
    """Where a branch ends: the time, and the positions."""

    t: float
    q: Array
