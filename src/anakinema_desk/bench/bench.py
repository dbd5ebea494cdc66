"""The bench widget: plan view of the mechanism at the moment shown; click to select, wheel to zoom, drag to pan."""

import cmath
import math
import sys
from itertools import pairwise

import numpy as np
from PySide6.QtCore import QEvent, QLineF, QPointF, QRectF, QSizeF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QPolygonF,
    QResizeEvent,
    QTransform,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from anakinema.document.model import Coupling, Joint, Part, PointRef
from anakinema.findings import Findings
from anakinema.findings.traces import trace
from anakinema.geometry.outline import Slab
from anakinema.kinds import Dimension
from anakinema.kinematics.contacts import touch
from anakinema.kinematics.motion import Motion
from anakinema.operations import Grab, features
from anakinema.words import shown

from ..session import Session
from ..state.shown import Pose
from ..theme import symbols
from ..theme.painting import clear, painting
from ..theme.tokens import Tokens, font
from . import marks
from .hand import Hand
from .paths import region_path
from .tools import TOOLS, Snap, Tool

PICK = 11.0
"""How near a click must come to a joint (pixels)."""
NEAR = 6.0
"""How near a click must come to the line of a bare skeleton (pixels)."""
STAMP = 32
"""Pixels from the middle of a pin's symbol to the edge of its picture."""
PIN = 5.5
"""Radius of a drawn pin (pixels)."""
ROUND = 5.0
"""To how many pixels, about, a place is rounded that is no feature."""
MARGIN = 46.0
FAR = 500.0
"""How far one may zoom in and out from where all fits."""
MOST_DIMENSIONS = 6
"""Closest approaches drawn at one moment."""


class Bench(QWidget):
    """The drawing surface. World lengths are the document's, y upward; `scale` is pixels for one of them."""

    hovered = Signal(str)
    tool_changed = Signal()

    def __init__(self, session: Session, tokens: Tokens):
        super().__init__()
        self.session, self.tokens = session, tokens
        self.scale, self.center = 4.0, QPointF(0.0, 0.0)
        self.show_symbols = self.show_traces = True
        self._fitted = self.scale
        self._hover = ""
        self._middle = QPointF(0.0, 0.0)
        self._drag: QPointF | None = None
        self.hand = Hand(session, tokens)
        self.hand.moved.connect(self.update)
        self._pressed: QPointF | None = None
        self._fixed = ""
        self._fit_wanted = True
        self._poses: dict[str, Pose] = {}
        self._traces: dict[str, tuple[str | None, QPolygonF, np.ndarray]] = {}
        self._traced: Motion | None = None
        """The motion whose traces are kept."""
        self._stacked: list[tuple[Part, Slab]] | None = None
        self._stamps: dict[tuple[bool, bool, str, float], QPixmap] = {}
        self._undrawn = ""
        self._scene: QPixmap | None = None
        self._closest: tuple[Findings, np.ndarray, np.ndarray] | None = None
        """The findings, and when each pair is closest (s) and how close (infinite where that is not known)."""
        self._grabbed: Features | None = None
        """The features of all parts of the document; found when a tool first asks."""
        self._number: dict[str, int] = {}
        """Number of each moving part, by which it gets its colour."""
        self.tool: Tool | None = None
        """What the hand holds; without one it selects and pulls."""
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(260, 180)
        self.setAccessibleName("Bench: the mechanism in plan")
        session.editor.opened.connect(self._opened)
        session.document_changed.connect(self._document_changed)
        session.shown_changed.connect(self.refresh)
        session.time_changed.connect(self._time_changed)
        session.selection_changed.connect(self.update)

    # -- what is drawn -----------------------------------------------------------------------------------------

    def set_tokens(self, tokens: Tokens) -> None:
        """Takes another theme; view and switches stay."""
        self.tokens = self.hand.tokens = tokens
        self.update()

    def _opened(self) -> None:
        self._fit_wanted = True
        self._hover, self._grabbed = "", None
        self.tool = None
        self.changed_tool()
        self.refresh()

    def _document_changed(self) -> None:
        self.hand.let_go()
        kind, _, name = self._hover.partition(".")
        document = self.session.document
        if document is not None and kind and name not in {**getattr(document, kind, {}), **document.couplings}:
            self._hover = ""  # what it spoke of is gone
        self._stacked = self._grabbed = None
        if self.tool is not None:
            self.tool.document_changed()
        self.refresh()

    def refresh(self) -> None:
        """Takes in what is known now of the document."""
        motion, document = self.session.motion, self.session.document
        if motion is None or document is None:
            self._traces, self._traced = {}, None
        elif motion is not self._traced:
            self._traces, self._traced = {}, motion
            for wanted in document.traces.values():
                path = trace(motion, motion.state, wanted).place
                self._traces[wanted.id] = (wanted.on, QPolygonF([QPointF(x, y) for x, y in path]), path)
        self._time_changed()
        if self._fit_wanted and document is not None:
            self.fit()

    def _time_changed(self) -> None:
        self._poses = self.session.poses()
        self.update()

    def world(self, ref: PointRef) -> QPointF:
        """Where a point of a part stands now."""
        x, y = self._part(ref.part).place(ref.point)
        px, py, angle = self._poses[ref.part]
        cos, sin = math.cos(angle), math.sin(angle)
        return QPointF(px + cos * x - sin * y, py + sin * x + cos * y)

    def _part(self, name: str) -> Part:
        assert self.session.document is not None
        return self.session.document.parts[name]

    # -- view --------------------------------------------------------------------------------------------------

    def to_screen(self, z: QPointF) -> QPointF:
        """World to pixels."""
        middle = QPointF(self.width() / 2, self.height() / 2)
        return middle + QPointF(z.x() - self.center.x(), self.center.y() - z.y()) * self.scale

    def to_world(self, z: QPointF) -> QPointF:
        """Pixels to world."""
        off = (z - QPointF(self.width() / 2, self.height() / 2)) / self.scale
        return QPointF(self.center.x() + off.x(), self.center.y() - off.y())

    def fit(self) -> None:
        """Shows the whole mechanism through its whole motion."""
        box = self._extent()
        shown_now = self.session.shown  # the rough placement is not yet all there is to see
        self._fit_wanted = shown_now is None or (shown_now.motion is None and shown_now.busy)
        if box.isNull():
            self.center, self.scale = QPointF(0.0, 0.0), 4.0
        else:
            across = max(self.width() - 2 * MARGIN, 40) / max(box.width(), 1e-9)
            down = max(self.height() - 2 * MARGIN, 40) / max(box.height(), 1e-9)
            self.scale, self.center = min(across, down), box.center()
            self._fitted = self.scale
            self._middle = box.center()
        self.update()

    def _extent(self) -> QRectF:
        document, motion = self.session.document, self.session.motion
        if document is None or not self._poses:
            return QRectF()
        parts = list(document.parts.values())
        if motion is not None:
            q = motion.positions(np.linspace(0.0, self.session.end, 13))
            bodies = [motion.system.body(part.id) for part in parts]
        else:
            q, bodies = np.array([[self._poses[part.id] for part in parts]]), list(range(len(parts)))
        corners = [_corners(part) for part in parts]
        owners = np.repeat(np.array(bodies, dtype=int), [spots.size for spots in corners])
        if not owners.size:
            return QRectF()
        base, turn = q[:, owners, 0] + 1j * q[:, owners, 1], np.exp(1j * q[:, owners, 2])
        placed = base + turn * np.concatenate(corners)
        low, high = complex(placed.real.min(), placed.imag.min()), complex(placed.real.max(), placed.imag.max())
        return QRectF(low.real, low.imag, max(high.real - low.real, 2e-6), max(high.imag - low.imag, 2e-6))

    def width_of(self, part: str) -> float:
        """How far a part reaches along x where it stands (document lengths)."""
        corners = _corners(self._part(part)) * cmath.rect(1.0, self._poses[part][2])
        return float(np.ptp(corners.real)) if corners.size else 1.0

    def zoom(self, factor: float, about: QPointF | None = None) -> None:
        """Zooms about a place in pixels (default the middle), which stays where it is."""
        about = about if about is not None else QPointF(self.width() / 2, self.height() / 2)
        before = self.to_world(about)
        self.scale = min(max(self.scale * factor, self._fitted / FAR), self._fitted * FAR)
        after = self.to_world(about)
        self.center += before - after
        self.update()

    # -- tools -------------------------------------------------------------------------------------------------

    def take(self, name: str) -> None:
        """Takes a tool in hand, or puts it away (no name, or that of the tool in hand)."""
        again = self.tool is not None and self.tool.name == name
        while self.tool is not None and self.tool.cancel():
            pass
        if self.session.document is None or again or not name:
            self.tool = None
        else:
            self.session.pause()
            self.session.go(0.0)  # what is built is built where the motion starts
            self.tool = TOOLS[name](self)
            self.setFocus()
        self.changed_tool()

    def changed_tool(self) -> None:
        """The tool wants something else now."""
        if self.tool is None:
            self.unsetCursor()
        else:
            self.setCursor(Qt.CursorShape.CrossCursor)
        self.tool_changed.emit()
        self.update()

    def pixel(self, at: complex) -> QPointF:
        """A place in the plane in pixels."""
        return self.to_screen(QPointF(at.real, at.imag))

    def stands(self, grab: Grab) -> complex:
        """Where a feature of a part stands now."""
        x, y, angle = self._poses[grab.part]
        return complex(x, y) + grab.feature.at * cmath.rect(1.0, angle)

    def snap(self, at: QPointF) -> Snap:
        """What a pixel means: the nearest feature, in one place that of the last part, else a round place."""
        document = self.session.document
        if document is None or not self._poses:
            return Snap(self._rounded(at))
        if self._grabbed is None:
            self._grabbed = Features(list(document.parts.values()))
        spots = self._grabbed.stand(self._poses)
        spot = self.to_world(at)
        gaps = np.abs(spots - complex(spot.x(), spot.y())) * self.scale
        if not gaps.size or gaps.min() >= PICK:
            return Snap(self._rounded(at))
        nearest = int(np.flatnonzero(gaps <= gaps.min() + 0.5)[-1])
        return Snap(complex(spots[nearest]), self._grabbed.grabs[nearest])

    def _rounded(self, at: QPointF) -> complex:
        """A place in the plane, rounded to what the hand can mean at this scale: a few pixels."""
        step = 10.0 ** math.floor(math.log10(ROUND / max(self.scale, 1e-12)))
        step = next(step * k for k in (1, 2, 5, 10) if step * k * self.scale >= ROUND * 0.99 or k == 10)
        z = self.to_world(at)
        return complex(round(z.x() / step) * step, round(z.y() / step) * step)

    def event(self, event: QEvent) -> bool:
        if self.tool is not None and isinstance(event, QKeyEvent):
            plain = not event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
            wanted = event.text().isprintable() and bool(event.text())
            wanted = wanted or event.key() in (Qt.Key.Key_Backspace, Qt.Key.Key_Return, Qt.Key.Key_Enter)
            if event.type() == QEvent.Type.ShortcutOverride and self.tool.typing and plain and wanted:
                event.accept()  # it is typed into the tool, and no shortcut
                return True
            if event.type() == QEvent.Type.KeyPress and plain and self.tool.key(event):
                return True  # Tab too, which would go to the next widget
        return super().event(event)

    # -- hands -------------------------------------------------------------------------------------------------

    def wheelEvent(self, event: QWheelEvent) -> None:
        turn = event.angleDelta().y() or event.pixelDelta().y()
        self.zoom(1.0015**turn, event.position())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.tool is not None and event.button() == Qt.MouseButton.LeftButton:
            self.tool.press(event.position())
            self.update()
            return
        self._drag = self._pressed = event.position()
        kind, _, name = self.pick_part(event.position()).partition(".")
        fixed = kind == "parts" and self._part(name).fixed
        self._fixed = f"{self._part(name).name} is fixed: it stays, the view moves" if fixed else ""
        if event.button() == Qt.MouseButton.LeftButton and kind == "parts":
            local = self._part_transform(name).inverted()[0].map(self.to_world(event.position()))
            self.hand.press(name, (local.x(), local.y()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None and self._pressed is not None:
            moved = event.position() - self._drag
            far = QLineF(self._pressed, event.position()).length() > 4
            if far and self.hand.part:
                self.setCursor(Qt.CursorShape.ClosedHandCursor)
                self._pressed = QPointF(-1e9, -1e9)
                spot = self.to_world(event.position())
                self.hand.pull(spot.x(), spot.y())
                return
            if far or event.buttons() != Qt.MouseButton.LeftButton:
                self.setCursor(Qt.CursorShape.ClosedHandCursor)
                self.center -= QPointF(moved.x(), -moved.y()) / self.scale
                self._drag = event.position()
                self._pressed = QPointF(-1e9, -1e9)
                self.update()
            return
        if self.tool is not None:
            self.tool.move(event.position())
            self._hover = ""
            super().update()
            return
        found = self.pick(event.position())
        if found != self._hover:
            self._hover = found
            self.hovered.emit(found)
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self.tool is not None and event.button() == Qt.MouseButton.LeftButton:
            return
        clicked = self._pressed is not None and QLineF(self._pressed, event.position()).length() <= 4
        self._drag = self._pressed = None
        self._fixed = ""
        self.hand.let_go()
        self.changed_tool()
        if clicked and event.button() == Qt.MouseButton.LeftButton:
            self.session.select(self.pick(event.position()))

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self.tool is None and not self.pick(event.position()):
            self.fit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self.tool is not None:
            if not self.tool.cancel():
                self.take("")
        elif event.key() == Qt.Key.Key_Escape and (self.hand.part or self.session.posed is not None):
            self.hand.let_go()
            self.session.unpose()
        elif event.key() == Qt.Key.Key_Escape and self.session.selection:
            self.session.select("")
        else:
            super().keyPressEvent(event)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if not event.oldSize().isValid() or self._fit_wanted:
            self.fit()

    def pick(self, at: QPointF) -> str:
        """The place in the document of what lies under a pixel: a joint, else the front-most part, else nothing."""
        document = self.session.document
        if document is None or not self._poses:
            return ""
        nearest, found = PICK, ""
        if self.show_symbols:
            for joint in document.joints.values():
                gap = QLineF(self.to_screen(self._spot(joint)), at).length()
                if joint.type == "revolute" and gap > PIN:
                    gap += PIN  # a pin on a block: the pin inside its circle, the block around it
                elif joint.type == "revolute":
                    gap -= 0.5
                if gap < nearest:
                    nearest, found = gap, f"joints.{joint.id}"
        return found or self.pick_part(at)

    def pick_part(self, at: QPointF) -> str:
        """The place in the document of the front-most part under a pixel, or nothing."""
        document = self.session.document
        if document is None or not self._poses:
            return ""
        for part in document.parts.values():  # a bare skeleton is taken by its line
            if not part.shapes and len(part.points) > 1 and not part.fixed:
                spots = [self.to_screen(self.world(PointRef(part.id, name))) for name in part.points]
                if any(_beside(at, one, two) < NEAR for one, two in pairwise(spots)):
                    return f"parts.{part.id}"
        spot = self.to_world(at)
        for part, slab in reversed(self._stack()):
            local = self._part_transform(part.id).inverted()[0].map(spot)
            if region_path(slab.region).contains(local):
                return f"parts.{part.id}"
        return ""

    # -- painting ----------------------------------------------------------------------------------------------

    def _stack(self) -> list[tuple[Part, Slab]]:
        """Slabs of all parts from back to front."""
        document = self.session.document
        if document is None:
            return []
        if self._stacked is not None:
            return self._stacked
        moving = [part for part in document.parts.values() if not part.fixed]
        self._number = {part.id: i for i, part in enumerate(moving)}
        stack = [(part, slab) for part in document.parts.values() for slab in part.slabs]
        self._stacked = sorted(stack, key=lambda entry: (entry[1].low, entry[1].high))
        return self._stacked

    def _part_transform(self, part: str) -> QTransform:
        x, y, angle = self._poses[part]
        return QTransform().translate(x, y).rotateRadians(angle)

    def _view_transform(self) -> QTransform:
        view = QTransform().translate(self.width() / 2, self.height() / 2)
        return view.scale(self.scale, -self.scale).translate(-self.center.x(), -self.center.y())

    def update(self) -> None:
        """Asks for all to be painted anew."""
        self._scene = None
        super().update()

    def paintEvent(self, event: QPaintEvent) -> None:
        with self.session.analyst.held(), painting(self) as painter:
            try:
                if self.tool is None:
                    self._paint(painter)
                else:  # only what it draws changes while the mouse moves
                    painter.drawPixmap(0, 0, self._painted())
                    self.tool.draw(painter)
                    self._draw_wanted(painter, self.tool.hint)
                self._undrawn = ""
            except Exception as error:  # told once, and the bench lives on
                painter.resetTransform()
                painter.setPen(QColor(self.tokens.bad))
                painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, f"This can't be drawn: {error}")
                if self._undrawn != repr(error):
                    self._undrawn = repr(error)
                    sys.excepthook(type(error), error, error.__traceback__)

    def _painted(self) -> QPixmap:
        """All but the tool's own, as a picture that is kept until something else changes."""
        if self._scene is None or self._scene.deviceIndependentSize() != QSizeF(self.size()):
            ratio = self.devicePixelRatioF()
            self._scene = QPixmap(self.size() * ratio)
            self._scene.setDevicePixelRatio(ratio)
            with painting(self._scene) as painter:
                self._paint(painter)
        return self._scene

    def _paint(self, painter: QPainter) -> None:
        painter.fillRect(self.rect(), QColor(self.tokens.paper))
        self._draw_grid(painter)
        document = self.session.document
        if document is not None:
            self._draw_parts(painter)
            if self.show_traces:
                self._draw_traces(painter)
            if self.show_symbols:
                for coupling in document.active_couplings.values():
                    self._draw_coupling(painter, coupling)
                blocks_first = sorted(document.joints.values(), key=lambda joint: joint.type == "revolute")
                for joint in blocks_first:
                    self._draw_joint(painter, joint)
            if self.session.posed is None:
                self._draw_closest(painter)
            self.hand.draw(painter, self._poses, self.to_screen)
            if self._fixed and self._drag is not None and self._pressed is not None and self._pressed.x() < -1e8:
                marks.label(painter, self.tokens, self._drag + QPointF(14, -18), self._fixed, QColor(self.tokens.line))
            self._draw_selection(painter)
            if not document.parts and self.tool is None:
                self._draw_hint(painter)
        self._draw_scale(painter)

    def _draw_hint(self, painter: QPainter) -> None:
        painter.setPen(QColor(self.tokens.muted))
        painter.setFont(font(11))
        text = (
            "Nothing on the bench yet.\n\nDraw a plate (P) or a bar (B): the first part is the frame.\n"
            "Draw the next from its corners, ends or holes (O): it is pinned where it begins.\n"
            "Join others by a feature of each (J), drive a joint (R), and watch it move.\n\n"
            "Or open a file (Ctrl+O), or an example from the File menu."
        )
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, text)

    def _draw_wanted(self, painter: QPainter, text: str) -> None:
        """What the tool wants next, along the lower edge."""
        painter.setFont(font(9.5))
        metrics, room = painter.fontMetrics(), self.width() - 60
        lines = [text] if metrics.horizontalAdvance(text) < room else text.split("  ", 1)
        for k, line in enumerate(lines):
            at = QPointF((self.width() - metrics.horizontalAdvance(line) - 12) / 2, self.height() - 46)
            marks.label(painter, self.tokens, at - QPointF(0, 24 * (len(lines) - 1 - k)), line,
                        QColor(self.tokens.accent))

    def _grid_step(self) -> float:
        wanted = 42 / max(self.scale, 1e-12)
        power = 10 ** math.floor(math.log10(wanted))
        return next(step * power for step in (1, 2, 5, 10) if step * power >= wanted)

    def _draw_grid(self, painter: QPainter) -> None:
        step = self._grid_step()
        corner, far = self.to_world(QPointF(0, self.height())), self.to_world(QPointF(self.width(), 0))
        lines = []
        for i in range(math.ceil(corner.x() / step), math.floor(far.x() / step) + 1):
            x = self.to_screen(QPointF(i * step, 0)).x()
            lines.append(QLineF(x, 0, x, self.height()))
        for i in range(math.ceil(corner.y() / step), math.floor(far.y() / step) + 1):
            y = self.to_screen(QPointF(0, i * step)).y()
            lines.append(QLineF(0, y, self.width(), y))
        painter.setPen(QPen(QColor(self.tokens.grid), 1))
        painter.drawLines(lines)

    def _draw_scale(self, painter: QPainter) -> None:
        document = self.session.document
        if document is None:
            return
        step = self._grid_step()
        length, y = step * self.scale, self.height() - 16
        painter.setPen(QPen(QColor(self.tokens.muted), 1.2))
        painter.drawLine(QLineF(16, y, 16 + length, y))
        for x in (16, 16 + length):
            painter.drawLine(QLineF(x, y - 4, x, y + 4))
        painter.setFont(font(8.5))
        painter.drawText(QPointF(24 + length, y + 4), f"{step:g} {document.units.length}")

    def fill(self, part: Part) -> QColor:
        """The fill of a part: its own colour, the frame's, or the next of the theme's."""
        own = QColor(part.color) if part.color else QColor()
        if own.isValid():
            return own
        if part.fixed:
            return QColor(self.tokens.frame_fill)
        return QColor(self.tokens.fills[self._number.get(part.id, 0) % len(self.tokens.fills)])

    def _draw_parts(self, painter: QPainter) -> None:
        view = self._view_transform()
        selected = self.session.selection
        edge = QPen(QColor(self.tokens.edge), 1.1)
        edge.setCosmetic(True)
        stack = self._stack()
        levels = {low: i for i, low in enumerate(sorted({slab.low for _, slab in stack}))}
        for part, slab in stack:
            colour = self.fill(part)
            lift = levels[slab.low] / max(len(levels) - 1, 1)
            colour = colour.lighter(92 + int((14 if self.tokens.name == "light" else 26) * lift))
            painter.setTransform(self._part_transform(part.id) * view)
            painter.setPen(edge)
            painter.setBrush(colour)
            painter.drawPath(region_path(slab.region))
        for place, width, colour in ((self._hover, 2.0, self.tokens.muted), (selected, 2.6, self.tokens.accent)):
            kind, _, name = place.partition(".")
            if kind == "parts" and name in self._poses:
                self._outline(painter, view, name, QColor(colour), width)
        painter.resetTransform()
        self._draw_skeletons(painter)

    def _outline(self, painter: QPainter, view: QTransform, part: str, colour: QColor, width: float) -> None:
        pen = QPen(colour, width)
        pen.setCosmetic(True)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setTransform(self._part_transform(part) * view)
        for slab in self._part(part).slabs:
            painter.drawPath(region_path(slab.region))

    def _draw_skeletons(self, painter: QPainter) -> None:
        document = self.session.document
        assert document is not None
        view = self._view_transform()
        for part in document.parts.values():
            if part.shapes or part.fixed:
                continue
            chosen = self.session.selection == f"parts.{part.id}"
            painter.setPen(QPen(QColor(self.tokens.accent if chosen else self.tokens.edge), 2.0))
            line = QPolygonF([QPointF(x, y) for x, y in part.points.values()])
            painter.drawPolyline((self._part_transform(part.id) * view).map(line))

    def _draw_traces(self, painter: QPainter) -> None:
        view = self._view_transform()
        for name, (on, line, _) in self._traces.items():
            base = self._part_transform(on) * view if on else view
            chosen = self.session.selection == f"traces.{name}"
            pen = QPen(QColor(self.tokens.trace), 2.2 if chosen else 1.4)
            pen.setStyle(Qt.PenStyle.DashLine)
            pen.setDashPattern([5, 3])
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPolyline(base.map(line))
            assert self.session.document is not None
            wanted = self.session.document.traces.get(name)
            if wanted is not None and wanted.point.part in self._poses:
                at = self.to_screen(self.world(wanted.point))
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(QColor(self.tokens.trace))
                painter.drawEllipse(at, 3.0, 3.0)

    def _draw_joint(self, painter: QPainter, joint: Joint) -> None:
        place = f"joints.{joint.id}"
        chosen = place == self.session.selection
        ink = QColor(self.tokens.accent if chosen else self.tokens.symbol)
        if joint.suspended:
            ink.setAlphaF(0.4)
        grounded = self._part(joint.a.part).fixed or self._part(joint.b.part).fixed
        spot = self.to_screen(self._spot(joint))
        marked = place == self._hover or chosen
        if joint.type == "revolute" and not marked:
            if self.rect().adjusted(-STAMP, -STAMP, STAMP, STAMP).contains(spot.toPoint()):
                painter.drawPixmap(spot - QPointF(STAMP, STAMP), self._stamp(grounded, joint.suspended))
            return
        painter.save()
        painter.translate(spot)
        if marked:
            halo = QColor(self.tokens.accent)
            halo.setAlphaF(0.22)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(halo)
            painter.drawEllipse(QPointF(0, 0), 13, 13)
        symbols.draw(
            painter,
            joint.type,
            ink,
            QColor(self.tokens.paper),
            grounded=grounded,
            angle=self._slide_angle(joint),
            other=self.to_screen(self.world(joint.a)) - self.to_screen(self.world(joint.b)),
        )
        painter.restore()

    def _stamp(self, grounded: bool, suspended: bool) -> QPixmap:
        """The symbol of a pin, drawn once: a mechanism has many of them."""
        ratio = self.devicePixelRatioF()
        key = (grounded, suspended, self.tokens.name, ratio)
        if key not in self._stamps:
            stamp = clear(2 * STAMP, ratio)
            ink = QColor(self.tokens.symbol)
            ink.setAlphaF(0.4 if suspended else 1.0)
            with painting(stamp) as painter:
                painter.translate(STAMP, STAMP)
                symbols.draw(painter, "revolute", ink, QColor(self.tokens.paper), grounded=grounded)
            self._stamps[key] = stamp
        return self._stamps[key]

    def _slide_angle(self, joint: Joint) -> float:
        """The direction of a joint's slide in the plane; of one on an arc, that of the track where the block is."""
        if joint.type == "slide-arc":
            arm = self.world(joint.b) - self.world(joint.a)
            return math.atan2(arm.y(), arm.x()) + math.pi / 2
        return self._poses[joint.a.part][2] + joint.values.get("direction", 0.0)

    def _spot(self, joint: Joint) -> QPointF:
        """Where a joint is drawn: at its point on part b, or where its edges touch."""
        motion, document = self.session.motion, self.session.document
        if joint.at_end and motion is not None and document is motion.document:
            at = touch(document, joint, self.session.positions()[None], motion.system.body_ids)[0]
            return QPointF(at.real, at.imag)
        return self.world(joint.b)

    def _draw_coupling(self, painter: QPainter, coupling: Coupling) -> None:
        """Pitch circles of wheels that mesh, pulleys and belt, pinion and rack."""
        document = self.session.document
        assert document is not None
        chosen = self.session.selection == f"joints.{coupling.id}"
        ink = QColor(self.tokens.accent if chosen else self.tokens.symbol)
        one, two = (self.world(document.joints[name].b) for name in (coupling.a, coupling.b))
        a, b = self.to_screen(one), self.to_screen(two)
        far = QLineF(one, two).length()
        if coupling.type == "gear":
            size = abs(coupling.ratio)  # a's radius over b's
            whole = far / (1 - size) if coupling.ratio > 0 and size != 1 else far / (1 + size)
            symbols.wheels(painter, ink, a, b, (abs(whole * size) * self.scale, abs(whole) * self.scale))
        elif coupling.type == "belt":
            pair = coupling.given.get("diameters")
            radii = (pair[0] / 2, pair[1] / 2) if isinstance(pair, tuple) else (
                0.3 * far * coupling.ratio / (1 + abs(coupling.ratio)), 0.3 * far / (1 + abs(coupling.ratio))
            )
            sizes = (abs(radii[0]) * self.scale, abs(radii[1]) * self.scale)
            symbols.belt(painter, ink, a, b, sizes, coupling.given.get("run") == "crossed")
        elif coupling.type == "rack":
            radius = abs(coupling.ratio) * self.scale
            symbols.wheels(painter, ink, a, a, (radius, 0.0))

    def _draw_closest(self, painter: QPainter) -> None:
        """Dimensions of the closest approaches that fall into the moment shown."""
        findings, document = self.session.findings, self.session.document
        if findings is None or document is None:
            return
        step = findings.motion.planned / max(findings.motion.steps, 1)
        if self._closest is None or self._closest[0] is not findings:  # there may be thousands of pairs
            known = [np.inf if found.distance is None else found.distance for found in findings.approaches]
            self._closest = findings, np.array([found.t for found in findings.approaches]), np.array(known)
        _, times, least = self._closest
        now = np.flatnonzero((np.abs(times - self.session.time) <= 0.51 * step) & np.isfinite(least))
        failed = {frozenset(verdict.check.parts) for verdict in findings.failed if verdict.check.parts}
        for k in now[np.argsort(least[now], kind="stable")[:MOST_DIMENSIONS]]:
            approach, distance = findings.approaches[k], float(least[k])
            bad = distance < 0 or frozenset(approach.parts) in failed
            colour = QColor(self.tokens.bad if bad else self.tokens.accent)
            one, two = (self.to_screen(QPointF(z.real, z.imag)) for z in approach.points)
            text = ("" if approach.proven else "≈ ") + shown(distance, "length", document.units, 3)
            marks.dimension(painter, self.tokens, one, two, text, colour)

    def _draw_selection(self, painter: QPainter) -> None:
        kind, name = self.session.selected()
        document = self.session.document
        if kind == "joints" and document is not None:
            joint = document.joints[name]
            self._annotate(painter, joint)
        elif kind == "parts" and document is not None and name in self._poses:
            part = document.parts[name]
            self._draw_freedoms(painter, name)
            for point in part.points:
                at = self.to_screen(self.world(PointRef(name, point)))
                marks.label(painter, self.tokens, at + QPointF(10, -14), point, QColor(self.tokens.line))
        hover_kind, _, hover_name = self._hover.partition(".")
        if hover_name and self._hover != self.session.selection and self._drag is None:
            cursor = QPointF(self.mapFromGlobal(self.cursor().pos()))
            text = hover_name
            if hover_kind == "parts" and document is not None and hover_name in document.parts:
                text = document.parts[hover_name].name
            elif hover_kind == "joints" and document is not None and hover_name in document.joints:
                text = f"{hover_name} · {document.joints[hover_name].type}"
            marks.label(painter, self.tokens, cursor + QPointF(16, 18), text, QColor(self.tokens.line))

    def _draw_freedoms(self, painter: QPainter, part: str) -> None:
        """Arrows for the motions left to a part: an arc about the centre of its turn, a double arrow along a slide."""
        left = self.session.motions_left(part) or ()
        x, y, _ = self._poses[part]
        colour = QColor(self.tokens.accent)
        for freedom in left:
            if freedom.kind == "turn":
                middle = self.to_screen(QPointF(freedom.center.real, freedom.center.imag))
                marks.turn_arrow(painter, middle, colour)
            else:
                way = QPointF(freedom.direction.real, -freedom.direction.imag)
                marks.slide_arrow(painter, self.to_screen(QPointF(x, y)), way, colour)

    def _annotate(self, painter: QPainter, joint: Joint) -> None:
        """A joint's value, zero, positive direction and range, next to it."""
        motion, document, findings = self.session.motion, self.session.document, self.session.findings
        painter.setFont(font(9.5))
        here = self.to_screen(self._spot(joint))
        assert document is not None
        text = joint.id
        colour = QColor(self.tokens.accent)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if motion is not None and joint.id in motion.system.coordinates:
            coordinates = motion.system.coordinates
            column = coordinates.index(joint.id)
            value = float(self.session.coordinates()[column])
            dimension = coordinates.dimension(column)
            text = f"{joint.id} = {shown(value, dimension, document.units, 2)}"
            if findings is not None:
                found = findings.motion.extremes
                ends = (float(found.low[column]), float(found.high[column]))
                text += f"    range {' … '.join(shown(end, dimension, document.units, 2) for end in ends)}"
            base = self._poses[joint.a.part][2]
            if dimension == Dimension.ANGLE:
                marks.angle_arrow(painter, here, base + joint.values.get("zero", 0.0), value, colour)
            else:
                angle = base + joint.values.get("direction", 0.0)
                start = self.to_screen(self.world(joint.a))
                end = start + QPointF(math.cos(angle), -math.sin(angle)) * (value * self.scale)
                marks.travel_arrow(painter, start, end, angle, colour)
        room = painter.fontMetrics().horizontalAdvance(text) + 24
        left = here.x() < self.to_screen(self._middle).x()
        marks.label(painter, self.tokens, here + QPointF(-room - 40 if left else 48, -34), text, colour)


class Features:
    """The features of parts as arrays: a mouse move asks where all of them stand."""

    def __init__(self, parts: list[Part]):
        self.grabs = [Grab(part.id, feature) for part in parts for feature in features(part)]
        self.names = [part.id for part in parts]
        number = {name: k for k, name in enumerate(self.names)}
        self.owner = np.array([number[grab.part] for grab in self.grabs], dtype=int)
        self.own = np.array([grab.feature.at for grab in self.grabs], dtype=complex)

    def stand(self, poses: dict[str, Pose]) -> np.ndarray:
        """(N,) where they stand in the plane; far away where the part is not placed."""
        placed = np.array([poses.get(name, (np.inf, 0.0, 0.0)) for name in self.names]).reshape(-1, 3)
        turned = self.own * np.exp(1j * placed[self.owner, 2])
        found: np.ndarray = placed[self.owner, 0] + 1j * placed[self.owner, 1] + turned
        return found


def _corners(part: Part) -> np.ndarray:
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
