"""The command palette: type a few letters of what you want, press Enter."""

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QApplication, QFrame, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget
from shiboken6 import isValid

from ..theme.labels import Label, tip
from .registry import Registry


class Palette(QFrame):
    """A search field over a list of all commands that can run now."""

    def __init__(self, registry: Registry, parent: QWidget):
        super().__init__(parent)
        self.setObjectName("palette")
        self.registry, self._window = registry, parent
        self._before: QWidget | None = None
        """What had the keyboard before it was opened."""
        self.field = QLineEdit()
        self.field.setPlaceholderText("What do you want to do?")
        self.field.setAccessibleName("Find a command")
        self.list = QListWidget()
        self.list.setAccessibleName("Commands found")
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        hint = Label("↑ ↓ choose    Enter runs    Esc closes")
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
        """Shows the palette over the window, empty and ready to type."""
        parent = self._window
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
        """Lists the commands in which the letters occur in order, nearest first."""
        self.registry.refresh()
        self.list.clear()
        found = []
        for order, (name, command) in enumerate(self.registry.commands.items()):
            action = self.registry.actions[name]
            score = match(text, f"{command.menu} {command.text}")
            if score is not None and action.isEnabled() and name != "palette":
                found.append((score, order, name))
        for _, _, name in sorted(found):
            command, action = self.registry.commands[name], self.registry.actions[name]
            keys = action.shortcut().toString()
            item = QListWidgetItem(f"{command.text.rstrip('…')}    {keys}" if keys else command.text.rstrip("…"))
            item.setData(Qt.ItemDataRole.UserRole, name)
            item.setToolTip(tip(command.hint))
            self.list.addItem(item)
        self.list.setCurrentRow(0)
        rows = self.list.count() * max(self.list.sizeHintForRow(0), 1) + 8
        self.list.setFixedHeight(min(rows, self._window.height() - 240))
        self.adjustSize()
        self.resize(min(520, self._window.width() - 40), self.sizeHint().height())

    def run(self) -> None:
        """Runs the chosen command."""
        item = self.list.currentItem()
        self.close()
        if item is not None:
            self.registry.actions[item.data(Qt.ItemDataRole.UserRole)].trigger()

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
