"""What lies on a view, in a place that follows the view's size."""

from PySide6.QtCore import QEvent, QObject
from PySide6.QtWidgets import QFrame, QWidget


class Overlay(QFrame):
    """A card on a bench, hidden at first. `place` puts it where it belongs; that is asked again when the bench changes
    its size."""

    def __init__(self, bench: QWidget) -> None:
        super().__init__(bench)
        self.bench = bench
        bench.installEventFilter(self)
        self.hide()

    def place(self) -> None:
        raise NotImplementedError

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Resize and self.isVisible():
            self.place()
        return False
