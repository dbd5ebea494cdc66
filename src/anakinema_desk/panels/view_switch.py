"""The three ways to look at the mechanism, as buttons in a corner of the bench."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QStackedWidget, QToolButton

from ..commands.registry import Registry
from ..theme.labels import tip
from .overlay import Overlay

WAYS = ("plan", "depth", "lifted")
IN_DEPTH = ("spread", "cut-stack")
SHORT = {"spread": "Evenly", "cut-stack": "Cut"}


class ViewSwitch(Overlay):
    """Plan, Depth and Lifted; in the depth view how the layers are drawn as well."""

    def __init__(self, bench: QStackedWidget, registry: Registry):
        super().__init__(bench)
        self.registry, self.stack = registry, bench
        self.buttons: dict[str, QToolButton] = {}
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(2)
        for name in (*WAYS, *IN_DEPTH):
            button = QToolButton()
            action = registry.actions[name]
            button.setText(SHORT.get(name, action.text()))
            button.setCheckable(True)
            button.clicked.connect(action.trigger)
            action.changed.connect(self._follow)
            button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextOnly)
            button.setToolTip(tip(f"{registry.commands[name].hint}  ({registry.actions[name].shortcut().toString()})"))
            button.setProperty("role", "tool")
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            self.buttons[name] = button
            row.addWidget(button)
        bench.currentChanged.connect(lambda _: self.place())
        self.show()
        self.place()

    def place(self) -> None:
        """In the lower right corner, with what suits the view."""
        depth = self.stack.currentIndex() == 1
        for name in IN_DEPTH:
            self.buttons[name].setVisible(depth)
        self.adjustSize()
        self.move(self.bench.width() - self.width() - 10, self.bench.height() - self.height() - 10)
        self.raise_()

    def _follow(self) -> None:
        """The buttons stand as their commands do."""
        for name, button in self.buttons.items():
            button.setChecked(self.registry.actions[name].isChecked())
            button.setEnabled(self.registry.actions[name].isEnabled())
