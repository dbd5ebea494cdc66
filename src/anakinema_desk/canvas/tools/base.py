"""What a tool is."""

from collections.abc import Callable
from typing import ClassVar

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPen

from anakinema.document.model import Part
from anakinema.errors import DocumentError
from anakinema.geometry.features import FeatureKind
from anakinema.operations import Grab, Made

from .. import marks
from ..context import ToolContext
from ..layers import edge
from ..paths import path_at
from ..picking import Snap

STILL = 3.0
"""How far the mouse may move (pixels) while Tab goes through what is there."""


class Tool:
    """A tool in the hand. It is given pixels, and takes keys while it has use for them."""

    name: ClassVar[str]
    title: ClassVar[str]
    keys: ClassVar[str]
    lines: ClassVar[frozenset[FeatureKind]] = frozenset()
    """The kinds of lines along which it picks."""

    def __init__(self, context: ToolContext):
        self.context, self.session = context, context.session
        self.now: Snap | None = None
        """Where the hand is."""
        self.mouse = 0j
        """The same without snapping."""

    @property
    def hint(self) -> str:
        """What it wants next."""
        raise NotImplementedError

    @property
    def typing(self) -> bool:
        """Whether letters and figures are typed into it now, rather than being shortcuts."""
        return False

    def press(self, at: QPointF) -> None:
        """The left button goes down."""

    def move(self, at: QPointF) -> None:
        """The mouse is there now."""
        place = self.context.place(at)
        if abs(place - self.mouse) * self.context.scale > STILL:
            self.context.picking.turn = 0
        self.mouse = place
        self.now = self.snap(at)

    def snap(self, at: QPointF) -> Snap:
        """What a pixel means to it."""
        return self.context.snap(at, self.lines)

    def light(self, painter: QPainter, part: Part) -> None:
        """Draws the outline of a part that is meant."""
        painter.save()
        painter.setPen(edge(self.context.tokens.accent, 2.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setTransform(self.context.transform(part.id) * painter.transform())
        for slab in part.slabs:
            painter.drawPath(path_at(slab.region, self.context.scale))
        painter.restore()

    def key(self, event: QKeyEvent) -> bool:
        """A key; whether the tool had use for it."""
        return False

    def tab(self, forward: bool) -> bool:
        """Tab, or Shift+Tab; whether the tool had use for it."""
        return False

    def next_feature(self, forward: bool) -> bool:
        """Goes on to the next of the features near the hand, where there are several."""
        now = self.now
        if now is None or (now.count < 2 and not now.behind and self.context.picking.turn == 0):
            return False
        self.context.picking.turn += 1 if forward else -1
        self.move(self.context.pixel(self.mouse))
        self.context.update()
        return True

    def cancel(self) -> bool:
        """Backs out one step; False where there is nothing to back out of, and the tool is put away."""
        return False

    def shown(self) -> None:
        """More is known of the document."""

    def document_changed(self) -> None:
        """Forgets what the document no longer holds."""
        if self.now is not None and not self.there(self.now.grab):
            self.now = Snap(self.now.at)

    def there(self, grab: Grab | None) -> bool:
        """Whether what was grabbed still is."""
        document = self.session.document
        return grab is not None and document is not None and grab.part in document.parts

    def mark(self, painter: QPainter, snap: Snap, named: bool) -> None:
        """Marks the feature that a click would take, and names it where that is wanted."""
        spot, tokens = self.context.pixel(snap.at), self.context.tokens
        if snap.grab is None:
            if named and snap.behind:
                marks.label(painter, tokens, spot + QPointF(14, 16), snap.word, QColor(tokens.line))
            return
        marks.along(painter, tokens, self.context.transform(snap.grab.part), snap.grab.feature)
        painter.setPen(QPen(QColor(tokens.accent), 1.6))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(spot, 7.0, 7.0)
        if named:
            marks.label(painter, tokens, spot + QPointF(14, 16), snap.word, QColor(tokens.line))

    def draw(self, painter: QPainter) -> None:
        """Draws what is about to be, in pixels."""


class TwoClicks(Tool):
    """A tool whose first click is kept until the second; Escape forgets it."""

    first: Grab | complex | None = None
    """What was clicked first."""

    def tab(self, forward: bool) -> bool:
        return self.next_feature(forward)

    def cancel(self) -> bool:
        if self.first is None:
            return False
        self.first = None
        self.context.changed()
        return True


class FromFeature(TwoClicks):
    """A tool whose first click takes a feature, and whose second makes something of it."""

    first: Grab | None = None
    """The feature that was clicked first."""

    def document_changed(self) -> None:
        super().document_changed()
        if self.first is not None and not self.there(self.first):
            self.first = None

    def make(self, made: Callable[[], Made], done: str, not_done: str) -> None:
        """Makes what the second click asks for and selects it, or tells why not; `done` and `not_done` say it."""
        try:
            new = made()
            faults = self.session.apply(new.changes, f"{done} {new.place[1]}")
        except DocumentError as error:
            faults = error.faults
        if faults:
            self.session.faults_raised.emit(not_done, faults)
        else:
            self.session.selection.select(".".join(map(str, new.place)))
        self.first = None
