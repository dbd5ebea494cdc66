"""What of a shape can be grabbed: centres, ends, corners, middles of sides, slots."""

import cmath
import math
from collections.abc import Iterator
from dataclasses import dataclass
from enum import Enum

SAME = 1e-6
"""Features nearer to each other than this (document lengths) are one."""
MOST_SIDES = 24
"""Sides of an outline of which all pairs are looked at for a middle between them."""


class FeatureKind(Enum):
    """What a feature is; the value is what to call it."""

    POINT = "point"
    END = "end"
    CENTRE = "centre"
    HOLE = "hole"
    RIM = "rim"
    SLOT = "slot"
    SLOT_END = "slot's end"
    ARC_SLOT = "arc slot"
    SLOT_CENTRE = "slot's centre"
    CORNER = "corner"
    ARC_CENTRE = "arc's centre"
    SIDE = "middle of a side"
    BETWEEN_SIDES = "middle between two sides"

    @property
    def slotted(self) -> bool:
        """Whether a pin slides there."""
        return self in (FeatureKind.SLOT, FeatureKind.SLOT_END, FeatureKind.ARC_SLOT, FeatureKind.SLOT_CENTRE)


@dataclass(frozen=True)
class Feature:
    """A place in a part's own axes. `name` is that of the part's point there, or empty; `direction` (rad) that of a
    slot or a side, None elsewhere."""

    at: complex
    kind: FeatureKind
    name: str = ""
    direction: float | None = None
    reach: tuple[float, float] | None = None
    """Of a straight slot, from where to where along its direction a pin may go from here."""
    about: complex | None = None
    """Of an arc slot, its centre; `span` is from where to where it runs (rad)."""
    span: tuple[float, float] | None = None
    edge: tuple[complex, complex] | None = None
    """Of a side, from where to where it runs; of a rim, its centre and this very place."""

    @property
    def round(self) -> bool:
        """Whether it is the rim of a disc."""
        return self.kind is FeatureKind.RIM

    def description(self, part: str) -> str:
        """What to call it: ``A, hole of crank``."""
        word = self.kind.value
        if not self.name:
            return f"{word} of {part}"
        return f"point {self.name} of {part}" if self.kind is FeatureKind.POINT else f"{self.name}, {word} of {part}"


def of_ring(corners: list[complex], rounded: bool) -> Iterator[Feature]:
    """Corners, where they are not rounded, and middles of sides."""
    for one, two in zip(corners, [*corners[1:], corners[0]], strict=True):
        if not rounded:
            yield Feature(one, FeatureKind.CORNER)
        way = math.remainder(cmath.phase(two - one), math.tau)
        yield Feature((one + two) / 2, FeatureKind.SIDE, direction=way, edge=(one, two))
    if len(corners) <= MOST_SIDES:
        yield from _between(corners)


def _between(corners: list[complex]) -> Iterator[Feature]:
    """Middles between two sides that face each other."""
    sides = list(zip(corners, [*corners[1:], corners[0]], strict=True))
    for k, (one, two) in enumerate(sides):
        for other, end in sides[k + 1 :]:
            way, back = (two - one) / abs(two - one), (end - other) / abs(end - other)
            if abs(way + back) < SAME:  # they run opposite ways: the part lies between them
                middle = (one + two + other + end) / 4
                yield Feature(middle, FeatureKind.BETWEEN_SIDES, direction=math.remainder(cmath.phase(way), math.tau))
