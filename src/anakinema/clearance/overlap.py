"""How deep two regions overlap: the shortest move that would part them.

Both regions are unions of convex cores rounded by a radius. Their difference set {a − b} is then a union of rounded
convex polygons too, and the depth is the distance from the origin to its boundary (the usual Minkowski argument).
"""

from functools import lru_cache

import numpy as np
import shapely

from ..arrays import Plane
from ..geometry.outline import Region, polygons

Cores = list[tuple[Plane, float]]
QUARTER_SEGMENTS = 48
SAGS = (1e-3, 4e-3, 2e-2, 1e-1)
"""How far the pieces may miss the true arcs, relative to the reach: coarser only where there would be too many."""
MOST_CORES = 100


@lru_cache(maxsize=1024)
def outline_polygon(region: Region, sag: float) -> shapely.Geometry:
    """The region as a (multi-)polygon with holes; arcs become chords that miss them by at most `sag`."""
    rings = [ring for ring in polygons(region, sag) if ring.size >= 3]
    shapes = [shapely.Polygon(np.stack((ring.real, ring.imag), axis=1)) for ring in rings]
    solid = [shape for ring, shape in zip(rings, shapes, strict=True) if _area(ring) > 0]
    holes = [shape for ring, shape in zip(rings, shapes, strict=True) if _area(ring) < 0]
    return shapely.difference(shapely.union_all(solid), shapely.union_all(holes))


def _area(ring: Plane) -> float:
    return float((ring.conj() * np.roll(ring, -1)).imag.sum()) / 2


@lru_cache(maxsize=1024)
def _cores(region: Region) -> tuple[tuple[Plane, float], ...]:
    """Convex pieces (vertices) rounded by a radius that make up the region; of a region of very many edges only
    nearly."""
    if region.convex is not None:
        return region.convex
    for sag in SAGS:
        outline = outline_polygon(region, sag * max(region.reach, 1e-9))
        if sag != SAGS[0]:
            outline = shapely.simplify(outline, sag * region.reach)
        triangles = shapely.constrained_delaunay_triangles(outline)
        corners = [shapely.get_coordinates(triangle)[:3] for triangle in shapely.get_parts(triangles)]
        if len(corners) <= MOST_CORES:
            break
    return tuple((xy[:, 0] + 1j * xy[:, 1], 0.0) for xy in corners)


def core_pairs(one: Region, two: Region) -> int:
    """How many pairs of convex pieces two regions have."""
    return max(1, len(_cores(one)) * len(_cores(two)))


def penetration(one: Region, two: Region, shift: complex, turn: float) -> tuple[float, complex]:
    """Depth of the overlap of `one`, turned and shifted into the frame of `two`, with `two`; and the move of `one`
    that parts them by the shortest way. Depth 0 when they don't overlap."""
    spin = complex(np.exp(1j * turn))
    pairs = [
        ((a * spin + shift)[:, None] - b[None, :], ra + rb) for a, ra in _cores(one) for b, rb in _cores(two)
    ]
    hulls = []
    for corners, radius in pairs:
        flat = corners.ravel()
        hull = shapely.MultiPoint(np.stack((flat.real, flat.imag), axis=1)).convex_hull
        hulls.append((hull, radius))
    rounded = [shapely.buffer(hull, radius, quad_segs=QUARTER_SEGMENTS) if radius else hull for hull, radius in hulls]
    together = shapely.union_all(rounded)
    origin = shapely.Point(0.0, 0.0)
    if not shapely.intersects(together, origin):
        return 0.0, 0j
    foot = shapely.get_coordinates(shapely.shortest_line(origin, shapely.boundary(together)))[1]
    depth = float(np.hypot(*foot))
    for hull, radius in hulls:  # where the way out ends on one rounded hull, its exact depth is known
        edge = shapely.boundary(hull) if hull.geom_type == "Polygon" else hull
        reach = shapely.distance(origin, edge)
        exact = radius + (reach if hull.geom_type == "Polygon" and shapely.intersects(hull, origin) else -reach)
        if abs(exact - depth) <= 1e-3 * max(radius, 1e-12):
            depth = exact
            break
    return float(depth), -complex(*foot)
