"""Rows that hold one way only: a limit that a joint may reach and leave, and may not pass."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..arrays import Array
from ..document.model import Document
from .drive import Drive
from .equations import Equations
from .rows import RowSpec
from .system import dimensionless_limits


@dataclass(frozen=True)
class Unilateral:
    """A row whose value may not be below a bound (`sense` 1), or not above it (−1); dimensionless. `owner` is the joint
    that it belongs to."""

    owner: str
    spec: RowSpec
    sense: int
    bound: float


@dataclass(frozen=True)
class Event:
    """A row takes hold at a time (``touch``), or lets go (``part``)."""

    t: float
    kind: Literal["touch", "part", "drop"]
    owner: str


class Unilaterals:
    """Several such rows, as functions of position."""

    def __init__(self, rows: Sequence[Unilateral], bodies: int):
        self.rows = tuple(rows)
        self._equations = Equations([row.spec for row in rows], (), bodies)
        self._sense = np.array([row.sense for row in rows], dtype=float)
        self._bound = np.array([row.bound for row in rows], dtype=float)

    def __len__(self) -> int:
        return len(self.rows)

    def gaps(self, q: Array) -> Array:
        """(S, U) how far each is from its bound at positions q (S, P, 3); negative beyond it."""
        found: Array = self._sense * (self._equations.values(np.ascontiguousarray(q)) - self._bound)
        return found

    def opening(self, q: Array, v: Array) -> Array:
        """(U,) how fast each gap grows at positions and velocities (P, 3)."""
        found: Array = self._sense * self._equations.rates(q[None], v[None], 0 * v[None])[0][0]
        return found


def limits_of(document: Document, drive: Drive, turns: Array) -> Unilaterals:
    """The limits of the joints that nothing commands, where there are contacts of those that no driver moves; `turns`
    (C,) are what is added to what their rows count. Angles that jump by whole turns have none."""
    coordinates = drive.system.coordinates
    low, high = (bound - turns for bound in dimensionless_limits(document, drive.system))
    commanded = [driver.joint for driver in drive.drivers] if document.active_contacts else drive.commanded
    free = set(range(len(coordinates.ids))) - {coordinates.index(joint) for joint in commanded}
    rows = [
        Unilateral(coordinates.ids[column], coordinates.specs[column], sense, float(bounds[column]))
        for column in sorted(free) if not coordinates.is_polar[column]
        for sense, bounds in ((1, low), (-1, high)) if np.isfinite(bounds[column])
    ]  # fmt: skip
    return Unilaterals(rows, len(drive.system.body_ids))
