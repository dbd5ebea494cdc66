"""The lifted view: the stack slanted, its layers spread by a slider, in the order in which they hide each other.

Everything is a prism over the plan. Cut at all depths at which something begins or ends, the prisms of one level don't
reach into those of another; so level after level is painted from the back, in each first the walls, those further away
before nearer ones, then the faces.
"""

from bisect import bisect_left
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QPolygonF,
    QTransform,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from anakinema.arrays import Mask, Plane
from anakinema.document.copies import extent
from anakinema.document.model import Document
from anakinema.geometry.areas import chords
from anakinema.geometry.outline import Region

from ..session import Session
from ..state.shown import Pose
from ..theme.choices import Slide
from ..theme.painting import painting
from ..theme.tokens import Tokens, font
from .frame import Drawn
from .layers import part_colour
from .paths import region_path

FLAT = 0.62
"""How much of a length along y is seen of the plan that lies slanted."""
UP = 0.30 + 0.72j
"""Where a length of depth goes on the screen, x to the right and y upward."""
TOWARD = -(UP.real + 1j * UP.imag / FLAT)
"""The same of the plan, downward: walls that face this way are seen."""
SHADES = (0, 12, 24)
"""How much darker than the face walls are, by how they stand to the light (percent)."""
CHORD = 0.35
"""By how much chords may miss arcs (pixels)."""
MARGIN = 46.0


@dataclass
class Prism:
    """A slab of a part: its outline as loops of corners in the part's axes, all behind each other in `z`."""

    part: str
    region: Region
    low: float
    high: float
    z: Plane
    after: np.ndarray
    """The number of the corner that follows each."""
    colour: QColor
    walls: tuple[QColor, ...]
    """What its walls are filled with, by how they stand to the light."""


class LiftedView(QWidget):
    """The mechanism slanted."""

    hovered = Signal(str)

    def __init__(self, session: Session, tokens: Tokens):
        super().__init__()
        self.session, self.tokens = session, tokens
        self._drawn: Drawn | None = None
        self._of: tuple[object, ...] = ()
        self._prisms: list[Prism] = []
        self._painted: list[tuple[QPainterPath, QTransform, str]] = []
        self._zoom, self._pan = 1.0, QPointF()
        self._fitted: tuple[float, complex] | None = None
        self._held: QPointF | None = None
        self._pressed: QPointF | None = None
        self.spread = Slide(Qt.Orientation.Vertical, self)
        self.spread.setRange(0, 100)
        self.spread.setAccessibleName("How far the layers are spread")
        self.spread.setToolTip("Spreads the layers")
        self.spread.valueChanged.connect(self._respread)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(260, 180)
        self.setAccessibleName("Lifted: the mechanism slanted")
        for signal in (session.analysis.changed, session.time_changed, session.selection.changed,
                       session.display_state.changed):  # fmt: skip
            signal.connect(self.update)
        session.document_changed.connect(self.update)
        session.editor.opened.connect(self.fit)

    def set_tokens(self, tokens: Tokens) -> None:
        """Takes another theme."""
        self.tokens = tokens
        self.update()

    def fit(self) -> None:
        """Shows all of it."""
        self._zoom, self._pan, self._fitted = 1.0, QPointF(), None
        self.update()

    def _respread(self) -> None:
        self._fitted = None
        self.update()

    def resizeEvent(self, event: object) -> None:
        super().resizeEvent(event)  # type: ignore[arg-type]
        self.spread.setGeometry(self.width() - 34, 16, 24, min(self.height() - 32, 180))
        self._fitted = None

    # -- what is there -----------------------------------------------------------------------------------------

    def _lifts(self, document: Document) -> dict[str, float]:
        """How far each part is lifted by the spread: a step for each depth at which one begins."""
        spans = {name: extent([part]) for name, part in document.parts.items() if part.slabs}
        begins = sorted({round(low, 6) for low, _ in spans.values()})
        if not begins:
            return {}
        whole = max(high for _, high in spans.values()) - min(low for low, _ in spans.values())
        step = self.spread.value() / 100 * 1.2 * whole / max(len(begins) - 1, 1) * 2
        return {name: begins.index(round(low, 6)) * step for name, (low, _) in spans.items()}

    def _made(self, scale: float) -> list[Prism]:
        """The prisms of what is shown; outlines anew where the scale has changed much."""
        document, state = self.session.document, self.session.display_state
        assert document is not None
        if self._drawn is None or self._drawn.document is not document:
            self._drawn = Drawn(document)
        level = round(np.log2(max(scale, 1e-9)))
        of = (self._drawn, state.hidden, state.by_part, self.tokens.name, level)
        if of != self._of:
            self._of = of
            self._prisms = []
            for part, slab in self._drawn.stack:
                if part.id in state.hidden:
                    continue
                colour = part_colour(self.tokens, part, self._drawn.numbers.get(part.id, 0), state.by_part)
                loops = [chords(slab.region.edges.pick(loop), CHORD / 2.0**level) for loop in slab.region.loops]
                begins = np.cumsum([0, *(loop.size for loop in loops)])
                after = np.concatenate([np.roll(np.arange(a, b), -1) for a, b in pairwise(begins)])
                z = np.concatenate(loops)
                walls = tuple(colour.darker(110 + shade) for shade in SHADES)
                self._prisms.append(Prism(part.id, slab.region, slab.low, slab.high, z, after, colour, walls))
        return self._prisms

    @staticmethod
    def onto(z: Plane, depth: float) -> Plane:
        """Places of the plan at a depth, on the screen in lengths, y upward."""
        return z.real + UP.real * depth + 1j * (z.imag * FLAT + UP.imag * depth)

    def _fit_to(self, prisms: list[Prism], poses: dict[str, Pose], lifts: dict[str, float]) -> tuple[float, complex]:
        """Pixels for a length, and what is in the middle."""
        if self._fitted is None:
            spots = []
            for one in prisms:
                x, y, angle = poses[one.part]
                stands = complex(x, y) + one.z * np.exp(1j * angle)
                for depth in (one.low, one.high):
                    seen = self.onto(stands, depth + lifts[one.part])
                    spots += [complex(seen.real.min(), seen.imag.min()), complex(seen.real.max(), seen.imag.max())]
            both = np.array(spots)
            low, high = complex(both.real.min(), both.imag.min()), complex(both.real.max(), both.imag.max())
            size = high - low
            scale = min((self.width() - 2 * MARGIN) / max(size.real, 1e-9),
                        (self.height() - 2 * MARGIN) / max(size.imag, 1e-9))  # fmt: skip
            self._fitted = max(scale, 1e-6), (low + high) / 2
        return self._fitted

    # -- painting ----------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        with painting(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self.paint(painter)

    def paint(self, painter: QPainter) -> None:
        """All of it."""
        painter.fillRect(self.rect(), QColor(self.tokens.paper))
        document = self.session.document
        self._painted = []
        if document is None:
            return
        poses = self.session.posing.poses()
        lifts = self._lifts(document)
        scale = self._fitted[0] if self._fitted is not None else 4.0
        prisms = [one for one in self._made(scale * self._zoom) if one.part in poses]
        if not prisms:
            painter.setPen(QColor(self.tokens.muted))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "No part has an outline")
            return
        scale, middle = self._fit_to(prisms, poses, lifts)
        scale *= self._zoom
        view = QTransform(scale, 0, 0, -scale, self.width() / 2 + self._pan.x() - middle.real * scale,
                          self.height() / 2 + self._pan.y() + middle.imag * scale)  # fmt: skip
        self._paint_levels(painter, prisms, poses, lifts, view)
        self._captions(painter)

    def _paint_levels(
        self, painter: QPainter, prisms: list[Prism], poses: dict[str, Pose], lifts: dict[str, float], view: QTransform
    ) -> None:
        chosen = self.session.selection.current()[1]
        spans = [(one.low + lifts[one.part], one.high + lifts[one.part]) for one in prisms]
        levels = sorted({round(end, 9) for span in spans for end in span})
        at: dict[float, list[tuple[int, float, float]]] = {}
        for k, (low, high) in enumerate(spans):
            first, last = bisect_left(levels, low - 1e-9), bisect_left(levels, high - 1e-9)
            for a, b in pairwise(levels[first : last + 1]):  # cut at all depths at which another begins or ends
                at.setdefault(a, []).append((k, a, b))
        walls = self._walls(prisms, poses, view)
        for level in sorted(at):
            some = [(near, wall, low, high) for k, low, high in at[level] for near, wall in walls[k]]
            for _, (one, colour), low, high in sorted(some, key=lambda each: each[0]):
                ends = [UP * depth for depth in (low, high)]
                foot, top = (QPointF(end.real * view.m11(), end.imag * view.m22()) for end in ends)
                painter.setPen(colour)
                painter.setBrush(colour)
                polygon = QPolygonF(one)
                painter.drawPolygon(polygon.translated(foot) + polygon.translated(top).toList()[::-1])
            for k, _, high in at[level]:
                self._face(painter, prisms[k], poses, high, abs(high - spans[k][1]) < 1e-9, chosen, view)

    def _walls(
        self, prisms: list[Prism], poses: dict[str, Pose], view: QTransform
    ) -> list[list[tuple[float, tuple[list[QPointF], QColor]]]]:
        """Of each prism the runs of corners, at depth 0, over which it has walls that are seen, with how near they are
        and their colour."""
        begins = np.cumsum([0, *(one.z.size for one in prisms)])
        owner = np.repeat(np.arange(len(prisms)), np.diff(begins))
        placed = np.array([poses[one.part] for one in prisms])
        turned = np.exp(1j * placed[owner, 2]) * np.concatenate([one.z for one in prisms])
        stands: Plane = placed[owner, 0] + 1j * placed[owner, 1] + turned
        after = np.concatenate([one.after + begin for one, begin in zip(prisms, begins[:-1], strict=True)])
        way = stands[after] - stands
        outward = -1j * way / np.where(np.abs(way) > 0, np.abs(way), 1.0)
        faces: Mask = (outward.conj() * TOWARD).real > 1e-9
        shade = np.where(outward.real > 0.35, 0, np.where(outward.real > -0.35, 1, 2))
        onto = self.onto(stands, 0.0)
        x = (onto.real * view.m11() + view.dx()).tolist()
        y = (onto.imag * view.m22() + view.dy()).tolist()
        near = ((stands + stands[after]) / 2 * TOWARD.conjugate()).real.tolist()
        found: list[list[tuple[float, tuple[list[QPointF], QColor]]]] = [[] for _ in prisms]
        seen = np.flatnonzero(faces)
        if not seen.size:
            return found
        goes_on = (after[seen[:-1]] == seen[1:]) & (shade[seen[:-1]] == shade[seen[1:]])
        ends = np.append(np.flatnonzero(~goes_on), seen.size - 1)
        last, whose, light = after[seen[ends]].tolist(), owner[seen[ends]].tolist(), shade[seen[ends]].tolist()
        corners, begin = seen.tolist(), 0
        for end, beyond, k, dark in zip((ends + 1).tolist(), last, whose, light, strict=True):
            run = corners[begin:end]
            spots = [QPointF(x[i], y[i]) for i in (*run, beyond)]
            found[k].append((near[run[len(run) // 2]], (spots, prisms[k].walls[dark])))
            begin = end
        return found

    def _face(
        self, painter: QPainter, one: Prism, poses: dict[str, Pose], depth: float, ends: bool, chosen: str,
        view: QTransform,
    ) -> None:  # fmt: skip
        """The front face of a prism; of one that goes on further up nothing is drawn."""
        if not ends:
            return
        x, y, angle = poses[one.part]
        cos, sin = np.cos(angle), np.sin(angle)
        slanted = QTransform(1, 0, 0, FLAT, UP.real * depth, UP.imag * depth)
        placed = QTransform(cos, sin, -sin, cos, x, y) * slanted * view
        path = region_path(one.region)
        mine = one.part == chosen
        pen = QPen(QColor(self.tokens.accent if mine else self.tokens.edge), 2.2 if mine else 1.0)
        pen.setCosmetic(True)
        painter.setPen(pen)
        painter.setBrush(one.colour)
        painter.setTransform(placed)
        painter.drawPath(path)
        painter.resetTransform()
        self._painted.append((path, placed, one.part))

    def _captions(self, painter: QPainter) -> None:
        painter.setFont(font(9.0))
        painter.setPen(QColor(self.tokens.muted))
        text = "Lifted: the front is up. The slider spreads the layers; drag moves the view, the wheel zooms"
        painter.drawText(QRectF(14, 10, self.width() - 60, 16), Qt.AlignmentFlag.AlignVCenter, text)

    # -- hands -------------------------------------------------------------------------------------------------

    def pick(self, at: QPointF) -> str:
        """The part whose face is seen there, the nearest; empty where there is none."""
        for path, placed, part in reversed(self._painted):
            back, fine = placed.inverted()
            if fine and path.contains(back.map(at)):
                return part
        return ""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._held = self._pressed = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held is not None and event.buttons() & Qt.MouseButton.LeftButton:
            self._pan += event.position() - self._held
            self._held = event.position()
            self.update()
            return
        name = self.pick(event.position())
        self.hovered.emit(f"parts.{name}" if name else "")

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        pressed, self._held, self._pressed = self._pressed, None, None
        if pressed is not None and (event.position() - pressed).manhattanLength() < 5:
            name = self.pick(event.position())
            self.session.selection.select(f"parts.{name}" if name else "")

    def wheelEvent(self, event: QWheelEvent) -> None:
        self._zoom = min(max(self._zoom * 1.0015 ** event.angleDelta().y(), 0.1), 40.0)
        self.update()
