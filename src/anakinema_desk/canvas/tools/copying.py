"""Copying a part with its joints: a click on a hole puts a copy there, joined as the part itself is."""


from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter

from anakinema.errors import DocumentError
from anakinema.operations import copy_onto

from ..context import ToolContext
from .base import Tool


class CopyTool(Tool):
    """Copies what was selected when it was taken in hand. Each click is one step to undo, so that the last copy is
    taken back singly."""

    name, title, keys = "copy-onto", "Copies", "C"

    def __init__(self, context: ToolContext):
        super().__init__(context)
        kind, name = self.session.selection.current()
        self.part = name if kind == "parts" and "/" not in name else ""

    @property
    def hint(self) -> str:
        if not self.part:
            return "Copy onto holes: click the part to copy.  Escape puts the tool away"
        return f"Copy {self.part}: click holes or ends of other parts, one by one.  Ctrl+Z takes the last back"

    def press(self, at: QPointF) -> None:
        document = self.session.document
        if document is None:
            return
        if not self.part:
            found = self.context.picking.part(at).partition(".")[2]
            self.part = found if "/" not in found else ""
            self.context.changed()
            return
        grab = self.snap(at).grab
        if grab is None:
            self.session.message.emit("There is no feature here; a hole makes one anywhere on a part")
            return
        try:
            made = copy_onto(document, self.part, grab, self.session.posing.poses(), self.session.posing.start_poses())
            faults = self.session.apply(made.changes, f"Copy {self.part} onto {grab.part}")
        except DocumentError as error:
            faults = error.faults
        if faults:
            self.session.faults_raised.emit("Not copied", faults)
        self.context.changed()

    def tab(self, forward: bool) -> bool:
        return self.next_feature(forward)

    def document_changed(self) -> None:
        super().document_changed()
        document = self.session.document
        if document is not None and self.part not in document.parts:
            self.part = ""

    def draw(self, painter: QPainter) -> None:
        if self.now is not None and self.part:
            self.mark(painter, self.now, True)
