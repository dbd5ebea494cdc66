"""The hand on a single feature of a part: a hole, a slot, a point is moved, with where it stands beside it."""

from itertools import count

from PySide6.QtCore import QLineF, QPointF
from PySide6.QtGui import QPainter

from anakinema.document import changed
from anakinema.document.model import Document
from anakinema.errors import DocumentError
from anakinema.operations.building import said_at
from anakinema.operations.own_features import OwnFeature, moved, own_feature, spots_of

from .context import ToolContext
from .guides import Guided, draw, guided

NUMBER = count(1)
FAR = 4.0
"""How far the mouse must go before anything moves (pixels)."""


class FeatureHand:
    """Moves the feature that is selected; all the way is one step to undo, and Escape takes it back."""

    def __init__(self, context: ToolContext):
        self.context, self.session = context, context.session
        self.taken: OwnFeature | None = None
        self._before: Document | None = None
        self._after: Document | None = None
        self._start, self._base, self._pressed = 0j, 0j, QPointF()
        self._step = ""
        self._guided = Guided(0j)

    def press(self, at: QPointF) -> bool:
        """Takes the feature that is selected, where the mouse is on it."""
        document, (kind, name) = self.session.document, self.session.selection.current()
        one = own_feature(document, name) if kind == "features" and document is not None else None
        if one is None or document is None or f"features.{name}" not in self.context.picking.features(at):
            return False
        self.taken, self._before, self._after = one, document, document
        self._pressed, self._start = at, self.context.place(at)
        self._base = self.standing(document, one)
        self._step = f"move {next(NUMBER)}"
        return True

    def standing(self, document: Document, one: OwnFeature) -> complex:
        """Where the first place of a feature stands in the plane."""
        spot = next(iter(spots_of(document, one).values()), 0j)
        there = spot.conjugate() if _turned(document, one.part) else spot
        return self.context.frame.stands(one.part, there)

    def move(self, at: QPointF, fine: bool) -> None:
        """Moves it to where the mouse is: to round places, in line with others, freely with Alt or Shift."""
        one, before = self.taken, self._before
        if one is None or before is None or self.session.document is not self._after:
            return
        if self._after is before and QLineF(at, self._pressed).length() <= FAR:
            return
        to = self._base + self.context.place(at) - self._start
        step = self.context.picking.step() * (0.1 if fine else 1.0)
        to = complex(round(to.real / step) * step, round(to.imag / step) * step)
        self._guided = Guided(to) if fine else guided(self.context, to, None)
        own, base = (self.context.frame.own(one.part, z) for z in (self._guided.at, self._base))
        by = own - base
        by = by.conjugate() if _turned(before, one.part) else by
        try:
            changes = moved(before, one, by)
        except DocumentError as error:
            self.session.faults_raised.emit("Not moved", error.faults)
            return
        faults = self.session.editor.replace(lambda _: changed(before, *changes), f"Move {one.text}", self._step)
        if faults:
            self.session.faults_raised.emit("Not moved", faults)
        self._after = self.session.document

    def release(self) -> bool:
        """Lets go of it; whether it was moved."""
        moved_it = self.taken is not None and self._after is not self._before
        self.taken = self._before = self._after = None
        return moved_it

    def cancel(self) -> bool:
        """Takes the move back; whether something was in the hand."""
        held = self.taken is not None
        if self.release() and held:
            self.session.undo()
        return held

    def draw(self, painter: QPainter) -> None:
        """By which guides it goes."""
        if self.taken is not None:
            draw(painter, self.context, self._guided, self.context.pixel(self._guided.at) + QPointF(16, -24))


def _turned(document: Document, part: str) -> bool:
    """Whether the axes in which a part is said are its own turned over."""
    zero, up = (said_at(document, part, z)[2] for z in (0j, 1j))
    return bool((up - zero).imag < 0)
