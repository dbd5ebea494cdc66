"""Whether an outline makes sense: closed rings that enclose something and neither cross nor touch themselves."""

import numpy as np

from ..arrays import Index
from . import shapes as s
from .edges import Edges, meetings
from .near import near_pairs
from .rings import area, rings
from .shapes import SAME


def outline_fault(shape: s.Shape) -> str:
    """What is wrong with a shape's outline, in words with the mend; empty when all is well."""
    return "" if shape.may_cross is None else shape.repeated() or _ring_fault(shape, shape.may_cross)


def _ring_fault(shape: s.Shape, what: str) -> str:
    for ring in rings(shape):
        size = float(np.ptp(ring.start.real) + np.ptp(ring.start.imag) + ring.radius.max(initial=0.0))
        if ring.count < 2 or abs(area(ring)) <= SAME * size * size:
            return "it encloses nothing: it is flat, or crosses itself; mend its corners"
        if (pair := _crossing(ring, SAME * size)) is not None:
            place = f" (edges {pair[0]} and {pair[1]} of its boundary)" if what else ": its ends meet"
            return f"it crosses or touches itself{place}; split it in two shapes, or mend its {what or 'angles'}"
    return ""


def _crossing(ring: Edges, slack: float) -> tuple[int, int] | None:
    """Two edges of a ring that meet elsewhere than at the end that neighbours share; None where there are none."""
    first, second = near_pairs(ring, np.arange(ring.count))
    for some in np.array_split(np.arange(first.size), 1 + first.size // 100_000):
        found = _meet(ring, first[some], second[some], slack)
        if found is not None:
            return found
    return None


def _meet(ring: Edges, first: Index, second: Index, slack: float) -> tuple[int, int] | None:
    if not first.size:
        return None
    one, two = ring.pick(first), ring.pick(second)
    points = meetings(one, two)
    follows, leads = second == first + 1, (first == 0) & (second == ring.count - 1)
    shared = np.where(follows, one.end, np.where(leads, one.start, np.nan))
    near = 10 * slack + 1e-6 * np.minimum(one.length(), two.length())
    near_shared = np.abs(points - shared[:, None]) <= near[:, None]
    if ring.count == 2:  # both ends are shared
        near_shared |= np.abs(points - one.start[:, None]) <= 10 * slack
    crossed = (np.isfinite(points) & ~near_shared).any(axis=1)
    # Neighbours that run back over each other, and parallel lines on top of each other, meet in no single point.
    out, back = one.direction(np.where(follows, 1.0, 0.0)), two.direction(np.where(follows, 0.0, 1.0))
    straight = ~one.is_arc & ~two.is_arc
    crossed |= straight & (follows | leads) & (np.abs(out + back) < 1e-9)
    apart = ~(follows | leads) & straight
    chord = one.end - one.start
    unit = chord / np.where(np.abs(chord) > 0, np.abs(chord), 1.0)
    for z in (two.start, two.end):
        along, across = ((z - one.start) * unit.conj()).real, ((z - one.start) * unit.conj()).imag
        crossed |= apart & (np.abs(across) <= slack) & (along > slack) & (along < np.abs(chord) - slack)
    if not crossed.any():
        return None
    i = int(np.argmax(crossed))
    return int(first[i]), int(second[i])
