"""Painter paths of exact outlines; arcs stay arcs."""

import math
from functools import lru_cache

import numpy as np
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainterPath, QPolygonF, QTransform

from anakinema.geometry.outline import Region

MANY, SEEN = 400, 0.6
"""Edges from which an outline is thinned for painting, and how far its corners are apart then (pixels)."""


@lru_cache(maxsize=4096)
def region_path(region: Region) -> QPainterPath:
    """The region's boundary in the part's own frame, y upward."""
    path = QPainterPath()
    path.setFillRule(path.fillRule().WindingFill)
    edges = region.edges
    for loop in region.loops:
        first = edges.start[loop[0]]
        path.moveTo(QPointF(first.real, first.imag))
        for i in loop:
            if edges.radius[i] > 0:
                center, radius = edges.center[i], edges.radius[i]
                box = QRectF(center.real - radius, center.imag - radius, 2 * radius, 2 * radius)
                # Qt counts angles against a y axis that points down, so both signs turn.
                path.arcTo(box, -math.degrees(edges.angle[i]), -math.degrees(edges.sweep[i]))
            else:
                path.lineTo(QPointF(edges.end[i].real, edges.end[i].imag))
        path.closeSubpath()
    return path


def path_at(region: Region, scale: float) -> QPainterPath:
    """The same as it is painted with so many pixels for a length: an outline of many edges is thinned to what can be
    seen there, for painting takes its time by the corner."""
    if len(region.edges.start) <= MANY:
        return region_path(region)
    return _thinned(region, math.ceil(math.log2(scale)) if scale > 0 else 0)


@lru_cache(maxsize=256)
def _thinned(region: Region, level: int) -> QPainterPath:
    """Its boundary by corners that are `SEEN` pixels apart with 2^level pixels for a length."""
    path, scale = region_path(region), 2.0**level
    thin = QPainterPath()
    thin.setFillRule(path.fillRule())
    for polygon in path.toSubpathPolygons(QTransform.fromScale(scale, scale)):
        xy = np.array([(spot.x(), spot.y()) for spot in polygon.toList()])
        along = np.concatenate(([0.0], np.cumsum(np.hypot(*np.diff(xy, axis=0).T))))
        kept = xy[np.unique(np.floor(along / SEEN), return_index=True)[1]] / scale
        thin.addPolygon(QPolygonF([QPointF(x, y) for x, y in kept.tolist()]))
        thin.closeSubpath()
    return thin
