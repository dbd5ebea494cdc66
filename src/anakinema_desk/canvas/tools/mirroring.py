"""Mirroring the parts that are selected about a line: a side, a slot, a centre line, or two places."""

from PySide6.QtCore import QLineF, QPointF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPen

from anakinema.errors import DocumentError, listed
from anakinema.operations import driven_among, mirror

from ..context import ToolContext
from ..guides import guided
from ..picking import LINES, Snap
from .base import TwoClicks


class MirrorTool(TwoClicks):
    """A click on a line mirrors at once; two clicks on places draw the line; Enter takes the frame's own axis."""

    name, title, keys = "mirror-about", "Mirror", "Shift+M"
    lines = LINES
    first: complex | None = None
    """Where the line starts."""

    def __init__(self, context: ToolContext):
        super().__init__(context)
        self.parts = self.session.selection.chosen("parts")
        self.over = self.alike = False

    @property
    def hint(self) -> str:
        if not self.parts:
            return "Mirror: click the parts to mirror, with Shift several, then take this again.  Escape goes back"
        named = self.parts[0] if len(self.parts) == 1 else f"{len(self.parts)} parts"
        where = "where the line ends" if self.first is not None else "a line, or a place on it, Enter: the frame's axis"
        over = "turned over" if self.over else "at their depth"
        alike = "driven alike" if self.alike else "not driven"
        drives = f", D {alike}" if self._drivers() else ""
        return f"Mirror {named}: click {where}.  O {over}{drives}, Escape goes back"

    def _drivers(self) -> list[str]:
        document = self.session.document
        return driven_among(document, self.parts) if document is not None else []

    @property
    def typing(self) -> bool:
        return bool(self.parts)

    def snap(self, at: QPointF) -> Snap:
        found = super().snap(at)
        if self.first is None or found.grab is not None:
            return found
        return Snap(guided(self.context, found.at, self.first).at)

    def press(self, at: QPointF) -> None:
        snap = self.snap(at)
        if not self.parts:
            self.session.message.emit("Select the parts to mirror first, then take this tool")
            return
        line = self._line(snap) if self.first is None else None
        if line is not None:
            self._make(*line)
        elif self.first is None:
            self.first = snap.at
        elif abs(snap.at - self.first) > 1e-9:
            self._make(self.first, snap.at)
        self.context.changed()

    def _line(self, snap: Snap) -> tuple[complex, complex] | None:
        """The straight line that is under the mouse, in the plane."""
        if snap.grab is None or not snap.along:
            return None
        along = snap.grab.feature.along
        if along is None or along.center is not None:
            return None
        one, two = (self.context.frame.stands(snap.grab.part, end) for end in (along.start, along.end))
        return one, two

    def key(self, event: QKeyEvent) -> bool:
        match event.key():
            case Qt.Key.Key_O:
                self.over = not self.over
            case Qt.Key.Key_D if self._drivers():
                self.alike = not self.alike
            case Qt.Key.Key_Return | Qt.Key.Key_Enter if self.parts:
                fixed = next((part.id for part in self.context.frame.document.parts.values() if part.fixed), "")
                if not fixed:
                    self.session.message.emit("No part is fixed: there is no axis of a frame; click a line")
                    return True
                at = self.first if self.first is not None else self.context.frame.stands(fixed, 0j)
                self._make(at, at + self.context.frame.stands(fixed, 1j) - self.context.frame.stands(fixed, 0j))
            case _:
                return False
        self.context.changed()
        return True

    def _make(self, one: complex, two: complex) -> None:
        document = self.session.document
        if document is None:
            return
        try:
            # what is clicked stands as the motion shows it now, what is made stands as it starts
            made = mirror(document, self.parts, one, two, self.session.posing.start_poses(), self.over, self.alike)
            faults = self.session.apply(made.changes, f"Mirror {listed(tuple(self.parts))}")
        except DocumentError as error:
            faults, made = error.faults, None
        if faults or made is None:
            self.session.faults_raised.emit("Not mirrored", faults)
        else:
            self.session.selection.select(".".join(map(str, made.place)))
            if made.left:
                self.session.warned.emit(f"Left loose, for nothing matches {listed(made.left)} on the other side", ())
        self.first = None

    def document_changed(self) -> None:
        super().document_changed()
        document = self.session.document
        self.parts = [part for part in self.parts if document is not None and part in document.parts]

    def draw(self, painter: QPainter) -> None:
        document = self.session.document
        if document is None or self.now is None:
            return
        for part in self.parts:
            if part in self.context.frame.poses:
                self.light(painter, document.parts[part])
        self.mark(painter, self.now, True)
        line = self._line(self.now) if self.first is None else (self.first, self.now.at)
        if line is not None and abs(line[1] - line[0]) > 1e-9:
            one, two = (self.context.pixel(end) for end in line)
            long = QLineF(one, two)
            far = 4000.0 / max(long.length(), 1e-6)
            painter.setPen(QPen(QColor(self.context.tokens.accent), 1.2, Qt.PenStyle.DashDotLine))
            painter.drawLine(QLineF(long.pointAt(-far), long.pointAt(far)))


