"""Painting that can't leave a painter open, whatever happens in between."""

from collections.abc import Iterator
from contextlib import contextmanager

from PySide6.QtGui import QPaintDevice, QPainter


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
