"""Studies off the interface thread, beside the analysis: what-if, free travel, tuning, sweeps, tolerances."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from anakinema.document import Document
from anakinema.errors import DocumentError
from anakinema.work import Work

from .worker import Courtesy, Worker

if TYPE_CHECKING:
    from collections.abc import Sequence

    import numpy as np
    from numpy.typing import NDArray

    from anakinema.kinematics.motion import Motion
    from anakinema.studies.builds import Builds, Numbers


class Student(Worker):
    """Answers one question at a time: the newest."""

    found = Signal(int, object)
    """What a study found: a `Tuning`, a `Sweep`, `Tolerances`, a `Travel`."""
    tried = Signal(int, object)
    """The motion of a what-if, or the `DocumentError` that there is none."""

    def __init__(self, courtesy: Courtesy, parent: QObject | None = None):
        super().__init__(parent, courtesy, name="student")
        self._builds: Builds | None = None

    def try_out(self, motion: "Motion", numbers: "Numbers") -> int:
        """Moves the mechanism of a motion with other numbers."""

        def task(number: int, work: Work) -> None:
            from anakinema.studies.builds import Builds

            if self._builds is None or self._builds.motion is not motion:
                self._builds = Builds(motion.document, motion=motion)
            try:
                self._tell(number, self.tried, self._builds.motion_with(numbers, work))
            except DocumentError as error:
                self._tell(number, self.tried, error)

        return self._submit(task)

    def tune(self, document: Document, motion: "Motion", parameter: str, finding: str, wanted: float,
             low: float | None, high: float | None) -> int:  # fmt: skip
        """Looks for the values of a parameter that give what is wanted."""

        def task(number: int, work: Work) -> None:
            from anakinema.studies.tuning import tune

            self._tell(number, self.found, tune(document, parameter, finding, wanted, low, high, work, motion))

        return self._submit(task)

    def sweep(self, document: Document, axes: "Sequence[tuple[str, float, float, int]]", names: "Sequence[str]",
              clearance: bool) -> int:  # fmt: skip
        """Tries values of one parameter or two."""

        def task(number: int, work: Work) -> None:
            from anakinema.studies.sweeping import axis, sweep

            made = [axis(document, *one) for one in axes]
            self._tell(number, self.found, sweep(document, made, names, clearance, None, work))

        return self._submit(task)

    def tolerances(self, document: Document, count: int, seed: int, clearance: bool) -> int:
        """Builds many that are not quite what they should be."""

        def task(number: int, work: Work) -> None:
            from anakinema.studies.tolerances import tolerances

            self._tell(number, self.found, tolerances(document, count, seed, clearance, None, work))

        return self._submit(task)

    def travel(self, motion: "Motion", q: "NDArray[np.float64]", joint: str) -> int:
        """Looks how far a joint can go either way."""

        def task(number: int, work: Work) -> None:
            from anakinema.studies.travel import free_travel

            self._tell(number, self.found, free_travel(motion, q, joint, work))

        return self._submit(task)

