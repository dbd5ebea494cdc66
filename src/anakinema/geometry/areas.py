"""Regions as polygons of a geometry library, for unions, hulls and distances that need not be exact: arcs become chords
that miss them by no more than a tolerance, on one side."""

from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array, Index, Plane
from .edges import Edges
from .outline import Region

if TYPE_CHECKING:
    import shapely


def chords(edges: Edges, tolerance: float, outside: bool = False) -> Plane:
    """(N,) the corners of a closed loop of edges: arcs by chords within them, or, `outside`, by tangents about the
    convex and chords of the concave, so that what is to their left is covered. Off by the tolerance at most."""
    radius = np.where(edges.is_arc, edges.radius, 1.0)
    step = 2 * np.arccos(np.clip(1.0 - tolerance / radius, -1.0, 1.0))
    step = np.where(step > 0, np.minimum(step, np.pi / 4), np.pi / 4)
    count = np.where(edges.is_arc, np.maximum(2, np.ceil(np.abs(edges.sweep) / step)), 1).astype(int)
    of: Index = np.repeat(np.arange(edges.count), count)
    number = np.arange(of.size) - np.repeat(np.cumsum(count) - count, count)
    share: Array = number / count[of]
    each = edges.pick(of)
    start = each.point(share)
    if not outside:
        return start
    bulges = each.is_arc & (each.sweep > 0)
    half = np.abs(each.sweep) / count[of] / 2
    tip = each.center + each.radius / np.cos(half) * np.exp(1j * (each.angle + (share + 0.5 / count[of]) * each.sweep))
    both = np.stack((start, np.where(bulges, tip, start)), axis=1).ravel()
    keep = np.append(True, both[1:] != both[:-1])
    found: Plane = both[keep]
    return found


def polygon_of(region: Region, tolerance: float, outside: bool = False) -> "shapely.Geometry":
    """A region as a polygon, or several, off by a tolerance at most; `outside` covers it."""
    import shapely

    rings = []
    for loop in region.loops:
        z = chords(region.edges.pick(loop), tolerance, outside)
        if z.size > 2:  # what rounding leaves of a joint of outlines may enclose nothing
            rings.append(shapely.LinearRing(np.stack((z.real, z.imag), axis=1)))
    if len(rings) < 2:
        return shapely.Polygon(*rings)
    return shapely.build_area(shapely.GeometryCollection(rings))


def placed(outline: "shapely.Geometry", at: Plane, turn: Plane) -> np.ndarray:
    """(S,) an outline as it stands at places and turns (S,)."""
    import shapely

    coordinates = shapely.get_coordinates(outline)
    z = at[:, None] + (coordinates[:, 0] + 1j * coordinates[:, 1])[None] * turn[:, None]
    several = np.repeat(np.array([outline], dtype=object), at.size)
    found: np.ndarray = shapely.set_coordinates(several, np.stack((z.real, z.imag), axis=-1).reshape(-1, 2))
    return found
