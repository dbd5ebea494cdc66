"""The limits of the joint that is selected, on the bench: an arc or a bar from least to greatest with its rest and
where it stands; the ends can be dragged. The free travel that was found is drawn beside it."""

import math
from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPen, QPolygonF

from anakinema.document import Set
from anakinema.document.model import Document, Joint
from anakinema.formatting import in_document_units, shown
from anakinema.kinds import Dimension

from ..session import Session
from ..theme.tokens import Tokens
from . import marks
from .frame import Frame
from .viewport import Viewport

RADIUS, ASIDE = 62.0, 44.0
"""Where an arc, and a bar, lie from the joint (pixels)."""
NEAR = 10.0
"""Pixels within which an end is taken."""
KEYS = ("min", "max", "rest")


@dataclass
class Taken:
    """An end in the hand: which, and what it is now (core units)."""

    joint: str
    key: str
    value: float


class LimitHandles:
    """Draws the limits, finds an end under a pixel, and drags it."""

    frame: Frame
    view: Viewport
    """In which it was drawn last."""

    def __init__(self, session: Session, step: Callable[[], float], update: Callable[[], None]):
        self.session, self.step, self.update = session, step, update
        self.ends: dict[str, QPointF] = {}
        self.boxes: list[QRectF] = []
        """Where words stand."""
        self._words: list[tuple[QPointF, str, QColor]] = []
        self.taken: Taken | None = None

    def clear(self) -> None:
        """Nothing is drawn."""
        self.ends, self.boxes = {}, []

    def _frame(self, joint: Joint, turns: bool) -> tuple[QPointF, float]:
        """Where zero lies: the middle of the arc and its zero direction, or the start of the slide and its
        direction."""
        base = self.frame.poses[joint.a.part][2]
        if turns:
            return self.view.pixel(self.frame.spot(joint)), base + joint.values.get("zero", 0.0)
        return self.view.pixel(self.frame.world(joint.a)), base + joint.values.get("direction", 0.0)

    def _spot(self, joint: Joint, turns: bool, value: float, aside: float = 0.0) -> QPointF:
        """Where a value lies on the arc or the bar."""
        at, zero = self._frame(joint, turns)
        if turns:
            angle = zero + value
            return at + QPointF(math.cos(angle), -math.sin(angle)) * (RADIUS + aside)
        way = QPointF(math.cos(zero), -math.sin(zero))
        side = QPointF(-way.y(), way.x()) * (ASIDE + aside)
        return at + way * (value * self.view.scale) + side

    def value_at(self, joint: Joint, turns: bool, pixel: QPointF, near: float) -> float:
        """The coordinate at a pixel; an angle on the turn nearest to another value."""
        at, zero = self._frame(joint, turns)
        off = pixel - at
        if turns:
            angle = math.atan2(-off.y(), off.x()) - zero
            return near + math.remainder(angle - near, math.tau)
        return (off.x() * math.cos(zero) - off.y() * math.sin(zero)) / self.view.scale

    def draw(
        self, painter: QPainter, frame: Frame, view: Viewport, joint: Joint, dimension: Dimension, value: float
    ) -> None:
        """The limits of a joint that stands at a value, but for their words."""
        self.frame, self.view, document = frame, view, frame.document
        self._words = []
        tokens, turns = frame.tokens, dimension == Dimension.ANGLE
        limits = {key: getattr(joint.limits, key) for key in KEYS}
        if self.taken is not None and self.taken.joint == joint.id:
            limits[self.taken.key] = self.taken.value
        ink = QColor(tokens.muted)
        low, high = limits["min"], limits["max"]
        if low is not None or high is not None:
            start = low if low is not None else min(value, high or value)
            stop = high if high is not None else max(value, low or value)
            self._band(painter, joint, turns, start, stop, ink, 0.0)
        for key in KEYS:
            if limits[key] is None:
                continue
            at = self._spot(joint, turns, limits[key])
            self.ends[key] = at
            held = self.taken is not None and self.taken.joint == joint.id and self.taken.key == key
            colour = QColor(tokens.accent if held else tokens.text)
            painter.setPen(QPen(colour, 1.4))
            painter.setBrush(QColor(tokens.raised))
            if key == "rest":
                painter.drawEllipse(at, 4.5, 4.5)
            else:
                self._post(painter, joint, turns, limits[key], key == "min")
            text = f"{key} {shown(limits[key], dimension, document.units, 2)}"
            out = self._spot(joint, turns, limits[key], 18.0)
            self._words.append((out + QPointF(4, -10 if key == "max" else 10), text, colour))
        self._draw_travel(painter, document, joint, dimension, turns)

    def _band(
        self, painter: QPainter, joint: Joint, turns: bool, low: float, high: float, ink: QColor, aside: float
    ) -> None:
        painter.setPen(QPen(ink, 2.2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if not turns:
            painter.drawLine(QLineF(self._spot(joint, turns, low, aside), self._spot(joint, turns, high, aside)))
            return
        at, zero = self._frame(joint, turns)
        radius = RADIUS + aside
        box = QRectF(at.x() - radius, at.y() - radius, 2 * radius, 2 * radius)
        span = min(high - low, math.tau)
        first = math.degrees(math.remainder(zero + low, math.tau))
        painter.drawArc(box, round(first * 16), round(math.degrees(span) * 16))

    def _post(self, painter: QPainter, joint: Joint, turns: bool, value: float, least: bool) -> None:
        """An end: a post across the band with a flag to the side that is allowed."""
        inner, outer = self._spot(joint, turns, value, -9.0), self._spot(joint, turns, value, 9.0)
        ahead = self._spot(joint, turns, value + (1 if least else -1) * (0.12 if turns else 7 / self.view.scale))
        painter.drawPolygon(QPolygonF([inner, outer, ahead]))

    def _draw_travel(
        self, painter: QPainter, document: Document, joint: Joint, dimension: Dimension, turns: bool
    ) -> None:
        travel = self.frame.travel
        if travel is None or travel.joint != joint.id:
            return
        ink = QColor(self.frame.tokens.trace)
        self._band(painter, joint, turns, travel.low.value, travel.high.value, ink, -14.0)
        for end in (travel.low, travel.high):
            at = self._spot(joint, turns, end.value, -14.0)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(ink)
            painter.drawEllipse(at, 3.5, 3.5)
            if end.at is not None:
                spot = self.view.pixel(end.at)
                painter.setPen(QPen(ink, 1.6))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawEllipse(spot, 8, 8)
            text = shown(end.value, dimension, document.units, 2)
            self._words.append((at + QPointF(-30, 14), f"{text}  {end.reason}", ink))

    def draw_words(self, painter: QPainter, tokens: Tokens) -> None:
        """What stands beside the ends, where it covers no other words."""
        for at, text, colour in self._words:
            size = marks.size_of(painter, text)
            room = [at + QPointF(0, off) for off in (0, 24, -24, 48, -48, 72, -72)]
            boxes = [QRectF(each - QPointF(0, size.height() / 2), size) for each in room]
            free = [each for each, box in zip(room, boxes, strict=True) if not any(map(box.intersects, self.boxes))]
            self.boxes.append(marks.label(painter, tokens, free[0] if free else at, text, colour))
        self._words = []

    # -- hands -------------------------------------------------------------------------------------------------

    def at(self, pixel: QPointF) -> str:
        """The end under a pixel; empty where there is none."""
        near = {key: QLineF(pixel, spot).length() for key, spot in self.ends.items()}
        key = min(near, key=lambda each: near[each], default="")
        return key if key and near[key] <= NEAR else ""

    def press(self, pixel: QPointF) -> bool:
        """Takes an end in hand; whether there was one."""
        key = self.at(pixel)
        kind, name = self.session.selection.current()
        document = self.session.document
        if not key or kind != "joints" or document is None:
            return False
        value = getattr(document.joints[name].limits, key)
        self.taken = Taken(name, key, value if value is not None else 0.0)
        return True

    def move(self, event: QMouseEvent) -> None:
        """Drags the end: by round steps, fine ones with Shift."""
        taken, document, motion = self.taken, self.session.document, self.session.motion
        if taken is None or document is None or motion is None or taken.joint not in motion.system.coordinates:
            return
        joint = document.joints[taken.joint]
        turns = motion.system.coordinates.dimension(motion.system.coordinates.index(joint.id)) == Dimension.ANGLE
        fine = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        step = math.radians(0.1 if fine else 1.0) if turns else self.step() * (0.1 if fine else 1.0)
        value = round(self.value_at(joint, turns, event.position(), taken.value) / step) * step
        low, high = joint.limits.min, joint.limits.max
        if taken.key == "min" and high is not None:
            value = min(value, high)
        elif taken.key == "max" and low is not None:
            value = max(value, low)
        taken.value = value
        self.update()

    def release(self) -> None:
        """Lets go of it: the document takes it in."""
        taken, self.taken = self.taken, None
        session = self.session
        if taken is None or session.document is None or taken.joint not in session.document.joints:
            return
        set_limit(session, taken.joint, taken.key, taken.value)
        self.update()


def set_limit(session: Session, name: str, key: str, value: float) -> None:
    """Makes a value (core units) a limit of a joint. Of one in a sub-assembly that is turned over, in its definition,
    which counts the other way."""
    document = session.document
    assert document is not None
    joint = document.joints[name]
    before = getattr(joint.limits, key)
    if before is not None and abs(before - value) < 1e-12:
        return
    motion = session.motion
    dimension = Dimension.LENGTH
    if motion is not None and name in motion.system.coordinates:
        dimension = motion.system.coordinates.dimension(motion.system.coordinates.index(name))
    written = round(in_document_units(value, dimension, document.units), 6)
    if dimension.turns and document.is_mirrored(name):
        written, key = -written, {"min": "max", "max": "min", "rest": "rest"}[key]
    faults = session.apply([Set((*document.home("joints", name), "limits", key), written)], f"Limit {name}")
    if faults:
        session.faults_raised.emit("Not limited", faults)
