"""The parts as they are painted: layers from back to front, the brighter the higher."""

from collections.abc import Sequence
from functools import partial, reduce
from itertools import groupby
from typing import TYPE_CHECKING, NamedTuple

from PySide6.QtCore import QRectF
from PySide6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen, QTransform

from anakinema.document.model import Document, Part

from ..state.shown import Pose
from .paths import region_path

if TYPE_CHECKING:
    from .canvas import Canvas
    from .stills import Stills

MOST_STILL = 12
"""Runs of layers up to which those that stand still have pictures."""


class Layer(NamedTuple):
    """A slab of a part: its boundary in the part's own axes, and how it is filled."""

    part: str
    path: QPainterPath
    fill: QBrush


class Layers:
    """Paints the stack of a bench."""

    def __init__(self, canvas: "Canvas", stills: "Stills"):
        self.canvas, self.stills = canvas, stills
        self._runs: list[tuple[bool, list[Layer]]] = []
        """Layers that stand still, and such that move, in turn."""
        self._of: tuple[object, ...] = ()
        self._numbers: dict[str, int] = {}
        """What moves, numbered: the colours go by it."""

    def draw(self, painter: QPainter) -> None:
        """All that is not hidden. What stands still between two layers that move has a picture."""
        view = self.canvas.view_transform()
        for number, (fixed, run) in enumerate(self._made()):
            if not fixed or number > MOST_STILL:
                self._draw(run, painter)
                continue
            boxes = [
                (self.canvas.part_transform(layer.part) * view).mapRect(layer.path.boundingRect()) for layer in run
            ]
            box = reduce(QRectF.united, boxes).adjusted(-2, -2, 2, 2).intersected(QRectF(self.canvas.rect()))
            if not box.isEmpty():
                of = (*self._of, *(self.canvas.poses[layer.part] for layer in run))
                self.stills.draw(painter, f"layers.{number}", of, box, partial(self._draw, run))

    def draw_trial(self, painter: QPainter, document: Document, poses: dict[str, Pose]) -> None:
        """The mechanism with the number that is being tried."""
        view = self.canvas.view_transform()
        stack = sorted(((part, slab) for part in document.parts.values() for slab in part.slabs),
                       key=lambda each: each[1].low)  # fmt: skip
        painter.setPen(edge(self.canvas.tokens.accent, 1.3))
        for part, slab in stack:
            x, y, angle = poses[part.id]
            if part.fixed and document.parts[part.id].shapes == self.canvas.part(part.id).shapes:
                continue
            colour = self._colour(self.canvas.part(part.id))
            colour.setAlphaF(0.85)
            painter.setBrush(colour)
            painter.setTransform(QTransform().translate(x, y).rotateRadians(angle) * view)
            painter.drawPath(region_path(slab.region))
        painter.resetTransform()

    def _draw(self, run: Sequence[Layer], painter: QPainter) -> None:
        at = painter.transform()
        view = self.canvas.view_transform() * at
        painter.setPen(edge(self.canvas.tokens.edge, 1.1))
        for part, path, fill in run:
            painter.setTransform(self.canvas.part_transform(part) * view)
            painter.setBrush(fill)
            painter.drawPath(path)
        painter.setTransform(at)

    def _made(self) -> list[tuple[bool, list[Layer]]]:
        """The runs of the document and the looks as they are."""
        stack, display_state, theme = self.canvas.stack(), self.canvas.session.display_state, self.canvas.tokens.name
        of = (self.canvas.stacked, theme, display_state.by_part, display_state.hidden, display_state.through)
        document = self.canvas.session.document
        if of != self._of and document is not None:
            moving = (part.id for part in document.parts.values() if not part.fixed)
            self._numbers = {part: i for i, part in enumerate(moving)}
            lows = sorted({slab.low for _, slab in stack})
            lift = {low: (14 if theme == "light" else 26) * i / max(len(lows) - 1, 1) for i, low in enumerate(lows)}
            layers = []
            for part, slab in stack:
                if part.id in display_state.hidden:
                    continue
                colour = self._colour(part).lighter(92 + int(lift[slab.low]))
                if part.id in display_state.through:
                    colour.setAlphaF(0.25)
                layers.append((part.fixed, Layer(part.id, region_path(slab.region), QBrush(colour))))
            self._runs = [(fixed, [layer for _, layer in run]) for fixed, run in groupby(layers, lambda each: each[0])]
            self._of = of
        return self._runs

    def _colour(self, part: Part) -> QColor:
        """The fill of a part: its own colour, the frame's, or the next of the theme's."""
        tokens = self.canvas.tokens
        own = QColor(part.color) if part.color else QColor()
        if own.isValid():
            return own
        if part.fixed:
            return QColor(tokens.frame_fill)
        if not self.canvas.session.display_state.by_part:
            return QColor(tokens.fills[0])
        return QColor(tokens.fills[self._numbers.get(part.id, 0) % len(tokens.fills)])


def edge(colour: str, width: float) -> QPen:
    """The pen of an outline, of so many pixels at any scale."""
    pen = QPen(QColor(colour), width)
    pen.setCosmetic(True)
    return pen
