"""What a shape is: its keys, contours, features and sizes, in its part's own axes. Lengths in document units, angles in
rad."""

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING, ClassVar, Self

from ..kinds import LEAST_SIZE, Field, FieldForm
from .edges import Edges
from .features import Feature

if TYPE_CHECKING:
    from .shapes import Segment

Point = tuple[float, float]
Told = Callable[[float], str]
"""Says a length with its unit."""
SizeKey = tuple[str | int, ...]
"""Where a size stands behind the place of its shape."""
SAME = 1e-9
"""Distance, relative to the outline's size, below which two points are one; they are, too, below the least size."""

CENTER = Field("center", form=FieldForm.SPOT, required=True, description="its centre")
WIDTH = Field("width", required=True, size=True, description="its width")
CORNER = Field("corner_radius", description="radius of its rounded corners")


def mirrored(at: Point) -> Point:
    """A place turned over about the x axis."""
    return at[0], -at[1]


def corner_faults(radius: float, most: float, description: Told) -> Iterator[tuple[str, str]]:
    """What is wrong with a radius of corners."""
    if radius < 0 or radius > most:
        limit = f" and at most {description(most)}" if math.isfinite(most) else ""
        yield "corner_radius", f"must be at least 0{limit}, it is {description(radius)}"
    elif 0 < radius < LEAST_SIZE:
        yield "corner_radius", f"{description(radius)} is too small to be meant; a sharp corner has 0"


@dataclass(frozen=True, kw_only=True)
class Shape:
    """Common to all: `cut` removes instead of adding, `depth` overrides the part's interval along z."""

    kind: ClassVar[str]
    title: ClassVar[str]
    fields: ClassVar[tuple[Field, ...]] = ()

    cut: bool = False
    depth: tuple[float, float] | None = None

    def faults(self, description: Told) -> Iterator[tuple[str, str]]:
        """What is wrong with its numbers: the key (empty for the whole) and the words."""
        yield from ()

    def mirrored(self) -> Self:
        """It turned over about the x axis: y becomes −y."""
        raise NotImplementedError

    def contours(self) -> list[Edges]:
        """The closed boundaries; where there are several, the shape is their union."""
        raise NotImplementedError

    @property
    def edge_count(self) -> int:
        """How many edges it has, about; not fewer than half of them."""
        return 8

    may_cross: ClassVar[str | None] = None
    """What of it is to be mended where its boundary crosses itself; None where it can't."""

    def repeated(self) -> str:
        """Where its boundary says a place twice, in words; empty when all is well."""
        return ""

    def features(self) -> Iterator[Feature]:
        """What of it can be grabbed."""
        yield from ()

    def sizes(self) -> Iterator[tuple[SizeKey, complex, str]]:
        """Its sizes: where each stands, where to show it, with what sign before it."""
        yield from ()

    @property
    def spine(self) -> tuple[complex, complex] | None:
        """Where it runs from and to, where it runs along something."""
        return None

    def corners(self) -> tuple[list[complex], list[bool]]:
        """Corners that can be moved, and whether the side from each to the next is straight; none for most shapes."""
        return [], []

    def corner_keys(self) -> list[SizeKey]:
        """Where these corners stand."""
        return []

    def arc_of(self, side: int) -> "Segment | None":
        """The segment of such a side that is an arc; None for a straight one."""
        return None
