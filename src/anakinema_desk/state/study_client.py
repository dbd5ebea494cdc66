"""Studies off the interface thread, beside the analysis: what-if, free travel, tuning, sweeps, tolerances."""

from typing import TYPE_CHECKING, Any

from PySide6.QtCore import Signal

from anakinema.document import Document

from .worker import Worker

if TYPE_CHECKING:
    from anakinema.kinematics.motion import Motion
    from anakinema.studies.numbers import Numbers


class StudyClient(Worker):
    """Answers one question at a time: the newest."""

    found = Signal(int, object)
    """What a study found: a `Tuning`, a `Sweep`, `Tolerances`, a `Travel`."""
    tried = Signal(int, object)
    """The motion of a what-if, or the `DocumentError` that there is none."""
    judged = Signal(int, object)
    """How its checks come out, and whether that is all of them."""

    def try_out(self, motion: "Motion", numbers: "Numbers") -> int:
        """Moves the mechanism of a motion with other numbers."""
        return self.ask("try_out", motion, dict(numbers))

    def study(self, name: str, document: Document, *asked: Any) -> int:
        """Asks for a study by its name (see `anakinema.studies.types`), with the arguments of its `run`."""
        return self.ask("study", name, document, *asked)
