"""The depth of a part on its card: two numbers, a thickness, and the stack from the side in which it is moved."""

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from anakinema.document.copies import extent
from anakinema.document.expressions import ExpressionError
from anakinema.document.model import Document, Part
from anakinema.errors import DocumentError, Fault
from anakinema.formatting import shown
from anakinema.operations import Made
from anakinema.operations.layering import before, behind, neighbours, shifted, told_span, with_depth, with_thickness

from ...session import Session
from ...theme.painting import painting
from ...theme.tokens import Tokens, font
from ..fields import ToldField, as_value

if TYPE_CHECKING:
    from .properties import Properties

MOST = 9
"""Parts of a stack that are drawn."""
ROW, LEFT, EDGE = 17.0, 78.0, 8.0
"""Height of a part in the stack, room for its name, and room at the other side (pixels)."""
NEAR = 6.0
"""How near a face must be to another to be put on it (pixels)."""


def depth(properties: "Properties", document: Document, name: str) -> None:
    """Where a part lies in depth: typed, put before or behind another, or dragged in the stack."""
    grid = properties.section("DEPTH, back to front")
    for row, (label, field) in enumerate((("lies from … to", SpanField(properties.session, name)),
                                          ("thickness", ThickField(properties.session, name)))):  # fmt: skip
        properties.own_field(grid, row, label, field, f"{name}.{'depth' if row == 0 else 'thickness'}")
    others = [one for one in document.parts if one != name and document.parts[one].slabs]
    if others:
        for word, put in (("in front of", before), ("behind", behind)):
            properties.pick(grid, word, ["", *others], lambda: "", partial(_put, properties, name, put, word))
        properties.rows.addWidget(StackView(properties.session, properties.tokens, name))


def _put(
    properties: "Properties", name: str, put: Callable[[Document, str, str], Made], word: str, other: str
) -> None:
    document = properties.session.document
    if document is None or other not in document.parts or name not in document.parts:
        return
    faults = properties.session.apply(put(document, name, other).changes, f"Put {name} {word} {other}")
    if faults:
        properties.session.faults_raised.emit("Not moved", faults)


class DepthField(ToldField):
    """A text that speaks of a part's depth."""

    def __init__(self, session: Session, part: str, name: str):
        self.part = part
        super().__init__(session, ("parts", part, name), f"{name} of {part}")

    def _said(self, part: Part, document: Document) -> str:
        raise NotImplementedError

    def _made(self, document: Document, text: str) -> Made:
        raise NotImplementedError

    def said(self, document: Document) -> str:
        part = document.parts.get(self.part)
        return "" if part is None else self._said(part, document)

    def elsewhere(self, fault: Fault) -> str:
        return fault.text

    def put(self, text: str) -> tuple[Fault, ...]:
        document = self.session.document
        if document is None or self.part not in document.parts:
            return ()
        try:
            made = self._made(document, text.replace("−", "-"))
        except DocumentError as error:
            return error.faults
        except ExpressionError as error:
            return (Fault("", str(error)),)
        return self.session.apply(made.changes, f"Depth of {self.part}")


class SpanField(DepthField):
    """``4 to 7``, in any order."""

    def __init__(self, session: Session, part: str):
        super().__init__(session, part, "depth")

    def _said(self, part: Part, document: Document) -> str:
        return " to ".join(shown(end, "number", document.units, 6) for end in part.depth)

    def _made(self, document: Document, text: str) -> Made:
        span = told_span(text)
        if span is None:
            raise DocumentError([Fault("", "say from where to where, as 4 to 7")])
        one, two = (as_value(end) for end in span)
        return with_depth(document, self.part, one, two)


class ThickField(DepthField):
    """A number, or an expression."""

    def __init__(self, session: Session, part: str):
        super().__init__(session, part, "thickness")

    def _said(self, part: Part, document: Document) -> str:
        return shown(part.depth[1] - part.depth[0], "number", document.units, 6)

    def _made(self, document: Document, text: str) -> Made:
        return with_thickness(document, self.part, as_value(text))


class StackView(QWidget):
    """The parts that lie about the selected one, from the side: back at the left, front at the right. That one is
    dragged; its faces stop at those of others."""

    def __init__(self, session: Session, tokens: Tokens, part: str):
        super().__init__()
        self.session, self.tokens, self.part = session, tokens, part
        self.by: float | None = None
        """How far it is being moved (document lengths); None while it is not."""
        self._pressed = QPointF()
        self.setAccessibleName("The stack from the side")
        self.setToolTip("From the side: drag the part to another depth; its faces stop at those of others")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(round(ROW * max(len(self.stack()), 1) + 18))
        self.setMouseTracking(True)

    def stack(self) -> list[Part]:
        """The parts that are drawn, from back to front: those nearest in depth."""
        document = self.session.document
        if document is None or self.part not in document.parts:
            return []
        low, high = extent([document.parts[self.part]])
        middle = (low + high) / 2
        others = [one.id for one in document.parts.values() if one.slabs and one.id != self.part]
        others.sort(key=lambda name: abs(sum(extent([document.parts[name]])) / 2 - middle))
        return neighbours(document, self.part, others[: MOST - 1])

    def _range(self) -> tuple[float, float]:
        low, high = extent(self.stack()) if self.stack() else (0.0, 1.0)
        room = max(high - low, 1e-6) * 0.12
        return low - room, high + room

    def pixel(self, depth: float) -> float:
        """Where a depth is drawn."""
        low, high = self._range()
        return LEFT + (depth - low) / (high - low) * max(self.width() - LEFT - EDGE, 10)

    def _per_pixel(self) -> float:
        low, high = self._range()
        return (high - low) / max(self.width() - LEFT - EDGE, 10)

    def bar(self, row: int, part: Part) -> list[QRectF]:
        """Where the slabs of a part are drawn."""
        by = self.by or 0.0 if part.id == self.part else 0.0
        spans = sorted({(slab.low, slab.high) for slab in part.slabs} or {part.depth})
        top = row * ROW + 2
        return [QRectF(self.pixel(low + by), top, max(self.pixel(high) - self.pixel(low), 2.0), ROW - 5)
                for low, high in spans]  # fmt: skip

    def mousePressEvent(self, event: QMouseEvent) -> None:
        mine = next((row for row, part in enumerate(self.stack()) if part.id == self.part), None)
        document = self.session.document
        if mine is None or document is None or event.button() != Qt.MouseButton.LeftButton:
            return
        boxes = self.bar(mine, document.parts[self.part])
        if any(box.adjusted(-4, -4, 4, 4).contains(event.position()) for box in boxes):
            self._pressed, self.by = event.position(), 0.0
            self.setCursor(Qt.CursorShape.SizeHorCursor)
            return
        row = int(event.position().y() // ROW)
        if 0 <= row < len(self.stack()):
            self.session.selection.select(f"parts.{self.stack()[row].id}")

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        document = self.session.document
        if self.by is None or document is None or self.part not in document.parts:
            return
        by = (event.position().x() - self._pressed.x()) * self._per_pixel()
        low, high = extent([document.parts[self.part]])
        faces = [face for part in self.stack() if part.id != self.part for face in extent([part])]
        near = NEAR * self._per_pixel()
        put = [face - end for face in faces for end in (low, high) if abs(face - end - by) < near]
        self.by = min(put, key=lambda one: abs(one - by)) if put else round(by, 1)
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        by, self.by = self.by, None
        self.unsetCursor()
        document = self.session.document
        if by and document is not None and self.part in document.parts:
            faults = self.session.apply(shifted(document, self.part, by).changes, f"Depth of {self.part}")
            if faults:
                self.session.faults_raised.emit("Not moved", faults)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        with painting(self) as painter:
            self._paint(painter)

    def _paint(self, painter: QPainter) -> None:
        document = self.session.document
        if document is None:
            return
        painter.setFont(font(8.5))
        for row, part in enumerate(self.stack()):
            mine = part.id == self.part
            ink = QColor(self.tokens.accent if mine else self.tokens.edge)
            fill = QColor(ink)
            fill.setAlphaF(0.35 if mine else 0.15)
            painter.setPen(QColor(self.tokens.text if mine else self.tokens.muted))
            name = painter.fontMetrics().elidedText(part.name, Qt.TextElideMode.ElideMiddle, int(LEFT - 8))
            painter.drawText(QRectF(0, row * ROW, LEFT - 6, ROW - 1), Qt.AlignmentFlag.AlignVCenter, name)
            painter.setPen(QPen(ink, 1.2))
            painter.setBrush(fill)
            for box in self.bar(row, part):
                painter.drawRect(box)
        low, high = extent([document.parts[self.part]]) if self.part in document.parts else (0.0, 0.0)
        by = self.by or 0.0
        text = f"{shown(low + by, 'number', document.units, 3)} to {shown(high + by, 'number', document.units, 3)}"
        painter.setPen(QColor(self.tokens.muted))
        under = QRectF(LEFT, self.height() - 16, self.width() - LEFT, 15)
        painter.drawText(under, Qt.AlignmentFlag.AlignVCenter, f"back   {text}   front")
