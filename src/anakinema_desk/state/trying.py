"""What is tried without being changed: a number turned by hand, an earlier run laid beneath, the free travel of a
joint."""

from datetime import datetime
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from anakinema.errors import DocumentError

from .ghost import Ghost
from .study_client import StudyClient

if TYPE_CHECKING:
    from anakinema.findings import Findings, Verdict
    from anakinema.kinematics.motion import Motion
    from anakinema.studies.numbers import Numbers
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
        self.numbers: Numbers = {}
        """What is tried, and in `what` words why, where that is not plain."""
        self.what = ""
        self.verdicts: dict[str, Verdict] | None = None
        """How the checks of the trial come out; `judged` when these are all."""
        self.judged = False
        self.pinned: Findings | None = None
        """An earlier run, laid beneath the tracks, and in `pinned_when` words since when."""
        self.pinned_when = ""
        self.ghost: Ghost | None = None
        """A position that is kept in sight, to compare others with it."""
        self.travel: Travel | None = None
        """The free travel that was found last."""
        self._asked = 0
        self._trial: tuple[Numbers, str] = {}, ""
        self._next: tuple[Motion, Numbers, str] | None = None
        self._moving = False
        """Whether the motion of a trial is under way."""
        study_client.tried.connect(self._tried)
        study_client.judged.connect(self._judged)

    def turn(self, motion: "Motion", numbers: "Numbers", what: str = "") -> None:
        """Tries other numbers; while the motion of a trial is under way, the newest waits."""
        if self.study_client.busy and (self._moving or self._asked != self.study_client.wanted):
            self._next = (motion, numbers, what)
            return
        self._next, self._moving = None, True
        self._trial = (dict(numbers), what)
        self._asked = self.study_client.try_out(motion, numbers)

    def _tried(self, number: int, found: "Motion | DocumentError") -> None:
        if number != self.study_client.wanted or number != self._asked:
            return
        if isinstance(found, DocumentError):
            self.motion, self.fault = None, str(found.faults[0])
        else:
            self.motion, self.fault = found, found.stop.text if found.stop is not None else ""
        self._moving = False
        (self.numbers, self.what), self.verdicts, self.judged = self._trial, None, isinstance(found, DocumentError)
        self.changed.emit()
        if self._next is not None:
            self.study_client.cancel()
            self.turn(*self._next)

    def _judged(self, number: int, found: "tuple[dict[str, Verdict], bool]") -> None:
        if number == self.study_client.wanted == self._asked and self.motion is not None:
            self.verdicts, self.judged = found
            self.changed.emit()

    def drop(self) -> None:
        """Shows the mechanism as it is; what is under way of a trial is given up, for it is of what was before."""
        self._next, self._moving = None, False
        if self._asked == self.study_client.wanted:
            self.study_client.cancel()
        if self.motion is not None or self.fault:
            self.motion, self.fault, self.numbers, self.what = None, "", {}, ""
            self.verdicts, self.judged = None, False
            self.changed.emit()

    def keep(self, ghost: Ghost | None) -> None:
        """Keeps a position in sight; none takes it away."""
        self.ghost = ghost
        self.changed.emit()

    def pin(self, findings: "Findings | None") -> None:
        """Lays a run beneath the tracks; none takes it away."""
        self.pinned, self.pinned_when = findings, f"at {datetime.now():%H:%M}"
        self.pinned_changed.emit()
