"""Parts of a motion over which a check is judged: where the first driver stands at a value, or while a driver's
coordinate, or the time, is within a span."""

import math

import numpy as np

from ..arrays import Array, Mask
from ..document.model import Check, Span
from ..formatting import shown
from ..kinds import Dimension
from ..kinematics.motion import Motion
from ..measures.extremes import smooth_spans

BETWEEN = 721
"""Moments at which drivers are looked at, besides those of the grid, for where they pass a value."""
CLOSE, HALVINGS = 1e-9, 60
"""Share of a driver's way within which it is at a value; how often a stretch in which it passes one is halved."""


def windows_of(motion: Motion, check: Check) -> Array:
    """(W, 2) the times from which and until which a check is judged, in order; none where the motion is never there."""
    if check.at is not None:
        return _while_at(motion, check.at)
    return np.array([[0.0, motion.path.t1]]) if check.span is None else _within(motion, check.span)


def told_where(motion: Motion, check: Check) -> str:
    """Why there is no such moment, in words."""
    units = motion.document.units
    if check.at is not None:
        at = shown(check.at, motion.driver_dimension, units)
        return f"the driver '{motion.drive.drivers[0].id}' never stands at {at}"
    assert check.span is not None
    return f"{span_in_words(motion, check.span)} is never passed"


def span_in_words(motion: Motion, span: Span) -> str:
    """A span as it is said: ``'turn' from 30° to 90°``, ``the time until 2 s``."""
    dimension, name = Dimension.TIME, "the time"
    if span.driver:
        column = motion.system.coordinates.index(motion.document.drivers[span.driver].joint)
        dimension, name = motion.system.coordinates.dimension(column), f"'{span.driver}'"
    ends = ((word, end) for word, end in (("from", span.start), ("until", span.stop)) if end is not None)
    return " ".join([name, *(f"{word} {shown(end, dimension, motion.document.units)}" for word, end in ends)])


def times_at(motion: Motion, value: float, driver: int = 0) -> Array:
    """The times (S,) at which a driver's coordinate is at a value (core units)."""
    t = _looked_at(motion)
    off = motion.driver_values(t, driver) - value
    close = CLOSE * max(float(np.ptp(off)), 1.0)
    passed = np.flatnonzero((off[:-1] * off[1:] < 0) & (np.abs(off[:-1]) > close) & (np.abs(off[1:]) > close))
    low, high, before = t[passed], t[passed + 1], off[passed]
    for _ in range(HALVINGS if passed.size else 0):
        middle = (low + high) / 2
        same = (motion.driver_values(middle, driver) - value) * before > 0
        low, high = np.where(same, middle, low), np.where(same, high, middle)
    return np.unique(np.concatenate((t[np.abs(off) <= close], (low + high) / 2)))


def clipped(motion: Motion, windows: Array) -> Array:
    """(I, 2) the stretches between the nodes of a motion, as far as they lie in windows (W, 2)."""
    spans = smooth_spans(motion)
    found = []
    for start, stop in windows.tolist():
        some = np.clip(spans[(spans[:, 0] <= stop) & (spans[:, 1] >= start)], start, stop)
        lasting = some[some[:, 1] > some[:, 0]]
        found.append(lasting if lasting.size else np.array([[start, stop]]))
    return np.concatenate(found)


def inside(t: Array, windows: Array) -> Mask:
    """(S,) whether times lie in a window."""
    found: Mask = np.any((t[:, None] >= windows[:, 0]) & (t[:, None] <= windows[:, 1]), axis=1)
    return found


def _looked_at(motion: Motion) -> Array:
    return np.unique(np.append(motion.grid, np.linspace(0.0, motion.path.t1, BETWEEN)))


def _while_at(motion: Motion, value: float) -> Array:
    """The moments, and the spans in which the driver rests there."""
    t = times_at(motion, value)
    spans = smooth_spans(motion)
    rests = spans[np.isin(spans, t).all(axis=1)]
    return np.concatenate((np.stack((t, t), axis=1), rests))


def _within(motion: Motion, span: Span) -> Array:
    start = -math.inf if span.start is None else span.start
    stop = math.inf if span.stop is None else span.stop
    if not span.driver:
        low, high = max(start, 0.0), min(stop, motion.path.t1)
        return np.array([[low, high]]) if low <= high else np.empty((0, 2))
    driver = next(k for k, one in enumerate(motion.drive.drivers) if one.id == span.driver)
    bounds = [times_at(motion, end, driver) for end in (start, stop) if math.isfinite(end)]
    t = np.unique(np.concatenate([np.array([0.0, motion.path.t1]), *bounds]))
    middles = motion.driver_values((t[:-1] + t[1:]) / 2, driver)
    within = (middles >= start) & (middles <= stop)
    if not within.any():  # it may touch the span at one moment
        values = motion.driver_values(t, driver)
        slack = CLOSE * max(float(np.ptp(values)), 1.0)
        touched = t[(values >= start - slack) & (values <= stop + slack)]
        return np.stack((touched, touched), axis=1)
    turns = np.flatnonzero(np.diff(np.concatenate(([0], within.astype(np.int8), [0]))))
    return np.stack((t[turns[::2]], t[turns[1::2]]), axis=1)
