"""The bench widget: plan view of the mechanism at the moment shown; click to select, wheel to zoom, drag to pan."""

import sys
from dataclasses import replace

from PySide6.QtCore import QEvent, QLineF, QPoint, QPointF, QRectF, QSizeF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QContextMenuEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPixmap,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from anakinema.document.model import Part, PointRef
from anakinema.kinematics.motion import Motion
from anakinema.operations import nudge

from ..session import Session
from ..soon import soon
from ..state.shown import Pose
from ..theme.painting import clear, painting
from ..theme.tokens import Tokens
from . import marks
from .context import ToolContext
from .dimensions import Dimensions
from .extent import extent, size_of
from .feature_hand import FeatureHand
from .frame import Drawn, Frame, Looks, Traced, frame_of, frame_of_trial
from .hand import Hand
from .limits import LimitHandles
from .scene import Scene
from .tools import TOOLS, Tool
from .viewport import Viewport

ARROWS = {Qt.Key.Key_Left: -1 + 0j, Qt.Key.Key_Right: 1 + 0j, Qt.Key.Key_Up: 1j, Qt.Key.Key_Down: -1j}
"""The keys that nudge, with their directions in the plane."""
FINE = 0.1
"""How much slower a part follows the hand with Shift."""
MARGIN, HINT = 46.0, 62.0
FAR = 500.0
"""How far one may zoom in and out from where all fits."""


class Canvas(QWidget):
    """The drawing surface: events in, pictures out. What it shows is a `Frame`, seen through a `Viewport`."""

    hovered = Signal(str)
    tool_changed = Signal()
    menu_wanted = Signal(QPoint)

    def __init__(self, session: Session, tokens: Tokens):
        super().__init__()
        self.session, self.tokens = session, tokens
        self.viewport = Viewport(self.width(), self.height())
        self.show_symbols = self.show_traces = True
        self._fitted = self.viewport.scale
        self.hover = ""
        self.covered = 0.0
        """How much of the upper edge the tools cover beyond the usual margin (pixels)."""
        self._view_kept = False
        """Whether the user has chosen the view: it is then not fitted again by itself."""
        self.dragged: QPointF | None = None
        self.hand = Hand(session, self)
        self.hand.moved.connect(self.update)
        self.pressed: QPointF | None = None
        self.why = ""
        """Why the part under the hand does not follow."""
        self._fit_wanted = True
        self._frame: Frame | None = None
        """What is shown; put together when it is first looked at after a change."""
        self._drawn: Drawn | None = None
        self._traced = Traced(None)
        self._tried: tuple[Motion, Drawn, Traced] | None = None
        """What is tried, with what is drawn of it in every frame."""
        self._undrawn = ""
        self._known: set[str] = set()
        """The parts that there were before."""
        self.context = ToolContext(session, lambda: self.frame, lambda: self.viewport, self.update, self.changed_tool)
        self.picking = self.context.picking
        self.feature_hand = FeatureHand(self.context)
        self.limits = LimitHandles(session, self.picking.step, self.update)
        self.dimensions = Dimensions(self, session)
        self.scene = Scene(self.dimensions, self.limits, lambda text: session.warned.emit(text, ()))
        session.trying.changed.connect(self.update)
        self._plates: list[QRectF] = []
        """Where plates of text stand in the scene, and what lies over it."""
        self._kept: QPixmap | None = None
        """The scene as a picture, while the mouse moves over it."""
        self._fresh = True
        """Whether this is the first picture of the scene as it is: it is kept when there is a second."""
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
        session.analysis.changed.connect(self.refresh)
        session.time_changed.connect(self.update)
        session.playing_changed.connect(self.update)
        self.mouse = QPointF(-1.0, -1.0)
        """Where the mouse was last."""
        later = soon(self, self.look_again, 60)
        session.time_changed.connect(later)
        session.analysis.changed.connect(later)
        session.selection.changed.connect(self.update)
        session.display_state.changed.connect(self._looks_changed)

    # -- what is shown -----------------------------------------------------------------------------------------

    @property
    def frame(self) -> Frame:
        """What is shown; only where there is a document."""
        if self._frame is None:
            document = self.session.document
            assert document is not None
            if self._drawn is None or self._drawn.document is not document:
                self._drawn = Drawn(document)
            motion = self.session.motion
            if self._traced.motion is not motion:
                self._traced = Traced(motion)
            self._frame = frame_of(
                self.session, self._drawn, self._traced, self.tokens, self.show_symbols, self.show_traces,
                self.hand.pulled, self._refused(), self.band, self.tool is not None, self._trial_frame(),
            )  # fmt: skip
        return self._frame

    def _trial_frame(self) -> Frame | None:
        """What is tried, where something is."""
        tried, state = self.session.trying.motion, self.session.display_state
        if tried is None:
            self._tried = None
            return None
        if self._tried is None or self._tried[0] is not tried:
            self._tried = (tried, Drawn(tried.document), Traced(tried))
        looks = Looks(state.hidden, state.through, state.by_part, self.show_symbols, self.show_traces)
        share = self.session.time / self.session.end if self.session.end else 0.0
        return frame_of_trial(*self._tried, share, self.tokens, looks)

    @property
    def poses(self) -> dict[str, Pose]:
        """Where the parts stand; nowhere without a document."""
        return dict(self.frame.poses) if self.session.document is not None else {}

    @property
    def scale(self) -> float:
        """Pixels for one document length."""
        return self.viewport.scale

    @scale.setter
    def scale(self, scale: float) -> None:
        self.viewport = replace(self.viewport, scale=scale)

    @property
    def center(self) -> QPointF:
        """The place of the plane in the middle."""
        return QPointF(self.viewport.center.real, self.viewport.center.imag)

    @center.setter
    def center(self, at: QPointF) -> None:
        self.viewport = replace(self.viewport, center=complex(at.x(), at.y()))

    def set_tokens(self, tokens: Tokens) -> None:
        """Takes another theme; view and switches stay."""
        self.tokens = tokens
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
        kind = self.hover.partition(".")[0]
        document = self.session.document
        if document is not None and kind and not self.session.selection.kind_of(self.hover)[0]:
            self.hover = ""  # what it spoke of is gone
        self.picking.forget()
        if self.tool is not None:
            self.tool.document_changed()
            self.changed_tool()
        self.refresh()
        self._hold_new()

    def _hold_new(self) -> None:
        """Fits the view to a part that has just been made larger than it."""
        document = self.session.document
        names = set(document.parts) if document is not None else set()
        new, self._known = names - self._known, names
        if document is None or len(new) > 3 or not new <= set(self.frame.poses):
            return
        wide, high = self.width() / self.scale, self.height() / self.scale
        if any(size[0] > wide or size[1] > high for size in (size_of(self.frame, name) for name in new)):
            self.fit()

    def _looks_changed(self) -> None:
        self.picking.forget()
        self.update()

    def refresh(self) -> None:
        """Takes in what is known now of the document."""
        self.update()
        if self.tool is not None:
            self.tool.shown()
        if self._fit_wanted and self.session.document is not None:
            self.fit()

    def world(self, ref: PointRef) -> QPointF:
        """Where a point of a part stands now."""
        at = self.frame.world(ref)
        return QPointF(at.real, at.imag)

    def part(self, name: str) -> Part:
        """A part of what is shown."""
        return self.frame.part(name)

    # -- view --------------------------------------------------------------------------------------------------

    def to_screen(self, z: QPointF) -> QPointF:
        """World to pixels."""
        return self.viewport.pixel(complex(z.x(), z.y()))

    def to_world(self, z: QPointF) -> QPointF:
        """Pixels to world."""
        at = self.viewport.place(z)
        return QPointF(at.real, at.imag)

    def pixel(self, at: complex) -> QPointF:
        """A place in the plane in pixels."""
        return self.viewport.pixel(at)

    def fit(self) -> None:
        """Shows the whole mechanism through its whole motion."""
        box = extent(self.frame, self.session.end) if self.session.document is not None else QRectF()
        self._view_kept = False
        shown_now = self.session.analysis.shown  # the rough placement is not yet all there is to see
        self._fit_wanted = shown_now is None or (shown_now.motion is None and shown_now.busy)
        if box.isNull():
            self.viewport = replace(self.viewport, center=0j, scale=4.0)
        else:
            self.viewport = self.viewport.fitted(box, MARGIN, self.covered)  # the tools stand over the upper edge
            self._fitted = self.viewport.scale
        self.update()

    def uncover(self, left: float) -> None:
        """Moves what is seen to the left of a card that begins at a pixel, as far as there is room."""
        if self.session.document is None:
            return
        box = self.viewport.transform.mapRect(extent(self.frame, self.session.end))
        by = min(box.right() - left, box.left() - MARGIN / 2)
        if box.left() < left < box.right() and by > 1.0:
            self.viewport = self.viewport.moved(QPointF(-by, 0))
            self.update()

    def width_of(self, part: str) -> float:
        """How far a part reaches along x where it stands (document lengths)."""
        return size_of(self.frame, part)[0] or 1.0

    def zoom(self, factor: float, about: QPointF | None = None) -> None:
        """Zooms about a place in pixels (default the middle), which stays where it is."""
        self._view_kept = True
        about = about if about is not None else QPointF(self.width() / 2, self.height() / 2)
        scale = min(max(self.scale * factor, self._fitted / FAR), self._fitted * FAR)
        self.viewport = self.viewport.zoomed(scale, about)
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
            self.tool = TOOLS[name](self.context)
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
            self.picking.turn = 0
            self.update()
            return
        size = self.dimensions.at(event.position())
        if size is not None and event.button() == Qt.MouseButton.LeftButton:
            self.dimensions.open(size)
            return
        if event.button() == Qt.MouseButton.LeftButton and self.limits.press(event.position()):
            return
        if event.button() == Qt.MouseButton.LeftButton and self.feature_hand.press(event.position()):
            self.pressed = event.position()
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
        self.why = f"{self.part(name).name} is fixed: it stays. Empty paper moves the view" if fixed else ""
        if event.button() == Qt.MouseButton.LeftButton and kind == "parts":
            local = self.frame.own(name, self.viewport.place(event.position()))
            self.hand.press(name, (local.real, local.imag))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.limits.taken is not None:
            self.limits.move(event)
            return
        if self.feature_hand.taken is not None and event.buttons() & Qt.MouseButton.LeftButton:
            self.feature_hand.move(event.position(), bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
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
            if far and self.why and event.buttons() == Qt.MouseButton.LeftButton:  # on what is fixed: only paper pans
                self.dragged, self.pressed = event.position(), QPointF(-1e9, -1e9)
                self.update()
                return
            if far or event.buttons() != Qt.MouseButton.LeftButton:
                self.setCursor(Qt.CursorShape.ClosedHandCursor)
                self.viewport = self.viewport.moved(moved)
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
        if self.feature_hand.taken is not None and self.feature_hand.release():
            self.pressed = None
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
            inside = not more or self.session.selection.current()[0] == "features"  # holes are chosen one by one
            self.session.selection.select(self.picking.at(event.position(), inside), bool(more))

    def _take_band(self) -> None:
        """Selects what lies in the rectangle that was drawn, besides what is selected."""
        assert self.band is not None
        found, self.band = self.picking.within(self.band.normalized()), None
        self.dragged = self.pressed = None
        chosen = [place for place in (self.session.selection.place, *self.session.selection.others) if place]
        self.session.selection.select_all(list(dict.fromkeys([*chosen, *found])))
        self.update()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        if self.tool is not None:
            if not self.tool.cancel():
                self.take("")
            return
        found = self.pick(QPointF(event.pos()))
        if found not in (self.session.selection.place, *self.session.selection.others):
            self.session.selection.select(found)
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
        elif event.key() == Qt.Key.Key_Escape and self.feature_hand.cancel():
            self.pressed = None
        elif event.key() == Qt.Key.Key_Escape and self.limits.taken is not None:
            self.limits.taken = None
            self.update()
        elif event.key() == Qt.Key.Key_Escape and (self.hand.part or self.session.posing.posed is not None):
            self.hand.let_go()
            self.session.posing.unpose()
        elif event.key() == Qt.Key.Key_Escape and self.session.selection.place:
            self.session.selection.select("")
        else:
            super().keyPressEvent(event)

    def _nudge(self, event: QKeyEvent) -> bool:
        """Moves the parts that are selected aside by a round step, tenfold with Shift; one step to undo."""
        parts = self.session.selection.chosen("parts")
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
        self.viewport = replace(self.viewport, width=self.width(), height=self.height())
        if not event.oldSize().isValid() or self._fit_wanted or not (self._view_kept or self.tool is not None):
            self.fit()

    def pick(self, at: QPointF) -> str:
        """The place in the document of what lies under a pixel."""
        return self.picking.at(at)

    def pick_part(self, at: QPointF) -> str:
        """The place in the document of the front-most part under a pixel, or nothing."""
        return self.picking.part(at)

    # -- painting ----------------------------------------------------------------------------------------------

    def _refused(self) -> tuple[QPointF, str] | None:
        """Where the hand is that pulls a fixed part, and moves the view, with why."""
        pulls = self.why and self.dragged is not None and self.pressed is not None and self.pressed.x() < -1e8
        return (self.dragged, self.why) if pulls and self.dragged is not None else None

    def update(self) -> None:  # type: ignore[override]  # of all, always
        """Asks for all to be painted anew."""
        self._kept, self._frame, self._fresh = None, None, True
        super().update()

    def paintEvent(self, event: QPaintEvent) -> None:
        if not self.window().isMinimized():
            self.session.player.seen()
        with painting(self) as painter:
            try:
                self._paint(painter)
                self._undrawn = ""
            except Exception as error:  # told once, and the bench lives on
                painter.resetTransform()
                painter.setPen(QColor(self.tokens.bad))
                painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, f"This can't be drawn: {error}")
                if self._undrawn != repr(error):
                    self._undrawn = repr(error)
                    sys.excepthook(type(error), error, error.__traceback__)

    def _paint(self, painter: QPainter) -> None:
        self.viewport = replace(self.viewport, ratio=self.devicePixelRatioF())
        if self.session.document is None:
            self.scene.paint_paper(painter, self.tokens, self.viewport)
            return
        if self.session.playing or self.dragged is not None or self._fresh:
            self._paint_scene(painter)
            self._fresh = False
        else:  # only what is under the mouse, or what a tool draws, changes while the mouse moves
            painter.drawPixmap(0, 0, self._painted())
        with marks.plates(self._plates):
            if self.tool is not None:
                self.tool.draw(painter)
            else:
                at = self.mouse if self.dragged is None else None
                self.scene.paint_hover(painter, self.frame, self.viewport, self.hover, at)
                self.feature_hand.draw(painter)
            if self.tool is not None and self.tool.hint:
                marks.hint(painter, self.tokens, self.size(), self.tool.hint)

    def _paint_scene(self, painter: QPainter) -> None:
        over = [QRectF(child.geometry()) for child in self.children() if isinstance(child, QWidget)
                and child.isVisible()]  # fmt: skip
        if self.tool is not None:
            over.append(QRectF(0, self.height() - HINT, self.width(), HINT))
        with marks.plates(over) as page:
            self.scene.paint(painter, self.frame, self.viewport)
        self._plates = page.taken
        self.picking.measured = self.scene.measured

    def _painted(self) -> QPixmap:
        """All but the tool's own, as a picture that is kept until something else changes."""
        if self._kept is None or self._kept.deviceIndependentSize() != QSizeF(self.size()):
            self._kept = clear(self.size(), self.devicePixelRatioF())
            with painting(self._kept) as painter:
                self._paint_scene(painter)
        return self._kept
