"""What is tried without being changed: a number turned by hand, an earlier run laid beneath, the free travel of a
joint."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from anakinema.errors import DocumentError

from .ghost import Ghost
from .shown import Pose
from .study_client import StudyClient

if TYPE_CHECKING:
    from anakinema.document import Document
    from anakinema.findings import Findings
    from anakinema.kinematics.motion import Motion
    from anakinema.studies.travel import Travel


class Trying(QObject):
    """Holds the trial that is shown, if any, and what was pinned."""

    changed = Signal()
    pinned_changed = Signal()

    def __init__(self, study_client: StudyClient, parent: QObject | None = None):
        super().__init__(parent)
        self.study_client = study_client
        self.motion: Motion | None = None
        """The motion of the trial: the mechanism with another number."""
        self.fault = ""
        self.pinned: Findings | None = None
        """An earlier run, laid beneath the tracks."""
        self.ghost: Ghost | None = None
        """A position that is kept in sight, to compare others with it."""
        self.travel: Travel | None = None
        """The free travel that was found last."""
        self._asked = 0
        self._next: tuple[Motion, dict[str, float | str]] | None = None
        study_client.tried.connect(self._tried)

    def turn(self, motion: "Motion", numbers: "dict[str, float | str]") -> None:
        """Tries other numbers; while one trial is under way, the newest waits."""
        if self.study_client.busy:
            self._next = (motion, numbers)
            return
        self._next = None
        self._asked = self.study_client.try_out(motion, numbers)

    def _tried(self, number: int, found: "Motion | DocumentError") -> None:
        if number != self.study_client.wanted or number != self._asked:
            return
        if isinstance(found, DocumentError):
            self.motion, self.fault = None, str(found.faults[0])
        else:
            self.motion, self.fault = found, found.stop.text if found.stop is not None else ""
        self.changed.emit()
        if self._next is not None:
            self.study_client.cancel()
            self.turn(*self._next)

    def drop(self) -> None:
        """Shows the mechanism as it is; what is under way of a trial is given up, for it is of what was before."""
        self._next = None
        if self._asked == self.study_client.wanted:
            self.study_client.cancel()
        if self.motion is not None or self.fault:
            self.motion, self.fault = None, ""
            self.changed.emit()

    def poses(self, share: float) -> "tuple[Document, dict[str, Pose]] | None":
        """The document of the trial, and where its parts stand at a share of its time; None where there is none."""
        if self.motion is None:
            return None
        import numpy as np

        t = np.array([min(share * self.motion.planned, self.motion.path.t1)])
        placed = zip(self.motion.system.body_ids, self.motion.positions(t)[0].tolist(), strict=True)
        return self.motion.document, {part: (x, y, angle) for part, (x, y, angle) in placed if part}

    def keep(self, ghost: Ghost | None) -> None:
        """Keeps a position in sight; none takes it away."""
        self.ghost = ghost
        self.changed.emit()

    def pin(self, findings: "Findings | None") -> None:
        """Lays a run beneath the tracks; none takes it away."""
        self.pinned = findings
        self.pinned_changed.emit()
