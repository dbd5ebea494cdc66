"""The analysis off the interface thread: one document at a time, the newest one, given up as soon as it is not
wanted."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from anakinema.document import Document
from anakinema.document.model import Position
from anakinema.errors import DocumentError
from anakinema.work import Work

from .worker import Worker

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from anakinema.kinematics.motion import Motion


class Analyst(Worker):
    """Analyses documents, and answers what is asked of a motion at once."""

    moved = Signal(int, object)
    gauged = Signal(int, object)
    judged = Signal(int, object)
    ways_found = Signal(int, object)
    way_found = Signal(int, object)
    wiggled = Signal(int, object)
    compiling = Signal(int)

    def __init__(self, parent: QObject | None = None):
        super().__init__(parent, name="analyst")

    def analyse(self, document: Document) -> int:
        """Begins the analysis of a document; gives its number."""

        def task(number: int, work: Work) -> None:
            from anakinema.compiling import compiled_before

            if not compiled_before():
                self._tell(number, self.compiling)
            from anakinema.findings import analyse

            def moved(motion: "Motion") -> None:
                motion.state  # noqa: B018 - found here, so that no view waits for it
                self._tell(number, self.moved, motion)

            found = analyse(document, work=work, moved=moved, gauged=lambda gaps: self._tell(number, self.gauged, gaps))
            self._tell(number, self.judged, found)
            if not Analyst.prepared:
                from anakinema.kinematics.dragging import prepare

                prepare(found.motion)
                Analyst.prepared = True

        return self._submit(task)

    prepared = False
    """Whether dragging has been loaded, which happens once."""

    def look_for_ways(self, motion: "Motion") -> int:
        """Looks for the other ways to put the parts together; gives the task's number."""

        def task(number: int, work: Work) -> None:
            from anakinema.kinematics.modes import modes

            self._tell(number, self.ways_found, modes(motion, work))

        return self._submit(task)

    def find_way(self, motion: "Motion", q: "NDArray[np.float64]", position: Position) -> int:
        """Looks for the way from where the parts stand (P, 3) to a named position; gives the task's number."""

        def task(number: int, work: Work) -> None:
            from anakinema.kinematics.positions import way_to

            try:
                found = way_to(motion, q, position, work)
            except DocumentError as error:
                self._tell(number, self.way_found, error)
            else:
                self._tell(number, self.way_found, found)

        return self._submit(task)

    def wiggle(self, motion: "Motion", q: "NDArray[np.float64]", joint: str) -> int:
        """Looks for the positions of a joint's way to and fro from where the parts stand (P, 3)."""

        def task(number: int, work: Work) -> None:
            from anakinema.kinematics.positions import to_and_fro

            try:
                self._tell(number, self.wiggled, to_and_fro(motion, q, joint, work))
            except DocumentError as error:
                self._tell(number, self.way_found, error)

        return self._submit(task)
