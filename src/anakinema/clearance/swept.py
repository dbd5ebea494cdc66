"""The area that parts sweep over a motion, with how far its outline may be off.

Each outline becomes a polygon (`geometry.areas`); between two moments each of its sides sweeps no more than the hull
of where it stands at both, but for the bow of the ways of its corners, which is measured and told. Moments are halved
until that is small.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array, Plane
from ..document.model import Document, Part
from ..errors import located, suggestion
from ..geometry.areas import placed, polygon_of
from ..kinematics.motion import Motion

if TYPE_CHECKING:
    import shapely

FINE = 1e-3
"""How far the outline may be off, as a share of the part's size."""
POLYGON = 3
"""What the geometry library calls a polygon."""
LEVELS = 12.0
"""Levels at which what is swept is joined: each may be off by as small a share of the tolerance."""
STRIDES = (64, 16, 4, 1)
"""Of how many moments one is joined, again and again."""
FIRST, MOST = 33, 2049
"""Moments at which the motion is looked at, to begin with and at most."""


@dataclass(frozen=True)
class Swept:
    """A swept area: polygons in the plane, or in the axes of the part `on`; `error` is how far the outline may be off
    (document lengths), either way."""

    parts: tuple[str, ...]
    on: str
    area: "shapely.Geometry"
    error: float

    def grown(self, by: float) -> "Swept":
        """The same with so much room around it (document lengths)."""
        if by == 0.0:
            return self
        import shapely

        steps = max(8, math.ceil(math.pi / 4 / math.acos(1 - min(self.error / abs(by), 0.5)))) if self.error else 16
        return replace(self, area=shapely.buffer(self.area, by, quad_segs=min(steps, 64)), error=2 * self.error)

    @property
    def rings(self) -> list[Plane]:
        """Its closed outlines as places x + i y, the last equal to the first; counter-clockwise, holes clockwise."""
        import shapely

        parts = [one for one in shapely.get_parts(shapely.orient_polygons(self.area)) if one.geom_type == "Polygon"]
        found = [ring for one in parts for ring in (one.exterior, *one.interiors)]
        return [(each := shapely.get_coordinates(ring))[:, 0] + 1j * each[:, 1] for ring in found]


def swept(motion: Motion, parts: Sequence[str], on: str = "", fine: float = FINE) -> Swept:
    """What parts sweep together over a motion, seen from the part `on`, else from the plane. Raises `DocumentError`
    where none of them has an outline."""
    import shapely

    document = motion.document
    shaped = [name for name in parts if document.parts[name].slabs]
    if not shaped:
        names = " and ".join(f"'{name}'" for name in parts) or "nothing"
        raise located(f"parts.{parts[0]}" if parts else "parts", f"{names} has no outline to sweep an area with")
    known = motion.kept.setdefault(("swept",), {})
    key = (tuple(sorted(shaped)), on, fine)
    if key not in known:
        found = [_of_part(motion, name, on, fine) for name in shaped]
        area = shapely.union_all([area for area, _ in found])
        known[key] = Swept(tuple(shaped), on, area, max(error for _, error in found))
    kept: Swept = known[key]
    return kept


def members(document: Document, names: Sequence[str], on: str = "") -> list[str]:
    """The parts of names of parts and groups. Raises `DocumentError` for one that is neither."""
    found: dict[str, None] = {}
    for name in (*names, *([on] if on else [])):
        if name not in document.parts and (name not in document.groups or name == on):
            known = [*document.parts, *(document.groups if name != on else ())]
            raise located(f"parts.{name}", f"there is no such part{suggestion(name, known)}")
    for name in names:
        found |= dict.fromkeys([name] if name in document.parts else document.groups[name].parts)
    return list(found)


def _of_part(motion: Motion, name: str, on: str, fine: float) -> tuple["shapely.Geometry", float]:
    """What one part sweeps, and how far its outline may be off."""
    import shapely

    part = motion.document.parts[name]
    reach = _reach(part)
    coarse = fine * reach / 3
    outline = shapely.orient_polygons(outline_of(part, coarse))
    corners = shapely.get_coordinates(outline)
    own = corners[:, 0] + 1j * corners[:, 1]
    t = np.array([0.0])
    bow = 0.0
    if motion.path.t1 > 0:
        t = np.linspace(0.0, motion.path.t1, FIRST)
        for _ in range(12):
            middle = (t[:-1] + t[1:]) / 2
            ends, between = stand(motion, name, on, own, t), stand(motion, name, on, own, middle)
            off = np.abs(between - (ends[:-1] + ends[1:]) / 2).max(axis=1)
            bow = float(off.max(initial=0.0))
            bad = off > coarse
            if not bad.any() or t.size + int(bad.sum()) > MOST:
                break
            t = np.sort(np.concatenate((t, middle[bad])))
    ends = stand(motion, name, on, own, t)
    if float(np.abs(ends - ends[0]).max()) < 1e-12 * max(reach, 1.0):
        at, turn = _frame(motion, name, on, t[:1])
        return placed(outline, at, turn)[0], coarse
    at, turn = _frame(motion, name, on, t)
    pieces = placed(outline, at, turn)
    sides = _sides(outline, ends, coarse / 2)
    for k, side in sides.items():
        pieces[k] = shapely.union(pieces[k], side)
    return _joined(pieces, coarse), 4 * coarse + bow


def _reach(part: Part) -> float:
    """How far the corners of a part's outlines lie from its origin."""
    return max(float(np.abs(slab.region.edges.start).max()) for slab in part.slabs)


def _joined(pieces: np.ndarray, slack: float) -> "shapely.Geometry":
    """Pieces that lie one after another joined: some of them first, then those that stand out of these by more than a
    slack, for what is swept again and again would keep every sliver."""
    import shapely

    area = shapely.Polygon()
    for step in STRIDES:
        some = pieces[::step]
        reached = shapely.buffer(area, slack / 2, quad_segs=2)
        shapely.prepare(reached)
        some = some[~shapely.covers(reached, some)]
        while some.size > 1:
            several = np.append(some, [None] * (some.size % 2)).reshape(-1, 2)
            some = shapely.simplify(shapely.union_all(several, axis=1), slack / LEVELS)
        area = shapely.union(area, some[0]) if some.size else area
    parts = shapely.get_parts(shapely.simplify(area, slack / 2))
    return shapely.union_all(parts[shapely.get_type_id(parts) == POLYGON])


def _sides(outline: "shapely.Geometry", ends: Plane, slack: float) -> dict[int, "shapely.Geometry"]:
    """The hulls that the sides of an outline sweep between moments (S, N corners), joined by the
    number of the step; none where a side gets ahead by no more than a slack."""
    import shapely

    rings = [ring for one in shapely.get_parts(outline) for ring in (one.exterior, *one.interiors)]
    counts = [shapely.get_num_coordinates(ring) for ring in rings]
    begins = np.cumsum([0, *counts])
    side = np.concatenate([np.arange(begin, begin + count - 1) for begin, count in zip(begins, counts, strict=False)])
    a, b = ends[:-1, side].ravel(), ends[:-1, side + 1].ravel()
    c, d = ends[1:, side + 1].ravel(), ends[1:, side].ravel()
    out = -1j * (b - a)  # rings run with the material to their left
    size = np.where(np.abs(out) > 0, np.abs(out), 1.0)
    first, last = ((d - a) * out.conj()).real / size, ((c - b) * out.conj()).real / size
    moved = np.maximum(first, last) > slack  # what moves inward sweeps nothing new
    cross = ((b - a).conj() * (c - d)).imag
    share = ((d - a).conj() * (c - d)).imag / np.where(cross != 0, cross, 1.0)
    turns = (np.minimum(first, last) < 0) & (cross != 0) & (share > 0) & (share < 1)
    middle = a + share * (b - a)  # a side that turns about a place of its own gets ahead on one half of it
    b, c = (np.where(turns & (first > 0), middle, each) for each in (b, c))
    a, d = (np.where(turns & (last > 0), middle, each) for each in (a, d))
    quads = np.stack((a, b, c, d), axis=1)[moved]
    points = shapely.points(np.stack((quads.real, quads.imag), axis=-1))
    hulls = shapely.convex_hull(shapely.multipoints(points))
    steps = np.repeat(np.arange(len(ends) - 1), side.size)[moved]
    flat = shapely.get_type_id(hulls) != POLYGON
    hulls, steps = hulls[~flat], steps[~flat]
    cuts = np.searchsorted(steps, np.arange(1, len(ends) - 1))
    return {k: shapely.union_all(some) for k, some in enumerate(np.split(hulls, cuts)) if some.size}


def _frame(motion: Motion, name: str, on: str, t: Array) -> tuple[Plane, Plane]:
    """(S,) twice: where a part's origin is and how it is turned, seen from a part or the plane."""
    q = motion.positions(t)
    return seen(q[:, motion.system.body(name)], q[:, motion.system.body(on)] if on else None)


def seen(one: Array, two: Array | None) -> tuple[Plane, Plane]:
    """(S,) twice: where a body's origin is and how it is turned, at positions (S, 3), seen from another."""
    at, turn = one[:, 0] + 1j * one[:, 1], np.exp(1j * one[:, 2])
    if two is not None:
        back = np.exp(-1j * two[:, 2])
        at, turn = (at - (two[:, 0] + 1j * two[:, 1])) * back, turn * back
    return at, turn


def stand(motion: Motion, name: str, on: str, own: Plane, t: Array) -> Plane:
    """(S, N) where places of a part are at times."""
    at, turn = _frame(motion, name, on, t)
    found: Plane = at[:, None] + turn[:, None] * own[None]
    return found


def outline_of(part: Part, coarse: float) -> "shapely.Geometry":
    """All outlines of a part as one polygon in its own axes, off by so much at most."""
    import shapely

    return shapely.union_all([polygon_of(slab.region, coarse) for slab in part.slabs])


def fixed_outline(document: Document, name: str, fine: float = FINE) -> tuple["shapely.Geometry", float]:
    """The outline of a part in its own axes, and how far it may be off."""
    part = document.parts[name]
    if not part.slabs:
        raise located(f"parts.{name}", f"'{name}' has no outline")
    coarse = fine * _reach(part) / 2
    return outline_of(part, coarse), coarse
