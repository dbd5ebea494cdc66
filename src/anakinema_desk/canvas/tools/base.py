"""What a tool is."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, ClassVar

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPen

from anakinema.document.model import Part
from anakinema.errors import DocumentError
from anakinema.operations import Grab, Made

from .. import marks
from ..layers import edge
from ..paths import region_path

if TYPE_CHECKING:
    from ..canvas import Canvas


STILL = 3.0
"""How far the mouse may move (pixels) while Tab goes through what is there."""


@dataclass(frozen=True)
class Snap:
    """Where the hand means: a place in the plane, and the feature there, if it is one."""

    at: complex
    grab: Grab | None = None
    count: int = 1
    """How many features are near; Tab goes through them."""

    @property
    def word(self) -> str:
        """What is there, in words."""
        if self.grab is None:
            return ""
        message = self.grab.feature.description(self.grab.part)
        return f"{message}   (Tab: 1 of {self.count})" if self.count > 1 else message


class Tool:
    """A tool in the hand. It is given pixels, and takes keys while it has use for them."""

    name: ClassVar[str]
    title: ClassVar[str]
    keys: ClassVar[str]

    def __init__(self, canvas: "Canvas"):
        self.canvas, self.session = canvas, canvas.session
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
        spot = self.canvas.to_world(at)
        if abs(complex(spot.x(), spot.y()) - self.mouse) * self.canvas.scale > STILL:
            self.canvas.picking.turn = 0
        self.mouse = complex(spot.x(), spot.y())
        self.now = self.canvas.snap(at)

    def light(self, painter: QPainter, part: Part) -> None:
        """Draws the outline of a part that is meant."""
        painter.save()
        painter.setPen(edge(self.canvas.tokens.accent, 2.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        base = self.canvas.part_transform(part.id) * self.canvas.view_transform()
        for slab in part.slabs:
            painter.drawPath(base.map(region_path(slab.region)))
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
        if now is None or now.count < 2:
            return False
        self.canvas.picking.turn += 1 if forward else -1
        self.move(self.canvas.pixel(self.mouse))
        self.canvas.update()
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
        if snap.grab is None:
            return
        spot, tokens = self.canvas.pixel(snap.at), self.canvas.tokens
        painter.setPen(QPen(QColor(tokens.accent), 1.6))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(spot, 7.0, 7.0)
        if named:
            marks.label(painter, tokens, spot + QPointF(14, 16), snap.word, QColor(tokens.line))

    def draw(self, painter: QPainter) -> None:
        """Draws what is about to be, in pixels."""


class FromFeature(Tool):
    """A tool whose first click takes a feature, and whose second makes something of it."""

    def __init__(self, canvas: "Canvas"):
        super().__init__(canvas)
        self.first: Grab | None = None
        """The feature that was clicked first."""

    def tab(self, forward: bool) -> bool:
        return self.next_feature(forward)

    def cancel(self) -> bool:
        if self.first is None:
            return False
        self.first = None
        self.canvas.changed_tool()
        return True

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
            self.session.select(".".join(map(str, new.place)))
        self.first = None
