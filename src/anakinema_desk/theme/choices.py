"""Boxes to choose in and to count in: the wheel over them scrolls what they stand in, and changes nothing."""

from PySide6.QtCore import QPointF
from PySide6.QtGui import QKeyEvent, QPaintEvent, QPalette, QPen, QWheelEvent
from PySide6.QtWidgets import QAbstractSpinBox, QComboBox, QDoubleSpinBox, QSlider, QSpinBox

from .painting import painting


class Unwheeled:
    """Leaves the wheel to what it stands in."""

    def wheelEvent(self, event: QWheelEvent) -> None:
        event.ignore()


class Choice(Unwheeled, QComboBox):
    """One of a few. Letters choose nothing while its list is closed: they were meant for something else."""

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        with painting(self) as painter:  # the style's own arrow has an edge of another style
            colour = self.palette().color(QPalette.ColorRole.Text if self.isEnabled() else QPalette.ColorRole.Mid)
            painter.setPen(QPen(colour, 1.4))
            middle = QPointF(self.width() - 13.0, self.height() / 2)
            painter.drawPolyline([middle + QPointF(-4, -2), middle + QPointF(0, 2), middle + QPointF(4, -2)])

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.text().strip() and event.text().isprintable() and not self.view().isVisible():
            event.ignore()
        else:
            super().keyPressEvent(event)


class Count(Unwheeled, QSpinBox):
    """A whole number, typed or stepped by the arrow keys."""

    def __init__(self) -> None:
        super().__init__()
        self.setButtonSymbols(QAbstractSpinBox.ButtonSymbols.NoButtons)


class Amount(Unwheeled, QDoubleSpinBox):
    """A number."""


class Slide(Unwheeled, QSlider):
    """A place between two ends."""
