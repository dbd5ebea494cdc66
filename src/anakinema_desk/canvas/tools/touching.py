"""Contacts: two clicks let two parts touch and never pass."""


from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPen

from anakinema.errors import DocumentError
from anakinema.operations import touch, touch_all

from .. import marks
from ..context import ToolContext
from .base import Tool


class TouchTool(Tool):
    """A part, then the part that it may not pass; A for all that it meets."""

    name, title, keys = "contact", "Contact", "X"

    def __init__(self, context: ToolContext):
        super().__init__(context)
        self.first = ""
        """The part that was clicked first."""
        self.over = ""
        self.here = 0
        """How many parts lie under the mouse; Tab goes through them."""

    @property
    def hint(self) -> str:
        others = "Tab the part behind, Escape goes back" if self.here > 1 else "Escape goes back"
        if not self.first:
            return f"Contact: click a part that is not to pass another.  {others}"
        return f"Click the part that {self.first} may touch and not pass.  A all that it meets, {others}"

    def _part(self, at: QPointF) -> str:
        here = list(self.context.picking.parts(at))
        self.here = len(here)
        return here[self.context.picking.turn % len(here)].partition(".")[2] if here else ""

    def move(self, at: QPointF) -> None:
        super().move(at)
        self.over = self._part(at)
        self.context.update()

    def press(self, at: QPointF) -> None:
        document, part = self.session.document, self._part(at)
        if document is None:
            return
        if not part:
            self.session.message.emit("There is no part here; click on its outline or inside it")
        elif not self.first:
            self.first = part
        else:
            self._make(part)
        self.context.changed()

    def _make(self, other: str) -> None:
        """A contact with another part; with all that the first one meets where none is named."""
        document, first = self.session.document, self.first
        if document is None:
            return
        try:
            made = touch(document, first, other) if other else touch_all(document, first)
            with_whom = other or "all that it meets"
            faults = self.session.apply(made.changes, f"Contact of {first} with {with_whom}")
        except DocumentError as error:
            faults = error.faults
        if faults:
            self.session.faults_raised.emit("No contact made", faults)
            return
        self.session.selection.select(".".join(map(str, made.place)))
        self.first = ""

    def key(self, event: QKeyEvent) -> bool:
        if event.key() != Qt.Key.Key_A or not self.first:
            return False
        self._make("")
        self.context.changed()
        return True

    def tab(self, forward: bool) -> bool:
        if self.here < 2:
            return False
        self.context.picking.turn += 1 if forward else -1
        self.move(self.context.pixel(self.mouse))
        return True

    def cancel(self) -> bool:
        if not self.first:
            return False
        self.first = ""
        self.context.changed()
        return True

    def document_changed(self) -> None:
        super().document_changed()
        document = self.session.document
        if document is None or self.first not in document.parts:
            self.first = ""
        if document is None or self.over not in document.parts:
            self.over = ""

    def draw(self, painter: QPainter) -> None:
        document = self.session.document
        if document is None:
            return
        colour = QColor(self.context.tokens.accent)
        for part in dict.fromkeys(name for name in (self.first, self.over) if name):
            self.light(painter, document.parts[part])
        if self.first and self.over and self.over != self.first:
            spot = self.context.pixel(self.mouse) + QPointF(14, 16)
            painter.setPen(QPen(colour))
            marks.label(painter, self.context.tokens, spot, f"{self.first} and {self.over} never pass", colour)
