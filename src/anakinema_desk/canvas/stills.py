"""Pictures of what stands still on the bench from frame to frame."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter, QPixmap

from ..theme.painting import clear, painting

if TYPE_CHECKING:
    from .canvas import Canvas


class Stills:
    """The pictures by name: of what they are, and where they go."""

    def __init__(self, canvas: "Canvas"):
        self.canvas = canvas
        self._kept: dict[str, tuple[tuple[object, ...], QPointF, QPixmap]] = {}

    def draw(
        self, painter: QPainter, name: str, of: tuple[object, ...], box: QRectF, draw: Callable[[QPainter], None],
        opaque: bool = False,
    ) -> None:  # fmt: skip
        """Draws what stands still within a box of the bench: from its picture, as long as it is `of` the same, and the
        view and the theme are. What is opaque is put down sooner."""
        ratio, room = self.canvas.devicePixelRatioF(), box.toAlignedRect()
        key = (*of, room, self.canvas.view_transform(), self.canvas.tokens.name, ratio)
        kept = self._kept.get(name)
        if kept is None or kept[0] != key:
            pixels = clear(room.size(), ratio, opaque)
            with painting(pixels) as inner:
                inner.translate(-room.topLeft())
                draw(inner)
            kept = self._kept[name] = (key, QPointF(room.topLeft()), pixels)
        painter.drawPixmap(kept[1], kept[2])
