"""All findings of a document in one call: the motion, joint travel, clearances, checks, and what to do next."""

from collections.abc import Callable
from dataclasses import dataclass

from ..clearance.approach import Approach, closest_approaches
from ..document.model import Document
from ..kinematics.motion import Motion, simulate
from .advice import Advice, advise
from .checks import Verdict, judge


@dataclass(frozen=True)
class Findings:
    """What a motion shows."""

    motion: Motion
    approaches: tuple[Approach, ...]
    verdicts: dict[str, Verdict]
    advice: tuple[Advice, ...]

    @property
    def closest(self) -> Approach | None:
        """The pair that comes closest of all."""
        return min(self.approaches, key=lambda approach: approach.distance, default=None)

    @property
    def failed(self) -> list[Verdict]:
        """The checks that don't hold."""
        return [verdict for verdict in self.verdicts.values() if not verdict.passed]


def analyse(
    document: Document,
    steps: int | None = None,
    progress: Callable[[float], None] | None = None,
    moved: Callable[[Motion], None] | None = None,
) -> Findings:
    """The findings of a document. Raises `DocumentError` where the document makes no sense as a mechanism.

    `progress` is told the share done (0 to 1) and may raise to cancel; `moved` is given the motion as soon as it is
    known, before it is judged.
    """
    report = progress or (lambda share: None)
    motion = simulate(document, steps, lambda share: report(0.5 * share))
    if moved is not None:
        moved(motion)
    approaches = tuple(closest_approaches(motion, progress=lambda share: report(0.5 + 0.5 * share)))
    verdicts = judge(motion, {frozenset(approach.parts): approach for approach in approaches})
    return Findings(motion, approaches, verdicts, tuple(advise(motion, verdicts)))
