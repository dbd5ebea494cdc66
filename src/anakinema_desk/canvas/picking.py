"""What lies under a pixel, or within a rectangle: joints, measures, parts from front to back, features to grab."""

import math
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF

from anakinema.document.model import Part
from anakinema.geometry.outline import Slab
from anakinema.operations import Grab, features

from ..session import Session
from ..state.shown import Pose
from .frame import Frame
from .paths import region_path
from .viewport import Viewport

PICK = 11.0
"""How near a click must come to a joint or a feature (pixels)."""
SAME = 0.75
"""Joints whose distances from a click differ by no more (pixels) lie on each other: clicks go through them."""
NEAR = 6.0
"""How near a click must come to the line of a bare skeleton (pixels)."""
PIN = 5.5
"""Radius of a drawn pin (pixels)."""
ROUND = 5.0
"""To how many pixels, about, a place is rounded that is no feature."""


@dataclass(frozen=True)
class Snap:
    """Where the hand means: a place in the plane, and the feature there, if it is one."""

    at: complex
    grab: Grab | None = None
    count: int = 1
    """How many features are near; Tab goes through them."""

    @property
    def word(self) -> str:
        """What is there, in words."""
        if self.grab is None:
            return ""
        message = self.grab.feature.description(self.grab.part)
        return f"{message}   (Tab: 1 of {self.count})" if self.count > 1 else message


class Picking:
    """Finds things in the frame that is shown, seen through its viewport."""

    def __init__(self, session: Session, look: Callable[[], Frame], through: Callable[[], Viewport]):
        self.session, self.look, self.through = session, look, through
        self.measured: Mapping[str, QRectF] = {}
        """Where the values of measures were painted (pixels)."""
        self._grabbed: Features | None = None
        """The features of all parts of the document; found when a tool first asks."""
        self.only = ""
        """The part to whose features the hand is locked, so that others don't interfere; empty for all."""
        self.without = ""
        """A part whose features are not meant: that of the first pick."""
        self.turn = 0
        """Which of the features near the hand is meant, counted from the nearest."""

    def forget(self) -> None:
        """Another document: its features are found anew."""
        self._grabbed = None

    @property
    def frame(self) -> Frame | None:
        """What is shown, where anything is."""
        return self.look() if self.session.document is not None else None

    def at(self, at: QPointF) -> str:
        """The place in the document of what lies under a pixel: a joint or a measure, else the front-most part, else
        nothing."""
        frame = self.frame
        if frame is None or not frame.poses:
            return ""
        near = self._joints_near(frame, at) if frame.looks.symbols else []
        for name, box in self.measured.items():
            if box.contains(at):
                return f"measures.{name}"
        return self._next(frame, near) if near else self.part(at)

    def _joints_near(self, frame: Frame, at: QPointF) -> list[tuple[float, str]]:
        """The joints near a pixel, each with its distance: a pin on a block is the pin inside its circle, the block
        around it."""
        spots, hidden = frame.drawn.spots, frame.looks.hidden
        gaps = np.abs(spots.pixels(frame, self.through()) - complex(at.x(), at.y()))
        gaps += np.where(spots.pins, np.where(gaps > PIN, PIN, -0.5), 0.0)
        found = []
        for k in np.flatnonzero(gaps < PICK).tolist():
            joint = spots.joints[k]
            if not hidden or {joint.a.part, joint.b.part} - hidden:
                found.append((float(gaps[k]), f"joints.{joint.id}"))
        return found

    @staticmethod
    def _next(frame: Frame, near: list[tuple[float, str]]) -> str:
        """The nearest; where joints lie on each other, that after the one that is selected."""
        least = min(near)[0]
        here = [place for gap, place in near if gap <= least + SAME]
        chosen = frame.selection
        return here[(here.index(chosen) + 1) % len(here)] if chosen in here else here[0]

    def part(self, at: QPointF) -> str:
        """The place in the document of the front-most part under a pixel, or nothing."""
        return next(self.parts(at), "")

    def parts(self, at: QPointF) -> Iterator[str]:
        """The places in the document of the parts under a pixel, from front to back."""
        frame = self.frame
        if frame is None or not frame.poses:
            return
        found: set[str] = set()
        spots, hidden = frame.drawn.spots, frame.looks.hidden
        if spots.bare:  # a bare skeleton is taken by its line
            for line, name in zip(spots.skeletons(frame, self.through()), spots.bare_names, strict=True):
                if name not in hidden and _beside(at, line.p1(), line.p2()) < NEAR:
                    found.add(name)
                    yield f"parts.{name}"
        place = self.through().place(at)
        for part, slab in reversed(frame.drawn.stack):
            if part.id in hidden or part.id in found:
                continue
            if _covers(frame, part.id, slab, place):
                found.add(part.id)
                yield f"parts.{part.id}"

    def covers(self, part: str, at: QPointF) -> bool:
        """Whether a part, seen or behind others, is at a pixel."""
        frame = self.frame
        if frame is None or part not in frame.document.parts or part not in frame.poses:
            return False
        place = self.through().place(at)
        return any(_covers(frame, part, slab, place) for slab in frame.part(part).slabs)

    def within(self, box: QRectF) -> list[str]:
        """The parts that lie wholly in a rectangle (pixels)."""
        frame, view = self.frame, self.through()
        if frame is None:
            return []
        found = []
        for part in frame.document.parts.values():
            if part.id in frame.looks.hidden or part.id not in frame.poses:
                continue
            x, y, angle = frame.poses[part.id]
            pixels = view.pixels(complex(x, y) + corners_of(part) * np.exp(1j * angle)).tolist()
            if pixels and all(box.contains(QPointF(z.real, z.imag)) for z in pixels):
                found.append(f"parts.{part.id}")
        return found

    # -- features ----------------------------------------------------------------------------------------------

    def snap(self, at: QPointF) -> Snap:
        """What a pixel means: the nearest feature (or the next after it, by `turn`), in one place that of the last
        part, else a round place."""
        frame, view = self.frame, self.through()
        if frame is None or not frame.poses:
            return Snap(self.rounded(at))
        if self._grabbed is None:
            shown = [part for part in frame.document.parts.values() if part.id not in frame.looks.hidden]
            self._grabbed = Features(shown)
        spots = self._grabbed.stand(frame.poses)
        gaps = np.abs(spots - view.place(at)) * view.scale
        if self.only:
            gaps[self._grabbed.owner != self._grabbed.number.get(self.only, -1)] = np.inf
        if self.without:
            gaps[self._grabbed.owner == self._grabbed.number.get(self.without, -1)] = np.inf
        near = np.flatnonzero(gaps < PICK)
        if not near.size:
            return Snap(self.rounded(at))
        # Those in one place are told apart by their parts, the last made first; of one part a slot or a hole comes
        # before what is in the middle of it by chance.
        order = near[np.lexsort((near, -self._grabbed.owner[near], np.round(gaps[near] * 2)))]
        chosen = int(order[self.turn % order.size])
        return Snap(complex(spots[chosen]), self._grabbed.grabs[chosen], int(order.size))

    def rounded(self, at: QPointF) -> complex:
        """A place in the plane, rounded to what the hand can mean at this scale: a few pixels."""
        step, z = self.step(), self.through().place(at)
        return complex(round(z.real / step) * step, round(z.imag / step) * step)

    def step(self) -> float:
        """A round length of a few pixels."""
        scale = self.through().scale
        step = 10.0 ** math.floor(math.log10(ROUND / max(scale, 1e-12)))
        return next(step * k for k in (1, 2, 5, 10) if step * k * scale >= ROUND * 0.99 or k == 10)


class Features:
    """The features of parts as arrays: a mouse move asks where all of them stand."""

    def __init__(self, parts: list[Part]):
        self.grabs = [Grab(part.id, feature) for part in parts for feature in features(part)]
        self.names = [part.id for part in parts]
        self.number = {name: k for k, name in enumerate(self.names)}
        self.owner = np.array([self.number[grab.part] for grab in self.grabs], dtype=int)
        self.own = np.array([grab.feature.at for grab in self.grabs], dtype=complex)

    def stand(self, poses: Mapping[str, Pose]) -> np.ndarray:
        """(N,) where they stand in the plane; far away where the part is not placed."""
        placed = np.array([poses.get(name, (np.inf, 0.0, 0.0)) for name in self.names]).reshape(-1, 3)
        turned = self.own * np.exp(1j * placed[self.owner, 2])
        found: np.ndarray = placed[self.owner, 0] + 1j * placed[self.owner, 1] + turned
        return found


def corners_of(part: Part) -> np.ndarray:
    """Points (N,) between which a part lies, in its own axes: its own, and the corners about its outlines."""
    found = [complex(x, y) for x, y in part.points.values()]
    for slab in part.slabs:
        box = region_path(slab.region).boundingRect()
        found += [complex(x, y) for x in (box.left(), box.right()) for y in (box.top(), box.bottom())]
    return np.array(found, dtype=complex)


def _beside(at: QPointF, one: QPointF, two: QPointF) -> float:
    """Distance of a pixel from a stretch of line."""
    line = two - one
    size = QPointF.dotProduct(line, line)
    share = min(max(QPointF.dotProduct(at - one, line) / size, 0.0), 1.0) if size > 0 else 0.0
    return QLineF(at, one + line * share).length()


def _covers(frame: Frame, part: str, slab: Slab, place: complex) -> bool:
    """Whether a slab of a part is at a place of the plane."""
    own = frame.own(part, place)
    return bool(region_path(slab.region).contains(QPointF(own.real, own.imag)))
