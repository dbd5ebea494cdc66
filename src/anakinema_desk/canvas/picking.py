"""What lies under a pixel, or within a rectangle: joints, measures, parts from front to back, features to grab."""

import math
from collections.abc import Iterator
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF

from anakinema.document.model import Part
from anakinema.operations import Grab, features

from ..state.shown import Pose
from .paths import region_path
from .tools.base import Snap

if TYPE_CHECKING:
    from .canvas import Canvas

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


class Picking:
    """Finds things on a bench, by what that knows of places, poses and switches."""

    def __init__(self, canvas: "Canvas"):
        self.canvas, self.session = canvas, canvas.session
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

    def at(self, at: QPointF) -> str:
        """The place in the document of what lies under a pixel: a joint or a measure, else the front-most part, else
        nothing."""
        document = self.session.document
        if document is None or not self.canvas.poses:
            return ""
        near: list[tuple[float, str]] = []
        if self.canvas.show_symbols:
            near = self._joints_near(at)
        for name, box in self.canvas.scene.measured.items():
            if box.contains(at):
                return f"measures.{name}"
        return self._next(near) if near else self.part(at)

    def _joints_near(self, at: QPointF) -> list[tuple[float, str]]:
        """The joints near a pixel, each with its distance: a pin on a block is the pin inside its circle, the block
        around it."""
        spots, hidden = self.canvas.spots(), self.session.display_state.hidden
        gaps = np.abs(spots.pixels(self.canvas) - complex(at.x(), at.y()))
        gaps += np.where(spots.pins, np.where(gaps > PIN, PIN, -0.5), 0.0)
        found = []
        for k in np.flatnonzero(gaps < PICK).tolist():
            joint = spots.joints[k]
            if not hidden or {joint.a.part, joint.b.part} - hidden:
                found.append((float(gaps[k]), f"joints.{joint.id}"))
        return found

    def _next(self, near: list[tuple[float, str]]) -> str:
        """The nearest; where joints lie on each other, that after the one that is selected."""
        least = min(near)[0]
        here = [place for gap, place in near if gap <= least + SAME]
        chosen = self.session.selection
        return here[(here.index(chosen) + 1) % len(here)] if chosen in here else here[0]

    def part(self, at: QPointF) -> str:
        """The place in the document of the front-most part under a pixel, or nothing."""
        return next(self.parts(at), "")

    def parts(self, at: QPointF) -> Iterator[str]:
        """The places in the document of the parts under a pixel, from front to back."""
        document, hidden = self.session.document, self.session.display_state.hidden
        if document is None or not self.canvas.poses:
            return
        found: set[str] = set()
        spots = self.canvas.spots()
        if spots.bare:  # a bare skeleton is taken by its line
            for line, name in zip(spots.skeletons(self.canvas), spots.bare_names, strict=True):
                if name not in hidden and _beside(at, line.p1(), line.p2()) < NEAR:
                    found.add(name)
                    yield f"parts.{name}"
        spot = self.canvas.to_world(at)
        for part, slab in reversed(self.canvas.stack()):
            if part.id in hidden or part.id in found:
                continue
            local = self.canvas.part_transform(part.id).inverted()[0].map(spot)
            if region_path(slab.region).contains(local):
                found.add(part.id)
                yield f"parts.{part.id}"

    def covers(self, part: str, at: QPointF) -> bool:
        """Whether a part, seen or behind others, is at a pixel."""
        document = self.session.document
        if document is None or part not in document.parts or part not in self.canvas.poses:
            return False
        local = self.canvas.part_transform(part).inverted()[0].map(self.canvas.to_world(at))
        return any(region_path(slab.region).contains(local) for slab in document.parts[part].slabs)

    def within(self, box: QRectF) -> list[str]:
        """The parts that lie wholly in a rectangle (pixels)."""
        document = self.session.document
        if document is None:
            return []
        found = []
        for part in document.parts.values():
            if part.id in self.session.display_state.hidden or part.id not in self.canvas.poses:
                continue
            spots = corners_of(part)
            x, y, angle = self.canvas.poses[part.id]
            placed = complex(x, y) + spots * np.exp(1j * angle)
            pixels = [self.canvas.to_screen(QPointF(z.real, z.imag)) for z in placed]
            if pixels and all(box.contains(pixel) for pixel in pixels):
                found.append(f"parts.{part.id}")
        return found

    # -- features ----------------------------------------------------------------------------------------------

    def snap(self, at: QPointF) -> Snap:
        """What a pixel means: the nearest feature (or the next after it, by `turn`), in one place that of the last
        part, else a round place."""
        document = self.session.document
        if document is None or not self.canvas.poses:
            return Snap(self.rounded(at))
        if self._grabbed is None:
            shown = [part for part in document.parts.values() if part.id not in self.session.display_state.hidden]
            self._grabbed = Features(shown)
        spots = self._grabbed.stand(self.canvas.poses)
        spot = self.canvas.to_world(at)
        gaps = np.abs(spots - complex(spot.x(), spot.y())) * self.canvas.scale
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
        step, z = self.step(), self.canvas.to_world(at)
        return complex(round(z.x() / step) * step, round(z.y() / step) * step)

    def step(self) -> float:
        """A round length of a few pixels."""
        scale = self.canvas.scale
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

    def stand(self, poses: dict[str, Pose]) -> np.ndarray:
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
