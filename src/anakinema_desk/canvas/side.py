"""The depth view: the stack from the side, true or evenly spread, cut along a line; parts are dragged in depth."""

import bisect

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QBrush, QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QWidget

from anakinema.document.copies import extent
from anakinema.errors import DocumentError
from anakinema.formatting import shown
from anakinema.operations.layering import shifted
from anakinema.operations.section import Line, Meeting, Silhouettes, Slice, about, cut_through, meetings, snapped

from ..session import Session
from ..theme.painting import painting
from ..theme.tokens import Tokens, font
from .frame import Drawn, cut_now
from .layers import part_colour

MARGIN, FOOT = 110.0, 50.0
NEAR = 7.0
"""How near a face must come to another to be put on it (pixels)."""
LEAST_TALL = 26.0
"""Height of a layer that is evenly spread (pixels), at least."""
MOST_TOLD = 14
"""Gaps that are told at once."""


class SideView(QWidget):
    """The stack seen from the lower edge of the plan: along the line to the right, the front upward."""

    hovered = Signal(str)

    def __init__(self, session: Session, tokens: Tokens):
        super().__init__()
        self.session, self.tokens = session, tokens
        self.even = False
        """Whether all layers are drawn equally thick."""
        self.taken: tuple[str, float, float] | None = None
        """The part in the hand, where it was taken (pixels), and how far it is moved by now (document lengths)."""
        self._drawn: Drawn | None = None
        self._sides: Silhouettes | None = None
        self._boxes: list[tuple[QRectF, str]] = []
        self._scale = 1.0
        self._zoom = 1.0
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(260, 180)
        self.setAccessibleName("Depth: the stack from the side")
        for signal in (session.document_changed, session.analysis.changed, session.time_changed,
                       session.selection.changed, session.display_state.changed):  # fmt: skip
            signal.connect(self.update)

    def set_tokens(self, tokens: Tokens) -> None:
        """Takes another theme."""
        self.tokens = tokens
        self.update()

    # -- what is seen ------------------------------------------------------------------------------------------

    @property
    def line(self) -> Line:
        """The line that is looked along."""
        cut = cut_now(self.session, self.session.posing.poses())
        return Line() if cut is None else Line(cut[0], (cut[1] - cut[0]) / abs(cut[1] - cut[0]))

    def slices(self) -> list[Slice]:
        """What is painted: the parts from the side, or what lies in the cut."""
        document = self.session.document
        if document is None:
            return []
        poses, hidden = self.session.posing.poses(), tuple(self.session.display_state.hidden)
        if self.session.display_state.cut is not None:
            found = cut_through(document, poses, self.line, hidden)
        else:
            if self._sides is None or self._sides.document is not document:
                self._sides = Silhouettes(document)
            found = self._sides.seen(poses, self.line, hidden)
        if self.taken is not None:
            name, _, by = self.taken
            found = [Slice(one.part, one.low + by, one.high + by, one.spans, one.near) if one.part == name else one
                     for one in found]  # fmt: skip
        return found

    def _levels(self, slices: list[Slice]) -> list[float]:
        return sorted({level for one in slices for level in (one.low, one.high)})

    def _lay(self, slices: list[Slice]) -> None:
        """Finds scales and places for what is painted."""
        self._depths = self._levels(slices)
        ends = [end for one in slices for span in one.spans for end in span]
        low, high = (min(ends), max(ends)) if ends else (0.0, 1.0)
        wide = max(self.width() - 2 * MARGIN - 96, 60.0)
        tall = max(self.height() - MARGIN - FOOT, 60.0)
        deep = (self._depths[-1] - self._depths[0]) if len(self._depths) > 1 else 1.0
        across = wide / max(high - low, 1e-9)
        self._scale = min(across, tall / max(deep, 1e-9)) if not self.even else across
        self._scale *= self._zoom
        self._middle = (low + high) / 2
        self._tall = tall
        self._deep = deep

    def pixel_x(self, along: float) -> float:
        """Where a place along the line is (pixels)."""
        return (self.width() - 96) / 2 + (along - self._middle) * self._scale

    def pixel_y(self, depth: float) -> float:
        """Where a depth is (pixels)."""
        levels = self._depths
        if not self.even or len(levels) < 2:
            middle = (levels[0] + levels[-1]) / 2 if levels else 0.0
            return MARGIN / 2 + self._tall / 2 - (depth - middle) * self._scale
        row = max(LEAST_TALL, self._tall / (len(levels) - 1)) * self._zoom
        k = min(max(bisect.bisect_right(levels, depth) - 1, 0), len(levels) - 2)
        share = (depth - levels[k]) / (levels[k + 1] - levels[k])
        return MARGIN / 2 + self._tall - (k + share) * row

    def depth_per_pixel(self, at: float) -> float:
        """How much depth a pixel is worth there."""
        if not self.even or len(self._depths) < 2:
            return 1.0 / self._scale
        row = max(LEAST_TALL, self._tall / (len(self._depths) - 1)) * self._zoom
        k = int((MARGIN / 2 + self._tall - at) / row)
        k = min(max(k, 0), len(self._depths) - 2)
        return (self._depths[k + 1] - self._depths[k]) / row

    # -- hands -------------------------------------------------------------------------------------------------

    def pick(self, at: QPointF) -> str:
        """The part that is painted there, the front one first; empty where there is none."""
        found = [(box.height() * box.width(), name) for box, name in self._boxes
                 if box.adjusted(-1, -1, 1, 1).contains(at)]  # fmt: skip
        chosen = self.session.selection.current()[1]
        if any(name == chosen for _, name in found):
            return chosen
        return min(found)[1] if found else ""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        name = self.pick(event.position())
        self.session.selection.select(f"parts.{name}" if name else "")
        document = self.session.document
        if name and document is not None:
            self.taken = name, event.position().y(), 0.0

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        document = self.session.document
        if self.taken is None or document is None:
            name = self.pick(event.position())
            self.hovered.emit(f"parts.{name}" if name else "")
            self.setCursor(Qt.CursorShape.SizeVerCursor if name else Qt.CursorShape.ArrowCursor)
            return
        name, start, _ = self.taken
        per = self.depth_per_pixel(start)
        by = (start - event.position().y()) * per
        if abs(start - event.position().y()) > 3:
            others = [one for one in document.parts if document.parts[one].slabs]
            self.taken = name, start, snapped(document, name, by, NEAR * per, others)
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        taken, self.taken = self.taken, None
        document = self.session.document
        if taken is not None and taken[2] and document is not None:
            try:
                changes = shifted(document, taken[0], taken[2]).changes
            except DocumentError as error:
                self.session.faults_raised.emit("Not moved", error.faults)
            else:
                faults = self.session.apply(changes, f"Depth of {taken[0]}")
                if faults:
                    self.session.faults_raised.emit("Not moved", faults)
        self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        self._zoom = min(max(self._zoom * 1.0015 ** event.angleDelta().y(), 0.2), 20.0)
        self.update()

    def fit(self) -> None:
        """Shows all of the stack."""
        self._zoom = 1.0
        self.update()

    # -- painting ----------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        with painting(self) as painter:
            self.paint(painter)

    def paint(self, painter: QPainter) -> None:
        """The stack, its faces and gaps in numbers."""
        tokens, document = self.tokens, self.session.document
        painter.fillRect(self.rect(), QColor(tokens.paper))
        slices = self.slices()
        self._boxes = []
        if document is None or not slices:
            painter.setPen(QColor(tokens.muted))
            bare = self.session.display_state.cut is None
            text = "No part has an outline" if bare else "Nothing lies in this cut"
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, text)
            return
        if self._drawn is None or self._drawn.document is not document:
            self._drawn = Drawn(document)
        self._lay(slices)
        chosen = self.session.selection.current()[1]
        cut = self.session.display_state.cut is not None
        for one in sorted(slices, key=lambda one: one.part == chosen):  # what is selected is not hidden
            self._draw_slice(painter, one, one.part == chosen, cut)
        if cut:
            self._draw_meetings(painter, meetings(slices, chosen if chosen in document.parts else ""))
        elif chosen in document.parts and self.taken is None:
            self._draw_meetings(painter, about(document, self.session.posing.poses(), chosen, self.line))
        self._draw_scale(painter, chosen)

    def _draw_slice(self, painter: QPainter, one: Slice, mine: bool, cut: bool) -> None:
        tokens = self.tokens
        assert self._drawn is not None
        part = self._drawn.document.parts[one.part]
        colour = part_colour(tokens, part, self._drawn.numbers.get(one.part, 0), self.session.display_state.by_part)
        painter.setPen(QPen(QColor(tokens.accent if mine else tokens.edge), 2.0 if mine else 1.0))
        for low, high in one.spans:
            top, foot = self.pixel_y(one.high), self.pixel_y(one.low)
            box = QRectF(self.pixel_x(low), top, max(self.pixel_x(high) - self.pixel_x(low), 1.0), max(foot - top, 1.0))
            painter.setBrush(colour)
            painter.drawRect(box)
            if cut:
                hatch = QColor(tokens.edge)
                hatch.setAlphaF(0.5)
                forward = self._drawn.numbers.get(one.part, 0) % 2 == 0
                style = Qt.BrushStyle.BDiagPattern if forward else Qt.BrushStyle.FDiagPattern
                painter.fillRect(box, QBrush(hatch, style))
            self._boxes.append((box, one.part))
            if box.width() > 46 and box.height() > 12:
                painter.setFont(font(8.5))
                painter.setPen(QColor(tokens.text))
                name = painter.fontMetrics().elidedText(part.name, Qt.TextElideMode.ElideMiddle, int(box.width() - 6))
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, name)
                painter.setPen(QPen(QColor(tokens.accent if mine else tokens.edge), 2.0 if mine else 1.0))

    def _draw_meetings(self, painter: QPainter, told: list[Meeting]) -> None:
        """How faces stand that lie over each other, in numbers: in a column at the right, led to where they are."""
        document = self.session.document
        assert document is not None
        painter.setFont(font(8.5))
        last = float(self.height())
        for one in told[:MOST_TOLD]:
            y = (self.pixel_y(one.low) + self.pixel_y(one.high)) / 2
            last = min(y, last - 15)
            bad = one.words == "overlap"
            colour = QColor(self.tokens.bad if bad else self.tokens.muted)
            size = "" if one.words == "touch" else f" {shown(abs(one.gap), 'length', document.units, 3)}"
            text = f"{one.words}{size}"
            painter.setPen(QPen(colour, 1.0, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(self.pixel_x(one.at), y), QPointF(self.width() - 100, last))
            painter.setPen(QPen(colour, 2.0))
            along = self.pixel_x(one.at)
            painter.drawLine(QPointF(along, self.pixel_y(one.low)), QPointF(along, self.pixel_y(one.high)))
            painter.setPen(colour)
            painter.drawText(QRectF(self.width() - 96, last - 8, 94, 16), Qt.AlignmentFlag.AlignVCenter, text)

    def _draw_scale(self, painter: QPainter, chosen: str) -> None:
        """What is looked at, and from where to where the selected part lies."""
        document = self.session.document
        assert document is not None
        painter.setFont(font(9.0))
        painter.setPen(QColor(self.tokens.muted))
        spread = "layers evenly spread" if self.even else "to scale"
        what = "cut along the line in the plan" if self.session.display_state.cut is not None else "from the lower edge"
        text = f"Depth {what}, {spread}; the front is up"
        painter.drawText(QRectF(14, 10, self.width() - 28, 16), Qt.AlignmentFlag.AlignVCenter, text)
        hint = "Drag a part up or down: its faces stop at those of others, or midway between two"
        if chosen in document.parts:
            by = self.taken[2] if self.taken is not None else 0.0
            low, high = (end + by for end in extent([document.parts[chosen]]))
            ends = [shown(end, "number", document.units, 3) for end in (low, high)]
            thick = shown(high - low, "length", document.units, 3)
            hint = f"{document.parts[chosen].name}: {ends[0]} to {ends[1]}, {thick} thick"
        painter.drawText(QRectF(14, 28, self.width() - 28, 16), Qt.AlignmentFlag.AlignVCenter, hint)


