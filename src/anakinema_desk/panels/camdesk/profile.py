"""The profile of a cam with its follower, where the shaft stands: least circle, path of the follower's point, the
common normal against the way, and where it is undercut."""

import math

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from anakinema.cams import CamGeometry, FollowerKind
from anakinema.cams.geometry import Course
from anakinema.formatting import shown
from anakinema.kinds import Dimension

from ...theme.painting import painting
from ...theme.tokens import Tokens, font
from .model import CamModel, course_of

ROOM = 14
"""Pixels around the drawing."""


class ProfileView(QWidget):
    """The cam as it stands."""

    def __init__(self, model: CamModel, tokens: Tokens):
        super().__init__()
        self.model, self.tokens = model, tokens
        self.setMinimumSize(170, 150)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Profile of the cam with its follower")
        model.changed.connect(self.update)
        model.session.time_changed.connect(self.update)
        model.session.posing.changed.connect(self.update)

    def paintEvent(self, event: QPaintEvent) -> None:
        with painting(self) as painter:
            cam = self.model.cam
            if cam is None:
                return
            painter.setFont(font(8.5))
            course = course_of(cam)
            a = self.model.shaft()
            a = cam.range[0] if a is None else a
            self._draw(painter, cam, course, cam.course(np.array([a])))

    def _fit(self, cam: CamGeometry, course: Course) -> None:
        """The scale with which the cam in all its positions, and its follower, fit."""
        if cam.shaft.slides:
            places = np.concatenate((course.profile, course.pitch))
            low, high = complex(places.real.min(), places.imag.min()), complex(places.real.max(), places.imag.max())
            self.middle = (low + high) / 2
            reach = max(abs(high - low) / 2, 1e-9)
        else:
            self.middle = 0j
            far = float(np.abs(course.pitch - cam.middle).max())
            follower = cam.follower
            round_one = follower.radius * (follower.kind is FollowerKind.ROLLER)
            half = max(follower.width / 2, float(np.abs(course.along).max()))
            reach = max(far + round_one, math.hypot(far, half))
        self.by = (min(self.width(), self.height() - 14) / 2 - ROOM) / max(reach, 1e-9)

    def at(self, z: complex) -> QPointF:
        """The pixel of a place about the shaft, as the carrier sees it."""
        off = (z - self.middle) * self.by
        return QPointF(self.width() / 2 + off.real, (self.height() - 14) / 2 - off.imag)

    def _ring(self, points: np.ndarray) -> QPolygonF:
        off = (points - self.middle) * self.by
        x, y = self.width() / 2 + off.real, (self.height() - 14) / 2 - off.imag
        return QPolygonF(list(map(QPointF, x.tolist(), y.tolist())))

    def _draw(self, painter: QPainter, cam: CamGeometry, course: Course, now: Course) -> None:
        tokens = self.tokens
        self._fit(cam, course)
        turn, origin = 1 + 0j, 0j
        if not cam.shaft.slides:
            turn = complex(np.exp(1j * (cam.shaft.angle + cam.shaft.sense * float(now.a[0]))))
            origin = cam.middle

        def placed(points: np.ndarray) -> np.ndarray:
            found: np.ndarray = turn * (points - origin)
            return found

        fill = QColor(tokens.fills[0])
        painter.setBrush(Qt.BrushStyle.NoBrush if cam.shaft.slides else fill)
        painter.setPen(QPen(QColor(tokens.edge), 1.6))
        ring = self._ring(placed(course.profile))
        if cam.shaft.slides:
            painter.drawPolyline(ring)
        else:
            painter.drawPolygon(ring)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        judgement = self.model.judgement()
        if not cam.shaft.slides and judgement is not None:
            painter.setPen(QPen(QColor(tokens.muted), 1, Qt.PenStyle.DotLine))
            base = judgement.base * self.by
            painter.drawEllipse(self.at(0j), base, base)
            painter.setPen(QPen(QColor(tokens.muted), 1))
            for way in (5, 5j):
                painter.drawLine(self.at(0j) - QPointF(way.real, way.imag), self.at(0j) + QPointF(way.real, way.imag))
        if cam.follower.kind is FollowerKind.ROLLER:
            painter.setPen(QPen(QColor(tokens.muted), 1, Qt.PenStyle.DashDotLine))
            painter.drawPolyline(self._ring(placed(course.pitch)))
        painter.setPen(QPen(QColor(tokens.bad), 3.0))
        for start, stop in judgement.undercut if judgement is not None else ():
            some = (course.a >= start) & (course.a <= stop)
            painter.drawPolyline(self._ring(placed(course.profile[some])))
        self._follower(painter, cam, now, placed)
        self._say(painter, now)

    def _follower(self, painter: QPainter, cam: CamGeometry, now: Course, placed: object) -> None:
        """What touches, where it touches, the common normal and the way."""
        tokens = self.tokens
        assert callable(placed)
        center, touch = (complex(placed(each)[0]) for each in (now.pitch, now.profile))
        normal = complex(placed(now.profile + now.normal)[0]) - touch
        painter.setPen(QPen(QColor(tokens.accent), 1.6))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        follower = cam.follower
        if follower.kind in (FollowerKind.ROLLER, FollowerKind.ARC):
            painter.drawEllipse(self.at(center), follower.radius * self.by, follower.radius * self.by)
        elif follower.kind is FollowerKind.FLAT:
            judgement = self.model.judgement()
            width = follower.width or (judgement.face_width if judgement is not None else 0.0) or 0.0
            along = 1j * normal / abs(normal)
            painter.drawLine(self.at(center - along * width / 2), self.at(center + along * width / 2))
        else:
            tip = self.at(center)
            out = QPointF(normal.real, -normal.imag) / abs(normal)
            side = QPointF(-out.y(), out.x())
            painter.drawPolyline(QPolygonF([tip + out * 14 + side * 4, tip, tip + out * 14 - side * 4]))
        turn = float(now.pressure[0]) * cam.side
        length = 0.22 * min(self.width(), self.height()) / self.by
        start, unit = touch, normal / abs(normal)
        way = unit * complex(math.cos(turn), -math.sin(turn))
        painter.setPen(QPen(QColor(tokens.accent), 1.4))
        painter.drawLine(self.at(start), self.at(start + unit * length))
        painter.setPen(QPen(QColor(tokens.muted), 1.2, Qt.PenStyle.DashLine))
        painter.drawLine(self.at(start), self.at(start + way * length))
        painter.setBrush(QColor(tokens.accent))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.drawEllipse(self.at(touch), 3, 3)

    def _say(self, painter: QPainter, now: Course) -> None:
        document = self.model.document
        assert document is not None
        units = document.units
        with np.errstate(divide="ignore"):
            radius = float(now.radius[0])
        bent = "straight" if math.isinf(radius) else f"radius {shown(abs(radius), Dimension.LENGTH, units, 2)}"
        bent += " hollow" if radius < 0 else ""
        text = f"pressure angle {shown(abs(float(now.pressure[0])), Dimension.ANGLE, units, 1)}, {bent}"
        painter.setPen(QColor(self.tokens.muted))
        painter.drawText(QRectF(0, self.height() - 16, self.width(), 15), Qt.AlignmentFlag.AlignCenter, text)
