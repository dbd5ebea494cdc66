"""Where the keyboard is. The bench has it unless it is typed into a field: there letters are letters, Enter and Escape
give it back, and what is still being typed when a field goes away starts nothing."""

import time
from collections.abc import Sequence

from PySide6.QtCore import QEvent, QObject, QPoint, QRect, QSize, Qt, QTimer
from PySide6.QtGui import QKeyEvent, QKeySequence, QPalette
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QFrame,
    QLineEdit,
    QWidget,
)
from shiboken6 import isValid

from .canvas.canvas import Canvas
from .panels.fields import ExpressionField

RUN = 0.8
"""Seconds between two letters of one run of typing."""
LINE = 3
"""Thickness of the line over the place that has the keyboard (pixels)."""
HELD = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier | Qt.KeyboardModifier.MetaModifier
ENTER = (Qt.Key.Key_Return, Qt.Key.Key_Enter)
STANDARD = QKeySequence.StandardKey


class Keyboard(QObject):
    """Watches whichever widget of a window has the keyboard. Of its `places`, in their order, letters are shortcuts on
    the bench and in those that only show; in `panels`, where things are typed, they never are. What stands in none of
    them looks after its own keys."""

    def __init__(self, window: QWidget, bench: Canvas, places: Sequence[QWidget], panels: Sequence[QWidget]):
        super().__init__(window)
        self.window, self.bench, self.places, self.panels = window, bench, places, panels
        self._typed = 0.0
        """When the last letter of a run was typed into a field; 0 after what ends one."""
        self._has: QWidget | None = None
        self.here = QFrame(window)
        """A line over the place to which the keyboard was taken by keys."""
        self.here.setBackgroundRole(QPalette.ColorRole.Highlight)
        self.here.setAutoFillBackground(True)
        self.here.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.here.hide()
        application = QApplication.instance()
        assert isinstance(application, QApplication)
        application.focusChanged.connect(self._goes)

    def give_back(self) -> None:
        """To the bench."""
        self._typed = 0.0
        self.bench.setFocus(Qt.FocusReason.OtherFocusReason)

    def next_place(self, way: int) -> None:
        """From the bench to the make-up, the card, what stands below, and round; backward for −1."""
        stops = [(place, stop) for place in self.places if place.isVisible() and (stop := self._stop(place))]
        at = next((n for n, (place, _) in enumerate(stops) if self._has and _holds(place, self._has)), 0)
        place, stop = stops[(at + way) % len(stops)]
        stop.setFocus(Qt.FocusReason.TabFocusReason)
        self.here.setGeometry(QRect(place.mapTo(self.window, QPoint(0, 0)), QSize(place.width(), LINE)))
        self.here.show()
        self.here.raise_()

    def _stop(self, place: QWidget) -> QWidget | None:
        """What takes the keyboard first in a place."""
        if place is self.bench or isinstance(place, QAbstractItemView):
            return place
        # By its children: PySide takes what nextInFocusChain gives for a child of its giver, and they die together.
        inside = (widget for widget in place.findChildren(QWidget) if widget.isVisible() and widget.isEnabled())
        return next((widget for widget in inside if widget.focusPolicy() & Qt.FocusPolicy.TabFocus), None)

    # -- what happens --------------------------------------------------------------------------------------------

    def _goes(self, old: QWidget | None, new: QWidget | None) -> None:
        """The keyboard goes from one widget to another."""
        if old is not None and isValid(old):
            old.removeEventFilter(self)
        self._has = None
        self.here.hide()
        pressed = QApplication.mouseButtons() != Qt.MouseButton.NoButton
        if pressed:
            self._typed = 0.0
        if new is None or not isValid(self.window) or not self.window.isAncestorOf(new):
            return
        self._has = new
        new.installEventFilter(self)
        once = Qt.ConnectionType.SingleShotConnection
        if isinstance(new, QAbstractButton) and pressed:  # it has been clicked: it wants no keys
            new.released.connect(lambda: QTimer.singleShot(0, new, lambda: self._clicked(new)), once)
        elif isinstance(new, QComboBox) and pressed:
            new.activated.connect(lambda _: self._clicked(new), once)

    def _clicked(self, widget: QWidget) -> None:
        if isValid(widget) and widget.hasFocus():
            self.give_back()

    def eventFilter(self, widget: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.MouseButtonPress:
            self.here.hide()
        if event.type() not in (QEvent.Type.ShortcutOverride, QEvent.Type.KeyPress):
            return False
        if not isinstance(event, QKeyEvent) or not isinstance(widget, QWidget) or widget is not self._has:
            return False
        panel = isinstance(widget, ExpressionField) or any(_holds(place, widget) for place in self.panels)
        if not panel and not any(_holds(place, widget) for place in self.places):
            return False
        if event.type() == QEvent.Type.ShortcutOverride:
            return self._claims(widget, event, panel)
        return self._pressed(widget, event, panel)

    def _claims(self, widget: QWidget, event: QKeyEvent, panel: bool) -> bool:
        """Whether a key that may be a shortcut belongs to the widget instead."""
        if isinstance(widget, QLineEdit) and (event.matches(STANDARD.Undo) or event.matches(STANDARD.Redo)):
            if widget.isModified():
                event.accept()
            else:  # nothing is being typed: it is the model that is meant
                event.ignore()
            return True
        if not _plain(event):
            return False
        if isinstance(widget, QAbstractButton) and event.key() == Qt.Key.Key_Space:
            event.accept()  # it presses the button
            return True
        tool = self.bench.tool
        if panel or self._running() or (widget is self.bench and tool is not None and tool.typing):
            event.accept()
            return True
        return False

    def _running(self) -> bool:
        """Whether a run of typing that began in a field goes on."""
        return bool(self._typed) and time.monotonic() - self._typed < RUN

    def _pressed(self, widget: QWidget, event: QKeyEvent, panel: bool) -> bool:
        """A key that is no shortcut now; whether the widget shall not see it."""
        text = isinstance(widget, (QLineEdit, QAbstractSpinBox))
        if _plain(event):
            if text:
                self._typed = time.monotonic()
                return False
            if self._running():
                self._typed = time.monotonic()
                return True
            return False
        if event.key() in (Qt.Key.Key_Tab, Qt.Key.Key_Backtab, *ENTER, Qt.Key.Key_Escape):
            self._typed = 0.0
        if isinstance(widget, ExpressionField) and event.matches(STANDARD.Undo):
            widget.take_back()
            return True
        if not panel or event.key() not in (*ENTER, Qt.Key.Key_Escape) or event.modifiers() & HELD:
            return False
        above = widget.parentWidget()
        if isinstance(widget, QLineEdit) and above is not None and isinstance(above.parentWidget(), QAbstractItemView):
            return False  # the editor of a cell belongs to its table
        widget.keyPressEvent(event)
        event.accept()
        if isValid(widget) and widget.hasFocus() and (event.key() == Qt.Key.Key_Escape or not widget.property("wrong")):
            self.give_back()
        return True


def _plain(event: QKeyEvent) -> bool:
    """Whether a key is a letter, figure or sign, or the space bar."""
    return not event.modifiers() & HELD and bool(event.text()) and event.text().isprintable()



def _holds(place: QWidget, widget: QWidget) -> bool:
    return place is widget or place.isAncestorOf(widget)
