"""Painting that can't leave a painter open, whatever happens in between."""

from collections.abc import Iterator
from contextlib import contextmanager

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QPaintDevice, QPainter, QPixmap


@contextmanager
def painting(device: QPaintDevice, smooth: bool = True) -> Iterator[QPainter]:
    """A painter on a widget or a picture; ended even when the painting raises, for a painter left open ends the
    program."""
    painter = QPainter(device)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, smooth)
    try:
        yield painter
    finally:
        painter.end()


def clear(size: QSize, ratio: float) -> QPixmap:
    """An empty picture of so many pixels, for a screen that has `ratio` real ones for each."""
    pixmap = QPixmap(size * ratio)
    pixmap.setDevicePixelRatio(ratio)
    pixmap.fill(Qt.GlobalColor.transparent)
    return pixmap
