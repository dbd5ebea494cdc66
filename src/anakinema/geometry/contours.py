"""Closed rings of lines and arcs, of which shapes are bounded."""

from collections.abc import Sequence

import numpy as np

from ..arrays import Plane
from .edges import Edges, arc, bends, circle, joined, lines

Turn = tuple[complex, complex | None, bool]
"""An edge of a contour: where it goes, the centre of its arc (None: it is straight), whether counter-clockwise."""


def stadium(one: complex, two: complex, radius: float) -> Edges:
    """All within a radius of a straight line."""
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


def rounded(points: Plane, radius: float) -> Edges:
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


def contour(start: complex, turns: Sequence[Turn]) -> Edges:
    """A ring of straight edges and arcs, an open end closed by a straight edge."""
    to = np.array([turn[0] for turn in turns], dtype=complex)
    at = np.concatenate(([start], to[:-1])) if to.size else to
    bent = np.array([turn[1] is not None for turn in turns], dtype=bool)
    center = np.array([0j if turn[1] is None else turn[1] for turn in turns], dtype=complex)
    first, last = np.angle(at - center), np.angle(to - center)
    sweep = np.mod(last - first, 2 * np.pi)
    sweep[sweep == 0.0] = 2 * np.pi
    clockwise = ~np.array([turn[2] for turn in turns], dtype=bool)
    sweep[clockwise] -= 2 * np.pi
    sweep[clockwise & (sweep == 0.0)] = -2 * np.pi
    kept = bent | (np.abs(to - at) > 0)
    found = bends(at, to, center, np.where(bent, np.abs(at - center), 0.0), first, np.where(bent, sweep, 0.0), kept)
    end = to[-1] if to.size else start
    return joined([found, lines(np.array([end, start]), closed=False)])


def bent_slot(center: complex, radius: float, start: float, stop: float, half: float) -> Edges:
    """All within `half` of an arc."""
    one, two = (center + radius * np.exp(1j * angle) for angle in (start, stop))
    sweep = stop - start
    return joined(
        [
            arc(center, radius + half, start, sweep),
            arc(complex(two), half, stop, np.pi),
            arc(center, radius - half, stop, -sweep),
            arc(complex(one), half, start + np.pi, np.pi),
        ]
    )
