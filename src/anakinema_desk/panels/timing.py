"""The timing of the drivers: a bar for each along the common time. Dragging a bar moves it in time, dragging its end
changes how long it takes; bars catch at the ends of others."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from anakinema.document import Change, Document
from anakinema.errors import DocumentError
from anakinema.operations import arranged, shifted_start, stretched

from ..canvas import marks
from ..session import Session
from ..soon import soon
from ..theme.labels import Label, set_role
from ..theme.painting import painting
from ..theme.tokens import Tokens, font
from ..timeline.curves import EDGE, LABELS
from ..timeline.timeline import ticks

if TYPE_CHECKING:
    from anakinema.kinematics.motion import Motion

ROW, HEAD = 34, 22
GRIP = 7
"""Pixels at a bar's right end by which it is made longer."""
CATCH = 7
"""Pixels within which a bar catches at the end of another."""
HINT = "Drag a bar to move it in time, its right end to make it longer; they catch at others."
ROUND = 0.01
"""Seconds to which a time is rounded that catches at nothing."""


@dataclass
class Held:
    """A bar in the hand: the driver, whether by its end, where it was taken, and how it lay then."""

    driver: str
    stretches: bool
    pressed: float
    begin: float
    end: float
    shown: tuple[float, float]


class Chart(QWidget):
    """The bars."""

    def __init__(self, session: Session, tokens: Tokens):
        super().__init__()
        self.session, self.tokens = session, tokens
        self.held: Held | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Timing of the drivers")
        session.time_changed.connect(self.update)
        session.selection.changed.connect(self.update)
        session.analysis.changed.connect(soon(self, self.refresh))

    def refresh(self) -> None:
        """Makes room for the drivers there are."""
        self.setMinimumHeight(HEAD + ROW * max(len(self.spans), 1) + 6)
        self.update()

    @property
    def motion(self) -> "Motion | None":
        """The motion that is drawn."""
        motion = self.session.motion
        return motion if motion is not None and motion.document is self.session.document else None

    @property
    def spans(self) -> dict[str, list[tuple[float, float]]]:
        """When each driver moves."""
        return self.motion.spans if self.motion is not None else {}

    @property
    def whole(self) -> float:
        """The time that the chart shows (s)."""
        return max(self.motion.planned if self.motion is not None else 0.0, 1e-9) * 1.12

    def across(self, t: float) -> float:
        """The pixel of a time."""
        return LABELS + t / self.whole * (self.width() - LABELS - EDGE)

    def time(self, x: float) -> float:
        """The time at a pixel."""
        return (x - LABELS) / (self.width() - LABELS - EDGE) * self.whole

    def bar(self, driver: str) -> QRectF:
        """Where the whole bar of a driver lies."""
        names = list(self.spans)
        begin, end = self.extent(driver)
        if self.held is not None and self.held.driver == driver:
            begin, end = self.held.shown
        top = HEAD + ROW * names.index(driver) + 5
        return QRectF(self.across(begin), top, max(self.across(end) - self.across(begin), 4.0), ROW - 12)

    def extent(self, driver: str) -> tuple[float, float]:
        """When a driver begins, and when it has ended."""
        spans = self.spans[driver]
        return (spans[0][0], spans[-1][1]) if spans else (0.0, 0.0)

    def at(self, place: QPointF) -> tuple[str, bool]:
        """The driver whose bar lies under a pixel, and whether that is its end."""
        for name in self.spans:
            box = self.bar(name).adjusted(-3, -3, 3, 3)
            if box.contains(place):
                return name, place.x() > box.right() - GRIP
        return "", False

    # -- hands -------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton or self.motion is None:
            return
        name, end = self.at(event.position())
        if name:
            self.session.selection.select(f"drivers.{name}")
            one = self.motion.document.drivers[name]
            if not one.follows:
                begin, stop = self.extent(name)
                stretches = end and one.program is None
                self.held = Held(name, stretches, self.time(event.position().x()), begin, stop, (begin, stop))
        elif event.position().x() >= LABELS:
            self._scrub(event)

    def _scrub(self, event: QMouseEvent) -> None:
        self.session.pause()
        self.session.go(min(max(self.time(event.position().x()), 0.0), self.session.end))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        held = self.held
        if held is None:
            name, end = self.at(event.position())
            shape = Qt.CursorShape.SizeHorCursor if end else Qt.CursorShape.OpenHandCursor
            self.setCursor(shape if name else Qt.CursorShape.ArrowCursor)
            if event.buttons() & Qt.MouseButton.LeftButton and event.position().x() >= LABELS:
                self._scrub(event)
            return
        moved = self.time(event.position().x()) - held.pressed
        if held.stretches:
            held.shown = (held.begin, max(self._caught(held.end + moved, held.driver), held.begin + ROUND))
        else:
            begin = max(self._caught(held.begin + moved, held.driver), 0.0)
            if begin == round(begin, 6) and abs(self._caught(held.end + moved, held.driver) - (held.end + moved)) > 0:
                behind = self._caught(held.end + moved, held.driver)
                caught = behind if any(abs(behind - mark) < 1e-9 for mark in self._marks(held.driver)) else None
                if caught is not None and not any(abs(begin - mark) < 1e-9 for mark in self._marks(held.driver)):
                    begin = max(caught - (held.end - held.begin), 0.0)
            held.shown = (begin, begin + held.end - held.begin)
        self.update()

    def _marks(self, driver: str) -> list[float]:
        """Times at which a bar catches: the start, and the ends of the others."""
        return [0.0, *(end for name in self.spans if name != driver for end in self.extent(name))]

    def _caught(self, t: float, driver: str) -> float:
        near = min(self._marks(driver), key=lambda mark: abs(mark - t))
        if abs(self.across(near) - self.across(t)) <= CATCH:
            return near
        return round(t / ROUND) * ROUND

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        held, self.held = self.held, None
        document = self.session.document
        if held is None or document is None:
            return
        if held.shown != (held.begin, held.end):
            changes: list[Change]
            try:
                if held.stretches:
                    changes = [*stretched(document, held.driver, held.shown[1] - held.begin)]
                else:
                    now = document.drivers[held.driver].at
                    changes = [shifted_start(document, held.driver, now + held.shown[0] - held.begin)]
                faults = self.session.apply(changes, f"Timing of {held.driver}")
            except DocumentError as error:
                faults = error.faults
            if faults:
                self.session.faults_raised.emit("Timing not changed", faults)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """← and → move the bar that is selected by a twentieth of a second; Escape lets go of what is in the hand."""
        kind, name = self.session.selection.current()
        document = self.session.document
        if event.key() == Qt.Key.Key_Escape and self.held is not None:
            self.held = None
            self.update()
        elif event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right) and kind == "drivers" and document is not None:
            step = 0.05 if event.key() == Qt.Key.Key_Right else -0.05
            begin = self.extent(name)[0] if name in self.spans else 0.0
            if begin + step >= 0.0 and not document.drivers[name].follows:
                at = document.drivers[name].at + step
                self.session.apply([shifted_start(document, name, at)], f"Timing of {name}", f"timing {name}")
        else:
            super().keyPressEvent(event)

    # -- painting ----------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        with painting(self) as painter:
            painter.setFont(font(9))
            motion = self.motion
            if motion is None or not motion.drive.drivers:
                painter.setPen(QColor(self.tokens.muted))
                painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter,
                                 "Nothing is driven yet: select a joint and drive it (R)."
                                 if motion is not None else "Working out the motion…")
                return
            self._axis(painter)
            for number, name in enumerate(self.spans):
                self._row(painter, motion, number, name)
            x = self.across(self.session.time)
            painter.setPen(QPen(QColor(self.tokens.text), 1))
            painter.drawLine(QPointF(x, HEAD - 6), QPointF(x, self.height()))

    def _axis(self, painter: QPainter) -> None:
        painter.setFont(font(8.5))
        for value in ticks(0.0, self.whole, max(2, (self.width() - LABELS - EDGE) // 80), False):
            x = self.across(value)
            painter.setPen(QPen(QColor(self.tokens.faint), 1))
            painter.drawLine(QPointF(x, HEAD - 4), QPointF(x, self.height()))
            painter.setPen(QColor(self.tokens.muted))
            painter.drawText(QRectF(x - 40, 2, 80, HEAD - 6), Qt.AlignmentFlag.AlignCenter, f"{value:g} s")

    def _row(self, painter: QPainter, motion: "Motion", number: int, name: str) -> None:
        one, tokens = motion.document.drivers[name], self.tokens
        chosen = self.session.selection.place == f"drivers.{name}"
        top = HEAD + ROW * number
        painter.setPen(QColor(tokens.accent if chosen else tokens.text))
        painter.setFont(font(9))
        painter.drawText(QRectF(12, top, LABELS - 20, ROW / 2 + 3), Qt.AlignmentFlag.AlignVCenter, name)
        painter.setPen(QColor(tokens.muted))
        painter.setFont(font(8))
        how = f"follows {one.follows}" if one.follows else one.program.id if one.program is not None else one.law
        how += f", after {one.after}" if one.after else ""
        how += ", and back" if one.back else ""
        how += f", {one.times} times" if one.times > 1 else ""
        painter.drawText(QRectF(12, top + ROW / 2, LABELS - 20, ROW / 2), Qt.AlignmentFlag.AlignVCenter, how)
        painter.setPen(QPen(QColor(tokens.faint), 1))
        painter.drawLine(QPointF(0, top + ROW), QPointF(self.width(), top + ROW))
        if not self.spans[name]:
            return
        box = self.bar(name)
        begin = self.extent(name)[0]
        off = box.left() - self.across(begin)
        fill = QColor(tokens.accent)
        fill.setAlphaF(0.22)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(fill)
        painter.drawRoundedRect(box, 4, 4)
        stretch = self.held is not None and self.held.driver == name and self.held.stretches
        solid = QBrush(QColor(tokens.accent), Qt.BrushStyle.BDiagPattern if one.follows else Qt.BrushStyle.SolidPattern)
        for start, stop in [] if stretch else self.spans[name]:
            left, wide = self.across(start) + off, self.across(stop) - self.across(start)
            painter.fillRect(QRectF(left, box.top() + 7, wide, box.height() - 14), solid)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(tokens.accent), 2.0 if chosen else 1.0))
        painter.drawRoundedRect(box, 4, 4)
        for jolt in motion.jolts:
            if name in jolt.drivers and not stretch:
                marks.jolt(painter, tokens, QPointF(self.across(jolt.t) + off, box.bottom() + 3))
        if self.held is not None and self.held.driver == name:
            said = f"{self.held.shown[0]:g} to {self.held.shown[1]:g} s"
            painter.setPen(QColor(tokens.text))
            painter.setFont(font(8.5))
            painter.drawText(QPointF(box.right() + 8, box.center().y() + 4), said)


class Timing(QWidget):
    """The chart with its buttons."""

    def __init__(self, session: Session, tokens: Tokens):
        super().__init__()
        self.session = session
        self.chart = Chart(session, tokens)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(self.chart)
        self.line = Label(HINT)
        self._asked: tuple[Document, bool] | None = None
        """The order of which it was told what it drops."""
        self.line.setProperty("role", "muted")
        self.together, self.row = QPushButton("All together"), QPushButton("One after the other")
        top = QHBoxLayout()
        top.setContentsMargins(12, 5, 12, 3)
        top.setSpacing(8)
        top.addWidget(self.line, 1)
        top.addWidget(self.together)
        top.addWidget(self.row)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(top)
        layout.addWidget(area, 1)
        self.together.clicked.connect(lambda: self.arrange(False))
        self.row.clicked.connect(lambda: self.arrange(True))

    def set_tokens(self, tokens: Tokens) -> None:
        """Takes another theme."""
        self.chart.tokens = tokens
        self.chart.update()

    def showEvent(self, event: object) -> None:
        super().showEvent(event)  # type: ignore[arg-type]
        self.chart.refresh()

    def arrange(self, in_a_row: bool) -> None:
        """All drivers together, or each after the one before."""
        document = self.session.document
        if document is None:
            return
        found = arranged(document, in_a_row)
        asked, self._asked = self._asked, None
        if found.dropped and asked != (document, in_a_row):
            self._asked = (document, in_a_row)
            lost = ", ".join(f"{name} begins at {text}" for name, text in found.dropped.items())
            self.say(f"This would drop: {lost}. Click once more to do it all the same.", "warn")
            return
        self.say(HINT, "muted")
        faults = self.session.apply(found.changes, "One after the other" if in_a_row else "All together")
        if faults:
            self.session.faults_raised.emit("Timing not changed", faults)

    def say(self, text: str, role: str) -> None:
        """The line above the chart."""
        self.line.setText(text)
        set_role(self.line, role)
