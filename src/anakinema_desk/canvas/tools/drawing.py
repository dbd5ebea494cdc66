"""Drawing parts and holes by two clicks, with live sizes: what is typed meanwhile sets a size, Tab goes to the next."""

import cmath
import math
from dataclasses import replace
from typing import ClassVar

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QGuiApplication, QKeyEvent, QPainter, QPainterPath, QPainterPathStroker, QPen

from anakinema.document.expressions import ExpressionError
from anakinema.document.model import Document
from anakinema.errors import DocumentError
from anakinema.formatting import shown
from anakinema.kinds import Dimension
from anakinema.operations import Grab, Made, add_angled, add_bar, add_disc, add_plate, features, pinned
from anakinema.operations.building import usual_width

from .. import guides, marks
from ..context import ToolContext
from ..guides import Guided, guided
from ..picking import SLOTS, Snap
from .base import Tool
from .typed import Typed

LEG = 0.2
"""How thick a leg or how wide a slot is at first, as a share of its length."""


class Drawing(Tool):
    """Two clicks and some sizes. A size is what was typed, an expression, else what the mouse says."""

    counts: ClassVar[dict[str, Dimension]] = {}
    """What sizes count that are no lengths."""
    runs: ClassVar[bool] = True
    """Whether what is drawn runs from the first place to the second, and keeps to directions and lengths."""
    sizes: ClassVar[tuple[str, ...]]
    wants: ClassVar[tuple[str, str]]
    """What the first and the second click are for."""

    def __init__(self, context: ToolContext):
        super().__init__(context)
        self.first: Snap | None = None
        self.typed = Typed({size: self.counts.get(size, Dimension.LENGTH) for size in self.sizes})
        self.guided = Guided(0j)
        """By which guides the hand is where it is."""
        self.part = ""
        """The part in which it is made, where it is no new one."""
        self.fault = ""

    # -- what the hand does ------------------------------------------------------------------------------------

    @property
    def hint(self) -> str:
        if self.first is None:
            return f"{self.title}: click {self.wants[0]}.  Escape puts the tool away"
        then = f", Tab, {self.sizes[1]}" if len(self.sizes) > 1 else ""
        return f"{self.title}: click {self.wants[1]}, or type: {self.sizes[0]}{then}, Enter.  Escape goes back"

    @property
    def typing(self) -> bool:
        return self.first is not None

    def snap(self, at: QPointF) -> Snap:
        """A feature, else a place that guides say."""
        found = super().snap(at)
        if found.grab is not None or self.session.document is None or _plain():
            self.guided = Guided(found.at)
            return found
        start = self.first.at if self.first is not None and self.runs else None
        self.guided = guided(self.context, found.at, start, self._directions(), bool(self.typed))
        return replace(found, at=self.guided.at)

    def _directions(self) -> tuple[float, ...]:
        """The directions of lines at the feature where it began, as they stand (rad)."""
        grab = self.first.grab if self.first is not None else None
        if grab is None:
            return ()
        turn = self.context.frame.poses[grab.part][2]
        ways = [one.direction for one in features(self.context.frame.part(grab.part))
                if (one.direction is not None and one.by_line) or one.kind.slotted]  # fmt: skip
        return tuple(dict.fromkeys(round(way + turn, 12) for way in ways if way is not None))

    def press(self, at: QPointF) -> None:
        snap = self.snap(at)
        if self.first is None:
            self.begin(snap)
        else:
            self.now = snap
            self.finish()

    def begin(self, snap: Snap) -> None:
        """The first click."""
        self.first = self.now = snap
        self.context.changed()

    def key(self, event: QKeyEvent) -> bool:
        if self.first is None:
            return False
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.finish()
            return True
        if not self.typed.takes(event):
            return False
        self.fault = ""
        self.move(self.context.pixel(self.mouse))  # what is typed decides by which guides the hand goes
        self.context.update()
        return True

    def tab(self, forward: bool) -> bool:
        if self.first is None:
            return self.next_feature(forward)
        self.typed.next(forward)
        self.context.update()
        return True

    def cancel(self) -> bool:
        if self.typed:
            self.typed.forget()
        elif self.first is not None:
            self.first = None
        else:
            return False
        self.fault = ""
        self.context.changed()
        return True

    def document_changed(self) -> None:
        super().document_changed()
        if self.first is not None and not self.there(self.first.grab):
            self.first = Snap(self.first.at)

    # -- sizes -------------------------------------------------------------------------------------------------

    def measured(self) -> dict[str, float]:
        """The sizes as the mouse says."""
        raise NotImplementedError

    def values(self) -> dict[str, float]:
        """All sizes (document lengths). Raises `ExpressionError` for one that was typed and makes no sense."""
        found = self.measured()
        for size in self.sizes:
            worth = self.typed.worth(self.session.document, size, self.part)
            found[size] = found[size] if worth is None else worth
        return found

    def size(self, name: str) -> float | str:
        """A size for the document: the expression that was typed, else the number."""
        written = self.typed.written(name)
        return self.values()[name] if written is None else written

    # -- making ------------------------------------------------------------------------------------------------

    def made(self, document: Document) -> Made:
        """The part, by the clicks and sizes."""
        raise NotImplementedError

    def finish(self) -> None:
        """Makes it; what is wrong is said, and nothing is lost."""
        document = self.session.document
        if document is None or self.first is None or self.now is None:
            return
        try:
            self.values()
            made = self.made(document)
        except (ExpressionError, DocumentError) as error:
            self.fault = error.faults[0].text if isinstance(error, DocumentError) else str(error)
            self.context.update()
            return
        new = str(made.place[1])
        faults = self.session.apply(made.changes, f"{self.title} {new}")
        self.fault = faults[0].text if faults else ""
        if not faults:
            self.first = None
            self.typed.forget()
            self.session.selection.select(f"{made.place[0]}.{new}")
        self.context.changed()

    # -- drawing -----------------------------------------------------------------------------------------------

    def draw(self, painter: QPainter) -> None:
        if self.now is None:
            return
        colour = QColor(self.context.tokens.accent)
        self.mark(painter, self.now, self.first is None)
        if self.first is None:
            guides.draw(painter, self.context, self.guided, self.context.pixel(self.now.at) + QPointF(16, -20))
            return
        try:
            values = self.values()
        except ExpressionError:  # not typed to its end yet
            values = self.measured()
        painter.setPen(QPen(colour, 1.6))
        fill = QColor(colour)
        fill.setAlphaF(0.14)
        painter.setBrush(fill)
        self.outline(painter, values)
        document = self.session.document
        assert document is not None
        labels = [self._told(size, value, document) for size, value in values.items()]
        at = self.context.pixel(self.now.at) + QPointF(16, 20)
        marks.label(painter, self.context.tokens, at, "    ".join(labels), colour)
        guides.draw(painter, self.context, self.guided, at + QPointF(0, -40))
        if self.fault:
            bad = QColor(self.context.tokens.bad)
            marks.label(painter, self.context.tokens, at + QPointF(0, 26), self.fault, bad)

    def _told(self, size: str, value: float, document: Document) -> str:
        counts = self.counts.get(size, Dimension.LENGTH)
        return f"{self.typed.mark(size)}{size} {self.typed.texts[size] or shown(value, counts, document.units, 3)}"

    def outline(self, painter: QPainter, values: dict[str, float]) -> None:
        """Draws what is about to be, by its sizes."""
        raise NotImplementedError


class BarTool(Drawing):
    """A bar with a hole at each end. Ends that lie on features of other parts are pinned there."""

    name, title, keys = "bar", "Bar", "B"
    sizes: ClassVar[tuple[str, ...]] = ("length", "width", "angle")
    counts: ClassVar[dict[str, Dimension]] = {"angle": Dimension.ANGLE}
    lines = SLOTS
    wants = ("where its first hole is to be", "where the last is to be (with Shift one between)")

    def __init__(self, context: ToolContext):
        super().__init__(context)
        self.between: list[Snap] = []
        """Holes between the ends, made with Shift."""

    def press(self, at: QPointF) -> None:
        shift = QGuiApplication.keyboardModifiers() & Qt.KeyboardModifier.ShiftModifier
        if self.first is not None and shift and self.more:
            self.between.append(self.snap(at))
            self.context.update()
        else:
            super().press(at)

    more = True
    """Whether Shift makes another hole on the way."""

    def cancel(self) -> bool:
        if self.between and not self.typed:
            self.between.pop()
            self.context.update()
            return True
        return super().cancel()

    def finish(self) -> None:
        super().finish()
        if self.first is None:
            self.between = []

    def _end(self, length: float) -> complex:
        """Where the second hole comes: toward the mouse, or as the angle says that was typed; where the mouse is on a
        slot and the length is typed, it swings onto that."""
        assert self.first is not None and self.now is not None
        way = self.now.at - self.first.at
        angle = self.typed.worth(self.session.document, "angle") if self.typed.texts.get("angle") else None
        if angle is not None:
            return self.first.at + cmath.rect(length, angle)
        slot = self.now.grab
        if slot is not None and slot.feature.kind.slotted and self.typed.texts["length"]:
            swung = swung_onto(self.context, slot, self.first.at, length, self.now.at)
            if swung is not None:
                return swung
        return self.first.at + way * (length / abs(way)) if way else self.first.at + length

    def measured(self) -> dict[str, float]:
        assert self.first is not None and self.now is not None
        way, document = self.now.at - self.first.at, self.session.document
        width = usual_width(document, abs(way)) if document is not None else 0.0
        return {"length": abs(way), "width": width, "angle": cmath.phase(way) if way else 0.0}

    def values(self) -> dict[str, float]:
        found = super().values()
        if not self.typed.texts["width"] and self.session.document is not None:
            found["width"] = usual_width(self.session.document, found["length"])
        return found

    def made(self, document: Document) -> Made:
        assert self.first is not None and self.now is not None
        end = self._end(self.values()["length"])
        length = self.typed.written("length") if not self.between else None
        width = self.typed.written("width")
        made = add_bar(document, [self.first.at, *(snap.at for snap in self.between), end], width, length)
        holes = {} if self.first.grab is None else {"A": self.first.grab}
        letters = (chr(ord("B") + k) for k in range(len(self.between)))
        holes |= {name: snap.grab for name, snap in zip(letters, self.between, strict=True)
                  if snap.grab is not None and snap.grab.feature.kind.slotted}  # fmt: skip
        slot = self.now.grab is not None and self.now.grab.feature.kind.slotted
        if self.now.grab is not None and (abs(end - self.now.at) < 1e-6 or (slot and self._on_slot(end))):
            holes[chr(ord("B") + len(self.between))] = self.now.grab
        return pinned(document, made, self.session.posing.poses(), holes, self.session.posing.start_poses())

    def _on_slot(self, end: complex) -> bool:
        """Whether the last hole lies in the slot under the mouse."""
        assert self.now is not None and self.now.grab is not None
        part, along = self.now.grab.part, self.now.grab.feature.along
        own = self.context.frame.own(part, end)
        return along is not None and abs(along.nearest(own) - own) < 1e-6

    def outline(self, painter: QPainter, values: dict[str, float]) -> None:
        assert self.first is not None
        ends = (self.first.at, *(snap.at for snap in self.between), self._end(values["length"]))
        spots = [self.context.pixel(spot) for spot in ends]
        middle = QPainterPath(spots[0])
        for spot in spots[1:]:
            middle.lineTo(spot)
        stroker = QPainterPathStroker()
        stroker.setWidth(max(values["width"] * self.context.scale, 1.0))
        stroker.setCapStyle(Qt.PenCapStyle.RoundCap)
        stroker.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
        painter.drawPath(stroker.createStroke(middle).simplified())
        for spot in spots:
            painter.drawEllipse(spot, 3.0, 3.0)


def swung_onto(context: ToolContext, slot: Grab, first: complex, length: float, near: complex) -> complex | None:
    """The place on a slot's centre line at a length from another place, of two the one that is nearer to the hand; None
    where the slot lies all nearer or further."""
    along, frame = slot.feature.along, context.frame
    if along is None:
        return None
    own = frame.own(slot.part, first)
    found = [frame.stands(slot.part, spot) for spot in along.at_distance(own, length)]
    return min(found, key=lambda spot: abs(spot - near)) if found else None


def _plain() -> bool:
    """Whether guides are to be left alone: Alt is held."""
    return bool(QGuiApplication.keyboardModifiers() & Qt.KeyboardModifier.AltModifier)


class DiscTool(Drawing):
    """A disc; one that is drawn about a feature of another part is pinned there."""

    name, title, keys = "disc", "Disc", "D"
    runs = False
    sizes = ("diameter",)
    wants = ("its centre", "how far it reaches")

    def measured(self) -> dict[str, float]:
        assert self.first is not None and self.now is not None
        return {"diameter": 2 * abs(self.now.at - self.first.at)}

    def made(self, document: Document) -> Made:
        assert self.first is not None
        made = add_disc(document, self.first.at, self.size("diameter"))
        holes = {} if self.first.grab is None else {"A": self.first.grab}
        return pinned(document, made, self.session.posing.poses(), holes, self.session.posing.start_poses())

    def outline(self, painter: QPainter, values: dict[str, float]) -> None:
        assert self.first is not None
        radius = values["diameter"] / 2 * self.context.scale
        painter.drawEllipse(self.context.pixel(self.first.at), radius, radius)


class PlateTool(Drawing):
    """A rectangular plate between two corners."""

    name, title, keys = "plate", "Plate", "P"
    runs = False
    sizes: ClassVar[tuple[str, ...]] = ("width", "height")
    wants = ("one corner", "the corner across")

    def measured(self) -> dict[str, float]:
        assert self.first is not None and self.now is not None
        across = self.now.at - self.first.at
        return {"width": abs(across.real), "height": abs(across.imag)}

    def _center(self, values: dict[str, float]) -> complex:
        assert self.first is not None and self.now is not None
        across = self.now.at - self.first.at
        way = complex(math.copysign(values["width"], across.real), math.copysign(values["height"], across.imag))
        return self.first.at + way / 2

    def made(self, document: Document) -> Made:
        return add_plate(document, self._center(self.values()), self.size("width"), self.size("height"))

    def outline(self, painter: QPainter, values: dict[str, float]) -> None:
        middle = self.context.pixel(self._center(values))
        wide, high = values["width"] * self.context.scale, values["height"] * self.context.scale
        painter.drawRect(QRectF(middle.x() - wide / 2, middle.y() - high / 2, wide, high))


class AngleTool(PlateTool):
    """An L between two corners."""

    name, title, keys = "angle", "L-shape", ""
    sizes = ("width", "height", "leg")
    tee = False

    def measured(self) -> dict[str, float]:
        found = super().measured()
        return found | {"leg": float(f"{max(min(found.values()), 1e-9) * LEG:.2g}")}

    def made(self, document: Document) -> Made:
        width, height, leg = (self.size(name) for name in self.sizes)
        return add_angled(document, self._center(self.values()), width, height, leg, self.tee)

    def outline(self, painter: QPainter, values: dict[str, float]) -> None:
        middle, scale = self.context.pixel(self._center(values)), self.context.scale
        wide, high, leg = (values[name] * scale for name in self.sizes)
        if self.tee:
            across, stem = QRectF(-wide / 2, -high / 2, wide, leg), QRectF(-leg / 2, -high / 2, leg, high)
        else:
            across, stem = QRectF(-wide / 2, high / 2 - leg, wide, leg), QRectF(-wide / 2, -high / 2, leg, high)
        both = QPainterPath()
        both.addRect(across.translated(middle))
        other = QPainterPath()
        other.addRect(stem.translated(middle))
        painter.drawPath(both.united(other))


class TeeTool(AngleTool):
    """A T between two corners."""

    name, title, keys = "tee", "T-shape", ""
    tee = True
