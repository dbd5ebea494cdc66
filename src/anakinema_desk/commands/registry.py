"""Every action once: id, text, shortcut, menu. Menus, shortcuts and the palette are made from this registry."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMenu, QMenuBar, QWidget

from ..theme.labels import tip


@dataclass(frozen=True)
class Command:
    """An action. `menu` is the menu it stands in; `checked` makes it a switch; `enabled` tells if it can run now."""

    id: str
    text: str
    menu: str
    run: Callable[[], object]
    """What it gives is not used."""
    keys: str = ""
    enabled: Callable[[], bool] = lambda: True
    checked: Callable[[], bool] | None = None
    divider: bool = False
    """Whether a line stands above it in the menu."""
    hint: str = ""


class Registry:
    """The commands of a window, each with one `QAction`."""

    def __init__(self, window: QWidget):
        self.window = window
        self.commands: dict[str, Command] = {}
        self.actions: dict[str, QAction] = {}

    def add(self, commands: Iterable[Command]) -> None:
        """Registers commands and gives their shortcuts to the window."""
        for command in commands:
            if command.id in self.commands:
                raise ValueError(f"command '{command.id}' is registered twice")
            action = QAction(command.text, self.window)
            if command.keys:
                action.setShortcuts([QKeySequence(keys) for keys in command.keys.split(" | ")])
            action.setCheckable(command.checked is not None)
            action.setToolTip(tip(command.hint or command.text))
            action.triggered.connect(lambda _=False, chosen=command: chosen.run())
            self.window.addAction(action)
            self.commands[command.id] = command
            self.actions[command.id] = action

    def fill(self, bar: QMenuBar, order: Iterable[str]) -> dict[str, QMenu]:
        """Makes the menus of a menu bar."""
        menus = {}
        for title in order:
            menu = bar.addMenu(title)
            menus[title] = menu
            for command in self.commands.values():
                if command.menu == title:
                    if command.divider:
                        menu.addSeparator()
                    menu.addAction(self.actions[command.id])
        return menus

    def refresh(self) -> None:
        """Brings every action's state up to date."""
        for name, command in self.commands.items():
            self.actions[name].setEnabled(command.enabled())
            if command.checked is not None:
                self.actions[name].setChecked(command.checked())
