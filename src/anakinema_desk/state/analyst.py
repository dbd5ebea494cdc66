"""The analysis off the interface thread: one document at a time, the newest one, given up as soon as it is not
wanted."""

import threading
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import Signal

from anakinema.document import Document
from anakinema.document.model import Position

from .worker import Worker

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from anakinema.kinematics.motion import Motion


SHOWN = 0.3
"""Seconds after which the first findings are painted."""


class Analyst(Worker):
    """Analyses documents, and answers what is asked of a motion at once."""

    moved = Signal(int, object)
    gauged = Signal(int, object)
    judged = Signal(int, object)
    ways_found = Signal(int, object)
    way_found = Signal(int, object)
    wiggled = Signal(int, object)
    compiling = Signal(int, float)
    """How far compiling has come at the first start after an installation (0 to 1)."""
    unkept = Signal(int, str)
    """Why every start compiles anew."""

    prepared = False
    """Whether what moves mechanisms under the hand has been loaded here, which happens once."""
    _judged: "Motion | None" = None

    def analyse(self, document: Document) -> int:
        """Begins the analysis of a document; gives its number."""
        return self.ask("analyse", document)

    def look_for_ways(self, motion: "Motion") -> int:
        """Looks for the other ways to put the parts together; gives the task's number."""
        return self.ask("ways", motion)

    def find_way(self, motion: "Motion", q: "NDArray[np.float64]", position: Position) -> int:
        """Looks for the way from where the parts stand (P, 3) to a named position; gives the task's number."""
        return self.ask("way", motion, q, position)

    def wiggle(self, motion: "Motion", q: "NDArray[np.float64]", joint: str) -> int:
        """Looks for the positions of a joint's way to and fro from where the parts stand (P, 3)."""
        return self.ask("wiggle", motion, q, joint)

    def taken_in(self, what: str, value: Any) -> None:
        """Loads what moves mechanisms in the views before they ask for it."""
        if what == "moved":
            import numpy as np

            value.positions(np.zeros(1))
        elif what == "judged":
            self._judged = value.motion

    def over(self) -> None:
        """Loads what moves mechanisms under the hand, once the first findings are shown; by now it is compiled."""
        if self._judged is not None and not Analyst.prepared:
            Analyst.prepared = True
            later = threading.Timer(SHOWN, _prepare, (self._judged,))
            later.daemon = True
            later.start()
        self._judged = None


def _prepare(motion: "Motion") -> None:
    from anakinema.kinematics.dragging import prepare

    prepare(motion)
