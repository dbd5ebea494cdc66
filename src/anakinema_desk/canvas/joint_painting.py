"""Joints on the bench: their symbols, springs and rods, where contacts touch, and what couples them."""

import cmath
import math

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPixmap

from anakinema.document.model import Coupling, Joint
from anakinema.joints import Guide

from ..theme import symbols
from ..theme.painting import clear, painting
from ..theme.tokens import font
from .frame import Frame
from .spots import Spots
from .viewport import Viewport

STAMP, MOST_STAMPS = 32, 100
"""Pixels from the middle of a symbol to the edge of its picture, and how many of these are kept."""


class JointPainter:
    """Paints the joints of a frame. A mechanism has many that look alike: their pictures are kept."""

    frame: Frame
    view: Viewport
    """What is being painted."""

    def __init__(self) -> None:
        self._stamps: dict[tuple[object, ...], QPixmap] = {}

    def begin(self, frame: Frame, view: Viewport) -> None:
        """Another frame is painted."""
        self.frame, self.view, self.tokens = frame, view, frame.tokens

    def draw(self, painter: QPainter) -> None:
        """Couplings, joints, and where contacts touch."""
        for coupling in self.frame.document.active_couplings.values():
            self._draw_coupling(painter, coupling)
        self._draw_joints(painter)
        self._draw_touches(painter)

    def _draw_joints(self, painter: QPainter) -> None:
        """All joints; pins that lie on each other are drawn once, with their number beside."""
        hidden, spots, selected = self.frame.looks.hidden, self.frame.drawn.spots, self.frame.selection
        pixels = spots.pixels(self.frame, self.view)
        inside = (np.abs(pixels.real - self.view.width / 2) < self.view.width / 2 + STAMP) & (
            np.abs(pixels.imag - self.view.height / 2) < self.view.height / 2 + STAMP
        )
        shown = [not hidden or bool({joint.a.part, joint.b.part} - hidden) for joint in spots.joints]
        self._draw_rods(painter, spots, pixels, shown)
        stacked: dict[tuple[int, int, bool], int] = {}
        pins: dict[tuple[bool, bool], QPixmap] = {}
        for k, (x, y) in enumerate(zip(pixels.real.tolist(), pixels.imag.tolist(), strict=True)):
            joint, grounded = spots.joints[k], spots.grounded[k]
            chosen = f"joints.{joint.id}" == selected
            rod = joint.kind.rod
            if not shown[k] or (rod and not chosen) or not (inside[k] or rod):
                continue
            if chosen or not (joint.kind.pin or self._stands(joint)):
                self.draw_joint(painter, joint, QPointF(x, y), grounded)
                continue
            if not joint.kind.pin:
                stamp = self._stamp(joint.kind.symbol, grounded, joint.suspended, self._slide_angle(joint))
            else:
                key = (round(x), round(y), grounded)
                stacked[key] = stacked.get(key, 0) + 1
                if stacked[key] > 1 and not joint.suspended:
                    continue
                look = (grounded, joint.suspended)
                stamp = pins[look] = pins.get(look) or self._stamp(joint.kind.symbol, *look)
            painter.drawPixmap(QPointF(x - STAMP, y - STAMP), stamp)
        self._draw_springs(painter, spots, pixels, shown)
        painter.setFont(font(8))
        painter.setPen(QColor(self.tokens.muted))
        for (left, top, _), count in stacked.items():
            if count > 1:
                painter.drawText(QPointF(left + 7, top - 6), f"×{count}")

    def _draw_touches(self, painter: QPainter) -> None:
        """Where contacts touch, with the common normal; those of one that is selected stand out."""
        for one in self.frame.touches:
            spot, chosen = self.view.pixel(one.at), f"joints.{one.contact}" == self.frame.selection
            painter.save()
            painter.translate(spot)
            symbols.touch(painter, self._ink(False, chosen), math.atan2(one.normal.imag, one.normal.real))
            painter.restore()

    def _draw_springs(self, painter: QPainter, spots: Spots, pixels: np.ndarray, shown: list[bool]) -> None:
        """A spring at each joint that goes back to a rest by itself."""
        for joint, at, seen in zip(spots.joints, pixels.tolist(), shown, strict=True):
            if seen and joint.limits.rest is not None:
                painter.save()
                painter.translate(QPointF(at.real, at.imag))
                symbols.spring(painter, self._ink(joint.suspended, f"joints.{joint.id}" == self.frame.selection))
                painter.restore()

    def _draw_rods(self, painter: QPainter, spots: Spots, pixels: np.ndarray, shown: list[bool]) -> None:
        """All joints that are thin rods, but one that is selected."""
        selected, middle = self.frame.selection, STAMP * (1 + 1j)
        ends = zip(pixels[spots.rods].tolist(), spots.far_ends(self.frame, self.view).tolist(), strict=True)
        rods = [(spots.joints[k].suspended, one, two) for k, (one, two) in zip(spots.rods.tolist(), ends, strict=True)
                if shown[k] and f"joints.{spots.joints[k].id}" != selected]  # fmt: skip
        for suspended in (False, True):
            some = [(one, two) for state, one, two in rods if state is suspended]
            if some:
                symbols.rods(painter, self._ink(suspended), [QLineF(a.real, a.imag, b.real, b.imag) for a, b in some])
                stamp = self._stamp("rod end", False, suspended)
                for corner in (end - middle for both in some for end in both):
                    painter.drawPixmap(QPointF(corner.real, corner.imag), stamp)

    def _ink(self, suspended: bool, chosen: bool = False) -> QColor:
        """The colour of a joint's symbol."""
        ink = QColor(self.tokens.accent if chosen else self.tokens.symbol)
        ink.setAlphaF(0.4 if suspended else 1.0)
        return ink

    def draw_joint(self, painter: QPainter, joint: Joint, spot: QPointF, grounded: bool, lit: bool = False) -> None:
        place = f"joints.{joint.id}"
        chosen = place == self.frame.selection
        ink = self._ink(joint.suspended, chosen)
        painter.save()
        painter.translate(spot)
        if chosen or lit:
            halo = QColor(self.tokens.accent)
            halo.setAlphaF(0.22)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(halo)
            painter.drawEllipse(QPointF(0, 0), 13, 13)
        other = self.view.pixel(self.frame.world(joint.a)) - spot if joint.kind.rod else QPointF(0, 0)
        symbols.draw(
            painter, joint.kind.symbol, ink, QColor(self.tokens.paper), grounded=grounded,
            angle=self._slide_angle(joint), other=other,
        )  # fmt: skip
        painter.restore()

    def _stands(self, joint: Joint) -> bool:
        """Whether a joint is a slide whose guide stands still."""
        return joint.kind.guide is Guide.STRAIGHT and self.frame.part(joint.a.part).fixed

    def _stamp(self, kind: str, grounded: bool, suspended: bool, angle: float = 0.0) -> QPixmap:
        """The symbol of a pin, of a rod's end, or of a slide whose guide stands still, drawn once: a mechanism has many
        of them."""
        ratio = self.view.ratio
        key = (kind, grounded, suspended, angle, self.tokens.name, ratio)
        if key not in self._stamps:
            stamp = clear(QSize(2 * STAMP, 2 * STAMP), ratio)
            ink, paper = self._ink(suspended), QColor(self.tokens.paper)
            with painting(stamp) as painter:
                painter.translate(STAMP, STAMP)
                if kind == "rod end":
                    symbols.rod_end(painter, ink, paper, QPointF(0, 0))
                else:
                    symbols.draw(painter, kind, ink, paper, grounded=grounded, angle=angle)
            if len(self._stamps) > MOST_STAMPS:
                self._stamps.clear()
            self._stamps[key] = stamp
        return self._stamps[key]

    def _slide_angle(self, joint: Joint) -> float:
        """The direction of a joint's slide in the plane; of one on an arc, that of the track where the block is."""
        if joint.kind.guide is Guide.ROUND:
            return cmath.phase(self.frame.world(joint.b) - self.frame.world(joint.a)) + math.pi / 2
        return self.frame.poses[joint.a.part][2] + joint.values.get("direction", 0.0)

    def _draw_coupling(self, painter: QPainter, coupling: Coupling) -> None:
        """Pitch circles of wheels that mesh, pulleys and belt, pinion and rack."""
        document = self.frame.document
        chosen = self.frame.selection == f"joints.{coupling.id}"
        ink = QColor(self.tokens.accent if chosen else self.tokens.symbol)
        one, two = (self.frame.world(document.joints[name].b) for name in (coupling.a, coupling.b))
        a, b = self.view.pixel(one), self.view.pixel(two)
        far = abs(two - one)
        match coupling.kind.symbol:
            case "wheels":
                size = abs(coupling.ratio)  # a's radius over b's
                whole = far / (1 - size) if coupling.ratio > 0 and size != 1 else far / (1 + size)
                sizes = (abs(whole * size) * self.view.scale, abs(whole) * self.view.scale)
                symbols.wheels(painter, ink, a, b, sizes)
            case "belt":
                share = 0.6 * far / (1 + abs(coupling.ratio))
                one_wide, two_wide = coupling.kind.pulleys(coupling.given) or (share * coupling.ratio, share)
                sizes = (abs(one_wide) / 2 * self.view.scale, abs(two_wide) / 2 * self.view.scale)
                symbols.belt(painter, ink, a, b, sizes, coupling.given.get("run") == "crossed")
            case "pinion":
                radius = abs(coupling.ratio) * self.view.scale
                symbols.wheels(painter, ink, a, a, (radius, 0.0))
            case "cam" if coupling.cam is not None and not chosen:
                pass  # the cam itself is there to be seen
            case _:
                symbols.ratio(painter, ink, a, b)
