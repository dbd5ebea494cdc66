"""The buttons over the bench: the tools for building in one corner, fit and zoom in the other."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QToolButton, QWidget

from ..canvas.canvas import Canvas
from ..canvas.tools import AT_HAND
from ..commands.registry import Registry
from ..theme.icons import icon
from ..theme.kept import KeptButton
from ..theme.labels import tip
from ..theme.tokens import Tokens

VIEWS = ("zoom-out", "zoom-in", "fit")
TOOL_ROW = 34.0
"""Height of a second row of tools (pixels)."""
ONE_ROW = 640
"""Width of the bench (pixels) from which its tools stand in one row."""


class BenchTools:
    """Lays the buttons over a bench."""

    def __init__(self, canvas: Canvas, registry: Registry):
        self.canvas, self.registry = canvas, registry
        over = QHBoxLayout(canvas)
        over.setContentsMargins(0, 0, 0, 0)
        over.addWidget(self._tools(), alignment=Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft)
        over.addWidget(self._corner(), alignment=Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignRight)

    def _corner(self) -> QWidget:
        corner = QWidget(self.canvas)
        row = QHBoxLayout(corner)
        row.setContentsMargins(6, 6, 6, 6)
        row.setSpacing(1)
        for name in VIEWS:
            action = self.registry.actions[name]
            action.setIconVisibleInMenu(False)
            button = KeptButton()
            button.setDefaultAction(action)
            button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonIconOnly)
            button.setToolTip(tip(f"{action.text()}  ({action.shortcut().toString()})"))
            button.setAccessibleName(action.text())
            row.addWidget(button)
        return corner

    def set_tokens(self, tokens: Tokens) -> None:
        """Takes a theme."""
        for name in VIEWS:
            self.registry.actions[name].setIcon(icon(name, tokens.muted))

    def _tools(self) -> QWidget:
        """The tools for building, in the order of the work."""
        tools = QWidget(self.canvas)
        self.rows = QGridLayout(tools)
        self.rows.setContentsMargins(6, 6, 6, 6)
        self.rows.setSpacing(1)
        self.buttons: list[QToolButton] = []
        for name in (*(f"tool-{tool}" for tool in AT_HAND), "drive"):
            action = self.registry.actions[name]
            button = KeptButton()
            button.setDefaultAction(action)
            button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextOnly)
            button.setToolTip(tip(f"{self.registry.commands[name].hint}  ({action.shortcut().toString()})"))
            button.setProperty("role", "tool")
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)  # the bench keeps the keys when one is clicked
            self.buttons.append(button)
        self.lay()
        return tools

    def lay(self) -> None:
        """The tools in one row, or in two where the bench is narrow."""
        count = len(self.buttons)
        columns = count if self.canvas.width() > ONE_ROW else (count + 1) // 2
        if self.rows.count() == count and self.rows.itemAtPosition(0, columns - 1) is not None and (
            self.rows.itemAtPosition(0, columns) is None
        ):
            return
        self.canvas.covered = 0.0 if columns == count else TOOL_ROW
        for number, button in enumerate(self.buttons):
            self.rows.addWidget(button, number // columns, number % columns)
