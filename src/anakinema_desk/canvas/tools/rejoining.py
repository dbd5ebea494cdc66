"""Joining a joint that is there to another feature: click it, or drag the joint's side to it."""

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPen

from anakinema.document.model import Joint
from anakinema.errors import DocumentError, listed
from anakinema.operations import reattached

from ..context import ToolContext
from ..picking import LINES
from .base import Tool


class RejoinTool(Tool):
    """One side of the joint that is selected goes to another feature; S takes the other side in hand."""

    name, title, keys = "rejoin", "Rejoin", "Shift+J"
    lines = LINES

    def __init__(self, context: ToolContext):
        super().__init__(context)
        kind, name = self.session.selection.current()
        self.joint = name if kind == "joints" else ""
        self.side = "b"

    def _joint(self) -> Joint | None:
        document = self.session.document
        return document.joints.get(self.joint) if document is not None else None

    @property
    def hint(self) -> str:
        joint = self._joint()
        if joint is None:
            return "Rejoin: click the joint that is to join something else.  Escape goes back"
        end = joint.a if self.side == "a" else joint.b
        return f"Rejoin {self.joint}: click where its side {end} is to go.  S the other side, Escape goes back"

    def press(self, at: QPointF) -> None:
        document, joint = self.session.document, self._joint()
        if document is None:
            return
        if joint is None:
            kind, _, name = self.context.picking.at(at, inside=False).partition(".")
            self.joint = name if kind == "joints" and name in document.joints else ""
            if not self.joint:
                self.session.message.emit("There is no joint here")
            self.context.changed()
            return
        grab = self.snap(at).grab
        if grab is None:
            self.session.message.emit("There is no feature here; a hole makes one anywhere on a part")
            return
        try:
            made = reattached(document, self.joint, self.side, grab)
            what = f"Join {self.joint} to {grab.part}"
            faults = self.session.apply_if_it_closes(made.changes, what)
            if made.dropped and not faults:
                self.session.warned.emit(f"Taken away, for it means nothing now: {listed(made.dropped)}", ())
        except DocumentError as error:
            faults = error.faults
        if faults:
            self.session.faults_raised.emit("Not joined there", faults)
        else:
            self.session.selection.select(f"joints.{self.joint}")
        self.context.changed()

    @property
    def typing(self) -> bool:
        return self._joint() is not None

    def key(self, event: QKeyEvent) -> bool:
        if event.key() != Qt.Key.Key_S or self._joint() is None:
            return False
        self.side = "a" if self.side == "b" else "b"
        self.context.changed()
        return True

    def tab(self, forward: bool) -> bool:
        return self.next_feature(forward)

    def draw(self, painter: QPainter) -> None:
        joint = self._joint()
        if joint is not None:
            spot = self.context.pixel(self.context.frame.world(joint.a if self.side == "a" else joint.b))
            painter.setPen(QPen(QColor(self.context.tokens.accent), 2.4))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(spot, 10.0, 10.0)
            if self.now is not None and self.now.grab is not None:
                painter.setPen(QPen(QColor(self.context.tokens.accent), 1.2, Qt.PenStyle.DashLine))
                painter.drawLine(spot, self.context.pixel(self.now.at))
        if self.now is not None:
            self.mark(painter, self.now, True)
