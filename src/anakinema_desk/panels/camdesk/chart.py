"""The chart of a cam's program: lift, velocity, acceleration and jerk, one under the other over a turn. Ends of
segments are dragged along, and up and down; they catch at those of other cams on the shaft."""

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from anakinema.arrays import Array
from anakinema.formatting import shown
from anakinema.kinds import Dimension

from ...theme.painting import painting
from ...theme.tokens import Tokens, font
from .model import CamModel, borders, course_of, lane_values, round_step, rounded

LEFT, RIGHT, TOP, LOW = 84, 20, 20, 18
LANES = ("lift", "velocity", "acceleration", "jerk")
SHARES = (0.4, 0.2, 0.2, 0.2)
GRIP, CATCH = 7, 6
"""Pixels within which an end is taken, and within which it catches at another."""
DECIDED = 4
"""Pixels after which a drag goes along or up and down, and no longer both."""


@dataclass
class Held:
    """An end in the hand: of which segment, where it was taken, and which way it goes (empty: not yet decided)."""

    number: int
    at: QPointF
    end: float
    height: float
    way: str = ""


class Chart(QWidget):
    """The four lanes."""

    def __init__(self, model: CamModel, tokens: Tokens):
        super().__init__()
        self.model, self.tokens = model, tokens
        self.held: Held | None = None
        self._extents: tuple[object, list[tuple[float, float]]] = None, []
        """What each lane shows, and of which cam."""
        self.setMouseTracking(True)
        self.setMinimumSize(300, 150)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Program of the cam over its shaft")
        model.changed.connect(self.update)
        model.session.time_changed.connect(self.update)
        model.session.posing.changed.connect(self.update)

    # -- places ------------------------------------------------------------------------------------------------

    @property
    def range(self) -> tuple[float, float]:
        """From where to where the shaft is drawn."""
        cam = self.model.cam
        return cam.range if cam is not None else (0.0, 1.0)

    def across(self, a: float) -> float:
        """The pixel of a coordinate of the shaft."""
        low, high = self.range
        return LEFT + (a - low) / ((high - low) or 1.0) * (self.width() - LEFT - RIGHT)

    def value(self, x: float) -> float:
        """The coordinate of the shaft at a pixel."""
        low, high = self.range
        return low + (x - LEFT) / (self.width() - LEFT - RIGHT) * (high - low)

    def lane(self, number: int) -> QRectF:
        """Where a lane lies."""
        tall = self.height() - TOP - LOW
        return QRectF(LEFT, TOP + tall * sum(SHARES[:number]), self.width() - LEFT - RIGHT, tall * SHARES[number] - 5)

    def extent(self, number: int) -> tuple[float, float]:
        """Least and greatest value that a lane shows; while a hand holds an end, as they were."""
        coupling = self.model.coupling
        if coupling is None or coupling.cam is None:
            return 0.0, 1.0
        if self._extents[0] is not coupling.cam:
            found = []
            for lane, values in enumerate(course_of(coupling.cam).lift):
                low, high = min(float(values.min()), 0.0), max(float(values.max()), 0.0)
                room = 0.12 * (high - low) or 1.0
                found.append((low - room * (lane > 0), high + room))
            self._extents = coupling.cam, found
        return self._extents[1][number]

    def spot(self, lane: int, a: float, value: float) -> QPointF:
        """The pixel of a value in a lane."""
        box, (low, high) = self.lane(lane), self.extent(lane)
        share = min(max((value - low) / (high - low), -0.05), 1.05)
        return QPointF(self.across(a), box.bottom() - share * box.height())

    def ends(self) -> list[tuple[float, float]]:
        """(coordinate, lift) at the end of each segment."""
        cam, segments = self.model.cam, self.model.segments
        if cam is None or segments is None:
            return []
        found, x, value = [], cam.law.start, 0.0
        for one in segments:
            x, value = x + one.over, value if one.to is None else one.to
            found.append((x, value))
        return found

    def end_at(self, place: QPointF) -> int:
        """The segment whose end lies under a pixel; −1 where there is none."""
        near = [(abs(self.across(x) - place.x()), number) for number, (x, _) in enumerate(self.ends())]
        best = min(near, default=(1e9, -1))
        return best[1] if best[0] <= GRIP else -1

    def segment_at(self, x: float) -> int:
        """The segment over which a pixel lies; −1 beyond the last."""
        a = self.value(x)
        return next((number for number, (end, _) in enumerate(self.ends()) if a <= end), -1)

    # -- hands -------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton or self.model.cam is None:
            return
        number = self.end_at(event.position())
        segments = self.model.segments
        if number >= 0 and segments is not None:
            if segments[number].fixed or (number + 1 < len(segments) and segments[number + 1].fixed):
                self.model.session.message.emit("An expression gives this end: change its parameter, or type a number")
                return
            self.held = Held(number, event.position(), *self.ends()[number])
            self.model.number = number
            self.model.changed.emit()
        elif event.position().x() >= LEFT:
            inside = self.segment_at(event.position().x())
            if inside >= 0 and inside != self.model.number:
                self.model.number = inside
                self.model.changed.emit()
            self.model.turn_to(self.value(event.position().x()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        place, held = event.position(), self.held
        if held is None:
            over = self.end_at(place) >= 0 and self.model.segments is not None
            self.setCursor(Qt.CursorShape.SizeAllCursor if over else Qt.CursorShape.ArrowCursor)
            if event.buttons() & Qt.MouseButton.LeftButton and place.x() >= LEFT:
                self.model.turn_to(self.value(place.x()))
            return
        by = place - held.at
        if not held.way and max(abs(by.x()), abs(by.y())) > DECIDED:
            held.way = "along" if abs(by.x()) >= abs(by.y()) else "up"
        if held.way == "along":
            end = self._caught(self.value(self.across(held.end) + by.x()))
            self.model.hold(self.model.with_end(held.number, end - held.end, None))
        elif held.way == "up":
            box, (low, high) = self.lane(0), self.extent(0)
            height = held.height - by.y() / box.height() * (high - low)
            height = rounded(height, self._step(high - low, self.model.lifts))
            self.model.hold(self.model.with_end(held.number, 0.0, height))

    def _step(self, span: float, dimension: Dimension) -> float:
        """A round step of what is dragged, as the document counts it."""
        document = self.model.document
        by = dimension.per_core(document.units) if document is not None else 1.0
        return round_step(span * by) / by

    def _caught(self, a: float) -> float:
        """Where an end catches: at those of other cams of the shaft, else at whole degrees."""
        document = self.model.document
        if document is None:
            return a
        low, high = self.range
        marks = [low + (one - low) % (high - low) for name in self.model.beside() for one in borders(document, name)]
        near = min(marks, key=lambda mark: abs(mark - a), default=None)
        if near is not None and abs(self.across(near) - self.across(a)) <= CATCH:
            return near
        step = np.radians(1.0) if self.model.turns is Dimension.ANGLE else self._step(high - low, Dimension.LENGTH)
        return rounded(a, float(step))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        held, self.held = self.held, None
        if held is None:
            return
        if held.way and self.model.held is not None:
            self.model.apply(self.model.held, f"End of segment {held.number + 1} of {self.model.joint}")
        else:
            self.model.let_go()

    # -- painting ----------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        with painting(self) as painter:
            painter.setFont(font(8.5))
            cam = self.model.cam
            if cam is None:
                return
            a, lift = lane_values(cam)
            self._segments(painter)
            self._beside(painter)
            for number, name in enumerate(LANES):
                self._draw_lane(painter, number, name, a, lift[number])
            self._scale(painter)
            self._now(painter)

    def _segments(self, painter: QPainter) -> None:
        """Bands and ends of the segments, with their laws."""
        tokens, segments, ends = self.tokens, self.model.segments, self.ends()
        bottom = self.height() - LOW
        begin = self.range[0]
        for number, (end, _) in enumerate(ends):
            box = QRectF(QPointF(self.across(begin), 4), QPointF(self.across(end), bottom))
            if number == self.model.number:
                fill = QColor(tokens.accent)
                fill.setAlphaF(0.10)
                painter.fillRect(box, fill)
            painter.setPen(QPen(QColor(tokens.line), 1))
            painter.drawLine(box.topRight(), box.bottomRight())
            one = segments[number] if segments is not None else None
            word = "" if one is None else "dwell" if one.to is None else one.law
            if painter.fontMetrics().horizontalAdvance(word) < box.width() - 6:
                painter.setPen(QColor(tokens.muted))
                painter.drawText(QRectF(box.left(), 4, box.width(), 14), Qt.AlignmentFlag.AlignCenter, word)
            begin = end

    def _beside(self, painter: QPainter) -> None:
        """The lifts of the other cams of the shaft, and where their segments end."""
        document, (low, high) = self.model.document, self.range
        assert document is not None
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for name in self.model.beside():
            other = document.couplings[name].cam
            if other is None or other.shaft.slides:
                continue
            a = np.linspace(low, high, 181)
            values = other.law.lift(a)[0] * (other.rises if other.guide.swings else 1.0)
            share = (values - values.min()) / (float(np.ptp(values)) or 1.0)
            box = self.lane(0)
            painter.setPen(QPen(QColor(self.tokens.muted), 1, Qt.PenStyle.DashLine))
            painter.drawPolyline(self._curve(a, box.bottom() - 0.85 * share * box.height()))
            top = int(np.argmax(values))
            painter.drawText(QRectF(self.across(float(a[top])) - 60, box.top() + 20, 120, 14),
                             Qt.AlignmentFlag.AlignCenter, name)  # fmt: skip

    def _draw_lane(self, painter: QPainter, number: int, name: str, a: Array, values: Array) -> None:
        tokens, box = self.tokens, self.lane(number)
        painter.setPen(QPen(QColor(tokens.faint), 1))
        zero = self.spot(number, a[0], 0.0).y()
        painter.drawLine(QPointF(box.left(), zero), QPointF(box.right(), zero))
        painter.drawLine(box.bottomLeft() + QPointF(0, 2), box.bottomRight() + QPointF(0, 2))
        painter.setPen(QColor(tokens.text if number == 0 else tokens.muted))
        painter.drawText(QRectF(6, box.top(), LEFT - 12, 14), Qt.AlignmentFlag.AlignLeft, name)
        painter.setPen(QColor(tokens.muted))
        painter.drawText(QRectF(6, box.top() + 13, LEFT - 12, 14), Qt.AlignmentFlag.AlignLeft,
                         self._peak(number, values))  # fmt: skip
        painter.save()
        painter.setClipRect(box.adjusted(0, -3, 0, 3))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(tokens.accent if number == 0 else tokens.text), 1.8 if number == 0 else 1.2))
        low, high = self.extent(number)
        painter.drawPolyline(self._curve(a, box.bottom() - (values - low) / (high - low) * box.height()))
        painter.restore()
        if number == 0:
            for k, (end, value) in enumerate(self.ends()):
                spot = self.spot(0, end, value)
                painter.setPen(QPen(QColor(tokens.accent), 1.4))
                painter.setBrush(QColor(tokens.accent if k == self.model.number else tokens.raised))
                painter.drawEllipse(spot, 4, 4)

    def _curve(self, a: Array, up: Array) -> QPolygonF:
        """Pixels from coordinates of the shaft and heights (pixels)."""
        across = self.across(0.0) + a * (self.across(1.0) - self.across(0.0))
        return QPolygonF(list(map(QPointF, across.tolist(), up.tolist())))

    def _peak(self, number: int, values: Array) -> str:
        """The greatest value of a lane, for each rad of the shaft (for each length on a slide)."""
        document = self.model.document
        assert document is not None
        peak = float(np.abs(values).max())
        if number == 0:
            return shown(float(np.ptp(values)), self.model.lifts, document.units, 2)
        unit = document.units.length if self.model.lifts is Dimension.LENGTH else "rad"
        over = document.units.length if self.model.turns is Dimension.LENGTH else "rad"
        power = {1: "", 2: "²", 3: "³"}[number]
        return f"{peak:.3g} {unit}/{over}{power}"

    def _scale(self, painter: QPainter) -> None:
        document, (low, high) = self.model.document, self.range
        assert document is not None
        painter.setPen(QColor(self.tokens.muted))
        count = 12 if self.width() > 640 else 6
        for k in range(count + 1):
            a = low + (high - low) * k / count
            box = QRectF(self.across(a) - 30, self.height() - LOW + 2, 60, 14)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, shown(a, self.model.turns, document.units, 1))

    def _now(self, painter: QPainter) -> None:
        """Where the shaft stands, and what an end in the hand is at."""
        a, (low, high) = self.model.shaft(), self.range
        if a is not None:
            cam = self.model.cam
            a = low + (a - low) % (high - low) if cam is not None and cam.law.period else min(max(a, low), high)
            x = self.across(a)
            painter.setPen(QPen(QColor(self.tokens.text), 1))
            painter.drawLine(QPointF(x, TOP), QPointF(x, self.height() - LOW))
        document, held = self.model.document, self.held
        if held is not None and held.way and document is not None:
            end, value = self.ends()[held.number]
            text = (f"{shown(end, self.model.turns, document.units, 2)}, "
                    f"{shown(value, self.model.lifts, document.units, 3)}")  # fmt: skip
            spot = self.spot(0, end, value)
            wide = painter.fontMetrics().horizontalAdvance(text) + 10
            box = QRectF(min(spot.x() + 10, self.width() - wide - 2), spot.y() + 8, wide, 18)
            painter.fillRect(box, QColor(self.tokens.raised))
            painter.setPen(QColor(self.tokens.text))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
