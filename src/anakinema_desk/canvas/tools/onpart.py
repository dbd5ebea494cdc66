"""What is drawn in or on a part: holes, bosses, slots, points; and the picture under the bench, scaled there."""

import cmath
import math
from typing import ClassVar

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QGuiApplication, QPainter, QPen

from anakinema.document.expressions import ExpressionError
from anakinema.document.model import Document
from anakinema.errors import DocumentError
from anakinema.operations import Grab, Made, add_arc_slot, add_boss, add_hole, add_slot, beneath, hole_pinned
from anakinema.operations.building import named_point
from anakinema.operations.tracing import scale_picture

from ..context import ToolContext
from ..picking import CENTRE_LINES, SLOTS, Snap
from .drawing import LEG, BarTool, DiscTool, Drawing


class OnPart(Drawing):
    """What is made in or on the part under the first click, wherever that stands."""

    def begin(self, snap: Snap) -> None:
        pixel, (kind, chosen) = self.context.pixel(snap.at), self.session.selection.current()
        if kind == "parts" and self.context.picking.covers(chosen, pixel):
            place = f"parts.{chosen}"  # the one that is selected, though another lies before it
        elif snap.grab is not None:
            place = f"parts.{snap.grab.part}"
        else:
            place = self.context.picking.part(pixel)
        if not place:
            self.session.message.emit(f"There is no part here: a {self.title.lower()} is made on a part")
            return
        self.part = place.partition(".")[2]
        super().begin(snap)

    def document_changed(self) -> None:
        super().document_changed()
        if self.session.document is not None and self.part not in self.session.document.parts:
            self.first = None

    def own(self, at: complex) -> complex:
        """A place in the plane in the part's own axes."""
        x, y, angle = self.session.posing.poses()[self.part]
        return (at - complex(x, y)) * cmath.rect(1.0, -angle)


class HoleTool(OnPart, DiscTool):
    """A hole in the part under the first click."""

    name, title, keys = "hole", "Hole", "O"
    lines = CENTRE_LINES
    wants = ("on a part, where the hole is to be (with Ctrl pinned to what lies there)", "how far it reaches")

    _pinned = False
    """Whether it is joined to what lies beneath."""

    def press(self, at: QPointF) -> None:
        held = bool(QGuiApplication.keyboardModifiers() & Qt.KeyboardModifier.ControlModifier)
        self._pinned = held or (self._pinned and self.first is not None)
        super().press(at)

    @property
    def hint(self) -> str:
        below = self._below()
        if below is None:
            return super().hint
        what = below.feature.description(below.part)
        then = "it is pinned to" if self._pinned else "a click with Ctrl pins it to"
        return f"{super().hint}; {then} {what}"

    def _below(self) -> Grab | None:
        """What of another part the hole can be pinned to."""
        document = self.session.document
        if self.first is None or document is None or self.part not in document.parts:
            return None
        return beneath(document, self.part, self.own(self.first.at), self.session.posing.poses())

    def made(self, document: Document) -> Made:
        assert self.first is not None
        center = self.own(self.first.at)
        if self._pinned:
            posing = self.session.posing
            return hole_pinned(document, self.part, center, self.size("diameter"), posing.poses(), posing.start_poses())
        return add_hole(document, self.part, center, self.size("diameter"))


class BossTool(HoleTool):
    """A boss or a pin on the part under the first click, in front of it."""

    name, title, keys = "boss", "Boss or pin", "Shift+O"
    lines = SLOTS
    wants = ("on a part, where the boss is to stand", "how far it reaches")

    def _below(self) -> Grab | None:
        return None

    def made(self, document: Document) -> Made:
        assert self.first is not None
        low, high = document.parts[self.part].depth
        return add_boss(document, self.part, self.own(self.first.at), self.size("diameter"), high - low, self._into())

    def _into(self) -> str:
        """The part in whose slot it is to run, if it is made there."""
        grab = self.first.grab if self.first is not None else None
        return grab.part if grab is not None and grab.part != self.part and grab.feature.kind.slotted else ""


class SlotTool(OnPart, BarTool):
    """A straight slot in the part under the first click."""

    name, title, keys = "slot", "Slot", "S"
    sizes: ClassVar[tuple[str, ...]] = ("length", "width")
    lines = CENTRE_LINES
    wants = ("on a part, where the slot begins", "where it ends")
    more = False

    def measured(self) -> dict[str, float]:
        found = super().measured()
        return {"length": found["length"], "width": float(f"{max(found['length'], 1e-9) * LEG / 2:.1g}")}

    def values(self) -> dict[str, float]:
        return Drawing.values(self)

    def made(self, document: Document) -> Made:
        assert self.first is not None
        values = self.values()
        end = self._end(values["length"])
        return add_slot(document, self.part, self.own(self.first.at), self.own(end), self.size("width"))


class ArcSlotTool(OnPart):
    """A slot along an arc: its centre, where it begins, and, counter-clockwise from there, where it ends."""

    name, title, keys = "arc-slot", "Arc slot", "Shift+S"
    sizes = ("width",)
    wants = ("on a part, about what it turns", "where it begins, then, counter-clockwise, where it ends")

    def __init__(self, context: ToolContext):
        super().__init__(context)
        self.second: Snap | None = None

    def measured(self) -> dict[str, float]:
        assert self.first is not None and self.now is not None
        reach = abs((self.second or self.now).at - self.first.at)
        return {"width": float(f"{max(reach, 1e-9) * LEG:.1g}")}

    def press(self, at: QPointF) -> None:
        if self.first is not None and self.second is None:
            self.second = self.snap(at)
            self.context.changed()
        else:
            super().press(at)

    def cancel(self) -> bool:
        if self.second is not None and not self.typed:
            self.second = None
            self.context.changed()
            return True
        return super().cancel()

    def finish(self) -> None:
        if self.second is None:
            return
        super().finish()
        if self.first is None:
            self.second = None

    def made(self, document: Document) -> Made:
        assert self.first is not None and self.second is not None and self.now is not None
        center, begin, end = (self.own(snap.at) for snap in (self.first, self.second, self.now))
        return add_arc_slot(document, self.part, center, begin, end, self.size("width"))

    def outline(self, painter: QPainter, values: dict[str, float]) -> None:
        assert self.first is not None and self.now is not None
        middle = self.context.pixel(self.first.at)
        begin = (self.second or self.now).at - self.first.at
        radius = abs(begin) * self.context.scale
        painter.drawLine(middle, self.context.pixel((self.second or self.now).at))
        if self.second is None:
            return
        pen = QPen(painter.pen().color(), max(values["width"] * self.context.scale, 1.5))
        pen.setCapStyle(Qt.PenCapStyle.RoundCap)
        colour = QColor(pen.color())
        colour.setAlphaF(0.3)
        pen.setColor(colour)
        painter.setPen(pen)
        start, stop = math.degrees(cmath.phase(begin)), math.degrees(cmath.phase(self.now.at - self.first.at))
        box = QRectF(middle.x() - radius, middle.y() - radius, 2 * radius, 2 * radius)
        painter.drawArc(box, round(start * 16), round((stop - start) % 360 * 16))


class PointTool(OnPart):
    """A named point in the part under the click."""

    name, title, keys = "point", "Point", "N"
    lines = CENTRE_LINES
    sizes = ("x", "y")
    wants = ("on a part, where the point is to be", "")

    def measured(self) -> dict[str, float]:
        return {"x": 0.0, "y": 0.0}

    def begin(self, snap: Snap) -> None:
        super().begin(snap)
        if self.first is not None:
            self.finish()

    def finish(self) -> None:
        document = self.session.document
        if document is None or self.first is None:
            return
        name, changes = named_point(document, self.part, self.own(self.first.at))
        self.first = None
        if not changes:
            self.session.message.emit(f"There is a point here already: {name}")
            return
        faults = self.session.apply(changes, f"Point {name} of {self.part}")
        if faults:
            self.session.faults_raised.emit("Not made", faults)
        self.session.selection.select(f"parts.{self.part}")
        self.context.changed()


class PictureTool(Drawing):
    """Scales the picture under the bench by two places whose distance is typed."""

    name, title, keys = "picture", "Scale the picture", ""
    sizes = ("distance",)
    wants = ("one place on the picture", "another, then type how far apart they really are")

    def __init__(self, context: ToolContext):
        super().__init__(context)
        self.second: complex | None = None

    def measured(self) -> dict[str, float]:
        assert self.first is not None and self.now is not None
        return {"distance": abs((self.second if self.second is not None else self.now.at) - self.first.at)}

    def press(self, at: QPointF) -> None:
        if self.first is None:
            super().press(at)
        else:
            self.second = self.snap(at).at
            self.context.update()

    def finish(self) -> None:
        if self.second is None or self.first is None:
            return
        document = self.session.document
        try:
            length = self.values()["distance"]
            assert document is not None
            made = scale_picture(document, self.first.at, self.second, self.size("distance"), length)
            faults = self.session.apply(made.changes, "Scale the picture")
            self.fault = faults[0].text if faults else ""
        except (ExpressionError, DocumentError) as error:
            self.fault = str(error)
        if not self.fault:
            self.first = self.second = None
            self.typed.forget()
        self.context.changed()

    def outline(self, painter: QPainter, values: dict[str, float]) -> None:
        assert self.first is not None and self.now is not None
        end = self.second if self.second is not None else self.now.at
        painter.drawLine(self.context.pixel(self.first.at), self.context.pixel(end))
