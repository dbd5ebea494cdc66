"""A viewport: the stretch of a plane that is seen, and how its places and pixels go over into each other."""

from dataclasses import dataclass, replace
from functools import cached_property
from typing import Self

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QTransform

from anakinema.arrays import Plane


@dataclass(frozen=True)
class Viewport:
    """Places of the plane are x + i y in document lengths, y upward; pixels count from the upper left, y downward. In
    plan the axes are those of the mechanism; seen from the side they may be a direction and the depth."""

    width: float
    height: float
    center: complex = 0j
    """The place in the middle."""
    scale: float = 4.0
    """Pixels for one length."""
    ratio: float = 1.0
    """Real pixels of the screen for each pixel."""

    @property
    def rect(self) -> QRectF:
        """All of it, in pixels."""
        return QRectF(0, 0, self.width, self.height)

    @cached_property
    def transform(self) -> QTransform:
        """From places to pixels."""
        view = QTransform().translate(self.width / 2, self.height / 2)
        return view.scale(self.scale, -self.scale).translate(-self.center.real, -self.center.imag)

    def pixel(self, at: complex) -> QPointF:
        """A place in pixels."""
        return QPointF(
            self.width / 2 + (at.real - self.center.real) * self.scale,
            self.height / 2 + (self.center.imag - at.imag) * self.scale,
        )

    def pixels(self, at: Plane) -> Plane:
        """Places (N,) in pixels, as x + i y with y downward."""
        return complex(self.width, self.height) / 2 + (at - self.center).conjugate() * self.scale

    def place(self, pixel: QPointF) -> complex:
        """The place at a pixel."""
        return self.center + complex(pixel.x() - self.width / 2, self.height / 2 - pixel.y()) / self.scale

    def moved(self, by: QPointF) -> Self:
        """The same with what is seen moved by so many pixels."""
        return replace(self, center=self.center - complex(by.x(), -by.y()) / self.scale)

    def zoomed(self, scale: float, about: QPointF) -> Self:
        """The same at another scale, with what is at a pixel left where it is."""
        before = self.place(about)
        after = replace(self, scale=scale)
        return replace(after, center=self.center + before - after.place(about))

    def fitted(self, box: QRectF, margin: float, above: float = 0.0) -> Self:
        """The same with a box of the plane (its `top` is the least y) in it, so far from the edges; from the upper one
        `above` further (pixels)."""
        across = max(self.width - 2 * margin, 40) / max(box.width(), 1e-9)
        down = max(self.height - 2 * margin - above, 40) / max(box.height(), 1e-9)
        scale = min(across, down)
        middle = complex(box.center().x(), box.center().y())
        return replace(self, scale=scale, center=middle + 0.5j * above / scale)
