"""The seams between views, which can be dragged."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QPaintEvent, QPalette
from PySide6.QtWidgets import QSplitter, QSplitterHandle

from .painting import painting


class Seam(QSplitterHandle):
    """A thin line between two views."""

    def paintEvent(self, event: QPaintEvent) -> None:
        with painting(self, smooth=False) as painter:
            painter.fillRect(self.rect(), self.palette().color(QPalette.ColorRole.Mid))


class Views(QSplitter):
    """Views side by side or one over the other. Its seams are painted here, for a style sheet that says how they look
    would be one for all the views, too."""

    def __init__(self, orientation: Qt.Orientation):
        super().__init__(orientation)
        self.setHandleWidth(1)

    def createHandle(self) -> QSplitterHandle:
        return Seam(self.orientation(), self)
