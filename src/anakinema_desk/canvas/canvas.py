"""The bench widget: plan view of the mechanism at the moment shown; click to select, wheel to zoom, drag to pan."""

import cmath
import math
import sys

import numpy as np
from PySide6.QtCore import QEvent, QLineF, QPoint, QPointF, QRectF, QSizeF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QContextMenuEvent,
    QKeyEvent,
    QMouseEvent,
    QPaintEvent,
    QPixmap,
    QPolygonF,
    QResizeEvent,
    QTransform,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from anakinema.document.model import Joint, Part, PointRef
from anakinema.geometry.outline import Slab
from anakinema.kinematics.contacts import touch
from anakinema.kinematics.motion import Motion
from anakinema.operations import Grab, nudge

from ..session import Session
from ..soon import soon
from ..state.shown import Pose
from ..theme.painting import clear, painting
from ..theme.tokens import Tokens
from .dimensions import Dimensions
from .hand import Hand
from .limits import LimitHandles
from .picking import Picking, corners_of
from .scene import Scene
from .spots import Spots
from .tools import TOOLS, Snap, Tool

ARROWS = {Qt.Key.Key_Left: -1 + 0j, Qt.Key.Key_Right: 1 + 0j, Qt.Key.Key_Up: 1j, Qt.Key.Key_Down: -1j}
"""The keys that nudge, with their directions in the plane."""
FINE = 0.1
"""How much slower a part follows the hand with Shift."""
MARGIN = 46.0
FAR = 500.0
"""How far one may zoom in and out from where all fits."""


class Canvas(QWidget):
    """The drawing surface. World lengths are the document's, y upward; `scale` is pixels for one of them."""

    hovered = Signal(str)
    tool_changed = Signal()
    menu_wanted = Signal(QPoint)

    def __init__(self, session: Session, tokens: Tokens):
        super().__init__()
        self.session, self.tokens = session, tokens
        self.scale, self.center = 4.0, QPointF(0.0, 0.0)
        self.show_symbols = self.show_traces = True
        self._fitted = self.scale
        self.hover = ""
        self.middle = QPointF(0.0, 0.0)
        self.covered = 0.0
        """How much of the upper edge the tools cover beyond the usual margin (pixels)."""
        self._view_kept = False
        """Whether the user has chosen the view: it is then not fitted again by itself."""
        self.dragged: QPointF | None = None
        self.hand = Hand(session, tokens, self)
        self.hand.moved.connect(self.update)
        self.pressed: QPointF | None = None
        self.advice = ""
        """What the guide wants next, in place of what the tool does."""
        self.why = ""
        """Why the part under the hand does not follow."""
        self._fit_wanted = True
        self.poses: dict[str, Pose] = {}
        self.traced_paths: dict[str, tuple[str | None, QPolygonF, np.ndarray]] = {}
        self.traced = 0
        """How often they were found anew."""
        self._traced: Motion | None = None
        """The motion whose traces are kept."""
        self._stacked: list[tuple[Part, Slab]] | None = None
        self.stacked = 0
        """Counts the stacks."""
        self._spots: Spots | None = None
        self._undrawn = ""
        self.scene = Scene(self)
        self.limits = LimitHandles(self)
        session.trying.changed.connect(self.update)
        self._kept: QPixmap | None = None
        """The scene as a picture, while the mouse moves over it."""
        self._fresh = True
        """Whether this is the first picture of the scene as it is: it is kept when there is a second."""
        self.picking = Picking(self)
        self.dimensions = Dimensions(self)
        self.band: QRectF | None = None
        """The rectangle in which parts are being selected (pixels)."""
        self.tool: Tool | None = None
        """What the hand holds; without one it selects and pulls."""
        self.setMouseTracking(True)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)  # it paints all of itself: nothing beneath need be
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(260, 180)
        self.setAccessibleName("Bench: the mechanism in plan")
        session.player.watched = True
        session.editor.opened.connect(self._opened)
        session.document_changed.connect(self._document_changed)
        session.shown_changed.connect(self.refresh)
        session.time_changed.connect(self._time_changed)
        self.mouse = QPointF(-1.0, -1.0)
        """Where the mouse was last."""
        later = soon(self, self.look_again, 60)
        session.time_changed.connect(later)
        session.shown_changed.connect(later)
        session.selection_changed.connect(self.update)
        session.display_state.changed.connect(self._looks_changed)

    # -- what is drawn -----------------------------------------------------------------------------------------

    def set_tokens(self, tokens: Tokens) -> None:
        """Takes another theme; view and switches stay."""
        self.tokens = self.hand.tokens = tokens
        self.update()

    def look_again(self) -> None:
        """Finds anew what lies under the mouse, for it may have moved on."""
        if not self.hover or self.tool is not None or self.dragged is not None:
            return
        self._hover_over(self.pick(self.mouse))

    def _hover_over(self, found: str) -> None:
        """What lies under the mouse now; the scene as it is kept serves on."""
        if found != self.hover:
            self.hover = found
            self.hovered.emit(found)
            super().update()

    def leaveEvent(self, event: QEvent) -> None:
        super().leaveEvent(event)
        self._hover_over("")

    def _opened(self) -> None:
        self._fit_wanted = True
        self.hover = ""
        self.dimensions.close()
        self.picking.forget()
        self.tool = None
        self.changed_tool()
        self.refresh()

    def _document_changed(self) -> None:
        self.hand.let_go()
        kind, _, name = self.hover.partition(".")
        document = self.session.document
        if document is not None and kind and name not in {**getattr(document, kind, {}), **document.couplings}:
            self.hover = ""  # what it spoke of is gone
        self._stacked = None
        self.picking.forget()
        if self.tool is not None:
            self.tool.document_changed()
            self.changed_tool()
        self.refresh()

    def _looks_changed(self) -> None:
        self.picking.forget()
        self.update()

    def refresh(self) -> None:
        """Takes in what is known now of the document."""
        motion, document = self.session.motion, self.session.document
        if motion is None or document is None:
            self.traced_paths, self._traced, self.traced = {}, None, self.traced + 1
        elif motion is not self._traced:
            self.traced_paths, self._traced, self.traced = {}, motion, self.traced + 1
            for name, path in motion.traced.items():
                line = QPolygonF([QPointF(x, y) for x, y in path])
                self.traced_paths[name] = (motion.document.traces[name].on, line, path)
        self._time_changed()
        if self.tool is not None:
            self.tool.shown()
        if self._fit_wanted and document is not None:
            self.fit()

    def _time_changed(self) -> None:
        self.poses = self.session.poses()
        self.update()

    def world(self, ref: PointRef) -> QPointF:
        """Where a point of a part stands now."""
        x, y = self.part(ref.part).place(ref.point)
        px, py, angle = self.poses[ref.part]
        cos, sin = math.cos(angle), math.sin(angle)
        return QPointF(px + cos * x - sin * y, py + sin * x + cos * y)

    def spots(self) -> Spots:
        """Where joints and skeletons stand."""
        document = self.session.document
        assert document is not None
        if self._spots is None or self._spots.document is not document:
            self._spots = Spots(document)
        return self._spots

    def part(self, name: str) -> Part:
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
        self._view_kept = False
        shown_now = self.session.shown  # the rough placement is not yet all there is to see
        self._fit_wanted = shown_now is None or (shown_now.motion is None and shown_now.busy)
        if box.isNull():
            self.center, self.scale = QPointF(0.0, 0.0), 4.0
        else:
            across = max(self.width() - 2 * MARGIN, 40) / max(box.width(), 1e-9)
            over = self.covered  # the tools stand over the upper edge
            down = max(self.height() - 2 * MARGIN - over, 40) / max(box.height(), 1e-9)
            self.scale = self._fitted = min(across, down)
            self.middle = box.center()
            self.center = box.center() + QPointF(0.0, over / 2 / self.scale)
        self.update()

    def _extent(self) -> QRectF:
        document, motion = self.session.document, self.session.motion
        if document is None or not self.poses:
            return QRectF()
        parts = list(document.parts.values())
        if motion is not None:
            q = motion.positions(np.linspace(0.0, self.session.end, 13))
            bodies = [motion.system.body(part.id) for part in parts]
        else:
            q, bodies = np.array([[self.poses[part.id] for part in parts]]), list(range(len(parts)))
        corners = [corners_of(part) for part in parts]
        owners = np.repeat(np.array(bodies, dtype=int), [spots.size for spots in corners])
        if not owners.size:
            return QRectF()
        base, turn = q[:, owners, 0] + 1j * q[:, owners, 1], np.exp(1j * q[:, owners, 2])
        placed = base + turn * np.concatenate(corners)
        low, high = complex(placed.real.min(), placed.imag.min()), complex(placed.real.max(), placed.imag.max())
        return QRectF(low.real, low.imag, max(high.real - low.real, 2e-6), max(high.imag - low.imag, 2e-6))

    def width_of(self, part: str) -> float:
        """How far a part reaches along x where it stands (document lengths)."""
        corners = corners_of(self.part(part)) * cmath.rect(1.0, self.poses[part][2])
        return float(np.ptp(corners.real)) if corners.size else 1.0

    def zoom(self, factor: float, about: QPointF | None = None) -> None:
        """Zooms about a place in pixels (default the middle), which stays where it is."""
        self._view_kept = True
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
        self.picking.only = self.picking.without = ""
        if self.session.document is None or again or not name:
            self.tool = None
        else:
            self.session.pause()
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
        x, y, angle = self.poses[grab.part]
        return complex(x, y) + grab.feature.at * cmath.rect(1.0, angle)

    def snap(self, at: QPointF) -> Snap:
        """What a pixel means to a tool."""
        return self.picking.snap(at)

    def focusNextPrevChild(self, forward: bool) -> bool:
        """Tab: the next size of what is being drawn, or the next of what is near; without a tool, the next widget."""
        if self.tool is not None:
            self.tool.tab(forward)
            return True
        return super().focusNextPrevChild(forward)

    # -- hands -------------------------------------------------------------------------------------------------

    def wheelEvent(self, event: QWheelEvent) -> None:
        turn = event.angleDelta().y() or event.pixelDelta().y()
        if self.tool is None and self._cranked(event, turn):
            return
        self.zoom(1.0015**turn, event.position())

    def _cranked(self, event: QWheelEvent, turn: int) -> bool:
        """The wheel over a joint that is driven turns the crank: three steps of the motion a notch, one with Shift."""
        kind, _, name = self.hover.partition(".")
        document, motion = self.session.document, self.session.motion
        if kind != "joints" or document is None or motion is None or self.session.end == 0:
            return False
        if name not in {driver.joint for driver in document.drivers.values()}:
            return False
        fine = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        self.session.step(round(turn / 120 * (1 if fine else 3)) or (1 if turn > 0 else -1))
        return True

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.session.going.be_still()
        if self.tool is not None and event.button() == Qt.MouseButton.LeftButton:
            self.tool.move(event.position())  # a press may come from where no move was seen
            self.tool.press(event.position())
            self.update()
            return
        size = self.dimensions.at(event.position())
        if size is not None and event.button() == Qt.MouseButton.LeftButton:
            self.dimensions.open(size)
            return
        if event.button() == Qt.MouseButton.LeftButton and self.limits.press(event.position()):
            return
        if event.button() not in (Qt.MouseButton.LeftButton, Qt.MouseButton.MiddleButton):
            return  # the menu that a right click opens takes the release: nothing is held by it
        self.dragged = self.pressed = event.position()
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if shift and event.button() == Qt.MouseButton.LeftButton and not self.pick(event.position()):
            self.band = QRectF(event.position(), event.position())
            return
        kind, _, name = self.pick_part(event.position()).partition(".")
        fixed = kind == "parts" and self.part(name).fixed
        self.why = f"{self.part(name).name} is fixed: it stays, the view moves" if fixed else ""
        if event.button() == Qt.MouseButton.LeftButton and kind == "parts":
            local = self.part_transform(name).inverted()[0].map(self.to_world(event.position()))
            self.hand.press(name, (local.x(), local.y()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.limits.taken is not None:
            self.limits.move(event)
            return
        if event.buttons() == Qt.MouseButton.NoButton and (self.dragged is not None or self.band is not None):
            self._let_all_go()  # the release went elsewhere
        if self.band is not None:
            self.band.setBottomRight(event.position())
            self.update()
            return
        if self.dragged is not None and self.pressed is not None:
            moved = event.position() - self.dragged
            far = QLineF(self.pressed, event.position()).length() > 4
            if far and self.hand.part:
                self.setCursor(Qt.CursorShape.ClosedHandCursor)
                self.pressed = QPointF(-1e9, -1e9)
                fine = FINE if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1.0
                self.hand.pull_on(moved.x() / self.scale * fine, -moved.y() / self.scale * fine)
                self.dragged = event.position()
                return
            if far or event.buttons() != Qt.MouseButton.LeftButton:
                self.setCursor(Qt.CursorShape.ClosedHandCursor)
                self.center -= QPointF(moved.x(), -moved.y()) / self.scale
                self._view_kept = True
                self.dragged = event.position()
                self.pressed = QPointF(-1e9, -1e9)
                self.update()
            return
        if self.tool is not None:
            locked = event.modifiers() & Qt.KeyboardModifier.ControlModifier
            if not locked:
                self.picking.only = ""
            elif not self.picking.only:
                self.picking.only = self.pick_part(event.position()).partition(".")[2]
            self.tool.move(event.position())
            self.hover = ""
            super().update()
            return
        self.mouse = event.position()
        self._hover_over(self.pick(self.mouse))

    def _let_all_go(self) -> None:
        """Holds nothing any more: neither the view, nor a part, nor a rectangle."""
        self.dragged = self.pressed = self.band = None
        self.why = ""
        self.hand.let_go()
        self.changed_tool()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self.tool is not None and event.button() == Qt.MouseButton.LeftButton:
            return
        if self.limits.taken is not None:
            self.limits.release()
            return
        if self.band is not None:
            self._take_band()
            return
        clicked = self.pressed is not None and QLineF(self.pressed, event.position()).length() <= 4
        self.dragged = self.pressed = None
        self.why = ""
        self.hand.release()
        self.changed_tool()
        if clicked and event.button() == Qt.MouseButton.LeftButton:
            more = event.modifiers() & (Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.ControlModifier)
            self.session.select(self.pick(event.position()), bool(more))

    def _take_band(self) -> None:
        """Selects what lies in the rectangle that was drawn, besides what is selected."""
        assert self.band is not None
        found, self.band = self.picking.within(self.band.normalized()), None
        self.dragged = self.pressed = None
        chosen = [place for place in (self.session.selection, *self.session.others) if place]
        self.session.select_all(list(dict.fromkeys([*chosen, *found])))
        self.update()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        if self.tool is not None:
            if not self.tool.cancel():
                self.take("")
            return
        found = self.pick(QPointF(event.pos()))
        if found not in (self.session.selection, *self.session.others):
            self.session.select(found)
        self.menu_wanted.emit(event.globalPos())

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self.tool is None and not self.pick(event.position()):
            self.fit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        held = event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
        if self.tool is not None and not held and self.tool.key(event):
            return
        if event.key() == Qt.Key.Key_Escape and self.tool is not None:
            if not self.tool.cancel():
                self.take("")
        elif event.key() in ARROWS and self.tool is None and not held and self._nudge(event):
            return
        elif event.key() == Qt.Key.Key_Escape and self.limits.taken is not None:
            self.limits.taken = None
            self.update()
        elif event.key() == Qt.Key.Key_Escape and (self.hand.part or self.session.posed is not None):
            self.hand.let_go()
            self.session.unpose()
        elif event.key() == Qt.Key.Key_Escape and self.session.selection:
            self.session.select("")
        else:
            super().keyPressEvent(event)

    def _nudge(self, event: QKeyEvent) -> bool:
        """Moves the parts that are selected aside by a round step, tenfold with Shift; one step to undo."""
        parts = self.session.chosen("parts")
        if not parts:
            return False
        far = self.picking.step() * (10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1)
        by = ARROWS[Qt.Key(event.key())] * far
        made = nudge(self.session.document, parts, by) if self.session.document else None
        if made is not None:
            faults = self.session.apply(made.changes, f"Nudge {parts[0]}", f"nudge {' '.join(parts)}")
            if faults:
                self.session.faults_raised.emit("Not moved", faults)
        return True

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if not event.oldSize().isValid() or self._fit_wanted or not (self._view_kept or self.tool is not None):
            self.fit()

    def pick(self, at: QPointF) -> str:
        """The place in the document of what lies under a pixel."""
        return self.picking.at(at)

    def pick_part(self, at: QPointF) -> str:
        """The place in the document of the front-most part under a pixel, or nothing."""
        return self.picking.part(at)

    # -- painting ----------------------------------------------------------------------------------------------

    def stack(self) -> list[tuple[Part, Slab]]:
        """Slabs of all parts from back to front."""
        document = self.session.document
        if document is None:
            return []
        if self._stacked is not None:
            return self._stacked
        self.stacked += 1
        stack = [(part, slab) for part in document.parts.values() for slab in part.slabs]
        self._stacked = sorted(stack, key=lambda entry: (entry[1].low, entry[1].high))
        return self._stacked

    def part_transform(self, part: str) -> QTransform:
        x, y, angle = self.poses[part]
        cos, sin = math.cos(angle), math.sin(angle)
        return QTransform(cos, sin, -sin, cos, x, y)

    def view_transform(self) -> QTransform:
        view = QTransform().translate(self.width() / 2, self.height() / 2)
        return view.scale(self.scale, -self.scale).translate(-self.center.x(), -self.center.y())

    def pulled_in_vain(self) -> QPointF | None:
        """Where the hand is that pulls a fixed part: it moves the view, and is told `why`."""
        pulls = self.why and self.pressed is not None and self.pressed.x() < -1e8
        return self.dragged if pulls else None

    def update(self) -> None:  # type: ignore[override]  # of all, always
        """Asks for all to be painted anew."""
        self._kept, self._fresh = None, True
        super().update()

    def paintEvent(self, event: QPaintEvent) -> None:
        if not self.window().isMinimized():
            self.session.player.seen()
        with painting(self) as painter:
            try:
                if self.session.playing or self.dragged is not None or self._fresh:
                    self.scene.paint(painter)
                    self._fresh = False
                else:  # only what is under the mouse, or what a tool draws, changes while the mouse moves
                    painter.drawPixmap(0, 0, self._painted())
                if self.tool is not None:
                    self.tool.draw(painter)
                else:
                    self.scene.draw_hover(painter)
                self.scene.draw_wanted(painter, self.advice or (self.tool.hint if self.tool is not None else ""))
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
        if self._kept is None or self._kept.deviceIndependentSize() != QSizeF(self.size()):
            self._kept = clear(self.size(), self.devicePixelRatioF())
            with painting(self._kept) as painter:
                self.scene.paint(painter)
        return self._kept

    def spot(self, joint: Joint) -> QPointF:
        """Where a joint is drawn: at its point on part b, or where its edges touch."""
        motion, document = self.session.motion, self.session.document
        if joint.at_end and motion is not None and document is motion.document:
            at = touch(document, joint, self.session.positions()[None], motion.system.body_ids)[0]
            return QPointF(at.real, at.imag)
        return self.world(joint.b)
