"""Drawing a free outline: click after click, lines and arcs, until it closes; a straight side may be typed."""

import cmath
import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPainterPath, QPen

from anakinema.document.expressions import ExpressionError
from anakinema.errors import DocumentError
from anakinema.formatting import shown
from anakinema.kinds import Dimension
from anakinema.operations import add_outline
from anakinema.operations.building import arc_through

from .. import marks
from ..context import ToolContext
from .base import Tool
from .typed import Typed

CLOSE = 9.0
"""How near to its start a click must come to close the outline (pixels)."""
STEP, HOLD = math.radians(15.0), math.radians(4.0)
"""A side whose length is typed goes by steps of an angle where the mouse is as near to one as that."""
SIZES = {"length": Dimension.LENGTH, "angle": Dimension.ANGLE}


class OutlineTool(Tool):
    """Corners one after the other; A makes the next side an arc, through one place to the next. What is typed is how
    long the next straight side is, and after Tab its angle; Enter ends that side. A click on the start, or Enter,
    closes the outline."""

    name, title, keys = "outline", "Outline", "U"

    def __init__(self, context: ToolContext):
        super().__init__(context)
        self.spots: list[complex] = []
        self.through: dict[int, complex] = {}
        """Of the sides that are arcs, a place on each."""
        self.arc = False
        self.fault = ""
        self.typed = Typed(SIZES)
        self.lengths: dict[int, str] = {}
        """Of the sides that are so long, the expressions that were typed."""

    @property
    def hint(self) -> str:
        if not self.spots:
            return "Outline: click its first corner.  Escape puts the tool away"
        side = len(self.spots) - 1
        if self.arc and side not in self.through:
            return "Outline: click a place on the arc.  A makes the side straight, Escape goes back"
        if self.typed:
            return "Outline: Enter, or a click toward where it goes, makes the side so long.  Tab: its angle"
        then = "the end of the arc" if self.arc else "the next corner or type a length, A for an arc"
        return f"Outline: click {then}, or its start (Enter) to close it.  Escape goes back"

    def press(self, at: QPointF) -> None:
        snap = self.snap(at)
        spot = snap.at
        closing = bool(self.spots) and abs(spot - self.spots[0]) * self.context.scale < CLOSE
        side = len(self.spots) - 1
        if self.typed:
            self.now = snap
            self.typed_side()
        elif self.arc and side not in self.through:
            self.through[side] = spot
        elif closing and len(self.spots) > 1:
            self.close()
        else:
            self.spots.append(spot)
            self.arc = False
        self.context.changed()

    # -- sides that are typed ----------------------------------------------------------------------------------

    def end(self) -> complex:
        """Where the next side ends: where the mouse is, but for what is typed. Raises `ExpressionError`."""
        assert self.now is not None
        way = self.now.at - self.spots[-1]
        length, angle = (self.typed.worth(self.session.document, size) for size in SIZES)
        if length is None and angle is None:
            return self.now.at
        turn = cmath.phase(way) if way else 0.0
        if angle is not None:
            turn = angle
        elif abs(turn - STEP * round(turn / STEP)) < HOLD:
            turn = STEP * round(turn / STEP)
        unit = cmath.rect(1.0, turn)
        if length is None:
            length = max((way * unit.conjugate()).real, 0.0)
        right = [complex(1), 1j, complex(-1), -1j]
        unit = next((each for each in right if abs(unit - each) < 1e-12), unit)
        return self.spots[-1] + length * unit

    def typed_side(self) -> None:
        """Ends a side as it is typed; what is wrong is said."""
        try:
            end = self.end()
        except ExpressionError as error:
            self.fault = str(error)
            return
        if end == self.spots[-1]:
            self.fault = "move the mouse to where the side goes, or type its length"
            return
        written = self.typed.written("length")
        if isinstance(written, str):
            self.lengths[len(self.spots) - 1] = written
        self.spots.append(end)
        self._forget()

    def _forget(self) -> bool:
        """Nothing is typed any more; whether something was."""
        some, self.fault = bool(self.typed), ""
        self.typed.forget()
        return some

    def _types(self, event: QKeyEvent) -> bool:
        """A key that belongs to what is typed."""
        nothing = not self.typed.texts[self.typed.at]
        if self.arc or (nothing and event.key() in (Qt.Key.Key_A, Qt.Key.Key_Backspace)):
            return False
        if not self.typed.takes(event):
            return False
        self.fault = ""
        return True

    def close(self) -> None:
        """Makes the part; what is wrong is said, and nothing is lost."""
        document = self.session.document
        if document is None or len(self.spots) < 2:
            return
        try:
            made = add_outline(document, self.spots[0], [*self.spots[1:], self.spots[0]], self.through, self.lengths)
            faults = self.session.apply(made.changes, f"Outline {made.place[1]}")
        except DocumentError as error:
            faults = error.faults
        self.fault = faults[0].text if faults else ""
        if not faults:
            self.spots, self.through, self.lengths, self.arc = [], {}, {}, False
            self.session.selection.select(f"parts.{made.place[1]}")

    def key(self, event: QKeyEvent) -> bool:
        if not self.spots:
            return False
        match event.key():
            case _ if self._types(event):
                pass
            case Qt.Key.Key_Return | Qt.Key.Key_Enter if self.typed:
                self.typed_side()
            case Qt.Key.Key_A:
                self.arc = not self.arc
                self.through.pop(len(self.spots) - 1, None)
            case Qt.Key.Key_Return | Qt.Key.Key_Enter:
                self.close()
            case _:
                return False
        self.context.changed()
        return True

    @property
    def typing(self) -> bool:
        return bool(self.spots)

    def tab(self, forward: bool) -> bool:
        if not self.typed:
            return self.next_feature(forward)
        self.typed.next(forward)
        self.context.changed()
        return True

    def cancel(self) -> bool:
        side = len(self.spots) - 1
        if self.fault and not self.typed:
            self.fault = ""
        elif self._forget():
            pass
        elif side in self.through:
            del self.through[side]
        elif self.arc:
            self.arc = False
        elif self.spots:
            self.spots.pop()
            self.lengths.pop(len(self.spots) - 1, None)
            self.arc = len(self.spots) - 1 in self.through
            self.through.pop(len(self.spots) - 1, None)
        else:
            return False
        self.context.changed()
        return True

    def draw(self, painter: QPainter) -> None:
        if self.now is None:
            return
        self.mark(painter, self.now, not self.spots)
        if not self.spots:
            return
        colour = QColor(self.context.tokens.accent)
        painter.setPen(QPen(colour, 1.6))
        fill = QColor(colour)
        fill.setAlphaF(0.14)
        painter.setBrush(fill)
        path = QPainterPath(self.context.pixel(self.spots[0]))
        try:
            here = self.end()
        except ExpressionError:  # not typed to its end yet
            here = self.now.at
        ends = [*self.spots[1:], here]
        for side, end in enumerate(ends):
            self._side(path, side, end)
        painter.drawPath(path)
        for spot in self.spots:
            painter.drawEllipse(self.context.pixel(spot), 3.0, 3.0)
        document = self.session.document
        if document is not None:
            way, radius = here - self.spots[-1], self._radius(len(self.spots) - 1, here)
            values = {"length": abs(way), "angle": cmath.phase(way)}
            labels = []
            for size, value in values.items():
                mark = self.typed.mark(size) if self.typed else ""
                labels.append(f"{mark}{self.typed.texts[size] or shown(value, SIZES[size], document.units, 3)}")
            if radius is not None:
                labels.append(f"R {shown(radius, 'length', document.units, 3)}")
            at = self.context.pixel(self.now.at) + QPointF(16, 20)
            marks.label(painter, self.context.tokens, at, "    ".join(labels), colour)
            if self.fault:
                marks.label(
                    painter, self.context.tokens, at + QPointF(0, 26), self.fault, QColor(self.context.tokens.bad)
                )

    def _radius(self, side: int, end: complex) -> float | None:
        """The radius of a side that is an arc; None for a straight one, or three places on a line."""
        if side not in self.through:
            return None
        try:
            center, _ = arc_through(self.spots[side], self.through[side], end)
        except DocumentError:
            return None
        return abs(end - center)

    def _side(self, path: QPainterPath, side: int, end: complex) -> None:
        """Goes on to the end of a side, along its arc where it is one."""
        begin = self.spots[side]
        radius = self._radius(side, end)
        if radius is None:
            path.lineTo(self.context.pixel(end))
            return
        center, ccw = arc_through(begin, self.through[side], end)
        swept = math.degrees(cmath.phase((end - center) / (begin - center))) % 360.0
        reach = radius * self.context.scale
        box = QRectF(-reach, -reach, 2 * reach, 2 * reach).translated(self.context.pixel(center))
        path.arcTo(box, math.degrees(cmath.phase(begin - center)), swept if ccw else swept - 360.0)
