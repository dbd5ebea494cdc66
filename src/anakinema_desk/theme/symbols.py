"""Joint symbols after ISO 3952 (kinematic diagrams), drawn about the origin in pixels, y downward.

A revolute pair is a circle; a prismatic pair a block on its line of travel; a rigid joint a filled corner; what belongs
to the frame carries the ground hatching.
"""

import math
from collections.abc import Sequence

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen


def _pen(colour: QColor, width: float = 1.5) -> QPen:
    return QPen(colour, width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin)


def hatch(painter: QPainter, start: QPointF, end: QPointF, colour: QColor, side: float = 1.0) -> None:
    """A ground line with hatching on one side (the right of start → end for side 1)."""
    line = QLineF(start, end)
    painter.setPen(_pen(colour, 1.5))
    painter.drawLine(line)
    if line.length() == 0:
        return
    along = QPointF(line.dx(), line.dy()) / line.length()
    out = QPointF(-along.y(), along.x()) * side
    painter.setPen(_pen(colour, 1.0))
    count = max(2, int(line.length() // 4.5))
    feet = [start + along * (line.length() * i / count) for i in range(count + 1)]
    painter.drawLines([QLineF(foot, foot + out * 5 - along * 4) for foot in feet])


def revolute(painter: QPainter, ink: QColor, fill: QColor, grounded: bool) -> None:
    """A pin; to the frame with its stand and ground hatching."""
    if grounded:
        painter.setPen(_pen(ink))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawLine(QLineF(-2.5, 4.0, -7.5, 14.0))
        painter.drawLine(QLineF(2.5, 4.0, 7.5, 14.0))
        hatch(painter, QPointF(-11, 14), QPointF(11, 14), ink)
    painter.setPen(_pen(ink, 1.7))
    painter.setBrush(fill)
    painter.drawEllipse(QPointF(0, 0), 4.6, 4.6)


def prismatic(painter: QPainter, ink: QColor, fill: QColor, grounded: bool, angle: float) -> None:
    """A block on its line of travel at `angle` (rad, counter-clockwise); between hatched guides on the frame."""
    painter.save()
    painter.rotate(-math.degrees(angle))
    if grounded:
        hatch(painter, QPointF(20, -8), QPointF(-20, -8), ink)
        hatch(painter, QPointF(-20, 8), QPointF(20, 8), ink)
    painter.setPen(_pen(ink, 1.2))
    painter.drawLine(QLineF(-26, 0, 26, 0))
    painter.setPen(_pen(ink, 1.7))
    painter.setBrush(fill)
    painter.drawRect(QRectF(-11, -5.5, 22, 11))
    painter.restore()


def fixed(painter: QPainter, ink: QColor) -> None:
    """A rigid joint: a filled corner."""
    path = QPainterPath(QPointF(-6, 6))
    path.lineTo(6, 6)
    path.lineTo(-6, -6)
    path.closeSubpath()
    painter.setPen(_pen(ink, 1.2))
    painter.setBrush(ink)
    painter.drawPath(path)


def pin_slot(painter: QPainter, ink: QColor, fill: QColor, angle: float) -> None:
    """A pin between the cheeks of a slot that runs at `angle` (rad)."""
    painter.save()
    painter.rotate(-math.degrees(angle))
    painter.setPen(_pen(ink, 1.3))
    painter.drawLine(QLineF(-18, -6.5, 18, -6.5))
    painter.drawLine(QLineF(-18, 6.5, 18, 6.5))
    painter.setPen(_pen(ink, 1.7))
    painter.setBrush(fill)
    painter.drawEllipse(QPointF(0, 0), 4.6, 4.6)
    painter.restore()


def contact(painter: QPainter, ink: QColor, rolls: bool) -> None:
    """A contact of two edges: two arcs that touch, with a cross bar where they roll."""
    painter.setPen(_pen(ink, 1.5))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawArc(QRectF(-9, -18, 18, 18), 200 * 16, 140 * 16)
    painter.drawArc(QRectF(-9, 0, 18, 18), 20 * 16, 140 * 16)
    if rolls:
        painter.drawLine(QLineF(-6, 0, 6, 0))


def distance(painter: QPainter, ink: QColor, fill: QColor, other: QPointF) -> None:
    """A thin rod with a pin at each end, to another place."""
    rods(painter, ink, [QLineF(QPointF(0, 0), other)])
    for end in (QPointF(0, 0), other):
        rod_end(painter, ink, fill, end)


def rods(painter: QPainter, ink: QColor, lines: Sequence[QLineF]) -> None:
    """Thin rods, without the pins at their ends."""
    painter.setPen(_pen(ink, 1.2))
    painter.drawLines(lines)


def rod_end(painter: QPainter, ink: QColor, fill: QColor, at: QPointF) -> None:
    """The pin at the end of a thin rod."""
    painter.setPen(_pen(ink, 1.5))
    painter.setBrush(fill)
    painter.drawEllipse(at, 3.4, 3.4)


def wheels(painter: QPainter, ink: QColor, one: QPointF, two: QPointF, radii: tuple[float, float]) -> None:
    """Two wheels as their pitch circles (chain lines), as gearing is drawn in kinematic diagrams."""
    pen = _pen(ink, 1.1)
    pen.setDashPattern([9, 3, 1.5, 3])
    painter.setPen(pen)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for at, radius in zip((one, two), radii, strict=True):
        painter.drawEllipse(at, radius, radius)


def belt(
    painter: QPainter, ink: QColor, one: QPointF, two: QPointF, radii: tuple[float, float], crossed: bool
) -> None:
    """Two pulleys with the straight runs of their belt."""
    painter.setPen(_pen(ink, 1.3))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for at, radius in zip((one, two), radii, strict=True):
        painter.drawEllipse(at, radius, radius)
    gap = two - one
    far = math.hypot(gap.x(), gap.y())
    spread = radii[0] + radii[1] if crossed else radii[0] - radii[1]
    if far <= abs(spread):
        return
    along, lean = math.atan2(gap.y(), gap.x()), math.acos(spread / far)
    for side in (1, -1):
        out = QPointF(math.cos(along + side * lean), math.sin(along + side * lean))
        painter.drawLine(QLineF(one + out * radii[0], two + out * radii[1] * (-1 if crossed else 1)))


def ratio(painter: QPainter, ink: QColor, one: QPointF, two: QPointF) -> None:
    """Two coordinates tied by a number: a broken line between their joints, with a mark in its middle."""
    pen = _pen(ink, 1.1)
    pen.setDashPattern([2, 4])
    painter.setPen(pen)
    painter.drawLine(QLineF(one, two))
    middle = (one + two) / 2
    painter.setPen(_pen(ink, 1.3))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(QRectF(middle.x() - 5, middle.y() - 5, 10, 10))
    painter.drawLine(QLineF(middle.x() - 3, middle.y() + 3, middle.x() + 3, middle.y() - 3))


def draw(
    painter: QPainter,
    symbol: str,
    ink: QColor,
    fill: QColor,
    *,
    grounded: bool = False,
    angle: float = 0.0,
    other: QPointF | None = None,
) -> None:
    """A joint's symbol, by its key."""
    match symbol:
        case "pin":
            revolute(painter, ink, fill, grounded)
        case "slide":
            prismatic(painter, ink, fill, grounded, angle)
        case "weld":
            fixed(painter, ink)
        case "slot":
            pin_slot(painter, ink, fill, angle)
        case "rod":
            distance(painter, ink, fill, other if other is not None else QPointF(0, 0))
        case "contact" | "rolling":
            contact(painter, ink, rolls=symbol == "rolling")
        case "slide on an arc":
            prismatic(painter, ink, fill, False, angle)
        case _:
            raise ValueError(f"there is no symbol '{symbol}'")


def spring(painter: QPainter, ink: QColor) -> None:
    """What takes a joint back to its rest: a spring from beside it to a foot."""
    path = QPainterPath(QPointF(7, -7))
    for k in range(5):
        path.lineTo(10 + 2.4 * k + (2.2 if k % 2 else -2.2), -10 - 2.4 * k - (2.2 if not k % 2 else -2.2))
    path.lineTo(23, -23)
    painter.setPen(_pen(ink, 1.3))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPath(path)
    painter.drawLine(QLineF(19.5, -26.0, 26.5, -20.0))


def touch(painter: QPainter, ink: QColor, angle: float) -> None:
    """A place where outlines touch, with their common normal at `angle` (rad, counter-clockwise)."""
    painter.save()
    painter.rotate(-math.degrees(angle))
    painter.setPen(_pen(ink, 1.4))
    painter.drawLine(QLineF(-12, 0, 12, 0))
    painter.drawLine(QLineF(0, -6, 0, 6))
    painter.setBrush(ink)
    painter.drawEllipse(QPointF(0, 0), 2.4, 2.4)
    painter.restore()
