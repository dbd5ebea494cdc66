"""Where the mechanism stands: at a moment of its motion, or where the hand has put it."""

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QObject, Signal

from anakinema.errors import Fault

from .by_hand import ByHand
from .shown import Pose, carried

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from anakinema.document import Document
    from anakinema.kinematics.dragging import Pull
    from anakinema.kinematics.freedoms import Freedom
    from anakinema.kinematics.motion import Motion
    from anakinema.kinematics.touches import Touch

    from ..session import Session


class Posing(QObject):
    """Moves the mechanism by hand, and tells where its parts stand."""

    changed = Signal()
    """The hand has taken the mechanism from its motion, or given it back."""

    def __init__(self, session: "Session"):
        super().__init__(session)
        self.session = session
        self.hand = ByHand()
        self._poses: dict[str, Pose] = {}

    @property
    def _motion(self) -> "Motion | None":
        return self.session.motion

    @property
    def posed(self) -> "NDArray[np.float64] | None":
        """Positions (P, 3) into which the hand has put the mechanism; None while it follows its motion."""
        return self.hand.posed

    # -- with the document -------------------------------------------------------------------------------------

    def forget(self) -> None:
        """Another document: nothing stands anywhere yet."""
        self.hand.drop()
        self._poses = {}

    def leave(self) -> None:
        """The document is about to be another version: remembers where the parts stand."""
        self._poses = self.poses()
        self.hand.drop()

    def take_in(self, document: "Document") -> None:
        """Another version: its parts stand where they stood, those that got another name too."""
        for old, new in self.session.selection.following.items():
            if old.startswith("parts.") and old != new and old.partition(".")[2] in self._poses:
                self._poses[new.partition(".")[2]] = self._poses[old.partition(".")[2]]
        self._poses = carried(document, self._poses)

    def as_placed(self, document: "Document") -> None:
        """The document makes no mechanism: its parts stand as they are placed."""
        self.hand.drop()
        self._poses = carried(document, {})

    # -- by hand -----------------------------------------------------------------------------------------------

    def grab(self, part: str, local: tuple[float, float]) -> None:
        """Takes a part by a point (in its own axes) where it stands now."""
        self.session.player.pause()
        if self._motion is not None:
            self.hand.grab(self._motion, self.session.time, part, local)

    def pull(self, x: float, y: float, steps: int) -> "Pull | None":
        """Pulls the point in the hand toward a place, in at most so many steps; None with nothing in the hand."""
        before = self.posed
        found = self.hand.pull(self._motion, x, y, steps) if self._motion is not None else None
        if found is not None:
            if before is None:
                self.changed.emit()
            self.session.time_changed.emit()
        return found

    def let_go(self) -> "list[NDArray[np.float64]]":
        """What the hand lets go of: the places through which all goes that has a rest, none where nothing moves."""
        return self.hand.let_go()

    def put_on(self, q: "NDArray[np.float64]") -> None:
        """Shows the mechanism at positions (P, 3) on its way from where the hand let it go."""
        if self._motion is not None and self.posed is not None:
            self.hand.put(self._motion, q)
            self.session.time_changed.emit()

    def put(self, q: "NDArray[np.float64]") -> None:
        """Puts the parts where they are to stand (P, 3: document lengths, rad), as the hand would."""
        if self._motion is None:
            return
        before = self.posed
        self.hand.put(self._motion, q)
        if before is None:
            self.changed.emit()
        self.session.time_changed.emit()

    def unpose(self) -> None:
        """Goes back from where the hand has put it to the motion."""
        if self.posed is not None:
            self.hand.drop()
            self.changed.emit()
            self.session.time_changed.emit()

    def keep(self) -> tuple[Fault, ...]:
        """Makes where the hand has put the parts their rough placement in the document."""
        q, motion = self.posed, self._motion
        if q is None or motion is None:
            return ()
        from anakinema.kinematics.modes import placed

        self.unpose()
        return self.session.editor.replace(lambda before: placed(before, motion, q), "Place by hand")

    # -- where it stands ---------------------------------------------------------------------------------------

    def positions(self) -> "NDArray[np.float64]":
        """Where all bodies stand that are shown (P, 3: document lengths, rad); only where there is a motion."""
        assert self._motion is not None
        return self.hand.positions(self._motion, self.session.time)

    def coordinates(self) -> "NDArray[np.float64]":
        """The joint coordinates shown (C,), in core units; only where there is a motion."""
        assert self._motion is not None
        return self.hand.coordinates(self._motion, self.session.time)

    def poses(self) -> dict[str, Pose]:
        """Where every part of the document stands: by motion or hand, else where it stood before, else as placed."""
        if self._motion is not None:
            self._poses = self._motion.system.by_part(self.positions())
        return self._poses

    def start_poses(self) -> dict[str, Pose]:
        """Where every part of the document stands when the motion starts."""
        document, motion = self.session.document, self._motion
        known = {name: part.pose for name, part in document.parts.items()} if document is not None else {}
        if motion is None:
            return known | self._poses
        return known | motion.system.by_part(motion.positions(np.array([0.0]))[0])

    def touches(self) -> "list[Touch]":
        """Where contacts touch as the mechanism stands now."""
        if self._motion is None or self._motion.document is not self.session.document:
            return []
        from anakinema.kinematics.touches import touches

        return touches(self._motion, self.positions())

    def motions_left(self, part: str) -> "tuple[Freedom, ...] | None":
        """What motions are left to a part where it stands, with the drivers off; None where that can't be told."""
        motion = self._motion
        return self.hand.motions_left(motion, self.session.time, part) if motion is not None else None

    def instant_center(self, one: str, two: str) -> complex | None:
        """The point about which a part turns against another at the moment shown; None where it doesn't."""
        from anakinema.findings.behaviour import instant_center

        motion = self._motion
        if motion is None or self.posed is not None or not {one, two} <= motion.system.bodies.keys():
            return None
        state = motion.at(np.array([self.session.time]))
        return instant_center(state, 0, motion.system.body(one), motion.system.body(two))

    def slides(self, one: str, two: str) -> bool:
        """Whether a part moves against another at the moment shown; not where a motion knows them not yet."""
        motion = self._motion
        if motion is None or not {one, two} <= motion.system.bodies.keys():
            return False
        state = motion.at(np.array([self.session.time]))
        a, b = (state.v[0, motion.system.body(part)] for part in (one, two))
        return float(np.abs(a - b).max()) > 1e-9 * max(float(np.abs(state.v).max()), 1e-12)

    def measured(self, name: str) -> float | None:
        """A measure of the document where the parts stand now (core units); None where it can't be told."""
        from anakinema.findings.measuring import value_now

        document = self.session.document
        assert document is not None
        motion = self._motion if self.posed is None else None
        return value_now(document.measures[name], document, motion, self.session.time, self.poses())


