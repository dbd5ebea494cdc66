"""Boxes to choose in and to count in: the wheel over them scrolls what they stand in, and changes nothing."""

from PySide6.QtGui import QKeyEvent, QWheelEvent
from PySide6.QtWidgets import QComboBox, QDoubleSpinBox, QSlider, QSpinBox


class Unwheeled:
    """Leaves the wheel to what it stands in."""

    def wheelEvent(self, event: QWheelEvent) -> None:
        event.ignore()


class Choice(Unwheeled, QComboBox):
    """One of a few. Letters choose nothing while its list is closed: they were meant for something else."""

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.text().strip() and event.text().isprintable() and not self.view().isVisible():
            event.ignore()
        else:
            super().keyPressEvent(event)


class Count(Unwheeled, QSpinBox):
    """A whole number."""


class Amount(Unwheeled, QDoubleSpinBox):
    """A number."""


class Slide(Unwheeled, QSlider):
    """A place between two ends."""
