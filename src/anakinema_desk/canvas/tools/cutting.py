"""Cutting: a line across the plan along which the stack is cut, for the depth view."""

from PySide6.QtCore import QPointF
from PySide6.QtGui import QColor, QPainter, QPen

from .. import marks
from ..context import ToolContext
from .base import Tool

LEAST = 6.0
"""How far apart two clicks must be to make a line (pixels)."""


class CutTool(Tool):
    """Two clicks; the depth view looks from the side to the right of the line."""

    name, title, keys = "cut-line", "Cut along a line", "Alt+L"

    def __init__(self, context: ToolContext):
        super().__init__(context)
        self.first: complex | None = None

    @property
    def hint(self) -> str:
        if self.first is None:
            return "Cut: click where the line begins; the depth view looks from its right.  Escape goes back"
        return "Click where the line goes"

    def press(self, at: QPointF) -> None:
        spot = self.snap(at).at
        if self.first is None:
            self.first = spot
        elif abs(spot - self.first) * self.context.scale > LEAST:
            self.session.display_state.cut_along((self.first, spot))
            self.first = None
            self.session.message.emit("The stack is cut: look at it in the depth view (Alt+2)")
        self.context.changed()

    def cancel(self) -> bool:
        held, self.first = self.first is not None, None
        return held

    def draw(self, painter: QPainter) -> None:
        if self.now is None:
            return
        self.mark(painter, self.now, True)
        if self.first is not None and abs(self.now.at - self.first) * self.context.scale > LEAST:
            marks.cut(painter, self.context.tokens, self.context.viewport, self.first, self.now.at)
        elif self.first is not None:
            painter.setPen(QPen(QColor(self.context.tokens.accent), 1.4))
            painter.drawEllipse(self.context.pixel(self.first), 4.0, 4.0)
