"""Boxes to choose in and to count in: the wheel over them scrolls what they stand in, and changes nothing."""

from PySide6.QtGui import QWheelEvent
from PySide6.QtWidgets import QComboBox, QDoubleSpinBox, QSlider, QSpinBox


class Choice(QComboBox):
    """One of a few."""

    def wheelEvent(self, event: QWheelEvent) -> None:
        event.ignore()


class Count(QSpinBox):
    """A whole number."""

    def wheelEvent(self, event: QWheelEvent) -> None:
        event.ignore()


class Amount(QDoubleSpinBox):
    """A number."""

    def wheelEvent(self, event: QWheelEvent) -> None:
        event.ignore()


class Slide(QSlider):
    """A place between two ends."""

    def wheelEvent(self, event: QWheelEvent) -> None:
        event.ignore()
