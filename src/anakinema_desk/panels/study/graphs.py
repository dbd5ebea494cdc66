"""Small drawings of what studies find: a curve over a parameter, a map of what passes, how values are spread."""

import math
from collections.abc import Callable, Sequence

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QBrush, QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from ...theme.painting import painting
from ...theme.tokens import Tokens, font

LEFT, RIGHT, TOP, LOW = 78, 14, 10, 24
"""Room around a drawing for what its axes say (pixels)."""


class Graph(QWidget):
    """A frame with two axes, and the places of values in it."""

    def __init__(self, tokens: Tokens, name: str):
        super().__init__()
        self.tokens = tokens
        self.setAccessibleName(name)
        self.setMinimumSize(220, 90)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.across, self.up = (0.0, 1.0), (0.0, 1.0)
        self.words: tuple[Callable[[float], str], Callable[[float], str]] = (str, str)

    @property
    def frame(self) -> QRectF:
        """Where values are drawn."""
        return QRectF(LEFT, TOP, max(self.width() - LEFT - RIGHT, 10), max(self.height() - TOP - LOW, 10))

    def at(self, x: float, y: float) -> QPointF:
        """The pixel of a value."""
        frame = self.frame
        right = (x - self.across[0]) / ((self.across[1] - self.across[0]) or 1.0)
        above = (y - self.up[0]) / ((self.up[1] - self.up[0]) or 1.0)
        return QPointF(frame.left() + right * frame.width(), frame.bottom() - above * frame.height())

    def value(self, pixel: float) -> float:
        """The value along the lower axis at a pixel, within the frame."""
        share = min(max((pixel - self.frame.left()) / self.frame.width(), 0.0), 1.0)
        return self.across[0] + share * (self.across[1] - self.across[0])

    def axes(self, painter: QPainter) -> None:
        """The frame, with the ends of both axes said."""
        frame, muted = self.frame, QColor(self.tokens.muted)
        painter.fillRect(frame, QColor(self.tokens.paper))
        painter.setPen(QPen(QColor(self.tokens.line), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(frame)
        painter.setFont(font(8))
        painter.setPen(muted)
        if self.words[0] is str:
            return  # there is nothing to say yet
        say_x, say_y = self.words
        low = frame.bottom() + 4
        painter.drawText(QRectF(frame.left(), low, 160, 16), Qt.AlignmentFlag.AlignLeft, say_x(self.across[0]))
        painter.drawText(QRectF(frame.right() - 120, low, 120, 16), Qt.AlignmentFlag.AlignRight, say_x(self.across[1]))
        right = Qt.AlignmentFlag.AlignRight
        painter.drawText(QRectF(0, frame.top() - 2, LEFT - 6, 16), right, say_y(self.up[1]))
        painter.drawText(QRectF(0, frame.bottom() - 14, LEFT - 6, 16), right, say_y(self.up[0]))

    def around(self, values: Sequence[float]) -> tuple[float, float]:
        """A range that holds values, with some room beyond them."""
        finite = [value for value in values if math.isfinite(value)]
        if not finite:
            return 0.0, 1.0
        low, high = min(finite), max(finite)
        room = (high - low) * 0.1 or max(abs(high), 1.0) * 0.05
        return low - room, high + room


class Curve(Graph):
    """A finding over a parameter: the wanted value as a line, solutions as marks, where it breaks hatched. A click, or
    a drag, says a value of the parameter."""

    turned = Signal(float)
    let_go = Signal()

    def __init__(self, tokens: Tokens):
        super().__init__(tokens, "The finding over the parameter")
        self.line: list[tuple[float, float]] = []
        self.wanted: float | None = None
        self.marks: list[tuple[float, float]] = []
        self.gaps: list[tuple[float, float]] = []
        self.now: float | None = None
        self.title = ""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton and self.line:
            self.turned.emit(self.value(event.position().x()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton and self.line:
            self.turned.emit(self.value(event.position().x()))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self.let_go.emit()

    def paintEvent(self, event: QPaintEvent) -> None:
        with painting(self) as painter:
            self.axes(painter)
            frame = self.frame
            painter.setClipRect(frame.adjusted(-1, -1, 1, 1))
            for low, high in self.gaps:
                box = QRectF(self.at(low, self.up[1]), self.at(high, self.up[0])).normalized()
                painter.fillRect(box, QBrush(QColor(self.tokens.bad), Qt.BrushStyle.BDiagPattern))
            if self.wanted is not None:
                painter.setPen(QPen(QColor(self.tokens.muted), 1.2, Qt.PenStyle.DashLine))
                painter.drawLine(self.at(self.across[0], self.wanted), self.at(self.across[1], self.wanted))
            painter.setPen(QPen(QColor(self.tokens.accent), 1.8))
            run = QPolygonF()
            for x, y in [*self.line, (math.nan, math.nan)]:
                if math.isfinite(y):
                    run.append(self.at(x, y))
                    continue
                painter.drawPolyline(run)
                run = QPolygonF()
            painter.setBrush(QColor(self.tokens.raised))
            for x, y in self.marks:
                painter.drawEllipse(self.at(x, y), 4.5, 4.5)
            if self.now is not None:
                painter.setPen(QPen(QColor(self.tokens.text), 1.2))
                painter.drawLine(self.at(self.now, self.up[0]), self.at(self.now, self.up[1]))
            if not self.line:
                painter.setClipping(False)
                painter.setPen(QColor(self.tokens.muted))
                painter.setFont(font(9.5))
                painter.drawText(frame, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self.title)


class Map(Graph):
    """What passes over one parameter or two: a filled cell passes, one with a ring passes what was judged, which is not
    all, a crossed one does not pass, a hatched one could not be moved to its end. Each may carry a number."""

    chosen = Signal(int)

    def __init__(self, tokens: Tokens):
        super().__init__(tokens, "Map of what passes")
        self.columns = self.rows = 0
        self.states: list[str] = []
        """For each cell, row by row from below: ``passes``, ``open``, ``fails``, ``breaks``."""
        self.numbers: list[str] = []
        self.picked: int | None = None
        self.title = ""

    def cell(self, number: int) -> QRectF:
        """Where a cell is drawn."""
        row, column = divmod(number, self.columns)
        frame = self.frame
        wide, high = frame.width() / self.columns, frame.height() / self.rows
        return QRectF(frame.left() + column * wide, frame.bottom() - (row + 1) * high, wide, high)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        hit = next((k for k in range(len(self.states)) if self.cell(k).contains(event.position())), None)
        if hit is not None:
            self.picked = hit
            self.chosen.emit(hit)
            self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        with painting(self, smooth=False) as painter:
            self.axes(painter)
            good, bad = QColor(self.tokens.good), QColor(self.tokens.bad)
            painter.setFont(font(8))
            for k, state in enumerate(self.states):
                box = self.cell(k)
                fill = QColor(good)
                fill.setAlphaF(0.38)
                if state == "passes":
                    painter.fillRect(box, fill)
                elif state == "open":
                    fill.setAlphaF(0.1)
                    painter.fillRect(box, fill)
                elif state == "breaks":
                    painter.fillRect(box, QBrush(bad, Qt.BrushStyle.BDiagPattern))
                if box.width() > 8 and box.height() > 8:
                    painter.setPen(QPen(QColor(self.tokens.faint), 1))
                    painter.drawRect(box)
                word = self.numbers[k] if k < len(self.numbers) else ""
                if word and box.width() > painter.fontMetrics().horizontalAdvance(word) + 6 and box.height() > 14:
                    if state == "breaks":  # words can't be read over a hatch
                        wide = painter.fontMetrics().horizontalAdvance(word) / 2 + 3
                        plate = QRectF(box.center().x() - wide, box.center().y() - 7, 2 * wide, 14)
                        painter.fillRect(plate, QColor(self.tokens.paper))
                    painter.setPen(bad if state == "fails" else QColor(self.tokens.text))
                    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, word)
                spot = box.topLeft() + QPointF(9, 9) if word else box.center()  # in the corner, where a number stands
                if min(box.width(), box.height()) > 6:
                    self._mark(painter, state, spot, bad if state == "fails" else good)
            if self.picked is not None and self.picked < len(self.states):
                painter.setPen(QPen(QColor(self.tokens.accent), 2))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(self.cell(self.picked))
            if not self.states:
                painter.setPen(QColor(self.tokens.muted))
                painter.setFont(font(9.5))
                painter.drawText(self.frame, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self.title)

    @staticmethod
    def _mark(painter: QPainter, state: str, spot: QPointF, ink: QColor) -> None:
        """A ring, a cross, or nothing."""
        painter.setPen(QPen(ink, 1.2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if state == "open":
            painter.drawEllipse(spot, 3.5, 3.5)
        elif state == "fails":
            for way in (-1, 1):
                painter.drawLine(spot + QPointF(-3, -3 * way), spot + QPointF(3, 3 * way))


class Bars(Graph):
    """How the values of a check are spread, with its bounds."""

    def __init__(self, tokens: Tokens):
        super().__init__(tokens, "How the values are spread")
        self.counts: list[int] = []
        self.bounds: list[float] = []
        self.title = ""

    def show_values(self, values: Sequence[float], bounds: Sequence[float], say: Callable[[float], str]) -> None:
        """Counts values in even steps."""
        finite = np.array([value for value in values if math.isfinite(value)])
        self.bounds = list(bounds)
        self.across = self.around(finite.tolist())
        self.counts = np.histogram(finite, bins=31, range=self.across)[0].tolist() if finite.size else []
        self.up = (0.0, max(self.counts, default=1) * 1.05)
        self.words = (say, lambda count: f"{count:.0f}")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        with painting(self, smooth=False) as painter:
            self.axes(painter)
            step = (self.across[1] - self.across[0]) / max(len(self.counts), 1)
            fill = QColor(self.tokens.accent)
            fill.setAlphaF(0.5)
            for k, count in enumerate(self.counts):
                left = self.across[0] + k * step
                painter.fillRect(QRectF(self.at(left, count), self.at(left + 0.86 * step, 0.0)), fill)
            painter.setPen(QPen(QColor(self.tokens.bad), 1.4, Qt.PenStyle.DashLine))
            for bound in self.bounds:
                if self.across[0] <= bound <= self.across[1]:
                    painter.drawLine(self.at(bound, self.up[0]), self.at(bound, self.up[1]))
            if not self.counts:
                painter.setPen(QColor(self.tokens.muted))
                painter.setFont(font(9.5))
                painter.drawText(self.frame, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self.title)
