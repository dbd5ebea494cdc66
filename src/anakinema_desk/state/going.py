"""Moving the mechanism by itself, apart from its drivers: to a named position on a way that its joints allow, or a
joint to and fro."""

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QObject, QTimer

from anakinema.document.model import Position
from anakinema.errors import DocumentError

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from anakinema.kinematics.motion import Motion

    from ..session import Session

FRAMES = 45
"""Pictures on the way to a named position."""


class Going(QObject):
    """Asks for ways and shows them, picture by picture."""

    def __init__(self, session: "Session"):
        super().__init__(session)
        self.session = session
        self.way: list[NDArray[np.float64]] = []
        """Where the parts stand next (P, 3)."""
        self._back = False
        """Whether the mechanism goes back to its motion at the end of the way."""
        self._timer = QTimer(self)
        self._timer.setInterval(16)
        self._timer.timeout.connect(self._step)
        session.analyst.way_found.connect(self._found)
        session.analyst.wiggled.connect(self._wiggled)

    def to_position(self, name: str) -> None:
        """Moves the mechanism from where it stands to a named position, on a way that its joints allow."""
        document = self.session.document
        if document is None or name not in document.positions:
            return
        if self.session.motion is None or self.session.analysis.busy:
            self.session.message.emit("The motion is not known yet; go there again in a moment")
            return
        self._find(document.positions[name])

    def to_joints(self, joints: "dict[str, float]") -> None:
        """Moves the mechanism from where it stands until joints stand at values (core units)."""
        if self.session.motion is not None and not self.session.analysis.busy:
            self._find(Position("", {}, joints))

    def to_opening(self) -> None:
        """Goes to the position in which the document opens, if it says one."""
        session = self.session
        positions = session.document.positions.values() if session.document is not None else ()
        opening = next((one.id for one in positions if one.at_opening), "")
        if opening and not session.analysis.busy and session.posing.posed is None and session.time == 0.0:
            self.to_position(opening)

    def wiggle(self, joint: str) -> None:
        """Moves a joint through its freedom, to and fro, from where the mechanism stands."""
        motion = self.session.motion
        if motion is None or self.session.analysis.busy or joint not in motion.system.coordinates:
            self.session.message.emit(f"'{joint}' has nothing to wiggle yet")
            return
        self.session.player.pause()
        self.session.analyst.wiggle(motion, self.session.posing.positions(), joint)

    def be_still(self) -> None:
        """Ends a wiggle or a way to a position where it is; a wiggle goes back to where it began."""
        if self.way or self._timer.isActive():
            self.forget()
            self._timer.stop()
            if self._back:
                self.session.posing.unpose()

    def forget(self) -> None:
        """Goes no further; the mechanism is another."""
        self.way = []

    def _find(self, position: Position) -> None:
        motion = self.session.motion
        assert motion is not None
        self.session.player.pause()
        self.session.analyst.find_way(motion, self.session.posing.positions(), position)

    def _found(self, number: int, found: "Motion | DocumentError") -> None:
        if number != self.session.analyst.wanted or self.session.motion is None:
            return
        if isinstance(found, DocumentError):
            self.session.faults_raised.emit("It can't be moved there", found.faults)
            return
        if found.stop is not None:
            self.session.warned.emit(f"It does not get all the way there: {found.stop.text}", ())
        self.way, self._back = list(found.positions(np.linspace(0.0, found.path.t1, FRAMES))), False
        self._timer.start()

    def _wiggled(self, number: int, found: "list[NDArray[np.float64]]") -> None:
        if number == self.session.analyst.wanted and self.session.motion is not None:
            self.way, self._back = found, self.session.posing.posed is None
            self._timer.start()

    def _step(self) -> None:
        motion = self.session.motion
        if not self.way or motion is None:
            self._timer.stop()
            if self._back and motion is not None:
                self.session.posing.unpose()
            return
        self.session.posing.put(self.way.pop(0))
