"""Pairs of arcs that meet with a common tangent (biarcs): smooth curves as arcs, as closely as is wanted."""

from collections.abc import Callable

import numpy as np

from ..arrays import Array, Mask, Plane
from .contours import Turn

LOOKS = (1 / 8, 3 / 8, 5 / 8, 7 / 8)
"""Where within a piece it is looked how far it misses."""
MOST = 4096
"""Pieces at most."""
Curve = Callable[[Array], tuple[Plane, Plane]]
"""(N,) places and unit tangents at (N,) places along it."""


def joints(p0: Plane, t0: Plane, p1: Plane, t1: Plane) -> tuple[Plane, Mask]:
    """(N,) where the two arcs from places with tangents to others meet, and whether there is such a place."""
    v = p1 - p0
    both = (v * (t0 + t1).conj()).real
    open_ = 2 * (1.0 - (t0 * t1.conj()).real)
    square = (v * v.conj()).real
    with np.errstate(divide="ignore", invalid="ignore"):
        bent = (-both + np.sqrt(both**2 + open_ * square)) / open_
        straight = square / (2 * both)
    d = np.where(open_ > 1e-10, bent, straight)
    ok = np.isfinite(d) & ((d > 0) | (square == 0))
    return (p0 + p1 + np.where(ok, d, 0.0) * (t0 - t1)) / 2, ok


def off(real: Plane, p0: Plane, t0: Plane, p1: Plane, t1: Plane, q: Plane) -> Array:
    """(N,) how far places lie off the nearer of two arcs that meet at q."""
    return np.minimum(_beside(real, p0, t0, q), _beside(real, p1, -t1, q))


def _beside(real: Plane, p: Plane, t: Plane, q: Plane) -> Array:
    """(N,) how far places lie off the circle from p along t to q."""
    chord, normal = q - p, 1j * t
    lean = 2 * (chord * normal.conj()).real / np.maximum((chord * chord.conj()).real, 1e-300)  # of curvature
    away = real - p
    across, square = (away * normal.conj()).real, (away * away.conj()).real
    # The distance from a circle of curvature k through p, without loss where it is nearly straight.
    off_center = np.sqrt(np.maximum(1.0 - 2 * lean * across + lean**2 * square, 0.0))
    found: Array = np.abs(2 * across - lean * square) / (1.0 + off_center)
    return found


def turn(p: complex, t: complex, q: complex, back: bool = False) -> Turn:
    """The arc from p along t to q; `back`: run from q to p."""
    to = p if back else q
    chord, normal = q - p, 1j * t
    across = (chord * normal.conjugate()).real
    if abs(across) <= 1e-12 * abs(chord):
        return to, None, True
    return to, p + normal * (abs(chord) ** 2 / (2 * across)), (across > 0) != back


def along(curve: Curve, start: float, stop: float, allowed: float) -> list[Turn]:
    """A curve from one place along it to another as arcs that miss it by less than is allowed; at most `MOST`."""
    first, last = np.array([start]), np.array([stop])
    done: list[tuple[float, list[Turn]]] = []
    way = 1.0 if stop >= start else -1.0
    while first.size:
        p0, t0 = curve(first)
        p1, t1 = curve(last)
        t0, t1 = way * t0, way * t1
        q, ok = joints(p0, t0, p1, t1)
        missed = np.where(ok, 0.0, np.inf)
        for share in LOOKS:
            real, _ = curve(first + share * (last - first))
            missed = np.maximum(missed, off(real, p0, t0, p1, t1, q))
        fine = missed <= allowed
        if len(done) + int((~fine).sum()) * 2 > MOST:
            fine[:] = True
        for k in np.flatnonzero(fine).tolist():
            one, two, middle = complex(p0[k]), complex(p1[k]), complex(q[k])
            pair = [turn(one, complex(t0[k]), middle), turn(two, complex(-t1[k]), middle, back=True)]
            done.append((way * float(first[k]), pair))
        half = (first + last) / 2
        first, last = np.concatenate((first[~fine], half[~fine])), np.concatenate((half[~fine], last[~fine]))
    done.sort(key=lambda piece: piece[0])
    return [one for _, pair in done for one in pair]
