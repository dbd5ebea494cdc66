"""The hand on the bench: a part is pulled by the point at which it was taken, as far as joints and limits allow."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QPointF, QTimer, Signal
from PySide6.QtGui import QTransform

from ..session import Session
from .frame import Pulled

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

STEPS = 6
"""Steps of a pull between two looks at the mouse: within a frame even for long chains."""


class Hand(QObject):
    """Holds the point and pulls on until it has come to rest; tells why it can't follow."""

    moved = Signal()

    def __init__(self, session: Session, canvas: QObject):
        super().__init__(canvas)  # what falls back goes on by itself, and must end with what shows it
        self.session = session
        self.part, self.local, self.target = "", (0.0, 0.0), QPointF()
        self.reason = ""
        self._pulling = False
        self._timer = QTimer(self)
        self._timer.setInterval(16)
        self._timer.timeout.connect(self._on)
        self._fall = QTimer(self)
        self._fall.setInterval(30)
        self._fall.timeout.connect(self._fall_on)
        self._falling: list[NDArray[np.float64]] = []
        """Places to show, one after the other, of what falls back to its rest."""
        session.document_changed.connect(self.let_go)  # what was in the hand may be gone

    @property
    def pulled(self) -> Pulled | None:
        """What it pulls, to be drawn; None while it pulls nothing."""
        if not self._pulling:
            return None
        return Pulled(self.part, complex(*self.local), complex(self.target.x(), self.target.y()), self.reason)

    def press(self, part: str, local: tuple[float, float]) -> None:
        """Takes a part at a point of its own axes; nothing moves yet. A fixed part is not taken."""
        document = self.session.document
        if document is not None and self.session.motion is not None and not document.parts[part].fixed:
            self.part, self.local = part, local

    def pull(self, x: float, y: float) -> None:
        """Pulls toward a place in the plane."""
        if not self._pulling:
            self.session.posing.grab(self.part, self.local)
            self._pulling = True
        self.target = QPointF(x, y)
        self._on()
        self._timer.start()

    def pull_on(self, x: float, y: float) -> None:
        """Pulls on by so much from where it pulls to (document lengths): from the point in the hand at first."""
        if not self._pulling:
            px, py, angle = self.session.posing.poses()[self.part]
            at = QTransform().translate(px, py).rotateRadians(angle).map(QPointF(*self.local))
            self.target = at
        self.pull(self.target.x() + x, self.target.y() + y)

    def _on(self) -> None:
        found = self.session.posing.pull(self.target.x(), self.target.y(), STEPS)
        if found is None or found.settled:  # None: what was in the hand is gone
            self._timer.stop()
        self.reason = found.reason if found is not None else ""
        self.moved.emit()

    def release(self) -> None:
        """Lets go of a part: what has a rest falls back to it, the rest stays where the hand has put it."""
        pulled = self._pulling
        self.let_go()
        if pulled:
            self._falling = self.session.posing.let_go()
            if self._falling:
                self._fall.start()

    def _fall_on(self) -> None:
        """Shows the next place on the way of what falls back."""
        if self._falling:
            self.session.posing.put_on(self._falling.pop(0))
        if not self._falling:
            self._fall.stop()
        self.moved.emit()

    def let_go(self) -> None:
        """Leaves the mechanism where the hand has put it."""
        self._timer.stop()
        self._fall.stop()
        self._falling = []
        self.part, self.reason, self._pulling = "", "", False
        self.moved.emit()
