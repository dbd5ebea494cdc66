"""The closed boundaries of single shapes."""

from dataclasses import replace
from functools import lru_cache
from itertools import pairwise

import numpy as np

from ..arrays import Index, Mask, Plane
from . import shapes as s
from .edges import Edges, arc, circle, joined, lines, same_carrier


def count_edges(shape: s.Shape) -> int:
    """How many edges a shape has, about; not fewer than half of them."""
    match shape:
        case s.Disc():
            return 4
        case s.Bar():
            return 6 * (len(shape.through) - 1)
        case s.Polygon():
            return len(shape.vertices) * (2 if shape.corner_radius > 0 else 1)
        case s.Path():
            return 2 * len(shape.segments) + 1
    return 8


@lru_cache(maxsize=1 << 15)
def rings(shape: s.Shape) -> list[Edges]:
    """The closed boundaries of one shape; where there are several, the shape is their union. Their lines and arcs are
    numbered through as the shape's features."""
    found, count = [], 0
    for ring in _rings(shape):
        here = np.arange(1, ring.count)
        numbers = count + np.append(0, np.cumsum(~_goes_round(ring, here)))
        found.append(replace(ring, feature=numbers))
        count = int(numbers[-1]) + 1
    return found


def _goes_round(ring: Edges, here: Index) -> Mask:
    """Whether edges are further pieces of the arc before them."""
    return ring.is_arc[here] & same_carrier(ring, here - 1, here)


def _rings(shape: s.Shape) -> list[Edges]:
    match shape:
        case s.Bar():
            points = [complex(*point) for point in shape.through]
            return [_stadium(one, two, shape.width / 2) for one, two in pairwise(points)]
        case s.Disc():
            return [circle(complex(*shape.center), shape.diameter / 2)]
        case s.Rectangle():
            return [_rounded(_rectangle(shape), shape.corner_radius)]
        case s.Polygon():
            return [_rounded(np.array([complex(*vertex) for vertex in shape.vertices]), shape.corner_radius)]
        case s.Path():
            return [_path(shape)]
        case s.Slot():
            return [_stadium(complex(*shape.through[0]), complex(*shape.through[1]), shape.width / 2)]
        case s.ArcSlot():
            return [_arc_slot(shape)]
    raise TypeError(f"no outline for {type(shape).__name__}")


def _stadium(one: complex, two: complex, radius: float) -> Edges:
    if one == two:
        return circle(one, radius)
    along = float(np.angle(two - one))
    side = radius * np.exp(1j * (along - np.pi / 2))
    return joined(
        [
            lines(np.array([one + side, two + side]), closed=False),
            arc(two, radius, along - np.pi / 2, np.pi),
            lines(np.array([two - side, one - side]), closed=False),
            arc(one, radius, along + np.pi / 2, np.pi),
        ]
    )


def _rectangle(shape: s.Rectangle) -> Plane:
    along, across = shape.size[0] / 2, shape.size[1] / 2
    corners = np.array([-along - 1j * across, along - 1j * across, along + 1j * across, -along + 1j * across])
    return np.asarray(corners * np.exp(1j * shape.angle) + complex(*shape.center))


def _rounded(points: Plane, radius: float) -> Edges:
    """A ring of straight edges, counter-clockwise, each corner rounded as far as its edges allow."""
    area = float((points.conj() * np.roll(points, -1)).imag.sum()) / 2
    if area < 0:
        points = points[::-1]
    if radius <= 0:
        return lines(points)
    before, after = np.roll(points, 1), np.roll(points, -1)
    into = (before - points) / np.abs(before - points)
    out = (after - points) / np.abs(after - points)
    half = np.arccos(np.clip((into.conj() * out).real, -1, 1)) / 2
    with np.errstate(divide="ignore"):
        trim = np.where(half < np.pi / 2 - 1e-9, radius / np.tan(half), 0.0)
    room = np.minimum(np.abs(before - points), np.abs(after - points)) / 2
    shrink = np.where(trim > room, room / np.where(trim > 0, trim, 1.0), 1.0)
    found: list[Edges] = []
    last = None
    ends: list[tuple[complex, complex, Edges | None]] = []
    for i, point in enumerate(points):
        cut, r = trim[i] * shrink[i], radius * shrink[i]
        if cut == 0.0:
            ends.append((point, point, None))
            continue
        one, two = point + cut * into[i], point + cut * out[i]
        middle = into[i] + out[i]
        center = point + middle / abs(middle) * r / np.sin(half[i])
        start, stop = np.angle(one - center), np.angle(two - center)
        sweep = float((stop - start + np.pi) % (2 * np.pi) - np.pi)
        ends.append((one, two, arc(complex(center), float(r), float(start), sweep)))
    for i, (one, _two, bend) in enumerate(ends):
        last = ends[i - 1][1]
        found.append(lines(np.array([last, one]), closed=False))
        if bend is not None:
            found.append(bend)
    return joined(found)


def _path(shape: s.Path) -> Edges:
    at = complex(*shape.start)
    found: list[Edges] = []
    for segment in shape.segments:
        to = complex(*segment.to)
        if segment.center is None:
            found.append(lines(np.array([at, to]), closed=False))
        else:
            center = complex(*segment.center)
            start, stop = float(np.angle(at - center)), float(np.angle(to - center))
            sweep = (stop - start) % (2 * np.pi) or 2 * np.pi
            if not segment.ccw:
                sweep = sweep - 2 * np.pi or -2 * np.pi
            found.append(arc(center, abs(at - center), start, sweep))
        at = to
    found.append(lines(np.array([at, complex(*shape.start)]), closed=False))
    return joined(found)


def _arc_slot(shape: s.ArcSlot) -> Edges:
    center, half = complex(*shape.center), shape.width / 2
    one, two = (center + shape.radius * np.exp(1j * angle) for angle in (shape.start, shape.stop))
    sweep = shape.stop - shape.start
    return joined(
        [
            arc(center, shape.radius + half, shape.start, sweep),
            arc(complex(two), half, shape.stop, np.pi),
            arc(center, shape.radius - half, shape.stop, -sweep),
            arc(complex(one), half, shape.start + np.pi, np.pi),
        ]
    )


def area(ring: Edges) -> float:
    """The area that a closed ring encloses, positive when it runs counter-clockwise."""
    chords = float((ring.start.conj() * ring.end).imag.sum()) / 2
    caps = ring.radius**2 * (ring.sweep - np.sin(ring.sweep)) / 2
    return chords + float(caps[ring.is_arc].sum())
