"""Tracing: a point leaves its path, on the frame or on a part that moves."""

from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter

from anakinema.operations import trace_point

from .base import FromFeature


class TraceTool(FromFeature):
    """A feature, then the part from which it is seen; the frame where that is clicked, or nothing."""

    name, title, keys = "trace", "Trace", "E"

    @property
    def hint(self) -> str:
        if self.first is None:
            return "Trace: click the point that is to leave a path.  Escape goes back"
        return "Click the part on which the path is to lie; the frame or the empty bench: as seen from the frame"

    def press(self, at: QPointF) -> None:
        document = self.session.document
        if document is None:
            return
        first = self.first
        if first is None:
            self.first = self.snap(at).grab
            if self.first is None:
                self.session.message.emit("There is no feature here; a hole or an end is one, a corner, a middle")
        else:
            kind, _, part = self.context.picking.part(at).partition(".")
            on = part if kind == "parts" and not document.parts[part].fixed else ""
            self.make(lambda: trace_point(document, first, on), "Trace", "Not traced")
        self.context.changed()

    def draw(self, painter: QPainter) -> None:
        if self.now is not None and self.first is None:
            self.mark(painter, self.now, True)
