"""The sizes of the part that is selected, beside it on the bench: a click on one lets it be typed."""

from collections.abc import Iterator
from typing import Any

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPen
from PySide6.QtWidgets import QLabel, QWidget

from anakinema.document.model import Document, Part
from anakinema.errors import DocumentError, Fault
from anakinema.formatting import shown
from anakinema.geometry import shapes as s
from anakinema.operations import size_of_side, with_size_of_side
from anakinema.operations.sides import middle_of

from ..panels.fields import ExpressionField, as_value, written
from ..session import Session
from ..theme.tokens import Tokens
from . import marks
from .frame import Frame
from .viewport import Viewport

Place = tuple[str | int, ...]
SIDE = "side"
"""In the place of a size: it is that of a side of an outline, by its number."""
MOST = 14
"""Sizes shown at once."""


class Dimensions:
    """Draws sizes, finds the one under a pixel, and opens a field for it over the bench."""

    def __init__(self, bench: QWidget, session: Session):
        self.bench, self.session = bench, session
        self.boxes: dict[Place, QRectF] = {}
        self.taken: list[QRectF] = []
        """Where other texts stand."""
        self.tokens: Tokens | None = None
        """The theme in which they were drawn."""
        self.field: SizeField | None = None

    def clear(self) -> None:
        """Nothing is shown."""
        self.boxes, self.taken = {}, []

    def draw(self, painter: QPainter, frame: Frame, view: Viewport, part: Part) -> None:
        """The sizes of a part, where it stands."""
        document, ink = frame.document, QColor(frame.tokens.muted)
        self.tokens = frame.tokens
        for place, at, word in list(sizes(document, part))[:MOST]:
            value = document.values.get(".".join(map(str, place)))
            if value is not None:
                number_text = shown(value.number, value.dimension, document.units, 3)
            elif SIDE in place:
                number_text = shown(_long(part.shapes[int(place[-3])], int(place[-1])), "length", document.units, 3)
            else:
                continue
            spot = view.pixel(frame.stands(part.id, at))
            text = f"{word} {number_text}".strip()
            beside = self._beside(painter, spot, text)
            if QLineF(spot, beside).length() > 20:
                painter.setPen(QPen(ink, 0.8))
                painter.drawLine(spot, beside)
            self.boxes[place] = marks.label(painter, frame.tokens, beside, text, ink)

    def _beside(self, painter: QPainter, spot: QPointF, text: str) -> QPointF:
        """A place near a spot where the text covers no other size."""
        size = marks.size_of(painter, text)
        ways = [QPointF(4, 0), QPointF(-size.width() - 4, 0)]
        ways += [QPointF(x, step * 20.0) for step in (1, -1, 2, -2, 3, -3, 4) for x in (6.0, -size.width() - 6.0)]
        for way in ways:
            box = QRectF(spot + way - QPointF(0, size.height() / 2), size)
            if not any(box.intersects(other) for other in [*self.taken, *self.boxes.values()]):
                return spot + way
        return spot + ways[0]

    def at(self, pixel: QPointF) -> Place | None:
        """The size under a pixel."""
        return next((place for place, box in self.boxes.items() if box.contains(pixel)), None)

    def open(self, place: Place) -> None:
        """Lets a size be typed where it stands."""
        self.close()
        box = self.boxes[place]
        self.field = SideField(self, place) if SIDE in place else SizeField(self, place)
        wide = max(int(box.width()) + 30, 90)
        self.field.setGeometry(int(box.left()), int(box.top()) - 2, wide, int(box.height()) + 6)
        self.field.show()
        self.field.setFocus()
        self.field.selectAll()

    def close(self) -> None:
        """Takes the field away; what is typed has been taken in."""
        if self.field is not None:
            field, self.field = self.field, None
            field.retired = True
            for each in (field, field.fault_label):
                if each is not None:
                    each.hide()
                    each.deleteLater()


class SizeField(ExpressionField):
    """A field over the bench for one size: Enter takes it in, Escape leaves it as it was."""

    def __init__(self, dimensions: Dimensions, place: Place):
        super().__init__(dimensions.session, place, " ".join(map(str, place[-2:])))
        self.setParent(dimensions.bench)
        self.dimensions = dimensions
        self.applied.connect(self._done)
        self.put_below = self._put_below

    def _put_below(self, label: QLabel) -> None:
        label.setParent(self.dimensions.bench)
        label.setWordWrap(False)
        tokens = self.dimensions.tokens
        assert tokens is not None  # a size is opened where it was drawn
        label.setStyleSheet(f"background: {tokens.raised}; border: 1px solid {tokens.bad}; padding: 1px 5px")

    def _mark(self, fault: str) -> None:
        super()._mark(fault)
        if self.fault_label is not None:
            self.fault_label.adjustSize()
            room = self.dimensions.bench.width() - self.fault_label.width() - 4
            self.fault_label.move(max(min(self.x(), room), 0), self.geometry().bottom() + 3)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape or (
            event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and not self.isModified()
        ):
            self._done()
            return
        super().keyPressEvent(event)

    def focusOutEvent(self, event: Any) -> None:
        super().focusOutEvent(event)
        if not self.isModified():
            self._done()

    def _done(self) -> None:
        if self.dimensions.field is self:
            self.dimensions.close()
            self.dimensions.bench.setFocus()


class SideField(SizeField):
    """The same for the length of an outline's side or the radius of its arc, which stands in no one place of the
    tree."""

    def _side(self) -> tuple[Document, Place, s.Shape, int] | None:
        document, place = self.session.document, self.place
        kind, name = self.session.selection.current()
        part = document.parts.get(name) if document is not None and kind == "parts" else None
        if document is None or part is None or int(place[-3]) >= len(part.shapes):
            return None
        return document, tuple(place[:-2]), part.shapes[int(place[-3])], int(place[-1])

    def elsewhere(self, fault: Fault) -> str:
        return fault.text

    def refresh(self) -> None:
        if self.hasFocus() and self.isModified():
            return
        side = self._side()
        length = None if side is None else size_of_side(*side)
        self.setText("" if length is None else written(length))
        self.setModified(False)
        self._mark("")

    def put(self, text: str) -> tuple[Fault, ...]:
        side = self._side()
        if side is None:
            return ()
        try:
            changes = with_size_of_side(*side, as_value(text))
        except DocumentError as error:
            return error.faults
        return self.session.apply(changes, f"Change side {side[3] + 1}")


def sizes(document: Document, part: Part) -> Iterator[tuple[Place, complex, str]]:
    """The places of a part's sizes in the tree, where each is shown in the part's own axes, and a word before it."""
    entry = document.entry("parts", part.id)
    here: Place = document.home("parts", part.id)
    points = entry.get("points", {})
    for number, given in enumerate(entry.get("shapes", [])):
        if number >= len(part.shapes):
            return
        shape = part.shapes[number]
        place: Place = (*here, "shapes", number)
        for key, at, word in shape.sizes():
            yield (*place, *key), at, word
        if shape.spine is not None and isinstance(last := given["through"][-1], str) and last in points:
            one, two = shape.spine
            if abs(one) < 1e-9 and abs(two.imag) < 1e-9:
                yield (*here, "points", last, 0), one + (two - one) * 0.4, ""
        spots, _ = shape.corners()
        if len(spots) <= MOST and not document.is_mirrored(part.id):
            for side in range(len(spots)):
                if size_of_side(document, place, shape, side) is not None:
                    yield (*place, SIDE, side), middle_of(shape, side), "R" if shape.arc_of(side) else ""


def _long(shape: s.Shape, side: int) -> float:
    """The length of a straight side, the radius of an arc."""
    spots, _ = shape.corners()
    arc = shape.arc_of(side)
    end = spots[(side + 1) % len(spots)] if arc is None or arc.center is None else complex(*arc.center)
    return abs(end - spots[side])
