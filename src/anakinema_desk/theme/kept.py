"""Widgets that keep how they look, because what lies beneath them is painted many times a second."""

from PySide6.QtCore import QEvent
from PySide6.QtGui import QPaintEvent, QPixmap
from PySide6.QtWidgets import QStyle, QStyleOptionToolButton, QToolButton

from .labels import Label
from .painting import clear, painting

ROOM = 48
"""Pixels that a text may be narrower than its label before that takes its width."""
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


class SteadyLabel(Label):
    """A label whose text changes with every frame. Its size is fixed, for else all layouts around it are worked out
    anew each time; it changes only where the text needs it to, or leaves much room."""

    def setText(self, text: str) -> None:
        wide = self.fontMetrics().horizontalAdvance(text)
        if not wide <= self.width() <= wide + ROOM or self.minimumWidth() != self.width():
            self.setFixedSize(wide, self.fontMetrics().height())
        super().setText(text)
