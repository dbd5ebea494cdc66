"""Studies off the interface thread, beside the analysis: what-if, free travel, tuning, sweeps, tolerances."""

from typing import TYPE_CHECKING

from PySide6.QtCore import Signal

from anakinema.document import Document

from .worker import Worker

if TYPE_CHECKING:
    from collections.abc import Sequence

    import numpy as np
    from numpy.typing import NDArray

    from anakinema.kinematics.motion import Motion
    from anakinema.studies.builds import Numbers


class StudyClient(Worker):
    """Answers one question at a time: the newest."""

    found = Signal(int, object)
    """What a study found: a `Tuning`, a `Sweep`, `Tolerances`, a `Travel`."""
    tried = Signal(int, object)
    """The motion of a what-if, or the `DocumentError` that there is none."""

    def try_out(self, motion: "Motion", numbers: "Numbers") -> int:
        """Moves the mechanism of a motion with other numbers."""
        return self.ask("try_out", motion, dict(numbers))

    def tune(self, document: Document, motion: "Motion", parameter: str, finding: str, wanted: float,
             low: float | None, high: float | None) -> int:  # fmt: skip
        """Looks for the values of a parameter that give what is wanted."""
        return self.ask("tune", document, motion, parameter, finding, wanted, low, high)

    def sweep(self, document: Document, axes: "Sequence[tuple[str, float, float, int]]", names: "Sequence[str]",
              clearance: bool) -> int:  # fmt: skip
        """Tries values of one parameter or two."""
        return self.ask("sweep", document, axes, list(names), clearance)

    def tolerances(self, document: Document, count: int, seed: int, clearance: bool) -> int:
        """Builds many that are not quite what they should be."""
        return self.ask("tolerances", document, count, seed, clearance)

    def travel(self, motion: "Motion", q: "NDArray[np.float64]", joint: str) -> int:
        """Looks how far a joint can go either way."""
        return self.ask("travel", motion, q, joint)

    def cam_proposals(self, document: Document, joint: str) -> int:
        """Looks what would make a cam better."""
        return self.ask("cam_proposals", document, joint)
