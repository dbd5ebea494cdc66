"""Painting that can't leave a painter open, whatever happens in between."""

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QPaintDevice, QPainter, QPixmap


class painting:
    """A painter on a widget or a picture; ended even when the painting raises, for a painter left open ends the
    program. (A function with `contextmanager` takes twice as long, and a frame has forty of them.)"""

    def __init__(self, device: QPaintDevice, smooth: bool = True):
        self.painter = QPainter(device)
        if smooth:
            self.painter.setRenderHint(QPainter.RenderHint.Antialiasing)

    def __enter__(self) -> QPainter:
        return self.painter

    def __exit__(self, *_: object) -> None:
        self.painter.end()


def clear(size: QSize, ratio: float, opaque: bool = False) -> QPixmap:
    """An empty picture of so many pixels, for a screen that has `ratio` real ones for each."""
    pixmap = QPixmap(size * ratio)
    pixmap.setDevicePixelRatio(ratio)
    pixmap.fill(Qt.GlobalColor.white if opaque else Qt.GlobalColor.transparent)
    return pixmap
