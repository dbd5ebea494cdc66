"""The strip: one track for each joint and each clearance along the motion, under a ruler of the driver, with a play
head that scrubs everything; and the transport above it."""

from dataclasses import dataclass
from itertools import zip_longest

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from anakinema.clearance.approach import Approach
from anakinema.document.model import Document
from anakinema.findings import Findings
from anakinema.kinematics.wording import in_document_units, shown

from ..session import Session
from ..theme.tokens import Tokens, font

LABELS = 186
TRACK = 50
RULER = 24
EDGE = 70
"""Room at the right of the plots for the least and greatest value."""
SCROLL = 10
"""Width of the scroll bar beside the tracks."""


@dataclass(frozen=True)
class Curve:
    """What a track shows: place in the document, name, dimension, samples, bounds drawn as edges."""

    place: str
    name: str
    dimension: str
    t: np.ndarray
    values: np.ndarray
    low: float
    high: float
    bounds: tuple[float, ...]
    approach: Approach | None = None
    failed: bool = False


def curves(document: Document, findings: Findings) -> list[Curve]:
    """The tracks of a document: joints that a check or a limit speaks of first, then clearances, then the rest."""
    motion = findings.motion
    wanted = {verdict.check.joint for verdict in findings.verdicts.values() if verdict.check.joint}
    driven = {driver.joint for driver in document.drivers.values()}
    state, found = motion.state, motion.extremes
    joints = []
    for i, joint in enumerate(motion.system.coordinates.ids):
        limits = document.joints[joint].limits
        bounds = tuple(bound for bound in (limits.min, limits.max) if bound is not None)
        failed = any(verdict.check.joint == joint for verdict in findings.failed)
        dimension = "length" if motion.system.coordinates.is_length[i] else "angle"
        low, high = float(found.low[i]), float(found.high[i])
        curve = Curve(f"joints.{joint}", joint, dimension, state.t, state.coordinates[:, i], low, high, bounds)
        rank = 0 if bounds or joint in wanted else 2
        joints.append((3 if joint in driven else rank, Curve(**{**curve.__dict__, "failed": failed})))
    for approach in findings.approaches:
        pair = set(approach.parts)
        about = (entry for entry in findings.verdicts.values() if set(entry.check.parts or ()) == pair)
        verdict = next(about, None)
        bounds = tuple(b for b in (verdict.check.at_least, verdict.check.at_most) if b is not None) if verdict else ()
        place = f"checks.{verdict.check.id}" if verdict else ""
        t, values = approach.samples
        high = float(values.max())
        name = f"{approach.parts[0]} – {approach.parts[1]}"
        failed = verdict is not None and not verdict.passed
        curve = Curve(place, name, "length", t, values, approach.distance, high, bounds, approach, failed)
        joints.append((-1 if failed else 1, curve))
    return [curve for _, curve in sorted(joints, key=lambda entry: entry[0])]


class Scrub(pg.PlotWidget):
    """A bare plot; pressing and dragging in it moves the play head."""

    scrubbed = Signal(float)

    def __init__(self) -> None:
        super().__init__()
        for axis in ("left", "bottom"):
            self.hideAxis(axis)
        self.hideButtons()
        self.setMenuEnabled(False)
        self.setMouseEnabled(False, False)
        self.plotItem.vb.setDefaultPadding(0.0)
        self.plotItem.layout.setContentsMargins(0, 0, 0, 0)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setFrameShape(QFrame.Shape.NoFrame)

    def _scrub(self, event: QMouseEvent) -> None:
        self.scrubbed.emit(float(self.plotItem.vb.mapSceneToView(self.mapToScene(event.position().toPoint())).x()))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self._scrub(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._scrub(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        event.accept()

    def wheelEvent(self, event: QWheelEvent) -> None:
        event.ignore()  # the strip scrolls


class Track(QWidget):
    """One track: name, value now, curve with its edges."""

    def __init__(self, session: Session, tokens: Tokens):
        super().__init__()
        self.session, self.tokens = session, tokens
        self.curve: Curve | None = None
        self.setFixedHeight(TRACK)
        self.name, self.value, self.high, self.low = QLabel(), QLabel(), QLabel(), QLabel()
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
        for label, alignment in ((self.high, Qt.AlignmentFlag.AlignTop), (self.low, Qt.AlignmentFlag.AlignBottom)):
            label.setFont(font(8))
            label.setProperty("role", "muted")
            edges.addWidget(label, alignment=alignment)
        self.plot = Scrub()
        self.plot.setBackground(tokens.paper)
        self.line = self.plot.plot(antialias=True)
        self.mark = pg.ScatterPlotItem(symbol="t1", size=9, pen=None)
        self.head = pg.InfiniteLine(0.0, angle=90, pen=pg.mkPen(tokens.text, width=1))
        self.bounds = [pg.InfiniteLine(0.0, angle=0) for _ in range(2)]
        for item in (self.mark, *self.bounds, self.head):
            self.plot.addItem(item, ignoreBounds=True)
        self.plot.scrubbed.connect(self._scrub)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(left)
        layout.addWidget(self.plot, 1)
        layout.addWidget(right)

    def show_curve(self, curve: Curve) -> None:
        """Draws a curve in place of the last one."""
        tokens, self.curve = self.tokens, curve
        colour = tokens.bad if curve.failed else tokens.accent
        self.name.setText(curve.name)
        self.high.setText(self._shown(curve.high))
        self.low.setText(self._shown(curve.low))
        self.value.setStyleSheet(f"color: {tokens.bad if curve.failed else tokens.text};")
        self.line.setData(curve.t, curve.values, pen=pg.mkPen(colour, width=1.6))
        margin = max((curve.high - curve.low) * 0.16, 1e-9)
        low, high = curve.low - margin, curve.high + margin
        for item, bound in zip_longest(self.bounds, curve.bounds):
            # An edge far outside would only flatten the curve.
            near = bound is not None and low - 3 * margin < bound < high + 3 * margin
            item.setVisible(near)
            if near:
                low, high = min(low, bound - margin), max(high, bound + margin)
                item.setPen(pg.mkPen(tokens.bad if curve.failed else tokens.muted, width=1, style=Qt.PenStyle.DashLine))
                item.setValue(bound)
        self.plot.setRange(xRange=(0.0, max(self.session.end, 1e-12)), yRange=(low, high), padding=0)
        spots = [(curve.approach.t, curve.low)] if curve.approach is not None else []
        self.mark.setData(pos=np.array(spots).reshape(-1, 2), brush=pg.mkBrush(colour))

    def _shown(self, value: float) -> str:
        assert self.session.document is not None and self.curve is not None
        return shown(value, self.curve.dimension, self.session.document.units, 2)

    def _scrub(self, t: float) -> None:
        self.session.pause()
        self.session.go(t)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.curve is not None and self.curve.place:
            self.session.select(self.curve.place)

    def follow(self, value: float) -> None:
        """Moves the play head and tells the value there."""
        assert self.curve is not None
        self.head.setValue(self.session.time)
        self.value.setText(("≈ " if self.curve.approach else "") + self._shown(value))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        if self.curve is not None and self.curve.place and self.curve.place == self.session.selection:
            painter.fillRect(0, 0, 4, self.height(), QColor(self.tokens.accent))
        painter.setPen(QPen(QColor(self.tokens.faint), 1))
        painter.drawLine(0, self.height() - 1, self.width(), self.height() - 1)
        painter.end()


class Ruler(QWidget):
    """The driver's coordinate along the motion, with the play head's handle."""

    def __init__(self, session: Session, tokens: Tokens):
        super().__init__()
        self.session, self.tokens = session, tokens
        self.setFixedHeight(RULER)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName("Ruler of the driver")

    def _run(self) -> float:
        """Width of the plots below."""
        return max(self.width() - LABELS - EDGE - SCROLL, 1)

    def _x(self, t: float) -> float:
        return LABELS + t / max(self.session.end, 1e-12) * self._run()

    def _go(self, event: QMouseEvent) -> None:
        self.session.pause()
        self.session.go((event.position().x() - LABELS) / self._run() * self.session.end)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._go(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._go(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        findings, document = self.session.findings, self.session.document
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if findings is None or document is None or not document.drivers or self.session.end == 0:
            painter.end()
            return
        motion = findings.motion
        column = motion.system.coordinates.index(motion.drive.drivers[0].joint)
        dimension = "length" if motion.system.coordinates.is_length[column] else "angle"
        ends = [motion.driver_value(t) or 0.0 for t in (0.0, self.session.end)]
        first, last = (in_document_units(value, dimension, document.units) for value in ends)
        painter.setFont(font(8.5))
        muted = QColor(self.tokens.muted)
        painter.setPen(muted)
        painter.drawText(12, 0, LABELS - 22, RULER, Qt.AlignmentFlag.AlignVCenter, motion.drive.drivers[0].id)
        for value in ticks(first, last, max(2, int(self._run() / 80)), dimension == "angle"):
            share = (value - first) / (last - first) if last != first else 0.0
            x = self._x(share * self.session.end)
            painter.setPen(QPen(muted, 1))
            painter.drawLine(QPointF(x, RULER - 5), QPointF(x, RULER))
            sign = "°" if dimension == "angle" and document.units.angle == "deg" else ""
            text = f"{value:g}{sign}".replace("-", "−")
            painter.drawText(int(x) - 40, 0, 80, RULER - 5, Qt.AlignmentFlag.AlignCenter, text)
        x = self._x(self.session.time)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(self.tokens.text))
        painter.drawPolygon([QPointF(x - 5, RULER - 8), QPointF(x + 5, RULER - 8), QPointF(x, RULER)])
        painter.end()


def ticks(first: float, last: float, most: int, angle: bool) -> list[float]:
    """Round values between two, at most so many; angles in steps that divide a turn."""
    span = abs(last - first)
    if span == 0:
        return [first]
    steps = [1, 2, 5, 10, 15, 30, 45, 90, 180, 360] if angle and span > 12 else []
    power = 10.0 ** np.floor(np.log10(span))
    steps += [power * k for k in (0.05, 0.1, 0.2, 0.5, 1.0)] if not steps else [360.0 * 10**k for k in range(1, 6)]
    step = next((step for step in steps if span / step <= most), steps[-1])
    low, high = min(first, last), max(first, last)
    count = np.arange(np.ceil(low / step - 1e-9), np.floor(high / step + 1e-9) + 1)
    return [float(round(value, 9)) + 0.0 for value in count * step]  # + 0.0: there is no minus zero on a ruler


class Strip(QWidget):
    """Ruler and tracks."""

    def __init__(self, session: Session, tokens: Tokens):
        super().__init__()
        self.session, self.tokens = session, tokens
        self.setAccessibleName("Strip: the motion along the driver")
        self.tracks: list[Track] = []
        self.ruler = Ruler(session, tokens)
        self.body = QWidget()
        self.rows = QVBoxLayout(self.body)
        self.rows.setContentsMargins(0, 0, 0, 0)
        self.rows.setSpacing(0)
        self.rows.addStretch(1)
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setWidget(self.body)
        self.area.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)
        self.empty = QLabel("No motion yet. A driver moves a joint through its range; its tracks appear here.")
        self.empty.setProperty("role", "muted")
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.ruler)
        layout.addWidget(self.area, 1)
        layout.addWidget(self.empty, 1)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        session.findings_changed.connect(self.rebuild)
        session.time_changed.connect(self.follow)
        session.selection_changed.connect(self.body.update)

    def rebuild(self) -> None:
        """Shows the tracks of the findings; widgets that are there already serve again."""
        findings, document = self.session.findings, self.session.document
        moving = findings is not None and document is not None and self.session.end > 0
        wanted = curves(document, findings) if moving and findings is not None and document is not None else []
        while len(self.tracks) > len(wanted):
            track = self.tracks.pop()
            self.rows.removeWidget(track)
            track.deleteLater()
        while len(self.tracks) < len(wanted):
            self.tracks.append(Track(self.session, self.tokens))
            self.rows.insertWidget(len(self.tracks) - 1, self.tracks[-1])
        for track, curve in zip(self.tracks, wanted, strict=True):
            track.show_curve(curve)
        self.area.setVisible(moving)
        self.ruler.setVisible(moving)
        self.empty.setVisible(not moving)
        self.follow()

    def follow(self) -> None:
        """Brings play heads and values to the moment shown."""
        findings = self.session.findings
        if findings is None or not self.tracks:
            return
        if self.session.motion is not findings.motion:
            return
        values = self.session.coordinates()
        for track in self.tracks:
            assert track.curve is not None
            if track.curve.approach is None:
                track.follow(float(values[findings.motion.system.coordinates.index(track.curve.name)]))
            elif self.session.posed is None:
                track.follow(track.curve.approach.near(self.session.time))
            else:
                track.value.setText("–")  # clearances are told along the motion only
        self.ruler.update()
