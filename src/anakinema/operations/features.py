"""What of a part can be grabbed: its named points, and what its shapes offer: centres, ends, corners, middles of sides,
slots. Places that coincide are one feature."""

import cmath
import math
from collections.abc import Iterator
from dataclasses import dataclass, replace

from ..document.model import Part
from ..geometry import shapes as s

SAME = 1e-6
"""Features nearer to each other than this (document lengths) are one."""


MOST_SIDES = 24
"""Sides of an outline of which all pairs are looked at for a middle between them."""


@dataclass(frozen=True)
class Feature:
    """A place in a part's own axes. `name` is that of the part's point there, or empty; `word` says what it is;
    `direction` (rad) that of a slot or a side, None elsewhere."""

    at: complex
    word: str
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
        return self.word == "rim"

    def description(self, part: str) -> str:
        """What to call it: ``A, hole of crank``."""
        return f"{self.name}, {self.word} of {part}" if self.name and self.word != "point" else (
            f"point {self.name} of {part}" if self.name else f"{self.word} of {part}"
        )


def features(part: Part) -> tuple[Feature, ...]:
    """All features of a part: what shapes offer comes before bare points, and cuts before what they are cut from."""
    named = {name: complex(*at) for name, at in part.points.items()}
    found: list[Feature] = []
    ordered = sorted(part.shapes, key=lambda shape: not shape.cut)
    for feature in (feature for shape in ordered for feature in _of_shape(shape)):
        if not any(_one(feature, other) for other in found):
            name = next((name for name, at in named.items() if abs(at - feature.at) < SAME), "")
            found.append(replace(feature, name=name))
    taken = {feature.name for feature in found}
    found += [Feature(at, "point", name) for name, at in named.items() if name not in taken]
    return tuple(found)


def _one(feature: Feature, other: Feature) -> bool:
    """Whether two features are one: in one place, and not two slots or sides that cross there."""
    ways = feature.direction, other.direction
    crossed = None not in ways and abs(math.sin(float(ways[0] or 0.0) - float(ways[1] or 0.0))) > SAME
    return abs(feature.at - other.at) < SAME and not crossed


def _of_shape(shape: s.Shape) -> Iterator[Feature]:
    if isinstance(shape, s.Bar):
        last = len(shape.through) - 1
        for k, spot in enumerate(shape.through):
            yield Feature(complex(*spot), "end" if k in (0, last) else "centre")
    elif isinstance(shape, s.Disc):
        center = complex(*shape.center)
        yield Feature(center, "hole" if shape.cut else "centre")
        for quarter in (1, 1j, -1, -1j):
            at = center + quarter * shape.diameter / 2
            yield Feature(at, "rim", edge=(center, at))
    elif isinstance(shape, s.Rectangle):
        yield Feature(complex(*shape.center), "centre")
        yield from _of_ring(_corners(shape), shape.corner_radius > 0)
    elif isinstance(shape, s.Polygon):
        yield from _of_ring([complex(*spot) for spot in shape.vertices], shape.corner_radius > 0)
    elif isinstance(shape, s.Slot):
        one, two = (complex(*spot) for spot in shape.through)
        way = cmath.phase(two - one) if two != one else 0.0
        half = abs(two - one) / 2
        yield Feature((one + two) / 2, "slot", direction=way, reach=(-half, half))
        yield Feature(one, "slot's end", direction=way, reach=(0.0, 2 * half))
        yield Feature(two, "slot's end", direction=way, reach=(-2 * half, 0.0))
    elif isinstance(shape, s.ArcSlot):
        center = complex(*shape.center)
        middle = center + cmath.rect(shape.radius, (shape.start + shape.stop) / 2)
        yield Feature(middle, "arc slot", about=center, span=(shape.start, shape.stop))
        yield Feature(center, "slot's centre")
        for angle in (shape.start, shape.stop):
            yield Feature(center + cmath.rect(shape.radius, angle), "slot's end")
    elif isinstance(shape, s.Path):
        yield Feature(complex(*shape.start), "corner")
        for segment in shape.segments:
            yield Feature(complex(*segment.to), "corner")
            if segment.center is not None:
                yield Feature(complex(*segment.center), "arc's centre")


def _corners(shape: s.Rectangle) -> list[complex]:
    turn, (along, across) = cmath.rect(1.0, shape.angle), shape.size
    ways = ((-1, -1), (1, -1), (1, 1), (-1, 1))
    return [complex(*shape.center) + turn * complex(x * along / 2, y * across / 2) for x, y in ways]


def _of_ring(corners: list[complex], rounded: bool) -> Iterator[Feature]:
    """Corners, where they are not rounded, and middles of sides."""
    for one, two in zip(corners, [*corners[1:], corners[0]], strict=True):
        if not rounded:
            yield Feature(one, "corner")
        way = math.remainder(cmath.phase(two - one), math.tau)
        yield Feature((one + two) / 2, "middle of a side", direction=way, edge=(one, two))
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
                yield Feature(middle, "middle between two sides", direction=math.remainder(cmath.phase(way), math.tau))
