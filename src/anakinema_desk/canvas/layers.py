"""The parts as they are painted: layers from back to front, the brighter the higher."""

from collections.abc import Sequence
from functools import partial, reduce
from itertools import groupby
from typing import NamedTuple

from PySide6.QtCore import QRectF
from PySide6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen, QTransform

from anakinema.document.model import Part
from anakinema.geometry.outline import Region

from ..theme.tokens import Tokens
from .frame import Frame
from .paths import path_at, region_path
from .stills import Stills
from .viewport import Viewport

THIN = 1.0
"""The width of an outline (pixels): by far the fastest to paint, several times so beside one that is a tenth wider."""
MOST_STILL = 12
"""Runs of layers up to which those that stand still have pictures."""


class Layer(NamedTuple):
    """A slab of a part: its boundary in the part's own axes, and how it is filled."""

    part: str
    region: Region
    fill: QBrush

    @property
    def path(self) -> QPainterPath:
        """Its boundary, exact."""
        return region_path(self.region)


class Layers:
    """Paints the stack of a frame."""

    def __init__(self, stills: Stills):
        self.stills = stills
        self._runs: list[tuple[bool, list[Layer]]] = []
        """Layers that stand still, and such that move, in turn."""
        self._of: tuple[object, ...] = ()

    def draw(self, painter: QPainter, frame: Frame, view: Viewport) -> None:
        """All that is not hidden. What stands still between two layers that move has a picture."""
        for number, (fixed, run) in enumerate(self._made(frame)):
            draw = partial(self._draw, run, frame, view)
            if not fixed or number > MOST_STILL:
                draw(painter)
                continue
            boxes = [
                (frame.transform(layer.part) * view.transform).mapRect(layer.path.boundingRect()) for layer in run
            ]
            box = reduce(QRectF.united, boxes).adjusted(-2, -2, 2, 2).intersected(view.rect)
            if not box.isEmpty():
                of = (*self._of, *(frame.poses[layer.part] for layer in run))
                self.stills.draw(painter, view, f"layers.{number}", of, box, draw)

    def draw_trial(self, painter: QPainter, frame: Frame, view: Viewport) -> None:
        """The mechanism with the number that is being tried."""
        trial = frame.trial
        assert trial is not None
        document, poses = trial.document, trial.poses
        stack = trial.drawn.stack
        painter.setPen(edge(frame.tokens.accent, 1.3))
        for part, slab in stack:
            x, y, angle = poses[part.id]
            if part.fixed and document.parts[part.id].shapes == frame.part(part.id).shapes:
                continue
            colour = _colour(frame, frame.part(part.id))
            colour.setAlphaF(0.85)
            painter.setBrush(colour)
            painter.setTransform(QTransform().translate(x, y).rotateRadians(angle) * view.transform)
            painter.drawPath(path_at(slab.region, view.scale))
        painter.resetTransform()

    @staticmethod
    def _draw(run: Sequence[Layer], frame: Frame, view: Viewport, painter: QPainter) -> None:
        at = painter.transform()
        base = view.transform * at
        painter.setPen(edge(frame.tokens.edge, THIN))
        for part, region, fill in run:
            painter.setTransform(frame.transform(part) * base)
            painter.setBrush(fill)
            painter.drawPath(path_at(region, view.scale))
        painter.setTransform(at)

    def _made(self, frame: Frame) -> list[tuple[bool, list[Layer]]]:
        """The runs of the document and the looks as they are."""
        stack, looks, theme = frame.drawn.stack, frame.looks, frame.tokens.name
        of = (frame.drawn, theme, looks.by_part, looks.hidden, looks.through)
        if of != self._of:
            lows = sorted({slab.low for _, slab in stack})
            lift = {low: (14 if theme == "light" else 26) * i / max(len(lows) - 1, 1) for i, low in enumerate(lows)}
            layers = []
            for part, slab in stack:
                if part.id in looks.hidden:
                    continue
                colour = _colour(frame, part).lighter(92 + int(lift[slab.low]))
                if part.id in looks.through:
                    colour.setAlphaF(0.25)
                layers.append((part.fixed, Layer(part.id, slab.region, QBrush(colour))))
            self._runs = [(fixed, [layer for _, layer in run]) for fixed, run in groupby(layers, lambda each: each[0])]
            self._of = of
        return self._runs


def _colour(frame: Frame, part: Part) -> QColor:
    """The fill of a part in a frame."""
    return part_colour(frame.tokens, part, frame.drawn.numbers.get(part.id, 0), frame.looks.by_part)


def part_colour(tokens: Tokens, part: Part, number: int, by_part: bool) -> QColor:
    """The fill of a part: its own colour, the frame's, that of hardware, or the next of the theme's."""
    own = QColor(part.color) if part.color else QColor()
    if own.isValid():
        return own
    if part.hardware is not None:
        return QColor(tokens.hardware)
    if part.fixed:
        return QColor(tokens.frame_fill)
    if not by_part:
        return QColor(tokens.fills[0])
    return QColor(tokens.fills[number % len(tokens.fills)])


def edge(colour: str, width: float) -> QPen:
    """The pen of an outline, of so many pixels at any scale."""
    pen = QPen(QColor(colour), width)
    pen.setCosmetic(True)
    return pen
