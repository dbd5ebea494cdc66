"""Marks beside things on the bench: labels, dimensions, arrows of angles and ways; in pixels, y downward."""

import cmath
import math
from collections.abc import Iterable, Iterator
from contextlib import contextmanager

from PySide6.QtCore import QLineF, QPointF, QRectF, QSize, QSizeF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPixmap, QPolygonF, QTransform

from anakinema.geometry.features import Feature

from ..theme.tokens import Tokens, font
from .viewport import Viewport

GAP, TRIES = 3.0, 6
"""How far plates stand from each other (pixels), and how many rows away a free place is looked for."""


def dimension(painter: QPainter, tokens: Tokens, one: QPointF, two: QPointF, text: str, colour: QColor) -> None:
    """A measure between two points, with its value beside."""
    line = QLineF(one, two)
    way = QPointF(line.dx(), line.dy()) / line.length() if line.length() > 1e-6 else QPointF(0, 1)
    painter.setPen(QPen(colour, 1.6))
    painter.setBrush(colour)
    painter.drawLine(line)
    for tip, out in ((one, -1.0), (two, 1.0)):
        painter.drawLine(QLineF(tip, tip + way * (14 * out)))
        side = QPointF(-way.y(), way.x())
        back = tip + way * (7 * out)
        painter.drawPolygon(QPolygonF([tip, back + side * 2.6, back - side * 2.6]))
    label(painter, tokens, (one + two) / 2 + QPointF(22, 0), text, colour)


def along(painter: QPainter, tokens: Tokens, base: QTransform, feature: Feature) -> None:
    """Lights the line of a feature, if it has one; `base` leads from its part's own axes to pixels."""
    line = feature.along
    if line is None:
        return
    path = QPainterPath(QPointF(line.start.real, line.start.imag))
    if line.center is None:
        path.lineTo(line.end.real, line.end.imag)
    else:
        radius = abs(line.start - line.center)
        box = QRectF(line.center.real - radius, line.center.imag - radius, 2 * radius, 2 * radius)
        begin = -math.degrees(cmath.phase(line.start - line.center))  # Qt counts against a y axis that points down
        path.arcTo(box, begin, -math.degrees(line.sweep))
    pen = QPen(QColor(tokens.accent), 3.2)
    pen.setCosmetic(True)
    pen.setCapStyle(Qt.PenCapStyle.RoundCap)
    painter.setPen(pen)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPath(base.map(path))


def jolt(painter: QPainter, tokens: Tokens, at: QPointF) -> None:
    """The mark of a jolt at a place: a step, as the velocity makes one."""
    painter.setPen(QPen(QColor(tokens.warn), 2.0))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPolyline([at + QPointF(-5, 3), at + QPointF(0, 3), at + QPointF(0, -3), at + QPointF(5, -3)])


class Plates:
    """Where plates of text stand in one picture, so that the next keeps clear of them."""

    def __init__(self, taken: Iterable[QRectF] = ()):
        self.taken = list(taken)

    def clear_of(self, box: QRectF, room: QRectF) -> QRectF:
        """A box where it stands in the room, or as near to that as nothing else does; where nothing is free, there."""
        inside = _inside(box, room)
        step = box.height() + GAP
        for far in range(TRIES):
            for way in ((0.0, step * far), (0.0, -step * far)) if far else ((0.0, 0.0),):
                for aside in (0.0, box.width() + GAP, -box.width() - GAP):
                    moved = _inside(box.translated(aside, way[1]), room)
                    if not any(moved.intersects(other) for other in self.taken):
                        return moved
        return inside


_plates: list[Plates] = []
"""Of the pictures that are being painted, the innermost last."""


@contextmanager
def plates(taken: Iterable[QRectF] = ()) -> Iterator[Plates]:
    """While one picture is painted: its labels keep clear of each other, and of what is taken already."""
    page = Plates(taken)
    _plates.append(page)
    try:
        yield page
    finally:
        _plates.pop()


def _inside(box: QRectF, room: QRectF) -> QRectF:
    found = QRectF(box)
    found.moveLeft(min(max(box.left(), room.left()), room.right() - box.width()))
    found.moveTop(min(max(box.top(), room.top()), room.bottom() - box.height()))
    return found


def label(
    painter: QPainter, tokens: Tokens, at: QPointF, text: str, colour: QColor, steady: bool = False
) -> QRectF:
    """Text on a plate beside a place, kept inside the bench and clear of other plates, unless it is to stay `steady`;
    gives where it stands."""
    size = size_of(painter, text)
    box = QRectF(at.x(), at.y() - size.height() / 2, size.width(), size.height())
    device = painter.device()
    ratio = device.devicePixelRatioF() if isinstance(device, QPixmap) else 1.0
    room = QRectF(4, 4, device.width() / ratio - 8, device.height() / ratio - 8)
    page = _plates[-1] if _plates else None
    box = _inside(box, room) if steady or page is None else page.clear_of(box, room)
    if page is not None:
        page.taken.append(box)
    plate = QColor(tokens.raised)
    plate.setAlphaF(0.94)
    painter.setPen(QPen(colour, 1))
    painter.setBrush(plate)
    painter.drawRoundedRect(box, 4, 4)
    painter.setPen(QColor(tokens.text))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
    return box


def hint(painter: QPainter, tokens: Tokens, size: QSize, text: str) -> None:
    """What a tool wants next, along the lower edge of a view of a size, in as many lines as it takes."""
    painter.setFont(font(9.5))
    metrics, room = painter.fontMetrics(), size.width() - 60
    lines = [""]
    for word in text.split(" "):
        longer = f"{lines[-1]} {word}" if lines[-1] else word
        if lines[-1] and metrics.horizontalAdvance(longer) > room:
            lines.append(word)
        else:
            lines[-1] = longer
    for k, line in enumerate(lines):
        at = QPointF((size.width() - metrics.horizontalAdvance(line) - 12) / 2, size.height() - 46)
        above = QPointF(0, 24 * (len(lines) - 1 - k))
        label(painter, tokens, at - above, line, QColor(tokens.accent), steady=True)


def size_of(painter: QPainter, text: str) -> QSizeF:
    """How large the plate of a text is."""
    painter.setFont(font(9.5))
    size = painter.fontMetrics().size(0, text)
    return QSizeF(size.width() + 12, size.height() + 4)


def angle_arrow(painter: QPainter, at: QPointF, zero: float, value: float, colour: QColor) -> None:
    """The zero line, and an arc from it to the value with its head in the direction it grows."""
    radius = 40.0
    painter.setPen(QPen(colour, 1, Qt.PenStyle.DashLine))
    painter.drawLine(QLineF(at, at + QPointF(math.cos(zero), -math.sin(zero)) * (radius + 12)))
    zero, turn = math.remainder(zero, 2 * math.pi), math.remainder(value, 2 * math.pi)
    turn = turn + 2 * math.pi if turn < 0 < value else turn
    painter.setPen(QPen(colour, 1.8))
    box = QRectF(at.x() - radius, at.y() - radius, 2 * radius, 2 * radius)
    painter.drawArc(box, round(math.degrees(zero) * 16), round(math.degrees(turn) * 16))
    end = zero + turn
    tip = at + QPointF(math.cos(end), -math.sin(end)) * radius
    forward = QPointF(-math.sin(end), -math.cos(end))
    head(painter, tip, forward, colour)


def travel_arrow(painter: QPainter, start: QPointF, end: QPointF, angle: float, colour: QColor) -> None:
    """A dimension from the zero of the slide to the value, beside the way."""
    way = QPointF(math.cos(angle), -math.sin(angle))
    side = QPointF(-way.y(), way.x()) * 24
    painter.setPen(QPen(colour, 1, Qt.PenStyle.DashLine))
    for spot in (start, end):
        painter.drawLine(QLineF(spot + side * 0.2, spot + side * 1.25))
    painter.setPen(QPen(colour, 1.8))
    painter.drawLine(QLineF(start + side, end + side))
    head(painter, end + side, way, colour)


def turn_arrow(painter: QPainter, middle: QPointF, colour: QColor) -> None:
    """A turn about a point, either way."""
    radius = 26.0
    painter.setPen(QPen(colour, 1.8))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawLine(QLineF(middle - QPointF(5, 0), middle + QPointF(5, 0)))
    painter.drawLine(QLineF(middle - QPointF(0, 5), middle + QPointF(0, 5)))
    painter.drawArc(QRectF(middle.x() - radius, middle.y() - radius, 2 * radius, 2 * radius), 20 * 16, 140 * 16)
    for angle, way in ((math.radians(20), 1.0), (math.radians(160), -1.0)):
        tip = middle + QPointF(math.cos(angle), -math.sin(angle)) * radius
        head(painter, tip, QPointF(math.sin(angle), math.cos(angle)) * way, colour)
        painter.setPen(QPen(colour, 1.8))


def slide_arrow(painter: QPainter, at: QPointF, way: QPointF, colour: QColor) -> None:
    """A slide along a direction, either way."""
    painter.setPen(QPen(colour, 1.8))
    painter.drawLine(QLineF(at - way * 34, at + way * 34))
    for side in (1.0, -1.0):
        head(painter, at + way * (36 * side), way * side, colour)


def head(painter: QPainter, tip: QPointF, forward: QPointF, colour: QColor) -> None:
    """An arrow's head."""
    side = QPointF(-forward.y(), forward.x())
    back = tip - forward * 9
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour)
    painter.drawPolygon(QPolygonF([tip, back + side * 3.4, back - side * 3.4]))
    painter.setBrush(Qt.BrushStyle.NoBrush)


def caution(painter: QPainter, tokens: Tokens, at: QPointF) -> None:
    """A triangle with a stroke, where something can be caught."""
    painter.setPen(QPen(QColor(tokens.warn), 1.8, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap,
                        Qt.PenJoinStyle.RoundJoin))  # fmt: skip
    painter.setBrush(QColor(tokens.paper))
    painter.drawPolygon(QPolygonF([at + QPointF(0, -9), at + QPointF(9, 7), at + QPointF(-9, 7)]))
    painter.drawLine(at + QPointF(0, -4), at + QPointF(0, 2))
    painter.drawPoint(at + QPointF(0, 4.6))


def cut(painter: QPainter, tokens: Tokens, view: Viewport, one: complex, two: complex) -> None:
    """A line across the plan along which the stack is cut, with the side from which it is seen."""
    way = (two - one) / abs(two - one)
    far = (view.width + view.height) / view.scale
    painter.setPen(QPen(QColor(tokens.accent), 1.4, Qt.PenStyle.DashDotLine))
    painter.drawLine(view.pixel(one - way * far), view.pixel(one + way * far))
    here = view.pixel(one)
    toward = QPointF(way.imag, way.real) * 16  # to the right of the way; y points down
    painter.setPen(QPen(QColor(tokens.accent), 1.6))
    for side in (-46.0, 46.0):
        at = here + QPointF(way.real, -way.imag) * side
        painter.drawLine(at + toward, at)
        painter.drawLine(at, at + toward * 0.4 + QPointF(way.real, -way.imag) * 4)
        painter.drawLine(at, at + toward * 0.4 - QPointF(way.real, -way.imag) * 4)
