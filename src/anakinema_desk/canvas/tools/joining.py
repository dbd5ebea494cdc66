"""Joining two parts: pick a feature of each; the joint that fits is made at once and can be changed in place."""

from dataclasses import replace
from itertools import count

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPen

from anakinema.document import changed
from anakinema.document.model import Document
from anakinema.errors import DocumentError
from anakinema.joints import JOINT_TYPES
from anakinema.operations import Grab, Proposal, join, kinds_for, proposed

from ...state.shown import Pose
from ..context import ToolContext
from ..picking import LINES
from .base import Tool

NUMBER = count(1)


class JoinTool(Tool):
    """Two picks make a joint. It is there and settles at once; T takes the next type that fits, W joins where the parts
    stand instead of bringing them together, Enter keeps it, Escape takes it back. All that is one step to undo."""

    name, title, keys = "join", "Join", "J"
    lines = LINES

    def __init__(self, context: ToolContext):
        super().__init__(context)
        self.first: Grab | None = None
        self.proposal: Proposal | None = None
        self.before: Document | None = None
        self.after: Document | None = None
        """The document with the joint that is tried: where another is there, somebody else has changed it since."""
        self.poses: dict[str, Pose] = {}
        self.start: dict[str, Pose] = {}
        self._step = ""
        self.aside = ""
        """What has been typed to set a slide aside."""
        self._played = True
        """Whether the joint that is tried has been moved through its freedom."""

    def shown(self) -> None:
        motion = self.session.motion
        if self.proposal is None or self._played or motion is None or self.session.analysis.busy:
            return
        self._played = True
        name = self.session.selection.current()[1]
        if name in motion.system.coordinates:
            self.session.going.wiggle(name)

    @property
    def hint(self) -> str:
        if self.proposal is not None:
            how = "where they stand"
            if self.proposal.bring:
                how = "brought together" if self._met() else "put together the nearest way"
            title = JOINT_TYPES[self.proposal.kind].title.lower()
            keys = "T another type, W the other way, F flips it, S swaps the sides"
            if JOINT_TYPES[self.proposal.kind].straight:
                keys += f", figures set it aside{f' ({self.aside})' if self.aside else ''}"
            return f"Join: {title}, {how}.  {keys}, Enter keeps it, Escape takes it back"
        if self.first is not None:
            return f"Join: {self.first.feature.description(self.first.part)} with … click a feature of the other part"
        return "Join: click a feature of one part: a hole, an end, a corner, a side, a slot"

    def _met(self) -> bool:
        """Whether the part that is brought was free to come: one that hangs on others stays until all is put
        together."""
        document, proposal = self.session.document, self.proposal
        if document is None or proposal is None:
            return False
        joints = [joint for joint in document.joints.values() if joint.id != self.session.selection.current()[1]]
        moved = proposal.two if not document.parts[proposal.two.part].fixed else proposal.one
        return not any(moved.part in (joint.a.part, joint.b.part) for joint in joints)

    @property
    def typing(self) -> bool:
        return self.proposal is not None

    def press(self, at: QPointF) -> None:
        if self.proposal is not None:  # a click elsewhere keeps it, and begins the next
            self._keep()
        grab = self.snap(at).grab
        if grab is None:
            self.session.message.emit("There is no feature to join by here; a hole makes one anywhere on a part")
        elif self.first is None or grab.part == self.first.part:
            self.first = grab
            self.context.picking.without = grab.part
        else:
            self.before, self.poses = self.session.document, dict(self.session.posing.poses())
            self.start = self.session.posing.start_poses()
            self._step = f"join {next(NUMBER)}"
            self._try(proposed(self.first, grab))
        self.context.changed()

    def _try(self, proposal: Proposal) -> None:
        """Makes the joint in place of the one tried before."""
        assert self.before is not None
        before = self.before
        try:
            made = join(before, proposal, self.poses, self.start)
        except DocumentError as error:
            self.first = None
            self.session.faults_raised.emit("Not joined", error.faults)
            return
        name = str(made.place[1])
        faults = self.session.editor.replace(lambda _: changed(before, *made.changes), f"Join {name}", self._step)
        if faults:
            self.session.faults_raised.emit("Not joined", faults)
            self.first = None
            return
        self.proposal, self.after, self._played = proposal, self.session.document, False
        self.session.selection.select(f"joints.{name}")

    def tab(self, forward: bool) -> bool:
        return self.proposal is None and self.next_feature(forward)

    def key(self, event: QKeyEvent) -> bool:
        self.session.going.be_still()
        if self.proposal is not None and self.session.document is not self.after:
            self._keep()
        if self.proposal is None:
            return False
        now = self.proposal
        match event.key():
            case Qt.Key.Key_T:
                kinds = kinds_for(now.one, now.two)
                self._try(replace(now, kind=kinds[(kinds.index(now.kind) + 1) % len(kinds)]))
            case Qt.Key.Key_W:
                self._try(replace(now, bring=not now.bring))
            case Qt.Key.Key_Backspace if self.aside:
                self._set_aside(self.aside[:-1])
            case _ if JOINT_TYPES[now.kind].straight and event.text() and event.text() in "0123456789.-":
                self._set_aside(self.aside + event.text())
            case Qt.Key.Key_F:
                self._try(replace(now, flip=not now.flip))
            case Qt.Key.Key_S:
                self._try(replace(now, swap=not now.swap))
            case Qt.Key.Key_Return | Qt.Key.Key_Enter:
                self._keep()
            case _:
                return False
        self.context.changed()
        return True

    def _set_aside(self, text: str) -> None:
        """Sets the slide that is tried so far aside, as far as the text is a number yet."""
        self.aside = text
        assert self.proposal is not None
        try:
            offset = float(text) if text else 0.0
        except ValueError:
            return
        self._try(replace(self.proposal, offset=offset))

    def document_changed(self) -> None:
        super().document_changed()
        if self.first is not None and not self.there(self.first):
            self._keep()

    def _keep(self) -> None:
        self.session.going.be_still()
        self.context.picking.without = ""
        self.first = self.proposal = self.before = self.after = None
        self._step = self.aside = ""

    def cancel(self) -> bool:
        if self.proposal is not None:
            if self.session.document is self.after:
                self.session.undo()
            self._keep()
        elif self.first is not None:
            self.first = None
            self.context.picking.without = ""
        else:
            return False
        self.context.changed()
        return True

    def draw(self, painter: QPainter) -> None:
        accent = QColor(self.context.tokens.accent)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if self.first is not None and self.proposal is None:
            spot = self.context.pixel(self.context.frame.grabbed(self.first))
            painter.setPen(QPen(accent, 2.4))
            painter.drawEllipse(spot, 8.0, 8.0)
            if self.now is not None:
                painter.setPen(QPen(accent, 1.2, Qt.PenStyle.DashLine))
                painter.drawLine(spot, self.context.pixel(self.now.at))
        if self.now is not None and self.proposal is None:
            self.mark(painter, self.now, True)
