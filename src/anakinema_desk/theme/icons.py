"""Icons drawn from paths, so that they are sharp at every scale and take the colours of the theme."""

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QIcon, QIconEngine, QPainter, QPainterPath, QPen, QPixmap

from .painting import painting

Draw = Callable[[QPainter, QColor], None]


def _filled(*points: tuple[float, float]) -> Draw:
    def draw(painter: QPainter, colour: QColor) -> None:
        path = QPainterPath(QPointF(*points[0]))
        for point in points[1:]:
            path.lineTo(*point)
        path.closeSubpath()
        painter.fillPath(path, colour)

    return draw


def _stroked(*lines: tuple[tuple[float, float], ...]) -> Draw:
    def draw(painter: QPainter, colour: QColor) -> None:
        painter.setPen(QPen(colour, 1.6, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin))
        for line in lines:
            path = QPainterPath(QPointF(*line[0]))
            for point in line[1:]:
                path.lineTo(*point)
            painter.drawPath(path)

    return draw


def _both(*draws: Draw) -> Draw:
    def draw(painter: QPainter, colour: QColor) -> None:
        for each in draws:
            each(painter, colour)

    return draw


def _loop(painter: QPainter, colour: QColor) -> None:
    painter.setPen(QPen(colour, 1.6, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    painter.drawArc(QRectF(3.5, 4, 9, 9), 120 * 16, 300 * 16)
    painter.fillPath(_triangle((4.0, 2.0), (9.0, 3.6), (5.0, 7.0)), colour)


def _triangle(*points: tuple[float, float]) -> QPainterPath:
    path = QPainterPath(QPointF(*points[0]))
    for point in points[1:]:
        path.lineTo(*point)
    path.closeSubpath()
    return path


# Drawn in a square of 16 × 16.
ICONS: dict[str, Draw] = {
    "play": _filled((4.5, 2.5), (13, 8), (4.5, 13.5)),
    "pause": _both(
        _filled((4, 3), (6.8, 3), (6.8, 13), (4, 13)), _filled((9.2, 3), (12, 3), (12, 13), (9.2, 13))
    ),
    "to-start": _both(_filled((3, 3), (4.8, 3), (4.8, 13), (3, 13)), _filled((13, 3), (13, 13), (5.5, 8))),
    "step-back": _both(_filled((9.5, 3), (9.5, 13), (2.8, 8)), _filled((11.2, 3), (13, 3), (13, 13), (11.2, 13))),
    "step-on": _both(_filled((6.5, 3), (6.5, 13), (13.2, 8)), _filled((3, 3), (4.8, 3), (4.8, 13), (3, 13))),
    "loop": _loop,
    "bounce": _stroked(((3, 8), (13, 8)), ((5.5, 5), (2.5, 8), (5.5, 11)), ((10.5, 5), (13.5, 8), (10.5, 11))),
    "fit": _stroked(
        ((2.5, 6), (2.5, 2.5), (6, 2.5)),
        ((10, 2.5), (13.5, 2.5), (13.5, 6)),
        ((13.5, 10), (13.5, 13.5), (10, 13.5)),
        ((6, 13.5), (2.5, 13.5), (2.5, 10)),
    ),
    "zoom-in": _stroked(((8, 3), (8, 13)), ((3, 8), (13, 8))),
    "zoom-out": _stroked(((3, 8), (13, 8)),),
    "close": _stroked(((4, 4), (12, 12)), ((12, 4), (4, 12))),
    "next": _stroked(((5.5, 3), (10.5, 8), (5.5, 13)),),
}


class _Engine(QIconEngine):
    def __init__(self, draw: Draw, colour: QColor):
        super().__init__()
        self._draw, self._colour = draw, colour

    def paint(self, painter: QPainter, rect, mode, state) -> None:  # type: ignore[no-untyped-def]
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        side = min(rect.width(), rect.height())
        painter.translate(rect.x() + (rect.width() - side) / 2, rect.y() + (rect.height() - side) / 2)
        painter.scale(side / 16, side / 16)
        colour = QColor(self._colour)
        if mode == QIcon.Mode.Disabled:
            colour.setAlphaF(0.4)
        self._draw(painter, colour)
        painter.restore()

    def pixmap(self, size: QSize, mode, state) -> QPixmap:  # type: ignore[no-untyped-def]
        pixmap = QPixmap(size)
        pixmap.fill(Qt.GlobalColor.transparent)
        with painting(pixmap, smooth=False) as painter:
            self.paint(painter, pixmap.rect(), mode, state)
        return pixmap

    def clone(self) -> QIconEngine:
        return _Engine(self._draw, self._colour)


def icon(name: str, colour: str) -> QIcon:
    """The named icon in a colour."""
    return QIcon(_Engine(ICONS[name], QColor(colour)))
