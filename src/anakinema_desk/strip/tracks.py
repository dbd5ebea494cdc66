"""The tracks of the strip, each a plot. Loaded with the first findings, for the plot library takes its time to load."""

from itertools import zip_longest
from typing import TYPE_CHECKING

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtGui import (
    QBrush,
    QColor,
    QContextMenuEvent,
    QMouseEvent,
    QPaintEvent,
    QPen,
    QPixmap,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from anakinema.words import shortly, shown

from ..session import Session
from ..soon import soon
from ..theme.painting import painting
from ..theme.tokens import Tokens, font
from .curves import EDGE, LABELS, TRACK, Shown

if TYPE_CHECKING:
    from anakinema.findings.series import Series

    from .strip import Zoom


DOTS = Qt.PenStyle.DotLine
NEAR = 6.0
"""Pixels within which a press means a mark."""


class End(QLabel):
    """The least or the greatest value: a click goes there."""

    clicked = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setToolTip("Go to where it is so")

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.clicked.emit()


class Scrub(pg.PlotWidget):
    """A bare plot; pressing and dragging in it moves the play head. What does not move is painted once: while the
    motion plays only the play head is drawn anew."""

    scrubbed = Signal(float, bool)
    """A time was pressed, or dragged over."""

    def __init__(self, session: Session, zoom: "Zoom") -> None:
        super().__init__(enableMenu=False)
        self.session, self.zoom = session, zoom
        for axis in ("left", "bottom"):
            self.hideAxis(axis)
        self.hideButtons()
        self.setMouseEnabled(False, False)
        self.plotItem.vb.setDefaultPadding(0.0)
        self.plotItem.layout.setContentsMargins(0, 0, 0, 0)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self._still: QPixmap | None = None
        self.end, self.head, self.ink = 1.0, 0.0, "#000000"
        """The time of the whole motion, that of the play head (s), and the colour of that."""

    def x(self, t: float) -> float:
        """The pixel of a time."""
        share = t / self.end
        return (share - self.zoom.low) / (self.zoom.high - self.zoom.low) * self.width()

    def time(self, x: float) -> float:
        """The time at a pixel."""
        return (self.zoom.low + x / max(self.width(), 1) * (self.zoom.high - self.zoom.low)) * self.end

    def drawn_anew(self) -> None:
        """What does not move is another."""
        self._still = None
        self.viewport().update()

    def follow(self, t: float) -> None:
        """Moves the play head."""
        before, self.head = self.x(self.head), t
        after = self.x(t)
        if round(before) != round(after):
            for x in (before, after):
                self.viewport().update(round(x) - 2, 0, 5, self.height())

    def paintEvent(self, event: QPaintEvent) -> None:
        with self.session.analyst.held():
            ratio = self.devicePixelRatioF()
            if self._still is None:
                self._still = QPixmap(self.size() * ratio)
                self._still.setDevicePixelRatio(ratio)
                with painting(self._still) as painter:
                    self.render(painter)
            with painting(self.viewport(), smooth=False) as painter:
                painter.setClipRegion(event.region())
                painter.drawPixmap(0, 0, self._still)
                painter.setPen(QPen(QColor(self.ink), 1))
                x = round(self.x(self.head))
                painter.drawLine(x, 0, x, self.height())

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._still = None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self.scrubbed.emit(self.time(event.position().x()), True)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self.scrubbed.emit(self.time(event.position().x()), False)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        event.accept()

    def wheelEvent(self, event: QWheelEvent) -> None:
        if not self.zoom.wheel(event, event.position().x() / max(self.width(), 1)):
            event.ignore()  # the strip scrolls


class Track(QWidget):
    """One track: name, value now, curve with its edges."""

    menu_wanted = Signal(str, QPoint)

    def __init__(self, session: Session, tokens: Tokens, zoom: "Zoom"):
        super().__init__()
        self.session, self.tokens, self.zoom = session, tokens, zoom
        self.curve: Series | None = None
        self.failed = self.fresh = False
        self.pinned: Series | None = None
        self._drawn: tuple[object, ...] = ()
        self.setFixedHeight(TRACK)
        self.name, self.value, self.high, self.low = QLabel(), QLabel(), End(), End()
        self.name.setTextFormat(Qt.TextFormat.PlainText)
        self.value.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.value.setFont(font(9.5))
        left, right = QWidget(), QWidget()
        left.setFixedWidth(LABELS)
        right.setFixedWidth(EDGE)
        labels, edges = QVBoxLayout(left), QVBoxLayout(right)
        labels.setContentsMargins(12, 6, 10, 6)
        labels.setSpacing(0)
        labels.addWidget(self.name)
        labels.addWidget(self.value)
        edges.setContentsMargins(4, 2, 4, 2)
        self.high.clicked.connect(lambda: self._go(True))
        self.low.clicked.connect(lambda: self._go(False))
        for label, alignment in ((self.high, Qt.AlignmentFlag.AlignTop), (self.low, Qt.AlignmentFlag.AlignBottom)):
            label.setFont(font(8))
            label.setProperty("role", "muted")
            edges.addWidget(label, alignment=alignment)
        self.plot: Scrub | None = None
        self.bounds: list[pg.InfiniteLine] = []
        self.spans: list[pg.LinearRegionItem] = []
        self._draw_soon = soon(self, self._draw)
        self._due = False
        """Whether what the plot shows is no longer what it should; it is drawn when the track is in sight."""
        self.row = QHBoxLayout(self)
        self.row.setContentsMargins(0, 0, 0, 0)
        self.row.setSpacing(0)
        self.row.addWidget(left)
        self.row.addStretch(1)
        self.row.addWidget(right)

    def _make_plot(self) -> Scrub:
        """The plot: made when it is first in sight, for that takes longer than all else of a track."""
        plot = self.plot = Scrub(self.session, self.zoom)
        plot.setBackground(self.tokens.paper)
        self.before = plot.plot(antialias=True)
        self.line = plot.plot(antialias=True)
        self.spots = pg.ScatterPlotItem(symbol="o", size=6)
        self.mark = pg.ScatterPlotItem(symbol="t1", size=9, pen=None)
        for item in (self.mark, self.spots):
            plot.addItem(item, ignoreBounds=True)
        plot.scrubbed.connect(self._scrub)
        self.row.takeAt(1)
        self.row.insertWidget(1, plot, 1)
        return plot

    def show_curve(self, entry: Shown, fresh: bool, pinned: "Series | None") -> None:
        """Shows a curve in place of the last one; pale while it is that of a version before, an earlier run beneath."""
        curve, failed = entry.series, entry.failed
        drawn = (curve, failed, fresh, self.tokens, self.session.end, entry.height, pinned)
        if drawn == self._drawn:
            return
        self._drawn = drawn
        self.setFixedHeight(entry.height)
        self.curve, self.failed, self.fresh, self.pinned = curve, failed, fresh, pinned
        for label in (self.name, self.value, self.high, self.low):
            label.setEnabled(fresh)
        self.name.setText(curve.name)
        assert self.session.document is not None
        units = self.session.document.units
        self.high.setText(shortly(curve.high, curve.dimension, units))
        self.low.setText(shortly(curve.low, curve.dimension, units))
        role = "" if fresh and not failed else "bad" if fresh else "muted"
        if role != self.value.property("role"):
            self.value.setProperty("role", role)
            self.value.style().unpolish(self.value)
            self.value.style().polish(self.value)
        self._due = True
        self.update()

    def _draw(self) -> None:
        """Draws what the track shows."""
        if not self._due or self.curve is None:
            return
        self._due = False
        plot = self.plot or self._make_plot()
        tokens, curve, fresh, pinned = self.tokens, self.curve, self.fresh, self.pinned
        colour = tokens.line if not fresh else tokens.bad if self.failed else tokens.accent
        plot.setBackground(tokens.paper)
        plot.ink = tokens.text
        self.line.setData(curve.t, curve.values, pen=pg.mkPen(colour, width=1.6))
        low, high = curve.low, curve.high
        if pinned is None or not pinned.t.size:
            self.before.setData([], [])
        else:  # by shares of the motion, for a run may take another time
            share = self.session.end / max(float(pinned.t[-1]), 1e-12)
            self.before.setData(pinned.t * share, pinned.values, pen=pg.mkPen(tokens.muted, width=1.2, style=DOTS))
            low, high = min(low, pinned.low), max(high, pinned.high)
        margin = max((high - low) * 0.16, 1e-9)
        low, high = low - margin, high + margin
        while len(self.bounds) < len(curve.bounds):
            self.bounds.append(pg.InfiniteLine(0.0, angle=0))
            plot.addItem(self.bounds[-1], ignoreBounds=True)
        for item, bound in zip_longest(self.bounds, curve.bounds):
            # An edge far outside would only flatten the curve.
            near = bound is not None and low - 3 * margin < bound < high + 3 * margin
            item.setVisible(near)
            if near:
                low, high = min(low, bound - margin), max(high, bound + margin)
                edge = tokens.bad if self.failed and fresh else tokens.muted
                item.setPen(pg.mkPen(edge, width=1, style=Qt.PenStyle.DashLine))
                item.setValue(bound)
        end = float(curve.t[-1]) if curve.t.size else 0.0
        plot.end = max(self.session.end or end, 1e-12)
        plot.head = self.session.time
        plot.setRange(yRange=(low, high), padding=0)
        self.show_range()
        ends = [(curve.low_t, curve.low), (curve.high_t, curve.high)] if curve.high > curve.low else []
        self.spots.setData(pos=np.array(ends).reshape(-1, 2), pen=pg.mkPen(colour, width=1.2),
                           brush=pg.mkBrush(tokens.paper))
        self._hatch(plot, curve.short, tokens.bad if fresh else tokens.muted)
        spots = [(curve.low_t, curve.low)] if curve.parts is not None else []
        self.mark.setData(pos=np.array(spots).reshape(-1, 2), brush=pg.mkBrush(colour))

    def _hatch(self, plot: Scrub, short: tuple[tuple[float, float], ...], colour: str) -> None:
        """Hatches the spans of time in which less is left than is wanted."""
        while len(self.spans) < len(short):
            span = pg.LinearRegionItem(movable=False)
            span.setZValue(-10)
            for edge in span.lines:
                edge.setPen(pg.mkPen(None))
            self.spans.append(span)
            plot.addItem(span, ignoreBounds=True)
        for span, ends in zip_longest(self.spans, short):
            span.setVisible(ends is not None)
            if ends is not None:
                span.setRegion(ends)
                span.setBrush(QBrush(QColor(colour), Qt.BrushStyle.BDiagPattern))

    def show_range(self) -> None:
        """Shows the part of the motion that is wanted."""
        if self.plot is None:
            return
        self.plot.setRange(xRange=(self.zoom.low * self.plot.end, self.zoom.high * self.plot.end), padding=0)
        self.plot.drawn_anew()

    def _go(self, high: bool) -> None:
        """Goes to where the value is greatest or least."""
        if self.curve is not None:
            self._scrub(self.curve.high_t if high else self.curve.low_t, False)

    def _shown(self, value: float) -> str:
        assert self.session.document is not None and self.curve is not None
        return shown(value, self.curve.dimension, self.session.document.units, 2)

    def _scrub(self, t: float, pressed: bool) -> None:
        """Goes to a time; a press near a mark goes just there."""
        self.session.pause()
        if pressed and self.curve is not None and self.plot is not None:
            marks = [end for end in (self.curve.low_t, self.curve.high_t)
                     if abs(self.plot.x(end) - self.plot.x(t)) <= NEAR]  # fmt: skip
            t = min(marks, key=lambda end: abs(end - t), default=t)
        self.session.go(t)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.curve is not None and self.curve.place:
            self.session.select(self.curve.place)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        if self.curve is not None and self.curve.place:
            self.session.select(self.curve.place)
            self.menu_wanted.emit(self.curve.place, event.globalPos())

    def follow(self, value: float) -> None:
        """Moves the play head and tells the value there."""
        assert self.curve is not None
        if self.plot is not None:
            self.plot.follow(self.session.time)
        self.value.setText(("≈ " if self.curve.parts else "") + self._shown(value))

    def paintEvent(self, event: QPaintEvent) -> None:
        if self._due:
            self._draw_soon()
        with painting(self, smooth=False) as painter:
            if self.curve is not None and self.curve.place and self.curve.place == self.session.selection:
                painter.fillRect(0, 0, 4, self.height(), QColor(self.tokens.accent))
            painter.setPen(QPen(QColor(self.tokens.faint), 1))
            painter.drawLine(0, self.height() - 1, self.width(), self.height() - 1)
