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
    CENTRE_LINE = "centre line"
    ARC = "arc"

    @property
    def slotted(self) -> bool:
        """Whether a pin slides there."""
        return self in (FeatureKind.SLOT, FeatureKind.SLOT_END, FeatureKind.ARC_SLOT, FeatureKind.SLOT_CENTRE)


@dataclass(frozen=True)
class Along:
    """A stretch of line or arc along which a feature is picked: from `start` straight to `end`; where there is a
    `center`, about that by `sweep` (rad, counter-clockwise positive)."""

    start: complex
    end: complex
    center: complex | None = None
    sweep: float = 0.0

    def nearest(self, at: complex) -> complex:
        """The place on it that is nearest to another.

        >>> Along(0j, 10 + 0j).nearest(4 + 3j)
        (4+0j)
        """
        if self.center is None:
            way = self.end - self.start
            share = ((at - self.start) * way.conjugate()).real / (abs(way) ** 2 or 1.0)
            return self.start + way * min(max(share, 0.0), 1.0)
        off = at - self.center
        if not off:
            return self.start
        turned = cmath.phase(off / (self.start - self.center)) * (1.0 if self.sweep >= 0 else -1.0) % math.tau
        if turned <= abs(self.sweep) + 1e-12:
            return self.center + off / abs(off) * abs(self.start - self.center)
        return min((self.start, self.end), key=lambda spot: abs(spot - at))

    def rounded(self, at: complex, step: float) -> complex:
        """A place on it, a round way from its start where it is straight."""
        if self.center is not None:
            return at
        way = self.end - self.start
        long = abs(way)
        far = min(round(abs(at - self.start) / step) * step, long)
        return self.start + way * (far / long) if long else at

    def at_distance(self, other: complex, length: float) -> list[complex]:
        """The places on it that lie at a length from another place, none to two.

        >>> Along(0j, 10 + 0j).at_distance(4 + 3j, 5.0)
        [(8+0j), 0j]
        """
        if self.center is None:
            way = self.end - self.start
            unit = way / abs(way)
            foot = (other - self.start) * unit.conjugate()
            left = length * length - foot.imag * foot.imag
            if left < 0:
                return []
            shares = [foot.real + math.sqrt(left), foot.real - math.sqrt(left)]
            spots = [self.start + unit * share for share in shares]
        else:
            radius, off = abs(self.start - self.center), other - self.center
            far = abs(off)
            if not far or not radius:
                return []
            share = (radius * radius + far * far - length * length) / (2 * radius * far)
            if abs(share) > 1:
                return []
            spots = [self.center + off / far * cmath.rect(radius, sign * math.acos(share)) for sign in (1, -1)]
        size = abs(self.end - self.start) + abs(other - self.start) + length
        return [spot for spot in spots if abs(self.nearest(spot) - spot) < 1e-9 * size]


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
    """Of a side, from where to where it runs; of a rim or an arc, its centre and this very place. Of an arc, `span` is
    from where to where it runs."""
    by_line: bool = False
    """Whether it is picked along its line only, not at its place."""
    shape: int | None = None
    """The number of the shape of its part that it is of; None for a bare point."""

    @property
    def round(self) -> bool:
        """Whether it is the rim of a disc, or an arc."""
        return self.kind in (FeatureKind.RIM, FeatureKind.ARC)

    @property
    def along(self) -> Along | None:
        """The line along which it is picked; None for a place."""
        if self.kind is FeatureKind.RIM and self.edge is not None:
            return Along(self.at, self.at, self.edge[0], math.tau)
        center = self.edge[0] if self.kind is FeatureKind.ARC and self.edge is not None else self.about
        if center is not None and self.span is not None:
            radius = abs(self.at - center)
            one, two = (center + cmath.rect(radius, angle) for angle in self.span)
            return Along(one, two, center, self.span[1] - self.span[0])
        if self.edge is not None:
            return Along(*self.edge)
        if self.direction is not None and self.reach is not None:
            way = cmath.rect(1.0, self.direction)
            return Along(self.at + way * self.reach[0], self.at + way * self.reach[1])
        return None

    def description(self, part: str, along: bool = False) -> str:
        """What to call it: ``A, hole of crank``; `along` where its line is meant, not its place."""
        word = "side" if self.kind is FeatureKind.SIDE and (along or self.by_line) else self.kind.value
        if not self.name:
            return f"{word} of {part}"
        return f"point {self.name} of {part}" if self.kind is FeatureKind.POINT else f"{self.name}, {word} of {part}"


def side(one: complex, two: complex, by_line: bool = False) -> Feature:
    """A straight side from one place to another, the part to its left."""
    way = math.remainder(cmath.phase(two - one), math.tau)
    return Feature((one + two) / 2, FeatureKind.SIDE, direction=way, edge=(one, two), by_line=by_line)


def of_ring(corners: list[complex], rounded: bool) -> Iterator[Feature]:
    """Corners, where they are not rounded, and middles of sides."""
    for one, two in zip(corners, [*corners[1:], corners[0]], strict=True):
        if not rounded:
            yield Feature(one, FeatureKind.CORNER)
        yield side(one, two)
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
