"""The strip: one track for each joint and each clearance along the motion, under a ruler of the driver, with a play
head that scrubs everything."""

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QLabel, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from anakinema.words import in_document_units

from ..session import Session
from ..theme.tokens import Tokens, font
from .curves import EDGE, LABELS, curves

if TYPE_CHECKING:
    from .tracks import Track

RULER = 24
MOST = 24
"""Tracks shown at once: each takes its time to make."""
SCROLL = 10
"""Width of the scroll bar beside the tracks."""


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
        self.left = QLabel()
        self.left.setProperty("role", "muted")
        self.left.setContentsMargins(12, 6, 12, 6)
        self.rows.addWidget(self.left)
        self.rows.addStretch(1)
        self._places: set[str] = set()
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
        session.selection_changed.connect(self._selected)

    def rebuild(self) -> None:
        """Shows the tracks of the findings; widgets that are there already serve again."""
        findings, document = self.session.findings, self.session.document
        moving = findings is not None and document is not None and self.session.end > 0
        found = curves(document, findings) if moving and findings is not None and document is not None else []
        wanted = found[:MOST]
        chosen = [curve for curve in found[MOST:] if curve.place and curve.place == self.session.selection]
        wanted = [*chosen, *wanted]
        self.left.setText(f"{len(found) - len(wanted)} more; a joint that is selected shows its own")
        self.left.setVisible(len(found) > len(wanted))
        self._places = {curve.place for curve in wanted}
        while len(self.tracks) > len(wanted):
            track = self.tracks.pop()
            self.rows.removeWidget(track)
            track.deleteLater()
        while len(self.tracks) < len(wanted):
            from .tracks import Track

            self.tracks.append(Track(self.session, self.tokens))
            self.rows.insertWidget(len(self.tracks) - 1, self.tracks[-1])
        for track, curve in zip(self.tracks, wanted, strict=True):
            track.show_curve(curve)
        self.area.setVisible(moving)
        self.ruler.setVisible(moving)
        self.empty.setVisible(not moving)
        self.follow()

    def _selected(self) -> None:
        """A selected joint shows its track, even where there are too many to show all."""
        if self.left.isVisible() and self.session.selection.startswith("joints.") and (
            self.session.selection not in self._places
        ):
            self.rebuild()
        self.body.update()

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
