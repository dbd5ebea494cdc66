"""The profile of a cam as lines and arcs: pairs of arcs that meet with a common tangent (biarcs), through exact places
of the envelope with its exact tangents, halved until they miss it by less than is allowed."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from ..arrays import Array, Mask, Plane
from ..geometry.biarcs import LOOKS, MOST, joints, off, turn
from ..geometry.contours import Turn
from .geometry import CamGeometry, Course

FINE = 1e-6
"""How far lines and arcs may miss the envelope, as a share of the profile's greatest radius."""
DRAWN_IN, MISSED = 0.6, 0.35
"""Of that: by how much the profile is drawn in, away from the follower, and how far lines and arcs may miss it then:
what touches all along never cuts in, and closest approaches are settled quickly."""
FIRST = 24
"""Pieces of a turn to begin with."""
DENSE = 4096
"""Places of an envelope that is trimmed."""


@dataclass(frozen=True)
class Profile:
    """An outline in the cam's axes: from `start` along `turns`, each to where it goes, with the centre of its arc
    (None: straight) and whether that runs counter-clockwise. `error` is by how much it may miss the envelope; `lost`
    are the spans of a in which the follower would not touch it, for it is cut away there."""

    start: complex
    turns: tuple[Turn, ...]
    error: float
    lost: tuple[tuple[float, float], ...] = ()


class _Curve:
    """A curve over a: the envelope, or that to the other side of the follower's own path for a groove."""

    def __init__(self, geometry: CamGeometry, radius: float | None = None):
        follower = geometry.follower
        self.geometry = geometry if radius is None else replace(geometry, follower=replace(follower, radius=radius))
        self.drawn_in = 0.0
        self.away = -1.0 if radius is not None and radius < 0 else 1.0

    def at(self, a: Array) -> tuple[Plane, Plane, Course]:
        """(N,) places and unit tangents in the order of a, with what else there is."""
        course = self.geometry.course(a)
        ahead = course.normal / (1j * self.geometry.side)
        if self.geometry.follower.kind.is_face and not self.geometry.shaft.slides:
            ahead = -1j * self.geometry.shaft.sense * course.normal
        return course.profile - self.away * self.drawn_in * course.normal, ahead, course


def spread(geometry: CamGeometry, count: int) -> Array:
    """(N + 1,) coordinates over one turn or the whole, at least `count`, with all at which pieces of the law meet."""
    low, high = geometry.range
    knots = np.array([low, high, *(one for one in geometry.law.joints() if low < one < high)])
    evenly = np.linspace(low, high, count + 1)
    apart = np.abs(evenly[:, None] - knots[None, :]).min(axis=1) > 1e-6 * (high - low)
    return np.unique(np.concatenate((evenly[apart], knots)))


@lru_cache(maxsize=128)
def profile(
    geometry: CamGeometry, radius: float | None = None, tolerance: float = 0.0, outward: float = 0.0
) -> Profile:
    """The profile of a cam, closed where it turns; with a `radius` that which a roller of that radius would need. It
    misses the envelope by less than a `tolerance` (document lengths), or a millionth of its own size, and lies
    `outward` of it, as the way of a cutter's centre does."""
    curve = _Curve(geometry, radius)
    low, high = geometry.range
    a = spread(geometry, FIRST)
    knots = {low, high, *(one for one in geometry.law.joints() if low < one < high)}
    first, last = a[:-1].copy(), a[1:].copy()
    for k, one in enumerate(last.tolist()):  # the end of a piece belongs to it, not to the next
        if one in knots:
            last[k] = one - 1e-12 * max(1.0, abs(one))
    places, _, whole = curve.at(np.concatenate((first, last)))
    size = float(np.abs(places[np.isfinite(places)] - geometry.middle).max(initial=1e-300))
    allowed = tolerance or FINE * size
    curve.drawn_in = DRAWN_IN * allowed - outward
    if whole.undercut.any() or not np.isfinite(places).all():
        return _trimmed(curve, geometry, size)
    done: list[tuple[float, complex, list[Turn]]] = []
    worst = 0.0
    while first.size:
        one, two = curve.at(first), curve.at(last)
        q, ok = joints(one[0], one[1], two[0], two[1])
        missed = np.where(ok, 0.0, np.inf)
        for share in LOOKS:
            real, _, course = curve.at(first + share * (last - first))
            if course.undercut.any():
                return _trimmed(curve, geometry, size)
            missed = np.maximum(missed, off(real, one[0], one[1], two[0], two[1], q))
        fine = missed <= MISSED * allowed
        if done and len(done) + int((~fine).sum()) * 2 > MOST:
            fine[:] = True
            worst = max(worst, float(missed.max()))
        worst = max(worst, float(missed[fine].max(initial=0.0)))
        for k in np.flatnonzero(fine).tolist():
            p0, p1, t0, t1, middle = (complex(each[k]) for each in (one[0], two[0], one[1], two[1], q))
            done.append((float(first[k]), p0, [turn(p0, t0, middle), turn(p1, -t1, middle, back=True)]))
        middle_a = (first + last) / 2
        first, last = (np.concatenate((first[~fine], middle_a[~fine])), np.concatenate((middle_a[~fine], last[~fine])))
    done.sort(key=lambda piece: piece[0])
    found = _closed(done, curve, geometry, allowed)
    if found is None:
        return _trimmed(curve, geometry, size)
    return Profile(done[0][1], tuple(found), DRAWN_IN * allowed + worst)


def _closed(
    done: Sequence[tuple[float, complex, list[Turn]]], curve: _Curve, geometry: CamGeometry, allowed: float
) -> list[Turn] | None:
    """All turns one after the other, with what lies between pieces that don't meet: the roller's own circle in a hollow
    corner, the face where it rests on two places. None where pieces run into each other."""
    found: list[Turn] = []
    closed = not geometry.shaft.slides
    for k, (_, _, turns) in enumerate(done):
        found += turns
        if k + 1 == len(done) and not closed:
            break
        here, there = turns[-1][0], done[(k + 1) % len(done)][1]
        if abs(there - here) <= allowed * 2:
            found[-1] = (there, found[-1][1], found[-1][2])
            continue
        a = done[(k + 1) % len(done)][0]
        _, ahead, course = curve.at(np.array([a]))
        if ((there - here) * complex(ahead[0]).conjugate()).real < 0:
            return None
        if geometry.follower.kind.is_face:
            found.append((there, None, True))
            continue
        center = complex(course.pitch[0])  # about the roller's centre, or about a corner
        found.append((there, center, (((here - center).conjugate() * (there - center)).imag) > 0))
    return found


def _trimmed(curve: _Curve, geometry: CamGeometry, size: float) -> Profile:
    """What is left of a cam from which a follower cuts more than its envelope: by straight lines, about the middle."""
    a = spread(geometry, DENSE)
    places, _, course = curve.at(a)
    if geometry.shaft.slides:
        places = places[np.isfinite(places)]
        lines = tuple((complex(z), None, True) for z in places[1:])
        return Profile(complex(places[0]), lines, np.inf, spans(a, course.undercut))
    inner = curve.geometry.follower.radius if not geometry.follower.kind.is_face else 0.0
    own = course.pitch - geometry.middle
    count = 2880
    angles = np.linspace(-np.pi, np.pi, count, endpoint=False)
    way = np.exp(1j * angles)
    left = np.full(count, np.inf)
    for some in np.array_split(np.arange(a.size), max(1, a.size // 256)):
        # How far out one may go along each direction before the follower, wherever it is, is met.
        turned = own[some][:, None] * way.conj()[None, :]
        if geometry.follower.kind.is_face:
            m = course.normal[some][:, None] * way.conj()[None, :]
            h = (own[some] * course.normal[some].conj()).real[:, None]
            with np.errstate(divide="ignore", invalid="ignore"):
                met = np.where(m.real > 1e-12, h / m.real, np.inf)
        else:
            rest = inner**2 - turned.imag**2
            met = np.where((rest >= 0) & (turned.real > 0), turned.real - np.sqrt(np.maximum(rest, 0.0)), np.inf)
        left = np.minimum(left, met.min(axis=0))
    if not inner and not geometry.follower.kind.is_face:  # a knife's path itself, its nearest pass
        number = np.clip(((np.angle(own) + np.pi) / (2 * np.pi) * count).astype(int), 0, count - 1)
        np.minimum.at(left, number, np.abs(own))
    known = np.flatnonzero(np.isfinite(left) & (left > 0))
    left = np.interp(angles, angles[known], left[known], period=2 * np.pi) if known.size else np.full(count, size)
    ring = geometry.middle + left * way
    off = np.abs(places - geometry.middle) - np.interp(
        np.angle(places - geometry.middle), angles, left, period=2 * np.pi
    )
    return Profile(complex(ring[-1]), tuple((complex(z), None, True) for z in ring), np.inf,
                   spans(a, course.undercut | (off > 2e-3 * size)))  # fmt: skip


def spans(a: Array, bad: Mask) -> tuple[tuple[float, float], ...]:
    """From where to where it holds, over coordinates a (N,)."""
    edge = np.diff(np.concatenate(([False], bad, [False])).astype(int))
    starts, stops = np.flatnonzero(edge == 1), np.flatnonzero(edge == -1) - 1
    return tuple((float(a[one]), float(a[two])) for one, two in zip(starts.tolist(), stops.tolist(), strict=True))
