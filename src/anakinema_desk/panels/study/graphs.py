"""Small drawings of what studies find: a curve over a parameter, a map of what passes, how values are spread."""

import math
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

import numpy as np
from PySide6.QtCore import QBuffer, QIODevice, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QBrush,
    QColor,
    QContextMenuEvent,
    QGuiApplication,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
)
from PySide6.QtWidgets import QFileDialog, QMenu, QSizePolicy, QWidget

from anakinema.studies.sweeping import table_csv

from ...theme.painting import painting
from ...theme.tokens import Tokens, font

LEFT, RIGHT, TOP, LOW = 78, 14, 24, 34
"""Room around a drawing for what its axes say (pixels)."""
APART = (84, 22)
"""How far apart numbers along the two axes stand at least (pixels)."""


def ticks(low: float, high: float, most: int) -> list[float]:
    """Round numbers within a range, no more than so many: multiples of 1, 2 or 5 times a power of ten.

    >>> ticks(0.0, 34.0, 4)
    [0.0, 10.0, 20.0, 30.0]
    """
    span = high - low
    if not (span > 0.0 and math.isfinite(span)) or most < 1:
        return []
    power = 10.0 ** math.floor(math.log10(span / most))
    for step in (power, 2 * power, 5 * power, 10 * power):
        first, last = math.ceil(low / step - 1e-9), math.floor(high / step + 1e-9)
        if last - first < most:
            return [float(f"{k * step:.12g}") for k in range(first, last + 1)]
    return []


RIGHT_MIDDLE = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter


class Graph(QWidget):
    """A frame with two axes, and the places of values in it. The right button copies it or saves it."""

    to_write = Signal(Path, bytes)
    """A file that is to be written."""

    def __init__(self, tokens: Tokens, name: str):
        super().__init__()
        self.tokens = tokens
        self.setAccessibleName(name)
        self.setMinimumSize(220, 90)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.across, self.up = (0.0, 1.0), (0.0, 1.0)
        self.words: tuple[Callable[[float], str], Callable[[float], str]] = (str, str)
        self.titles = ("", "")
        """What the axes count."""

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        menu = QMenu(self)
        heads, _ = self.as_table()
        menu.addAction("Copy the picture", lambda: QGuiApplication.clipboard().setPixmap(self.grab()))
        menu.addAction("Save the picture…", self.save_picture)
        for text, act in (("Copy as a table", self.copy_table), ("Save as a table…", self.save_table)):
            menu.addAction(text, act).setEnabled(bool(heads))
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.popup(event.globalPos())

    def as_table(self) -> tuple[list[str], list[list[Any]]]:
        """What is drawn, as a table with its heads; empty where nothing is."""
        return [], []

    def copy_table(self) -> None:
        """The table to the clipboard, as lines of cells with tabs between, which tables of any kind take."""
        heads, rows = self.as_table()
        lines = ["\t".join("" if cell is None else str(cell) for cell in row) for row in [heads, *rows]]
        QGuiApplication.clipboard().setText("\n".join(lines) + "\n")

    def save_picture(self) -> None:
        """The drawing as a picture in a file."""
        name, _ = QFileDialog.getSaveFileName(self, "Save the picture", "plot.png", "Pictures (*.png)")
        if name:
            data = QBuffer()
            data.open(QIODevice.OpenModeFlag.WriteOnly)
            self.grab().save(data, "PNG")
            self.to_write.emit(Path(name), bytes(data.data().data()))

    def save_table(self) -> None:
        """The table as CSV in a file."""
        name, _ = QFileDialog.getSaveFileName(self, "Save the table", "plot.csv", "Tables (*.csv)")
        if name:
            self.to_write.emit(Path(name), table_csv(*self.as_table()).encode())

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
        low, metrics = frame.bottom() + 3, painter.fontMetrics()
        grid = QPen(QColor(self.tokens.grid), 1)
        taken = -math.inf
        for x in ticks(*self.across, max(int(frame.width() / APART[0]), 2)) or self.across:
            at, text = self.at(x, self.up[0]).x(), say_x(x)
            wide = metrics.horizontalAdvance(text)
            left = min(max(at - wide / 2, frame.left() - 40), self.width() - wide - 2)
            if left > taken:
                painter.setPen(muted)
                painter.drawText(QPointF(left, low + 10), text)
                taken = left + wide + 8
            painter.setPen(grid)
            painter.drawLine(QPointF(at, frame.top() + 1), QPointF(at, frame.bottom()))
        for y in ticks(*self.up, max(int(frame.height() / APART[1]), 2)) or self.up:
            at = self.at(self.across[0], y).y()
            if not say_y(y):
                continue
            painter.setPen(grid)
            painter.drawLine(QPointF(frame.left() + 1, at), QPointF(frame.right(), at))
            painter.setPen(muted)
            painter.drawText(QRectF(0, at - 8, LEFT - 6, 16), RIGHT_MIDDLE, say_y(y))
        painter.setPen(QColor(self.tokens.text))
        across, up = self.titles
        fit = Qt.TextElideMode.ElideRight
        painter.drawText(QRectF(frame.left(), low + 13, frame.width(), 16), Qt.AlignmentFlag.AlignRight,
                         metrics.elidedText(across, fit, int(frame.width())))
        painter.drawText(QPointF(6, 14), metrics.elidedText(up, fit, self.width() - 12))

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

    def as_table(self) -> tuple[list[str], list[list[Any]]]:
        return (list(self.titles), [[x, y] for x, y in self.line]) if self.line else ([], [])

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

    def as_table(self) -> tuple[list[str], list[list[Any]]]:
        if not self.states:
            return [], []
        found: list[list[Any]] = []
        for k, state in enumerate(self.states):
            row, column = divmod(k, self.columns)
            place = [_middle(self.across, column, self.columns), _middle(self.up, row, self.rows)]
            found.append([*place[: 1 + (self.rows > 1)], state, *self.numbers[k : k + 1]])
        heads = [name for name in self.titles if name] + ["outcome"] + ["finding"] * bool(self.numbers)
        return heads, found

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
    """How the values of a check are spread, with its bounds and what it is as designed. A click says a value."""

    chosen = Signal(float)

    def __init__(self, tokens: Tokens):
        super().__init__(tokens, "How the values are spread")
        self.counts: list[int] = []
        self.bounds: list[float] = []
        self.now: float | None = None
        """What it is as designed."""
        self.title = ""

    def as_table(self) -> tuple[list[str], list[list[Any]]]:
        if not self.counts:
            return [], []
        step = (self.across[1] - self.across[0]) / len(self.counts)
        return [f"{self.titles[0]} from", "to", self.titles[1]], [
            [self.across[0] + k * step, self.across[0] + (k + 1) * step, count] for k, count in enumerate(self.counts)]

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton and self.counts:
            self.chosen.emit(self.value(event.position().x()))

    def show_values(self, values: Sequence[float], bounds: Sequence[float], say: Callable[[float], str]) -> None:
        """Counts values in even steps."""
        finite = np.array([value for value in values if math.isfinite(value)])
        self.bounds = list(bounds)
        known = [bound for bound in bounds if finite.size and _beside(bound, finite)]
        self.across = self.around([*finite.tolist(), *known])
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
            if self.now is not None and self.counts and self.across[0] <= self.now <= self.across[1]:
                painter.setPen(QPen(QColor(self.tokens.text), 1.2))
                painter.drawLine(self.at(self.now, self.up[0]), self.at(self.now, self.up[1]))
            if not self.counts:
                painter.setPen(QColor(self.tokens.muted))
                painter.setFont(font(9.5))
                painter.drawText(self.frame, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self.title)


def _beside(bound: float, values: np.ndarray) -> bool:
    """Whether a bound is so near to values that a drawing of them has room for it."""
    span = float(np.ptp(values))
    return float(values.min()) - 2 * span <= bound <= float(values.max()) + 2 * span


def _middle(ends: tuple[float, float], number: int, count: int) -> float:
    """The middle of one of equal pieces."""
    return float(f"{ends[0] + (ends[1] - ends[0]) * (number + 0.5) / count:.12g}")
