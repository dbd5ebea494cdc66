"""Measuring: two picks make a measure that lives through the motion."""

import cmath

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPen

from anakinema.formatting import shown
from anakinema.geometry.features import Feature, FeatureKind
from anakinema.operations import measure
from anakinema.operations.joining import Grab
from anakinema.operations.studying import measured_places

from .. import marks
from ..context import ToolContext
from ..picking import LINES
from .base import FromFeature


class MeasureTool(FromFeature):
    """The distance of two features; A for the angle between their parts instead."""

    name, title, keys = "measure", "Measure", "M"
    lines = LINES

    def __init__(self, context: ToolContext):
        super().__init__(context)
        self.kind = "distance"

    @property
    def hint(self) -> str:
        other = "A the angle between two parts" if self.kind == "distance" else "A the distance of two features"
        which = "the other feature" if self.first is not None else "a feature"
        return f"Measure {self.kind}: click {which}.  {other}, Escape goes back"

    def press(self, at: QPointF) -> None:
        grab, document, first = self.snap(at).grab, self.session.document, self.first
        if grab is None and self.kind == "angle":
            grab = self._body(at)
        if grab is None or document is None:
            self.session.message.emit("There is no feature here; a hole or an end is one, a corner, a middle of a side")
        elif first is None:
            self.first = grab
        else:
            self.make(lambda: measure(document, self.kind, first, grab), "Measure", "Not measured")
        self.context.changed()

    def _body(self, at: QPointF) -> Grab | None:
        """The part under a pixel, for an angle is one of parts: by its x axis."""
        part = self.context.picking.part(at).partition(".")[2]
        return Grab(part, Feature(0j, FeatureKind.POINT)) if part else None

    def key(self, event: QKeyEvent) -> bool:
        if event.key() != Qt.Key.Key_A:
            return False
        self.kind = "angle" if self.kind == "distance" else "distance"
        self.context.changed()
        return True

    def draw(self, painter: QPainter) -> None:
        if self.now is None:
            return
        self.mark(painter, self.now, True)
        document = self.session.document
        if self.first is not None and document is not None:
            colour = QColor(self.context.tokens.trace)
            one, two = self.context.frame.grabbed(self.first), self.now.at
            if self.kind == "distance" and self.now.grab is not None:
                one, two = self._ends(self.first, self.now.grab)
            painter.setPen(QPen(colour, 1.4, Qt.PenStyle.DotLine))
            painter.drawLine(self.context.pixel(one), self.context.pixel(two))
            if self.kind == "distance":
                text = shown(abs(two - one), "length", document.units, 3)
                at = self.context.pixel((one + two) / 2)
                marks.label(painter, self.context.tokens, at + QPointF(10, -14), text, colour)

    def _ends(self, first: Grab, second: Grab) -> tuple[complex, complex]:
        """Between which places the click will measure: to a side it is to its line."""
        poses = self.session.posing.poses()
        sides = []
        for grab in (first, second):
            x, y, angle = poses[grab.part]
            sides.append([complex(x, y) + at * cmath.rect(1.0, angle) for at in measured_places(grab)])
        line, point = (sides[0], sides[1][0]) if len(sides[0]) == 2 else (sides[1], sides[0][0])
        if len(line) != 2:
            return sides[0][0], sides[1][0]
        along = line[1] - line[0]
        foot = line[0] + along * ((point - line[0]) * along.conjugate()).real / abs(along) ** 2
        return (foot, point) if len(sides[0]) == 2 else (point, foot)
