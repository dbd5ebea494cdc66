"""What lies under a pixel, or within a rectangle: joints, measures, parts from front to back, features to grab."""

import math
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF

from anakinema.document.model import Part
from anakinema.geometry.features import Along, Feature, FeatureKind
from anakinema.geometry.outline import Slab
from anakinema.operations import Grab, features
from anakinema.operations.own_features import feature_of

from ..session import Session
from ..state.shown import Pose
from .frame import Frame
from .paths import region_path
from .viewport import Viewport

PICK = 10.0
"""How near a click must come to a joint or a feature (pixels)."""
LINE = 7.0
"""How near to a line that is picked along."""
ALIKE = 3.0
"""Features whose distances from a click differ by no more are about equally near (pixels)."""
LINES = frozenset(FeatureKind)
"""All kinds of lines may be picked along."""
CENTRE_LINES = frozenset((FeatureKind.CENTRE_LINE, FeatureKind.SLOT, FeatureKind.SLOT_END))
"""Those on which a further hole may lie."""
SLOTS = frozenset(kind for kind in FeatureKind if kind.slotted)
"""Those of slots, in which a pin may be anywhere."""
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
    number: int = 0
    """Which of them it is."""
    along: bool = False
    """Whether it was picked along its line."""
    behind: str = ""
    """What lies here behind another part, where nothing else is; Tab goes on to it."""

    @property
    def word(self) -> str:
        """What is there, in words."""
        if self.grab is None:
            return f"{self.behind}, behind   (Tab takes it)" if self.behind else ""
        message = self.grab.feature.description(self.grab.part, self.along)
        return f"{message}   (Tab: {self.number + 1} of {self.count})" if self.count > 1 else message


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
        """Which of the features near the hand is meant, counted from the first."""
        self._here: tuple[Frame, complex, list[str]] | None = None
        """The parts from front to back at the place that was looked at last."""

    def forget(self) -> None:
        """Another document: its features are found anew."""
        self._grabbed = None

    @property
    def frame(self) -> Frame | None:
        """What is shown, where anything is."""
        return self.look() if self.session.document is not None else None

    def at(self, at: QPointF, inside: bool = True) -> str:
        """The place in the document of what lies under a pixel: a joint or a measure, else (`inside`) a feature of the
        selected part, else the front-most part, else nothing."""
        frame = self.frame
        if frame is None or not frame.poses:
            return ""
        near = self._joints_near(frame, at) if frame.looks.symbols else []
        for name, box in self.measured.items():
            if box.contains(at):
                return f"measures.{name}"
        own = self.features(at) if inside else []
        if near:
            return self._next(frame, near, own)
        return own[0] if own else self.part(at)

    def features(self, at: QPointF) -> list[str]:
        """The holes, slots, bosses and points under a pixel of the part that is selected, whole or one of its features:
        their places in the document, the nearest first."""
        frame, view = self.frame, self.through()
        kind, chosen = frame.chosen if frame is not None else ("", "")
        part = chosen.partition("#")[0]
        if frame is None or kind not in ("parts", "features") or part not in frame.poses or part in frame.looks.hidden:
            return []
        own, found = frame.own(part, view.place(at)), dict[str, float]()
        for feature in frame.drawn.features(part):
            one = feature_of(frame.document, part, feature)
            gap = abs(feature.at - own) * view.scale if not feature.by_line else math.inf
            along = feature.along if feature.shape is not None and one is not None else None
            if along is not None:
                gap = min(gap, abs(along.nearest(own) - own) * view.scale)
            if one is not None and gap < LINE:
                place = f"features.{one.text}"
                found[place] = min(gap, found.get(place, math.inf))
        return sorted(found, key=lambda place: found[place])

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
    def _next(frame: Frame, near: list[tuple[float, str]], own: list[str]) -> str:
        """The nearest; where joints lie on each other, that after the one that is selected, and at last the feature of
        the selected part that lies there too."""
        least = min(near)[0]
        here = [place for gap, place in near if gap <= least + SAME] + own[:1]
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
        for name in _from_front(frame, self.through().place(at)):
            if name not in found:
                yield f"parts.{name}"

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

    def snap(self, at: QPointF, lines: frozenset[FeatureKind] = LINES) -> Snap:
        """What a pixel means: a feature near it (or the next after it, by `turn`), else a place on one of the `lines`
        that may be picked along, else a round place.

        Of what is about equally near comes first what is of the part that is selected, then what is of the one in
        front. What lies behind another part comes after all that, by Tab, but of the selected part or of one that the
        hand is locked to.
        """
        frame, view = self.frame, self.through()
        if frame is None or not frame.poses:
            return Snap(self.rounded(at))
        if self._grabbed is None:
            parts = frame.document.parts.values()
            self._grabbed = Features([part for part in parts if part.id not in frame.looks.hidden])
        known, place = self._grabbed, view.place(at)
        spots = known.stand(frame.poses)
        gaps = np.abs(spots - place) * view.scale
        gaps[known.by_line | self._not_meant(known)] = np.inf
        points = {int(k): complex(spots[k]) for k in np.flatnonzero(gaps < PICK)}
        on = self._lines_near(frame, view, place, lines)
        bare = Snap(self.rounded(at))
        behind: list[tuple[dict[int, complex], list[int]]] = []
        for near in (points, on):
            seen, hidden = self._in_order(frame, place, {k: abs(spot - place) * view.scale for k, spot in near.items()})
            if seen:
                return self._turned(near, seen + hidden, 0, bare)
            if hidden:
                behind.append((near, hidden))
        return self._turned(*behind[0], 1, bare) if behind else bare

    def _turned(self, spots: Mapping[int, complex], near: list[int], bare: int, nothing: Snap) -> Snap:
        """Of the features that are near the one to which Tab has turned; `bare` 1 where first of all none is meant."""
        assert self._grabbed is not None
        number = self.turn % (len(near) + bare)
        if number < bare:
            grab = self._grabbed.grabs[near[0]]
            return replace(nothing, behind=grab.feature.description(grab.part))
        chosen = near[number - bare]
        grab = self._grabbed.grabs[chosen]
        place = self._grabbed.stand(frame.poses)[chosen] if (frame := self.frame) is not None else spots[chosen]
        return Snap(spots[chosen], grab, len(near), number - bare, along=spots[chosen] != place)

    def _not_meant(self, known: "Features") -> np.ndarray:
        """(N,) features of parts that are not meant now."""
        found = np.zeros(len(known.grabs), dtype=bool)
        if self.only:
            found |= known.owner != known.number.get(self.only, -1)
        if self.without:
            found |= known.owner == known.number.get(self.without, -1)
        return found

    def _lines_near(
        self, frame: Frame, view: Viewport, place: complex, lines: frozenset[FeatureKind]
    ) -> dict[int, complex]:
        """The features whose line runs near a place of the plane, with the place on each that is nearest."""
        assert self._grabbed is not None
        known = self._grabbed
        meant = known.has_line & ~self._not_meant(known)
        found = {}
        for k in np.flatnonzero(meant & (known.far_from(frame.poses, place) < LINE / view.scale)).tolist():
            grab, along = known.grabs[k], known.lines[k]
            if along is None or grab.feature.kind not in lines:
                continue
            own = along.nearest(frame.own(grab.part, place))
            if abs(frame.stands(grab.part, own) - place) * view.scale < LINE:
                found[k] = frame.stands(grab.part, along.rounded(own, self.step()))
        return found

    def _in_order(self, frame: Frame, place: complex, gaps: dict[int, float]) -> tuple[list[int], list[int]]:
        """Features by their distances (pixels), those first that are meant most likely; and those that are hidden."""
        if not gaps:
            return [], []
        assert self._grabbed is not None
        known = self._grabbed
        least = min(gaps.values())
        chosen = frame.chosen[1].partition("#")[0]
        front = {name: k for k, name in enumerate(self._from_front(frame, place))}
        found = []
        for k, gap in gaps.items():
            part = known.grabs[k].part
            meant = part in (chosen, self.only)
            behind = self._behind(frame, part, place, known.grabs[k].feature)
            layer = front.get(part, len(front))
            found.append((int((gap - least) / ALIKE), not meant, behind, layer, round(gap * 2), k))
        seen = sorted(entry for entry in found if not entry[2] or not entry[1])
        hidden = sorted(entry for entry in found if entry[2] and entry[1])
        return [entry[-1] for entry in seen], [entry[-1] for entry in hidden]

    def _from_front(self, frame: Frame, place: complex) -> list[str]:
        """The parts at a place of the plane, from front to back."""
        if self._here is None or self._here[0] is not frame or self._here[1] != place:
            self._here = (frame, place, list(_from_front(frame, place)))
        return self._here[2]

    def _behind(self, frame: Frame, part: str, place: complex, feature: Feature) -> bool:
        """Whether a feature of a part lies behind another part that is not see-through."""
        if not frame.part(part).slabs:
            return False
        spot = frame.stands(part, feature.at) if not feature.by_line else place
        top = max(slab.high for slab in frame.part(part).slabs)
        for other, slab in reversed(frame.drawn.stack):
            if slab.low < top - 1e-9 or other.id == part:
                continue
            hidden = other.id in frame.looks.hidden or other.id in frame.looks.through or other.id == self.without
            if not hidden and _covers(frame, other.id, slab, spot):
                return True
        return False

    def points(self) -> np.ndarray:
        """(N,) where all features stand that are places."""
        frame = self.frame
        if frame is None or self._grabbed is None:
            return np.zeros(0, dtype=complex)
        found: np.ndarray = self._grabbed.stand(frame.poses)[~self._grabbed.by_line]
        return found

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
        self.by_line = np.array([grab.feature.by_line for grab in self.grabs], dtype=bool)
        self.lines: list[Along | None] = []
        """The line along which each is picked; of several that have the same the first has it."""
        known: set[tuple[object, ...]] = set()
        for grab in self.grabs:
            along = grab.feature.along
            key = (grab.part, grab.feature.shape, along if along is None or along.sweep < 6.28 else along.center)
            self.lines.append(None if along is None or key in known else along)
            known.add(key)
        self.has_line = np.array([line is not None for line in self.lines], dtype=bool)
        balls = [(0j, 0.0) if line is None else _ball(line) for line in self.lines]
        self._middle = np.array([ball[0] for ball in balls], dtype=complex)
        self._reach = np.array([ball[1] for ball in balls], dtype=float)

    def stand(self, poses: Mapping[str, Pose]) -> np.ndarray:
        """(N,) where they stand in the plane; far away where the part is not placed."""
        return self._placed(poses, self.own)

    def far_from(self, poses: Mapping[str, Pose], place: complex) -> np.ndarray:
        """(N,) the least distance that a place may have from each line: that from the circle about it."""
        found: np.ndarray = np.abs(self._placed(poses, self._middle) - place) - self._reach
        return found

    def _placed(self, poses: Mapping[str, Pose], own: np.ndarray) -> np.ndarray:
        placed = np.array([poses.get(name, (np.inf, 0.0, 0.0)) for name in self.names]).reshape(-1, 3)
        turned = own * np.exp(1j * placed[self.owner, 2])
        found: np.ndarray = placed[self.owner, 0] + 1j * placed[self.owner, 1] + turned
        return found


def _ball(line: Along) -> tuple[complex, float]:
    """A circle about a line: its middle and radius."""
    if line.center is not None:
        return line.center, abs(line.start - line.center)
    return (line.start + line.end) / 2, abs(line.end - line.start) / 2


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


def _from_front(frame: Frame, place: complex) -> Iterator[str]:
    """The parts that are shown at a place of the plane, from front to back."""
    found: set[str] = set()
    for part, slab in reversed(frame.drawn.stack):
        if part.id not in frame.looks.hidden and part.id not in found and _covers(frame, part.id, slab, place):
            found.add(part.id)
            yield part.id


def _covers(frame: Frame, part: str, slab: Slab, place: complex) -> bool:
    """Whether a slab of a part is at a place of the plane."""
    own = frame.own(part, place)
    return bool(region_path(slab.region).contains(QPointF(own.real, own.imag)))
