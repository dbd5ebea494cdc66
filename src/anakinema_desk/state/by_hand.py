"""Where the hand has put the mechanism, and the motions that are left to its parts there."""

from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from anakinema.kinematics.dragging import Grip, Pull
    from anakinema.kinematics.freedoms import Freedom
    from anakinema.kinematics.motion import Motion

FREEDOMS_UP_TO = 60
"""Moving parts up to which the motions left are told while things move."""


class ByHand:
    """Positions (P, 3) into which the hand has put the mechanism, `posed`; None while it follows its motion."""

    def __init__(self) -> None:
        self.posed: NDArray[np.float64] | None = None
        self._grip: Grip | None = None
        self._near: NDArray[np.float64] = np.zeros(0)
        self._left: dict[str, tuple[Freedom, ...]] = {}
        self._left_at: tuple[Motion, float, NDArray[np.float64] | None] | None = None

    def drop(self) -> None:
        """Forgets it all, when there is another motion."""
        self.posed, self._grip = None, None

    def grab(self, motion: "Motion", t: float, part: str, local: tuple[float, float]) -> None:
        """Takes a part by a point (in its own axes) where it stands now."""
        from anakinema.kinematics.dragging import Grip

        self._near = self.coordinates(motion, t)
        positions = self.positions(motion, t)
        self._grip = Grip(motion.document, motion.system, positions, self._near, part, local)

    def pull(self, motion: "Motion", x: float, y: float, steps: int) -> "Pull | None":
        """Pulls the point in the hand toward a place, in at most so many steps; None with nothing in the hand."""
        if self._grip is None:
            return None
        found = self._grip.pull(x, y, steps)
        self.posed = found.q
        self._near = motion.posed(found.q, self._near)
        return found

    def let_go(self) -> "list[NDArray[np.float64]]":
        """Takes nothing any more; the places (P, 3) through which go what has a rest."""
        grip, self._grip = self._grip, None
        return grip.let_go() if grip is not None else []

    def put(self, motion: "Motion", q: "NDArray[np.float64]") -> None:
        """Puts the mechanism into positions (P, 3) that its joints allow, near those in which it is."""
        near = self._near if self.posed is not None else motion.coordinates(np.zeros(1))[0]
        self.posed, self._near = q, motion.posed(q, near)

    def positions(self, motion: "Motion", t: float) -> "NDArray[np.float64]":
        """Where all bodies stand (P, 3: document lengths, rad)."""
        return self.posed if self.posed is not None else motion.positions(np.array([t]))[0]

    def coordinates(self, motion: "Motion", t: float) -> "NDArray[np.float64]":
        """The joint coordinates (C,), in core units."""
        return self._near if self.posed is not None else motion.coordinates(np.array([t]))[0]

    def motions_left(self, motion: "Motion", t: float, part: str) -> "tuple[Freedom, ...] | None":
        """What motions are left to a part where it stands, with the drivers off; None where that can't be told."""
        from anakinema.kinematics.freedoms import freedoms

        if len(motion.system.moving) > FREEDOMS_UP_TO or part not in motion.system.bodies:
            return None
        at = self._left_at
        if at is None or at[0] is not motion or at[1] != t or at[2] is not self.posed:
            self._left_at = (motion, t, self.posed)
            self._left = freedoms(motion.system, self.positions(motion, t))
        return self._left[part]
