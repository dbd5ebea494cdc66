"""Tracing: a point leaves its path, on the frame or on a part that moves."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter

from anakinema.errors import DocumentError
from anakinema.operations import Grab, trace_point

from .base import Tool

if TYPE_CHECKING:
    from ..bench import Bench


class TraceTool(Tool):
    """A feature, then the part from which it is seen; the frame where that is clicked, or nothing."""

    name, title, keys = "trace", "Trace", "E"

    def __init__(self, bench: "Bench"):
        super().__init__(bench)
        self.first: Grab | None = None

    @property
    def hint(self) -> str:
        if self.first is None:
            return "Trace: click the point that is to leave a path.  Escape goes back"
        return "Click the part on which the path is to lie; the frame or the empty bench: as seen from the frame"

    def press(self, at: QPointF) -> None:
        document = self.session.document
        if document is None:
            return
        if self.first is None:
            self.first = self.bench.snap(at).grab
            if self.first is None:
                self.session.told.emit("There is no feature here; a hole or an end is one, a corner, a middle")
        else:
            kind, _, part = self.bench.pick_part(at).partition(".")
            on = part if kind == "parts" and not document.parts[part].fixed else ""
            try:
                made = trace_point(document, self.first, on)
                faults = self.session.apply(made.changes, f"Trace {made.place[1]}")
            except DocumentError as error:
                faults = error.faults
            if faults:
                self.session.faults_raised.emit("Not traced", faults)
            else:
                self.session.select(f"traces.{made.place[1]}")
            self.first = None
        self.bench.changed_tool()

    def tab(self, forward: bool) -> bool:
        return self.next_feature(forward)

    def cancel(self) -> bool:
        if self.first is None:
            return False
        self.first = None
        self.bench.changed_tool()
        return True

    def document_changed(self) -> None:
        super().document_changed()
        if self.first is not None and not self.there(self.first):
            self.first = None

    def draw(self, painter: QPainter) -> None:
        if self.now is not None and self.first is None:
            self.mark(painter, self.now, True)
