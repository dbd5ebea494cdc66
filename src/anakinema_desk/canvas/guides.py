"""Guides while something is drawn: level and upright, along and square to a line that is there, in line with another
point, as long as another bar. What they do is marked and said before the click."""

import cmath
import math
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QLineF, QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from anakinema.geometry.shapes import Bar

from . import marks
from .context import ToolContext

NEAR = 5.0
"""How near to a guide the hand must be (pixels)."""
TURNED = math.radians(3.0)
"""How near to its direction."""


@dataclass(frozen=True)
class Guide:
    """What the hand keeps to: in words, and the line on which that is seen."""

    words: str
    line: tuple[complex, complex] | None = None


@dataclass(frozen=True)
class Guided:
    """Where the hand is meant to be, and by which guides."""

    at: complex
    guides: tuple[Guide, ...] = ()


def guided(
    context: ToolContext, at: complex, first: complex | None, along: tuple[float, ...] = (), typed: bool = False
) -> Guided:
    """Where a place is meant that is no feature. With a `first` place, what is drawn runs from there: its direction may
    be level, upright, or along and square to lines of the directions `along` (rad). Where how far it reaches is typed,
    the hand says nothing but the direction."""
    near = NEAR / context.scale
    if typed and first is not None:
        way = _direction(at - first, along, near)
        if way is None:
            return Guided(at)
        end = first + cmath.rect(abs(at - first), way[0])
        return Guided(end, (Guide(way[1], (first, end)),))
    points = _in_line(context, at, first, near)
    if first is None or abs(at - first) < 4 * near:
        return _on_points(at, points)
    way = _direction(at - first, along, near)
    if way is None:
        found = _on_points(at, points)
        return found if found.guides else _as_long(context, first, at, near)
    turn, words = way
    unit = cmath.rect(1.0, turn)
    reach = ((at - first) * unit.conjugate()).real
    if words not in ("level", "upright"):
        step = context.picking.step()
        reach = round(reach / step) * step
    guides = [Guide(words, (first, first + unit * reach))]
    for axis, (value, spot) in points.items():
        share = unit.real if axis == "x" else unit.imag
        if abs(share) > 0.2:
            to = (value - (first.real if axis == "x" else first.imag)) / share
            if abs(to - reach) < 2 * near and to > 0:
                end = first + unit * to
                return Guided(end, (*guides, Guide("in line", (spot, end))))
    other = _as_long(context, first, first + unit * reach, near)
    return Guided(other.at, (*guides, *other.guides))


def _direction(way: complex, along: tuple[float, ...], near: float) -> tuple[float, str] | None:
    """The direction to which a way is kept, with what to call it."""
    turn = cmath.phase(way)
    every = [(math.pi / 2 * k, "upright" if k % 2 else "level") for k in range(4)]
    for one in along:
        every += [(one, "along"), (one + math.pi, "along")]
        every += [(one + math.pi / 2, "square"), (one - math.pi / 2, "square")]
    best = min(every, key=lambda each: abs(math.remainder(each[0] - turn, math.tau)))
    off = abs(math.remainder(best[0] - turn, math.tau))
    if off < TURNED and abs(way) * math.sin(off) < near:
        return math.remainder(best[0], math.tau), best[1]
    return None


def _in_line(
    context: ToolContext, at: complex, first: complex | None, near: float
) -> dict[str, tuple[float, complex]]:
    """The nearest point with about the same x, and with about the same y: the coordinate, and where that point is."""
    spots = context.picking.points()
    if first is not None and spots.size:
        spots = spots[np.abs(spots - first) > near / 10]
    found: dict[str, tuple[float, complex]] = {}
    for axis, own, every in (("x", at.real, spots.real), ("y", at.imag, spots.imag)):
        close = np.flatnonzero(np.abs(every - own) < near)
        if close.size:
            k = int(close[np.argmin(np.abs(spots[close] - at))])
            found[axis] = (float(every[k]), complex(spots[k]))
    return found


def _on_points(at: complex, points: dict[str, tuple[float, complex]]) -> Guided:
    x, y = points.get("x"), points.get("y")
    end = complex(x[0] if x else at.real, y[0] if y else at.imag)
    return Guided(end, tuple(Guide("in line", (one[1], end)) for one in (x, y) if one is not None))


def _as_long(context: ToolContext, first: complex, at: complex, near: float) -> Guided:
    """As long as a bar that is there, where it is about so."""
    length = abs(at - first)
    for part in reversed(list(context.frame.document.parts.values())):
        for shape in part.shapes:
            if isinstance(shape, Bar):
                long = abs(complex(*shape.through[-1]) - complex(*shape.through[0]))
                if long > 0 and abs(long - length) < near and length > 0:
                    end = first + (at - first) * (long / length)
                    return Guided(end, (Guide(f"as long as {part.label or part.id}"),))
    return Guided(at)


def draw(painter: QPainter, context: ToolContext, found: Guided, at: QPointF) -> None:
    """Marks what the hand keeps to, and says it beside a place (pixels)."""
    if not found.guides:
        return
    painter.save()
    painter.setPen(QPen(QColor(context.tokens.accent), 1.0, Qt.PenStyle.DotLine))
    for guide in found.guides:
        if guide.line is not None:
            painter.drawLine(QLineF(*(context.pixel(end) for end in guide.line)))
    words = ", ".join(dict.fromkeys(guide.words for guide in found.guides))
    marks.label(painter, context.tokens, at, words, QColor(context.tokens.line))
    painter.restore()
