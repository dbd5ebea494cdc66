"""The stack from the side: what of each part is seen along a direction, or lies in a cut through the plan."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Plane
from ..document.copies import extent
from ..document.model import Document
from ..geometry.areas import chords, placed, polygon_of
from ..geometry.cutting import spans_along
from ..geometry.outline import Region

if TYPE_CHECKING:
    import shapely

Pose = tuple[float, float, float]
TOUCHING = 1e-6


@dataclass(frozen=True)
class Line:
    """A line across the plan: a place on it and its direction, a unit x + i y. What is seen of the stack is seen
    squarely to it, from the side to the right of its direction: from the front's lower edge, where it runs along x."""

    at: complex = 0j
    way: complex = 1 + 0j


@dataclass(frozen=True)
class Slice:
    """A slab of a part from the side: its depth, and the stretches along the line that it fills; `near` is how near it
    comes to the viewer."""

    part: str
    low: float
    high: float
    spans: tuple[tuple[float, float], ...]
    near: float = 0.0


class Silhouettes:
    """The slabs of a document as they are seen from the side: what of their outlines may be at an end, in one array."""

    def __init__(self, document: Document):
        self.document = document
        stack = [(name, slab) for name, part in document.parts.items() for slab in part.slabs]
        self.names = [name for name, _ in stack]
        self.spans = [(slab.low, slab.high) for _, slab in stack]
        corners = [_hull(slab.region) for _, slab in stack]
        self._begins = np.cumsum([0, *(some.size for some in corners)])[:-1]
        self._owner = np.repeat(np.arange(len(stack)), [some.size for some in corners])
        self._corners = np.concatenate(corners) if corners else np.zeros(0, dtype=complex)

    def seen(self, poses: Mapping[str, Pose], line: Line, hidden: Sequence[str] = ()) -> list[Slice]:
        """All slabs from the side, those furthest away first."""
        if not self.names:
            return []
        placed_ = np.array([poses.get(name, (0.0, 0.0, 0.0)) for name in self.names])
        at, turn = placed_[:, 0] + 1j * placed_[:, 1], np.exp(1j * placed_[:, 2])
        z = (at[self._owner] + turn[self._owner] * self._corners - line.at) * line.way.conjugate()
        low, high = np.minimum.reduceat(z.real, self._begins), np.maximum.reduceat(z.real, self._begins)
        near = -np.minimum.reduceat(z.imag, self._begins)
        out = set(hidden)
        found = [
            Slice(name, *span, ((a, b),), c) for name, span, a, b, c in
            zip(self.names, self.spans, low.tolist(), high.tolist(), near.tolist(), strict=True)
            if name not in out and name in poses
        ]  # fmt: skip
        return sorted(found, key=lambda one: one.near)


@lru_cache(maxsize=2048)
def _hull(region: Region) -> Plane:
    """The corners of a region's hull, arcs by chords that miss them by a ten-thousandth of its size."""
    import shapely

    z = chords(region.edges, 1e-4 * float(np.abs(region.edges.start).max()))
    hull = shapely.convex_hull(shapely.multipoints(np.stack((z.real, z.imag), axis=1)))
    corners = shapely.get_coordinates(hull)
    found: Plane = corners[:, 0] + 1j * corners[:, 1]
    return found


def cut_through(document: Document, poses: Mapping[str, Pose], line: Line, hidden: Sequence[str] = ()) -> list[Slice]:
    """What lies in a cut along a line, from back to front."""
    found = []
    for name, part in document.parts.items():
        if name in hidden or name not in poses:
            continue
        x, y, angle = poses[name]
        turn = complex(np.exp(1j * angle))
        for slab in part.slabs:
            spans = spans_along(slab.region.edges, (line.at - complex(x, y)) / turn, line.way / turn)
            if spans:
                found.append(Slice(name, slab.low, slab.high, tuple(spans)))
    return sorted(found, key=lambda one: one.low)


@dataclass(frozen=True)
class Meeting:
    """How two slabs that lie over each other stand in depth: `gap` between their faces, 0 where they touch, less where
    they fill the same depth; `at` is where along the line, `low` and `high` the faces."""

    behind: str
    front: str
    gap: float
    at: float
    low: float
    high: float

    @property
    def words(self) -> str:
        """``touch``, ``gap`` or ``overlap``."""
        return "touch" if abs(self.gap) <= TOUCHING else "gap" if self.gap > 0 else "overlap"


def meetings(slices: Sequence[Slice], part: str = "") -> list[Meeting]:
    """The faces that stand next to each other in depth, over the same stretch of the line; of one part, where it is
    named, else of all."""
    found: dict[frozenset[str], Meeting] = {}
    for one in slices:
        for two in slices:
            if one.part == two.part or (one.low, one.part) > (two.low, two.part):
                continue
            both = [(max(a, c), min(b, d)) for a, b in one.spans for c, d in two.spans]
            shared = [(low, high) for low, high in both if high - low > TOUCHING]
            if not shared or part not in ("", one.part, two.part):
                continue
            if any(other.part not in (one.part, two.part) and one.high - TOUCHING <= other.low
                   and other.high <= two.low + TOUCHING and _over(other, shared) for other in slices):  # fmt: skip
                continue
            low, high = shared[0]
            meeting = Meeting(one.part, two.part, two.low - one.high, (low + high) / 2, one.high, two.low)
            key = frozenset((one.part, two.part))
            if key not in found or meeting.gap < found[key].gap:
                found[key] = meeting
    return sorted(found.values(), key=lambda one: one.low)


def about(document: Document, poses: Mapping[str, Pose], part: str, line: Line) -> list[Meeting]:
    """How the faces of a part stand to those of what lies over or under it in plan: the nearest in front, the nearest
    behind, and all that fill the same depth."""
    import shapely

    own = [(slab, _stands(slab.region, poses[part])) for slab in document.parts[part].slabs]
    found: list[Meeting] = []
    for name, other in document.parts.items():
        if name == part or name not in poses:
            continue
        for slab in other.slabs:
            outline = _stands(slab.region, poses[name])
            for mine, shape in own:
                if not shapely.intersects(shape, outline):
                    continue
                both = shapely.intersection(shape, outline)
                if both.area <= TOUCHING:
                    continue
                at = ((complex(both.centroid.x, both.centroid.y) - line.at) * line.way.conjugate()).real
                if slab.low >= mine.low:
                    found.append(Meeting(part, name, slab.low - mine.high, at, mine.high, slab.low))
                else:
                    found.append(Meeting(name, part, mine.low - slab.high, at, slab.high, mine.low))
    front = min((one for one in found if one.behind == part and one.gap > -TOUCHING), key=_gap, default=None)
    behind = min((one for one in found if one.front == part and one.gap > -TOUCHING), key=_gap, default=None)
    over = [one for one in found if one.gap <= -TOUCHING and part not in _holders(document, one)]
    return [one for one in (front, behind, *over) if one is not None]


def _gap(one: Meeting) -> float:
    return one.gap


def _holders(document: Document, one: Meeting) -> set[str]:
    """Parts that fill the same depth on purpose: hardware with what it goes through."""
    both = [document.parts[name] for name in (one.behind, one.front)]
    pieces = [part.hardware for part in both if part.hardware is not None]
    through = {ref.part for piece in pieces for ref in piece.axis}
    return {one.behind, one.front} if len(pieces) == 2 or through & {one.behind, one.front} else set()


@lru_cache(maxsize=512)
def _outline(region: Region) -> "shapely.Geometry":
    reach = float(np.abs(region.edges.start).max())
    return polygon_of(region, 1e-3 * reach)


def _stands(region: Region, pose: Pose) -> "shapely.Geometry":
    """An outline where it stands."""
    x, y, angle = pose
    found: shapely.Geometry = placed(_outline(region), np.array([complex(x, y)]), np.exp(1j * np.array([angle])))[0]
    return found


def _over(other: Slice, shared: Sequence[tuple[float, float]]) -> bool:
    """Whether a slice lies over a stretch."""
    return any(min(b, d) - max(a, c) > TOUCHING for a, b in other.spans for c, d in shared)


def snapped(document: Document, part: str, by: float, near: float, others: Sequence[str]) -> float:
    """How far a part is moved in depth that is dragged about so far: face to face with one of some others, or in the
    middle between two of them, where that is near; else by a round number."""
    low, high = extent([document.parts[part]])
    faces = sorted({face for name in others if name != part for face in extent([document.parts[name]])})
    wanted = [face - end for face in faces for end in (low, high)]
    wanted += [(a + b - low - high) / 2 for a, b in pairwise(faces) if b - a > high - low]
    best = min(wanted, key=lambda one: abs(one - by), default=None)
    return best if best is not None and abs(best - by) < near else round(by, 1)
