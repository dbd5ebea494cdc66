"""The one thing that views read about a document: what is known of it, and of which version that is."""

from dataclasses import dataclass
from enum import Enum, auto
from typing import TYPE_CHECKING

from anakinema.document import Document
from anakinema.errors import Fault

if TYPE_CHECKING:
    from anakinema.findings import Findings
    from anakinema.findings.gaps import Gap
    from anakinema.kinematics.motion import Motion

Pose = tuple[float, float, float]


class Stage(Enum):
    """How far the analysis of a document has come."""

    WAITING = auto()
    """Its motion is not known yet."""
    JUDGING = auto()
    """Its motion is known, its findings not yet."""
    DONE = auto()
    CANCELLED = auto()
    """The user gave it up: it is not judged."""
    FAILED = auto()
    """It makes no sense as a mechanism; `faults` says why."""


@dataclass(frozen=True)
class Shown:
    """A document with what is known of it. `motion` is of this document or None. `findings` are of this document when
    `fresh`, else those of the version before, to be shown as such."""

    document: Document
    stage: Stage = Stage.WAITING
    motion: "Motion | None" = None
    findings: "Findings | None" = None
    faults: tuple[Fault, ...] = ()
    gaps: "tuple[Gap, ...]" = ()
    """What is certain of the pairs of this document so far, while it is being judged."""

    @property
    def fresh(self) -> bool:
        """Whether the findings are of this document."""
        return self.findings is not None and self.findings.document is self.document

    @property
    def busy(self) -> bool:
        """Whether more will be known in a moment."""
        return self.stage in (Stage.WAITING, Stage.JUDGING)


def carried(document: Document, before: dict[str, Pose]) -> dict[str, Pose]:
    """A pose for every part of a document: where it stood a moment before, else its rough placement."""
    return {
        part.id: part.pose if part.fixed or part.id not in before else before[part.id]
        for part in document.parts.values()
    }
