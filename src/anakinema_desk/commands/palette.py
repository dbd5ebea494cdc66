"""The command palette, and the lists that are chosen from in the same way: type a few letters, press Enter."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QApplication, QFrame, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget
from shiboken6 import isValid

from ..theme.labels import Label, tip
from .registry import Registry

MOST = 200
"""Lines that are listed at once."""


@dataclass(frozen=True)
class Line:
    """A line of the list: its text, what stands behind it, what it is about, and what it does."""

    text: str
    run: Callable[[], object]
    more: str = ""
    hint: str = ""
    also: str = ""
    """Words by which it is found besides its text."""


class Palette(QFrame):
    """A search field over a list: of all commands that can run now and all things by name, or of what is to be chosen
    from."""

    def __init__(self, registry: Registry, parent: QWidget, things: Callable[[], Sequence[Line]] = tuple):
        super().__init__(parent)
        self.setObjectName("palette")
        self.registry, self._window, self.things = registry, parent, things
        self._lines: Sequence[Line] = ()
        self._found: list[Line] = []
        self._before: QWidget | None = None
        """What had the keyboard before it was opened."""
        self.field = QLineEdit()
        self.list = QListWidget()
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        hint = Label("↑ ↓ choose    Enter takes it    Esc closes")
        hint.setProperty("role", "muted")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(10, 10, 10, 8)
        layout.addWidget(self.field)
        layout.addWidget(self.list)
        layout.addWidget(hint)
        self.field.textChanged.connect(self.search)
        self.field.installEventFilter(self)
        self.list.itemClicked.connect(lambda _: self.run())
        self.hide()

    def open(self) -> None:
        """Shows all commands and things over the window, ready to type."""
        self.registry.refresh()
        lines = []
        for name, command in self.registry.commands.items():
            action = self.registry.actions[name]
            if action.isEnabled() and name != "palette":
                lines.append(Line(command.text.rstrip("…"), action.trigger, action.shortcut().toString(), command.hint,
                                  command.menu))  # fmt: skip
        self.choose("What do you want to do?", [*lines, *self.things()], "Find a command")

    def look_for(self) -> None:
        """Shows all things by name."""
        self.choose("Find a part, a joint, a point, a parameter, a check…", self.things(), "Find a thing")

    def choose(self, wanted: str, lines: Sequence[Line], name: str) -> None:
        """Shows lines to choose from, empty and ready to type; `name` is what it is called aloud."""
        parent = self._window
        self._lines = lines
        self.field.setPlaceholderText(wanted)
        self.field.setAccessibleName(name)
        self.list.setAccessibleName(f"{name}: found")
        self._before = QApplication.focusWidget()
        width = min(520, parent.width() - 40)
        self.setGeometry((parent.width() - width) // 2, 56, width, 100)
        self.field.clear()
        self.search("")
        self.show()
        self.raise_()
        self.field.setFocus()

    def close(self) -> bool:
        """Takes it away; the keyboard is where it was."""
        before, self._before = self._before, None
        if before is not None and isValid(before) and before.isVisible() and self.field.hasFocus():
            before.setFocus()  # before the field goes, for else the next best has it
        self.hide()
        return True

    def search(self, text: str) -> None:
        """Lists the lines in which the letters occur in order, nearest first."""
        self.list.clear()
        scored = [(score, order, line) for order, line in enumerate(self._lines)
                  if (score := match(text, f"{line.also} {line.text}")) is not None]  # fmt: skip
        self._found = [line for _, _, line in sorted(scored, key=lambda each: each[:2])][:MOST]
        for line in self._found:
            item = QListWidgetItem(f"{line.text}    {line.more}" if line.more else line.text)
            item.setToolTip(tip(line.hint or line.text))
            self.list.addItem(item)
        self.list.setCurrentRow(0)
        rows = self.list.count() * max(self.list.sizeHintForRow(0), 1) + 8
        self.list.setFixedHeight(min(rows, self._window.height() - 240))
        self.adjustSize()
        self.resize(min(520, self._window.width() - 40), self.sizeHint().height())

    def run(self) -> None:
        """Does what the chosen line does."""
        row = self.list.currentRow()
        self.close()
        if 0 <= row < len(self._found):
            self._found[row].run()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self.field and event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            row, last = self.list.currentRow(), self.list.count() - 1
            match event.key():
                case Qt.Key.Key_Escape:
                    self.close()
                case Qt.Key.Key_Return | Qt.Key.Key_Enter:
                    self.run()
                case Qt.Key.Key_Down:
                    self.list.setCurrentRow(min(row + 1, last))
                case Qt.Key.Key_Up:
                    self.list.setCurrentRow(max(row - 1, 0))
                case _:
                    return False
            return True
        if watched is self.field and event.type() == QEvent.Type.FocusOut:
            self.hide()
        return super().eventFilter(watched, event)


def match(wanted: str, text: str) -> float | None:
    """How far apart the wanted letters lie in a text (less is better), or None when they don't occur in order."""
    text, at, gaps = text.lower(), -1, 0.0
    for letter in wanted.lower().replace(" ", ""):
        following = text.find(letter, at + 1)
        if following < 0:
            return None
        gaps += following - at - 1 if at >= 0 else 0.1 * following
        at = following
    return gaps
