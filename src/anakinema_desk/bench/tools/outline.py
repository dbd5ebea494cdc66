"""Drawing a free outline: click after click, lines and arcs, until it closes."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPainterPath, QPen

from anakinema.errors import DocumentError
from anakinema.operations import add_outline
from anakinema.words import shown

from .. import marks
from .base import Tool

if TYPE_CHECKING:
    from ..bench import Bench

CLOSE = 9.0
"""How near to its start a click must come to close the outline (pixels)."""


class OutlineTool(Tool):
    """Corners one after the other; A makes the next side an arc, through one place to the next. A click on the start,
    or Enter, closes it."""

    name, title, keys = "outline", "Outline", "U"

    def __init__(self, bench: "Bench"):
        super().__init__(bench)
        self.spots: list[complex] = []
        self.through: dict[int, complex] = {}
        """Of the sides that are arcs, a place on each."""
        self.arc = False
        self.fault = ""

    @property
    def hint(self) -> str:
        if not self.spots:
            return "Outline: click its first corner.  Escape puts the tool away"
        side = len(self.spots) - 1
        if self.arc and side not in self.through:
            return "Outline: click a place on the arc.  A makes the side straight, Escape goes back"
        then = "the end of the arc" if self.arc else "the next corner, A for an arc"
        return f"Outline: click {then}, or its start (Enter) to close it.  Escape goes back"

    def press(self, at: QPointF) -> None:
        snap = self.bench.snap(at)
        spot = snap.at
        closing = bool(self.spots) and abs(spot - self.spots[0]) * self.bench.scale < CLOSE
        side = len(self.spots) - 1
        if self.arc and side not in self.through:
            self.through[side] = spot
        elif closing and len(self.spots) > 1:
            self.close()
        else:
            self.spots.append(spot)
            self.arc = False
        self.fault = ""
        self.bench.changed_tool()

    def close(self) -> None:
        """Makes the part; what is wrong is said, and nothing is lost."""
        document = self.session.document
        if document is None or len(self.spots) < 2:
            return
        try:
            made = add_outline(document, self.spots[0], [*self.spots[1:], self.spots[0]], self.through)
            faults = self.session.apply(made.changes, f"Outline {made.place[1]}")
        except DocumentError as error:
            faults = error.faults
        self.fault = faults[0].text if faults else ""
        if not faults:
            self.spots, self.through, self.arc = [], {}, False
            self.session.select(f"parts.{made.place[1]}")

    def key(self, event: QKeyEvent) -> bool:
        if not self.spots:
            return False
        match event.key():
            case Qt.Key.Key_A:
                self.arc = not self.arc
                self.through.pop(len(self.spots) - 1, None)
            case Qt.Key.Key_Return | Qt.Key.Key_Enter:
                self.close()
            case _:
                return False
        self.bench.changed_tool()
        return True

    @property
    def typing(self) -> bool:
        return bool(self.spots)

    def tab(self, forward: bool) -> bool:
        return self.next_feature(forward)

    def cancel(self) -> bool:
        side = len(self.spots) - 1
        if self.fault:
            self.fault = ""
        elif side in self.through:
            del self.through[side]
        elif self.arc:
            self.arc = False
        elif self.spots:
            self.spots.pop()
            self.arc = len(self.spots) - 1 in self.through
            self.through.pop(len(self.spots) - 1, None)
        else:
            return False
        self.bench.changed_tool()
        return True

    def draw(self, painter: QPainter) -> None:
        if self.now is None:
            return
        self.mark(painter, self.now, not self.spots)
        if not self.spots:
            return
        colour = QColor(self.bench.tokens.accent)
        painter.setPen(QPen(colour, 1.6))
        fill = QColor(colour)
        fill.setAlphaF(0.14)
        painter.setBrush(fill)
        path = QPainterPath(self.bench.pixel(self.spots[0]))
        ends = [*self.spots[1:], self.now.at]
        for side, end in enumerate(ends):
            if side in self.through:
                through = self.bench.pixel(self.through[side])
                begin, stop = path.currentPosition(), self.bench.pixel(end)
                path.quadTo(through * 2 - (begin + stop) / 2, stop)  # near enough while it is drawn
            else:
                path.lineTo(self.bench.pixel(end))
        painter.drawPath(path)
        for spot in self.spots:
            painter.drawEllipse(self.bench.pixel(spot), 3.0, 3.0)
        document = self.session.document
        if document is not None:
            way = self.now.at - self.spots[-1]
            text = shown(abs(way), "length", document.units, 3)
            at = self.bench.pixel(self.now.at) + QPointF(16, 20)
            marks.label(painter, self.bench.tokens, at, text, colour)
            if self.fault:
                marks.label(painter, self.bench.tokens, at + QPointF(0, 26), self.fault, QColor(self.bench.tokens.bad))
