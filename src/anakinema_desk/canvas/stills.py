"""Pictures of what stands still on the bench from frame to frame."""

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter, QPixmap

from ..theme.painting import clear, painting
from .viewport import Viewport


class Stills:
    """The pictures by name: of what they are, and where they go."""

    def __init__(self) -> None:
        self._kept: dict[str, tuple[tuple[object, ...], QPointF, QPixmap]] = {}

    def draw(
        self, painter: QPainter, view: Viewport, name: str, of: tuple[object, ...], box: QRectF,
        draw: Callable[[QPainter], None], opaque: bool = False,
    ) -> None:  # fmt: skip
        """Draws what stands still within a box of a viewport: from its picture, as long as it is `of` the same, seen
        the same way. What is opaque is put down sooner."""
        ratio, room = view.ratio, box.toAlignedRect()
        key = (*of, room, view)
        kept = self._kept.get(name)
        if kept is None or kept[0] != key:
            pixels = clear(room.size(), ratio, opaque)
            with painting(pixels) as inner:
                inner.translate(-room.topLeft())
                draw(inner)
            kept = self._kept[name] = (key, QPointF(room.topLeft()), pixels)
        painter.drawPixmap(kept[1], kept[2])
