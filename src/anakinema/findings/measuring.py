"""Distances and angles between features through the motion, and the true extremes of any function of it."""

import cmath
from collections.abc import Callable

import numpy as np

from ..arrays import Array, Index, Plane
from ..document.model import Document, Measure, PointRef
from ..kinds import Dimension
from ..kinematics.extremes import narrowed
from ..kinematics.motion import Motion
from ..measures import MEASURE_KINDS
from .series import Series, with_extremes

Sides = tuple[PointRef, ...]
Positions = Callable[[str], Array]
"""Where a part stands, (S, 3): document lengths, rad."""


def least_and_greatest(motion: Motion, measure: Callable[[Array], Array]) -> tuple[float, float, float, float]:
    """Least value and its time, greatest value and its time, of a function that gives values (S,) at times (S,)."""
    t = motion.grid
    values = measure(t)
    if t.size == 1:
        return float(values[0]), 0.0, float(values[0]), 0.0
    ways = (1.0, -1.0)
    turned = [_lowest(way * values) for way in ways]
    centers, way = np.concatenate(turned), np.repeat(ways, [found.size for found in turned])

    def evaluate(times: Array) -> Array:
        return way[:, None] * measure(times.ravel()).reshape(times.shape)

    best, at = narrowed(evaluate, t[np.maximum(centers - 1, 0)], t[np.minimum(centers + 1, t.size - 1)], 1e-10)
    first = turned[0].size
    low, high = int(np.argmin(best[:first])), first + int(np.argmin(best[first:]))
    return float(best[low]), float(at[low]), float(-best[high]), float(at[high])


def _lowest(values: Array, most: int = 2) -> Index:
    """The samples that are no higher than their neighbours, the lowest of them."""
    padded = np.concatenate(([np.inf], values, [np.inf]))
    found = np.flatnonzero((values <= padded[:-2]) & (values <= padded[2:]))
    lowest: Index = found[np.argsort(values[found], kind="stable")[:most]]
    return lowest


def values_of(measure: Measure, motion: Motion, t: Array) -> Array:
    """A distance (document lengths) or an angle (rad) at times (S,). An angle counts on over full turns from where it
    starts, within half a turn."""
    q = motion.positions(t)
    found = taken(measure, motion.document, lambda part: q[:, motion.system.body(part)])
    if measure.kind != "angle":
        return found
    start = motion.positions(np.zeros(1))
    first = float(taken(measure, motion.document, lambda part: start[:, motion.system.body(part)])[0])
    counted: Array = found - 2 * np.pi * round(first / (2 * np.pi))
    return counted


def taken(measure: Measure, document: Document, stands: Positions) -> Array:
    """A distance or an angle (S,) where parts stand so; an angle with the turns of its parts."""
    if measure.kind == "angle":
        turned: Array = _angle(document, measure.b, stands) - _angle(document, measure.a, stands)
        return turned
    a, b = (np.array([_world(document, ref, stands) for ref in side]) for side in (measure.a, measure.b))
    if len(a) == len(b) == 1:
        gap: Array = np.abs(b[0] - a[0])
        return gap
    line, point = (a, b[0]) if len(a) == 2 else (b, a[0])  # of two lines: of the second's first point from the first
    along = line[1] - line[0]
    apart: Array = np.abs((along.conj() * (point - line[0])).imag) / np.abs(along)
    return apart


def _angle(document: Document, side: Sides, stands: Positions) -> Array:
    """The direction of a line (S,), counted on with its part."""
    turned: Array = stands(side[0].part)[:, 2]
    if not side[0].point:
        return turned
    points = document.parts[side[0].part].points
    one, two = (complex(*points[ref.point]) for ref in side)
    return turned + cmath.phase(two - one)


def _world(document: Document, ref: PointRef, stands: Positions) -> Plane:
    at = stands(ref.part)
    own = complex(*document.parts[ref.part].points[ref.point])
    place: Plane = at[:, 0] + 1j * at[:, 1] + own * np.exp(1j * at[:, 2])
    return place


def dimension_of(measure: Measure) -> Dimension:
    """What a distance or an angle counts."""
    return MEASURE_KINDS[measure.kind].dimension or Dimension.LENGTH


def measure_series(motion: Motion, measure: Measure) -> Series:
    """A measure of the document along the motion."""
    t = motion.grid
    low, low_t, high, high_t = least_and_greatest(motion, lambda times: values_of(measure, motion, times))
    checks = [check for check in motion.document.checks.values() if check.measured is measure]
    bounds = tuple(bound for check in checks for bound in (check.at_least, check.at_most) if bound is not None)
    t, values = with_extremes(t, values_of(measure, motion, t), (low, high), (low_t, high_t))
    place = f"measures.{measure.id}"
    return Series(place, measure.id, dimension_of(measure), t, values, low, high, low_t, high_t, bounds)
