"""What tools, handles and picking may use of the bench on which they work, and no more."""

from collections.abc import Callable
from dataclasses import dataclass, field

from PySide6.QtCore import QPointF
from PySide6.QtGui import QTransform

from anakinema.geometry.features import FeatureKind

from ..session import Session
from ..theme.tokens import Tokens
from .frame import Frame
from .picking import LINES, Picking, Snap
from .viewport import Viewport


@dataclass
class ToolContext:
    """The frame that is shown and its viewport, as they are now; what is under the mouse; and two calls: that the
    picture is another, and that the tool wants something else."""

    session: Session
    look: Callable[[], Frame]
    through: Callable[[], Viewport]
    update: Callable[[], None]
    changed: Callable[[], None]
    picking: Picking = field(init=False)

    def __post_init__(self) -> None:
        self.picking = Picking(self.session, self.look, self.through)

    @property
    def frame(self) -> Frame:
        """What is shown."""
        return self.look()

    @property
    def viewport(self) -> Viewport:
        """Through what it is seen."""
        return self.through()

    @property
    def tokens(self) -> Tokens:
        """The theme."""
        return self.frame.tokens

    @property
    def scale(self) -> float:
        """Pixels for one document length."""
        return self.viewport.scale

    def pixel(self, at: complex) -> QPointF:
        """A place of the plane in pixels."""
        return self.viewport.pixel(at)

    def place(self, pixel: QPointF) -> complex:
        """The place of the plane at a pixel."""
        return self.viewport.place(pixel)

    def transform(self, part: str) -> QTransform:
        """From a part's own axes to pixels."""
        return self.frame.transform(part) * self.viewport.transform

    def snap(self, at: QPointF, lines: frozenset[FeatureKind] = LINES) -> Snap:
        """What a pixel means to a tool that picks along such lines."""
        return self.picking.snap(at, lines)
