"""What is known of the document: its motion, its findings, or that they are those of a version before."""

from dataclasses import replace
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from anakinema.errors import Fault

from .analyst import Analyst
from .shown import Shown, Stage
from .worker import faults_of

if TYPE_CHECKING:
    from anakinema.document import Document
    from anakinema.findings import Findings
    from anakinema.findings.gaps import Gap
    from anakinema.kinematics.motion import Motion

COMPILING = "First start after an installation: the inner loops are compiled, which takes about half a minute, once"


class Analysis(QObject):
    """Has each version of the document analysed, and holds what has come back of the newest as one `Shown`."""

    changed = Signal()
    gaps_changed = Signal()
    progress_changed = Signal(float)
    moved = Signal()
    """The motion of the newest version is known."""
    judged = Signal()
    """All is known of it."""
    failed = Signal()
    """It makes no sense as a mechanism."""
    placed = Signal()
    """Its parts may stand elsewhere than before; told when all else of it is."""
    message = Signal(str)

    def __init__(self, analyst: Analyst, parent: QObject | None = None):
        super().__init__(parent)
        self.analyst = analyst
        self.shown: Shown | None = None
        self._compiled_for = 0
        """The analysis for which the inner loops are compiled."""
        self._compiled_share = 0.0
        analyst.moved.connect(self._moved)
        analyst.gauged.connect(self._gauged)
        analyst.judged.connect(self._judged)
        analyst.failed.connect(self._failed)
        analyst.progressed.connect(self._progressed)
        analyst.compiling.connect(self._compiling)

    @property
    def motion(self) -> "Motion | None":
        """The motion of the document; None while it is not known."""
        return self.shown.motion if self.shown is not None else None

    @property
    def findings(self) -> "Findings | None":
        """The findings of the document; None while they are not known."""
        return self.shown.findings if self.shown is not None and self.shown.fresh else None

    @property
    def faults(self) -> tuple[Fault, ...]:
        """Why the document makes no sense as a mechanism."""
        return self.shown.faults if self.shown is not None else ()

    @property
    def busy(self) -> bool:
        """Whether work is under way, or its results are about to be shown."""
        return self.analyst.busy or (self.shown is not None and self.shown.busy)

    def begin(self, document: "Document", before: "Findings | None") -> None:
        """Has a version of the document analysed; the findings of the one before are shown until its own are known."""
        self.shown = Shown(document, findings=before)
        self.analyst.analyse(document)

    def cancel(self) -> None:
        """Gives up the analysis under way: the document is then not judged, and says so."""
        self.analyst.cancel()
        self.progress_changed.emit(1.0)
        if self.shown is not None and self.shown.busy:
            self._show(Shown(self.shown.document, Stage.CANCELLED, self.shown.motion, self.shown.findings))

    def again(self) -> None:
        """Begins the analysis anew, after it was given up."""
        if self.shown is not None and not self.shown.busy:
            self._show(Shown(self.shown.document, findings=self.shown.findings))
            self.analyst.analyse(self.shown.document)

    def _show(self, shown: Shown) -> None:
        self.shown = shown
        self.changed.emit()

    def _progressed(self, number: int, share: float) -> None:
        if number == self.analyst.wanted and (share == 1.0 or number != self._compiled_for):
            self.progress_changed.emit(share)

    def _compiling(self, number: int, share: float) -> None:
        """The first start: tells what is being waited for, and how far it has come."""
        if number != self._compiled_for:
            self.message.emit(COMPILING)
            self._compiled_share = 0.0
        self._compiled_for = number
        self._compiled_share = max(self._compiled_share, min(share, 0.99))  # more is to be compiled as more is loaded
        self.progress_changed.emit(self._compiled_share)

    def _moved(self, number: int, motion: "Motion") -> None:
        if number == self.analyst.wanted and self.shown is not None and motion.document is self.shown.document:
            self.shown = Shown(motion.document, Stage.JUDGING, motion, self.shown.findings)
            self.moved.emit()
            self.changed.emit()
            self.placed.emit()

    def _gauged(self, number: int, gaps: "tuple[Gap, ...]") -> None:
        if number == self.analyst.wanted and self.shown is not None:
            self.shown = replace(self.shown, gaps=gaps)
            self.gaps_changed.emit()

    def _judged(self, number: int, findings: "Findings") -> None:
        if number == self.analyst.wanted and self.shown is not None and findings.document is self.shown.document:
            self.shown = Shown(findings.document, Stage.DONE, findings.motion, findings)
            self.judged.emit()
            self.changed.emit()

    def _failed(self, number: int, error: Exception) -> None:
        if number == self.analyst.wanted and self.shown is not None:
            self.shown = Shown(self.shown.document, Stage.FAILED, faults=faults_of(error))
            self.failed.emit()
            self.changed.emit()
            self.placed.emit()
