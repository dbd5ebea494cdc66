"""What the cam desk shows: the cam that is chosen, its segments as the document has them or as a hand holds them."""

import math
from functools import lru_cache

import numpy as np
from PySide6.QtCore import QObject, Signal

from anakinema.arrays import Array
from anakinema.cams import CamGeometry
from anakinema.cams.geometry import Course
from anakinema.cams.judgement import CamJudgement, glanced, judged
from anakinema.document.model import Coupling, Document
from anakinema.document.segments import Segment, moved_end, segments_of, tried, with_segments
from anakinema.errors import DocumentError
from anakinema.kinds import Dimension

from ...session import Session

PLACES = 720
"""Places of a turn that are drawn."""


class CamModel(QObject):
    """The cam on the desk."""

    changed = Signal()
    """Another cam, or another version of it; while a hand holds a segment, at each of its moves."""

    def __init__(self, session: Session):
        super().__init__()
        self.session = session
        self.joint = ""
        self.number = 0
        """The segment that is chosen."""
        self.held: list[Segment] | None = None
        """The segments as a hand holds them."""
        self._tried: CamGeometry | None = None
        self._judged: tuple[CamGeometry | None, CamJudgement | None] = None, None

    @property
    def document(self) -> Document | None:
        """What it is a cam of."""
        return self.session.document

    def cams(self) -> list[str]:
        """All cams of the document that have a profile."""
        document = self.document
        return [] if document is None else [name for name, one in document.couplings.items() if one.cam is not None]

    @property
    def coupling(self) -> Coupling | None:
        """The cam joint that is shown."""
        document = self.document
        found = document.couplings.get(self.joint) if document is not None else None
        return found if found is not None and found.cam is not None else None

    @property
    def cam(self) -> CamGeometry | None:
        """The cam, as it is or as it is tried."""
        coupling = self.coupling
        if coupling is None:
            return None
        return self._tried if self.held is not None and self._tried is not None else coupling.cam

    @property
    def segments(self) -> list[Segment] | None:
        """Its segments; None where its program has none."""
        document = self.document
        if document is None or self.coupling is None:
            return None
        return self.held if self.held is not None else segments_of(document, self.joint)

    def beside(self) -> list[str]:
        """The other cams of the same shaft."""
        document, coupling = self.document, self.coupling
        if document is None or coupling is None:
            return []
        return [name for name in self.cams() if name != self.joint and document.couplings[name].a == coupling.a]

    def choose(self, joint: str) -> None:
        """Shows a cam."""
        if joint != self.joint:
            self.joint, self.number = joint, 0
        self.let_go()

    def let_go(self) -> None:
        """Nothing is held any more."""
        self.held = self._tried = None
        self.changed.emit()

    def hold(self, segments: list[Segment]) -> None:
        """Shows what the cam is with other segments."""
        coupling = self.coupling
        if coupling is None or coupling.cam is None:
            return
        try:
            near = self._tried or coupling.cam
            self._tried = tried(near, segments, coupling.base)
            self.held = segments
        except ValueError:
            return  # no such cam can be had: what was held last stays
        self.changed.emit()

    def apply(self, segments: list[Segment], text: str) -> None:
        """Writes segments."""
        document = self.document
        if document is None:
            return
        try:
            faults = self.session.apply(with_segments(document, self.joint, segments), text)
        except DocumentError as error:
            faults = error.faults
        if faults:
            self.session.faults_raised.emit("The program stays", faults)
        self.let_go()

    def course(self) -> Course | None:
        """What there is over a turn."""
        cam = self.cam
        return None if cam is None else course_of(cam)

    def judgement(self) -> CamJudgement | None:
        """What is to be said of it; while a hand holds it, by fewer places."""
        cam = self.cam
        if cam is None:
            return None
        if self._judged[0] is not cam:
            self._judged = cam, glanced(cam) if self.held is not None else judged(cam)
        return self._judged[1]

    def shaft(self) -> float | None:
        """Where the shaft stands now."""
        motion, coupling = self.session.motion, self.coupling
        if motion is None or coupling is None or coupling.a not in motion.system.coordinates:
            return None
        return float(self.session.posing.coordinates()[motion.system.coordinates.index(coupling.a)])

    def turn_to(self, a: float) -> None:
        """Shows the moment at which the shaft stands at a coordinate."""
        motion, coupling = self.session.motion, self.coupling
        if self.shaft() is None or motion is None or coupling is None or not motion.drive.drivers:
            return
        t = np.linspace(0.0, motion.path.t1, 2 * PLACES + 1)
        off = motion.coordinates(t)[:, motion.system.coordinates.index(coupling.a)] - a
        if coupling.law is not None and coupling.law.period:
            off = (off + coupling.law.period / 2) % coupling.law.period - coupling.law.period / 2
        self.session.pause()
        self.session.go(float(t[int(np.argmin(np.abs(off)))]))

    @property
    def turns(self) -> Dimension:
        """What the shaft counts."""
        cam = self.cam
        return Dimension.LENGTH if cam is not None and cam.shaft.slides else Dimension.ANGLE

    @property
    def lifts(self) -> Dimension:
        """What the follower counts."""
        cam = self.cam
        return Dimension.ANGLE if cam is not None and cam.guide.swings else Dimension.LENGTH

    def with_end(self, number: int, by: float, height: float | None) -> list[Segment]:
        """The segments of the document with the end of one elsewhere."""
        document, coupling = self.document, self.coupling
        assert document is not None and coupling is not None and coupling.law is not None
        return moved_end(segments_of(document, self.joint) or [], number, by, height, coupling.law.period)


@lru_cache(maxsize=16)
def course_of(cam: CamGeometry) -> Course:
    """What there is over a turn, at places that meet the joints of its law from both sides."""
    low, high = cam.range
    a = np.linspace(low, high, PLACES + 1)
    joints = np.array([one for one in cam.law.joints() if low < one < high])
    hair = 1e-9 * max(1.0, abs(high))
    return cam.course(np.unique(np.concatenate((a[:-1], [high - hair], joints - hair, joints + hair))))


def borders(document: Document, joint: str) -> list[float]:
    """Where the segments of a cam begin and end, by its shaft's coordinate."""
    coupling = document.couplings[joint]
    marks = document.programs[coupling.program].marks if coupling.program in document.programs else ()
    start = coupling.law.start if coupling.law is not None else 0.0
    return [start + mark for mark in marks]


def rounded(value: float, step: float) -> float:
    """A value on a round number."""
    return round(value / step) * step


def round_step(span: float) -> float:
    """A round step of about a hundredth of a span.

    >>> round_step(12.0), round_step(0.4)
    (0.1, 0.005)
    """
    rough = max(span, 1e-9) / 100
    power = 10.0 ** math.floor(math.log10(rough))
    return next(one * power for one in (1, 2, 5, 10) if one * power >= rough * 0.8)


def lane_values(cam: CamGeometry) -> tuple[Array, Array]:
    """(N,) places over a turn, and (4, N) lift and its derivatives by the shaft's coordinate."""
    course = course_of(cam)
    return course.a, course.lift
