"""Boxes to choose in and to count in: the wheel over them scrolls what they stand in, and changes nothing."""

from PySide6.QtGui import QWheelEvent
from PySide6.QtWidgets import QComboBox, QDoubleSpinBox, QSlider, QSpinBox


class Unwheeled:
    """Leaves the wheel to what it stands in."""

    def wheelEvent(self, event: QWheelEvent) -> None:
        event.ignore()


class Choice(Unwheeled, QComboBox):
    """One of a few."""


class Count(Unwheeled, QSpinBox):
    """A whole number."""


class Amount(Unwheeled, QDoubleSpinBox):
    """A number."""


class Slide(Unwheeled, QSlider):
    """A place between two ends."""
