"""Cams: two clicks, on the part that turns and on the part that is to follow it."""


from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from anakinema.errors import DocumentError
from anakinema.operations import cam_between, carried_by, turned_by

from .. import marks
from ..context import ToolContext
from ..layers import edge
from .base import Tool


class CamTool(Tool):
    """The part that is to be the cam, or its shaft's joint, then the part that it moves."""

    name, title, keys = "cam", "Cam", "Shift+C"

    def __init__(self, context: ToolContext):
        super().__init__(context)
        self.shaft = ""
        """The joint on which the cam turns."""
        self.over = ""

    @property
    def hint(self) -> str:
        if not self.shaft:
            return "Cam: click the part that turns, or its shaft.  Escape goes back"
        return f"Click the part that the cam on {self.shaft} is to move.  Escape goes back"

    def _under(self, at: QPointF) -> str:
        """The joint that is meant by what lies under the mouse: for the shaft, then for the follower."""
        document = self.session.document
        if document is None:
            return ""
        kind, _, name = self.context.picking.at(at).partition(".")
        if kind == "joints" and name in document.joints:
            return name
        part = name if kind == "parts" else self.context.picking.part(at).partition(".")[2]
        if part not in document.parts:
            return ""
        return turned_by(document, part) if not self.shaft else carried_by(document, part, self.shaft)

    def move(self, at: QPointF) -> None:
        super().move(at)
        self.over = self._under(at)
        self.context.update()

    def press(self, at: QPointF) -> None:
        document, joint = self.session.document, self._under(at)
        if document is None:
            return
        if not joint:
            what = "turns on nothing yet: pin it to what carries it" if not self.shaft else (
                "is not guided by what carries the shaft: pin it there, or make it slide")  # fmt: skip
            self.session.message.emit(f"What is here {what}")
        elif not self.shaft:
            self.shaft = joint
        else:
            self._make(joint)
        self.context.changed()

    def _make(self, follower: str) -> None:
        document, shaft = self.session.document, self.shaft
        if document is None:
            return
        try:
            made = cam_between(document, shaft, follower)
            faults = self.session.apply(made.changes, f"Cam on {shaft} for {follower}")
        except DocumentError as error:
            faults = error.faults
        if faults:
            self.session.faults_raised.emit("No cam made", faults)
            return
        self.session.selection.select(".".join(map(str, made.place)))
        self.shaft = ""

    def cancel(self) -> bool:
        if not self.shaft:
            return False
        self.shaft = ""
        self.context.changed()
        return True

    def document_changed(self) -> None:
        super().document_changed()
        document = self.session.document
        for name in ("shaft", "over"):
            if document is None or getattr(self, name) not in document.joints:
                setattr(self, name, "")

    def draw(self, painter: QPainter) -> None:
        document = self.session.document
        if document is None:
            return
        colour = QColor(self.context.tokens.accent)
        for name in dict.fromkeys(one for one in (self.shaft, self.over) if one):
            joint = document.joints[name]
            part = joint.a.part if document.parts[joint.b.part].fixed else joint.b.part
            self.light(painter, document.parts[part])
            painter.setPen(edge(self.context.tokens.accent, 2.4))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(self.context.pixel(self.context.frame.world(joint.b)), 11, 11)
        if self.shaft and self.over and self.over != self.shaft:
            painter.setPen(QPen(colour))
            text = f"a cam on {self.shaft} moves {self.over}"
            marks.label(painter, self.context.tokens, self.context.pixel(self.mouse) + QPointF(14, 16), text, colour)
