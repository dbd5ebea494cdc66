"""Widgets that keep how they look, because what lies beneath them is painted many times a second."""

from PySide6.QtCore import QEvent
from PySide6.QtGui import QPaintEvent, QPixmap
from PySide6.QtWidgets import QStyle, QStyleOptionToolButton, QToolButton

from .painting import clear, painting

LOOKS = (QEvent.Type.StyleChange, QEvent.Type.PaletteChange, QEvent.Type.FontChange)


class KeptButton(QToolButton):
    """A tool button over the bench. It is painted with every frame of that, and drawing it by its style takes twenty
    times as long as putting down a picture."""

    def __init__(self) -> None:
        super().__init__()
        self._picture = QPixmap()
        self._shows: tuple[object, ...] = ()
        """What the picture is of."""

    def paintEvent(self, event: QPaintEvent) -> None:
        option = QStyleOptionToolButton()
        self.initStyleOption(option)
        ratio = self.devicePixelRatioF()
        shows = (option.state.value, option.text, option.icon.cacheKey(), self.size(), ratio)
        if shows != self._shows:
            self._picture = clear(self.size(), ratio)
            with painting(self._picture, smooth=False) as inner:
                self.style().drawComplexControl(QStyle.ComplexControl.CC_ToolButton, option, inner, self)
            self._shows = shows
        with painting(self, smooth=False) as painter:
            painter.drawPixmap(0, 0, self._picture)

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() in LOOKS:
            self._shows = ()
