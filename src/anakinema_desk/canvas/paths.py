"""Painter paths of exact outlines; arcs stay arcs."""

import math
from functools import lru_cache

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainterPath

from anakinema.geometry.outline import Region


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
