"""The tracks of the strip, each a plot."""

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPoint, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QBrush,
    QColor,
    QContextMenuEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QPolygonF,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from anakinema.formatting import format_short, shown

from ..session import Session
from ..theme.labels import Label, set_role, tip
from ..theme.painting import clear, painting
from ..theme.tokens import Tokens, font
from .curves import EDGE, LABELS, TRACK, Shown

if TYPE_CHECKING:
    from anakinema.findings.series import Series

    from .timeline import Zoom


DOTS = Qt.PenStyle.DotLine
NOTHING = np.zeros(0)
FAR = 1e6
"""Pixels beyond all that is in sight."""
NEAR = 6.0
"""Pixels within which a press means a mark."""


class End(Label):
    """The least or the greatest value: a click goes there."""

    clicked = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setToolTip("Go to where it is so")

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.clicked.emit()


class Plot(QWidget):
    """A bare plot of a curve over time; pressing and dragging in it moves the play head. What does not move is painted
    once: while the motion plays only the play head is drawn anew."""

    scrubbed = Signal(float, bool)

    def __init__(self, session: Session, zoom: "Zoom", tokens: Tokens) -> None:
        super().__init__()
        self.session, self.zoom, self.tokens = session, zoom, tokens
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self._still: QPixmap | None = None
        self.end, self.head = 1.0, 0.0
        """The time of the whole motion, and that of the play head (s)."""
        self.low, self.high = 0.0, 1.0
        """What the plot holds between its lower and its upper edge."""
        self.colour = QColor()
        self.line, self.before = (NOTHING, NOTHING), (NOTHING, NOTHING)
        """Times and values of the curve, and of an earlier run beneath it."""
        self.bounds: list[tuple[float, QColor]] = []
        self.spans: list[tuple[float, float]] = []
        """From when to when less is left than is wanted."""
        self.hatching = QColor()
        self.spots: list[tuple[float, float]] = []
        """Where the curve is least and greatest."""
        self.mark: tuple[float, float] | None = None
        self.bars: tuple[tuple[float, float], ...] | None = None
        """From when to when a contact touches, in place of a curve."""
        self.drops: tuple[float, ...] = ()

    def across(self, t: float) -> float:
        """The pixel of a time, no further off than a pixel can be."""
        share = t / self.end
        return min(max((share - self.zoom.low) / (self.zoom.high - self.zoom.low) * self.width(), -FAR), FAR)

    def time(self, x: float) -> float:
        """The time at a pixel."""
        return (self.zoom.low + x / max(self.width(), 1) * (self.zoom.high - self.zoom.low)) * self.end

    def up(self, value: float) -> float:
        """The pixel of a value."""
        return (self.high - value) / ((self.high - self.low) or 1.0) * self.height()

    def drawn_anew(self) -> None:
        """What does not move is another."""
        self._still = None
        self.update()

    def follow(self, t: float) -> None:
        """Moves the play head."""
        before, self.head = self.across(self.head), t
        after = self.across(t)
        if round(before) != round(after):
            for x in (before, after):
                self.update(round(x) - 2, 0, 5, self.height())

    def paintEvent(self, event: QPaintEvent) -> None:
        if self._still is None:
            self._still = clear(self.size(), self.devicePixelRatioF())
            with painting(self._still) as painter:
                self._draw(painter)
        with painting(self, smooth=False) as painter:
            painter.setClipRegion(event.region())
            painter.drawPixmap(0, 0, self._still)
            painter.setPen(QPen(QColor(self.tokens.text), 1))
            x = round(self.across(self.head))
            painter.drawLine(x, 0, x, self.height())

    def _draw(self, painter: QPainter) -> None:
        painter.fillRect(self.rect(), QColor(self.tokens.paper))
        for start, stop in self.spans:
            box = QRectF(self.across(start), 0, self.across(stop) - self.across(start), self.height())
            painter.fillRect(box, QBrush(self.hatching, Qt.BrushStyle.BDiagPattern))
        if self.bars is not None:
            self._draw_bars(painter, self.bars)
            return
        for value, colour in self.bounds:
            y = round(self.up(value)) + 0.5
            painter.setPen(QPen(colour, 1, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(0, y), QPointF(self.width(), y))
        painter.setPen(QPen(QColor(self.tokens.muted), 1.2, DOTS))
        painter.drawPolyline(self._places(*self.before))
        painter.setPen(QPen(self.colour, 1.6))
        painter.drawPolyline(self._places(*self.line))
        painter.setPen(QPen(self.colour, 1.2))
        painter.setBrush(QColor(self.tokens.paper))
        for t, value in self.spots:
            painter.drawEllipse(QPointF(self.across(t), self.up(value)), 3.0, 3.0)
        if self.mark is not None:
            at = QPointF(self.across(self.mark[0]), self.up(self.mark[1]))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(self.colour)
            painter.drawPolygon([at + QPointF(-4.5, -4.0), at + QPointF(4.5, -4.0), at + QPointF(0.0, 4.0)])

    def _draw_bars(self, painter: QPainter, bars: tuple[tuple[float, float], ...]) -> None:
        """A bar for each span of touching, and a wedge where something drops."""
        middle = self.height() / 2
        painter.setPen(QPen(QColor(self.tokens.faint), 1))
        painter.drawLine(QPointF(0, round(middle) + 0.5), QPointF(self.width(), round(middle) + 0.5))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.colour)
        for start, stop in bars:
            left, right = self.across(start), self.across(stop)
            painter.drawRect(QRectF(left, middle - 4, max(right - left, 2.0), 8))
        painter.setBrush(QColor(self.tokens.warn))
        for t in self.drops:
            x = self.across(t)
            painter.drawPolygon([QPointF(x - 4, middle - 11), QPointF(x + 4, middle - 11), QPointF(x, middle - 3)])

    def _places(self, t: np.ndarray, values: np.ndarray) -> QPolygonF:
        """A curve in pixels, as far as it is in sight."""
        low, high = np.searchsorted(t, (self.zoom.low * self.end, self.zoom.high * self.end))
        some = slice(max(int(low) - 1, 0), int(high) + 2)
        left, bottom = self.across(0.0), self.up(0.0)
        x = left + t[some] * (self.across(self.end) - left) / self.end
        y = bottom + values[some] * (self.up(1.0) - bottom)
        return QPolygonF([QPointF(a, b) for a, b in zip(x.tolist(), y.tolist(), strict=True)])

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


class TrackRow(QWidget):
    """One track: name, value now, curve with its edges."""

    menu_wanted = Signal(str, QPoint)
    stale = Signal()
    """What it tells is of another moment: it has come into sight since."""

    def __init__(self, session: Session, tokens: Tokens, zoom: "Zoom"):
        super().__init__()
        self.session, self.tokens, self.zoom = session, tokens, zoom
        self.curve: Series | None = None
        self._told: tuple[object, ...] = ()
        """Of which curve, motion and moment the value is."""
        self._drawn: tuple[object, ...] = ()
        self.setFixedHeight(TRACK)
        self.name, self.value, self.high, self.low = Label(), Label(), End(), End()
        self.value.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.value.setFont(font(9.5))
        self.value.setFixedSize(LABELS - 22, self.value.fontMetrics().height())  # steady: it changes with every frame
        left, right = QWidget(), QWidget()
        left.setFixedWidth(LABELS)
        right.setFixedWidth(EDGE)
        labels, edges = QVBoxLayout(left), QVBoxLayout(right)
        labels.setContentsMargins(12, 6, 10, 6)
        labels.setSpacing(0)
        labels.addStretch(1)
        labels.addWidget(self.name)
        labels.addStretch(2)
        labels.addWidget(self.value)
        labels.addStretch(1)
        edges.setContentsMargins(4, 2, 4, 2)
        self.high.clicked.connect(lambda: self._go(True))
        self.low.clicked.connect(lambda: self._go(False))
        for label, alignment in ((self.high, Qt.AlignmentFlag.AlignTop), (self.low, Qt.AlignmentFlag.AlignBottom)):
            label.setFont(font(8))
            label.setProperty("role", "muted")
            edges.addWidget(label, alignment=alignment)
        self.plot = Plot(session, zoom, tokens)
        self.plot.scrubbed.connect(self._scrub)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(left)
        row.addWidget(self.plot, 1)
        row.addWidget(right)

    def show_curve(self, entry: Shown, fresh: bool, pinned: "Series | None") -> None:
        """Shows a curve in place of the last one; pale while it is that of a version before, an earlier run beneath."""
        curve, failed = entry.series, entry.failed
        drawn = (curve, failed, fresh, self.tokens, self.session.end, entry.height, pinned)
        if drawn == self._drawn:
            return
        self._drawn = drawn
        self.setFixedHeight(entry.height)
        self.curve = curve
        self.untold()
        self.plot.setToolTip(tip("" if fresh else "Of before the change: this version is being judged"))
        for label in (self.name, self.value, self.high, self.low):
            label.setEnabled(fresh)
        self.name.setText(curve.name)
        assert self.session.document is not None
        units = self.session.document.units
        ends = (curve.high, curve.low) if curve.bars is None else (None, None)
        for label, end in zip((self.high, self.low), ends, strict=True):
            label.setText("" if end is None else format_short(end, curve.dimension, units))
        role = "" if fresh and not failed else "bad" if fresh else "muted"
        set_role(self.value, role)
        self._plot_curve(curve, failed, fresh, pinned)

    def _plot_curve(self, curve: "Series", failed: bool, fresh: bool, pinned: "Series | None") -> None:
        """What the plot is to hold."""
        plot, tokens = self.plot, self.tokens
        plot.tokens = tokens
        plot.colour = QColor(tokens.line if not fresh else tokens.bad if failed else tokens.accent)
        plot.line = (curve.t, curve.values)
        low, high = curve.low, curve.high
        plot.before = (NOTHING, NOTHING)
        if pinned is not None and pinned.t.size:  # by shares of the motion, for a run may take another time
            plot.before = (pinned.t * (self.session.end / max(float(pinned.t[-1]), 1e-12)), pinned.values)
            low, high = min(low, pinned.low), max(high, pinned.high)
        margin = max((high - low) * 0.16, 1e-9)
        low, high = low - margin, high + margin
        edge = QColor(tokens.bad if failed and fresh else tokens.muted)
        plot.bounds = []
        for bound in curve.bounds:
            if low - 3 * margin < bound < high + 3 * margin:  # one far outside would only flatten the curve
                low, high = min(low, bound - margin), max(high, bound + margin)
                plot.bounds.append((bound, edge))
        plot.low, plot.high = low, high
        end = float(curve.t[-1]) if curve.t.size else 0.0
        plot.end = max(self.session.end or end, 1e-12)
        plot.spots = [(curve.low_t, curve.low), (curve.high_t, curve.high)] if curve.high > curve.low else []
        plot.spans, plot.hatching = list(curve.short), QColor(tokens.bad if fresh else tokens.muted)
        plot.mark = (curve.low_t, curve.low) if curve.parts is not None else None
        plot.bars, plot.drops = curve.bars, curve.drops
        plot.drawn_anew()

    def show_range(self) -> None:
        """Shows the part of the motion that is wanted."""
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
        if pressed and self.curve is not None:
            marks = [end for end in (self.curve.low_t, self.curve.high_t)
                     if abs(self.plot.across(end) - self.plot.across(t)) <= NEAR]  # fmt: skip
            t = min(marks, key=lambda end: abs(end - t), default=t)
        self.session.go(t)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.curve is not None and self.curve.place:
            self.session.selection.select(self.curve.place)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        if self.curve is not None and self.curve.place:
            self.session.selection.select(self.curve.place)
            self.menu_wanted.emit(self.curve.place, event.globalPos())

    def follow(self, value: float) -> None:
        """Moves the play head and tells the value there."""
        assert self.curve is not None
        self.plot.follow(self.session.time)
        self.value.setText(("≈ " if self.curve.parts else "") + self._shown(value) + self._beside_pinned(value))
        self._told = self._moment()

    def _beside_pinned(self, value: float) -> str:
        """By how much it differs from the run that lies beneath, at the head."""
        t, values = self.plot.before
        if not t.size or self.session.document is None or self.curve is None or self.session.posing.posed is not None:
            return ""
        apart = value - float(np.interp(self.session.time, t, values))
        text = format_short(apart, self.curve.dimension, self.session.document.units)
        return f" ({'+' if apart >= 0 else ''}{text})"

    def tell(self, text: str) -> None:
        """Moves the play head and tells what is so there."""
        self.plot.follow(self.session.time)
        self.value.setText(text)
        self._told = self._moment()

    def untold(self) -> None:
        """No value is known of what is shown now."""
        self.plot.follow(self.session.time)
        self.value.setText("–")
        self._told = self._moment()

    def _moment(self) -> tuple[object, ...]:
        return self.curve, self.session.motion, self.session.time, self.session.posing.posed is None

    def paintEvent(self, event: QPaintEvent) -> None:
        if self._told != self._moment():
            self.stale.emit()
        with painting(self, smooth=False) as painter:
            if self.curve is not None and self.curve.place and self.curve.place == self.session.selection.place:
                painter.fillRect(0, 0, 4, self.height(), QColor(self.tokens.accent))
            painter.setPen(QPen(QColor(self.tokens.faint), 1))
            painter.drawLine(0, self.height() - 1, self.width(), self.height() - 1)
